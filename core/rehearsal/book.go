package rehearsal

import (
	"encoding/json"
	"fmt"
	"io"
	"slices"
	"time"

	"vividporch/core/attendance"
	"vividporch/core/event"
	"vividporch/core/house"
	"vividporch/core/people"
	"vividporch/core/plain"
)

// Book is the people file: who the house knew when the evening began.
type Book struct {
	Zone       string
	Seed       string
	Streams    []attendance.Past // oldest first
	Crews      []event.BookCrewed
	People     []people.Card
	LastStream int

	by      map[string]*people.Known
	fetched map[string]people.Fetched
	seen    map[string]bool
	visits  map[string][]int // account → streams of the script, in order
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
func NewBook() *Book {
	return &Book{by: map[string]*people.Known{}, fetched: map[string]people.Fetched{}, seen: map[string]bool{}, visits: map[string][]int{}}
}

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
		var c people.Card
		if err := json.Unmarshal(raw, &c); err != nil {
			return fmt.Errorf("line %d: the person cannot be read: %w", n, err)
		}
		if err := c.Fill(""); err != nil {
			return fmt.Errorf("line %d: %w", n, err)
		}
		k, err := b.known(int64(n), &c)
		if err != nil {
			return fmt.Errorf("line %d: %w", n, err)
		}
		for _, a := range c.Accounts {
			b.by[a.Key()] = k
			if c.Fetched != nil {
				b.fetched[a.Key()] = *c.Fetched
			}
		}
		b.People = append(b.People, c)
		return nil
	})
	return b, err
}

// known is what the house is told of a person of the file.
func (b *Book) known(number int64, c *people.Card) (*people.Known, error) {
	k := &people.Known{Person: number, Accounts: c.Keys(), SayAs: people.Text(c.SayAs), Pronouns: people.Text(c.Pronouns), Zone: people.Text(c.Zone),
		LeaveBe: people.Yes(c.LeaveBe), Trusted: people.Yes(c.Trusted), Fellow: people.Yes(c.Fellow), Crews: c.Crews, Tags: c.Tags, Roles: c.Hand.Roles, Birthday: c.Birthday,
		Attended: len(c.Streams), FirstSeen: c.FirstSeen, LastSeen: c.LastSeen}
	for _, n := range c.Streams {
		i := slices.IndexFunc(b.Streams, func(p attendance.Past) bool { return p.Number == n })
		if i < 0 {
			return nil, fmt.Errorf("streams: there is no stream %d in line 1", n)
		}
		if p := b.Streams[i]; k.FirstSeen == nil {
			k.FirstSeen = &p.Opened
		}
		if p := b.Streams[i]; k.LastSeen == nil || c.LastSeen == nil && p.Opened.After(*k.LastSeen) {
			k.LastSeen = &p.Opened
		}
	}
	k.Recent = attendance.MaskOf(b.LastStream, c.Streams).Before(b.LastStream+1, attendance.StripLength)
	for _, a := range c.Accounts {
		if f := a.Followed; f != nil && (k.Followed == nil || f.Before(*k.Followed)) {
			k.Followed = f
		}
	}
	for _, r := range c.Raids {
		if r.Way == "came" {
			k.Raids++
			k.Owed++
		} else {
			k.Owed--
		}
	}
	k.Owed = max(0, k.Owed)
	return k, nil
}

// Known is what the book says of a person as of the opening of a stream; of a
// stranger it is the account alone.
func (b *Book) Known(who *event.Person, stream int, now time.Time) *people.Known {
	if who == nil {
		return nil
	}
	k := people.Known{Accounts: []string{who.Key()}}
	known := b.by[who.Key()]
	if known == nil && who.Login != "" { // known by login only, until now
		known = b.by[who.Platform+":"+people.Provisional+who.Login]
	}
	if known != nil {
		k = *known
	}
	if f, ok := b.fetched[who.Key()]; ok {
		f.At = now
		k.Fetched = &f
	}
	for _, n := range b.visits[who.Key()] {
		if n < stream {
			k.Attended++
			k.Recent = append(slices.Clip(k.Recent), n)
		}
	}
	return &k
}

// Called finds whom of the book a name may mean: everybody it begins a name of.
func (b *Book) Called(name string, stream int, now time.Time) []people.Named {
	if name == "" {
		return nil
	}
	var out []people.Named
	for i := range b.People {
		c := &b.People[i]
		said := people.Text(c.SayAs)
		if !plain.Begins(said, name) && !slices.ContainsFunc(c.Accounts, func(a people.CardAccount) bool { return plain.Begins(a.Login, name) || plain.Begins(a.Name, name) }) {
			continue
		}
		for _, a := range c.Accounts {
			p := event.Person{Platform: a.Platform, ID: a.ID, Login: a.Login, Name: a.Name}
			out = append(out, people.Named{Person: p, Known: b.Known(&p, stream, now)})
		}
	}
	return out
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
