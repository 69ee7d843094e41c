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
				json.Unmarshal(x.Body, &m.Logins)
			}
		}
		if set, ok := l.Event.Data.(*event.AlongSet); ok {
			m.Logins = slices.Clone(set.Logins)
		}
	},
	Forget: func(m *Memory, gone *hall.Gone) {
		for _, g := range gone.Guests {
			m.Logins = slices.DeleteFunc(m.Logins, func(login string) bool { return strings.EqualFold(login, g.Login) })
		}
	}})

const name = "along"

// Memory is the logins of who streams along.
type Memory struct {
	Logins []string `json:"logins,omitempty"`
}

// Along are the logins of who streams along.
func (m *Memory) Along() []string { return m.Logins }

// Logins are who streams along tonight.
func Logins(m room.Memory) []string { return room.Remembered[Memory](m, name).Logins }
