package wordlist

import (
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/unicode/norm"

	"vividporch/core/lookalike"
)

// glyph is one letter as it is written, or what may stand for one.
type glyph struct {
	is     rune // small, and without its marks
	full   rune // and with them
	class  rune // what all have that may stand for each other
	stands bool // it is a digit or a sign
	tall   bool // a capital I, which may be an l
}

// signs are what digits and signs may stand for.
var signs = map[rune]string{'0': "o", '1': "il", '2': "z", '3': "e", '4': "a", '5': "s", '6': "bg", '7': "t", '8': "b", '9': "g", '@': "a", '$': "s", '!': "il", '|': "il", '+': "t", '€': "e", '£': "l"}

// classOf is what all have that may stand for each other: of i and l there is one.
func classOf(r rune) rune {
	if s := signs[r]; s != "" {
		r = rune(s[0])
	}
	switch r = lookalike.Loosely(r); r {
	case 'l':
		return 'i'
	case 'g': // of which 6 may be either
		return 'b'
	}
	return r
}

// like reports whether a glyph may be a letter; one of another script among letters of ASCII more easily. A letter that is listed
// with its marks has them.
func (g glyph) like(letter rune, mixed bool) bool {
	switch {
	case g.full == letter || g.is == letter || g.tall && letter == 'l':
		return true
	case g.stands:
		return slices.Contains([]rune(signs[g.is]), letter)
	case g.is < utf8.RuneSelf && letter < utf8.RuneSelf: // what is plainly another letter
		return false
	}
	a, b := lookalike.Letter(g.is), lookalike.Letter(letter)
	if mixed {
		a, b = lookalike.Loosely(g.is), lookalike.Loosely(letter)
	}
	return a == b || classOf(a) == 'i' && classOf(b) == 'i'
}

// mixes reports whether letters of ASCII stand beside others.
func mixes(g []glyph) bool {
	some := func(ascii bool) bool {
		return slices.ContainsFunc(g, func(x glyph) bool { return !x.stands && x.is < utf8.RuneSelf == ascii })
	}
	return some(true) && some(false)
}

// piece is what stands together with nothing between.
type piece struct {
	glyphs []glyph
	after  string // of what stands behind it, the first sign
}

// reading is a text read: chunks between blanks, of pieces.
type reading struct{ chunks [][]piece }

// lettersOf are the glyphs of a text, one after the other.
func lettersOf(text string) (out []glyph) {
	for _, c := range read(text).chunks {
		for i := range c {
			out = append(out, c[i].glyphs...)
		}
	}
	return out
}

func isLetter(r rune) bool { return unicode.In(r, unicode.L, unicode.Nl, unicode.So) && !isEmoji(r) }

func isEmoji(r rune) bool { return r >= 0x1F300 && r <= 0x1FAFF || r >= 0x2600 && r <= 0x27BF }

// read reads a text. Signs stand for letters between letters only: "hello!" ends with one, and "@name" begins with one.
func read(text string) (t reading) {
	runes := make([]rune, 0, len(text))
	var marks map[int][]rune
	for _, r := range decomposed(text) {
		switch {
		case lookalike.Ignored(r):
		case unicode.Is(unicode.Mn, r):
			if marks == nil {
				marks = map[int][]rune{}
			}
			marks[len(runes)-1] = append(marks[len(runes)-1], r)
		default:
			runes = append(runes, r)
		}
	}
	var chunk []piece
	all := make([]glyph, 0, len(runes)) // of all pieces
	now := all
	ends := func(after string) {
		if len(now) > 0 {
			chunk = append(chunk, piece{now[:len(now):len(now)], after})
			all = all[:len(all)+len(now)]
			now = all[len(all):]
		}
	}
	near := func(i int) bool { return i >= 0 && i < len(runes) && (isLetter(runes[i]) || unicode.IsDigit(runes[i])) }
	for i, r := range runes {
		switch {
		case unicode.IsSpace(r):
			ends(" ")
			if len(chunk) > 0 {
				t.chunks = append(t.chunks, chunk)
				chunk = nil
			}
		case isLetter(r):
			small := unicode.ToLower(r)
			g := glyph{is: small, full: small, class: classOf(small), tall: r == 'I'}
			if m := marks[i]; len(m) > 0 {
				if whole := []rune(norm.NFC.String(string(append([]rune{small}, m[0])))); len(whole) == 1 {
					g.full = whole[0]
				}
			}
			now = append(now, g)
		case unicode.IsDigit(r) && signs[r] != "", signs[r] != "" && !unicode.IsDigit(r) && near(i+1) && (near(i-1) || r == '$'):
			now = append(now, glyph{is: r, full: r, class: classOf(r), stands: true})
		default:
			ends(string(r))
		}
	}
	ends("")
	if len(chunk) > 0 {
		t.chunks = append(t.chunks, chunk)
	}
	return t
}

// decomposed is a text in which letters of full width are those of usual width and marks stand apart (UAX #15, NFKD). What looks
// like a letter by itself is one before it is taken apart: the lunate sigma is a c.
func decomposed(text string) string {
	for i := range len(text) {
		if text[i] >= utf8.RuneSelf {
			return norm.NFKD.String(strings.Map(func(r rune) rune {
				if small := unicode.ToLower(r); unicode.Is(unicode.Greek, r) {
					return lookalike.Letter(small)
				}
				return r
			}, text))
		}
	}
	return text
}

// joiners are what may stand between the letters of one word.
const joiners = "._-*'`~·•,/\\|:=+^\"’"

// joined are the glyphs of a chunk whose pieces have nothing but joiners between them; nil for others.
func joined(c []piece) (out []glyph) {
	for i, p := range c {
		if i < len(c)-1 && !contains(joiners, p.after) {
			return nil
		}
		out = append(out, p.glyphs...)
	}
	return out
}

func contains(of, sign string) bool {
	r, _ := utf8.DecodeRuneInString(sign)
	for _, x := range of {
		if x == r && sign != "" {
			return true
		}
	}
	return false
}

// short reports whether most pieces of a chunk are too short to be words.
func short(c []piece) bool {
	n := 0
	for _, p := range c {
		if len(p.glyphs) <= 2 {
			n++
		}
	}
	return 2*n > len(c)
}

// spaced are letters that stand apart with blanks or joiners between them, three and more of them.
func (t reading) spaced() (out [][]glyph) {
	var now []glyph
	n := 0
	ends := func() {
		if n >= leastSpaced {
			out = append(out, now)
		}
		now, n = nil, 0
	}
	for _, c := range t.chunks {
		for _, p := range c {
			if !one(p.glyphs) {
				ends()
				continue
			}
			now = append(now, p.glyphs...)
			n++
		}
	}
	ends()
	return out
}

// one reports whether glyphs are one letter, once or several times.
func one(g []glyph) bool {
	for i := range g {
		if g[i].class != g[0].class {
			return false
		}
	}
	return true
}

// reversed is a text read from its end.
func (t reading) reversed() (out reading) {
	for i := len(t.chunks) - 1; i >= 0; i-- {
		var chunk []piece
		for k := len(t.chunks[i]) - 1; k >= 0; k-- {
			p := piece{glyphs: slices.Clone(t.chunks[i][k].glyphs)}
			if k > 0 {
				p.after = t.chunks[i][k-1].after
			}
			slices.Reverse(p.glyphs)
			chunk = append(chunk, p)
		}
		out.chunks = append(out.chunks, chunk)
	}
	return out
}
