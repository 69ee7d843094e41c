package rehearsal

import (
	"cmp"
	"encoding/json"
	"maps"
	"slices"
	"strings"

	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/people"
	"vividporch/core/privacy"
	"vividporch/core/room"
)

// How the guest book of a rehearsal changes as an evening goes on.

// lived writes down what an event, lived in a stream or in none (0), says about people,
// and what a member set. known is whom the house was told it is of.
func (g *guests) lived(ev *event.Event, ds []hall.Decision, known *people.Known, stream int) {
	g.write(ev, known, stream)
	switch d := ev.Data.(type) {
	case *event.LookupAnswered:
		if a := g.accounts[d.Account]; a != nil && d.Failed == "" {
			a.fetched = &people.Fetched{Link: d.Link, Category: d.Category, Title: d.Title, Streams: d.Streams, At: ev.Logged}
		}
	case *event.BookEdited:
		if d.Undoes > 0 {
			g.takeBack(d.UndoesID, ev.ID)
			break
		}
		for i, person := range d.Persons {
			g.edit(g.person(d.Accounts, i, person), d.Edit, ev.ID)
		}
	case *event.BookMerged:
		g.merge(g.person(d.Accounts, 0, d.Kept), g.person(d.Accounts, 1, d.Gone))
	case *event.BookParted:
		id := d.Part
		if a := g.accounts[d.Account]; a != nil {
			id = a.home
		}
		g.part(id)
	case *event.BookCrewed:
		if d.Gone {
			for _, person := range slices.Sorted(maps.Keys(g.under)) {
				g.edit(person, event.Edit{DropCrews: []string{d.ID}}, ev.ID)
			}
		}
	case *event.BookLinked:
		for m, l := range g.members {
			if d.Account != "" && l.account == d.Account {
				delete(g.members, m)
			}
		}
		g.members[strings.ToLower(d.Of)] = linked{d.Account, d.Role}
	case *event.BookForgotten:
		g.forget(d.Keys)
	}
	for i := range ds {
		ds[i].EachKept(func(account string, value json.RawMessage) {
			if a := g.accounts[account]; a != nil {
				if a.kept == nil {
					a.kept = map[string]json.RawMessage{}
				}
				a.kept[ds[i].Room] = value
			}
		})
		if ds[i].Kind == hall.Forget {
			g.forget(append(slices.Clone(ds[i].Known.Accounts), ds[i].Person))
		}
	}
}

// write notes what somebody did.
func (g *guests) write(ev *event.Event, known *people.Known, stream int) {
	who := ev.Who()
	if who == nil || event.IsOwn(ev.Type) {
		return
	}
	key := who.Key()
	a := g.accounts[key]
	if a == nil {
		if known == nil || known.Person == 0 {
			return
		}
		if a = (&account{who: *who, home: known.Person, person: known.Person, visits: map[int]visit{}}); g.records[known.Person] == nil {
			g.records[known.Person], g.under[known.Person] = &record{id: known.Person, root: known.Person}, []int64{known.Person}
		}
		if _, p := g.find(*who); p != nil { // known by login until now
			a.home, a.person, p.claimed = p.home, p.person, key
		}
		g.put(key, a)
	}
	at := ev.Time
	a.note(at)
	if ev.Door != "house" && (who.Login != "" || who.Name != "") { // the house has their name from the book
		for _, n := range []string{who.Login, who.Shown()} {
			if n != a.who.Login && n != a.who.Name && !slices.Contains(a.was, n) {
				a.was = append(a.was, n)
			}
		}
		if cmp.Or(at.Compare(a.told), strings.Compare(who.Login, a.who.Login), strings.Compare(who.Shown(), a.who.Shown())) >= 0 {
			for _, n := range []string{a.who.Login, a.who.Name} {
				if n != "" && n != who.Login && n != who.Name && !slices.Contains(a.was, n) {
					a.was = append(a.was, n)
				}
			}
			if a.who.Login != who.Login || a.who.Name != who.Name {
				delete(g.words, a.person)
			}
			a.who, a.told = *who, at
		}
	}
	book := happening.OfData(ev.Data).Book
	if book.Raid != "" {
		a.raids = append(a.raids, raid{stream, book.Raid == "came"})
	}
	if book.Follow && (a.followed == nil || at.Before(*a.followed)) {
		a.followed = &at
	}
	if book.Was != nil {
		if was := book.Was(ev.Data); was != "" && was != who.Login {
			a.was = append(a.was, was)
			delete(g.words, a.person)
		}
	}
	if stream == 0 || !book.Visit {
		return
	}
	v, been := a.visits[stream]
	if !been || at.Before(v.first) {
		v.first = at
	}
	if at.After(v.last) {
		v.last = at
	}
	a.visits[stream] = v
}

// person is whom a member means: by an account of theirs, else by number, as people of the
// file are counted.
func (g *guests) person(accounts []string, i int, number int64) int64 {
	if i < len(accounts) {
		if a := g.accounts[accounts[i]]; a != nil {
			return a.person
		}
	}
	return number
}

// edit changes what is set by hand about a person, under the id of its event.
func (g *guests) edit(person int64, e event.Edit, id string) {
	_, records := g.of(person)
	hands := make([]event.Hand, len(records))
	for i, r := range records {
		hands[i] = r.hand
	}
	next, back := people.Apply(e, hands)
	for i, r := range records {
		if r.hand = next[i]; !people.IsNothing(back[i]) {
			mine := e
			if i > 0 { // fields are set on the kept record only
				mine = event.Edit{DropTags: e.DropTags, DropCrews: e.DropCrews, DropRoles: e.DropRoles}
			}
			g.edits[id] = append(g.edits[id], edited{r.id, mine, back[i]})
		}
	}
	delete(g.words, person)
}

// edited is one change of a record, and what takes it back.
type edited struct {
	record     int64
	edit, back event.Edit
}

// takeBack takes back what an event changed, as far as it still stands.
func (g *guests) takeBack(id, by string) {
	list := g.edits[id]
	delete(g.edits, id)
	for _, c := range list {
		r := g.records[c.record]
		if r == nil {
			continue
		}
		undo := people.Still(c.edit, c.back, r.hand)
		next, again := people.Apply(undo, []event.Hand{r.hand})
		r.hand = next[0]
		g.edits[by] = append(g.edits[by], edited{r.id, undo, again[0]})
		delete(g.words, r.root)
	}
}

func (g *guests) merge(kept, gone int64) {
	r := g.records[gone]
	if r == nil || g.records[kept] == nil || r.root != gone {
		return
	}
	r.into = kept
	for _, a := range g.accounts {
		if a.person == gone {
			a.person = kept
		}
	}
	for _, o := range g.records {
		if o.root == gone {
			o.root = kept
		}
	}
	g.sort()
}

// part makes a record one of its own again, with all that was merged into it.
func (g *guests) part(id int64) {
	r := g.records[id]
	if r == nil {
		return
	}
	r.into = 0
	mine := map[int64]bool{id: true}
	for grown := true; grown; {
		grown = false
		for _, o := range g.records {
			if mine[o.into] && !mine[o.id] {
				mine[o.id], grown = true, true
			}
		}
	}
	for o := range mine {
		g.records[o].root = id
	}
	for _, a := range g.accounts {
		if mine[a.home] {
			a.person = id
		}
	}
	g.sort()
}

// forget takes people out of the book; from then on nothing of theirs is lived, until
// they ask to be remembered.
func (g *guests) forget(keys []string) {
	for _, key := range keys {
		g.forgotten[key] = true
		a := g.accounts[key]
		if a == nil {
			continue
		}
		person := a.person
		mine, records := g.of(person)
		for _, k := range mine {
			g.forgotten[k] = true
			delete(g.accounts, k)
			for m, l := range g.members {
				if l.account == k {
					delete(g.members, m)
				}
			}
		}
		for _, r := range records {
			delete(g.records, r.id)
		}
		delete(g.keys, person)
		delete(g.under, person)
		delete(g.words, person)
	}
}

// isForgotten reports whether nothing of somebody is lived; asking to be remembered ends
// that.
func (g *guests) isForgotten(ev *event.Event, p *room.Plan) bool {
	who := ev.Who()
	if who == nil || event.IsOwn(ev.Type) || !g.forgotten[who.Key()] {
		return false
	}
	if chat, ok := ev.Data.(*happening.ChatSaid); ok && privacy.AsksToBeRemembered(p, chat.Text) {
		delete(g.forgotten, who.Key())
		return false
	}
	return true
}
