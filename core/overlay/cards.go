package overlay

import (
	"encoding/json"
	"maps"
	"slices"
	"time"

	"vividporch/core/hall"
	"vividporch/core/output"
	"vividporch/core/plain"
	"vividporch/core/room"
)

// cardsKept is how many of the cards shown are remembered.
const cardsKept = 6

// Shown is a card that was shown.
type Shown struct {
	Line     string      `json:"line"`
	Courtesy string      `json:"courtesy"`
	At       time.Time   `json:"at"`
	Name     string      `json:"name,omitempty"`
	About    []string    `json:"about,omitempty"` // accounts, of one for several and of one that somebody else asked for
	Told     output.Told `json:"told"`
}

// Cards are the last cards shown, oldest first.
func Cards(m room.Memory) []Shown { return room.Remembered[Memory](m, name).Cards }

func (m *Memory) shown(d *hall.Decision, now time.Time) {
	if output.Kind(d.Kind) != output.KindCard {
		return
	}
	shown := Shown{Line: d.Line, Courtesy: d.Courtesy, At: now, Name: d.Name}
	if len(d.Joined) > 0 || d.Asker != "" {
		shown.About = d.Whom()
	}
	if json.Unmarshal(d.Body, &shown.Told) != nil {
		shown.Told = output.Told{Effect: output.Kind(d.Kind), Person: d.Person} // what a forgetting left of it
	}
	m.Cards = append(m.Cards[max(0, len(m.Cards)-cardsKept+1):len(m.Cards):len(m.Cards)], shown)
}

func (m *Memory) forgetCards(gone *hall.Gone) {
	m.Cards = slices.DeleteFunc(slices.Clone(m.Cards), func(c Shown) bool {
		named := func(g hall.Guest) bool { return slices.Contains(c.Told.Names, g.Name) }
		return gone.Mine(c.Told.Person) || slices.ContainsFunc(c.About, gone.Mine) || slices.ContainsFunc(slices.Collect(maps.Values(gone.Guests)), named)
	})
	for i := range m.Cards {
		for _, text := range m.Cards[i].Told.Texts() {
			*text = plain.Without(*text, gone.Sparing(m.Cards[i].Name))
		}
	}
}
