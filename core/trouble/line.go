package trouble

import (
	"hash/fnv"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"vividporch/core/lookalike"
	"vividporch/core/spoken"
)

// Line is a line of chat as it is looked at. What is counted of it is counted once.
type Line struct {
	Text   string
	Emotes []string // words of it that its platform shows as pictures, as far as that is known

	counted bool
	letters, capitals, others, signs,
	emoji, chars int
	emotes []string
	links  []string
	linked bool
}

// count goes over a line once.
func (l *Line) count() {
	if l.counted {
		return
	}
	l.counted = true
	words := strings.Fields(l.Text)
	for _, w := range words {
		if isEmote(w) || slices.Contains(l.Emotes, w) {
			l.emotes = append(l.emotes, w)
		}
	}
	joined := false
	for _, w := range words {
		if slices.Contains(l.emotes, w) { // a picture has no letters
			l.chars += utf8.RuneCountInString(w)
			continue
		}
		for _, r := range w {
			if lookalike.Ignored(r) || unicode.Is(unicode.M, r) || unicode.Is(unicode.Sk, r) && r >= 0x1F3FB {
				joined = joined || r == '\u200d'
				continue
			}
			l.chars++
			switch {
			case isEmoji(r):
				if !joined { // those that are joined are one
					l.emoji++
				}
			case unicode.IsLetter(r):
				if l.letters++; unicode.IsUpper(r) {
					l.capitals++
				} else if !unicode.IsLower(r) { // scripts without capitals
					l.others++
				}
			case !unicode.IsDigit(r):
				l.signs++
			}
			joined = false
		}
	}
}

func isEmoji(r rune) bool {
	return r >= 0x1F300 && r <= 0x1FAFF || r >= 0x2600 && r <= 0x27BF || r >= 0x1F000 && r <= 0x1F2FF || r >= 0x2B00 && r <= 0x2BFF
}

// isEmote reports whether a word is written as emotes are on platforms that mark them: ":limpet:".
func isEmote(w string) bool {
	return len(w) > 2 && w[0] == ':' && w[len(w)-1] == ':' && strings.Trim(w[1:len(w)-1], "abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789_-") == ""
}

// Digest is the same for lines that say the same, whatever their case, accents and signs.
func (l *Line) Digest() uint64 {
	h := fnv.New64a()
	for _, r := range spoken.Fold(l.Text) {
		if unicode.IsLetter(r) || unicode.IsDigit(r) || r > utf8.RuneSelf && !unicode.IsSpace(r) && !lookalike.Ignored(r) {
			h.Write([]byte(string(r)))
		}
	}
	return h.Sum64()
}

func plural(n int, one, many string) string {
	if n == 1 {
		return "1 " + one
	}
	return itoa(n) + " " + many
}
