package forecast_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/forecast"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/house"
	"vividporch/core/house/housetest"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/core/room"
	"vividporch/core/timer"
)

var dusk = time.Date(2031, 5, 14, 19, 0, 0, 0, time.UTC)

func says(id string, minutes float64, lines int) courtesy.Courtesy {
	return courtesy.Courtesy{ID: id, On: true, When: happening.Timer, Timer: &courtesy.Timer{Minutes: minutes, Lines: lines}, Do: []output.Output{{ID: "chat", Do: &output.Say{}, Alternatives: []string{"Remember " + id}}}}
}

// plan is a house of these timers, on Quayside alone.
func plan(t testing.TB, share float64, list ...courtesy.Courtesy) *room.Plan {
	t.Helper()
	p, faults := house.Ready(settings(t, share, list...), 1)
	if len(faults) > 0 {
		t.Fatal(faults)
	}
	return p
}

func settings(t testing.TB, share float64, list ...courtesy.Courtesy) *housefile.Settings {
	s := housetest.Demo(t)
	s.Courtesy, s.Pace.SharePercent, s.Pace.TimersApart = list, share, 5
	return s
}

// live is a house in which a stream has been on since dusk.
func live(t testing.TB, p *room.Plan) *house.State {
	t.Helper()
	s := house.NewState()
	opened := &happening.StreamOpened{StreamInfo: happening.StreamInfo{Platform: "quayside"}}
	ev := event.Event{Seq: 1, Door: "quayside", Source: "s", ID: "o", Type: opened.Type(), Time: dusk, Logged: dusk, Data: opened}
	house.Step(s, &ev, nil, p)
	return s
}

func at(h forecast.Hour, id string, how ...forecast.How) (out []int) {
	for _, m := range h.Marks {
		for _, x := range how {
			if m.Courtesy == id && m.How == x {
				out = append(out, int(m.At.Sub(dusk)/time.Minute))
			}
		}
	}
	return out
}

func TestTheHourAheadSaysWhatIsSaidWhenAndWhatIsNot(t *testing.T) {
	p := plan(t, 100, says("tides", 20, 15), says("shore", 15, 200), says("boots", 30, 0))
	h, err := forecast.Of(live(t, p), p, dusk, 2)
	if err != nil {
		t.Fatal(err)
	}
	if got := h.Says(); got != "At 2 lines a minute one of three timers would not be said." {
		t.Error(got)
	}
	if fmt.Sprint(at(h, "tides", forecast.Said, forecast.Late)) == "[]" || len(at(h, "boots", forecast.Said, forecast.Late)) < 2 {
		t.Errorf("%+v", h.Marks)
	}
	for _, m := range h.Marks {
		if m.Courtesy == "shore" && (m.How != forecast.Held || !strings.Contains(m.Why, "of 200 lines")) {
			t.Errorf("%+v", m)
		}
	}
	if quick, _ := forecast.Of(live(t, p), p, dusk, 20); quick.Says() != "At 20 lines a minute all three timers are said." {
		t.Error(quick.Says())
	} else if got := quick.Beside("tonight’s"); got != "At tonight’s 20 all three would." {
		t.Error(got)
	}
	if got := h.Beside("tonight’s"); got != "At tonight’s 2 two of three would." {
		t.Error(got)
	}
	seldom := plan(t, 100, says("boots", 30, 0), says("moths", 120, 0))
	later := live(t, seldom)
	for at, due := later.Wake(seldom); due && at.Before(dusk.Add(20*time.Minute)); at, due = later.Wake(seldom) {
		house.Advance(later, at, seldom) // both were said once
	}
	if h, err := forecast.Of(later, seldom, dusk.Add(20*time.Minute), 2); err != nil || h.Says() != "At 2 lines a minute the one timer that is due is said." {
		t.Errorf("%v %q %+v", err, h.Says(), h.Marks)
	}
}

func TestTheMinutesBeforeAreToldAsTheyWere(t *testing.T) {
	p := plan(t, 100, says("boots", 30, 0), says("moths", 8, 0))
	s := live(t, p)
	for i, m := range []int{3, 3, 19, 24} { // minutes after dusk
		said := &happening.ChatSaid{Text: "look"}
		said.Person = event.Person{Platform: "quayside", ID: "7", Login: "limpet_lena"}
		at := dusk.Add(time.Duration(m) * time.Minute)
		for w, due := s.Wake(p); due && w.Before(at); w, due = s.Wake(p) {
			house.Advance(s, w, p)
		}
		ev := event.Event{Seq: s.Seq + 1, Door: "quayside", Source: "s", ID: fmt.Sprint(i), Type: said.Type(), Time: at, Logged: at, Data: said}
		house.Step(s, &ev, nil, p)
	}
	h, err := forecast.Of(s, p, dusk.Add(25*time.Minute), 2)
	if err != nil || fmt.Sprint(h.Past) != "[0 0 0 0 1 0 0 0 0 1]" {
		t.Errorf("%v %v", err, h.Past)
	}
	if len(h.Was) != 1 || h.Was[0].Courtesy != "moths" || !h.Was[0].At.After(dusk.Add(15*time.Minute)) {
		t.Errorf("what was said longer ago is none of it: %+v", h.Was)
	}
	early, err := forecast.Of(live(t, p), p, dusk.Add(2*time.Minute), 2)
	if err != nil || len(early.Past) != 10 {
		t.Errorf("%v %v: the stream has only just begun", err, early.Past)
	}
	if before, _ := forecast.Of(house.NewState(), p, dusk, 2); before.Past != nil || before.Was != nil {
		t.Errorf("no stream is on: %+v", before)
	}
}

func TestNothingIsDueWhereATimerIsNotForOrNoStreamIsOn(t *testing.T) {
	quay := says("tides", 10, 0)
	quay.Who.Platform = "quayside"
	p := plan(t, 100, quay, says("boots", 15, 0))
	h, err := forecast.Of(live(t, p), p, dusk, 4) // on Quayside alone
	if err != nil || h.Says() != "At 4 lines a minute both timers are said." {
		t.Errorf("%v %q", err, h.Says())
	}
	both, err := forecast.Of(house.NewState(), p, dusk, 4) // as if one opened everywhere
	if err != nil || !both.Opens {
		t.Fatalf("%v %+v", err, both)
	}
	for _, m := range append(h.Marks, both.Marks...) {
		if m.How == forecast.Held || m.Courtesy == "tides" && m.Platform != "quayside" {
			t.Errorf("%+v", m)
		}
	}
	if !slices.ContainsFunc(both.Marks, func(m forecast.Mark) bool { return m.Courtesy == "boots" && m.Platform == "fernlight" }) {
		t.Error("the other comes everywhere")
	}
}

func TestWhatIsHeldForTheHousesShareSaysSo(t *testing.T) {
	p := plan(t, 5, says("tides", 5, 0), says("shore", 5, 0), says("boots", 5, 0))
	h, err := forecast.Of(live(t, p), p, dusk, 0.5)
	if err != nil {
		t.Fatal(err)
	}
	shares := 0
	for _, m := range h.Marks {
		if strings.Contains(m.Why, "from 5% on timers are held") {
			shares++
		}
	}
	if shares == 0 || h.Ceiling != 5 || len(h.Shares) == 0 {
		t.Errorf("%+v", h)
	}
}

func TestWithNoStreamOnItIsAsIfOneOpenedNowAndNothingIsChanged(t *testing.T) {
	p := plan(t, 100, says("boots", 20, 0))
	s := house.NewState()
	h, err := forecast.Of(s, p, dusk, 4)
	if err != nil || !h.Opens || len(h.Marks) == 0 || s.Seq != 0 || s.Stream.Live() {
		t.Errorf("%v %+v, state %d", err, h, s.Seq)
	}
}

// The forecast of an evening equals that evening when chat goes as foretold.
func TestTheForecastOfAnHourIsThatHourWhenChatGoesAsForetold(t *testing.T) {
	for speed := 1; speed < 12; speed += 2 {
		p := plan(t, 30, says("tides", 12, 10), says("shore", 15, 0), says("boots", 25, 40), says("print", 7, 5))
		h, err := forecast.Of(live(t, p), p, dusk, float64(speed))
		if err != nil {
			t.Fatal(err)
		}
		var foretold, came []string
		for _, m := range h.Marks {
			if m.How != forecast.Held {
				foretold = append(foretold, fmt.Sprint(m.Courtesy, m.At.Sub(dusk).Round(time.Second)))
			}
		}
		s := live(t, p)
		keep := func(when time.Time, ds []hall.Decision) {
			for _, m := range timer.Moves(ds) {
				if m.Done {
					came = append(came, fmt.Sprint(m.Courtesy, when.Sub(dusk).Round(time.Second)))
				}
			}
		}
		until := func(t time.Time) {
			for {
				at, due := s.Wake(p)
				if !due || at.After(t) {
					return
				}
				_, ds, ok := house.Advance(s, at, p)
				if !ok {
					return
				}
				keep(at, ds)
			}
		}
		every := time.Duration(float64(time.Minute) / float64(speed))
		n := 0
		for when := dusk.Add(every); when.Before(dusk.Add(time.Hour)); when = when.Add(every) {
			until(when)
			n++
			said := &happening.ChatSaid{Text: fmt.Sprint("look at it go ", n)}
			said.Person = event.Person{Platform: "quayside", ID: fmt.Sprint("v", n%7), Login: fmt.Sprint("v", n%7)}
			ev := event.Event{Seq: s.Seq + 1, Door: "quayside", Source: "s", ID: fmt.Sprint("c", n), Type: said.Type(), Time: when, Logged: when, Data: said}
			keep(when, house.Step(s, &ev, nil, p))
		}
		until(dusk.Add(time.Hour))
		if fmt.Sprint(foretold) != fmt.Sprint(came) || len(came) == 0 {
			t.Errorf("at %d lines a minute: foretold %v, came %v", speed, foretold, came)
		}
	}
}

func BenchmarkFourHoursOfTwoHundredTimers(b *testing.B) {
	var list []courtesy.Courtesy
	for i := range 200 {
		list = append(list, says(fmt.Sprint("t", i), float64(5+i%40), i%20))
	}
	p := plan(b, 30, list...)
	s := live(b, p)
	for b.Loop() {
		for h := range 4 {
			if _, err := forecast.Of(s, p, dusk.Add(time.Duration(h)*time.Hour), 4); err != nil {
				b.Fatal(err)
			}
		}
	}
}
