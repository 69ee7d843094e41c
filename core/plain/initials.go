package plain

import "unicode"

// Initials are the first letters of the first two words of a name; of one in a script without such words, the first
// letter.
func Initials(name string) string {
	var out []rune
	begins := true
	for _, r := range name {
		switch {
		case unicode.IsLetter(r) || unicode.IsDigit(r):
			if begins && len(out) < 2 {
				out = append(out, unicode.ToUpper(r))
			}
			begins = false
		case r == ' ' || r == '_' || r == '-' || r == '.':
			begins = true
		}
	}
	if len(out) == 2 && unicode.In(out[0], unicode.Arabic, unicode.Han, unicode.Hangul, unicode.Hiragana, unicode.Katakana) {
		out = out[:1] // two of them would be read as a word
	}
	return string(out)
}
