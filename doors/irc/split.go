package irc

import (
	"strings"

	"github.com/rivo/uniseg"

	"vividporch/core/plain"
)

// Split cuts text into pieces of at most most bytes, between words where it can
// and never within what a reader sees as one character (a letter with its marks,
// a whole emoji: the grapheme clusters of Unicode Standard Annex 29). A piece
// after the first is kept from starting with a command sign. A single character
// longer than most is left out, as no piece could hold it.
func Split(text string, most int, signs string) []string {
	const guard = 3 // bytes of the word joiner plain.Guard may add
	if most < 8 {
		most = 8
	}
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
		state, rest := -1, text
		for rest != "" {
			var cluster string
			cluster, rest, _, state = uniseg.FirstGraphemeClusterInString(rest, state)
			if cut+len(cluster) > limit {
				break
			}
			cut += len(cluster)
			if cluster == " " {
				space = cut
			}
		}
		if cut == 0 { // one character that fits nowhere
			cluster, _, _, _ := uniseg.FirstGraphemeClusterInString(text, -1)
			text = strings.TrimLeft(text[len(cluster):], " ")
			continue
		}
		if space > limit/3 {
			cut = space
		}
		out = append(out, strings.TrimRight(text[:cut], " "))
		text = strings.TrimLeft(text[cut:], " ")
	}
	for i := 1; i < len(out); i++ {
		out[i] = plain.Guard(out[i], signs)
	}
	return out
}
