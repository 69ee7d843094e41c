package rehearsal

import (
	"encoding/json"
	"maps"
	"slices"
	"strings"
	"time"

	"vividporch/core/attendance"
	"vividporch/core/card"
	"vividporch/core/event"
	"vividporch/core/people"
)

// guests is the guest book of one rehearsal, in memory: by the very rules by which the
// living house's changes as an evening goes on. What a person did belongs to the account,
// what was set by hand to the record, and a person is all records found under one.
type guests struct {
	last      int // number of the stream before the evening
	opened    map[int]time.Time
	records   map[int64]*record
	accounts  map[string]*account
	members   map[string]linked // by name: who linked an account
	forgotten map[string]bool
	next      int64 // number of the next person

	keys  map[int64][]string  // accounts by the person they are found under, in order
	under map[int64][]int64   // records likewise, that of the person first
	words map[int64]*findable // by person; made when a name is looked for
	edits map[string][]edited // by the id of the event that made them
}

// record is one of the book: root is the number it is found under, into the record it
// was merged into, or 0.
type record struct {
	id, root, into int64
	hand           event.Hand
}

// account is one account of a person. Home is the record it belongs to, person the one
// it is found under; claimed names the account that one known by its login turned out to be.
type account struct {
	who          event.Person
	told         time.Time // when login, name and roles were last told
	home, person int64
	first, last  time.Time
	visits       map[int]visit // by stream
	followed     *time.Time
	fetched      *people.Fetched
	raids        []raid
	was          []string // earlier names
	claimed      string
	kept         map[string]json.RawMessage // by rooms
}

type visit struct{ first, last time.Time }

type raid struct {
	stream int
	came   bool
}

type linked struct {
	account string
	role    event.Role
}

// invite makes the guest book of an evening from a people file.
func (b *Book) invite() *guests {
	g := &guests{last: b.LastStream, opened: map[int]time.Time{}, records: map[int64]*record{}, accounts: map[string]*account{}, members: map[string]linked{}, forgotten: map[string]bool{}, next: int64(len(b.People)) + 1,
		keys: map[int64][]string{}, under: map[int64][]int64{}, words: map[int64]*findable{}, edits: map[string][]edited{}}
	for _, p := range b.Streams {
		g.opened[p.Number] = p.Opened
	}
	for i := range b.People {
		c := &b.People[i]
		id := int64(i) + 1
		g.records[id], g.under[id] = &record{id: id, root: id, hand: c.Hand}, []int64{id}
		for k := range c.Accounts {
			g.comeIn(id, c, &c.Accounts[k])
		}
		if len(c.Accounts) == 0 {
			continue
		}
		first := c.Accounts[0].Key()
		for _, n := range c.Streams {
			if !slices.ContainsFunc(c.Accounts, func(a card.Account) bool {
				return slices.ContainsFunc(a.Visits, func(v card.Visit) bool { return v.Stream == n })
			}) {
				g.accounts[first].visits[n] = visit{g.opened[n], g.opened[n]}
			}
		}
		for _, r := range c.Raids {
			g.accounts[first].raids = append(g.accounts[first].raids, raid{b.streamAt(r.At), r.Way == "came"})
		}
		if c.Member != "" {
			g.members["of the file, "+first] = linked{first, c.Member}
		}
	}
	return g
}

func (b *Book) streamAt(t time.Time) int {
	for _, p := range b.Streams {
		if !t.Before(p.Opened) && !t.After(p.Closed) {
			return p.Number
		}
	}
	return 0
}

// comeIn takes one account of a card into the book.
func (g *guests) comeIn(person int64, c *card.Card, ca *card.Account) {
	a := &account{who: ca.Person, home: person, person: person, visits: map[int]visit{}, followed: ca.Followed, was: slices.Clone(ca.Was), kept: maps.Clone(ca.Kept)}
	for _, n := range c.Streams {
		a.note(g.opened[n])
	}
	for _, v := range ca.Visits {
		a.note(v.First)
		a.note(v.Last)
		a.visits[v.Stream] = visit{v.First, v.Last}
	}
	for _, t := range []*time.Time{c.FirstSeen, c.LastSeen, ca.Followed} {
		if t != nil {
			a.note(*t)
		}
	}
	if a.first.IsZero() {
		a.first, a.last = time.Unix(0, 0), time.Unix(0, 0)
	}
	a.told = a.last
	if f := c.Fetched; f != nil {
		mine := *f
		mine.Streams = true // whoever has it is a fellow streamer
		a.fetched = &mine
	}
	g.put(ca.Key(), a)
}

// put gives an account its place.
func (g *guests) put(key string, a *account) {
	if was := g.accounts[key]; was != nil { // a file that has it twice
		g.keys[was.person] = slices.DeleteFunc(g.keys[was.person], func(k string) bool { return k == key })
	}
	g.accounts[key] = a
	at, _ := slices.BinarySearch(g.keys[a.person], key)
	g.keys[a.person] = slices.Insert(g.keys[a.person], at, key)
	delete(g.words, a.person)
}

// sort finds out anew under whom everything is found.
func (g *guests) sort() {
	g.keys, g.under, g.words = map[int64][]string{}, map[int64][]int64{}, map[int64]*findable{}
	for _, key := range slices.Sorted(maps.Keys(g.accounts)) {
		p := g.accounts[key].person
		g.keys[p] = append(g.keys[p], key)
	}
	for _, id := range slices.Sorted(maps.Keys(g.records)) {
		root := g.records[id].root
		g.under[root] = append(g.under[root], id)
	}
	for root, ids := range g.under {
		slices.SortStableFunc(ids, func(x, y int64) int {
			switch root {
			case x:
				return -1
			case y:
				return 1
			}
			return 0
		})
	}
}

func (a *account) note(t time.Time) {
	if t.IsZero() {
		return
	}
	if a.first.IsZero() || t.Before(a.first) {
		a.first = t
	}
	if t.After(a.last) {
		a.last = t
	}
}

// find is the account behind an event's person, or one that is known by their login
// alone and that nobody has claimed; nil when the book knows neither.
func (g *guests) find(who event.Person) (key string, a *account) {
	key = who.Key()
	if a := g.accounts[key]; a != nil && a.claimed == "" {
		return key, a
	}
	if who.Login == "" {
		return "", nil
	}
	key = who.Platform + ":" + people.Provisional + strings.ToLower(who.Login)
	if a := g.accounts[key]; a != nil && a.claimed == "" {
		return key, a
	}
	return "", nil
}

// of lists the accounts of a person by key, and their records, the one they are found
// under first.
func (g *guests) of(person int64) (keys []string, records []*record) {
	for _, id := range g.under[person] {
		records = append(records, g.records[id])
	}
	return g.keys[person], records
}

func (g *guests) hand(records []*record) event.Hand {
	hands := make([]event.Hand, len(records))
	for i, r := range records {
		hands[i] = r.hand
	}
	return people.Union(hands...)
}

// known is what the book says of somebody as of the opening of a stream; nil of a
// stranger.
func (g *guests) known(who event.Person, stream int) *people.Known {
	key, me := g.find(who)
	if me == nil {
		return nil
	}
	keys, records := g.of(me.person)
	h := g.hand(records)
	k := &people.Known{Person: me.person, Accounts: slices.Clone(keys), SayAs: people.Text(h.SayAs), Pronouns: people.Text(h.Pronouns), Zone: people.Text(h.Zone), LeaveBe: people.Yes(h.LeaveBe), HideDay: people.Yes(h.HideDay),
		Trusted: people.Yes(h.Trusted), Crews: h.Crews, Tags: h.Tags, Roles: h.Roles, Birthday: h.Birthday, Fetched: me.fetched}
	if k.Birthday != nil && k.Birthday.IsZero() { // cleared
		k.Birthday = nil
	}
	k.Fellow = people.Yes(h.Fellow) || len(h.Crews) > 0
	var streams []int
	var visited *time.Time
	for _, ak := range keys {
		a := g.accounts[ak]
		k.Fellow = k.Fellow || a.fetched != nil && a.fetched.Streams
		for room, value := range a.kept {
			k.Kept.Keep(ak, room, value)
		}
		if a.followed != nil && (k.Followed == nil || a.followed.Before(*k.Followed)) {
			k.Followed = a.followed
		}
		if visited == nil && (k.FirstSeen == nil || a.first.Before(*k.FirstSeen)) {
			k.FirstSeen = &a.first
		}
		for n, v := range a.visits {
			streams = append(streams, n)
			if visited == nil || v.first.Before(*visited) {
				visited = &v.first
			}
			if n < stream && (k.LastSeen == nil || v.last.After(*k.LastSeen)) {
				k.LastSeen = &v.last
			}
		}
		for _, r := range a.raids {
			switch {
			case !r.came:
				k.Owed--
			case r.stream < stream:
				k.Raids++
				k.Owed++
			}
		}
	}
	k.Owed = max(0, k.Owed)
	if visited != nil {
		k.FirstSeen = visited
	}
	if h.Fellow != nil && !*h.Fellow { // a hand says no, whatever the platform tells
		k.Fellow = len(h.Crews) > 0
	}
	slices.Sort(streams)
	streams = slices.DeleteFunc(slices.Compact(streams), func(n int) bool { return n >= stream })
	k.Attended = len(streams)
	if len(streams) > 0 {
		k.Recent = attendance.MaskOf(streams[len(streams)-1], streams).Before(stream, attendance.StripLength)
	}
	for _, m := range slices.Sorted(maps.Keys(g.members)) {
		if l := g.members[m]; slices.Contains(keys, l.account) && k.Member != event.Streamer && l.role != "" {
			k.Member = l.role
		}
	}
	if key != who.Key() { // known by login until now
		k.Accounts = append(slices.Clone(keys), who.Key())
	}
	return k
}

// named is the same with all they were ever called, for one who may be forgotten.
func (g *guests) named(k *people.Known, who event.Person) *people.Known {
	if k == nil {
		return nil
	}
	add := func(names ...string) {
		for _, n := range names {
			if n != "" && !slices.Contains(k.Names, n) {
				k.Names = append(k.Names, n)
			}
		}
	}
	for _, key := range k.Accounts {
		if a := g.accounts[key]; a != nil {
			add(a.who.Login, a.who.Name)
			add(a.was...)
		}
	}
	add(k.SayAs)
	add(who.Login, who.Name)
	return k
}
