package overlay

import (
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"
	"time"

	"vividporch/core/box"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/room"
)

// clock is how a countdown stands, by the id of its box. Of is what it was made of: another length or end of its box
// makes it anew.
type clock struct {
	Of    string        `json:"of"`
	Ends  time.Time     `json:"ends,omitzero"` // it runs
	Left  time.Duration `json:"left,omitempty"`
	Added float64       `json:"added,omitempty"` // seconds, by support
}

// turned is what is noted of a countdown: how it stands from now on.
type turned struct {
	Box string `json:"box"`
	clock
}

const turns = "countdown "

func madeOf(c *box.Countdown) string {
	return c.Until + "/" + strconv.FormatFloat(c.Seconds, 'g', -1, 64)
}

// clockOf is how a countdown stands: as it was last set, or as it begins.
func (m *Memory) clockOf(id string, c *box.Countdown) clock {
	if k := m.Clocks[id]; k != nil && k.Of == madeOf(c) {
		return *k
	}
	k := clock{Of: madeOf(c), Left: room.Seconds(c.Seconds)}
	if at, err := time.Parse(time.RFC3339, c.Until); err == nil && c.Until != "" {
		k.Ends, k.Left = at, 0
	}
	return k
}

// Clock is how a countdown stands.
func (f facts) Clock(id string) box.Clock {
	c := f.section.clocks[id]
	if c == nil {
		return box.Clock{}
	}
	k := f.m.clockOf(id, c)
	return box.Clock{Ends: k.Ends, Left: k.Left, Runs: !k.Ends.IsZero()}
}

// noted sets what was decided of countdowns.
func (m *Memory) noted(l room.Lived) {
	for i := range l.Decisions {
		x := &l.Decisions[i]
		if x.Kind != hall.Note || x.Room != name {
			continue
		}
		what := strings.TrimPrefix(x.Output, name+" ")
		if what == countsFor {
			for _, g := range room.Noted[counted](room.Lived{Room: name, Decisions: l.Decisions[i : i+1]}, what) {
				m.add(g.Key, g.N)
			}
			continue
		}
		for _, t := range room.Noted[turned](room.Lived{Room: name, Decisions: l.Decisions[i : i+1]}, what) {
			if m.Clocks == nil {
				m.Clocks = map[string]*clock{}
			}
			k := t.clock
			m.Clocks[t.Box] = &k
		}
	}
}

// handOn does what a member's hand does to a countdown.
func handOn(t *room.Turn, s *Section, m *Memory, data *event.CountdownSet) {
	c := s.clocks[data.Box]
	if c == nil {
		t.Decide(hall.Decision{Kind: hall.Refuse, Output: "desk", Because: []string{"there is no such countdown any more"}})
		return
	}
	k := m.clockOf(data.Box, c)
	left := k.Left
	if !k.Ends.IsZero() {
		left = max(0, k.Ends.Sub(t.Now))
	}
	runs := !k.Ends.IsZero()
	switch data.Act {
	case event.CountdownGo:
		runs = true
	case event.CountdownPause:
		runs = false
	case event.CountdownAt:
		left = room.Seconds(data.Seconds)
	case event.CountdownAdd:
		left = min(max(0, left+room.Seconds(data.Seconds)), event.CountdownMost*time.Second)
	case event.CountdownAnew:
		k = (&Memory{}).clockOf(data.Box, c)
		left, runs = k.Left, !k.Ends.IsZero()
		if runs {
			left = max(0, k.Ends.Sub(t.Now))
		}
	}
	k.Left, k.Ends = left, time.Time{}
	if runs {
		k.Left, k.Ends = 0, t.Now.Add(left)
	}
	room.Note(t, turns+data.Box, turned{data.Box, k}, "set at the desk")
}

// lengthen lengthens the countdowns by what somebody gave.
func lengthen(t *room.Turn, s *Section, m *Memory) {
	for _, id := range slices.Sorted(maps.Keys(s.clocks)) {
		c := s.clocks[id]
		add := 0.0
		for _, a := range c.Adds {
			add += a.Seconds * times(&a, t.Event.Data)
		}
		if add <= 0 {
			continue
		}
		add = min(add, event.CountdownMost)
		k := m.clockOf(id, c)
		if c.Most > 0 {
			add = min(add, max(0, c.Most-k.Added))
		}
		runs := !k.Ends.IsZero()
		if runs && !k.Ends.After(t.Now) || !runs && k.Left <= 0 { // it has come to its end
			continue
		}
		by := room.Seconds(add)
		if stop, err := time.Parse(time.RFC3339, c.Stop); err == nil && c.Stop != "" {
			ends := k.Ends
			if !runs {
				ends = t.Now.Add(k.Left)
			}
			by = min(by, max(0, stop.Sub(ends)))
		}
		if by <= 0 {
			continue
		}
		k.Added += by.Seconds()
		if runs {
			k.Ends = k.Ends.Add(by)
		} else {
			k.Left += by
		}
		room.Note(t, turns+id, turned{id, k}, fmt.Sprintf("lengthened by %s", by.Round(time.Second)))
	}
}

// times is how often something that was given counts for a rule.
func times(a *box.Add, data event.Data) float64 {
	switch d := data.(type) {
	case *happening.Subscribed:
		if a.For == "month" {
			return 1
		}
	case *happening.Gifted:
		if a.For == "gift" {
			return float64(min(d.Count, mostGifts))
		}
	case *happening.Credits:
		if a.For == "credit" {
			return float64(d.Amount / 100)
		}
	case *happening.Tipped:
		n, err := strconv.ParseFloat(d.Amount, 64)
		if a.For == "unit" && err == nil && strings.EqualFold(a.Currency, d.Currency) && (a.Campaign == "" || strings.EqualFold(strings.TrimSpace(a.Campaign), strings.TrimSpace(d.Campaign))) {
			return n
		}
	}
	return 0
}

// mostGifts of one present lengthen anything: nobody gives more.
const mostGifts = 10_000
