// Package thread tells which lines of chat are worth taking up again when somebody comes back: what
// they said to the streamer, and what they asked the room. An [Ear] is made of what the streamer is
// called; it takes one line at a time.
package thread

import (
	"slices"
	"strings"

	"vividporch/core/spoken"
)

// Ear knows what the streamer is called.
type Ear struct {
	names [][]string // each of folded words
	signs []string   // of which one stands in every line it takes that answers nobody, in lower case
}

// leastName is how many letters one word of a longer name has, by which the streamer is still meant:
// "Odalys" of "Odalys Brine", but not "of".
const leastName = 4

// Of makes an ear of what the streamer is called: logins and names, in any spelling. One word of a
// name of several means them too.
func Of(names ...string) Ear {
	e := Ear{signs: slices.Clone(marks)}
	add := func(words []string) {
		if len(words) > 0 && !slices.ContainsFunc(e.names, func(n []string) bool { return slices.Equal(n, words) }) {
			e.names = append(e.names, words)
		}
	}
	for _, name := range names {
		words := spoken.Words(name)
		add(words)
		for _, w := range strings.Fields(strings.ToLower(name)) {
			if len(words) == 1 || len(w) >= leastName {
				e.signs = append(e.signs, w)
			}
		}
		for _, w := range words {
			if len(words) > 1 && len(w) >= leastName {
				add([]string{w})
			}
		}
	}
	return e
}

// Signs are what to look for among many lines: one of them stands in every line that it takes and that
// answers nobody, in lower case.
func (e Ear) Signs() []string { return e.signs }

// Takes reports whether a line was said to the streamer, or asks something of nobody else. reply says
// that it answers a line of the streamer's.
func (e Ear) Takes(line string, reply bool) bool {
	line = strings.TrimSpace(line)
	switch {
	case line == "":
		return false
	case reply || e.named(spoken.Words(line)):
		return true
	case strings.HasPrefix(line, "@"): // to somebody else
		return false
	}
	return asks(line)
}

// named reports whether one of the streamer's names stands among words.
func (e Ear) named(words []string) bool {
	for i := range words {
		for _, n := range e.names {
			if len(n) <= len(words)-i && slices.Equal(words[i:i+len(n)], n) {
				return true
			}
		}
	}
	return false
}

// marks end questions, in the scripts that have one of their own: Latin, full width, Arabic, Armenian
// and Greek.
var marks = []string{"?", "？", "؟", "՞", "\u037e"}

// asks reports whether a line is a question: whether some word of it but a link ends in the sign of
// one, and there is a word beside the sign.
func asks(line string) bool {
	for _, token := range strings.Fields(line) {
		if strings.Contains(token, "://") {
			continue
		}
		end := strings.TrimRight(token, "!)…\"'”’")
		for _, mark := range marks {
			if strings.HasSuffix(end, mark) || mark == "՞" && strings.Contains(end, mark) {
				return len(spoken.Words(line)) > 0
			}
		}
	}
	return false
}
