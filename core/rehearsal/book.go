package rehearsal

import (
	"encoding/json"
	"fmt"
	"io"
	"slices"
	"strings"
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
	visits  map[string][]int     // by whose: streams of the script, in order
	claims  map[string]string    // provisional account → whose it turned out to be
	hands   map[int64]event.Hand // what was set by hand in the evening
	members map[string]string    // by name: the account they linked in the evening
}

// fresh is the book as it was before any evening: a rehearsal leaves no trace in it.
func (b *Book) fresh() *Book {
	out := *b
	out.seen, out.visits, out.claims, out.by, out.hands = map[string]bool{}, map[string][]int{}, map[string]string{}, map[string]*people.Known{}, map[int64]event.Hand{}
	out.members = map[string]string{}
	mine := map[*people.Known]*people.Known{} // one for all accounts of a person
	for key, k := range b.by {
		if mine[k] == nil {
			c := *k
			mine[k] = &c
		}
		out.by[key] = mine[k]
	}
	return &out
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
	return &Book{by: map[string]*people.Known{}, fetched: map[string]people.Fetched{}, seen: map[string]bool{}, visits: map[string][]int{}, claims: map[string]string{}, hands: map[int64]event.Hand{}}
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
		k, err := b.known(int64(len(b.People)+1), &c)
		if err != nil {
			return fmt.Errorf("line %d: %w", n, err)
		}
		for _, a := range c.Accounts {
			b.by[a.Key()] = k
			if c.Fetched != nil {
				f := *c.Fetched
				f.Streams = true // whoever has it is a fellow streamer
				b.fetched[a.Key()] = f
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
		LeaveBe: people.Yes(c.LeaveBe), Trusted: people.Yes(c.Trusted), Fellow: people.Yes(c.Fellow), Crews: c.Crews, Tags: c.Tags, Roles: c.Hand.Roles, Host: c.Host, Birthday: c.Birthday,
		Attended: len(c.Streams), FirstSeen: c.FirstSeen, LastSeen: c.LastSeen}
	for _, n := range c.Streams {
		i := slices.IndexFunc(b.Streams, func(p attendance.Past) bool { return p.Number == n })
		if i < 0 && n == b.LastStream+1 { // that was on when the file was written
			k.Attended--
			continue
		}
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
	known := b.whose(who)
	if known != nil {
		k = *known
	}
	if f, ok := b.fetched[who.Key()]; ok {
		f.At = now
		k.Fetched = &f
	}
	for _, n := range b.visits[visitor(who, known)] {
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
	key := visitor(who, b.whose(who))
	if vs := b.visits[key]; !slices.Contains(vs, stream) {
		vs = append(vs, stream)
		slices.Sort(vs)
		b.visits[key] = vs
	}
}

// whose is the record behind an account. One that is known by its login alone belongs to
// the first who comes with that login.
func (b *Book) whose(who *event.Person) *people.Known {
	if k := b.by[who.Key()]; k != nil || who.Login == "" {
		return k
	}
	login := who.Platform + ":" + people.Provisional + strings.ToLower(who.Login)
	k := b.by[login]
	if k == nil || b.claims[login] != "" && b.claims[login] != who.Key() {
		return nil
	}
	if b.claims[login] == "" {
		b.claims[login] = who.Key()
		k.Accounts = append(slices.Clone(k.Accounts), who.Key())
	}
	return k
}

// visitor stands for the person behind an account, whichever they use.
func visitor(who *event.Person, known *people.Known) string {
	if known != nil {
		return fmt.Sprint(known.Person)
	}
	return who.Key()
}

// edit is what a member sets by hand in the middle of an evening. People are counted from
// 1 in the order of the people file.
func (b *Book) edit(e *event.BookEdited) {
	done := map[*people.Known]bool{}
	for _, k := range b.by {
		if done[k] || !slices.Contains(e.Persons, k.Person) {
			continue
		}
		done[k] = true
		hand, edited := b.hands[k.Person]
		if !edited {
			hand = b.People[k.Person-1].Hand
		}
		next, _ := people.Apply(e.Edit, []event.Hand{hand})
		b.hands[k.Person] = next[0]
		k.SayAs, k.Pronouns, k.Zone = people.Text(next[0].SayAs), people.Text(next[0].Pronouns), people.Text(next[0].Zone)
		k.LeaveBe, k.Trusted, k.Fellow = people.Yes(next[0].LeaveBe), people.Yes(next[0].Trusted), people.Yes(next[0].Fellow)
		k.Crews, k.Tags, k.Roles, k.Birthday = next[0].Crews, next[0].Tags, next[0].Roles, next[0].Birthday
	}
}

// link is a member who is known in chat by another account from now on.
func (b *Book) link(e *event.BookLinked) {
	if was := b.by[b.members[e.Of]]; was != nil {
		was.Host = ""
	}
	b.members[e.Of] = e.Account
	if k := b.by[e.Account]; k != nil {
		k.Host = e.Role
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
