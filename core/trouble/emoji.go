package trouble

import "fmt"

// KindEmoji is the name of it.
const KindEmoji Kind = "emoji"

// Emoji looks for lines with too many emoji.
type Emoji struct {
	Most int `json:"most" jsonschema:"minimum=0,maximum=500"` // that a line may have
}

var emoji = Spec{New: func() Does { return &Emoji{Most: 8} }, Title: "Emoji"}

// Kind is the name of it.
func (*Emoji) Kind() Kind { return KindEmoji }

// Says tells what it looks for.
func (e *Emoji) Says() string { return fmt.Sprintf("more than %s", plural(e.Most, "emoji", "emoji")) }

// Check reports what is out of range.
func (e *Emoji) Check(fault func(at, what, remedy string)) {
	number("most", float64(e.Most), 0, 500, "emoji", fault)
}

// Finds tells how many a line has.
func (e *Emoji) Finds(l *Line, _ Lately) string {
	l.count()
	if n := l.emoji; n > e.Most {
		return plural(n, "emoji", "emoji")
	}
	return ""
}
