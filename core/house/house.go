// Package house is the whole job in one place: what comes in is an event, the
// house decides, what goes out is an effect.
//
// [Decide] looks at the state, one event, what is known of its person and the
// plan in force, and returns decisions: effects and refusals, each with its
// reasons. [State.Evolve] takes the event and the decisions and moves the state
// on; it decides nothing, so a log of events and decisions brings the house back
// exactly as it was, whatever the settings say by then. [Step] does both.
//
// Nothing here reads a clock, draws a random number or touches the world.
package house

import (
	"time"

	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/people"
)

// Step decides an event and moves the state on.
func Step(s *State, ev *event.Event, known *people.Known, p *Plan, named ...people.Named) []Decision {
	ds := Decide(s, ev, known, p, named...)
	s.Evolve(ev, ds)
	return ds
}

// Advance lives the moment now if the house wanted to be woken by then: it
// returns the wake as an event with its decisions, both to be logged. ok is
// false when nothing was due.
func Advance(s *State, now time.Time, p *Plan) (ev event.Event, ds []Decision, ok bool) {
	at, due := s.Wake(p)
	if !due || at.After(now) {
		return event.Event{}, nil, false
	}
	ev = event.Event{Seq: s.Seq + 1, Door: "house", Source: "house", ID: wakeID(s.Seq + 1), Type: "porch.house.woke", Time: now, Logged: now, Data: &event.Woke{}}
	ds = Decide(s, &ev, nil, p)
	if len(ds) == 0 {
		return event.Event{}, nil, false
	}
	s.Evolve(&ev, ds)
	return ev, ds, true
}

// Decide says what the house does about an event, and what it does not and why.
// It reads the state and changes nothing. named are those of the guest book whom the
// name behind a command may mean (see [Plan.Names]).
func Decide(s *State, ev *event.Event, known *people.Known, p *Plan, named ...people.Named) []Decision {
	d := &decider{s: s, ev: ev, known: known, p: p, book: named, now: s.clock(ev.Logged)}
	late, isLate := ev.Late()
	d.late, d.isLate = late, isLate
	switch data := ev.Data.(type) {
	case *happening.ChatSaid:
		d.chat(data)
	case *happening.StreamOpened:
		d.opened(data.Platform, data.StreamInfo)
	case *happening.StreamClosed:
		// The grace time does the rest; a wake decides the end.
	case *event.StreamDeclared:
		d.declared(data)
	case *happening.RaidCame:
		d.raid(data)
	case *event.Woke:
		d.woke()
	case *event.Hushed:
		d.release(data.On)
	case *event.LineHurried:
		d.hurry(data)
	case *event.LineDropped:
		d.drop(data)
	case *event.LineReworded:
		d.reword(data)
	case *event.LookupAnswered:
		d.answered(data)
	case *event.DeskSaid:
		d.deskSaid(data)
	case *event.DeskAsked:
		d.deskAsked(data)
	case *event.DeskActed:
		d.deskActed(data)
	case *event.DeskUndone:
		d.deskUndone(data.Line)
	case *event.ActRefused:
		d.refusedAct(&data.ActOutcome)
	case *event.SpeechRefused:
		d.refusedSpeech(&data.SpeechOutcome, "refused")
	case *event.SpeechUncertain:
		d.refusedSpeech(&data.SpeechOutcome, "uncertain")
	case *event.BookSettled:
		d.settled(data)
	case *happening.PersonEntered:
		if !s.entered(data.Person.Key(), known) { // comings and goings of one evening are one coming
			d.happening(nil)
		}
	case *happening.StreamChanged:
		d.happening(d.told(d.s.knownOf(data.StreamInfo)), data.Platform)
	default:
		if happening.OfData(ev.Data).IsWhen() {
			d.happening(nil)
		}
	}
	return d.out
}
