package welcome

import (
	"github.com/go-text/typesetting/di"
	"golang.org/x/text/unicode/bidi"
)

// direction is that of the first letter of a text that has one (Unicode Standard Annex 9, rules P2 and P3).
func direction(text []rune) di.Direction {
	for _, r := range text {
		switch p, _ := bidi.LookupRune(r); p.Class() {
		case bidi.L:
			return di.DirectionLTR
		case bidi.R, bidi.AL:
			return di.DirectionRTL
		}
	}
	return di.DirectionLTR
}
