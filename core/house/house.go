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
		lineSaid(d, data)
	case *happening.StreamOpened:
		streamOpened(d, data.Platform, data.StreamInfo)
	case *happening.StreamClosed:
		// The grace time does the rest; a wake decides the end.
	case *event.StreamDeclared:
		streamDeclared(d, data)
	case *happening.RaidCame:
		raidCame(d, data)
	case *event.Woke:
		woke(d)
	case *event.Hushed:
		d.release(data.On)
	case *event.LineHurried:
		hurryLine(d, data)
	case *event.LineDropped:
		dropLine(d, data)
	case *event.LineReworded:
		rewordLine(d, data)
	case *event.LookupAnswered:
		d.answered(data)
	case *event.DeskSaid:
		deskSaid(d, data)
	case *event.DeskAsked:
		deskAsked(d, data)
	case *event.DeskActed:
		deskActed(d, data)
	case *event.DeskUndone:
		deskUndone(d, data.Line)
	case *event.ActRefused:
		refusedAct(d, &data.ActOutcome)
	case *event.SpeechRefused:
		refusedSpeech(d, &data.SpeechOutcome, "refused")
	case *event.SpeechUncertain:
		refusedSpeech(d, &data.SpeechOutcome, "uncertain")
	case *event.BookSettled:
		settledRegulars(d, data)
	case *happening.PersonEntered:
		if !s.entered(data.Person.Key(), known) { // comings and goings of one evening are one coming
			thankFor(d, nil)
		}
	case *happening.StreamChanged:
		thankFor(d, d.told(d.s.knownOf(data.StreamInfo)), data.Platform)
	default:
		if happening.OfData(ev.Data).IsWhen() {
			thankFor(d, nil)
		}
	}
	return d.out
}
