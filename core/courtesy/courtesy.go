// Package courtesy is the house's one idea for everything it does by itself: a
// courtesy has a when, a who and a do. [Set] holds a channel's courtesies ready
// for use; [Set.Winner] finds, for one cause, the courtesy that fills each
// exclusive slot and says what it beat and why.
package courtesy

import (
	"slices"
	"strings"

	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/output"
	"vividporch/core/spoken"
	"vividporch/core/who"
	"vividporch/core/wording"
)

// Courtesy is one rule as it stands in the house file.
type Courtesy struct {
	ID      string          `json:"id" jsonschema:"minLength=1,maxLength=60"`
	On      bool            `json:"on"`
	When    string          `json:"when"`              // "arrival", "hello", "command", "hand", "neighbour" or an event type
	Asks    []string        `json:"asks,omitempty"`    // of a command: its names, heard behind a platform's sign: "tides"; one with a sign of its own is heard with it: "?tides"
	Asked   *Asking         `json:"asked,omitempty"`   // of a command: how else it is asked for
	Who     who.Who         `json:"who,omitzero"`      // every condition given must hold
	Only    bool            `json:"only,omitempty"`    // of a command: nobody but those of who may ask; else moderators, co-hosts and the streamer always may
	Measure *who.Measure    `json:"measure,omitempty"` // of the happening's number
	Slot    happening.Slot  `json:"slot,omitempty" jsonschema:"enum=greeting,enum=shout-out,enum=thanks,enum=answer,enum="`
	Also    bool            `json:"also,omitempty"`                                             // runs beside whichever courtesy fills the slot
	OffLine bool            `json:"offLine,omitempty"`                                          // also while no stream is on
	Away    bool            `json:"away,omitempty"`                                             // put away: kept, and never met
	Title   string          `json:"title,omitempty" jsonschema:"maxLength=40"`                  // what its button on the Porch says
	Tells   string          `json:"tells,omitempty" jsonschema:"maxLength=200"`                 // what viewers are told of it: on the list of what they can ask, and of an amount by {amounts}
	Group   string          `json:"group,omitempty"`                                            // a name under which the streamer keeps several together
	Delay   float64         `json:"delaySeconds,omitempty" jsonschema:"minimum=0,maximum=3600"` // waits so long before anything it does, beside the delays of each
	Timer   *Timer          `json:"timer,omitempty"`                                            // of what comes now and then, or in a lull
	Cost    int64           `json:"cost,omitempty" jsonschema:"minimum=0,maximum=1000000000"`   // points that whoever causes it pays, beside what its outputs cost
	Burst   *Burst          `json:"burst,omitempty"`                                            // many of one kind become one
	Do      []output.Output `json:"do"`                                                         // none: those it fits are passed over in silence
}

// Burst makes one line and one card of what comes in quick succession: each waits
// out the window that the first one opened, and At or more leave as one.
type Burst struct {
	Seconds float64 `json:"seconds" jsonschema:"minimum=1,maximum=120"` // 1 to 120
	At      int     `json:"at" jsonschema:"minimum=2,maximum=100"`      // 2 or more
}

// Meeting is a cause and the courtesies it could meet, found once for the several
// questions about it.
type Meeting struct {
	who.Cause
	met  []*Ready
	held map[*Ready]string
}

// Hold holds a courtesy back: it still wins or gives way, and is not done.
func (m *Meeting) Hold(r *Ready, why string) {
	if m.held == nil {
		m.held = map[*Ready]string{}
	}
	m.held[r] = why
}

// Held is why a courtesy is held back, or "".
func (m *Meeting) Held(r *Ready) string { return m.held[r] }

// Winner finds which courtesy fills a slot, as [Set.Winner] does.
func (m *Meeting) Winner(slot happening.Slot) (*Ready, []Rung) { return winner(&m.Cause, m.met, slot) }

// Beside lists the courtesies that run beside whichever fills a slot.
func (m *Meeting) Beside(slot happening.Slot) []*Ready {
	var out []*Ready
	for _, r := range m.met {
		if r.Slot == slot && r.Also {
			if _, why, _ := r.match(&m.Cause); why == "" {
				out = append(out, r)
			}
		}
	}
	return out
}

// All lists the courtesies that the cause could meet, in the order the streamer set.
func (m *Meeting) All() []*Ready { return m.met }

// Why a courtesy is out of the question, whoever it is about.
const (
	SwitchedOff = "is switched off"
	OnlyLive    = "only while live"
)

// Rung is one step of the ladder shown for a cause: a courtesy and how it fared.
type Rung struct {
	Courtesy string `json:"courtesy"`
	Won      bool   `json:"won,omitempty"`
	Why      string `json:"why"`

	ByNumber bool `json:"-"` // all of it fits but for the number
}

// Ready is a courtesy with its wordings parsed.
type Ready struct {
	Courtesy
	Resting []*wording.Wording // of a command: said once to whoever asks too soon
	Outputs []ReadyOutput

	order   int
	staff   *who.Who       // of a command: what must hold for those who may always ask; nil when it is not for them
	names   []string       // of a command: what it is asked by, folded
	phrases []string       // and what it is heard by in a sentence
	tells   bool           // of a command: it does or says something of whoever is named
	within  spoken.Lexicon // of what a neighbour says: words that must stand in it
}

// General reports whether a greeting is for anybody of a standing, so that
// several of them may be joined into one line.
func (r *Ready) General() bool {
	return r.Slot == happening.Greeting && r.Who.Closest() <= who.ForStanding
}

// Personal reports whether a courtesy is meant for the very person behind a
// cause, or for their crews.
func (r *Ready) Personal(c who.Cause) bool {
	h, misfit := r.Who.Match(&c)
	return misfit == "" && h.Close >= who.ForCrew
}

// Set is a channel's courtesies, indexed by their when; those for one person by
// their account too, so that a thousand of them cost nobody else anything.
type Set struct {
	by  map[string][]*Ready
	own map[string]map[string][]*Ready
	all []*Ready
	on  map[string]bool // whens of those that are on

	lexicon spoken.Lexicon // what commands are asked by
	asked   map[string][]*Ready
	phrases map[string][]*Ready
}

// Meet finds once which courtesies a cause meets, so that asking several things
// about it costs no more.
func (s *Set) Meet(c who.Cause) *Meeting { return &Meeting{Cause: c, met: s.For(c)} }

// For lists the courtesies of a when that a cause could meet, in the order the
// streamer set.
func (s *Set) For(c who.Cause) []*Ready {
	if c.When == happening.Command && c.Heard.Any() {
		return s.askedFor(c.Heard)
	}
	found := s.by[c.When]
	own := s.own[c.When]
	if len(own) == 0 {
		return found
	}
	mine := own[c.Person.Key()]
	if c.Known != nil {
		for _, key := range c.Known.Accounts {
			if key != c.Person.Key() {
				mine = append(slices.Clip(mine), own[key]...)
			}
		}
	}
	if len(mine) == 0 {
		return found
	}
	out := append(make([]*Ready, 0, len(found)+len(mine)), found...)
	for _, r := range mine { // into their places
		at, _ := slices.BinarySearchFunc(out, r.order, func(o *Ready, order int) int { return o.order - order })
		out = slices.Insert(out, at, r)
	}
	return out
}

// Of lists the courtesies of a when, in the order the streamer set; those for one person left out.
func (s *Set) Of(when string) []*Ready { return s.by[when] }

// Has reports whether any courtesy that is on has this when.
func (s *Set) Has(when string) bool { return s.on[when] }

// All lists every courtesy in the order the streamer set.
func (s *Set) All() []*Ready { return s.all }

// Winner finds which courtesy fills a slot for a cause. The ladder tells of every
// courtesy of that when and slot that the cause could meet; the winner is nil
// when none fits.
func (s *Set) Winner(c who.Cause, slot happening.Slot) (*Ready, []Rung) {
	return winner(&c, s.For(c), slot)
}

func winner(c *who.Cause, list []*Ready, slot happening.Slot) (*Ready, []Rung) {
	var won *Ready
	var best who.Held
	rungs := make([]Rung, 0, len(list))
	type fit struct {
		r  *Ready
		h  who.Held
		at int
	}
	fits := make([]fit, 0, 4)
	for _, r := range list {
		if r.Slot != slot || r.Also {
			continue
		}
		h, why, byNumber := r.match(c)
		if why != "" {
			rungs = append(rungs, Rung{Courtesy: r.ID, Why: why, ByNumber: byNumber})
			continue
		}
		fits = append(fits, fit{r, h, len(rungs)})
		rungs = append(rungs, Rung{Courtesy: r.ID})
		if won == nil {
			won, best = r, h
		} else if cmp, _ := compare(r, h, won, best); cmp > 0 {
			won, best = r, h
		}
	}
	for _, f := range fits { // each gives way to the one that wins in the end
		if f.r == won {
			rungs[f.at].Won, rungs[f.at].Why = true, won.sentence(best)
			continue
		}
		_, why := compare(won, best, f.r, f.h)
		rungs[f.at].Why = "gives way to " + won.ID + ": " + why
	}
	return won, rungs
}

// Keeper finds the courtesy that keeps the days of somebody's that a cause has, whatever else greets
// them; nil for none.
func (s *Set) Keeper(c who.Cause) (won *Ready) {
	var best who.Held
	for _, r := range s.For(c) {
		if r.Slot != happening.Greeting || r.Also || len(r.Who.Keeps(c.Dates)) == 0 {
			continue
		}
		h, why, _ := r.match(&c)
		if why != "" {
			continue
		}
		if won != nil {
			if cmp, _ := compare(r, h, won, best); cmp <= 0 {
				continue
			}
		}
		won, best = r, h
	}
	return won
}

// Fits reports whether a courtesy matches a cause, and if not why.
func (r *Ready) Fits(c who.Cause) (bool, string) {
	_, why, _ := r.match(&c)
	return why == "", why
}

// match tells how a courtesy holds for a cause, or why it does not; byNumber says that
// all of it fits but for the number.
func (r *Ready) match(c *who.Cause) (h who.Held, why string, byNumber bool) {
	switch {
	case !r.On:
		return who.Held{}, SwitchedOff, false
	case !c.Live && !r.OffLine:
		return who.Held{}, OnlyLive, false
	}
	if r.When == happening.Neighbour && r.Asked != nil && len(r.Asked.Words) > 0 && !r.within.Read(c.Line, "").Any() {
		return who.Held{}, "hears other words", false
	}
	if r.When == happening.Command && !r.hears(c.Heard) {
		return who.Held{}, "is asked by other words", false
	}
	h, why = r.Who.Match(c)
	if why != "" && r.staff != nil && c.Person.IsOrAbove(event.Moderator) {
		if h, why = r.staff.Match(c); why == "" {
			h.Says = append(h.Says, "moderators, co-hosts and the streamer may always ask")
		}
	}
	if why == "" && r.Measure != nil {
		why = r.Measure.Misfit(c.Quantities)
		byNumber = why != ""
	}
	return h, why, byNumber
}

// sentence says why the winner fits.
func (r *Ready) sentence(h who.Held) string {
	parts := h.Says
	if r.Measure != nil {
		parts = append(parts, r.Measure.String())
	}
	if len(parts) == 0 {
		return "is for anyone"
	}
	return strings.Join(parts, ", ")
}

// compare tells which of two fitting courtesies is more specific: who first, then
// measure, then the number of further conditions, then the order the streamer
// set. It returns a positive number when a is ahead, with the reason.
func compare(a *Ready, ah who.Held, b *Ready, bh who.Held) (int, string) {
	if d, why := ah.Compare(bh); d != 0 {
		return d, why
	}
	if d, why := a.Measure.Compare(b.Measure); d != 0 {
		return d, why
	}
	if d := ah.Conditions - bh.Conditions; d != 0 {
		return d, "more conditions win"
	}
	return b.order - a.order, "the order you set decides"
}
