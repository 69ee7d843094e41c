package trouble

import "fmt"

// KindAgain is the name of it.
const KindAgain Kind = "again"

// Again looks for what one person says again and again.
type Again struct {
	Times   int     `json:"times" jsonschema:"minimum=2,maximum=50"`     // that somebody says the same
	Seconds float64 `json:"seconds" jsonschema:"minimum=5,maximum=3600"` // within
	From    int     `json:"from" jsonschema:"minimum=0,maximum=500"`     // characters that a line has at least
}

var again = Spec{New: func() Does { return &Again{Times: 3, Seconds: 60, From: 8} }, Title: "The same again"}

// Kind is the name of it.
func (*Again) Kind() Kind { return KindAgain }

// Says tells what it looks for.
func (a *Again) Says() string {
	return fmt.Sprintf("the same from one person %d times within %g s", a.Times, a.Seconds)
}

// Check reports what is out of range.
func (a *Again) Check(fault func(at, what, remedy string)) {
	number("times", float64(a.Times), 2, 50, "times", fault)
	number("seconds", a.Seconds, 5, mostSeconds, "seconds", fault)
	number("from", float64(a.From), 0, 500, "characters", fault)
}

// Finds tells how often it was said.
func (a *Again) Finds(l *Line, p Lately) string {
	if l.count(); p == nil || l.chars < a.From {
		return ""
	}
	if n := p.Same(l, a.Seconds) + 1; n >= a.Times {
		return fmt.Sprintf("the same %d times", n)
	}
	return ""
}
