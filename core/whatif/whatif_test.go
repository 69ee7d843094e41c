package whatif_test

import (
	"context"
	"encoding/json"
	"fmt"
	"math"
	"testing"
	"time"

	"vividporch/core/attendance"
	"vividporch/core/house"
	"vividporch/core/house/housetest"
	"vividporch/core/people"
	"vividporch/core/rehearsal"
	"vividporch/core/whatif"
)

var opens = time.Date(2031, 5, 14, 19, 0, 0, 0, time.UTC)

// shape is a channel with most of its people on one platform, that swells towards its end.
func shape() whatif.Shape {
	s := whatif.Plain("quayside")
	s.Platforms = map[string]float64{"quayside": 0.7, "fernlight": 0.3}
	s.Asked = []whatif.Asked{{Text: "!tides", PerThousand: 40}}
	for i := range whatif.Parts {
		s.Lines[i] = float64(i+1) / 210
	}
	return s
}

func past() (out []attendance.Past) {
	for n := 1; n <= 30; n++ {
		at := opens.AddDate(0, 0, -90+3*n-3)
		out = append(out, attendance.Past{Number: n, Opened: at, Closed: at.Add(2 * time.Hour)})
	}
	return out
}

func lived(t *testing.T, ev *rehearsal.Evening) *rehearsal.Lived {
	t.Helper()
	s := housetest.Base()
	plan, faults := house.Ready(s, 1)
	if len(faults) > 0 {
		t.Fatal(faults)
	}
	l, err := rehearsal.Live(context.Background(), plan, ev, nil)
	if err != nil {
		t.Fatal(err)
	}
	return l
}

func TestTheSameSeedMakesTheSameEveningAndAnotherAnother(t *testing.T) {
	d := shape().Usual()
	asText := func(seed uint64) string {
		d.Seed = seed
		raw, err := json.Marshal(whatif.Evening(shape(), d, opens, past()))
		if err != nil {
			t.Fatal(err)
		}
		return string(raw)
	}
	for seed := range uint64(20) {
		if asText(seed) != asText(seed) {
			t.Errorf("seed %d makes two evenings", seed)
		}
		if asText(seed) == asText(seed+1) {
			t.Errorf("seeds %d and %d make one evening", seed, seed+1)
		}
	}
}

func TestAnEveningIsWhatItsDialsSay(t *testing.T) {
	for seed := range uint64(5) {
		d := whatif.Dials{Seed: seed, Minutes: 180, PeopleMinute: 2, New: 0.25, LinesMinute: 40, RaidOf: 200, RaidAt: 60, SupportHour: 12}
		l := lived(t, whatif.Evening(shape(), d, opens, past()))
		e := l.Evening
		near := func(what string, got, want float64) {
			t.Helper()
			if math.Abs(got-want) > 0.2*want {
				t.Errorf("seed %d: %s: %.0f, wanted about %.0f", seed, what, got, want)
			}
		}
		near("lines", float64(e.People), 180*40+200*0.32)
		near("arrivals", float64(len(e.Arrivals)), 180*2+200*0.32)
		fresh := 0
		for _, a := range e.Arrivals {
			if a.Standing == people.Newcomer {
				fresh++
			}
		}
		near("new", float64(fresh), 180*2*0.25+200*0.32*0.85)
		if len(e.Raids) != 1 || e.Raids[0].Viewers != 200 || e.Raids[0].At.Sub(e.Opened).Minutes() < 60 || e.Raids[0].At.Sub(e.Opened).Minutes() > 61 {
			t.Errorf("seed %d: raids %+v", seed, e.Raids)
		}
		early, late := 0, 0
		for m, x := range e.Minutes {
			if m < 60 {
				early += x.People
			} else if m >= 120 {
				late += x.People
			}
		}
		if late < 2*early {
			t.Errorf("seed %d: %d lines in the first hour and %d in the last of a channel that swells", seed, early, late)
		}
	}
}

func TestAStreamThatDropsGoesOnAsTheSameOne(t *testing.T) {
	d := shape().Usual()
	d.DropAt, d.DropMinutes = 30, 3
	if l := lived(t, whatif.Evening(shape(), d, opens, past())); l.Streams != 1 {
		t.Errorf("a short drop makes %d streams", l.Streams)
	}
	d.DropMinutes = 30
	if l := lived(t, whatif.Evening(shape(), d, opens, past())); l.Streams != 2 {
		t.Errorf("a drop longer than the grace time makes %d streams", l.Streams)
	}
}

func TestEverybodyOfAnImaginedEveningIsMadeUpAndIsOne(t *testing.T) {
	d := shape().Usual()
	d.RaidOf = 900
	seen := map[string]string{}
	for _, ev := range whatif.Evening(shape(), d, opens, past()).Script {
		if who := ev.Who(); who != nil {
			if was := seen[who.Login]; was != "" && was != who.Key() {
				t.Fatalf("%s is %s and %s", who.Login, was, who.Key())
			}
			seen[who.Login] = who.Key()
		}
	}
	if len(seen) < 100 {
		t.Errorf("%d people", len(seen))
	}
}

func TestADialOutOfItsBoundsIsNamed(t *testing.T) {
	for _, c := range []struct {
		d    whatif.Dials
		want string
	}{
		{whatif.Dials{Minutes: 0}, "minutes: is out of range; use 1 to 720"},
		{whatif.Dials{Minutes: 60, New: 2}, "newShare: is out of range; use 0 to 1"},
		{whatif.Dials{Minutes: 60, LinesMinute: math.NaN()}, "linesMinute: is out of range; use 0 to 400"},
		{whatif.Dials{Minutes: 60, RaidOf: -1}, "raidOf: is out of range; use 0 to 20000"},
		{whatif.Dials{Minutes: 60}, "<nil>"},
	} {
		if got := fmt.Sprint(c.d.Check()); got != c.want {
			t.Errorf("%s, wanted %s", got, c.want)
		}
	}
}

func Example() {
	d := whatif.Plain("quayside").Usual()
	d.RaidOf, d.RaidAt = 200, 30
	ev := whatif.Evening(whatif.Plain("quayside"), d, opens, nil)
	fmt.Println(ev.Script[0].Type, ev.Script[0].Time.Format("15:04"))
	fmt.Println(len(ev.Script) == len(whatif.Evening(whatif.Plain("quayside"), d, opens, nil).Script))
	// Output:
	// porch.stream.opened 19:00
	// true
}
