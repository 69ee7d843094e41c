package output

import "vividporch/core/who"

// KindRace is the name of it.
const KindRace Kind = "race"

// Race is a game between two: whoever asks challenges whoever is named, and either snail may be first at the rim. Who is challenged
// takes it up by asking for the race too.
type Race struct {
	Stakes
	Seconds float64 `json:"seconds,omitempty" jsonschema:"minimum=0,maximum=3600"` // until it lapses; 0 is 60
}

var race = Spec{New: func() Does { return &Race{} }, Way: Within}

// Kind is the name of it.
func (*Race) Kind() Kind { return KindRace }

// Says tells what it does.
func (*Race) Says(who.Names) string { return "call a periwinkle race" }

// Concerns whoever is named.
func (*Race) Concerns() bool { return true }

// Check reports what is out of range.
func (r *Race) Check(_ *Output, in In, fault func(at, what, remedy string)) {
	r.check(fault)
	lasts(r.Seconds, fault)
}
