package rehearsal

import (
	"context"
	"encoding/json"
	"time"

	"vividporch/core/attendance"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/house"
	"vividporch/core/lookback"
	"vividporch/core/people"
	"vividporch/core/room"
)

// Evening is what a rehearsal lives: where the house stood, whom it knew, and what happened.
// Of a recorded one it has besides what is on record of the outside: what the house was told of
// people, and what platforms answered.
type Evening struct {
	Book    *Book
	Script  []event.Event
	From    *house.State             // where the house stood before it; nil is its first day, with the past streams of the book
	Told    map[string]*people.Known // by [event.Event.Key]: what the house was told of whoever an event is of
	Answers map[string]*Answered     // by the line of what was asked; nil for what was never answered
	Until   time.Time                // it is lived until then; zero is as long after the last event as a stream may be gone
	Same    bool                     // the settings stay the same all evening, whatever the script says of them
}

// Answered is what a platform answered in a recorded evening, and how long after it was asked.
type Answered struct {
	Event event.Event
	After time.Duration
}

// stepsAMoment is after how many events it is asked whether a rehearsal goes on.
const stepsAMoment = 200

// begin is the house before the evening; the evening's own is not touched.
func (e *Evening) begin() *house.State {
	if e.From != nil {
		raw, err := json.Marshal(e.From)
		if err == nil {
			if s, _, ok := house.RestoreState(raw); ok {
				return s
			}
		}
	}
	s := house.NewState()
	s.Stream.Number, s.Stream.Ended = e.Book.LastStream, e.Book.LastStream > 0
	for _, p := range e.Book.Streams {
		s.Past = attendance.Add(s.Past, p)
	}
	return s
}

// answers has a platform answer: what is on record, else what the book has.
func (r *run) answers(d *hall.Decision) {
	a, recorded := r.evening.Answers[d.Line]
	switch {
	case !recorded:
		r.comes(answerAfter, r.evening.Book.answer(d))
	case a != nil:
		r.comes(a.After, a.Event)
	}
}

// Lived is an evening as it was lived under some settings.
type Lived struct {
	Effects []Effect
	Evening *lookback.Evening
	Streams int
}

// Live lives an evening under some settings. It ends with the error of ctx when that is over;
// at, unless nil, is told now and then how many events of the script are lived.
func Live(ctx context.Context, plan *room.Plan, ev *Evening, at func(done int)) (*Lived, error) {
	out := &Lived{}
	r := newRun(plan, ev, func(e Effect) error { out.Effects = append(out.Effects, e); return nil })
	r.goesOn = func(done int) error {
		if at != nil {
			at(done)
		}
		return ctx.Err()
	}
	sum, err := r.all()
	if err != nil {
		return nil, err
	}
	out.Evening, out.Streams = r.reader.Evening(), sum.Streams
	return out, nil
}
