package rehearsal

import (
	"encoding/json"
	"fmt"
	"io"
	"time"

	"vividporch/core/event"
	"vividporch/core/house"
	"vividporch/core/people"
)

// Book is the people file: who the house knew when the evening began.
type Book struct {
	Zone       string
	Seed       string
	Streams    []PastStream
	People     []PersonLine
	LastStream int

	by      map[string]*people.Known
	fetched map[string]Fetched
	seen    map[string]bool
	visits  map[string][]int // account → streams of the script, in order
}

// PastStream is a stream before the evening.
type PastStream struct {
	Number int       `json:"number"`
	Opened time.Time `json:"opened"`
	Closed time.Time `json:"closed"`
}

// Fetched is what a platform tells of a fellow streamer.
type Fetched struct {
	Link     string `json:"link,omitempty"`
	Category string `json:"category,omitempty"`
	Title    string `json:"title,omitempty"`
}

// PersonLine is one person of the people file. Streams are the numbers of those
// they attended.
type PersonLine struct {
	Accounts []event.Person `json:"accounts"`
	SayAs    string         `json:"sayAs,omitempty"`
	LeaveBe  bool           `json:"leaveBe,omitempty"`
	Followed *time.Time     `json:"followed,omitempty"`
	Raids    int            `json:"raids,omitempty"`
	Fetched  *Fetched       `json:"fetched,omitempty"`
	Streams  []int          `json:"streams,omitempty"`
}

type header struct {
	Zone    string       `json:"zone"`
	Seed    string       `json:"seed"`
	Streams []PastStream `json:"streams"`
}

// NewBook is an empty guest book.
func NewBook() *Book {
	return &Book{by: map[string]*people.Known{}, fetched: map[string]Fetched{}, seen: map[string]bool{}, visits: map[string][]int{}}
}

// ReadBook reads a people file: the channel's line, then one person a line.
func ReadBook(src io.Reader) (*Book, error) {
	b := NewBook()
	opened := map[int]time.Time{}
	err := lines(src, func(n int, raw []byte) error {
		if n == 1 {
			var h header
			if err := json.Unmarshal(raw, &h); err != nil {
				return fmt.Errorf("line 1: the channel's line cannot be read: %w", err)
			}
			b.Zone, b.Seed, b.Streams = h.Zone, h.Seed, h.Streams
			for _, s := range h.Streams {
				b.LastStream = max(b.LastStream, s.Number)
				opened[s.Number] = s.Opened
			}
			return nil
		}
		var p PersonLine
		if err := json.Unmarshal(raw, &p); err != nil {
			return fmt.Errorf("line %d: the person cannot be read: %w", n, err)
		}
		if len(p.Accounts) == 0 {
			return fmt.Errorf("line %d: accounts: a person needs at least one", n)
		}
		k := &people.Known{Person: int64(n), SayAs: p.SayAs, LeaveBe: p.LeaveBe, Followed: p.Followed, Raids: p.Raids, Attended: len(p.Streams)}
		for i, s := range p.Streams {
			t, ok := opened[s]
			if !ok {
				return fmt.Errorf("line %d: streams: there is no stream %d in line 1", n, s)
			}
			if i == 0 {
				k.FirstSeen = &t
			}
			k.LastSeen = &t
		}
		for _, a := range p.Accounts {
			k.Accounts = append(k.Accounts, a.Key())
			b.by[a.Key()] = k
			if p.Fetched != nil {
				b.fetched[a.Key()] = *p.Fetched
			}
		}
		b.People = append(b.People, p)
		return nil
	})
	return b, err
}

// Known is what the book says of a person as of the opening of a stream; of a
// stranger it is the account alone.
func (b *Book) Known(who *event.Person, stream int) *people.Known {
	if who == nil {
		return nil
	}
	k := people.Known{Accounts: []string{who.Key()}}
	if known := b.by[who.Key()]; known != nil {
		k = *known
	}
	for _, n := range b.visits[who.Key()] {
		if n < stream {
			k.Attended++
		}
	}
	return &k
}

// visit counts a stream once for an account, so that a second stream in the same
// script finds its people returning.
func (b *Book) visit(ev *event.Event, stream int) {
	who := ev.Who()
	if who == nil || event.IsOwn(ev.Type) {
		return
	}
	if vs := b.visits[who.Key()]; len(vs) == 0 || vs[len(vs)-1] != stream {
		b.visits[who.Key()] = append(vs, stream)
	}
}

func (b *Book) answer(d *house.Decision) event.Event {
	a := &event.LookupAnswered{Ask: d.Line}
	if f, ok := b.fetched[d.Person]; ok {
		a.Found, a.Link, a.Category, a.Title = true, f.Link, f.Category, f.Title
	}
	return event.Event{Door: "house", Source: "rehearsal", ID: d.Line, Type: a.Type(), Data: a}
}
