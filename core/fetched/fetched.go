// Package fetched is the room that remembers texts from outside addresses: the last good one of each
// of the channel's own fill-ins of that kind. They are fetched ahead, so that no answer waits for an
// address outside. It decides nothing.
package fetched

import (
	"time"

	"vividporch/core/event"
	"vividporch/core/room"
)

// Room remembers what was fetched.
var Room = room.Of(room.Spec[struct{}, Memory]{Name: name, Version: 1,
	Sees: []string{event.TextFetchedType},
	Evolve: func(m *Memory, l room.Lived) {
		if told, ok := l.Event.Data.(*event.TextFetched); ok {
			if m.Of == nil {
				m.Of = map[string]Text{}
			}
			m.Of[told.Name] = Text{told.Address, told.Text, l.Now}
		}
	}})

const name = "fetched"

// GoodFor is how long a text is good for. What is older is not known.
const GoodFor = 24 * time.Hour

// Memory is the last good text of each fill-in, by its name.
type Memory struct {
	Of map[string]Text `json:"of,omitempty"`
}

// Text is what stood at an address at a moment.
type Text struct {
	Address string    `json:"address"`
	Text    string    `json:"text"`
	At      time.Time `json:"at"`
}

// Texts are the last good text of each fill-in.
func Texts(m room.Memory) map[string]Text { return room.Remembered[Memory](m, name).Of }

// Fetched is the last good text of a fill-in, and how old it is; false where there is none, it is too
// old, or it was of another address.
func (m *Memory) Fetched(name, address string, now time.Time) (text string, age time.Duration, ok bool) {
	t, there := m.Of[name]
	age = now.Sub(t.At)
	return t.Text, age, there && t.Address == address && age < GoodFor
}
