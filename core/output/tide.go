package output

import "vividporch/core/who"

// KindTide is the name of it.
const KindTide Kind = "tide"

// Tide is a game of the whole room: so many different people have to say something, whatever it is, within a while.
type Tide struct {
	People  int     `json:"people,omitempty" jsonschema:"minimum=0,maximum=1000"`   // 0 is 8
	Seconds float64 `json:"seconds,omitempty" jsonschema:"minimum=0,maximum=3600"`  // 0 is 90
	Prize   int64   `json:"prize,omitempty" jsonschema:"minimum=0,maximum=1000000"` // for each of them; 0 is 20
}

var tide = Spec{New: func() Does { return &Tide{} }, Way: Within}

// Kind is the name of it.
func (*Tide) Kind() Kind { return KindTide }

// Says tells what it does.
func (*Tide) Says(who.Names) string { return "have the room bring in the tide" }

// Check reports what is out of range.
func (t *Tide) Check(_ *Output, _ In, fault func(at, what, remedy string)) {
	lasts(t.Seconds, fault)
	if t.People < 0 || t.People > 1000 || t.Prize < 0 || t.Prize > 1_000_000 {
		fault("people", "or the prize is out of range", "use up to 1000 people, and 1000000 points for each")
	}
}
