// Package house is the whole job in one place: what comes in is an event, the
// house decides, what goes out is an effect.
//
// It is the list of its rooms and what makes one house of them. [Decide] lets each room
// decide an event that it hears, and returns decisions: effects and refusals, each with its
// reasons. [State.Evolve] takes the event and the decisions and moves the state on; it
// decides nothing, so a log of events and decisions brings the house back exactly as it
// was, whatever the settings say by then. [Step] does both.
//
// Nothing here reads a clock, draws a random number or touches the world.
package house

import (
	"time"
	_ "time/tzdata" // zones are part of the rules, not of the machine

	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/housefile"
	"vividporch/core/people"
	"vividporch/core/room"
)

// Step decides an event and moves the state on.
func Step(s *State, ev *event.Event, known *people.Known, p *room.Plan, named ...people.Named) []hall.Decision {
	ds := Decide(s, ev, known, p, named...)
	s.Evolve(ev, ds)
	return ds
}

// Advance lives the moment now if the house wanted to be woken by then: it
// returns the wake as an event with its decisions, both to be logged. ok is
// false when nothing was due.
func Advance(s *State, now time.Time, p *room.Plan) (ev event.Event, ds []hall.Decision, ok bool) {
	at, due := s.Wake(p)
	if !due || at.After(now) {
		return event.Event{}, nil, false
	}
	woke := &event.Woke{}
	ev = event.Event{Seq: s.Seq + 1, Door: "house", Source: "house", ID: hall.WakeID(s.Seq + 1), Type: woke.Type(), Time: now, Logged: now, Data: woke}
	ds = Decide(s, &ev, nil, p)
	if len(ds) == 0 {
		return event.Event{}, nil, false
	}
	s.Evolve(&ev, ds)
	return ev, ds, true
}

// Decide says what the house does about an event, and what it does not and why.
// It reads the state and changes nothing. known is who caused it, as the guest book knows
// them (see [State.Wants]); named are those of the book whom it may mean (see [Means]).
func Decide(s *State, ev *event.Event, known *people.Known, p *room.Plan, named ...people.Named) []hall.Decision {
	t := room.NewTurn(&s.State, s.Rooms, p, Rooms, ev, known, named)
	live := func() {
		for i := range Rooms {
			if r := &Rooms[i]; r.Hears(t.Event) && !t.Withheld {
				r.Decide(t)
			}
		}
	}
	if live(); t.Admits != nil {
		t.As(t.Admits)
		live()
		t.ReleaseIfDue()
	}
	switch data := ev.Data.(type) { // what is no room's: what is coming up
	case *happening.ChatSaid:
		if !t.IsLate {
			t.ReleaseIfDue()
		}
	case *event.Woke:
		t.Overdue()
		t.Release(s.Hush)
	case *event.Hushed:
		t.Release(data.On)
	case *event.LookupAnswered:
		t.Answered(data)
	}
	return t.Decided
}

// Ready checks settings and makes them a plan. With faults there is no plan, and
// the version before stays in force.
func Ready(s *housefile.Settings, version int64) (*room.Plan, []courtesy.Fault) {
	return room.Ready(s, version, Rooms)
}

// Loosely makes a plan of settings that were in force once, whatever has been made
// stricter since: what no longer holds is left out and told in its Left, the rest stands.
func Loosely(s *housefile.Settings, version int64) *room.Plan {
	return room.Loosely(s, version, Rooms)
}

// Means is the name in a line that may mean somebody of the guest book, "" for none: whom
// it does is asked then.
func Means(p *room.Plan, ev *event.Event) string {
	for i := range Rooms {
		if name := Rooms[i].Means(p, ev); name != "" {
			return name
		}
	}
	return ""
}

// WantsNames reports whether deciding an event wants to know all that its person was ever
// called.
func WantsNames(p *room.Plan, ev *event.Event) bool {
	for i := range Rooms {
		if Rooms[i].Names(p, ev) {
			return true
		}
	}
	return false
}
