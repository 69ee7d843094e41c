package trouble

import "fmt"

// KindLength is the name of it.
const KindLength Kind = "length"

// Length looks for lines that are too long.
type Length struct {
	Most int `json:"most" jsonschema:"minimum=20,maximum=2000"` // characters that a line may have, blanks aside
}

var length = Spec{New: func() Does { return &Length{Most: 350} }, Title: "Length"}

// Kind is the name of it.
func (*Length) Kind() Kind { return KindLength }

// Says tells what it looks for.
func (s *Length) Says() string { return fmt.Sprintf("more than %d characters", s.Most) }

// Check reports what is out of range.
func (s *Length) Check(fault func(at, what, remedy string)) {
	number("most", float64(s.Most), 20, 2000, "characters", fault)
}

// Finds tells how long a line is.
func (s *Length) Finds(l *Line, _ Lately) string {
	if l.count(); l.chars > s.Most {
		return plural(l.chars, "character", "characters")
	}
	return ""
}
