package rehearsal

import (
	"encoding/json"
	"fmt"
	"io"
	"slices"

	"vividporch/core/attendance"
	"vividporch/core/card"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/people"
	"vividporch/core/plain"
)

// Book is the people file: who the house knew when the evening began.
type Book struct {
	Zone       string
	Seed       string
	Streams    []attendance.Past // oldest first
	Crews      []event.BookCrewed
	People     []card.Card
	LastStream int

	fetched map[string]people.Fetched // by account: what the platform tells when it is asked
}

// Header is the first line of a people file: the channel's zone, seed and past
// streams.
type Header struct {
	Zone    string             `json:"zone"`
	Seed    string             `json:"seed"`
	Streams []attendance.Past  `json:"streams"`
	Crews   []event.BookCrewed `json:"crews,omitempty"`
}

// NewBook is an empty guest book.
func NewBook() *Book { return &Book{fetched: map[string]people.Fetched{}} }

// ReadBook reads a people file: the channel's line, then one person a line.
func ReadBook(src io.Reader) (*Book, error) {
	b := NewBook()
	err := lines(src, func(n int, raw []byte) error {
		if n == 1 {
			var h Header
			if err := json.Unmarshal(raw, &h); err != nil {
				return fmt.Errorf("line 1: the channel's line cannot be read: %w", err)
			}
			b.Zone, b.Seed, b.Streams, b.Crews = h.Zone, h.Seed, h.Streams, h.Crews
			slices.SortFunc(b.Streams, func(a, z attendance.Past) int { return a.Number - z.Number })
			if len(b.Streams) > 0 {
				b.LastStream = b.Streams[len(b.Streams)-1].Number
			}
			return nil
		}
		var c card.Card
		if err := json.Unmarshal(raw, &c); err != nil {
			return fmt.Errorf("line %d: the person cannot be read: %w", n, err)
		}
		if err := c.Fill(""); err != nil {
			return fmt.Errorf("line %d: %w", n, err)
		}
		for _, m := range c.Streams {
			if m != b.LastStream+1 && !slices.ContainsFunc(b.Streams, func(p attendance.Past) bool { return p.Number == m }) { // the next was on when the file was written
				return fmt.Errorf("line %d: streams: there is no stream %d in line 1", n, m)
			}
		}
		b.People = append(b.People, c)
		return nil
	})
	b.Fetches()
	return b, err
}

// Fetches takes over from the people of the book what a platform tells of them when it is asked.
func (b *Book) Fetches() {
	for i := range b.People {
		c := &b.People[i]
		if c.Fetched == nil {
			continue
		}
		f := *c.Fetched
		f.Streams = true // whoever has it is a fellow streamer
		for _, a := range c.Accounts {
			b.fetched[a.Key()] = f
		}
	}
}

func (b *Book) answer(d *hall.Decision) event.Event {
	a := &event.LookupAnswered{Ask: d.Line, Account: d.Person}
	about := d.Person
	if about == "" && d.About != nil { // asked for by login: whoever of the file has it
		for _, c := range b.People {
			for _, h := range c.Accounts {
				if h.Platform == d.About.Platform && plain.Same(h.Login, d.About.Login) {
					about, a.ID, a.Login, a.Name = h.Key(), h.ID, h.Login, h.Name
				}
			}
		}
	}
	if f, ok := b.fetched[about]; ok {
		a.Found, a.Link, a.Category, a.Title, a.Streams = true, f.Link, f.Category, f.Title, true
	}
	return event.Event{Door: "house", Source: "rehearsal", ID: d.Line, Type: a.Type(), Data: a}
}
