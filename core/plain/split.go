package plain

import (
	"strings"
	"unicode"
	"unicode/utf8"
)

// Split cuts text into pieces of at most most bytes, between words where it can and never
// within what a reader sees as one character (a letter with its marks, a whole emoji: the
// grapheme clusters of Unicode Standard Annex 29; where it is in doubt it does not cut). A
// piece after the first is kept from starting with a command sign. A single character
// longer than most is left out, as no piece could hold it.
//
// The house counts the pieces of a line before it is said, and the network is sent the very
// same.
func Split(text string, most int, signs string) []string {
	const guard = 3 // bytes of the word zeroWidthJoiner Guard may add
	most = max(most, 8)
	var out []string
	for text = strings.TrimSpace(text); text != ""; {
		limit := most
		if len(out) > 0 {
			limit -= guard
		}
		if len(text) <= limit {
			out = append(out, text)
			break
		}
		cut, space := 0, 0
		for end := 0; cut < len(text); cut = end {
			if end = cut + character(text[cut:]); end > limit {
				break
			}
			if text[cut:end] == " " {
				space = end
			}
		}
		if cut == 0 { // one character that fits nowhere
			text = strings.TrimLeft(text[character(text):], " ")
			continue
		}
		if space > limit/3 {
			cut = space
		}
		out = append(out, strings.TrimRight(text[:cut], " "))
		text = strings.TrimLeft(text[cut:], " ")
	}
	for i := 1; i < len(out); i++ {
		out[i] = Guard(out[i], signs)
	}
	return out
}

// character is how many bytes the first character of a text has.
func character(text string) int {
	before, at := utf8.DecodeRuneInString(text)
	flags := 0
	if isFlag(before) {
		flags = 1
	}
	for at < len(text) {
		r, n := utf8.DecodeRuneInString(text[at:])
		if !goesOn(before, r, flags) {
			return at
		}
		if isFlag(r) {
			flags++
		}
		before, at = r, at+n
	}
	return at
}

const zeroWidthJoiner = '\u200d'

// isFlag reports whether a rune is half a flag, a regional indicator.
func isFlag(r rune) bool { return r >= 0x1F1E6 && r <= 0x1F1FF }

// goesOn reports whether b goes on with the character that ends in a, after so many halves
// of flags in a row.
func goesOn(a, b rune, flags int) bool {
	switch {
	case b < 0x300: // of the Latin scripts nothing goes on but a line end
		return a == '\r' && b == '\n' || a == zeroWidthJoiner || preceding(a)
	case isFlag(b):
		return isFlag(a) && flags%2 == 1 || a == zeroWidthJoiner || preceding(a)
	case unicode.In(b, unicode.M, unicode.Cf) || b >= 0x1F3FB && b <= 0x1F3FF: // marks, joiners, tags, shades of skin
		return true
	case b >= 0x1100 && b <= 0x11FF || b >= 0xA960 && b <= 0xA97F || b >= 0xD7B0 && b <= 0xD7FF: // parts of Hangul syllables
		return true
	case a == zeroWidthJoiner || preceding(a):
		return true
	}
	return unicode.Is(unicode.M, a) && unicode.Is(unicode.L, b) && conjoins(b)
}

// preceding reports whether a rune belongs to the one after it, as signs before Arabic
// numbers do.
func preceding(r rune) bool {
	return r >= 0x600 && r <= 0x605 || r == 0x6DD || r == 0x70F || r == 0x890 || r == 0x891 || r == 0x8E2 || r == 0x110BD || r == 0x110CD ||
		r == 0xD4E || r == 0x111C2 || r == 0x111C3 || r == 0x1193F || r == 0x11941 || r >= 0x11A84 && r <= 0x11A89 || r == 0x11A3A || r == 0x11D46 || r == 0x11F02 || r == 0x113D1
}

// conjoins reports whether letters of a rune's script may grow together over a mark.
func conjoins(r rune) bool {
	return r >= 0x900 && r <= 0xDFF || r >= 0x1000 && r <= 0x109F || r >= 0x1780 && r <= 0x17FF || r >= 0x1A20 && r <= 0x1BFF || r >= 0xA980 && r <= 0xAAFF || r >= 0x10A00 && r <= 0x11FFF
}
