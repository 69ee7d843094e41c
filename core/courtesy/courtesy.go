// Package courtesy is the house's one idea for everything it does by itself: a
// courtesy has a when, a who and a do. [Set] holds a channel's courtesies ready
// for use; [Set.Winner] finds, for one cause, the courtesy that fills each
// exclusive slot and says what it beat and why.
package courtesy

import (
	"fmt"
	"slices"
	"strings"

	"vividporch/core/event"
	"vividporch/core/people"
	"vividporch/core/wording"
)

// Arrival is the when of a person's first line in a stream. Every other when is
// the type of an event.
const Arrival = "arrival"

// Slot is a place that only one courtesy can fill for one cause.
type Slot string

// The exclusive slots, and the empty one: courtesies without a slot all run.
const (
	Greeting Slot = "greeting"
	ShoutOut Slot = "shout-out"
	Thanks   Slot = "thanks"
	Free     Slot = ""
)

// Courtesy is one rule as it stands in the house file.
type Courtesy struct {
	ID      string   `json:"id" jsonschema:"minLength=1,maxLength=60"`
	On      bool     `json:"on"`
	When    string   `json:"when"`              // "arrival" or an event type
	Who     Who      `json:"who,omitzero"`      // every condition given must hold
	Measure *Measure `json:"measure,omitempty"` // of the happening's number
	Slot    Slot     `json:"slot,omitempty"`
	OffLine bool     `json:"offLine,omitempty"` // also while no stream is on
	Do      []Output `json:"do"`                // none: those it fits are passed over in silence
}

// Who narrows a courtesy to some people. Empty fields do not narrow.
type Who struct {
	Standing people.Standing `json:"standing,omitempty" jsonschema:"enum=newcomer,enum=returning,enum=regular,enum=long away"`
	Mark     people.Mark     `json:"mark,omitempty" jsonschema:"enum=raider,enum=fellow streamer"`
	Role     event.Role      `json:"role,omitempty"`
	Account  string          `json:"account,omitempty"` // account key, "platform:id"
	Platform string          `json:"platform,omitempty"`
}

// Measure is a band of a happening's number. Exactly, or AtLeast with an optional
// UpTo (both included); with none of them it is "otherwise".
type Measure struct {
	Exactly *int64 `json:"exactly,omitempty"`
	AtLeast *int64 `json:"atLeast,omitempty"`
	UpTo    *int64 `json:"upTo,omitempty"`
}

// Output is one thing a courtesy does.
type Output struct {
	ID           string     `json:"id" jsonschema:"minLength=1"`
	Kind         OutputKind `json:"kind" jsonschema:"enum=say,enum=relay"`
	Place        string     `json:"place,omitempty"`        // of a relay: the place's name
	Alternatives []string   `json:"alternatives"`           // ICU MessageFormat; one is picked
	Joined       []string   `json:"joined,omitempty"`       // of a greeting: words for several people at once
	DelaySeconds float64    `json:"delaySeconds,omitempty"` // wait before it may go out
	WaitSeconds  float64    `json:"waitSeconds,omitempty"`  // given up after waiting so long; 0 is the house's setting
	Ask          bool       `json:"ask,omitempty"`          // ask the platform for link and last category first
}

// OutputKind is what sort of output it is.
type OutputKind string

// The outputs of this house so far.
const (
	Say   OutputKind = "say"
	Relay OutputKind = "relay"
)

// Cause is what courtesies are matched against: one event, seen through what is
// known of its person.
type Cause struct {
	When     string
	Person   event.Person
	Standing people.Standing
	Marks    []people.Mark
	Measure  *int64
	Live     bool
}

// Rung is one step of the ladder shown for a cause: a courtesy and how it fared.
type Rung struct {
	Courtesy string `json:"courtesy"`
	Won      bool   `json:"won,omitempty"`
	Why      string `json:"why"`
}

// Ready is a courtesy with its wordings parsed.
type Ready struct {
	Courtesy
	order   int
	Outputs []ReadyOutput
}

// ReadyOutput is an output with its wordings parsed.
type ReadyOutput struct {
	Output
	Alts   []*wording.Wording
	Joined []*wording.Wording
}

// General reports whether a greeting is for anybody of a standing, so that
// several of them may be joined into one line.
func (r *Ready) General() bool {
	return r.Slot == Greeting && r.Who.Account == "" && r.Who.Mark == "" && r.Who.Role == ""
}

// Set is a channel's courtesies, indexed by their when.
type Set struct{ by map[string][]*Ready }

// For lists the courtesies of a when, in the order the streamer set.
func (s *Set) For(when string) []*Ready { return s.by[when] }

// Winner finds which courtesy fills a slot for a cause. The ladder tells of every
// courtesy of that when and slot; the winner is nil when none fits.
func (s *Set) Winner(c Cause, slot Slot) (*Ready, []Rung) {
	var won *Ready
	var rungs []Rung
	at := -1
	for _, r := range s.by[c.When] {
		if r.Slot != slot {
			continue
		}
		if why := r.misfit(c); why != "" {
			rungs = append(rungs, Rung{Courtesy: r.ID, Why: why})
			continue
		}
		if won == nil {
			won, at = r, len(rungs)
			rungs = append(rungs, Rung{Courtesy: r.ID, Won: true})
			continue
		}
		if cmp, why := compare(r, won); cmp > 0 {
			rungs[at] = Rung{Courtesy: won.ID, Why: "gives way to " + r.ID + ": " + why}
			won, at = r, len(rungs)
			rungs = append(rungs, Rung{Courtesy: r.ID, Won: true})
		} else {
			rungs = append(rungs, Rung{Courtesy: r.ID, Why: "gives way to " + won.ID + ": " + why})
		}
	}
	if won != nil {
		rungs[at].Why = won.sentence()
	}
	return won, rungs
}

// Fits reports whether a courtesy matches a cause, and if not why.
func (r *Ready) Fits(c Cause) (bool, string) { why := r.misfit(c); return why == "", why }

// misfit says why a courtesy does not match, or "".
func (r *Ready) misfit(c Cause) string {
	switch {
	case !r.On:
		return "is switched off"
	case !c.Live && !r.OffLine:
		return "only while live"
	case r.Who.Account != "" && r.Who.Account != c.Person.Key():
		return "is for somebody else"
	case r.Who.Standing != "" && r.Who.Standing != c.Standing:
		return "is for one who " + aStanding(r.Who.Standing) + "; this one " + aStanding(c.Standing)
	case r.Who.Mark != "" && !slices.Contains(c.Marks, r.Who.Mark):
		return "is for a " + string(r.Who.Mark)
	case r.Who.Role != "" && !c.Person.Is(r.Who.Role):
		return "is for a " + string(r.Who.Role)
	case r.Who.Platform != "" && r.Who.Platform != c.Person.Platform:
		return "is for " + r.Who.Platform + " only"
	}
	if m := r.Measure; m != nil && c.Measure != nil && !m.holds(*c.Measure) {
		return "is for " + m.String() + ", this is " + fmt.Sprint(*c.Measure)
	}
	return ""
}

// aStanding puts a standing into a sentence.
func aStanding(s people.Standing) string {
	switch s {
	case people.Newcomer, people.Regular:
		return "is a " + string(s)
	case people.LongAway:
		return "was long away"
	}
	return "is " + string(s)
}

func (m *Measure) holds(n int64) bool {
	switch {
	case m.Exactly != nil:
		return n == *m.Exactly
	case m.AtLeast != nil && n < *m.AtLeast, m.UpTo != nil && n > *m.UpTo:
		return false
	}
	return true
}

// String is the band in words.
func (m *Measure) String() string {
	switch {
	case m.Exactly != nil:
		return fmt.Sprintf("exactly %d", *m.Exactly)
	case m.AtLeast != nil && m.UpTo != nil:
		return fmt.Sprintf("%d to %d", *m.AtLeast, *m.UpTo)
	case m.AtLeast != nil:
		return fmt.Sprintf("%d or more", *m.AtLeast)
	case m.UpTo != nil:
		return fmt.Sprintf("up to %d", *m.UpTo)
	}
	return "otherwise"
}

// sentence says why the winner fits.
func (r *Ready) sentence() string {
	var parts []string
	if r.Who.Account != "" {
		parts = append(parts, "these words are this person's own")
	}
	if r.Who.Mark != "" {
		parts = append(parts, "is a "+string(r.Who.Mark))
	}
	if r.Who.Role != "" {
		parts = append(parts, "is a "+string(r.Who.Role))
	}
	if r.Who.Standing != "" {
		parts = append(parts, aStanding(r.Who.Standing))
	}
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
func compare(a, b *Ready) (int, string) {
	if d := a.Who.rank() - b.Who.rank(); d != 0 {
		return d, "the closer who wins"
	}
	if d := a.Measure.rank() - b.Measure.rank(); d != 0 {
		return d, "the closer measure wins"
	}
	if a.Measure.rank() == 2 {
		if d := *a.Measure.AtLeast - *b.Measure.AtLeast; d != 0 {
			return int(d), "the higher amount wins"
		}
	}
	if d := a.Who.further() - b.Who.further(); d != 0 {
		return d, "more conditions win"
	}
	return b.order - a.order, "the order you set decides"
}

func (w Who) rank() int {
	switch {
	case w.Account != "":
		return 3
	case w.Mark != "" || w.Role != "":
		return 2
	case w.Standing != "":
		return 1
	}
	return 0
}

func (w Who) further() int {
	n := -1
	for _, set := range []bool{w.Account != "", w.Mark != "", w.Role != "", w.Standing != "", w.Platform != ""} {
		if set {
			n++
		}
	}
	return n
}

func (m *Measure) rank() int {
	switch {
	case m == nil:
		return 0
	case m.Exactly != nil:
		return 4
	case m.UpTo != nil:
		return 3
	case m.AtLeast != nil:
		return 2
	}
	return 1
}
