// Package lookalike knows which characters look alike, by the confusables of Unicode Technical Standard #39, so that a word can
// be found however it is written.
package lookalike

import (
	"strings"
	"sync"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/unicode/norm"
)

// skeletons are the skeletons of single characters, as the standard's data has them.
var skeletons = sync.OnceValue(func() map[rune]string {
	out := make(map[rune]string, len(confusables))
	for _, line := range confusables {
		r, n := utf8.DecodeRuneInString(line)
		out[r] = line[n:]
	}
	return out
})

// Skeleton is what two texts have in common that look alike (UTS #39, section 4): decomposed, each character mapped to its
// prototype, and decomposed again. It is for comparing, never for showing. ASCII stays as it is: those who type I for l are
// seen through where words are looked for.
func Skeleton(text string) string {
	var out strings.Builder
	for _, r := range norm.NFD.String(text) {
		switch s, ok := skeletons()[r]; {
		case Ignored(r):
		case ok:
			out.WriteString(s)
		default:
			out.WriteRune(r)
		}
	}
	return norm.NFD.String(out.String())
}

// letters are characters beyond ASCII that look like one small letter of ASCII, and which.
var letters = sync.OnceValue(func() map[rune]rune {
	out := map[rune]rune{}
	for r, s := range skeletons() {
		if like := letterOf(s); like != 0 && unicode.In(r, unicode.L, unicode.N, unicode.S) {
			out[r] = like
		}
	}
	return out
})

// letterOf is the small letter that a skeleton is, with or without marks on it; 0 for none.
func letterOf(skeleton string) rune {
	if skeleton == "rn" { // what m looks like
		return 'm'
	}
	var like rune
	for _, r := range norm.NFKD.String(skeleton) {
		switch {
		case unicode.Is(unicode.Mn, r):
		case r < utf8.RuneSelf && unicode.IsLetter(r) && like == 0:
			like = unicode.ToLower(r)
		default:
			return 0
		}
	}
	return like
}

// Letter is the small letter of ASCII that a character looks like, or the character itself.
func Letter(r rune) rune {
	if r < utf8.RuneSelf {
		return r
	}
	if like, ok := letters()[r]; ok {
		return like
	}
	return r
}

// Loosely is the small letter of ASCII that a character or its capital looks like, or the character itself: among letters of
// ASCII "м" is read as m, by itself it is not.
func Loosely(r rune) rune {
	if like := Letter(r); like != r {
		return like
	}
	if up := unicode.ToUpper(r); up != r {
		if like := Letter(up); like != up {
			return like
		}
	}
	return r
}

// Ignored reports whether nobody sees a character: marks of direction, of joining, and what stands for nothing.
func Ignored(r rune) bool {
	return r >= 0xAD && (unicode.Is(unicode.Cf, r) || unicode.Is(unicode.Other_Default_Ignorable_Code_Point, r) || unicode.Is(unicode.Variation_Selector, r))
}
