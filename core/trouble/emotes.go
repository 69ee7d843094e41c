package trouble

import "fmt"

// KindEmotes is the name of it.
const KindEmotes Kind = "emotes"

// Emotes looks for lines with too many emotes.
type Emotes struct {
	Most int `json:"most" jsonschema:"minimum=0,maximum=500"` // that a line may have
}

var emotes = Spec{New: func() Does { return &Emotes{Most: 8} }, Title: "Emotes"}

// Kind is the name of it.
func (*Emotes) Kind() Kind { return KindEmotes }

// Says tells what it looks for.
func (e *Emotes) Says() string { return fmt.Sprintf("more than %s", plural(e.Most, "emote", "emotes")) }

// Check reports what is out of range.
func (e *Emotes) Check(fault func(at, what, remedy string)) {
	number("most", float64(e.Most), 0, 500, "emotes", fault)
}

// Finds tells how many a line has.
func (e *Emotes) Finds(l *Line, _ Lately) string {
	l.count()
	if n := len(l.emotes); n > e.Most {
		return plural(n, "emote", "emotes")
	}
	return ""
}
