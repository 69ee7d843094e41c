package box

import "fmt"

// The names of what is counted towards something, and of the count alone.
const (
	KindGoal  Kind = "goal"
	KindCount Kind = "count"
)

// Counted is what a box counts.
type Counted struct {
	What     string  `json:"what" jsonschema:"enum=followers,enum=subscribers,enum=tips,enum=lanterns,enum=command"`
	Currency string  `json:"currency,omitempty"` // of tips, ISO 4217
	Command  string  `json:"command,omitempty"`  // whose counter it is, by its id
	Start    float64 `json:"start,omitempty"`    // where it began, but for what a platform tells of itself
	Tonight  bool    `json:"tonight,omitempty"`  // it begins anew with each stream
	Of       string  `json:"of,omitempty"`       // the campaign of which tips count; none is any
}

// Goal is how far something has come.
type Goal struct {
	Counted
	Target float64 `json:"target" jsonschema:"minimum=0"`
	As     string  `json:"as,omitempty" jsonschema:"enum=lanterns,enum=bar"`
	Label  string  `json:"label,omitempty" jsonschema:"maxLength=60"`
	Size   float64 `json:"size,omitempty" jsonschema:"minimum=0,maximum=120"` // of the words, in pixels of the overlay; 0 is 32
}

// Count is a number alone.
type Count struct {
	Counted
	Label string  `json:"label,omitempty" jsonschema:"maxLength=60"`
	Size  float64 `json:"size,omitempty" jsonschema:"minimum=0,maximum=120"` // of the number, in pixels of the overlay; 0 is 48
}

var (
	goal  = Spec{New: func() Does { return &Goal{Counted: Counted{What: "lanterns"}, Target: 50} }, Title: "Goal", At: At{3, 84, 40, 12}}
	count = Spec{New: func() Does { return &Count{Counted: Counted{What: "followers"}} }, Title: "Count", At: At{45, 84, 18, 12}}
)

// What can be counted.
var counts = []string{"followers", "subscribers", "tips", "lanterns", "command"}

// check reports what cannot be counted.
func (c *Counted) check(fault func(at, what, remedy string)) {
	if one("what", c.What, counts, fault); c.What == "" {
		fault("what", "is missing", "choose what is counted")
	}
	if c.What == "tips" && len(c.Currency) != len("EUR") {
		fault("currency", fmt.Sprintf("%q is no currency", c.Currency), "use three letters as in ISO 4217, EUR")
	}
	if c.What == "command" && c.Command == "" {
		fault("command", "is missing", "choose whose counter it is")
	}
	if c.Start < 0 || c.Start > mostCount {
		fault("start", "is out of range", "use 0 to 1000000000")
	}
}

const mostCount = 1e9

// Kind is the name of it.
func (*Goal) Kind() Kind { return KindGoal }

// Check reports what cannot stand.
func (g *Goal) Check(fault func(at, what, remedy string)) {
	g.check(fault)
	one("as", g.As, []string{"lanterns", "bar"}, fault)
	within("size", g.Size, 12, 120, "pixels", fault)
	if g.Target <= g.Start || g.Target > mostCount {
		fault("target", "is not beyond the start", "use a number greater than where it begins")
	}
}

// Shows is how far it has come.
func (g *Goal) Shows(_ string, f Facts) any { return f.Reached(g.Counted) }

// Kind is the name of it.
func (*Count) Kind() Kind { return KindCount }

// Check reports what cannot stand.
func (c *Count) Check(fault func(at, what, remedy string)) {
	c.check(fault)
	within("size", c.Size, 12, 120, "pixels", fault)
}

// Shows is the number.
func (c *Count) Shows(_ string, f Facts) any { return f.Reached(c.Counted) }
