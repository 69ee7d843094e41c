// Package screen draws the Porch: what the live screen shows is a function of the state, the
// plan in force, and how the doors stand. It asks nobody and changes nothing.
package screen

import (
	"fmt"
	"maps"
	"reflect"
	"slices"
	"time"

	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/house"
	"vividporch/core/room"
	"vividporch/spec"
)

// Scene is all that the Porch is drawn from.
type Scene struct {
	State     *house.State
	Plan      *room.Plan
	Now       time.Time
	Doors     []spec.Door
	Stalled   bool          // the database is gone
	ClockBack time.Duration // the machine's clock lies so far behind the house
}

// Whole is everything the Porch shows, with the newest entries of the conversation.
func Whole(s Scene, entries []spec.Entry) spec.Porch {
	p := spec.Porch{Seq: s.State.Seq, Now: s.Now, Channel: s.Plan.Channel, Zone: s.Plan.Settings.Zone, Live: live(s.State),
		Entries: entries, Coming: coming(s.State, s.Plan), Waiting: waiting(s.State, s.Plan), Doors: s.Doors, Evening: evening(s.State),
		Hush: s.State.Hush, Held: held(s.State), DatabaseGone: s.Stalled, ClockBack: int(s.ClockBack.Seconds()), Chat: append([]string{}, s.Plan.Chat()...),
		Cards: cards(s.State, s.Plan), Hands: hands(s.Plan), Acts: Acts(s.Plan)}
	p.Guests = guests(s)
	return p
}

// guests are all who are here, and whoever brought a raid.
func guests(s Scene) []spec.Guest {
	out, gs := []spec.Guest{}, s.State.Guests()
	for _, key := range slices.Sorted(maps.Keys(gs)) {
		out = append(out, guest(s.State, s.Plan, key, gs[key]))
	}
	for _, r := range s.State.Raids {
		if key := r.Person.Key(); gs[key] == nil {
			out = append(out, guest(s.State, s.Plan, key, &hall.Guest{}))
		}
	}
	return out
}

// Lived is an event that was lived, and what was decided about it.
type Lived struct {
	Event     *event.Event
	Decisions []hall.Decision
}

// Parts are the parts of the Porch that are sent as a whole, as they were last sent.
type Parts struct {
	coming  []spec.Coming
	waiting []spec.Waiting
	doors   []spec.Door
	cards   []spec.CardView
}

// Change is what some events changed of the Porch, entries being what they add to the
// conversation; and its parts, to be handed in with the next change: those that stand as
// they did in last are left out. With last nil all are sent.
func Change(s Scene, lived []Lived, entries []spec.Entry, last *Parts) (spec.Change, *Parts) {
	now := &Parts{coming(s.State, s.Plan), waiting(s.State, s.Plan), s.Doors, cards(s.State, s.Plan)}
	c := spec.Change{Seq: s.State.Seq, Now: s.Now, Live: live(s.State), Entries: entries, Hush: s.State.Hush, Held: held(s.State), DatabaseGone: s.Stalled, ClockBack: int(s.ClockBack.Seconds())}
	c.Coming, c.Waiting, c.Doors, c.Cards = now.coming, now.waiting, now.doors, now.cards
	if last != nil {
		leave(&c, last, now)
	}
	touched, marks := map[string]bool{}, spec.Evening{Minutes: slices.Clone(s.State.Evening.Minutes), Arrivals: []spec.Mark{}, Raids: []spec.Mark{}, Said: []spec.Mark{}, Added: true}
	for i := range lived {
		c.Fresh = note(&lived[i], s.State.Stream.Live(), touched, &marks) || c.Fresh
	}
	if c.Fresh {
		c.Guests, c.Evening = guests(s), evening(s.State)
		return c, now
	}
	if marks.Minutes == nil {
		marks.Minutes = []int{}
	}
	marks.Pins = pins(s.State)
	c.Evening = marks
	gs := s.State.Guests()
	for key := range touched {
		if g := gs[key]; g != nil {
			c.Guests = append(c.Guests, guest(s.State, s.Plan, key, g))
		} else if slices.ContainsFunc(s.State.Raids, func(r hall.Raid) bool { return r.Person.Key() == key }) {
			c.Guests = append(c.Guests, guest(s.State, s.Plan, key, &hall.Guest{}))
		}
	}
	return c, now
}

// leave leaves out of a change what stands as it did.
func leave(c *spec.Change, last, now *Parts) {
	same := func(name spec.ChangeSame, equal bool, drop func()) {
		if equal {
			c.Same = append(c.Same, name)
			drop()
		}
	}
	same(spec.ChangeSameComing, reflect.DeepEqual(last.coming, now.coming), func() { c.Coming = nil })
	same(spec.ChangeSameWaiting, reflect.DeepEqual(last.waiting, now.waiting), func() { c.Waiting = nil })
	same(spec.ChangeSameDoors, reflect.DeepEqual(last.doors, now.doors), func() { c.Doors = nil })
	same(spec.ChangeSameCards, reflect.DeepEqual(last.cards, now.cards), func() { c.Cards = nil })
}

// note notes whom an event touched and what it adds to the evening line; it reports whether
// both begin anew with it.
func note(l *Lived, live bool, touched map[string]bool, marks *spec.Evening) (fresh bool) {
	ev := l.Event
	if who := ev.Who(); who != nil {
		touched[who.Key()] = true
	}
	if _, anew := ev.Data.(*event.Rearmed); anew { // over all accounts of somebody, or of everybody
		fresh = true
	}
	for i := range l.Decisions {
		d := &l.Decisions[i]
		for _, account := range d.Whom() {
			touched[account] = true
		}
		switch d.Kind {
		case hall.Open, hall.Close:
			fresh = true
		case hall.Arrive:
			if !live || d.Again { // the evening line is of a stream, and has their arrival already
				continue
			}
			marks.Arrivals = append(marks.Arrivals, spec.Mark{At: ev.Time, ID: fmt.Sprintf("%d.arrival", ev.Seq), Name: d.Name, Standing: string(d.Standing), Fellow: d.Known.Streams()})
		case hall.Say:
			marks.Said = append(marks.Said, spec.Mark{At: ev.Logged, ID: d.Line})
		}
	}
	if r, ok := ev.Data.(*happening.RaidCame); ok {
		marks.Raids = append(marks.Raids, raidMark(ev.Seq, &r.Person, r.Viewers, ev.Time))
	}
	return fresh
}
