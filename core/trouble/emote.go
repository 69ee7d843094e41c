package trouble

import (
	"fmt"
	"slices"
	"strings"
)

// KindEmote is the name of it.
const KindEmote Kind = "one emote"

// Emote looks for emotes that are named.
type Emote struct {
	Named []string `json:"named,omitempty"`
}

var oneEmote = Spec{New: func() Does { return &Emote{} }, Title: "One emote"}

// Kind is the name of it.
func (*Emote) Kind() Kind { return KindEmote }

// Says tells what it looks for.
func (e *Emote) Says() string {
	if len(e.Named) == 1 {
		return "the emote " + e.Named[0]
	}
	return fmt.Sprintf("one of %d emotes", len(e.Named))
}

// mostNamed is how many emotes may be named.
const mostNamed = 200

// Check reports what is no emote.
func (e *Emote) Check(fault func(at, what, remedy string)) {
	if len(e.Named) > mostNamed {
		fault("named", "are too many", fmt.Sprintf("name at most %d", mostNamed))
	}
	for i, w := range e.Named {
		if w == "" || len(w) > 100 || strings.ContainsAny(w, " \t") {
			fault(fmt.Sprintf("named.%d", i), "is no emote", "write it as it stands in chat, without blanks")
		}
	}
}

// Finds tells which of them a line has.
func (e *Emote) Finds(l *Line, _ Lately) string {
	for _, w := range strings.Fields(l.Text) {
		if slices.Contains(e.Named, w) {
			return "the emote " + w
		}
	}
	return ""
}
