package overlay

import (
	"cmp"
	"encoding/json"
	"fmt"
	"slices"
	"time"

	"vividporch/core/box"
	"vividporch/core/courtesy"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/core/room"
)

// Waiting is what waits to be shown: all that one courtesy shows of one cause at once.
type Waiting struct {
	ID       string           `json:"id"`
	Courtesy string           `json:"courtesy"`
	Event    int64            `json:"event"`
	EventID  string           `json:"eventId,omitempty"`
	Person   string           `json:"person,omitempty"`
	Asker    string           `json:"asker,omitempty"`
	Name     string           `json:"name,omitempty"`
	Joined   []hall.JoinedOne `json:"joined,omitempty"`
	ByHand   bool             `json:"byHand,omitempty"`
	Try      bool             `json:"try,omitempty"`
	Made     time.Time        `json:"made"`
	Parts    []Part           `json:"parts"`
	Silent   bool             `json:"silent,omitempty"` // its sound was stopped
	Only     []string         `json:"only,omitempty"`   // on these overlays, the others have had it
	Shown    []string         `json:"shown,omitempty"`  // overlays that have had it
	Again    []string         `json:"again,omitempty"`  // overlays that it was cut off on, and where it goes first
}

// Whom are the accounts that it is about: whoever caused it, whoever asked for it, and those it names among several.
func (w *Waiting) Whom() []string {
	return (&hall.Decision{Person: w.Person, Saying: hall.Saying{Asker: w.Asker, Joined: w.Joined}}).Whom()
}

// Part is one of the outputs that are shown together.
type Part struct {
	Line   string      `json:"line"`
	Output string      `json:"output"`
	Box    string      `json:"box,omitempty"` // of the overlay it is released on
	Told   output.Told `json:"told"`
}

// sounds reports whether a part is nothing but sound.
func (p Part) sounds() bool {
	return p.Told.Effect == output.KindSound || p.Told.Effect == output.KindSpeak
}

// Release is what is released for an overlay, as it stands in its decision. Seconds is how long it stays at least;
// what of it takes longer stays as long as that.
type Release struct {
	Parts   []Part  `json:"parts"`
	Seconds float64 `json:"seconds,omitempty"`
	Silent  bool    `json:"silent,omitempty"`
	Last    bool    `json:"last,omitempty"` // no other overlay waits for it
}

// The kinds of the room's decisions.
const (
	Show    hall.Kind = "show"     // something is released for an overlay
	over    hall.Kind = "over"     // it is taken to be over
	leftOut hall.Kind = "left out" // nothing more comes of it
)

// Section is the overlays of the settings, and what decides who goes first.
type Section struct {
	overlays []box.Overlay
	of       map[string]courtesyOf
	clocks   map[string]*box.Countdown

	campaigns []string // that some box counts
}

type courtesyOf struct {
	when   string
	thanks bool
}

func ready(f *housefile.Settings, _ func(courtesy.Fault)) Section {
	s := Section{overlays: f.Overlays, of: map[string]courtesyOf{}, clocks: map[string]*box.Countdown{}}
	for _, c := range f.Courtesy {
		s.of[c.ID] = courtesyOf{c.When, c.Slot == happening.Thanks}
	}
	for i := range f.Overlays {
		for _, b := range f.Overlays[i].Boxes {
			switch does := b.Do.(type) {
			case *box.Countdown:
				if s.clocks[b.ID] == nil {
					s.clocks[b.ID] = does
				}
			case *box.Goal:
				s.counts(does.Of)
			case *box.Count:
				s.counts(does.Of)
			}
		}
	}
	return s
}

func (s *Section) counts(campaign string) {
	if campaign != "" && !slices.Contains(s.campaigns, campaign) {
		s.campaigns = append(s.campaigns, campaign)
	}
}

func isOnScreen(d *hall.Decision) bool { return d.Way() == output.ToOverlay }

// passedOver is after how long what waits is no longer remembered, where no overlay is there to give it up.
const passedOver = time.Hour

// joins puts what is shown into line, with whatever its courtesy shows of the same cause.
func (m *Memory) joins(d *hall.Decision, now time.Time) {
	part := Part{Line: d.Line, Output: d.Output}
	if json.Unmarshal(d.Body, &part.Told) != nil {
		return // a forgetting took it out
	}
	m.Line = slices.DeleteFunc(slices.Clone(m.Line), func(w Waiting) bool { return now.Sub(w.Made) > passedOver })
	for i := range m.Line {
		w := &m.Line[i]
		if w.Courtesy == d.Courtesy && w.Event == d.Event && w.Made.Equal(now) && w.Try == d.Try && (len(w.Joined) > 0) == (len(d.Joined) > 0) &&
			!slices.ContainsFunc(w.Parts, func(p Part) bool { return p.Output == d.Output }) {
			w.Parts = append(w.Parts, part)
			return
		}
	}
	if len(m.Line) >= mostInLine {
		return
	}
	m.Line = append(m.Line, Waiting{ID: d.Line, Courtesy: d.Courtesy, Event: d.Event, EventID: d.EventID, Person: d.Person, Asker: d.Asker, Name: d.Name, Joined: d.Joined,
		ByHand: d.ByHand, Try: d.Try, Made: now, Parts: []Part{part}})
}

// fit are the parts of something that an overlay has room for, each with its box: its sound only beside what is seen
// of it there, or where nothing of it is to be seen.
func fit(w *Waiting, o *box.Overlay) []Part {
	if len(w.Only) > 0 && !slices.Contains(w.Only, o.ID) {
		return nil
	}
	var out []Part
	seen, toSee := false, false
	for _, p := range w.Parts {
		at := screenOf(p.Told.Do)
		if p.sounds() {
			if !o.Silent && (at.On == "" || at.On == o.ID) {
				out = append(out, p)
			}
			continue
		}
		toSee = true
		if at.On != "" && at.On != o.ID {
			continue
		}
		if b := o.Box(at.Box, string(p.Told.Effect)); b != nil {
			p.Box, seen = b.ID, true
			out = append(out, p)
		}
	}
	if toSee && !seen {
		return nil
	}
	return out
}

// Fit are those of some parts that an overlay has room for, each with its box.
func Fit(o *box.Overlay, parts []Part) []Part { return fit(&Waiting{Parts: parts}, o) }

// Seconds is how long parts stay on an overlay at least.
func Seconds(o *box.Overlay, parts []Part) float64 { return seconds(Fit(o, parts), o) }

func screenOf(told any) output.OnScreen {
	if x, ok := told.(interface{ Screen() *output.OnScreen }); ok {
		return *x.Screen()
	}
	return output.OnScreen{}
}

// seconds is how long what is released stays at least: as long as its cards do, or as long as its media.
func seconds(parts []Part, o *box.Overlay) float64 {
	most := 0.0
	for _, p := range parts {
		card, ok := p.Told.Do.(*output.Card)
		if !ok {
			continue
		}
		n := card.Seconds
		if b := o.Box(p.Box, string(output.KindCard)); n == 0 && b != nil {
			if cards, ok := b.Do.(*box.Cards); ok {
				n = cards.Seconds
			}
		}
		most = max(most, cmp.Or(n, box.UsualSeconds))
	}
	return most
}

// rank is how far in front something stands on an overlay: less is sooner.
func (s *Section) rank(o *box.Overlay, w *Waiting) int {
	order := o.Order
	if len(order) == 0 {
		order = box.UsualOrder
	}
	switch at := slices.Index(order, s.of[w.Courtesy].when); {
	case slices.Contains(w.Again, o.ID):
		return -2
	case w.ByHand:
		return -1
	case at < 0:
		return len(order)
	default:
		return at
	}
}

// next is what comes next on an overlay; nil where nothing may.
func (s *Section) next(m *Memory, o *box.Overlay) *Waiting {
	var best *Waiting
	for i := range m.Line {
		w := &m.Line[i]
		if m.Hush && !w.ByHand || slices.Contains(w.Shown, o.ID) || len(fit(w, o)) == 0 {
			continue
		}
		if best == nil || s.rank(o, w) < s.rank(o, best) {
			best = w
		}
	}
	return best
}

// How long something may take that no page tells of.
const (
	beginsWithin = 10 * time.Second // from its release
	endsWithin   = 3 * time.Second  // after it should have
)

// overAt is when what is on an overlay is taken to be over.
func (on *Showing) overAt() time.Time {
	if on.Begun.IsZero() {
		return on.Released.Add(beginsWithin)
	}
	return on.Ends.Add(endsWithin)
}

// Waits is how many wait for an overlay.
func Waits(m room.Memory, o *box.Overlay) (n int) {
	line := room.Remembered[Memory](m, name).Line
	for i := range line {
		if !slices.Contains(line[i].Shown, o.ID) && len(fit(&line[i], o)) > 0 {
			n++
		}
	}
	return n
}

// Stopped is why something would be shown on no overlay now, and what to do; nothing where it would be, or where there is none. live
// is whether a stream is on: before it nobody minds that an overlay is not open.
func Stopped(m room.Memory, p *room.Plan, o *output.Output, live bool) (what, remedy string) {
	if o.Way() != output.ToOverlay || len(p.Settings.Overlays) == 0 {
		return "", ""
	}
	w := Waiting{Parts: []Part{{Told: output.Told{Effect: o.Kind(), Do: o.Do}}}}
	rooms := 0
	for i := range p.Settings.Overlays {
		over := &p.Settings.Overlays[i]
		if len(fit(&w, over)) == 0 {
			continue
		}
		if rooms++; ScreenOf(m, over.ID).Open {
			return "", ""
		}
	}
	switch {
	case rooms == 0:
		return fmt.Sprintf("no overlay shows a %s just now: its box is switched off, or there is none", o.Kind()), "look under Places, On screen"
	case live:
		return "the overlay is not open anywhere", "open its address in your streaming software"
	}
	return "", ""
}

// given is why something in line is given up, and from when on; no reason where it is not.
func (s *Section) given(m *Memory, w *Waiting) (at time.Time, why string) {
	wait, rooms, open, free := 0.0, 0, false, false
	for i := range s.overlays {
		o := &s.overlays[i]
		if len(fit(w, o)) == 0 {
			continue
		}
		rooms++
		wait = max(wait, cmp.Or(o.WaitSeconds, box.UsualWait))
		if sc := m.Screens[o.ID]; sc != nil && sc.Open {
			open, free = true, free || !slices.Contains(w.Shown, o.ID)
		}
	}
	at = w.Made.Add(room.Seconds(wait))
	switch {
	case rooms == 0:
		return w.Made, "no overlay has a box for it"
	case len(w.Shown) > 0 && !free:
		return w.Made, shownAlready
	case len(w.Shown) > 0:
		return at, shownAlready
	case !open:
		return at, fmt.Sprintf("the overlay was not open anywhere for %g s", wait)
	case m.Hush && !w.ByHand:
		return at, fmt.Sprintf("hush held it for %g s", wait)
	}
	return at, fmt.Sprintf("waited %g s in line for the overlay", wait)
}

// shownAlready is no reason that anybody is told.
const shownAlready = "shown"

// most is how many may wait: as many as on the most patient of the overlays.
func (s *Section) most() int {
	n := 0
	for i := range s.overlays {
		n = max(n, cmp.Or(s.overlays[i].Most, box.UsualMost))
	}
	return n
}

// least is who is given up first of too many: thanks after all else, what came last before what came sooner.
func (s *Section) least(m *Memory) *Waiting {
	o := &s.overlays[0]
	later := func(a, b *Waiting) int {
		thanks := func(w *Waiting) int {
			if s.of[w.Courtesy].thanks || w.ByHand {
				return 0
			}
			return 1
		}
		return cmp.Or(cmp.Compare(thanks(a), thanks(b)), cmp.Compare(s.rank(o, a), s.rank(o, b)), a.Made.Compare(b.Made))
	}
	var worst *Waiting
	for i := range m.Line {
		if w := &m.Line[i]; worst == nil || later(w, worst) >= 0 {
			worst = w
		}
	}
	return worst
}

// wake is when something is to be released, taken to be over or given up.
func wake(s *Section, m *Memory) (at time.Time, due bool) {
	sooner := func(t time.Time) {
		if !due || t.Before(at) {
			at, due = t, true
		}
	}
	if len(s.overlays) == 0 { // what waits is passed over with time
		return at, false
	}
	for i := range s.overlays {
		o := &s.overlays[i]
		switch sc := m.Screens[o.ID]; {
		case sc == nil:
		case sc.On != nil:
			sooner(sc.On.overAt())
		case sc.Open:
			if w := s.next(m, o); w != nil {
				sooner(slices.MaxFunc([]time.Time{w.Made, sc.Seen, m.Lifted}, time.Time.Compare))
			}
		}
	}
	for i := range m.Line {
		t, _ := s.given(m, &m.Line[i])
		sooner(t)
	}
	if len(m.Line) > s.most() {
		sooner(m.Line[0].Made)
	}
	return at, due
}

// decide lets go on what has its time.
func decide(t *room.Turn, s *Section, m *Memory) {
	if len(s.overlays) == 0 {
		return
	}
	gone := map[string]bool{}
	for i := range m.Line {
		w := &m.Line[i]
		if at, why := s.given(m, w); !t.Now.Before(at) {
			gone[w.ID] = true
			give(t, w, why)
		}
	}
	if len(m.Line)-len(gone) > s.most() {
		if w := s.least(m); w != nil && !gone[w.ID] {
			gone[w.ID] = true
			give(t, w, fmt.Sprintf("more than %d waited for the overlay, and this had to go first", s.most()))
		}
	}
	for i := range s.overlays {
		o := &s.overlays[i]
		sc := m.Screens[o.ID]
		if sc == nil {
			continue
		}
		if on := sc.On; on != nil {
			if t.Now.Before(on.overAt()) {
				continue
			}
			why := "no page told that it is over"
			if on.Begun.IsZero() {
				why = fmt.Sprintf("no page began to show it within %g s", beginsWithin.Seconds())
			}
			t.Decide(hall.Decision{Kind: over, Courtesy: on.Courtesy, Output: o.ID, Line: on.ID, Place: o.ID, Event: on.Event, EventID: on.EventID, Person: on.Person, Name: on.Name, Because: []string{why}})
		}
		if !sc.Open {
			continue
		}
		if w := s.next(m, o); w != nil && !gone[w.ID] {
			release(t, s, m, o, w)
		}
	}
}

func give(t *room.Turn, w *Waiting, why string) {
	x := hall.Decision{Kind: hall.Refuse, Courtesy: w.Courtesy, Output: w.Parts[0].Output, Line: w.ID, Place: output.Overlay, Event: w.Event, EventID: w.EventID,
		Person: w.Person, Name: w.Name, Try: w.Try, Because: []string{why}, Saying: hall.Saying{Asker: w.Asker, Joined: w.Joined}}
	if why == shownAlready {
		x.Kind = leftOut
	}
	t.Decide(x)
}

func release(t *room.Turn, s *Section, m *Memory, o *box.Overlay, w *Waiting) {
	parts := fit(w, o)
	r := Release{Parts: parts, Seconds: seconds(parts, o), Silent: w.Silent || o.Silent, Last: true}
	for i := range s.overlays { // whoever else is open has it too
		other := &s.overlays[i]
		sc := m.Screens[other.ID]
		if other.ID != o.ID && sc != nil && sc.Open && !slices.Contains(w.Shown, other.ID) && len(fit(w, other)) > 0 {
			r.Last = false
		}
	}
	body, _ := json.Marshal(r)
	t.Decide(hall.Decision{Kind: Show, Courtesy: w.Courtesy, Output: o.ID, Line: w.ID, Place: o.ID, Event: w.Event, EventID: w.EventID, Person: w.Person, Name: w.Name, ByHand: w.ByHand, Try: w.Try,
		Saying: hall.Saying{Body: body, Asker: w.Asker, Joined: w.Joined}, Because: []string{fmt.Sprintf("%s is free after %.1f s in line", o.Title, t.Now.Sub(w.Made).Seconds())}})
}

// released moves what is released from the line to its overlay.
func (m *Memory) released(d *hall.Decision, now time.Time) {
	at := slices.IndexFunc(m.Line, func(w Waiting) bool { return w.ID == d.Line })
	if at < 0 {
		return
	}
	w := m.Line[at]
	w.Shown = append(slices.Clone(w.Shown), d.Place)
	var r Release
	if json.Unmarshal(d.Body, &r) != nil || r.Last {
		m.Line = slices.Delete(slices.Clone(m.Line), at, at+1)
	} else {
		m.Line[at] = w
	}
	on := w
	on.Only = nil
	if on.Parts = r.Parts; r.Silent {
		on.Silent = true
	}
	m.screen(d.Place).On = &Showing{Waiting: on, Released: now}
}
