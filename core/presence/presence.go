// Package presence is the room for people who come in without a word: comings and goings of
// one evening are one coming.
package presence

import (
	"maps"
	"time"

	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/room"
	"vividporch/core/thank"
)

// Room marks who comes in.
var Room = room.Of(room.Spec[struct{}, Memory]{Name: "presence", Version: 1,
	Hears: []string{entered}, Sees: []string{entered},
	Decide: func(t *room.Turn, _ *struct{}, m *Memory) {
		if !hall.AnyOf(m.Entered, t.Event.Who().Key(), t.Known) {
			thank.For(t)
		}
	},
	Evolve: func(m *Memory, l room.Lived) {
		if l.Opened != nil { // told late of an opening, what came after it counts
			maps.DeleteFunc(m.Entered, func(_ string, at time.Time) bool { return at.Before(*l.Opened) })
		}
		if who, ok := l.Event.Data.(*happening.PersonEntered); ok && m.Entered[who.Person.Key()].IsZero() {
			if m.Entered == nil {
				m.Entered = map[string]time.Time{}
			}
			m.Entered[who.Person.Key()] = l.Now
		}
	},
	Forget: func(m *Memory, gone *hall.Gone) {
		for _, k := range gone.Keys {
			delete(m.Entered, k)
		}
	}})

var entered = (&happening.PersonEntered{}).Type()

// Memory is who came in, in this stream, and when first.
type Memory struct {
	Entered map[string]time.Time `json:"entered,omitempty"`
}
