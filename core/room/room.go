// Package room is the frame that every capability of the house stands in.
//
// A room is one package with a [Spec]: its name, the section of the house file that it
// makes ready, the memory it keeps of this stream and of the channel, and what it keeps of
// one account for longer. It says which events it hears, decides them ([Turn] is the only
// way to decide), and moves its memory on by what was decided. Deciding changes nothing and
// evolving decides nothing, so a log of events and decisions brings every room back exactly
// as it was, each by itself.
//
// What all rooms share is the hall's: the stream, who is here, what is coming up, what
// waits. Rooms meet in two ways only: by a decision in another's name through its exported
// function, and by handing a cause to the engine ([Turn.Fill] and its kin: a timer causes, a
// courtesy does).
package room

import (
	"bytes"
	"encoding/json"
	"slices"
	"strings"
	"time"

	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/housefile"
	"vividporch/core/output"
)

// Spec is a room. S is what it makes of its section of the house file, M what it remembers
// of this stream and of the channel; what it keeps of one account for longer is kept by
// [Keep] and handed in by [KeptOf]. Functions that are nil do nothing.
type Spec[S, M any] struct {
	Name    string
	Version int // of the shape of its memory; another one is evolved from the log alone

	// Ready checks its section and makes it ready; at is a path into the house file.
	Ready func(f *housefile.Settings, fault func(courtesy.Fault)) S

	Hears  []string                // types of events that it decides
	Takes  func(*event.Event) bool // and further ones
	Decide func(t *Turn, s *S, m *M)
	// Resume goes on with a line of its own that waited for an answer; a is nil when none
	// came in time.
	Resume func(t *Turn, s *S, m *M, q *hall.Question, a *event.LookupAnswered)

	// Does are outputs that the room does, by their kinds: those whose way is within.
	Does map[output.Kind]func(t *Turn, s *S, m *M, doing *Doing)
	// Pays is asked before and after something is done that costs: see [Bill].
	Pays func(t *Turn, s *S, m *M, b *Bill) (why string)

	Sees   []string // types of events that move its memory though nothing was decided
	Evolve func(m *M, l Lived)
	Wake   func(s *S, m *M) (at time.Time, due bool)
	Forget func(m *M, gone *hall.Gone)

	// Of the guest book it asks: who somebody is, as of now; whose names, too; and whom of
	// those in it a name means. Only what an event says can be looked at.
	Asks  func(p *Plan, s *S, ev *event.Event) bool
	Names func(p *Plan, s *S, ev *event.Event) bool
	Means func(p *Plan, s *S, ev *event.Event) string
}

// Lived is an event as a room's memory moves on by it.
type Lived struct {
	Room      string // whose memory it is
	Event     *event.Event
	Now       time.Time  // the house's clock, which never goes back
	Opened    *time.Time // when the stream opened that opens with it; nil for none
	Decisions []hall.Decision
}

// Room is a [Spec] with its types put away.
type Room struct {
	Name    string
	Version int

	hears, sees []string
	takes       func(*event.Event) bool
	ready       func(f *housefile.Settings, fault func(courtesy.Fault)) any
	fresh       func() any
	decide      func(t *Turn)
	does        map[output.Kind]func(t *Turn, doing *Doing)
	pays        func(t *Turn, b *Bill) string
	resume      func(t *Turn, q *hall.Question, a *event.LookupAnswered)
	evolve      func(m any, l Lived)
	wake        func(p *Plan, m any) (time.Time, bool)
	forget      func(m any, gone *hall.Gone)
	asks, names func(p *Plan, ev *event.Event) bool
	means       func(p *Plan, ev *event.Event) string
}

// Of puts the types of a room away.
func Of[S, M any](spec Spec[S, M]) Room {
	section := func(p *Plan) *S { return Section[S](p, spec.Name) }
	memory := func(t *Turn) *M { return MemoryOf[M](t, spec.Name) }
	r := Room{Name: spec.Name, Version: spec.Version, hears: spec.Hears, sees: spec.Sees, takes: spec.Takes, fresh: func() any { return new(M) }}
	r.ready = func(f *housefile.Settings, fault func(courtesy.Fault)) any {
		s := new(S)
		if spec.Ready != nil {
			*s = spec.Ready(f, fault)
		}
		return s
	}
	if spec.Decide != nil {
		r.decide = func(t *Turn) { spec.Decide(t, section(t.Plan), memory(t)) }
	}
	for kind, f := range spec.Does {
		if r.does == nil {
			r.does = map[output.Kind]func(*Turn, *Doing){}
		}
		r.does[kind] = func(t *Turn, d *Doing) { f(t, section(t.Plan), memory(t), d) }
	}
	if spec.Pays != nil {
		r.pays = func(t *Turn, b *Bill) string { return spec.Pays(t, section(t.Plan), memory(t), b) }
	}
	if spec.Resume != nil {
		r.resume = func(t *Turn, q *hall.Question, a *event.LookupAnswered) {
			spec.Resume(t, section(t.Plan), memory(t), q, a)
		}
	}
	if spec.Evolve != nil {
		r.evolve = func(m any, l Lived) { spec.Evolve(m.(*M), l) }
	}
	if spec.Wake != nil {
		r.wake = func(p *Plan, m any) (time.Time, bool) { return spec.Wake(section(p), m.(*M)) }
	}
	if spec.Forget != nil {
		r.forget = func(m any, gone *hall.Gone) { spec.Forget(m.(*M), gone) }
	}
	if spec.Asks != nil {
		r.asks = func(p *Plan, ev *event.Event) bool { return spec.Asks(p, section(p), ev) }
	}
	if spec.Names != nil {
		r.names = func(p *Plan, ev *event.Event) bool { return spec.Names(p, section(p), ev) }
	}
	if spec.Means != nil {
		r.means = func(p *Plan, ev *event.Event) string { return spec.Means(p, section(p), ev) }
	}
	return r
}

// ReadSection reads a room's section of the house file, which stands under "rooms". What
// the room does not know is a fault at its name.
func ReadSection[S any](f *housefile.Settings, name string, fault func(courtesy.Fault)) (s S) {
	raw, ok := f.Rooms[name]
	if !ok {
		return s
	}
	dec := json.NewDecoder(bytes.NewReader(raw))
	dec.DisallowUnknownFields()
	if err := dec.Decode(&s); err != nil {
		fault(courtesy.Fault{At: "rooms." + name, What: "cannot be read: " + strings.TrimPrefix(err.Error(), "json: "), Remedy: "mend that field, or take it out"})
	}
	return s
}

// Section is what a room made ready of its settings.
func Section[S any](p *Plan, name string) *S {
	if s, ok := p.sections[name].(*S); ok {
		return s
	}
	return new(S)
}

// MemoryOf is what a room remembers, for its own exported functions.
func MemoryOf[M any](t *Turn, name string) *M { return Remembered[M](t.Memory, name) }

// Remembered is what a room remembers.
func Remembered[M any](m Memory, name string) *M {
	if x, ok := m[name].(*M); ok {
		return x
	}
	return new(M)
}

// Hears reports whether a room decides an event.
func (r *Room) Hears(ev *event.Event) bool {
	return r.decide != nil && (slices.Contains(r.hears, ev.Type) || r.takes != nil && r.takes(ev))
}

// Asks reports whether a room asks the guest book, as of now, who an event is of.
func (r *Room) Asks(p *Plan, ev *event.Event) bool { return r.asks != nil && r.asks(p, ev) }

// Names reports whether it asks for all they were ever called, too.
func (r *Room) Names(p *Plan, ev *event.Event) bool { return r.names != nil && r.names(p, ev) }

// Means is the name in an event that may mean somebody of the guest book, or "".
func (r *Room) Means(p *Plan, ev *event.Event) string {
	if r.means == nil {
		return ""
	}
	return r.means(p, ev)
}

// Decide lets a room decide the event of a turn.
func (r *Room) Decide(t *Turn) {
	t.room = r.Name
	r.decide(t)
}

// Memory is what the rooms remember, by their names.
type Memory map[string]any

// Fresh is the memory of rooms in which nothing has happened yet.
func Fresh(rooms []Room) Memory {
	m := Memory{}
	for i := range rooms {
		m[rooms[i].Name] = rooms[i].fresh()
	}
	return m
}

// Evolve moves the memory of rooms on by an event and what was decided about it, and
// takes out of it whoever was forgotten.
func (m Memory) Evolve(rooms []Room, l Lived, gone *hall.Gone) {
	for i := range rooms {
		r := &rooms[i]
		l.Room = r.Name
		if r.evolve != nil && (len(l.Decisions) > 0 || slices.Contains(r.sees, l.Event.Type)) {
			r.evolve(m[r.Name], l)
		}
		if gone != nil && r.forget != nil {
			r.forget(m[r.Name], gone)
		}
	}
}

// Wake is when the first of the rooms wants to be woken; false when none does.
func (m Memory) Wake(rooms []Room, p *Plan) (at time.Time, due bool) {
	for i := range rooms {
		if r := &rooms[i]; r.wake != nil {
			if t, wants := r.wake(p, m[r.Name]); wants && (!due || t.Before(at)) {
				at, due = t, true
			}
		}
	}
	return at, due
}

// kept is a room's memory in a snapshot.
type kept struct {
	Version int             `json:"version"`
	Memory  json.RawMessage `json:"memory"`
}

// Write is the memory of rooms for a snapshot, each under its version.
func (m Memory) Write(rooms []Room) (map[string]json.RawMessage, error) {
	out := map[string]json.RawMessage{}
	for i := range rooms {
		r := &rooms[i]
		raw, err := json.Marshal(m[r.Name])
		if err != nil {
			return nil, err
		}
		if out[r.Name], err = json.Marshal(kept{r.Version, raw}); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// Read reads the memory of rooms from a snapshot. A room that is not in it, or in another
// shape, begins anew and is named: it is evolved from the log alone.
func Read(rooms []Room, raw map[string]json.RawMessage) (m Memory, anew []string) {
	m = Fresh(rooms)
	for i := range rooms {
		r := &rooms[i]
		var k kept
		if json.Unmarshal(raw[r.Name], &k) != nil || k.Version != r.Version || json.Unmarshal(k.Memory, m[r.Name]) != nil {
			m[r.Name] = r.fresh()
			anew = append(anew, r.Name)
		}
	}
	return m, anew
}
