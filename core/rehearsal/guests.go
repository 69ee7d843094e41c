package rehearsal

import (
	"cmp"
	"maps"
	"slices"
	"strings"
	"time"

	"vividporch/core/attendance"
	"vividporch/core/event"
	"vividporch/core/house"
	"vividporch/core/people"
	"vividporch/core/plain"
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

// findable is what somebody can be found by.
type findable struct {
	shown string // folded
	words []string
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
			if !slices.ContainsFunc(c.Accounts, func(a people.CardAccount) bool {
				return slices.ContainsFunc(a.Visits, func(v people.Visit) bool { return v.Stream == n })
			}) {
				g.accounts[first].visits[n] = visit{g.opened[n], g.opened[n]}
			}
		}
		for _, r := range c.Raids {
			g.accounts[first].raids = append(g.accounts[first].raids, raid{b.streamAt(r.At), r.Way == "came"})
		}
		if c.Host != "" {
			g.members["of the file, "+first] = linked{first, c.Host}
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
func (g *guests) comeIn(person int64, c *people.Card, ca *people.CardAccount) {
	a := &account{who: ca.Person, home: person, person: person, visits: map[int]visit{}, followed: ca.Followed, was: slices.Clone(ca.Was)}
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
	k := &people.Known{Person: me.person, Accounts: slices.Clone(keys), SayAs: people.Text(h.SayAs), Pronouns: people.Text(h.Pronouns), Zone: people.Text(h.Zone), LeaveBe: people.Yes(h.LeaveBe),
		Trusted: people.Yes(h.Trusted), Crews: h.Crews, Tags: h.Tags, Roles: h.Roles, Birthday: h.Birthday, Fetched: me.fetched}
	k.Fellow = people.Yes(h.Fellow) || len(h.Crews) > 0
	var streams []int
	var visited *time.Time
	for _, ak := range keys {
		a := g.accounts[ak]
		k.Fellow = k.Fellow || a.fetched != nil && a.fetched.Streams
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
		if l := g.members[m]; slices.Contains(keys, l.account) && k.Host != event.Streamer && l.role != "" {
			k.Host = l.role
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

// called finds whom of the book a name may mean.
func (g *guests) called(name string, stream int) []people.Named {
	folded := plain.Fold(name)
	if folded == "" {
		return nil
	}
	type hit struct {
		text   string
		order  string
		person int64
	}
	var byLogin, byName, byWord []hit
	word := ""
	if words := plain.Words(folded, 2); len(words) == 1 && words[0] == folded {
		word = folded
	}
	lower := strings.ToLower(name)
	for key, a := range g.accounts {
		if l := strings.ToLower(a.who.Login); strings.HasPrefix(l, lower) {
			byLogin = append(byLogin, hit{l, key, a.person})
		}
	}
	for person := range g.keys {
		f := g.findable(person)
		if strings.HasPrefix(f.shown, folded) {
			byName = append(byName, hit{f.shown, "", person})
		}
		for _, w := range f.words {
			if word != "" && strings.HasPrefix(w, word) {
				byWord = append(byWord, hit{w, "", person})
			}
		}
	}
	found := map[int64]bool{}
	for _, hits := range [][]hit{byLogin, byName, byWord} {
		slices.SortFunc(hits, func(x, y hit) int {
			return cmp.Or(strings.Compare(x.text, y.text), strings.Compare(x.order, y.order), cmp.Compare(x.person, y.person))
		})
		for _, h := range hits[:min(len(hits), people.CalledMost)] {
			found[h.person] = true
		}
	}
	var keys []string
	for key, a := range g.accounts {
		if found[a.person] && a.claimed == "" {
			keys = append(keys, key)
		}
	}
	slices.SortFunc(keys, func(x, y string) int {
		return cmp.Or(g.accounts[y].last.Compare(g.accounts[x].last), strings.Compare(x, y))
	})
	var out []people.Named
	for _, key := range keys[:min(len(keys), 4*people.CalledMost)] {
		a := g.accounts[key]
		p := event.Person{Platform: a.who.Platform, ID: a.who.ID, Login: a.who.Login, Name: a.who.Shown(), Nick: a.who.Nick}
		out = append(out, people.Named{Person: p, Known: g.known(p, stream)})
	}
	return out
}

// findable is what a person can be found by.
func (g *guests) findable(person int64) *findable {
	if f := g.words[person]; f != nil {
		return f
	}
	keys, records := g.of(person)
	h := g.hand(records)
	texts := append([]string{people.Text(h.SayAs), people.Text(h.Note)}, h.Tags...)
	var now *account // heard of last, provisional ones last of all
	var was []string
	for _, key := range keys {
		a := g.accounts[key]
		if now == nil || provisional(now) && !provisional(a) || provisional(now) == provisional(a) && a.told.After(now.told) {
			now = a
		}
		texts, was = append(texts, a.who.Login, a.who.Shown()), append(was, a.was...)
	}
	f := &findable{}
	if now != nil {
		f.shown = plain.Fold(cmp.Or(plain.Name(now.who.Shown()), plain.Name(now.who.Login), now.who.ID))
	}
	f.words = people.FindWords(people.FindText(append(texts, was...)))
	g.words[person] = f
	return f
}

func provisional(a *account) bool { return strings.HasPrefix(a.who.ID, people.Provisional) }

// lived writes down what an event, lived in a stream or in none (0), says about people,
// and what a member set. known is whom the house was told it is of.
func (g *guests) lived(ev *event.Event, ds []house.Decision, known *people.Known, stream int) {
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
		if ds[i].Kind == house.Forget {
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
	if who.Login != "" || who.Name != "" {
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
	counts := true
	switch d := ev.Data.(type) {
	case *event.ChatSaid, *event.Subscribed, *event.Gifted, *event.Tipped, *event.Credits, *event.ShopSold, *event.ShopGifted, *event.ShopUsed:
	case *event.RaidCame:
		a.raids = append(a.raids, raid{stream, true})
	case *event.RaidWent:
		counts = false
		a.raids = append(a.raids, raid{stream, false})
	case *event.PersonFollowed:
		if a.followed == nil || at.Before(*a.followed) {
			a.followed = &at
		}
	case *event.PersonRenamed:
		counts = false
		if d.Was != "" && d.Was != who.Login {
			a.was = append(a.was, d.Was)
			delete(g.words, a.person)
		}
	default:
		counts = false
	}
	if stream == 0 || !counts {
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
func (g *guests) isForgotten(ev *event.Event, p *house.Plan) bool {
	who := ev.Who()
	if who == nil || event.IsOwn(ev.Type) || !g.forgotten[who.Key()] {
		return false
	}
	if chat, ok := ev.Data.(*event.ChatSaid); ok && p.AsksToBeRemembered(chat.Text) {
		delete(g.forgotten, who.Key())
		return false
	}
	return true
}
