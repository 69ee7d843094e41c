// Package overlay is the room of what is shown on the overlays. Whatever goes there leaves what is coming up and
// waits here, in one line for all of them, until an overlay that has a box for it is open and free: then it is released with
// how long it stays. A page tells when it began and when it is over; whatever no page tells of is over by itself.
//
// What waits is a [Waiting]: all that one courtesy shows, plays and speaks at once, so that words, film and sound
// begin and end together.
package overlay

import (
	"slices"
	"time"

	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/room"
)

// Room keeps the line before the overlays, and what stands on them.
var Room = room.Of(room.Spec[Section, Memory]{Name: name, Version: 2,
	Ready: ready,
	Hears: []string{"porch.house.woke", event.CountdownSetType,
		(&happening.Tipped{}).Type(), (&happening.Gifted{}).Type(), (&happening.Subscribed{}).Type(), (&happening.Credits{}).Type()},
	Decide: func(t *room.Turn, s *Section, m *Memory) {
		switch data := t.Event.Data.(type) {
		case *event.Woke:
			decide(t, s, m)
		case *event.CountdownSet:
			handOn(t, s, m, data)
		default:
			lengthen(t, s, m)
			campaign(t, s)
		}
	},
	Sees:   append([]string{event.OverlayOpenedType, event.OverlayClosedType, event.ShowBegunType, event.ShowEndedType, event.SilencedType, "porch.desk.hushed"}, told()...),
	Evolve: evolve,
	Wake:   wake,
	Forget: forget})

const name = "overlay"

// Memory is what the room remembers.
type Memory struct {
	Cards   []Shown            `json:"cards,omitempty"` // the last ones, oldest first
	Line    []Waiting          `json:"line,omitempty"`  // in the order in which it came
	Screens map[string]*Screen `json:"screens,omitempty"`
	Hush    bool               `json:"hush,omitempty"`
	Lifted  time.Time          `json:"lifted,omitzero"` // hush was, last

	Last   map[string][]Did   `json:"last,omitempty"` // who did something last, newest first, by kind
	Sums   map[string]float64 `json:"sums,omitempty"` // of what is counted, ever
	Night  map[string]float64 `json:"night,omitempty"`
	Clocks map[string]*clock  `json:"clocks,omitempty"`
}

// Screen is how an overlay stands.
type Screen struct {
	Open bool      `json:"open,omitempty"`
	Seen time.Time `json:"seen,omitzero"` // it was last known to be there
	On   *Showing  `json:"on,omitempty"`
}

// Showing is what is on an overlay.
type Showing struct {
	Waiting
	Released time.Time `json:"released"`
	Begun    time.Time `json:"begun,omitzero"`
	Ends     time.Time `json:"ends,omitzero"`
}

// ScreenOf is how an overlay stands; nothing of one that was never open.
func ScreenOf(m room.Memory, overlay string) Screen {
	if s := room.Remembered[Memory](m, name).Screens[overlay]; s != nil {
		return *s
	}
	return Screen{}
}

// Line is how many wait for an overlay.
func Line(m room.Memory) int { return len(room.Remembered[Memory](m, name).Line) }

func (m *Memory) screen(id string) *Screen {
	if m.Screens == nil {
		m.Screens = map[string]*Screen{}
	}
	if m.Screens[id] == nil {
		m.Screens[id] = &Screen{}
	}
	return m.Screens[id]
}

// cutOff is within how long of its beginning something that is cut off is shown once more.
const cutOff = time.Second

// mostInLine bounds what is remembered whatever the settings say.
const mostInLine = 200

func evolve(m *Memory, l room.Lived) {
	if l.Opened != nil {
		m.Cards, m.Night = nil, nil
	}
	switch data := l.Event.Data.(type) {
	case *event.OverlayOpened:
		s := m.screen(data.Overlay)
		s.Open, s.Seen = true, l.Now
	case *event.OverlayClosed:
		m.closed(data, l.Now)
	case *event.ShowBegun:
		if s := m.screen(data.Overlay); s.On != nil && s.On.ID == data.Show && s.On.Begun.IsZero() {
			s.On.Begun, s.On.Ends, s.Seen = l.Now, l.Now.Add(room.Seconds(data.Seconds)), l.Now
		}
	case *event.ShowEnded:
		if s := m.screen(data.Overlay); s.On != nil && s.On.ID == data.Show {
			s.On, s.Seen = nil, l.Now
		}
	case *event.Silenced:
		m.silence()
	case *event.Hushed:
		if m.Hush = data.On; !m.Hush {
			m.Lifted = l.Now
		}
	default:
		m.count(l.Event)
	}
	for i := range l.Decisions {
		m.decided(&l.Decisions[i], l.Now)
	}
	m.noted(l)
}

// closed is the last page of an overlay gone: what it had only begun to show is shown once more.
func (m *Memory) closed(data *event.OverlayClosed, now time.Time) {
	s := m.screen(data.Overlay)
	s.Open, s.Seen = false, now
	on := s.On
	if on == nil {
		return
	}
	s.On = nil
	begun := !on.Begun.IsZero() || data.Seconds > 0
	if on.ID != data.Show && data.Show != "" {
		return
	}
	if begun && (slices.Contains(on.Again, data.Overlay) || room.Seconds(data.Seconds) >= cutOff) {
		return
	}
	m.back(on.Waiting, data.Overlay, begun)
}

// back puts something in line once more for one overlay.
func (m *Memory) back(w Waiting, overlay string, begun bool) {
	at := slices.IndexFunc(m.Line, func(x Waiting) bool { return x.ID == w.ID })
	if at < 0 { // everywhere else it was shown, or never is
		w.Only, w.Shown = []string{overlay}, nil
		m.Line = append([]Waiting{w}, m.Line...)
		at = 0
	}
	x := &m.Line[at]
	x.Shown = slices.DeleteFunc(slices.Clone(x.Shown), func(id string) bool { return id == overlay })
	if len(x.Only) > 0 && !slices.Contains(x.Only, overlay) {
		x.Only = append(slices.Clone(x.Only), overlay)
	}
	if begun {
		x.Again = append(slices.Clone(x.Again), overlay)
	}
}

// silence stops what waits to sound; what else is shown with it stays.
func (m *Memory) silence() {
	var line []Waiting
	for _, w := range m.Line {
		parts := slices.DeleteFunc(slices.Clone(w.Parts), Part.sounds)
		if len(parts) > 0 {
			w.Parts, w.Silent = parts, true
			line = append(line, w)
		}
	}
	m.Line = line
	for _, s := range m.Screens {
		if s.On != nil {
			s.On.Silent = true
		}
	}
}

func (m *Memory) decided(d *hall.Decision, now time.Time) {
	switch {
	case isOnScreen(d):
		m.shown(d, now)
		m.joins(d, now)
	case d.Room != name:
	case d.Kind == Show:
		m.released(d, now)
	case d.Kind == over:
		if s := m.screen(d.Place); s.On != nil && s.On.ID == d.Line {
			s.On, s.Seen = nil, now
		}
	case d.Kind == leftOut || d.Kind == hall.Refuse && d.Line != "":
		m.Line = slices.DeleteFunc(slices.Clone(m.Line), func(w Waiting) bool { return w.ID == d.Line })
	}
}
