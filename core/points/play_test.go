package points_test

import (
	"fmt"
	"math"
	"strings"
	"testing"
	"time"

	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/house"
	"vividporch/core/house/housetest"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/core/points"
)

func ready(f *housefile.Settings) (any, []string) {
	_, faults := house.Ready(f, 1)
	var out []string
	for _, x := range faults {
		out = append(out, x.Error())
	}
	return nil, out
}

// Over many stones what is won is what was staked, less the house's edge; the odds are those that are told.
func TestStonesAreWorthWhatTheyCostLessTheEdge(t *testing.T) {
	for _, edge := range []float64{0, 10} {
		t.Run(fmt.Sprint("edge ", edge), func(t *testing.T) {
			e := begin(t, points.Section{Evening: 1000}, housetest.Asked("stone", output.Output{Do: &output.Stone{Edge: edge, Stakes: output.Stakes{Usual: 7}}}))
			e.grants("limpet_lena", 1_000_000)
			found, staked, won, odds := map[string]int{}, 0.0, 0.0, map[string]float64{}
			for i := range 900 {
				e.Chat(fmt.Sprintf("limpet_lena: !stone %d", 1+i%9))
			}
			for _, l := range e.Log {
				if s, ok := l.Event.Data.(*happening.StoneTurned); ok {
					found[s.Found]++
					staked, won, odds[s.Found] = staked+float64(s.Stake), won+float64(s.Won), float64(s.One)/float64(s.In)
				}
			}
			if staked == 0 || math.Abs(won/staked-(1-edge/100)) > 0.25 { // 900 stones: about four standard deviations
				t.Errorf("%.0f won of %.0f staked", won, staked)
			}
			chi := 0.0
			for name, p := range odds {
				want := p * 900
				chi += (float64(found[name]) - want) * (float64(found[name]) - want) / want
			}
			if len(odds) != 5 || chi > 23.51 { // the 99.99 % quantile for four degrees of freedom
				t.Errorf("found %v, chi-square %.1f", found, chi)
			}
		})
	}
}

func TestARaceIsBetweenTwoForAStakeAndLapses(t *testing.T) {
	e := begin(t, points.Section{}, housetest.Asked("race", output.Output{Do: &output.Race{Seconds: 30}}), housetest.Says(happening.RaceRunType, "{name} beats {with}: {won}."), housetest.Says(happening.RaceLapsedType, "{with} never came."))
	e.Chat("limpet_lena: evening", "kelpwright: evening", "mossy_mare: evening")
	e.grants("limpet_lena", 50)
	e.grants("kelpwright", 20)
	refused := func(line, why string) {
		t.Helper()
		from := len(e.Log)
		e.Chat(line)
		for _, l := range e.Log[from:] {
			for _, d := range l.Decisions {
				if len(d.Because) > 0 && strings.Contains(d.Because[0], why) {
					return
				}
			}
		}
		t.Errorf("%s: not refused for %q", line, why)
	}
	refused("limpet_lena: !race @limpet_lena 5", "does not race itself")
	refused("limpet_lena: !race @kelpwright -5", "it takes one at least")
	refused("limpet_lena: !race @kelpwright 900000000000", "the most that can be staked")
	refused("kelpwright: !race", "nobody challenged you")
	e.Chat("limpet_lena: !race @kelpwright 20")
	if got := e.has("limpet_lena"); got != 30 {
		t.Errorf("the stake is not set aside: %d", got)
	}
	refused("limpet_lena: !race @mossy_mare 5", "waits at the pool already")
	refused("mossy_mare: !race", "nobody challenged you")
	e.Restarted()
	e.Chat("kelpwright: !race")
	e.After(20 * time.Second)
	if a, b := e.has("limpet_lena"), e.has("kelpwright"); a+b != 70 || a != 70 && b != 40 {
		t.Errorf("%d and %d", a, b)
	}
	e.Heard(": 40 pearls.")
	e.grants("limpet_lena", 50)
	before := e.has("limpet_lena")
	e.Chat("limpet_lena: !race @mossy_mare 10")
	e.After(31 * time.Second)
	e.Heard("mossy_mare never came.")
	if got := e.has("limpet_lena"); got != before {
		t.Errorf("not given back: %d of %d", got, before)
	}
}

func TestTheRoomBringsInTheTideWithoutASharedWord(t *testing.T) {
	e := begin(t, points.Section{}, housetest.Asked("tide", output.Output{Do: &output.Tide{People: 3, Seconds: 30, Prize: 25}}), housetest.Says(happening.TideInType, "High water by {lifted}: {prize} each."), housetest.Says(happening.TideEbbedType, "Ebb: {lifted} of {mark}."))
	e.Chat("limpet_lena: !tide", "limpet_lena: whatever", "limpet_lena: again", "shellbot: beep", "kelpwright: what is that crab doing")
	if e.has("limpet_lena") != 0 {
		t.Error("paid early")
	}
	e.Chat("mossy_mare: hello")
	e.After(3 * time.Second)
	e.Heard("High water by 3: 25 pearls each.")
	for _, login := range []string{"limpet_lena", "kelpwright", "mossy_mare"} {
		if got := e.has(login); got != 25 {
			t.Errorf("%s has %d", login, got)
		}
	}
	e.Chat("limpet_lena: !tide", "kelpwright: hm")
	e.After(31 * time.Second)
	e.Heard("Ebb: 1 of 3.")
}

func TestTheAnemoneAnswersFromItsListAndNobodyPlaysWithoutEnd(t *testing.T) {
	e := begin(t, points.Section{Evening: 5}, housetest.Asked("anemone", output.Output{Do: &output.Anemone{Opens: 100, Answers: []string{"Yes indeed"}}}), housetest.Says(happening.AnemoneAskedType, "{answer}, {name}."))
	for range 8 {
		e.Chat("limpet_lena: !anemone will it move?")
		e.After(2 * time.Second)
	}
	e.After(time.Minute)
	n := 0
	for _, s := range e.Lines {
		if s == "Yes indeed, limpet_lena." {
			n++
		}
	}
	if n != 5 {
		t.Errorf("asked %d times: %q", n, e.Lines)
	}
	e.Heard("that was enough for one evening")
	e.Happens(&event.StreamDeclared{Act: "new"})
	e.Chat("limpet_lena: !anemone and now?")
	e.After(5 * time.Second)
	if e.Lines[len(e.Lines)-1] != "Yes indeed, limpet_lena." {
		t.Errorf("on another evening: %q", e.Lines)
	}
}
