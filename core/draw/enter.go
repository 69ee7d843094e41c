package draw

import (
	"fmt"
	"maps"
	"slices"

	"vividporch/core/event"
	"vividporch/core/giveaway"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/lots"
	"vividporch/core/plain"
	"vividporch/core/room"
)

// mostEntries is how many a draw takes.
const mostEntries = 20_000

// said has a line of chat enter, answer, guess, or claim what its person was drawn for.
func said(t *room.Turn, m *Memory, data *happening.ChatSaid) {
	d := m.Now
	if d == nil || !d.State.Running() {
		return
	}
	if g := t.State.Guests()[data.Person.Key()]; t.Known == nil && g != nil {
		t.Known = g.Known
	}
	switch {
	case d.State == Drawing:
		mine := m.whole(t.Known.AccountsWith(data.Person.Key()))
		for i := range d.Picks {
			if p := &d.Picks[i]; p.State == Pending && meet(append([]string{p.Account}, p.Accounts...), mine) && !t.Event.Time.Before(p.At) {
				w := &work{t: t, d: d.copied()}
				w.claimed(w.d.winOf(p.Account), "said something in time")
				w.end()
				return
			}
		}
	case d.State != Open || t.Event.Time.Before(d.Opened): // an answer before the question is none
	case d.Way == giveaway.ByWord && d.Enters(data.Text):
		enter(t, m, data.Person, nil)
	case d.Way == giveaway.ByAnswer && d.Right(data.Text):
		answered(t, m, data.Person)
	case d.Way == giveaway.ByNumber:
		if n, ok := d.Guessed(data.Text); ok {
			guessed(t, m, data.Person, n)
		}
	}
}

// enter takes an entry, unless its person may not enter or has done so; it reports whether it did.
func enter(t *room.Turn, m *Memory, p event.Person, guess *int64) bool {
	d := m.Now
	if why := cannot(t, m, p); why != "" {
		t.Decide(hall.Decision{Kind: hall.Refuse, Output: Name, Person: p.Key(), Name: t.SayName(p), Because: []string{why}})
		return false
	}
	if len(d.Entries) >= mostEntries {
		t.Decide(hall.Decision{Kind: hall.Refuse, Output: Name, Person: p.Key(), Name: t.SayName(p), Because: []string{fmt.Sprintf("the list is full, with %d entries", mostEntries)}})
		return false
	}
	e := entry(t, m, p, len(d.Entries)+1)
	w := &work{t: t, d: d}
	w.decide(stepEntered, e.key(d), moved{Guess: guess, Login: p.Login}, &e, "entered under number "+fmt.Sprint(e.Number))
	if d.Way == giveaway.ByWord && t.Plan.Set.Has(happening.DrawEnteredType) {
		told := &happening.DrawEntered{Number: int64(e.Number), DrawTold: d.told(1)}
		told.Person = p
		w.tell(told, fmt.Sprint(e.Number))
	}
	return true
}

func entry(t *room.Turn, m *Memory, p event.Person, number int) Entry {
	key := p.Key()
	e := Entry{Number: number, Mark: lots.Mark(m.Now.ID, key), Account: key, Login: p.Login, Name: plain.Name(p.Shown())} // as others know them, so that they find themselves
	if e.Name == "" {
		e.Name = t.SayName(p)
	}
	if k := accountsOnly(m.whole(t.Known.AccountsWith(key))); k != nil {
		e.Accounts = k.Accounts
	}
	return e
}

// answered is a right answer: so many win as there are prizes.
func answered(t *room.Turn, m *Memory, p event.Person) {
	d := m.Now
	if !enter(t, m, p, nil) {
		return
	}
	w := &work{t: t, d: d.copied()}
	e := entry(t, m, p, len(d.Entries)+1)
	w.d.add(e)
	w.won(&w.d.Entries[len(d.Entries)], len(d.Picks), "gave the right answer")
	if len(w.d.Picks) == len(d.Prizes) {
		w.close("it was answered", true)
	}
}

// guessed takes a guess. The very number wins at once where only that does, and where it is known.
func guessed(t *room.Turn, m *Memory, p event.Person, n int64) {
	d := m.Now
	if !enter(t, m, p, &n) {
		return
	}
	if want, known := d.Looked(nil); d.Exact && known && n == want {
		w := &work{t: t, d: d.copied()}
		e := entry(t, m, p, len(d.Entries)+1)
		e.Guess = &n
		w.d.add(e)
		w.won(&w.d.Entries[len(d.Entries)], len(d.Picks), fmt.Sprintf("guessed %d", n))
		if len(w.d.Picks) == len(d.Prizes) {
			w.close("it was guessed", true)
		}
	}
}

// cannot says why somebody cannot enter the draw that is open, or "".
func cannot(t *room.Turn, m *Memory, p event.Person) string {
	if why := never(t, m, p); why != "" {
		return why
	}
	d := m.Now
	mine, n := m.whole(t.Known.AccountsWith(p.Key())), 0
	e := d.entryOf(mine)
	if e == nil {
		return ""
	}
	if d.Most() == 1 {
		return fmt.Sprintf("has entered already, under number %d", e.Number)
	}
	for i := range d.Entries {
		if d.Entries[i].counts() && meet(d.Entries[i].all(), mine) {
			n++
		}
	}
	if n >= d.Most() {
		return fmt.Sprintf("has guessed %d times already", n)
	}
	return ""
}

// never says why somebody can never win the draw that is open, or "": t.Known is who they are.
func never(t *room.Turn, m *Memory, p event.Person) string {
	switch {
	case t.IsStreamer(p), t.Known.MemberBy(p) == event.Streamer:
		return "is the streamer"
	case t.Plan.IsNeighbour(p):
		return "is a neighbour"
	case t.Plan.IsOwn(p):
		return "is an account of the house's own"
	}
	mine := m.whole(t.Known.AccountsWith(p.Key()))
	if why := m.kept(mine); why != "" {
		return why
	}
	if why := m.wonLately(mine, m.Now.Rest); why != "" {
		return why
	}
	if w := m.Now.Who; w != nil {
		c := t.Cause(p)
		if _, why := w.Match(&c); why != "" {
			return "the draw " + why
		}
	}
	return ""
}

// kept says why somebody is kept out of draws, or "".
func (m *Memory) kept(accounts []string) string {
	for _, k := range slices.Sorted(maps.Keys(m.Barred)) {
		if b := m.Barred[k]; slices.Contains(accounts, k) || meet(b.Accounts, accounts) {
			return "is kept out of draws: " + b.Reason
		}
	}
	return ""
}

// wonLately says which of the last so many draws somebody won, or "".
func (m *Memory) wonLately(accounts []string, rest int) string {
	n := 0
	for i := len(m.Past) - 1; i >= 0 && n < rest; i-- {
		p := &m.Past[i]
		if p.State == Cancelled {
			continue
		}
		n++
		if slices.ContainsFunc(p.Winners, func(w []string) bool { return meet(w, accounts) }) {
			return fmt.Sprintf("won draw number %d; whoever won one of the last %d cannot win", p.Number, rest)
		}
	}
	return ""
}

// spokeLately are those here who spoke within so many minutes, in the order of their accounts.
func spokeLately(t *room.Turn, m *Memory) (out []event.Person) {
	gs := t.State.Guests()
	since := t.Now.Add(-room.Seconds(60 * m.Now.Minutes))
	for _, key := range slices.Sorted(maps.Keys(gs)) {
		if g := gs[key]; g.Lines > 0 && !g.Last.Before(since) {
			out = append(out, g.Person(key))
		}
	}
	return out
}

// merged has two who became one count once: what came later does not count.
func merged(t *room.Turn, m *Memory, data *event.BookMerged) {
	d := m.Now
	if d == nil || d.State != Open || len(data.Accounts) != 2 || data.Accounts[0] == "" || data.Accounts[1] == "" {
		return
	}
	one := *m
	one.Same = append(slices.Clone(m.Same), [2]string(data.Accounts))
	all := one.whole(data.Accounts)
	for _, k := range data.Accounts { // as each was known when they entered
		if e := d.entryOf([]string{k}); e != nil {
			all = one.whole(append(all, e.all()...))
		}
	}
	w, n, first := &work{t: t, d: d}, 0, 0
	for i := range d.Entries {
		e := &d.Entries[i]
		if !e.counts() || !meet(one.whole(e.all()), all) {
			continue
		}
		if n++; n == 1 {
			first = e.Number
		}
		if n > d.Most() {
			why := fmt.Sprintf("is the same person as number %d", first)
			w.decide(stepVoid, e.key(d), moved{Why: why}, nil, why)
		}
	}
}

// banned takes out whoever may not be in the channel any more.
func banned(t *room.Turn, m *Memory, data *happening.PersonBanned) {
	d, key := m.Now, data.Person.Key()
	if d == nil {
		return
	}
	w := &work{t: t, d: d.copied()}
	switch p := w.d.winOf(key); {
	case d.State == Open:
		for i := range d.Entries {
			if e := &d.Entries[i]; e.counts() && e.Account == key {
				w.decide(stepVoid, e.key(d), moved{Why: "was banned"}, nil, "was banned")
			}
		}
	case d.State == Drawing && p != nil && p.State == Pending:
		w.passed(p, "was banned", "")
		w.draw()
	}
}
