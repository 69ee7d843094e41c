package draw

import (
	"maps"
	"slices"
	"strings"
	"time"

	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/people"
	"vividporch/core/plain"
	"vividporch/core/room"
)

// Memory is the draw that goes on, or the last one; who won those before; and who is kept out.
type Memory struct {
	Count  int            `json:"count,omitempty"` // draws ever
	Now    *Draw          `json:"now,omitempty"`
	Past   []Past         `json:"past,omitempty"`   // the last ones that are over, oldest first, the present one too
	Barred map[string]Bar `json:"barred,omitempty"` // by account
	Same   [][2]string    `json:"same,omitempty"`   // accounts that became one person since the stream opened
}

// Past is a draw that is over. Seq are the numbers in the log between which it is found.
type Past struct {
	ID      string     `json:"id"`
	Number  int        `json:"number"`
	Prizes  []string   `json:"prizes"`
	Opened  time.Time  `json:"opened"`
	State   State      `json:"state"`
	Seq     [2]int64   `json:"seq"`
	Winners [][]string `json:"winners,omitempty"` // the accounts of each
}

// Bar is why somebody is kept out of draws.
type Bar struct {
	Name     string    `json:"name"`
	Reason   string    `json:"reason"`
	By       string    `json:"by,omitempty"`
	At       time.Time `json:"at"`
	Accounts []string  `json:"accounts,omitempty"`
}

// mostPast is how many draws are remembered, mostSame how many people who became one.
const (
	mostPast = 200
	mostSame = 500
)

func (m *Memory) evolve(l room.Lived) {
	if l.Opened != nil {
		m.Same = nil
	}
	switch data := l.Event.Data.(type) {
	case *event.BookMerged:
		if data.Accounts = slices.DeleteFunc(slices.Clone(data.Accounts), func(k string) bool { return k == "" }); len(data.Accounts) == 2 {
			m.Same = append(m.Same[max(0, len(m.Same)-mostSame+1):], [2]string(data.Accounts))
		}
	case *event.BookParted:
		m.Same = slices.DeleteFunc(m.Same, func(x [2]string) bool { return slices.Contains(x[:], data.Account) })
		if m.Now != nil {
			m.Now.parted(data.Account)
		}
	}
	for i := range l.Decisions {
		x := &l.Decisions[i]
		if x.Kind != kind || x.Room != l.Room {
			continue
		}
		switch at := strings.Split(x.Line, "/"); x.Output {
		case stepBarred:
			m.bar(l.Event.Data, x, l.Now)
		case stepCalled:
			m.Count++
			m.Now = began(at[0], x, l.Now, l.Event.Seq)
		default:
			if m.Now == nil || m.Now.ID != at[0] {
				continue
			}
			m.Now.move(x, l.Now)
			m.Now.Seq[1] = l.Event.Seq
			m.remember()
		}
	}
}

// remember keeps who won a draw that is over.
func (m *Memory) remember() {
	d := m.Now
	if d.State.Running() {
		return
	}
	p := Past{ID: d.ID, Number: d.Number, Prizes: d.Prizes, Opened: d.Called, State: d.State, Seq: d.Seq}
	for i := range d.Picks {
		if k := &d.Picks[i]; k.State == Claimed && k.Account != "" {
			p.Winners = append(p.Winners, append([]string{k.Account}, k.Accounts...))
		}
	}
	m.Past = slices.DeleteFunc(m.Past, func(o Past) bool { return o.ID == d.ID })
	m.Past = append(m.Past[max(0, len(m.Past)-mostPast+1):], p)
}

func (m *Memory) bar(data event.Data, x *hall.Decision, now time.Time) {
	b, ok := data.(*event.DrawBarred)
	if !ok || x.Person == "" {
		return
	}
	if m.Barred == nil {
		m.Barred = map[string]Bar{}
	}
	accounts := x.Known.AccountsWith(x.Person)
	for _, k := range accounts {
		for of, was := range m.Barred {
			if of == k || slices.Contains(was.Accounts, k) {
				delete(m.Barred, of)
			}
		}
	}
	if b.On && len(m.Barred) < mostBarred {
		m.Barred[x.Person] = Bar{Name: x.Name, Reason: b.Reason, By: b.Member, At: now, Accounts: accounts}
	}
}

// mostBarred is how many people are kept out.
const mostBarred = 500

// whole are some accounts with those that became one person with them.
func (m *Memory) whole(accounts []string) []string {
	if len(m.Same) == 0 {
		return accounts
	}
	out := slices.Clone(accounts)
	for grew := true; grew; {
		grew = false
		for _, s := range m.Same {
			a, b := slices.Contains(out, s[0]), slices.Contains(out, s[1])
			if a != b {
				out, grew = append(out, s[0], s[1]), true
			}
		}
	}
	return out
}

// meet reports whether two lists of accounts have one in common.
func meet(a, b []string) bool {
	return slices.ContainsFunc(a, func(k string) bool { return k != "" && slices.Contains(b, k) })
}

// accountsOnly is what a decision tells of whose accounts belong together.
func accountsOnly(accounts []string) *people.Known {
	if len(accounts) < 2 {
		return nil
	}
	return &people.Known{Accounts: slices.Compact(slices.Sorted(slices.Values(accounts)))}
}

// wake is when a draw has something to do by itself.
func (m *Memory) wake() (at time.Time, due bool) {
	d := m.Now
	if d == nil || !d.State.Running() {
		return at, false
	}
	sooner := func(t time.Time) {
		if !t.IsZero() && (!due || t.Before(at)) {
			at, due = t, true
		}
	}
	for _, t := range []time.Time{d.Again, d.Closes, d.Reminds, d.HintAt} {
		sooner(t)
	}
	for i := range d.Picks {
		if p := &d.Picks[i]; p.State == Pending && p.Account == "" { // forgotten since
			sooner(p.At)
		} else if p.State == Pending {
			sooner(p.Ends)
		}
	}
	return at, due
}

// forget takes somebody out: that an entry was there stays, and its mark, which the list is made of.
func (m *Memory) forget(gone *hall.Gone) {
	m.Same = slices.DeleteFunc(m.Same, func(x [2]string) bool { return gone.Mine(x[0]) || gone.Mine(x[1]) })
	for k, b := range m.Barred {
		if gone.Mine(k) || slices.ContainsFunc(b.Accounts, gone.Mine) {
			delete(m.Barred, k)
		}
	}
	for i := range m.Past {
		p := &m.Past[i]
		p.Winners = slices.DeleteFunc(p.Winners, func(w []string) bool { return slices.ContainsFunc(w, gone.Mine) })
		p.Prizes = slices.Clone(p.Prizes)
		unname(gone.Names, texts(p.Prizes))
	}
	for k, b := range m.Barred {
		unname(gone.Sparing(b.Name), []*string{&b.Reason})
		m.Barred[k] = b
	}
	if m.Now != nil {
		m.Now.forget(gone)
	}
}

func (d *Draw) forget(gone *hall.Gone) {
	d.by = nil
	for i := range d.Entries {
		e := &d.Entries[i]
		if gone.Mine(e.Account) {
			*e = Entry{Number: e.Number, Mark: e.Mark, At: e.At, Void: e.Void}
		}
		unname(gone.Names, []*string{&e.Void})
	}
	for i := range d.Picks {
		p := &d.Picks[i]
		if gone.Mine(p.Account) {
			*p = Pick{N: p.N, Prize: p.Prize, Number: p.Number, Mark: p.Mark, At: p.At, State: p.State}
		}
		unname(gone.Names, []*string{&p.Why})
	}
	d.Prizes, d.Answers = slices.Clone(d.Prizes), slices.Clone(d.Answers) // the settings may have the same
	unname(gone.Names, append(append([]*string{&d.By, &d.Word, &d.Ask, &d.Hint, &d.Why}, texts(d.Prizes)...), texts(d.Answers)...))
}

func texts(list []string) (out []*string) {
	for i := range list {
		out = append(out, &list[i])
	}
	return out
}

// unname takes names out of texts that somebody wrote.
func unname(names []string, texts []*string) {
	for _, t := range texts {
		*t = plain.Without(*t, names)
	}
}

// GoesOn is what is to be won in the draw that goes on, and how many have entered it.
func (m *Memory) GoesOn() (prize string, entries int64, on bool) {
	if m.Now == nil || !m.Now.State.Running() {
		return "", 0, false
	}
	told := m.Now.told(0)
	return told.Prize(), told.Entries, true
}

// NumberOf is the number of the entry of somebody with some accounts in the draw that goes on.
func (m *Memory) NumberOf(accounts []string) (int64, bool) {
	if m.Now == nil || !m.Now.State.Running() {
		return 0, false
	}
	e := m.Now.entryOf(m.whole(accounts))
	if e == nil {
		return 0, false
	}
	return int64(e.Number), true
}

// Now is the draw that goes on, or the last one; nil before the first.
func Now(m room.Memory) *Draw { return Of(m).Now }

// Copied is the memory as it is now, for whoever looks at it while the house goes on.
func (m *Memory) Copied() Memory {
	out := *m
	out.Past, out.Barred, out.Same = slices.Clone(m.Past), maps.Clone(m.Barred), nil
	if m.Now != nil {
		out.Now = m.Now.copied()
	}
	return out
}

// Of is all that is remembered of draws.
func Of(m room.Memory) *Memory { return room.Remembered[Memory](m, Name) }
