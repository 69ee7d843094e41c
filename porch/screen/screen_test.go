package screen_test

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"
	"time"

	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/house"
	"vividporch/core/house/housetest"
	"vividporch/porch/screen"
	"vividporch/spec"
)

var dusk = time.Date(2031, 5, 14, 19, 0, 0, 0, time.UTC)

// page is a page that shows the Porch: it is given the whole once, and changes from then on.
type page struct {
	spec.Porch
	byAccount map[string]spec.Guest
}

func (p *page) open(whole spec.Porch) {
	p.Porch, p.byAccount = whole, map[string]spec.Guest{}
	for _, g := range whole.Guests {
		p.byAccount[g.Account] = g
	}
}

// apply takes a change in, as a page does.
func (p *page) apply(t *testing.T, change spec.Change) {
	t.Helper()
	raw, err := json.Marshal(change)
	if err != nil {
		t.Fatal(err)
	}
	var c spec.Change
	if err := json.Unmarshal(raw, &c); err != nil {
		t.Fatal(err)
	}
	same := func(name spec.ChangeSame) bool { return slices.Contains(c.Same, name) }
	if !same("coming") {
		p.Coming = c.Coming
	}
	if !same("waiting") {
		p.Waiting = c.Waiting
	}
	if !same("doors") {
		p.Doors = c.Doors
	}
	if !same("cards") {
		p.Cards = c.Cards
	}
	if c.Fresh {
		p.byAccount = map[string]spec.Guest{}
	}
	for _, g := range c.Guests {
		p.byAccount[g.Account] = g
	}
	if e := c.Evening; e.Added && !c.Fresh {
		p.Evening.Minutes = e.Minutes
		p.Evening.Arrivals, p.Evening.Raids, p.Evening.Said = append(p.Evening.Arrivals, e.Arrivals...), append(p.Evening.Raids, e.Raids...), append(p.Evening.Said, e.Said...)
	} else {
		p.Evening = e
	}
	p.Live, p.Hush, p.Held, p.Seq = c.Live, c.Hush, c.Held, c.Seq
}

// shows is what stands on the page, comparable.
func (p *page) shows() string {
	var guests []spec.Guest
	for _, g := range p.byAccount {
		guests = append(guests, g)
	}
	slices.SortFunc(guests, func(a, b spec.Guest) int { return slices.Compare([]byte(a.Account), []byte(b.Account)) })
	p.Coming, p.Waiting, p.Cards = append([]spec.Coming{}, p.Coming...), append([]spec.Waiting{}, p.Waiting...), append([]spec.CardView{}, p.Cards...)
	raw, _ := json.Marshal([]any{p.Seq, p.Live, p.Hush, p.Held, len(p.Coming), p.Coming, len(p.Waiting), p.Waiting, len(p.Cards), p.Cards, guests, p.Evening})
	return string(raw)
}

func TestAPageThatTakesEveryChangeInShowsWhatIsDrawnAnew(t *testing.T) {
	left := 0
	for seed := range uint64(60) {
		r := rand.New(rand.NewPCG(seed, 99))
		plan, faults := house.Ready(housetest.Legal(housetest.Random(r)), 1)
		if len(faults) > 0 {
			t.Fatal(faults)
		}
		s, now := house.NewState(), dusk
		scene := func() screen.Scene { return screen.Scene{State: s, Plan: plan, Now: now, Doors: []spec.Door{}} }
		var p page
		p.open(screen.Whole(scene(), nil))
		var last *screen.Parts
		lived := func(ev event.Event, ds []hall.Decision) {
			var c spec.Change
			entries := screen.Entries(&ev, ds)
			c, last = screen.Change(scene(), []screen.Lived{{Event: &ev, Decisions: ds}}, entries, last)
			left += len(c.Same)
			if p.apply(t, c); hall.NewState().Forgets(&ev, ds) != nil { // then the whole is drawn anew
				p.open(screen.Whole(scene(), nil))
			}
		}
		for n := range 120 {
			now = now.Add(time.Duration(r.IntN(20_000)) * time.Millisecond)
			if ev, ds, ok := house.Advance(s, now, plan); ok {
				lived(ev, ds)
			}
			data := housetest.Happening(r)
			if r.IntN(6) == 0 {
				var lines []string
				for _, l := range s.Queue.Lines {
					lines = append(lines, l.ID)
				}
				data = housetest.Hand(r, lines, plan.Settings.Courtesy)
			}
			ev := event.Event{Seq: s.Seq + 1, Door: "inbox", Source: "test", ID: fmt.Sprint(n), Type: data.Type(), Data: data}
			ev.Clean()
			ev.Stamp(now)
			lived(ev, house.Step(s, &ev, nil, plan))
			var fresh page
			fresh.open(screen.Whole(scene(), nil))
			if got, want := p.shows(), fresh.shows(); got != want {
				t.Fatalf("evening %d, after %s (%d)\nshows %s\nwants %s", seed, ev.Type, n, got, want)
			}
		}
	}
	if left == 0 {
		t.Error("everything is sent every time")
	}
}
