// Package trouble is the catalogue of everything in chat that the house can look for to keep the room well: one file a kind. A
// [Rule] is switched on or off; it has its measure in Do, knows who is spared, and in Then what follows, one step higher
// each time it happens again.
//
// Whether a line breaks a rule is told by the line itself and by what was said lately ([Lately]); nothing here knows
// who somebody is. Whoever adds a kind writes its file and its line in [Catalogue].
package trouble

import (
	"encoding/json"
	"fmt"
	"slices"

	"vividporch/core/flat"
)

// Catalogue is everything that can be looked for, in the order in which it is offered and looked for.
var Catalogue = []Spec{words, links, again, several, capitals, symbols, emoji, emotes, oneEmote, length}

// Kind is the name of a sort of rule.
type Kind string

// Spec is what is known of a kind whatever its settings.
type Spec struct {
	New   func() Does // its settings, as a new rule begins
	Title string
	// Regulars may never be spared from it.
	All bool
}

// Rule is one thing that is looked for.
type Rule struct {
	ID   string   `json:"id" jsonschema:"minLength=1,maxLength=60"`
	On   bool     `json:"on,omitempty"`
	Do   Does     `json:"-"`                                                  // the settings of its kind
	Then []Step   `json:"then"`                                               // what follows, the first time, the second…; from the last on it stays that
	Days int      `json:"days,omitempty" jsonschema:"minimum=0,maximum=365"`  // within how many days it is again; 0 is [UsualDays]
	Not  []string `json:"not,omitempty" jsonschema:"enum=VIPs,enum=regulars"` // who else is spared

	unknown Kind // of a newer house
}

// Does is the settings of a rule of one kind.
type Does interface {
	Kind() Kind
	// Says tells in a few words what it looks for: "more than 70 % capitals".
	Says() string
	Check(fault func(at, what, remedy string))
	// Finds tells what of it a line has, or "".
	Finds(l *Line, p Lately) string
}

// readier is made ready once, before any line is looked at.
type readier interface{ ready() }

// Lately is what was said before a line.
type Lately interface {
	// Same is how often its person has said the same within so many seconds before.
	Same(l *Line, seconds float64) int
	// Others is how many people besides have said the same within so many seconds before.
	Others(l *Line, seconds float64) int
}

// Step is what follows.
type Step struct {
	Act     Act     `json:"act" jsonschema:"enum=warn,enum=hold,enum=remove,enum=time-out,enum=ban"`
	Seconds float64 `json:"seconds,omitempty" jsonschema:"minimum=0,maximum=1209600"` // of a time-out
}

// Act is what is done about a line or its person.
type Act string

// What can follow, from the mildest on.
const (
	Warn    Act = "warn"     // they are told, in private where that can be; the line stays
	Hold    Act = "hold"     // it waits for a member, and the house takes no notice of it
	Remove  Act = "remove"   // it is taken out of chat
	TimeOut Act = "time-out" // and they cannot write for a while
	Ban     Act = "ban"
)

// Acts are what can follow, from the mildest on.
func Acts() []Act { return []Act{Warn, Hold, Remove, TimeOut, Ban} }

// What holds where a rule does not say.
const (
	UsualDays   = 30
	usualOut    = 600.0 // seconds of a time-out
	MostSteps   = 8
	MostRules   = 60
	mostOut     = 14 * 24 * 3600
	mostSeconds = 3600.0
)

// Who else may be spared.
const (
	VIPs     = "VIPs"
	Regulars = "regulars"
)

// Usual is what follows where a new rule begins: a word, and then a higher step each time.
func Usual() []Step {
	return []Step{{Act: Warn}, {Act: Remove}, {Act: TimeOut, Seconds: 60}, {Act: TimeOut, Seconds: usualOut}}
}

// Kind is the name of its kind; "" where it has none.
func (r *Rule) Kind() Kind {
	if r.Do == nil {
		return r.unknown
	}
	return r.Do.Kind()
}

// Spec is what is known of its kind; nothing of one that is in no catalogue.
func (r *Rule) Spec() Spec { return Of(r.Kind()) }

// Spares reports whether a rule spares the regulars, or the VIPs.
func (r *Rule) Spares(whom string) bool { return slices.Contains(r.Not, whom) }

// Step is what follows when it has happened n times before.
func (r *Rule) Step(n int) Step {
	if len(r.Then) == 0 {
		return Step{Act: Hold}
	}
	s := r.Then[min(max(n, 0), len(r.Then)-1)]
	if s.Act == TimeOut && s.Seconds == 0 {
		s.Seconds = usualOut
	}
	return s
}

// Within is how many days back it counts.
func (r *Rule) Within() int {
	if r.Days == 0 {
		return UsualDays
	}
	return r.Days
}

// Ready makes rules ready to look at lines.
func Ready(rules []Rule) {
	for i := range rules {
		if x, ok := rules[i].Do.(readier); ok {
			x.ready()
		}
	}
}

// Check reports what keeps a rule from being looked at.
func (r *Rule) Check(fault func(at, what, remedy string)) {
	if r.ID == "" || len(r.ID) > 60 {
		fault("id", "is missing or too long", "give the rule a short name of its own")
	}
	spec := r.Spec()
	if spec.New == nil {
		fault("kind", fmt.Sprintf("%q is nothing that is looked for", r.Kind()), "use one of those that are offered")
		return
	}
	r.Do.Check(fault)
	if len(r.Then) == 0 || len(r.Then) > MostSteps {
		fault("then", "says nothing of what follows, or too much", fmt.Sprintf("name 1 to %d steps", MostSteps))
	}
	for i, s := range r.Then {
		at := fmt.Sprintf("then.%d", i)
		if !slices.Contains(Acts(), s.Act) {
			fault(at+".act", fmt.Sprintf("%q is nothing that follows", s.Act), "use warn, hold, remove, time-out or ban")
		}
		if s.Seconds < 0 || s.Seconds > mostOut {
			fault(at+".seconds", "is out of range", "a time-out lasts at most two weeks")
		}
	}
	if r.Days < 0 || r.Days > 365 {
		fault("days", "is out of range", "use 1 to 365 days")
	}
	for i, x := range r.Not {
		switch {
		case x != VIPs && x != Regulars:
			fault(fmt.Sprintf("not.%d", i), fmt.Sprintf("%q is nobody", x), "use VIPs or regulars")
		case x == Regulars && spec.All:
			fault(fmt.Sprintf("not.%d", i), "lets those through whom nobody has trusted by hand", "leave the regulars out: trust is given by hand, on their card")
		}
	}
}

var index = map[Kind]Spec{}

func init() {
	for _, s := range Catalogue {
		index[s.New().Kind()] = s
	}
}

// Of is what is known of a kind; nothing of one that is in no catalogue.
func Of(kind Kind) Spec { return index[kind] }

type plainRule Rule

// MarshalJSON writes it as one flat object.
func (r Rule) MarshalJSON() ([]byte, error) {
	all, err := json.Marshal(struct {
		Kind Kind `json:"kind"`
		plainRule
	}{r.Kind(), plainRule(r)})
	if err != nil || r.Do == nil {
		return all, err
	}
	mine, err := json.Marshal(r.Do)
	return flat.Join(all, mine), err
}

// UnmarshalJSON reads it; of a kind that is in no catalogue what all kinds have.
func (r *Rule) UnmarshalJSON(raw []byte) error {
	var of struct{ Kind Kind }
	*r = Rule{}
	if err := json.Unmarshal(raw, (*plainRule)(r)); err != nil {
		return err
	}
	if err := json.Unmarshal(raw, &of); err != nil {
		return err
	}
	spec := Of(of.Kind)
	if spec.New == nil {
		r.unknown = of.Kind
		return nil
	}
	r.Do = spec.New()
	return json.Unmarshal(raw, r.Do)
}
