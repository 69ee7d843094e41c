package points

import (
	"cmp"
	"crypto/sha256"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/plain"
	"vividporch/core/room"
)

// Memory is which epochs count, what was done since the last grant, what is paid for and not settled, who leads, and the games that go on.
type Memory struct {
	All    Epochs `json:"all,omitzero"`
	Season Epochs `json:"season,omitzero"`

	Grants  int             `json:"grants,omitempty"` // in this stream
	Granted time.Time       `json:"granted,omitzero"` // the last one; the opening, before the first
	Lines   map[string]Said `json:"lines,omitempty"`  // by account, since then
	Came    map[string]bool `json:"came,omitempty"`   // who arrived since then

	Open []Charge `json:"open,omitempty"` // paid, and not settled
	Owed []Charge `json:"owed,omitempty"` // to be given back

	Top       []Ranked `json:"top,omitempty"` // who gathered most, the most first
	TopWas    []Ranked `json:"topWas,omitempty"`
	TopSeason []Ranked `json:"topSeason,omitempty"`
	TopBefore []Ranked `json:"topBefore,omitempty"`

	Played map[string]int `json:"played,omitempty"` // how often each played in this stream, by account
	Races  []Race         `json:"races,omitempty"`  // challenges that wait
	Tide   *Tide          `json:"tide,omitempty"`   // that is being brought in
}

// Said is how many lines somebody said since the last grant, in each minute in which they did.
type Said struct {
	Minute time.Time `json:"minute,omitzero"` // the last of them
	In     []int     `json:"in,omitempty"`
}

// counted is how many of them count, of so many a minute.
func (s *Said) counted(most int) (n int) {
	for _, lines := range s.In {
		n += min(lines, most)
	}
	return n
}

// mostMinutes bounds what is remembered between two grants.
const mostMinutes = 60

// MemoryOf is what is remembered of points.
func MemoryOf(m room.Memory) *Memory { return room.Remembered[Memory](m, Name) }

func (m *Memory) evolve(l room.Lived) {
	if l.Opened != nil {
		m.Grants, m.Granted, m.Lines, m.Came, m.Played = 0, *l.Opened, nil, nil, nil
	}
	for i := range l.Decisions {
		x := &l.Decisions[i]
		switch {
		case x.Kind == hall.Arrive && !x.Again:
			m.came(x.Person)
		case x.Kind == hall.Close:
			m.Granted = time.Time{}
		case x.Kind == Kind && x.Room == l.Room:
			m.entered(x, l)
		}
	}
	switch data := l.Event.Data.(type) {
	case *happening.ChatSaid:
		if !slices.ContainsFunc(l.Decisions, func(d hall.Decision) bool { return d.Kind == hall.Neighbour || d.Kind == "touched" }) {
			m.said(data.Person.Key(), l.Now)
		}
	case *event.PointsReset:
		if slices.ContainsFunc(l.Decisions, func(d hall.Decision) bool { return d.Room == l.Room && d.Kind == hall.Note }) {
			m.reset(data)
		}
	}
	m.settle(l)
	m.played(l)
}

func (m *Memory) came(account string) {
	if m.Came == nil {
		m.Came = map[string]bool{}
	}
	m.Came[account] = true
}

// said counts a line of somebody's.
func (m *Memory) said(account string, now time.Time) {
	if m.Lines == nil {
		m.Lines = map[string]Said{}
	}
	s := m.Lines[account]
	if minute := now.Truncate(time.Minute); !s.Minute.Equal(minute) && len(s.In) < mostMinutes {
		s.Minute, s.In = minute, append(slices.Clone(s.In), 0)
	}
	s.In[len(s.In)-1]++
	m.Lines[account] = s
}

// entered moves on by an entry of the ledger.
func (m *Memory) entered(x *hall.Decision, l room.Lived) {
	e, _ := EntryOf(x) // what a forgetting took out tells nothing
	if x.Output == ForHere {
		m.Grants++
		m.Granted, m.Lines, m.Came = l.Now, nil, nil
	}
	if x.Person != "" || len(x.Keeps) > 0 { // not where nobody was here to be given to
		m.begun(x.Output)
	}
	name := func(account string) string {
		for _, j := range x.Joined {
			if j.Person == account {
				return j.Name
			}
		}
		return x.Name
	}
	x.EachKept(func(account string, raw json.RawMessage) { m.rank(account, name(account), raw, e.Whole[account]) })
}

// begun notes that an epoch is no longer new. It goes by why an entry stands in the ledger: a forgetting takes the sums out of the log,
// and not that there was an entry.
func (m *Memory) begun(why string) {
	switch why {
	case Hidden:
	case ForHere, ForSupport, ByHand, Won: // these count for levels, and so for the season
		m.All.New, m.Season.New = false, false
	default:
		m.All.New = false
	}
}

// rank puts somebody where they belong on the lists of those who gathered most.
func (m *Memory) rank(account, name string, raw json.RawMessage, w Whole) {
	var p Purse
	if json.Unmarshal(raw, &p) != nil {
		return
	}
	if len(w.Accounts) == 0 {
		w = Whole{Gathered: m.All.sum(p.All).Gathered, Season: m.Season.sum(p.Season).Gathered}
	}
	others := func(list []Ranked) []Ranked {
		return slices.DeleteFunc(list, func(r Ranked) bool { return r.Account != account && slices.Contains(w.Accounts, r.Account) })
	}
	m.Top = ranked(others(m.Top), Ranked{account, name, w.Gathered}, p.Hidden)
	m.TopSeason = ranked(others(m.TopSeason), Ranked{account, name, w.Season}, p.Hidden)
}

func (m *Memory) reset(data *event.PointsReset) {
	e, top, was := &m.All, &m.Top, &m.TopWas
	if data.Season {
		e, top, was = &m.Season, &m.TopSeason, &m.TopBefore
	}
	if data.Undo {
		e.undo()
		*top, *was = merged(*was, *top), nil
		return
	}
	e.reset()
	*top, *was = nil, *top
}

// grantDue reports whether those who are here are to be given to.
func (m *Memory) grantDue(s *Section, now time.Time) bool {
	at, due := m.grantAt(s)
	return due && !at.After(now)
}

func (m *Memory) grantAt(s *Section) (time.Time, bool) {
	return m.Granted.Add(everyGrant), s.On && !m.Granted.IsZero() && (s.Here > 0 || s.Line > 0 || s.Visit > 0)
}

func (m *Memory) wake(s *Section) (at time.Time, due bool) {
	sooner := func(t time.Time, wants bool) {
		if wants && (!due || t.Before(at)) {
			at, due = t, true
		}
	}
	sooner(m.grantAt(s))
	if len(m.Owed) > 0 {
		sooner(m.Owed[0].At, true)
	}
	for i := range m.Races {
		sooner(m.Races[i].Ends, true)
	}
	if m.Tide != nil {
		sooner(m.Tide.Ends, true)
	}
	return at, due
}

func (m *Memory) forget(gone *hall.Gone) {
	mine := gone.Mine
	for _, k := range gone.Keys {
		delete(m.Lines, k)
		delete(m.Came, k)
		delete(m.Played, k)
	}
	for _, list := range []*[]Ranked{&m.Top, &m.TopWas, &m.TopSeason, &m.TopBefore} {
		*list = slices.DeleteFunc(*list, func(r Ranked) bool { return mine(r.Account) })
	}
	for _, list := range []*[]Charge{&m.Open, &m.Owed} {
		*list = slices.DeleteFunc(*list, func(c Charge) bool { return slices.ContainsFunc(c.Of, func(p Part) bool { return mine(p.Account) }) })
	}
	for _, r := range m.Races {
		if mine(r.To.Key()) && !mine(r.From.Key()) { // whoever challenged them has their stake back
			m.Owed = append(m.Owed, Charge{ID: r.ID, Of: r.Of, Name: plain.Name(r.From.Shown()), At: r.Ends, Why: "nobody can take up the race"})
		}
	}
	m.Races = slices.DeleteFunc(m.Races, func(r Race) bool { return mine(r.From.Key()) || mine(r.To.Key()) })
	if m.Tide != nil {
		m.Tide.Lifted = slices.DeleteFunc(m.Tide.Lifted, func(w []string) bool { return slices.ContainsFunc(w, mine) })
	}
}

// Ranked is somebody on the list of those who gathered most.
type Ranked struct {
	Account  string `json:"account"`
	Name     string `json:"name"`
	Gathered int64  `json:"gathered"`
}

// mostRanked is how many the list has: enough that whoever goes off it leaves it right.
const mostRanked = 100

// ranked puts an account where it belongs on a list.
func ranked(list []Ranked, r Ranked, hidden bool) []Ranked {
	list = slices.DeleteFunc(list, func(o Ranked) bool { return o.Account == r.Account })
	if hidden || r.Gathered <= 0 {
		return list
	}
	at, _ := slices.BinarySearchFunc(list, r, func(a, b Ranked) int {
		return cmp.Or(cmp.Compare(b.Gathered, a.Gathered), strings.Compare(a.Account, b.Account))
	})
	if at >= mostRanked {
		return list
	}
	list = slices.Insert(list, at, r)
	return list[:min(len(list), mostRanked)]
}

func merged(a, b []Ranked) (out []Ranked) {
	sum := map[string]Ranked{}
	for _, r := range slices.Concat(a, b) {
		was := sum[r.Account]
		sum[r.Account] = Ranked{r.Account, r.Name, was.Gathered + r.Gathered}
	}
	for _, k := range slices.Sorted(maps.Keys(sum)) {
		out = ranked(out, sum[k], false)
	}
	return out
}

// Has is what an account has, by what the room keeps of it: raw is its purse.
func (m *Memory) Has(raw json.RawMessage) int64 {
	var p Purse
	if json.Unmarshal(raw, &p) != nil {
		return 0
	}
	return m.All.sum(p.All).Has
}

// Counting are the epochs that count.
type Counting struct{ All, Season []int }

// GrantIDs are the ids of the event by which a file gives an account so many, the how-manieth time in it: one for each epoch that counts, so
// that what a file gave before is known as long as it counts; the last is for now. They are digests: a forgetting leaves the ids of events.
func (c *Counting) GrantIDs(account string, amount int64, time int) (ids []string) {
	epochs := []int{0}
	if c != nil {
		epochs = c.All
	}
	for _, epoch := range epochs {
		ids = append(ids, fmt.Sprintf("points-%x", sha256.Sum256(fmt.Appendf(nil, "%s %d %d %d", account, amount, time, epoch))))
	}
	return ids
}

// Counting are the epochs that count now; nil where nobody ever had points.
func (m *Memory) Counting() *Counting {
	if len(m.Top)+len(m.TopWas)+m.All.Last+m.Season.Last == 0 {
		return nil
	}
	return &Counting{slices.Clone(m.All.live()), slices.Clone(m.Season.live())}
}
