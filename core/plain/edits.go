package plain

import (
	"slices"
	"strings"
	"unicode"
)

// Edits is the Levenshtein distance of two short texts, in bytes: how many letters
// have to be put in, taken out or replaced to turn one into the other.
func Edits(a, b string) int {
	row := make([]int, len(b)+1)
	for j := range row {
		row[j] = j
	}
	for i := 1; i <= len(a); i++ {
		diag := row[0]
		row[0] = i
		for j := 1; j <= len(b); j++ {
			cost := 1
			if a[i-1] == b[j-1] {
				cost = 0
			}
			diag, row[j] = row[j], min(row[j]+1, row[j-1]+1, diag+cost)
		}
	}
	return row[len(b)]
}

// wordMost is how many characters of a word count: what is longer is found by its
// beginning.
const wordMost = 60

// Words are the words of a folded text, each once, at most most of them: runs of
// letters and digits of any script, their first sixty characters.
func Words(s string, most int) []string {
	out := []string{}
	for _, w := range strings.FieldsFunc(s, func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) }) {
		if rs := []rune(w); len(rs) > wordMost {
			w = string(rs[:wordMost])
		}
		if len(out) < most && !slices.Contains(out, w) {
			out = append(out, w)
		}
	}
	return out
}

// slipLetters are the letters a slip can put in or in the place of another.
const slipLetters = "abcdefghijklmnopqrstuvwxyz0123456789"

// Slips are the texts one slip of the hand away from a word (Damerau's four: two
// neighbours change places, a letter too much, a wrong one, one left out), the
// likelier kinds first.
func Slips(word string) []string {
	rs := []rune(word)
	seen := map[string]bool{word: true}
	out := []string{}
	add := func(parts ...string) {
		if s := strings.Join(parts, ""); s != "" && !seen[s] {
			seen[s] = true
			out = append(out, s)
		}
	}
	for i := 0; i+1 < len(rs); i++ {
		add(string(rs[:i]), string(rs[i+1]), string(rs[i]), string(rs[i+2:]))
	}
	for i := range rs {
		if len(rs) > 3 { // of less, nearly everything would be left
			add(string(rs[:i]), string(rs[i+1:]))
		}
	}
	for i := range rs {
		for _, c := range slipLetters {
			add(string(rs[:i]), string(c), string(rs[i+1:]))
		}
	}
	for i := range rs {
		for _, c := range slipLetters {
			add(string(rs[:i]), string(c), string(rs[i:]))
		}
	}
	return out
}
