package trouble

import "fmt"

// KindSeveral is the name of it.
const KindSeveral Kind = "several"

// Several looks for what several people say at once.
type Several struct {
	People  int     `json:"people" jsonschema:"minimum=2,maximum=100"`   // that say the same
	Seconds float64 `json:"seconds" jsonschema:"minimum=5,maximum=3600"` // within
	From    int     `json:"from" jsonschema:"minimum=0,maximum=500"`     // characters that a line has at least: "hello" is said by many
}

var several = Spec{New: func() Does { return &Several{People: 4, Seconds: 60, From: 25} }, Title: "The same from several"}

// Kind is the name of it.
func (*Several) Kind() Kind { return KindSeveral }

// Says tells what it looks for.
func (s *Several) Says() string {
	return fmt.Sprintf("the same from %d people within %g s", s.People, s.Seconds)
}

// Check reports what is out of range.
func (s *Several) Check(fault func(at, what, remedy string)) {
	number("people", float64(s.People), 2, 100, "people", fault)
	number("seconds", s.Seconds, 5, mostSeconds, "seconds", fault)
	number("from", float64(s.From), 0, 500, "characters", fault)
}

// Finds tells how many have said it.
func (s *Several) Finds(l *Line, p Lately) string {
	if l.count(); p == nil || l.chars < s.From {
		return ""
	}
	if n := p.Others(l, s.Seconds) + 1; n >= s.People {
		return fmt.Sprintf("the same from %d people", n)
	}
	return ""
}
