// Package count is the room that remembers how many follow, subscribe and watch: as platforms told
// it, and counted on by what has happened since.
package count

import (
	"slices"
	"time"

	"vividporch/core/box"
	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/room"
)

// Room remembers counts. It decides nothing.
var Room = room.Of(room.Spec[struct{}, Memory]{Name: name, Version: 1,
	Sees: []string{event.CountsToldType, (&happening.PersonFollowed{}).Type(), (&happening.Subscribed{}).Type()},
	Evolve: func(m *Memory, l room.Lived) {
		switch data := l.Event.Data.(type) {
		case *event.CountsTold:
			for what, n := range data.Counts {
				m.tell(data.Platform, what, Told{N: n, At: l.Now})
			}
		case *happening.PersonFollowed:
			m.oneMore(data.Person.Platform, "followers", l.Event)
		case *happening.Subscribed:
			if data.Months <= 1 {
				m.oneMore(data.Person.Platform, "subscribers", l.Event)
			}
		}
	}})

const name = "count"

// GoodFor is how long what a platform told is good for. What is older is not known.
const GoodFor = 24 * time.Hour

// Memory is what platforms told of their counts, by platform and what is counted.
type Memory struct {
	Of map[string]map[string]Told `json:"of,omitempty"`
}

// Told is a count as it was told at a moment, with what came since.
type Told struct {
	N  int64     `json:"n"`
	At time.Time `json:"at"`
}

func (m *Memory) tell(platform, what string, told Told) {
	if m.Of == nil {
		m.Of = map[string]map[string]Told{}
	}
	if m.Of[platform] == nil {
		m.Of[platform] = map[string]Told{}
	}
	m.Of[platform][what] = told
}

// oneMore counts on from what was told. What happened before it was told is in it already.
func (m *Memory) oneMore(platform, what string, ev *event.Event) {
	if told, ok := m.Of[platform][what]; ok && ev.Time.After(told.At) {
		told.N++
		m.Of[platform][what] = told
	}
}

// Count is a count of one platform, or of all of them together where it is not known of that one.
// How many watch is told by the stream itself.
func (m *Memory) Count(t *room.Turn, platform, what string) (n int64, ok bool) {
	if what == "watching" {
		return watching(t, platform)
	}
	one := func(p string) (int64, bool) {
		told, ok := m.Of[p][what]
		return told.N, ok && t.Now.Sub(told.At) < GoodFor
	}
	if n, ok = one(platform); ok {
		return n, true
	}
	for p := range m.Of {
		if k, is := one(p); is {
			n, ok = n+k, true
		}
	}
	return n, ok
}

func watching(t *room.Turn, platform string) (n int64, ok bool) {
	s := &t.State.Stream
	if !t.IsLive() {
		return 0, false
	}
	if p := s.Platforms[platform]; p != nil && p.Live && p.Viewers > 0 {
		return p.Viewers, true
	}
	for _, on := range s.OnTo(0) {
		if p := s.Platforms[on]; p != nil && p.Viewers > 0 {
			n, ok = n+p.Viewers, true
		}
	}
	return n, ok
}

// Known is how many there are over all platforms, as far as they told; false where none did lately.
func Known(m room.Memory, what string, now time.Time) (n int64, ok bool) {
	for _, of := range room.Remembered[Memory](m, name).Of {
		if told, is := of[what]; is && now.Sub(told.At) < GoodFor {
			n, ok = n+told.N, true
		}
	}
	return n, ok
}

// Asks reports whether any words of a house, or a box on an overlay, want to know what a platform counts.
func Asks(p *room.Plan) bool {
	for i := range p.Settings.Overlays {
		for _, b := range p.Settings.Overlays[i].Boxes {
			if b.Kind() == box.KindGoal || b.Kind() == box.KindCount {
				return true
			}
		}
	}
	return slices.ContainsFunc([]string{"followers", "subscribers"}, p.Uses)
}
