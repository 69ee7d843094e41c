package output

import (
	"vividporch/core/event"
	"vividporch/core/who"
)

// KindPermit is the name of it.
const KindPermit Kind = "permit"

// Permit lets whoever is meant do for a while what the guard would stop.
type Permit struct {
	Seconds float64 `json:"seconds,omitempty" jsonschema:"minimum=0,maximum=3600"` // 0 is [UsualPermit]
}

// UsualPermit is for how long somebody is permitted where an output does not say, in seconds.
const UsualPermit = 300

var permit = Spec{New: func() Does { return &Permit{} }, Way: BackIn}

// Kind is the name of it.
func (*Permit) Kind() Kind { return KindPermit }

// Says tells what it does.
func (*Permit) Says(who.Names) string { return "permit them for a while" }

// Concerns reports that it is about somebody.
func (*Permit) Concerns() bool { return true }

// Brings is that they are permitted.
func (p *Permit) Brings(b Bringing) (event.Data, string) {
	if b.Person.ID == "" {
		return nil, "nobody is named who could be permitted"
	}
	d := &event.Permitted{Person: b.Person, Seconds: p.Seconds, Member: b.Member}
	if d.Seconds == 0 {
		d.Seconds = UsualPermit
	}
	return d, ""
}

// Check reports what lasts too long.
func (p *Permit) Check(_ *Output, _ In, fault func(at, what, remedy string)) { lasts(p.Seconds, fault) }
