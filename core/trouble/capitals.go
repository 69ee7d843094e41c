package trouble

import "fmt"

// KindCapitals is the name of it.
const KindCapitals Kind = "capitals"

// Capitals looks for lines that are mostly capitals.
type Capitals struct {
	Percent int `json:"percent" jsonschema:"minimum=1,maximum=100"` // of the letters
	From    int `json:"from" jsonschema:"minimum=1,maximum=500"`    // letters that a line has at least
}

var capitals = Spec{New: func() Does { return &Capitals{Percent: 70, From: 12} }, Title: "Capitals"}

// Kind is the name of it.
func (*Capitals) Kind() Kind { return KindCapitals }

// Says tells what it looks for.
func (c *Capitals) Says() string {
	return fmt.Sprintf("%d %% capitals and more, from %d letters on", c.Percent, c.From)
}

// Check reports what is out of range.
func (c *Capitals) Check(fault func(at, what, remedy string)) {
	number("percent", float64(c.Percent), 1, 100, "per cent", fault)
	number("from", float64(c.From), 1, 500, "letters", fault)
}

// Finds tells how much of a line is capitals.
func (c *Capitals) Finds(l *Line, _ Lately) string {
	l.count()
	if n := l.letters - l.others; n >= c.From && 100*l.capitals >= c.Percent*n {
		return fmt.Sprintf("%d %% capitals", 100*l.capitals/n)
	}
	return ""
}
