package welcome

import (
	"bytes"
	"embed"
	"image/color"
	"io/fs"
	"slices"
	"sort"
	"sync"

	"github.com/go-text/render"
	"github.com/go-text/typesetting/di"
	"github.com/go-text/typesetting/font"
	"github.com/go-text/typesetting/shaping"
	"golang.org/x/image/draw"
	"golang.org/x/image/math/fixed"
)

//go:embed fonts
var files embed.FS

// lettering is a way to write: the fonts that are tried for a character, in their order.
type lettering int

const (
	heading lettering = iota
	body
)

// others are the fonts for what the house's own do not have.
var others = []string{"noto-sans-latin-ext-700", "noto-sans-vietnamese-700", "noto-sans-cyrillic-700", "noto-sans-cyrillic-ext-700", "noto-sans-greek-700", "noto-sans-hebrew-hebrew-700",
	"noto-sans-arabic-arabic-700", "noto-sans-devanagari-700", "noto-sans-thai-thai-700", "noto-sans-jp-japanese-700", "noto-sans-kr-korean-700", "noto-emoji-emoji-700"}

// parsed reads a font that ships.
var parsed = func() func(name string) *font.Font {
	var mu sync.Mutex
	have := map[string]*font.Font{}
	return func(name string) *font.Font {
		mu.Lock()
		defer mu.Unlock()
		if f := have[name]; f != nil {
			return f
		}
		raw, err := fs.ReadFile(files, "fonts/"+name+".woff")
		if err != nil {
			panic(err)
		}
		face, err := font.ParseTTF(bytes.NewReader(raw))
		if err != nil {
			panic(name + ": " + err.Error())
		}
		have[name] = face.Font
		return face.Font
	}
}()

// faces finds a face for a character; a face is for one goroutine, the font behind it for all.
type faces struct {
	names []string
	have  map[string]*font.Face
	last  *font.Face
}

func facesOf(h lettering) *faces {
	own := []string{"bricolage-grotesque-latin-700", "bricolage-grotesque-latin-ext-700", "bricolage-grotesque-vietnamese-700"}
	if h == body {
		own = []string{"figtree-latin-400", "figtree-latin-ext-400"}
	}
	return &faces{names: append(own, others...), have: map[string]*font.Face{}}
}

// ResolveFace is part of shaping.Fontmap.
func (f *faces) ResolveFace(r rune) *font.Face {
	for _, name := range f.names {
		face := f.have[name]
		if face == nil {
			face = font.NewFace(parsed(name))
			f.have[name] = face
		}
		if _, ok := face.NominalGlyph(r); ok {
			f.last = face
			return face
		}
	}
	if f.last == nil {
		f.last = font.NewFace(parsed(f.names[0]))
	}
	return f.last
}

// known drops what no font has, so that no picture has empty boxes in it.
func (f *faces) known(text string) []rune {
	var out []rune
	for _, r := range text {
		if r == ' ' || r == 0x200d || r == 0x200c || r == 0xfe0f {
			out = append(out, r)
			continue
		}
		if face := f.ResolveFace(r); face != nil {
			if _, ok := face.NominalGlyph(r); ok {
				out = append(out, r)
			}
		}
	}
	return out
}

// write writes a text into a box from its top on, in at most so many lines: as large as it fits between two sizes in
// pixels, else cut in its middle where it is one line and at its end where it is more. It returns where the last line ends.
func write(img draw.Image, text string, h lettering, size, least, lines int, c color.Color, x, y, wide int, centred bool) (bottom int) {
	f := facesOf(h)
	runes := f.known(text)
	if len(runes) == 0 {
		return y
	}
	var set []line
	for {
		var cut bool
		if set, cut = wrapped(f, runes, size, lines, wide); !cut || size <= least {
			break
		}
		size = max(least, size*9/10)
	}
	for lines == 1 && len(runes) > 3 {
		var cut bool
		if set, cut = wrapped(f, runes, size, lines, wide); !cut {
			break
		}
		runes = shorter(runes)
	}
	r := render.Renderer{FontSize: float32(size), Color: c}
	leading := size * 5 / 4
	bottom = y
	for _, l := range set {
		at := x
		switch {
		case centred:
			at = x + (wide-l.width)/2
		case l.toLeft:
			at = x + wide - l.width
		}
		for _, run := range l.runs {
			at = r.DrawShapedRunAt(run, img, at, bottom+size)
		}
		bottom += leading
	}
	return bottom
}

// dots stand where something was cut.
var dots = []rune("…")

// shorter cuts one character more out of the middle of a text.
func shorter(text []rune) []rune {
	mid := len(text) / 2
	for i, r := range text {
		if r == dots[0] {
			mid = i
			if i > len(text)-i-1 { // take from the longer side
				return append(append([]rune{}, text[:i-1]...), text[i:]...)
			}
			return append(append([]rune{}, text[:i+1]...), text[i+2:]...)
		}
	}
	return slices.Concat(text[:mid], dots, text[mid+1:])
}

// line is one line as it is drawn, its runs from left to right.
type line struct {
	runs   []shaping.Output
	width  int
	toLeft bool // it begins at the right
}

// wrapped sets a text in lines, between words where it can; cut says that not all of it fits, and then the last line ends
// in dots.
func wrapped(f *faces, text []rune, size, lines, wide int) (set []line, cut bool) {
	for len(text) > 0 {
		all := f.line(text, size)
		if all.width <= wide {
			return append(set, all), false
		}
		last := len(set) == lines-1
		n := sort.Search(len(text), func(n int) bool { // so many characters do not fit any more
			if last {
				return f.line(slices.Concat(text[:n+1], dots), size).width > wide
			}
			return f.line(text[:n+1], size).width > wide
		})
		if last {
			return append(set, f.line(slices.Concat(trimmed(text[:n]), dots), size)), true
		}
		n = max(1, n)
		for at := n; at > 0; at-- { // a line ends where a word does, if one does
			if text[at] == ' ' {
				n = at
				break
			}
		}
		set = append(set, f.line(trimmed(text[:n]), size))
		if text = text[n:]; len(text) > 0 && text[0] == ' ' {
			text = text[1:]
		}
	}
	return set, false
}

// trimmed is a text without the blanks at its end.
func trimmed(text []rune) []rune {
	for len(text) > 0 && text[len(text)-1] == ' ' {
		text = text[:len(text)-1]
	}
	return text
}

// line shapes a text as one line.
func (f *faces) line(text []rune, size int) (l line) {
	var seg shaping.Segmenter
	var shaper shaping.HarfbuzzShaper
	way := direction(text)
	for _, in := range seg.Split(shaping.Input{Text: text, RunEnd: len(text), Size: fixed.I(size), Direction: way}, f) {
		out := shaper.Shape(in)
		narrow(&out, text, size)
		l.runs = append(l.runs, out)
	}
	// Runs of the other way stand in reverse among those of the line's own (Unicode Standard Annex 9, rule L2).
	l.toLeft = way == di.DirectionRTL
	for from := 0; from < len(l.runs); {
		to := from
		for to < len(l.runs) && (l.runs[to].Direction == way) == (l.runs[from].Direction == way) {
			to++
		}
		if l.runs[from].Direction != way {
			slices.Reverse(l.runs[from:to])
		}
		from = to
	}
	if l.toLeft {
		slices.Reverse(l.runs)
	}
	total := fixed.Int26_6(0)
	for i := range l.runs {
		total += l.runs[i].Advance
	}
	l.width = total.Ceil()
	return l
}

// narrow makes blanks as wide as a text's: those of a font of pictures are as wide as its pictures.
func narrow(out *shaping.Output, text []rune, size int) {
	for i := range out.Glyphs {
		if g := &out.Glyphs[i]; text[g.TextIndex()] == ' ' {
			g.Advance = min(g.Advance, fixed.I(size*3/10))
			g.XAdvance = g.Advance // what is drawn goes by this one
		}
	}
	out.RecomputeAdvance()
}
