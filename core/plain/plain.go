// Package plain makes other people's text safe to put into a line, without
// changing what an honest name or message looks like.
//
// Nothing here escapes for a format (JSON, HTML, CSV): whoever writes a format
// does that. What is taken out here does harm everywhere: line breaks and other
// control characters, marks that turn the reading direction round (Unicode
// Standard Annex 9, explicit directional formatting), and towers of combining
// marks (beyond four on one letter, none of the world's scripts needs more).
package plain

import (
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/cases"
	"golang.org/x/text/unicode/norm"
)

// Limits for other people's text inside a line.
const (
	NameRunes = 60   // a name is cut after so many characters
	TextRunes = 400  // any other fill-in
	LineRunes = 2000 // a line by hand
	marksMost = 4    // combining marks kept on one letter
)

// joiner is U+2060 WORD JOINER: no width, no space, and no platform trims it.
const joiner = "\u2060"

// Name cleans a display name. The empty result of a name made of nothing but
// harm is left to the caller to replace.
func Name(s string) string { return clean(s, NameRunes) }

// Line cleans a line that a member wrote. The network's own bound is the door's matter,
// which splits it.
func Line(s string) string { return clean(s, LineRunes) }

// Text cleans any other text of a viewer.
func Text(s string) string { return clean(s, TextRunes) }

func clean(s string, most int) string {
	if ok, n := simple(s); ok && n <= most {
		return s
	}
	var b strings.Builder
	marks, count, space := 0, 0, true
loop:
	for _, r := range s {
		switch {
		case r == utf8.RuneError, isHarm(r):
			continue
		case unicode.IsSpace(r) || unicode.IsControl(r):
			if !space {
				b.WriteByte(' ')
				count++
			}
			space, marks = true, 0
			continue
		case unicode.Is(unicode.Mn, r) || unicode.Is(unicode.Me, r):
			if marks++; marks > marksMost || space {
				continue
			}
			b.WriteRune(r)
			continue
		}
		if count >= most {
			b.WriteRune('…')
			break loop
		}
		b.WriteRune(r)
		marks, space = 0, false
		count++
	}
	return strings.TrimRight(b.String(), " ")
}

// simple is the fast path: printable ASCII without double or outer spaces.
func simple(s string) (bool, int) {
	prev := byte(' ')
	for i := 0; i < len(s); i++ {
		c := s[i]
		if c < ' ' || c > '~' || (c == ' ' && prev == ' ') {
			return false, 0
		}
		prev = c
	}
	return prev != ' ' || s == "", len(s)
}

// isHarm: directional formatting, invisible separators, tags and other format
// characters that only deceive. Zero-width joiner and non-joiner stay: emoji and
// several scripts need them.
func isHarm(r rune) bool {
	switch {
	case r == 0x200c, r == 0x200d:
		return false
	case r >= 0xe0000 && r <= 0xe007f:
		return r < 0xe0020 // tag characters spell flags; the rest deceive
	case r >= 0xfff9 && r <= 0xfffb, r == 0xfeff, r == 0x00ad, r == 0x061c:
		return true
	}
	return unicode.Is(unicode.Cf, r) || unicode.Is(unicode.Co, r) || unicode.Is(unicode.Cs, r)
}

// CommandSigns are the characters that open a platform's or a bot's command at
// the start of a line. A door's profile may add its own.
const CommandSigns = "/.!\\"

// Guard keeps a line, or the second half of a split one, from being read as a
// command: when its first character is one of signs it is set behind a word
// joiner, which shows nothing.
func Guard(line, signs string) string {
	t := strings.TrimLeft(line, " ")
	if t == "" {
		return line
	}
	if r, _ := utf8.DecodeRuneInString(t); strings.ContainsRune(signs, r) {
		return joiner + t
	}
	return line
}

// Unguard takes away what [Guard] may have put before a line.
func Unguard(line string) string { return strings.TrimPrefix(line, joiner) }

// NoPing keeps other people's text from calling anybody on a community server:
// every at-sign, and every opening bracket that some servers read as a call, is
// followed by a word joiner.
func NoPing(s string) string {
	if !strings.ContainsAny(s, "@<＠﹫") {
		return s
	}
	var b strings.Builder
	for _, r := range s {
		b.WriteRune(r)
		switch r {
		case '@', '<', '＠', '﹫':
			b.WriteString(joiner)
		}
	}
	return b.String()
}

// Fold brings text into the form in which the guest book is searched: lower case,
// without accents and other marks (Unicode Standard Annex 15, form NFKD).
func Fold(s string) string {
	var b strings.Builder
	for _, r := range norm.NFKD.String(strings.ToLower(s)) {
		switch {
		case unicode.Is(unicode.Mn, r):
		case unicode.IsControl(r) || unicode.IsSpace(r):
			b.WriteByte(' ')
		default:
			b.WriteRune(r)
		}
	}
	return strings.Join(strings.Fields(b.String()), " ")
}

// Same reports whether two names are one: whatever their case, and however their
// letters are written (Unicode Standard Annex 15, form NFKC, with the full case folding
// of the Unicode Standard, section 3.13). What only looks alike is not the same. An
// empty name is nobody's.
func Same(a, b string) bool {
	return a != "" && b != "" && (a == b || Caseless(a) == Caseless(b))
}

// Caseless is what two names have in common that are the same, as [Same] says it.
func Caseless(s string) string {
	for i := range len(s) {
		if c := s[i]; c >= 0x80 {
			return caseless(s)
		}
	}
	return strings.ToLower(s)
}

func caseless(s string) string {
	return norm.NFKC.String(cases.Fold().String(norm.NFKC.String(s)))
}

// Begins reports whether a name begins like another, in any case, without accents.
func Begins(name, with string) bool {
	with = Fold(with)
	return with != "" && strings.HasPrefix(Fold(name), with)
}

// List writes several things as one: "a, b and c".
func List(items []string, word string) string {
	if n := len(items); n > 1 {
		return strings.Join(items[:n-1], ", ") + " " + word + " " + items[n-1]
	}
	return strings.Join(items, "")
}

// somebody stands where a name stood.
const somebody = "somebody"

// nameLeast is how many letters and digits a name must have to be taken out of
// sentences: shorter ones are words like any other.
const nameLeast = 4

func telling(name string) bool {
	n := 0
	for _, r := range name {
		if unicode.IsLetter(r) || unicode.IsDigit(r) {
			n++
		}
	}
	return n >= nameLeast
}

// Without takes names out of a text, each where it stands as a whole word.
func Without(text string, names []string) string {
	for _, n := range names {
		if telling(n) {
			text = replaceWhole(text, n, somebody)
		}
	}
	return text
}

// replaceWhole puts one word in the place of another where it stands whole.
func replaceWhole(t, from, to string) string {
	if !strings.Contains(t, from) {
		return t
	}
	letter := func(r rune) bool { return unicode.IsLetter(r) || unicode.IsDigit(r) || r == '_' }
	var b strings.Builder
	for last := rune(' '); ; {
		i := strings.Index(t, from)
		if i < 0 {
			break
		}
		if i > 0 {
			last, _ = utf8.DecodeLastRuneInString(t[:i])
		}
		next, size := utf8.DecodeRuneInString(t[i+len(from):])
		b.WriteString(t[:i])
		if letter(last) || size > 0 && letter(next) {
			b.WriteString(from)
		} else {
			b.WriteString(to)
		}
		last, _ = utf8.DecodeLastRuneInString(from)
		t = t[i+len(from):]
	}
	return b.String() + t
}

// Titled writes a platform's key as its name.
func Titled(key string) string {
	if key == "" {
		return ""
	}
	return strings.ToUpper(key[:1]) + key[1:]
}

var counted = []string{"no", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve"}

// Count writes a number as people do in a sentence: "two", "twelve", "13".
func Count(n int) string {
	if n >= 0 && n < len(counted) {
		return counted[n]
	}
	return strconv.Itoa(n)
}
