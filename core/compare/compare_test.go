package compare_test

import (
	"bytes"
	"context"
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"
	"time"

	"vividporch/core/compare"
	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/house"
	"vividporch/core/house/housetest"
	"vividporch/core/housefile"
	"vividporch/core/rehearsal"
	"vividporch/demo"
)

// written is the written evening of the sample world.
func written(t testing.TB) *rehearsal.Evening {
	t.Helper()
	book, err := rehearsal.ReadBook(bytes.NewReader(demo.People))
	if err != nil {
		t.Fatal(err)
	}
	script, err := rehearsal.ReadScript(bytes.NewReader(demo.Evening))
	if err != nil {
		t.Fatal(err)
	}
	return &rehearsal.Evening{Book: book, Script: script, Same: true}
}

func settings(t testing.TB) *housefile.Settings {
	t.Helper()
	s, err := housefile.ReadSettings(demo.House)
	if err != nil {
		t.Fatal(err)
	}
	return s
}

// side lives an evening under some settings.
func side(t testing.TB, s *housefile.Settings, ev *rehearsal.Evening) compare.Side {
	t.Helper()
	plan, faults := house.Ready(s, 1)
	if len(faults) > 0 {
		t.Fatal(faults)
	}
	lived, err := rehearsal.Live(context.Background(), plan, ev, nil)
	if err != nil {
		t.Fatal(err)
	}
	if len(lived.Effects) < 20 {
		t.Fatalf("only %d effects", len(lived.Effects))
	}
	return compare.Side{Effects: lived.Effects, Settings: s}
}

// changed compares the written evening under the sample house and under a changed one.
func changed(t *testing.T, change func(s *housefile.Settings)) []compare.Difference {
	t.Helper()
	ev, s := written(t), settings(t)
	change(s)
	return compare.Two(side(t, settings(t), ev), side(t, s, ev), time.UTC)
}

func one(t *testing.T, s *housefile.Settings, id string) *courtesy.Courtesy {
	t.Helper()
	i := slices.IndexFunc(s.Courtesy, func(c courtesy.Courtesy) bool { return c.ID == id })
	if i < 0 {
		t.Fatalf("there is no %s", id)
	}
	return &s.Courtesy[i]
}

func TestTheSameSettingsMakeNoDifference(t *testing.T) {
	if got := changed(t, func(*housefile.Settings) {}); len(got) > 0 {
		t.Errorf("%d differences, the first: %+v", len(got), got[0])
	}
}

func TestAnotherWordingIsOtherWordsOfThatCourtesyAlone(t *testing.T) {
	got := changed(t, func(s *housefile.Settings) {
		c := one(t, s, "greet-newcomer")
		c.Do[0].Alternatives = []string{"A new lantern on the hook: hello {name}."}
	})
	if len(got) == 0 {
		t.Fatal("nothing differs")
	}
	for _, d := range got {
		if d.Kind != compare.Words || d.Above.Courtesy != "greet-newcomer" || d.Why != "its wording is another" {
			t.Errorf("%s of %s: %s", d.Says(), d.Above.Courtesy, d.Why)
		}
	}
}

func TestWhatIsSwitchedOffIsOnOneSideOnlyAndItSaysWhy(t *testing.T) {
	got := changed(t, func(s *housefile.Settings) { one(t, s, "raid-boatload").On = false })
	off := 0
	for _, d := range got {
		if d.Above != nil && d.Above.Courtesy == "raid-boatload" {
			off++
			if d.Kind != compare.OnlyAbove || d.Why != "is switched off in the one below" {
				t.Errorf("%s: %s", d.Says(), d.Why)
			}
		}
	}
	if off == 0 {
		t.Errorf("no line of it among %d differences", len(got))
	}
}

func TestALongerPauseMovesLinesAndNamesThePause(t *testing.T) {
	got := changed(t, func(s *housefile.Settings) { s.Pace.GapSeconds += 4; s.Pace.WaitSeconds = 600; s.Pace.JoinAt = 0 })
	later := 0
	for _, d := range got {
		if d.Kind == compare.Later {
			later++
		}
	}
	if later == 0 {
		t.Fatalf("nothing comes later: %v", compare.Counted(got))
	}
}

func TestAWelcomeForManyTellsWhoIsInIt(t *testing.T) {
	apart := changed(t, func(s *housefile.Settings) { s.Pace.JoinAt = 0 })
	found := false
	for _, d := range apart {
		if d.Kind == compare.OnlyBelow && d.Why != "" && len(d.Below.Joined) == 0 && d.Below.Courtesy == "greet-newcomer" {
			found = true
			if !slices.Contains([]string{"is in the line for"}, d.Why[:min(len(d.Why), 18)]) {
				t.Errorf("%q: %s", d.Below.Text, d.Why)
			}
			break
		}
	}
	if !found {
		t.Errorf("nobody is greeted alone only below: %v", compare.Counted(apart))
	}
}

// Over random houses and evenings: the same settings make no difference, every difference
// has a reason, and seen from the other side the same things differ the other way round.
func TestDifferencesOfRandomEveningsAreMirroredAndHaveAReason(t *testing.T) {
	evenings, differ := 0, 0
	for seed := range uint64(60) {
		r := rand.New(rand.NewPCG(seed, 77))
		a := housetest.Legal(housetest.Random(r))
		b := housetest.Legal(housetest.Random(rand.New(rand.NewPCG(seed, 78))))
		b.Seed, b.Zone = a.Seed, a.Zone
		if seed%2 == 0 && len(a.Courtesy) > 0 { // one change alone
			b = housetest.Legal(housetest.Random(rand.New(rand.NewPCG(seed, 77))))
			b.Courtesy[r.IntN(len(b.Courtesy))].On = false
		}
		ev := &rehearsal.Evening{Book: rehearsal.NewBook(), Same: true}
		at := time.Date(2031, 5, 14, 19, 0, 0, 0, time.UTC)
		for i := range 80 {
			at = at.Add(time.Duration(r.IntN(20000)) * time.Millisecond)
			d := housetest.Happening(r)
			if i == 0 {
				opened := &happening.StreamOpened{}
				opened.Platform, opened.Title = "quayside", "What the tide left"
				d = opened
			}
			if d.Validate() != nil {
				continue
			}
			ev.Script = append(ev.Script, event.Event{Door: "quayside", Source: "evening", ID: fmt.Sprint("e", i), Type: d.Type(), Data: d, Time: at})
		}
		lives := func(s *housefile.Settings) compare.Side {
			plan, faults := house.Ready(s, 1)
			if len(faults) > 0 {
				t.Fatal(faults)
			}
			lived, err := rehearsal.Live(context.Background(), plan, ev, nil)
			if err != nil {
				t.Fatalf("evening %d: %v", seed, err)
			}
			return compare.Side{Effects: lived.Effects, Settings: s}
		}
		x, again, y := lives(a), lives(a), lives(b)
		evenings++
		if got := compare.Two(x, again, time.UTC); len(got) > 0 {
			t.Errorf("evening %d: the same settings differ: %+v", seed, got[0])
		}
		there, back := compare.Two(x, y, time.UTC), compare.Two(y, x, time.UTC)
		differ += len(there)
		n, m := compare.Counted(there), compare.Counted(back)
		if n[compare.OnlyAbove] != m[compare.OnlyBelow] || n[compare.OnlyBelow] != m[compare.OnlyAbove] {
			t.Errorf("evening %d: %v one way, %v the other", seed, n, m)
		}
		for _, d := range there {
			if d.Why == "" {
				t.Errorf("evening %d: no reason for %s: %+v %+v", seed, d.Says(), d.Above, d.Below)
			}
		}
		for i := 1; i < len(there); i++ {
			if there[i].At().Before(there[i-1].At()) {
				t.Errorf("evening %d: out of order", seed)
			}
		}
	}
	if differ < evenings {
		t.Errorf("%d differences in %d evenings", differ, evenings)
	}
}

func TestALivingThatIsCalledOffEnds(t *testing.T) {
	ctx, cancel := context.WithCancel(context.Background())
	plan, _ := house.Ready(settings(t), 1)
	steps := 0
	_, err := rehearsal.Live(ctx, plan, written(t), func(int) { steps++; cancel() })
	if err != context.Canceled || steps != 1 {
		t.Errorf("%v after %d steps", err, steps)
	}
}
