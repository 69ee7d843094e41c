package house_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/core/who"
)

// timing is a timer of so many minutes and lines.
func timing(id string, minutes float64, lines int, more ...func(*courtesy.Courtesy)) courtesy.Courtesy {
	c := courtesy.Courtesy{ID: id, On: true, When: happening.Timer, Timer: &courtesy.Timer{Minutes: minutes, Lines: lines}, Do: []output.Output{{ID: "chat", Do: &output.Say{}, Alternatives: []string{"Remember " + id}}}}
	for _, f := range more {
		f(&c)
	}
	return c
}

// ticking is a house that does nothing but its timers.
func ticking(list ...courtesy.Courtesy) func(*housefile.Settings) {
	return func(s *housefile.Settings) {
		stage(s)
		s.Courtesy = list
		s.Pace.TimersApart, s.Pace.SharePercent = 5, 100
	}
}

// chats has people say a line every so often, for so long.
func (e *evening) chats(every, long time.Duration) *evening {
	for n, end := 0, e.now.Add(long); e.now.Before(end); n++ {
		e.happens(line([]string{"mossy_mare", "tidewrack", "kelpwright"}[n%3], fmt.Sprint("look at it go ", n)))
		e.after(every)
	}
	return e
}

// times are when lines of a courtesy left on a platform, in minutes since dusk.
func (e *evening) times(id, platform string) (out []int) {
	for _, l := range e.log {
		for _, d := range l.ds {
			if d.Kind == hall.Say && d.Courtesy == id && d.Platform == platform {
				out = append(out, int(l.ev.Logged.Sub(dusk)/time.Minute))
			}
		}
	}
	return out
}

func TestATimerComesEverySoManyMinutesIfPeopleSpeak(t *testing.T) {
	e := begin(t, ticking(timing("water", 20, 15)))
	e.happens(on("quayside"))
	e.chats(time.Minute, 90*time.Minute)
	if got := fmt.Sprint(e.times("water", "quayside")); got != "[14 34 54 74]" { // fifteen lines first, spread or not
		t.Error(got)
	}
	// Ten lines are not fifteen, however long it takes; with the fifteenth it comes at once.
	e.after(2 * time.Hour)
	if got := len(e.times("water", "quayside")); got != 5 && got != 4 {
		t.Errorf("said %d times to nobody", got)
	}
}

// Found in the demo: the stream that was declared new had none of its timers, for it closes one with the same event.
func TestAStreamThatIsDeclaredNewHasItsTimers(t *testing.T) {
	e := begin(t, ticking(timing("water", 20, 5)))
	e.happens(on("quayside"))
	e.chats(time.Minute, 30*time.Minute)
	before := len(e.times("water", "quayside"))
	e.happens(&event.StreamDeclared{Act: "new"})
	e.chats(time.Minute, 30*time.Minute)
	if got := e.times("water", "quayside"); before == 0 || len(got) <= before {
		t.Errorf("%d before, then %v", before, got)
	}
}

func TestWhatNeighboursAndTheHouseSayCountsForNothing(t *testing.T) {
	e := begin(t, ticking(timing("water", 10, 5)), func(s *housefile.Settings) { s.Neighbours = []string{"grebe_bot"} })
	e.happens(on("quayside"))
	for range 30 {
		e.happens(line("grebe_bot", "buy my grebes"))
		e.after(time.Minute)
	}
	e.wantSaid(0, "water")
}

func TestTimersShareTheTime(t *testing.T) {
	e := begin(t, ticking(timing("a", 10, 0), timing("b", 10, 0), timing("c", 30, 0)))
	e.happens(on("quayside"))
	e.after(time.Hour)
	var all []int
	for _, id := range []string{"a", "b", "c"} {
		all = append(all, e.times(id, "quayside")...)
	}
	slices.Sort(all)
	for i := 1; i < len(all); i++ {
		if all[i]-all[i-1] < 5 {
			t.Errorf("two timers within five minutes: %v", all)
		}
	}
	if len(e.times("c", "quayside")) == 0 || len(e.times("b", "quayside")) < 3 {
		t.Errorf("a %v, b %v, c %v: one starves", e.times("a", "quayside"), e.times("b", "quayside"), e.times("c", "quayside"))
	}
}

func TestTwentyTimersDueInTheSameSecondComeOneByOne(t *testing.T) {
	var list []courtesy.Courtesy
	for i := range 20 {
		list = append(list, timing(fmt.Sprint("t", i), 5, 0))
	}
	e := begin(t, ticking(list...))
	e.happens(on("quayside"))
	e.after(4 * time.Hour)
	said := map[string]int{}
	for _, d := range e.said() {
		said[d.Courtesy]++
	}
	if len(e.said()) > 48 || len(said) != 20 {
		t.Errorf("%d lines of %d timers in four hours", len(e.said()), len(said))
	}
	for id, n := range said {
		if n < 2 || n > 3 {
			t.Errorf("%s was said %d times", id, n)
		}
	}
}

func TestTheHousesShareHoldsTimersAlone(t *testing.T) {
	e := begin(t, ticking(timing("water", 5, 0)), func(s *housefile.Settings) {
		s.Pace.SharePercent = 20
		s.Courtesy = append(s.Courtesy, answering("tides", []string{"tides"}, nil, "High at nine"))
	})
	e.happens(on("quayside"))
	for i := range 20 { // a third of chat is the house's
		e.happens(line("mossy_mare", fmt.Sprint("line ", i)))
		e.happens(line("mossy_mare", "!tides"))
		e.after(30 * time.Second)
	}
	e.wantSaid(20, "tides")
	e.wantSaid(0, "water")
	e.wantReason("from 20% on timers are held")
	e.chats(10*time.Second, 10*time.Minute) // people speak again
	if len(e.times("water", "quayside")) == 0 {
		t.Error("is held for ever")
	}
}

func TestATimerIsForItsPlatformItsHoursAndALiveStream(t *testing.T) {
	e := begin(t, ticking(timing("fern", 10, 0, func(c *courtesy.Courtesy) { c.Who.Platform = "fernlight" }), timing("late", 10, 0, func(c *courtesy.Courtesy) { c.Who.Days = []string{"Friday"} }),
		timing("off", 10, 0, func(c *courtesy.Courtesy) { c.Timer.OffMinutes = 30 })))
	e.happens(on("quayside"))
	e.happens(on("fernlight"))
	e.after(time.Hour)
	if len(e.times("fern", "quayside")) != 0 || len(e.times("fern", "fernlight")) < 3 || len(e.times("late", "quayside")) != 0 {
		t.Errorf("fern %v and %v, late %v", e.times("fern", "quayside"), e.times("fern", "fernlight"), e.times("late", "quayside"))
	}
	e.wantReason("held: is for Friday; this is a Wednesday")
	e.happens(off("fernlight"))
	live := len(e.times("fern", "fernlight"))
	e.after(time.Hour)
	if got := len(e.times("fern", "fernlight")); got > live+2 {
		t.Errorf("said %d times on a platform that is not live", got-live)
	}
	e.happens(off("quayside"))
	e.after(20 * time.Minute) // the grace time, and the stream is over
	before, fern := len(e.times("off", "quayside")), len(e.times("fern", "fernlight"))
	e.after(2 * time.Hour)
	if got := len(e.times("off", "quayside")) - before; got < 3 || got > 4 {
		t.Errorf("off-line it came %d times in two hours", got)
	}
	if len(e.times("fern", "fernlight")) != fern {
		t.Error("one for live streams came off-line")
	}
}

func TestAPlatformThatClosesInMidWaitHearsNothingAndGoesOnWhenItIsBack(t *testing.T) {
	e := begin(t, ticking(timing("water", 20, 0)))
	e.happens(on("quayside"))
	e.happens(on("fernlight"))
	e.after(30 * time.Minute) // said once at either
	e.happens(off("fernlight"))
	before := len(e.times("water", "fernlight"))
	e.after(2 * time.Hour)
	if got := e.times("water", "fernlight"); len(got) > before+1 { // within its grace it may be back
		t.Errorf("said where the stream is over: %v", got)
	}
	e.wantReason("held: the stream is not on there")
	if got := e.times("water", "quayside"); len(got) < 6 {
		t.Errorf("held where the stream goes on: %v", got)
	}
	e.happens(on("fernlight"))
	gone := len(e.times("water", "fernlight"))
	e.after(time.Hour)
	if got := e.times("water", "fernlight"); len(got) < gone+2 || len(got) > gone+4 {
		t.Errorf("back on air: %v, of which %d before", got, gone)
	}
}

func TestATimersHoursGoOverMidnightWhileTheClocksChange(t *testing.T) {
	auckland, err := time.LoadLocation("Pacific/Auckland")
	if err != nil {
		t.Fatal(err)
	}
	// New Zealand's clocks go back on the first Sunday of April and on at the last one of September.
	for saturday, long := range map[time.Time]time.Duration{
		time.Date(2031, 4, 5, 20, 0, 0, 0, auckland):  7 * time.Hour,
		time.Date(2031, 9, 27, 20, 0, 0, 0, auckland): 5 * time.Hour,
		time.Date(2031, 6, 7, 20, 0, 0, 0, auckland):  6 * time.Hour,
	} {
		night := timing("night", 30, 0, func(c *courtesy.Courtesy) { c.Who.Hours = &who.Hours{From: "22:00", To: "04:00"} })
		e := begin(t, ticking(night), func(s *housefile.Settings) { s.Zone = "Pacific/Auckland" })
		e.now = saturday.UTC()
		e.happens(on("quayside"))
		e.after(14 * time.Hour)
		var last time.Time
		times := 0
		for _, l := range e.log {
			for _, d := range l.ds {
				if d.Kind != hall.Say || d.Courtesy != "night" {
					continue
				}
				at := l.ev.Logged.In(auckland)
				if h := at.Hour(); h >= 4 && h < 22 {
					t.Errorf("came at %s", at)
				}
				if !last.IsZero() && at.Sub(last) < 30*time.Minute {
					t.Errorf("came at %s and at %s", last, at)
				}
				last = at
				times++
			}
		}
		if want := int(long / (30 * time.Minute)); times > want || times < want-2 {
			t.Errorf("on %s it came %d times in the %s of its hours", saturday.Format(time.DateOnly), times, long)
		}
	}
}

func TestALullIsAnsweredOnce(t *testing.T) {
	c := timing("cricket", 8, 0)
	c.When = happening.Lull
	e := begin(t, ticking(c))
	e.happens(on("quayside"))
	e.chats(time.Minute, 20*time.Minute)
	e.after(40 * time.Minute)
	if got := len(e.times("cricket", "quayside")); got != 1 {
		t.Fatalf("%v", e.times("cricket", "quayside"))
	}
	e.chats(time.Minute, 5*time.Minute)
	e.after(20 * time.Minute)
	if got := len(e.times("cricket", "quayside")); got != 2 {
		t.Errorf("%v", e.times("cricket", "quayside"))
	}
}

func TestTimersGoOnOverARestartWhereTheyWere(t *testing.T) {
	lived := func(restart bool) string {
		e := begin(t, ticking(timing("a", 15, 3), timing("b", 20, 0)))
		e.happens(on("quayside"))
		for range 12 {
			e.chats(2*time.Minute, 7*time.Minute)
			if restart {
				e.restore(e.snapshot())
			}
		}
		return fmt.Sprint(e.times("a", "quayside"), e.times("b", "quayside"))
	}
	if a, b := lived(false), lived(true); a != b || strings.Count(a, " ") < 6 {
		t.Errorf("without %s, with %s", a, b)
	}
}

func TestWhatNoTimerCanBeIsRefusedWithTheRemedy(t *testing.T) {
	for name, c := range map[string]courtesy.Courtesy{
		"every 0 minutes":     timing("x", 0, 0),
		"a million lines":     timing("x", 10, 1_000_000),
		"somebody":            timing("x", 10, 0, func(c *courtesy.Courtesy) { c.Who.Trusted = true }),
		"no minutes at all":   timing("x", 10, 0, func(c *courtesy.Courtesy) { c.Timer = nil }),
		"of another when":     timing("x", 10, 0, func(c *courtesy.Courtesy) { c.When = happening.Hand }),
		"a lull after lines":  timing("x", 10, 3, func(c *courtesy.Courtesy) { c.When = happening.Lull }),
		"a day while offline": timing("x", 10, 0, func(c *courtesy.Courtesy) { c.Timer.OffMinutes = 5000 }),
	} {
		if faults := faultsOf(t, ticking(c)); len(faults) != 1 || faults[0].Remedy == "" {
			t.Errorf("%s: %v", name, faults)
		}
	}
}

// Over random timers and chats: no two within their distance on one platform, none before its minutes or its
// lines, and none starves where there is room.
func TestRandomTimersKeepTheirMannersAndNoneStarves(t *testing.T) {
	for seed := range uint64(40) {
		r := rand.New(rand.NewPCG(16, seed))
		var list []courtesy.Courtesy
		n := 1 + r.IntN(5)
		for i := range n {
			list = append(list, timing(fmt.Sprint("t", i), float64(5*n+r.IntN(30)), r.IntN(10)))
		}
		e := begin(t, ticking(list...))
		e.happens(on("quayside"))
		e.chats(time.Duration(20+r.IntN(60))*time.Second, 4*time.Hour)
		var all []int
		for i, c := range list {
			at := e.times(c.ID, "quayside")
			all = append(all, at...)
			for k := 1; k < len(at); k++ {
				if float64(at[k]-at[k-1]) < c.Timer.Minutes-1 {
					t.Fatalf("seed %d: timer %d of %g minutes came at %v", seed, i, c.Timer.Minutes, at)
				}
			}
			if len(at) < 2 {
				t.Errorf("seed %d: timer %d of %g minutes after %d lines came at %v", seed, i, c.Timer.Minutes, c.Timer.Lines, at)
			}
		}
		slices.Sort(all)
		for k := 1; k < len(all); k++ {
			if all[k]-all[k-1] < 4 {
				t.Fatalf("seed %d: %v", seed, all)
			}
		}
	}
}
