package plain

import (
	"strings"
	"unicode"
)

// What other people wrote is put into texts of places whose readers make more of some characters than they are. These
// take that from them and leave them readable.

// unmarked are the characters by which Markdown (CommonMark 0.31, and its common additions) marks text, and what looks
// like them and marks nothing. A joiner would not do: it takes no emphasis away.
var unmarked = strings.NewReplacer("*", "∗", "`", "ˋ", "~~", "∼∼", "||", "|"+joiner+"|", "](", "]"+joiner+"(", "__", "ˍˍ")

// NoMarkup keeps other people's text from being marked up by a place: no emphasis, code, hidden text, heading, quotation or
// link under other words.
func NoMarkup(s string) string {
	if !strings.ContainsAny(s, "*`~|]_#>-+") {
		return s
	}
	return Guard(edged(unmarked.Replace(s)), "#>-+")
}

// edged takes the underscores at the edges of words for what they look like; those within a name stay.
func edged(s string) string {
	if !strings.Contains(s, "_") {
		return s
	}
	runes := []rune(s)
	word := func(i int) bool {
		return i >= 0 && i < len(runes) && (unicode.IsLetter(runes[i]) || unicode.IsDigit(runes[i]) || runes[i] == '_')
	}
	for i, r := range runes {
		if r == '_' && !(word(i-1) && word(i+1)) {
			runes[i] = 'ˍ'
		}
	}
	return string(runes)
}

// NoLinks keeps other people's text from becoming a link: what reads as one is still read, and leads nowhere.
func NoLinks(s string) string {
	if !strings.ContainsAny(s, ".:") {
		return s
	}
	fields := strings.Split(s, " ")
	for i, word := range fields {
		if IsLink(word) {
			fields[i] = strings.NewReplacer("://", ":"+joiner+"//", ".", "."+joiner).Replace(word)
		}
	}
	return strings.Join(fields, " ")
}

// IsLink reports whether a word is what a site would make a link of: it has a scheme, or reads as a host.
func IsLink(word string) bool {
	if strings.Contains(word, "://") {
		return true
	}
	host, _, _ := strings.Cut(strings.Trim(word, "()[]<>\"'.,;:!?"), "/")
	labels := strings.Split(host, ".")
	last := labels[len(labels)-1]
	return len(labels) > 1 && len(last) >= 2 && labels[0] != "" && !strings.ContainsFunc(last, func(r rune) bool { return !unicode.IsLetter(r) })
}
