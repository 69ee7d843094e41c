// Package row is one row of a file on its way into the guest book, whatever its format.
package row

import (
	"slices"

	"vividporch/core/card"
	"vividporch/core/event"
	"vividporch/core/people"
)

// Row is one row of a file on its way into the book: a card, or why there is
// none.
type Row struct {
	N     int // from 1, as the file counts
	Name  string
	Card  card.Card
	Crews []event.BookCrewed // that the row names
	Why   string             // it cannot be taken
}

// NameCrews puts the person into crews that are given by name.
func (in *Row) NameCrews(names []string) {
	for _, n := range names {
		id := people.CrewID(n)
		if id == "" || slices.Contains(in.Card.Crews, id) {
			continue
		}
		in.Card.Crews = append(in.Card.Crews, id)
		in.Crews = append(in.Crews, event.BookCrewed{ID: id, Name: n, Emblem: event.Emblems[len(id)%len(event.Emblems)], Initials: people.Initials(n)})
	}
}
