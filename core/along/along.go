// Package along is the room that keeps who streams along with the channel this evening: as a member
// typed it, or somebody who may said it in chat. One link shows all of them side by side, the own
// channel always in it.
package along

import (
	"encoding/json"
	"slices"
	"strings"

	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/room"
)

// Room keeps who streams along. Its own command is an output, which notes it.
var Room = room.Of(room.Spec[struct{}, Memory]{Name: name, Version: 1,
	Sees: []string{event.AlongSetType},
	Evolve: func(m *Memory, l room.Lived) {
		for i := range l.Decisions {
			switch x := &l.Decisions[i]; {
			case x.Kind == hall.Close: // of the evening alone
				m.Logins = nil
			case x.Kind == hall.Note && x.Output == room.AlongNote:
				var logins []string
				if json.Unmarshal(x.Body, &logins) == nil {
					m.set(logins)
				}
			}
		}
		if set, ok := l.Event.Data.(*event.AlongSet); ok {
			m.set(set.Logins)
		}
	},
	Forget: func(m *Memory, gone *hall.Gone) {
		m.Logins = slices.DeleteFunc(m.Logins, func(login string) bool { // here tonight or not: whoever streams along is rarely in chat
			return slices.ContainsFunc(gone.Names, func(n string) bool { return strings.EqualFold(login, n) })
		})
	}})

const name = "along"

// Memory is the logins of who streams along.
type Memory struct {
	Logins []string `json:"logins,omitempty"`
}

// set takes a list over; of whoever was forgotten since the log has nothing in it.
func (m *Memory) set(logins []string) {
	m.Logins = slices.DeleteFunc(slices.Clone(logins), func(login string) bool { return login == "" })
}

// Along are the logins of who streams along.
func (m *Memory) Along() []string { return m.Logins }

// Logins are who streams along tonight.
func Logins(m room.Memory) []string { return room.Remembered[Memory](m, name).Logins }
