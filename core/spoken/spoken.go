// Package spoken reads lines of chat as the house hears them: the command that a line begins
// with, and the words and phrases that stand anywhere in it.
//
// A [Lexicon] holds what is listened for. Reading a line costs by the length of the line and
// not by how much is listened for: names are looked up, and phrases by their first word.
//
//	var x spoken.Lexicon
//	x.Name("tides")
//	x.Phrase("low tide")
//	h := x.Read("!tides tomorrow?", "!") // h.Name is "tides", h.Rest is "tomorrow?"
package spoken

import (
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"vividporch/core/plain"
)

// MostWords is how many words a phrase may have.
const MostWords = 8

// Lexicon is the names and phrases that are listened for. The empty one hears nothing.
type Lexicon struct {
	names   map[string]bool
	phrases map[string][][]string // by their first word, the longest first
}

// Heard is what a line asks for: a command by its name, or a phrase that stands in it.
type Heard struct {
	Name   string // as it was added, folded; "" for none
	Signed string // a name that was added with the same sign in front of it; "" for none
	Phrase string // the longest one, where the line begins with no command
	Rest   string // what stands behind the name, as it was written; of a phrase the whole line

	Platform string // where it was said
}

// Any reports whether anything was heard.
func (h Heard) Any() bool { return h.Name != "" || h.Signed != "" || h.Phrase != "" }

// Fold brings a name into the form in which names are compared: in any case, with or without
// accents, full width or not, whatever invisible characters stand in it.
func Fold(s string) string {
	if ascii(s) {
		return strings.ToLower(strings.TrimSpace(s))
	}
	return plain.Fold(strings.Map(seen, s))
}

// seen drops what nobody sees: format characters, such as marks of direction and joiners, and
// the selectors that make a character an emoji.
func seen(r rune) rune {
	if unicode.Is(unicode.Cf, r) || unicode.Is(unicode.Variation_Selector, r) {
		return -1
	}
	return r
}

// IsSigned reports whether a name carries a sign of its own: whether it begins with something
// that is no letter, no digit and no underscore.
func IsSigned(name string) bool {
	r, size := utf8.DecodeRuneInString(name)
	return size > 0 && !inWord(r)
}

// Name adds a name. One that carries its own sign is heard with it on every platform; any
// other is heard behind a platform's sign.
func (x *Lexicon) Name(name string) {
	if name = Fold(name); name == "" {
		return
	}
	if x.names == nil {
		x.names = map[string]bool{}
	}
	x.names[name] = true
}

// Phrase adds a word or several that are heard anywhere in a line.
func (x *Lexicon) Phrase(phrase string) {
	words := Words(phrase)
	if len(words) == 0 || len(words) > MostWords {
		return
	}
	if x.phrases == nil {
		x.phrases = map[string][][]string{}
	}
	list := x.phrases[words[0]]
	if slices.ContainsFunc(list, func(have []string) bool { return slices.Equal(have, words) }) {
		return
	}
	list = append(list, words)
	slices.SortStableFunc(list, func(a, b []string) int { return longer(b, a) })
	x.phrases[words[0]] = list
}

// longer puts the phrase first that has more words, then more letters.
func longer(a, b []string) int {
	if d := len(a) - len(b); d != 0 {
		return d
	}
	return letters(a) - letters(b)
}

func letters(words []string) (n int) {
	for _, w := range words {
		n += len(w)
	}
	return n
}

// Read tells what a line asks for, on a platform with such signs before its commands, one or
// several, written in a row. A name has to begin the line, whatever pictures stand before it.
func (x *Lexicon) Read(line, signs string) Heard {
	if len(x.names) > 0 {
		if h, ok := x.begun(line, signs); ok {
			return h
		}
		if bare := unadorned(line); len(bare) < len(line) {
			if h, ok := x.begun(bare, signs); ok {
				return h
			}
		}
	}
	if len(x.phrases) > 0 {
		if p := x.phrase(line); p != "" {
			return Heard{Phrase: p, Rest: strings.TrimSpace(line)}
		}
	}
	return Heard{}
}

// begun looks the first word of a line up, with and without the punctuation at its end.
func (x *Lexicon) begun(line, signs string) (h Heard, ok bool) {
	word, rest := parted(line)
	if h, ok = x.command(word, signs); !ok {
		if bare := strings.TrimRight(word, ",.!?:;"); bare != word {
			h, ok = x.command(bare, signs)
		}
	}
	h.Rest = rest
	return h, ok
}

// command looks a word up: as it stands, and behind one of the signs.
func (x *Lexicon) command(word, signs string) (h Heard, ok bool) {
	if word == "" || len(word) > 200 {
		return h, false
	}
	if c := word[0]; c < 0x80 && inWord(rune(c)) {
		return h, false // every command has a sign in front
	}
	folded := Fold(word)
	if x.names[folded] && IsSigned(folded) {
		h.Signed = folded
	}
	for _, sign := range signs {
		if bare, cut := strings.CutPrefix(folded, string(sign)); cut && x.names[bare] && !IsSigned(bare) {
			h.Name = bare
		}
	}
	return h, h.Name != "" || h.Signed != ""
}

// phrase is the longest phrase that stands in a line as whole words; of equals the first.
// Words of a link are no words of a sentence.
func (x *Lexicon) phrase(line string) string {
	var best []string
	var room [64]string
	words := room[:0]
	take := func() {
		for i := range words {
			for _, p := range x.phrases[words[i]] {
				if len(p) <= len(words)-i && slices.Equal(words[i:i+len(p)], p) {
					if best == nil || longer(p, best) > 0 {
						best = p
					}
					break // the longest that begins here
				}
			}
		}
	}
	if !ascii(line) {
		line = plain.Fold(strings.Map(seen, line))
	}
	for line != "" {
		var token string
		token, line, _ = strings.Cut(line, " ")
		if linked(token) {
			take() // what stands behind a link goes not on with what stood before
			words = room[:0]
			continue
		}
		words = split(words, folded(token))
	}
	take()
	return strings.Join(best, " ")
}

// folded writes a token in lower case; nearly every one is so already.
func folded(token string) string {
	for i := range len(token) {
		if c := token[i]; 'A' <= c && c <= 'Z' {
			return strings.ToLower(token)
		}
	}
	return token
}

// linked reports whether a token is an address.
func linked(token string) bool {
	return strings.Contains(token, "://") || len(token) > 4 && strings.EqualFold(token[:4], "www.")
}

// parted parts a line into its first word and what stands behind it.
func parted(line string) (word, rest string) {
	line = strings.TrimSpace(line)
	at := strings.IndexFunc(line, unicode.IsSpace)
	if at < 0 {
		return line, ""
	}
	return line[:at], strings.TrimSpace(line[at:])
}

// unadorned is a line without the pictures, and whatever nobody sees, at its beginning.
func unadorned(line string) string {
	return strings.TrimLeftFunc(line, func(r rune) bool {
		return unicode.IsSpace(r) || r > 0x7f && (pictured(r) || seen(r) < 0)
	})
}

// pictured reports whether a character is part of an emoji.
func pictured(r rune) bool {
	return unicode.Is(unicode.So, r) || r >= 0x1f3fb && r <= 0x1f3ff // tones of skin
}

// Words splits a line into its words, folded.
func Words(line string) []string {
	if ascii(line) {
		return split(nil, strings.ToLower(line))
	}
	return split(nil, plain.Fold(strings.Map(seen, line)))
}

// Stretched reports whether a word is another, or that one with letters drawn out: "heyyy" is
// "hey". A letter is drawn out where it stands three times or more.
func Stretched(word, of string) bool {
	for word != "" && of != "" {
		r, n := run(word)
		o, least := run(of)
		if r != o || n != least && (n < 3 || n < least) {
			return false
		}
		word, of = word[n*utf8.RuneLen(r):], of[least*utf8.RuneLen(o):]
	}
	return word == of
}

// run is the character that a word begins with, and how often it stands there.
func run(word string) (r rune, n int) {
	r, _ = utf8.DecodeRuneInString(word)
	for _, c := range word {
		if c != r {
			break
		}
		n++
	}
	return r, n
}

// split adds the words of a text to a list of them.
func split(words []string, text string) []string {
	from := -1
	for i, r := range text {
		switch in := inWord(r) || r == '\''; {
		case in && from < 0:
			from = i
		case !in && from >= 0:
			words = append(words, text[from:i])
			from = -1
		}
	}
	if from >= 0 {
		words = append(words, text[from:])
	}
	return words
}

func inWord(r rune) bool { return r == '_' || unicode.IsLetter(r) || unicode.IsDigit(r) }

func ascii(s string) bool {
	for i := range len(s) {
		if s[i] >= utf8.RuneSelf {
			return false
		}
	}
	return true
}
