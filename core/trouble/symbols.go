package trouble

import "fmt"

// KindSymbols is the name of it.
const KindSymbols Kind = "symbols"

// Symbols looks for lines that are mostly signs.
type Symbols struct {
	Percent int `json:"percent" jsonschema:"minimum=1,maximum=100"` // of the characters
	From    int `json:"from" jsonschema:"minimum=1,maximum=500"`    // characters that a line has at least
}

var symbols = Spec{New: func() Does { return &Symbols{Percent: 60, From: 12} }, Title: "Signs"}

// Kind is the name of it.
func (*Symbols) Kind() Kind { return KindSymbols }

// Says tells what it looks for.
func (s *Symbols) Says() string {
	return fmt.Sprintf("%d %% signs and more, from %d characters on", s.Percent, s.From)
}

// Check reports what is out of range.
func (s *Symbols) Check(fault func(at, what, remedy string)) {
	number("percent", float64(s.Percent), 1, 100, "per cent", fault)
	number("from", float64(s.From), 1, 500, "characters", fault)
}

// Finds tells how much of a line is signs.
func (s *Symbols) Finds(l *Line, _ Lately) string {
	l.count()
	if l.chars >= s.From && 100*l.signs >= s.Percent*l.chars {
		return fmt.Sprintf("%d %% signs", 100*l.signs/l.chars)
	}
	return ""
}
