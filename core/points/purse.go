package points

import (
	"encoding/json"
	"maps"
	"slices"

	"vividporch/core/event"
)

// Sum is what an account has, and all that it ever gathered: levels and ranks go by that, and spending takes nothing from it.
type Sum struct {
	Has      int64 `json:"has,omitempty"`
	Gathered int64 `json:"gathered,omitempty"`
}

// Purse is what is kept of an account: sums by epoch. A reset begins an epoch; which of them count stands in the memory, so that a reset,
// and its undoing, touches nobody's purse.
type Purse struct {
	All    map[int]Sum `json:"all,omitempty"`
	Season map[int]Sum `json:"season,omitempty"`
	Hidden bool        `json:"hidden,omitempty"` // not on the list of ranks
}

// Epochs are those that count, and those that counted before the last reset.
type Epochs struct {
	Live []int `json:"live,omitempty"` // the last is the present one; none is the first, 0
	Was  []int `json:"was,omitempty"`
	Last int   `json:"last,omitempty"` // the highest that ever was
	New  bool  `json:"new,omitempty"`  // nothing was entered in the present one
}

func (e *Epochs) live() []int {
	if len(e.Live) == 0 {
		return []int{0}
	}
	return e.Live
}

// now is the present epoch.
func (e *Epochs) now() int { l := e.live(); return l[len(l)-1] }

func (e *Epochs) reset() {
	e.Was = e.live()
	e.Last++
	e.Live = []int{e.Last}
	e.New = true
}

func (e *Epochs) undo() {
	if len(e.Was) > 0 {
		e.Live, e.Was, e.New = append(slices.Clone(e.Was), e.live()...), nil, false
	}
}

// CanUndo reports whether the last reset can be taken back.
func (e *Epochs) CanUndo() bool { return len(e.Was) > 0 }

// sum is what counts of some sums.
func (e *Epochs) sum(of map[int]Sum) (out Sum) {
	for _, n := range e.live() {
		out.Has += of[n].Has
		out.Gathered += of[n].Gathered
	}
	return out
}

// with adds to the present epoch, and lets go of what can never count again.
func (e *Epochs) with(of map[int]Sum, has, gathered int64) map[int]Sum {
	out := map[int]Sum{}
	for n, s := range of {
		if slices.Contains(e.live(), n) || slices.Contains(e.Was, n) {
			out[n] = s
		}
	}
	s := out[e.now()]
	s.Has, s.Gathered = bounded(s.Has+has), bounded(s.Gathered+gathered)
	out[e.now()] = s
	return out
}

func bounded(n int64) int64 { return max(-event.MostPoints, min(event.MostPoints, n)) }

// purses are those of a person, by account.
type purses map[string]Purse

// has is what a person has, over all accounts.
func (p purses) has(m *Memory) (n int64) {
	for _, x := range p {
		n += m.All.sum(x.All).Has
	}
	return max(0, n)
}

// gathered is all that a person ever gathered.
func (p purses) gathered(m *Memory) (n int64) {
	for _, x := range p {
		n += m.All.sum(x.All).Gathered
	}
	return n
}

// over are the purses as they are once what was decided of some accounts in the same breath holds.
func (p purses) over(keeps map[string]json.RawMessage) purses {
	for account := range p {
		if raw := keeps[account]; raw != nil {
			var x Purse
			_ = json.Unmarshal(raw, &x) // as it was written here
			p[account] = x
		}
	}
	return p
}

func (p purses) hidden() bool {
	return slices.ContainsFunc(slices.Collect(maps.Values(p)), func(x Purse) bool { return x.Hidden })
}

// added is a purse with more, or less, in it. What is gathered never falls by spending.
func (p Purse) added(m *Memory, has, gathered int64) Purse {
	p.All = m.All.with(p.All, has, gathered)
	if gathered != 0 {
		p.Season = m.Season.with(p.Season, 0, gathered)
	}
	return p
}

// split is from which accounts of a person so much is taken: first from the one they use, then from the others in their order, so
// that no account owes anything when a person is parted.
func (p purses) split(m *Memory, own string, amount int64) (out []Part) {
	order := slices.Sorted(maps.Keys(p))
	slices.SortStableFunc(order, func(a, b string) int {
		switch {
		case a == own:
			return -1
		case b == own:
			return 1
		}
		return 0
	})
	for _, k := range order {
		if n := min(amount, m.All.sum(p[k].All).Has); n > 0 {
			out = append(out, Part{k, n})
			amount -= n
		}
	}
	return out
}

// Part is so many points of one account.
type Part struct {
	Account string `json:"account"`
	Amount  int64  `json:"amount"`
}

func (p Purse) json() json.RawMessage {
	raw, _ := json.Marshal(p)
	return raw
}
