// Package timer is the room for what comes up by time alone: now and then, and when nobody speaks.
//
// A timer is a courtesy. It comes up so many minutes after it was last done, and only if people said so
// many lines since, on each platform by itself. Several share the time: the one that was least recently
// done goes first, any two keep their distance, and at the opening their first times are spread. When the
// house has said its share of chat, timers are held, and nothing else is.
package timer

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
	"time"

	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/housefile"
	"vividporch/core/room"
	"vividporch/core/who"
)

// Room says what comes now and then.
var Room = room.Of(room.Spec[section, Memory]{Name: name, Version: 1,
	Ready: func(f *housefile.Settings, _ func(courtesy.Fault)) section { return of(f) },
	Hears: []string{happening.ChatSaidType, "porch.house.woke", happening.StreamOpenedType, "porch.desk.declared"},
	Decide: func(t *room.Turn, s *section, m *Memory) {
		if len(s.timers) == 0 || t.IsLate {
			return
		}
		if said, ok := t.Event.Data.(*happening.ChatSaid); ok {
			if !t.Plan.IsNeighbour(said.Person) {
				s.heard(t, m, said.Person.Platform)
			}
			return
		}
		for _, p := range s.platforms {
			if _, woke := t.Event.Data.(*event.Woke); woke {
				s.due(t, m, p, 0)
			} else {
				s.arm(t, m, p)
			}
		}
	},
	Sees:   []string{happening.ChatSaidType},
	Evolve: func(m *Memory, l room.Lived) { m.evolve(l) },
	Wake:   func(s *section, m *Memory) (time.Time, bool) { return s.wake(m) }})

const name = "timer"

// The usual manners, where the settings say nothing.
const (
	DefaultApart = 5 * time.Minute
	DefaultShare = 20 // percent
)

// shareOf is of how many lines of chat the house's share is reckoned.
const shareOf = 50

// section is the timers made ready of the settings.
type section struct {
	timers    []timed
	platforms []string // with a chat door
	apart     time.Duration
	share     int // percent
}

// timed is one timer.
type timed struct {
	id         string
	only       string // the platform it is for; "" for all
	lull       bool
	every, off time.Duration
	lines      int64
}

func of(f *housefile.Settings) section {
	s := section{apart: room.Seconds(60 * f.Pace.TimersApart), share: int(f.Pace.SharePercent)}
	s.apart, s.share = cmp.Or(s.apart, DefaultApart), cmp.Or(s.share, DefaultShare)
	for _, c := range f.Courtesy {
		if c.On && !c.Away && c.Timer != nil && (c.When == happening.Timer || c.When == happening.Lull) {
			s.timers = append(s.timers, timed{c.ID, c.Who.Platform, c.When == happening.Lull, room.Seconds(60 * c.Timer.Minutes), room.Seconds(60 * c.Timer.OffMinutes), int64(c.Timer.Lines)})
		}
	}
	for _, d := range f.Doors {
		if d.Kind == "irc" && d.As == "" && !slices.Contains(s.platforms, d.Platform) {
			s.platforms = append(s.platforms, d.Platform)
		}
	}
	return s
}

// Memory is what was said on each platform, and when each timer was done.
type Memory struct {
	On    map[string]*Platform `json:"on,omitempty"`
	Since time.Time            `json:"since,omitzero"` // the stream opened, or the last one ended
	Live  bool                 `json:"live,omitempty"`
}

// Platform is how chat stands on one.
type Platform struct {
	Lines  int64            `json:"lines"`           // said by people, ever
	Spoke  time.Time        `json:"spoke,omitzero"`  // the last of them
	Recent []bool           `json:"recent"`          // the last lines, the oldest first; true for the house's
	Last   time.Time        `json:"last,omitzero"`   // a timer was done
	Rests  time.Time        `json:"rests,omitzero"`  // all of them are held until then
	Done   map[string]*Done `json:"done,omitempty"`  // by courtesy
	First  int              `json:"first,omitempty"` // how many were done since the opening
}

// Done is when a timer was last done, or is held until.
type Done struct {
	At    time.Time `json:"at,omitzero"`
	Lines int64     `json:"lines"` // said by people by then
	Rests time.Time `json:"rests,omitzero"`
	Why   string    `json:"why,omitempty"` // it is held
}

// moved is what one decision moves on.
type moved struct {
	Platform string    `json:"platform"`
	Courtesy string    `json:"courtesy,omitempty"`
	Done     bool      `json:"done,omitempty"`
	Rests    time.Time `json:"rests,omitzero"`
	Why      string    `json:"why,omitempty"`
}

func (m *Memory) of(platform string) *Platform {
	if m.On == nil {
		m.On = map[string]*Platform{}
	}
	if m.On[platform] == nil {
		m.On[platform] = &Platform{}
	}
	return m.On[platform]
}

func (p *Platform) of(courtesy string) *Done {
	if p.Done == nil {
		p.Done = map[string]*Done{}
	}
	if p.Done[courtesy] == nil {
		p.Done[courtesy] = &Done{}
	}
	return p.Done[courtesy]
}

func (p *Platform) heard(house bool) {
	p.Recent = append(p.Recent[max(0, len(p.Recent)-shareOf+1):], house)
}

// Share is how much of the last lines the house said, in percent; 0 before there were ten.
func (p *Platform) Share() int {
	n := 0
	for _, house := range p.Recent {
		if house {
			n++
		}
	}
	if len(p.Recent) < 10 {
		return 0
	}
	return 100 * n / len(p.Recent)
}

func (m *Memory) evolve(l room.Lived) {
	neighbour := false
	for i := range l.Decisions {
		switch x := &l.Decisions[i]; {
		case x.Kind == hall.Close: // another stream may open with the same event, and does so after it
			m.begin(l.Now, false)
		case x.Kind == hall.Continue:
			m.Live = true
		case x.Kind == hall.Neighbour:
			neighbour = true
		}
	}
	if l.Opened != nil {
		m.begin(*l.Opened, true)
	}
	if data, ok := l.Event.Data.(*happening.ChatSaid); ok && !neighbour {
		p := m.of(data.Person.Platform)
		p.Lines, p.Spoke = p.Lines+1, l.Now
		p.heard(false)
	}
	for i := range l.Decisions {
		if x := &l.Decisions[i]; x.Kind == hall.Say && x.Platform != "" {
			m.of(x.Platform).heard(true)
		}
	}
	for i := range l.Decisions {
		for _, x := range room.Noted[moved](room.Lived{Room: l.Room, Decisions: l.Decisions[i : i+1]}, noteOf(&l.Decisions[i])) {
			m.move(x, l.Now)
		}
	}
}

// noteOf is what a note of this room says it is about.
func noteOf(d *hall.Decision) string {
	if d.Kind != hall.Note || len(d.Output) <= len(name)+1 {
		return ""
	}
	return d.Output[len(name)+1:]
}

func (m *Memory) move(x moved, now time.Time) {
	p := m.of(x.Platform)
	if x.Courtesy == "" {
		p.Rests = x.Rests
		return
	}
	d := p.of(x.Courtesy)
	d.Rests, d.Why = x.Rests, x.Why
	if x.Done {
		d.At, d.Lines, p.Last, p.First = now, p.Lines, now, p.First+1
	}
}

// begin begins a period of its own, with a stream or without one.
func (m *Memory) begin(at time.Time, live bool) {
	m.Since, m.Live = at, live
	for _, p := range m.On {
		p.Done, p.Last, p.Rests, p.First, p.Recent = nil, time.Time{}, time.Time{}, 0, nil
	}
}

// interval is how long lies between two of a timer now; 0 is not now.
func (t *timed) interval(live bool) time.Duration {
	if live {
		return t.every
	}
	return t.off
}

func (t *timed) isFor(platform string) bool { return t.only == "" || t.only == platform }

// comes is when the i-th of the timers can come up on a platform, as far as time decides it; ok is false
// where lines are missing, or it is not for now. more is how many lines there are beyond those remembered.
func (s *section) comes(m *Memory, platform string, p *Platform, i int, more int64) (at time.Time, ok bool) {
	t := &s.timers[i]
	every := t.interval(m.Live)
	if every <= 0 || m.Since.IsZero() || !t.isFor(platform) {
		return at, false
	}
	d := p.Done[t.id]
	if d == nil {
		d = &Done{}
	}
	switch {
	case t.lull && d.Rests.IsZero():
		return at, false // once for one lull
	case t.lull:
		at = d.Rests
	case d.At.IsZero(): // the first of each: spread, none later than its own interval
		at = m.Since.Add(min(every, s.apart*time.Duration(i+1)))
	default:
		at = d.At.Add(every)
	}
	if !t.lull && p.Lines+more-d.Lines < t.lines {
		return at, false
	}
	for _, later := range []time.Time{p.Rests, d.Rests} {
		if later.After(at) {
			at = later
		}
	}
	if apart := p.Last.Add(s.apart); !p.Last.IsZero() && apart.After(at) {
		at = apart
	}
	return at, true
}

// wake is when the first timer can come up.
func (s *section) wake(m *Memory) (first time.Time, due bool) {
	for _, platform := range s.platforms {
		p := m.On[platform]
		if p == nil {
			p = &Platform{}
		}
		for i := range s.timers {
			if at, ok := s.comes(m, platform, p, i, 0); ok && (!due || at.Before(first)) {
				first, due = at, true
			}
		}
	}
	return first, due
}

// arm has the lulls of a platform looked at when they could have come: further lines of chat move nothing
// that waits, so that a lull is looked at then, and again as long after the last line as it is to be quiet.
func (s *section) arm(t *room.Turn, m *Memory, platform string) {
	p := m.On[platform]
	for i := range s.timers {
		x := &s.timers[i]
		if !x.lull || !x.isFor(platform) || p != nil && p.Done[x.id] != nil && !p.Done[x.id].Rests.IsZero() && t.IsLive() && m.Live {
			continue
		}
		room.Note(t, "lull "+platform+" "+x.id, moved{Platform: platform, Courtesy: x.id, Rests: t.Now.Add(x.every)}, "looks then whether it is quiet")
	}
}

// heard looks whether a line of chat was the one that a timer lacked.
func (s *section) heard(t *room.Turn, m *Memory, platform string) {
	p := m.On[platform]
	if p == nil {
		p = &Platform{}
	}
	for i := range s.timers {
		x := &s.timers[i]
		if x.lull || x.lines == 0 || p.Lines+1-p.lines(x.id) != x.lines {
			continue
		}
		if at, ok := s.comes(m, platform, p, i, 1); ok && at.After(t.Now) {
			room.Note(t, "ready "+platform, moved{Platform: platform, Courtesy: x.id, Rests: at}, "enough was said for it") // so that it is woken for
			return
		}
	}
	s.due(t, m, platform, 1)
	if m.Live {
		s.arm(t, m, platform)
	}
}

// How long a timer that cannot be done now is held before it is looked at again.
const (
	looksAgain = 5 * time.Minute
	shareAgain = time.Minute
)

// due does the timer of a platform whose time has come and that was least recently done. What cannot be
// done now is held, with why.
func (s *section) due(t *room.Turn, m *Memory, platform string, more int64) {
	p := m.On[platform]
	if p == nil {
		p = &Platform{}
	}
	if t.Now.Before(p.Rests) || !p.Last.IsZero() && t.Now.Before(p.Last.Add(s.apart)) {
		return // all keep their distance
	}
	var ready []int
	for i := range s.timers {
		if at, ok := s.comes(m, platform, p, i, more); ok && !at.After(t.Now) {
			ready = append(ready, i)
		}
	}
	if len(ready) == 0 {
		return
	}
	slices.SortStableFunc(ready, func(a, b int) int { return p.last(s.timers[a].id).Compare(p.last(s.timers[b].id)) })
	if share := p.Share(); s.share < 100 && share >= s.share {
		room.Note(t, "share "+platform, moved{Platform: platform, Rests: t.Now.Add(shareAgain)}, fmt.Sprintf("the house said %d%% of the last lines; from %d%% on timers are held", share, s.share))
		return
	}
	onAir := !t.IsLive() || slices.Contains(t.OnAir(), platform)
	for _, i := range ready {
		id := s.timers[i].id
		if x := &s.timers[i]; x.lull {
			quiet := p.Spoke
			if quiet.Before(m.Since) {
				quiet = m.Since
			}
			if more > 0 || quiet.Add(x.every).After(t.Now) {
				if more > 0 {
					quiet = t.Now
				}
				room.Note(t, "lull "+platform+" "+id, moved{Platform: platform, Courtesy: id, Rests: quiet.Add(x.every)}, "looks then whether it is quiet")
				continue
			}
		}
		r := t.Find(id)
		why := ""
		c := who.Cause{When: happening.Timer, Live: true, At: t.Now.In(t.Plan.Zone)}
		c.Person.Platform = platform
		switch {
		case r == nil:
			why = "is put away"
		case !onAir:
			why = "the stream is not on there"
		default:
			c.When = r.When
			if ok, misfit := r.Fits(c); !ok {
				why = misfit
			}
		}
		if why != "" {
			room.Note(t, "held "+platform+" "+id, moved{Platform: platform, Courtesy: id, Rests: t.Now.Add(looksAgain), Why: why}, "held: "+why)
			continue
		}
		room.Note(t, "done "+platform+" "+id, moved{Platform: platform, Courtesy: id, Done: true}, "its time had come")
		t.OfTime(r.When, fmt.Sprintf("time-%d-%d-%s-%d", t.State.Stream.Number, m.Since.Unix(), platform, p.First), func() { t.Fill(c, r, nil, t.Args(), []string{platform}) })
		t.ReleaseIfDue()
		return
	}
}

// lines is how many lines people had said when a timer was last done.
func (p *Platform) lines(id string) int64 {
	if d := p.Done[id]; d != nil {
		return d.Lines
	}
	return 0
}

// last is when a timer was last done.
func (p *Platform) last(id string) time.Time {
	if d := p.Done[id]; d != nil {
		return d.At
	}
	return time.Time{}
}

// Move is what became of a timer with an event.
type Move struct {
	Courtesy, Platform string
	Done               bool   // it was done; else it is held
	Why                string // it is held
}

// Moves are what became of timers with an event; of those that are held because the house has said its
// share, one without a courtesy.
func Moves(ds []hall.Decision) (out []Move) {
	for i := range ds {
		if ds[i].Room != name || ds[i].Kind != hall.Note {
			continue
		}
		for _, x := range room.Noted[moved](room.Lived{Room: name, Decisions: ds[i : i+1]}, noteOf(&ds[i])) {
			switch {
			case x.Done:
				out = append(out, Move{Courtesy: x.Courtesy, Platform: x.Platform, Done: true})
			case x.Why != "" || x.Courtesy == "":
				out = append(out, Move{Courtesy: x.Courtesy, Platform: x.Platform, Why: cmp.Or(x.Why, strings.Join(ds[i].Because, "; "))})
			}
		}
	}
	return out
}

// Next is when a timer is due on a platform by its own minutes alone, and how many lines it lacks.
type Next struct {
	Courtesy, Platform string
	At                 time.Time
	Lacks, Of          int64 // lines
}

// Nexts are when timers are due, on each platform; lulls left out.
func Nexts(p *room.Plan, mem room.Memory) (out []Next) {
	s, m := room.Section[section](p, name), room.Remembered[Memory](mem, name)
	for _, platform := range s.platforms {
		of := m.On[platform]
		if of == nil {
			of = &Platform{}
		}
		bare := *of // of time alone: no distance, and nothing held
		bare.Last, bare.Rests, bare.Done = time.Time{}, time.Time{}, map[string]*Done{}
		for i := range s.timers {
			t := &s.timers[i]
			d := of.Done[t.id]
			if d == nil {
				d = &Done{}
			}
			bare.Done[t.id] = &Done{At: d.At, Lines: d.Lines}
			if at, ok := s.comes(m, platform, &bare, i, t.lines); ok && !t.lull {
				out = append(out, Next{t.id, platform, at, max(0, t.lines-(of.Lines-d.Lines)), t.lines})
			}
		}
	}
	return out
}

// Last is when a timer was last done on a platform.
type Last struct {
	Courtesy, Platform string
	At                 time.Time
}

// Lasts are when timers were last done in this period, the earliest first.
func Lasts(mem room.Memory) (out []Last) {
	for platform, of := range room.Remembered[Memory](mem, name).On {
		for id, d := range of.Done {
			if !d.At.IsZero() {
				out = append(out, Last{id, platform, d.At})
			}
		}
	}
	slices.SortFunc(out, func(a, b Last) int {
		return cmp.Or(a.At.Compare(b.At), cmp.Compare(a.Courtesy, b.Courtesy), cmp.Compare(a.Platform, b.Platform))
	})
	return out
}

// Shares are how much of the last lines the house said on each platform, in percent, and from where on
// timers are held.
func Shares(p *room.Plan, mem room.Memory) (of map[string]int, ceiling int) {
	of = map[string]int{}
	for platform, x := range room.Remembered[Memory](mem, name).On {
		of[platform] = x.Share()
	}
	return of, room.Section[section](p, name).share
}
