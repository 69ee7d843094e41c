package house_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"testing"
	"time"

	"vividporch/core/courtesy"
	"vividporch/core/draw"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/house"
	"vividporch/core/house/housetest"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/core/overlay"
	"vividporch/core/people"
	"vividporch/core/room"
)

// lived is a random evening as it was lived: the house, and the log of it.
type lived struct {
	t     *testing.T
	r     *rand.Rand
	s     *house.State
	plan  *room.Plan
	now   time.Time
	log   []logged
	mid   []byte // the state in the middle of it
	watch func(before *house.State, ev *event.Event, known *people.Known, ds []hall.Decision, plan *room.Plan)
	at    int // how much of the log came before
}

// live lives one event with all that it raises.
func (l *lived) live(ev event.Event, known *people.Known) {
	ev.Clean()
	ev.Stamp(l.now)
	ev.Seq = l.s.Seq + 1
	if set, ok := ev.Data.(*event.SettingsChanged); ok { // by a line of chat: in force from here on
		s, err := housefile.ReadStored(set.Settings)
		if err != nil {
			l.t.Fatal(err)
		}
		var faults []courtesy.Fault
		if l.plan, faults = house.Ready(s, set.Version); len(faults) > 0 {
			l.t.Fatalf("a line of chat made settings that have faults: %v", faults)
		}
	}
	before := l.copied()
	ds := house.Step(l.s, &ev, known, l.plan)
	if l.watch != nil {
		l.watch(before, &ev, known, ds, l.plan)
	}
	l.keep(ev, ds)
}

// copied is the state as it is, for whoever watches.
func (l *lived) copied() *house.State {
	if l.watch == nil {
		return nil
	}
	raw, err := json.Marshal(l.s)
	if err != nil {
		l.t.Fatal(err)
	}
	s, _, _ := house.RestoreState(raw)
	return s
}

func (l *lived) keep(ev event.Event, ds []hall.Decision) {
	seen := map[string]bool{}
	for i := range ds {
		d := &ds[i]
		if key := d.Courtesy + " " + d.Slot(); seen[key] {
			l.t.Fatalf("event %d (%s) decides %s twice", ev.Seq, ev.Type, key)
		} else if seen[key] = true; len(key) > 1000 {
			l.t.Fatalf("event %d (%s): a slot of %d bytes", ev.Seq, ev.Type, len(key))
		}
	}
	if l.log = append(l.log, logged{ev, ds}); len(l.log) > 5000 {
		l.t.Fatal("the evening does not end")
	}
	for _, raised := range room.Raised(l.plan, &ev, ds) {
		var k *people.Known
		if who := raised.Who(); who != nil {
			k = l.s.KnownHere(who.Key())
		}
		l.live(raised, k)
	}
	for i := range ds {
		switch d := &ds[i]; d.Kind {
		case hall.Ask:
			if l.r.IntN(3) > 0 {
				l.live(own(l.log, &event.LookupAnswered{Ask: d.Line, Account: d.Person, Found: l.r.IntN(2) == 0, Streams: true, Link: "https://quayside.example/" + housetest.Odd(l.r), Category: housetest.Odd(l.r)}), nil)
			}
		case draw.Seal, draw.Unseal:
			if told := draw.Rehearsed(d, "edge", nil); l.r.IntN(5) > 0 {
				l.live(own(l.log, told), nil)
			}
		case overlay.Show:
			l.page(d)
		case hall.Say:
			o := event.SpeechOutcome{Line: d.Line, Platform: d.Platform, Text: d.Text, Reason: housetest.Odd(l.r)}
			if l.r.IntN(5) == 0 {
				l.live(own(l.log, &event.SpeechRefused{SpeechOutcome: o}), nil)
			}
		case hall.Kind(output.KindPlatform), "lamp":
			var told output.Told
			json.Unmarshal(d.Body, &told)
			o := event.ActOutcome{Line: d.Line, To: d.Platform, Effect: string(d.Kind), Was: housetest.Odd(l.r)}
			if deed, ok := told.Do.(*output.Deed); ok {
				o.Act, o.Login = string(deed.Act), deed.Login
			}
			if l.r.IntN(3) == 0 {
				l.live(own(l.log, &event.ActRefused{ActOutcome: o}), nil)
			} else {
				l.live(own(l.log, &event.ActDone{ActOutcome: o}), nil)
			}
		}
	}
}

// page is what a page of an overlay tells of what it shows, now or never.
func (l *lived) page(d *hall.Decision) {
	begun := &event.ShowBegun{Overlay: d.Place, Show: d.Line, Seconds: float64(l.r.IntN(12))}
	switch l.r.IntN(6) {
	case 0: // it hangs
	case 1: // it is gone at once
		l.live(own(l.log, &event.OverlayClosed{Overlay: d.Place}), nil)
	case 2: // or soon after it began
		l.live(own(l.log, begun), nil)
		l.live(own(l.log, &event.OverlayClosed{Overlay: d.Place, Show: d.Line, Seconds: float64(l.r.IntN(20)) / 10}), nil)
		l.live(own(l.log, &event.OverlayOpened{Overlay: d.Place}), nil)
	case 3:
		l.live(own(l.log, begun), nil)
		l.live(own(l.log, &event.ShowEnded{Overlay: d.Place, Show: d.Line}), nil)
	default:
		l.live(own(l.log, begun), nil)
	}
}

func own(log []logged, d event.Data) event.Event {
	return event.Event{Door: "house", Source: "house", ID: fmt.Sprintf("own-%d", len(log)), Type: d.Type(), Data: d}
}

// until lets time pass, waking the house whenever it wants to be.
func (l *lived) until(end time.Time) {
	for n := 0; ; n++ {
		at, due := l.s.Wake(l.plan)
		if !due || at.After(end) {
			break
		}
		if n > 2000 {
			l.t.Fatal("wakes have no end")
		}
		if at.After(l.now) {
			l.now = at
		}
		before := l.copied()
		ev, ds, ok := house.Advance(l.s, l.now, l.plan)
		if !ok {
			l.t.Fatalf("woken at %s for nothing", at)
		}
		if l.watch != nil {
			l.watch(before, &ev, nil, ds, l.plan)
		}
		l.keep(ev, ds)
	}
	l.now = end
}

// anEvening lives so many events of a random evening in a random house.
func anEvening(t *testing.T, seed uint64, events int) *lived { return watched(t, seed, events, nil) }

// watched is the same, looked at event by event.
func watched(t *testing.T, seed uint64, events int, watch func(*house.State, *event.Event, *people.Known, []hall.Decision, *room.Plan)) *lived {
	return watchedIn(t, housetest.Random, seed, events, watch)
}

// watchedIn is the same in a house of a kind.
func watchedIn(t *testing.T, settings func(*rand.Rand) *housefile.Settings, seed uint64, events int, watch func(*house.State, *event.Event, *people.Known, []hall.Decision, *room.Plan)) *lived {
	r := rand.New(rand.NewPCG(seed, 7))
	plan, faults := house.Ready(settings(r), 1)
	if len(faults) > 0 {
		t.Fatal(faults)
	}
	l := &lived{t: t, r: r, watch: watch, s: house.NewState(), plan: plan, now: dusk}
	for i := range plan.Settings.Overlays {
		if r.IntN(5) > 0 {
			l.live(own(l.log, &event.OverlayOpened{Overlay: plan.Settings.Overlays[i].ID}), nil)
		}
	}
	for i := range events {
		l.until(l.now.Add(time.Duration(r.IntN(8000)) * time.Millisecond))
		if i == events/2 {
			l.mid, _ = json.Marshal(l.s)
			l.at = len(l.log)
		}
		var lines []string
		for _, q := range l.s.Queue.Lines {
			lines = append(lines, q.ID)
		}
		var d event.Data
		door := "quayside"
		if r.IntN(4) == 0 {
			d, door = housetest.Hand(r, lines, plan.Settings.Courtesy), "desk"
		} else {
			d = housetest.Happening(r)
		}
		if len(plan.Settings.Guard.Rules) > 0 {
			d, door = guarding(l, d, door)
		}
		ev := event.Event{Door: door, Source: "evening", ID: fmt.Sprint(i), Type: d.Type(), Data: d}
		if r.IntN(8) == 0 {
			ev.Time = l.now.Add(-time.Duration(r.IntN(400)) * time.Second)
		}
		ev.Clean()
		if ev.Data.Validate() != nil {
			continue
		}
		var known *people.Known
		if who := ev.Who(); who != nil && l.s.Wants(&ev, plan) {
			known = housetest.Known(r, *who, l.now)
		}
		l.live(ev, known)
	}
	l.until(l.now.Add(20 * time.Minute))
	return l
}

// again reads the log as a database gives it back, and evolves it.
func (l *lived) again(s *house.State, log []logged) *house.State {
	for _, en := range log {
		raw, err := en.ev.DataJSON()
		if err != nil {
			l.t.Fatal(err)
		}
		en.ev.Data = happening.Kinds.Restore(en.ev.Type, raw)
		raw, err = json.Marshal(en.ds)
		if err != nil {
			l.t.Fatal(err)
		}
		var ds []hall.Decision
		if err := json.Unmarshal(raw, &ds); err != nil {
			l.t.Fatal(err)
		}
		s.Evolve(&en.ev, ds)
	}
	return s
}

// Each (courtesy, slot) of an event once, no wake for nothing, no evening without an
// end, nothing that panics; and the log alone brings the house back as it was.
func TestWhateverTheHouseAndTheEveningAreItsPromisesHold(t *testing.T) {
	evenings := 300
	if testing.Short() {
		evenings = 50
	}
	for seed := range evenings {
		l := anEvening(t, uint64(seed), 120)
		want, err := json.Marshal(l.s)
		if err != nil {
			t.Fatalf("evening %d cannot be kept: %v", seed, err)
		}
		if got, _ := json.Marshal(l.again(house.NewState(), l.log)); !bytes.Equal(got, want) {
			t.Fatalf("evening %d: evolving the log gives another state\n%s", seed, firstDifference(got, want))
		}
		from, _, ok := house.RestoreState(l.mid)
		if !ok {
			t.Fatal("a snapshot is not read back")
		}
		if got, _ := json.Marshal(l.again(from, l.log[l.at:])); !bytes.Equal(got, want) {
			t.Fatalf("evening %d: a snapshot and the log behind it give another state\n%s", seed, firstDifference(got, want))
		}
	}
}

func firstDifference(got, want []byte) string {
	for i := range min(len(got), len(want)) {
		if got[i] != want[i] {
			from := max(0, i-200)
			return fmt.Sprintf("got  …%s\nwant …%s", got[from:min(len(got), i+200)], want[from:min(len(want), i+200)])
		}
	}
	return fmt.Sprintf("lengths %d and %d", len(got), len(want))
}
