// Package wordlist finds words in what people write, however they are disguised: with look-alike letters, accents, letters of
// full width or of other scripts, letters repeated, digits and signs for letters, and blanks or dots between them. Ordinary
// words that only hold a listed one are left alone, unless it is listed as a part.
//
// What is written is read as glyphs: a letter each, or what may stand for one. Glyphs of one class that follow each other
// are a run. All words stand in one automaton over the classes of their runs (Aho and Corasick, 1975); where it finds one, the
// glyphs themselves are held against its letters. So two thousand words take no longer than one.
package wordlist

import (
	"slices"
	"strings"
)

// Word is one that is looked for.
type Word struct {
	Text string `json:"text" jsonschema:"minLength=1,maxLength=60"`
	Part bool   `json:"part,omitempty"` // within other words, too
}

// Most is how many words a list may have; mostLetters how long each may be.
const (
	Most        = 20_000
	mostLetters = 60
)

// List is a list of words, made ready. The zero List finds nothing.
type List struct {
	words []known
	nodes []node
	first [128]int32 // where letters of ASCII lead from the beginning
}

// known is a word as its runs.
type known struct {
	Word
	runs    [][]rune // of letters, with their marks
	classes []rune   // of the runs
	long    int      // letters
}

// node is a place in the automaton.
type node struct {
	fail, end int32 // where to go on when nothing fits; the next place that ends a word, 0 for none
	ends      []int32
	to        []edge
}

type edge struct {
	class rune
	next  int32
}

// New makes words ready. A word without a letter is left out, and one that stands twice stands once.
func New(words []Word) *List {
	l := &List{nodes: make([]node, 1)}
	seen := map[string]bool{}
	for _, w := range words {
		k := known{Word: w}
		var last rune
		for _, g := range lettersOf(w.Text) {
			if g.class != last {
				k.runs, k.classes = append(k.runs, nil), append(k.classes, g.class)
			}
			k.runs[len(k.runs)-1], last = append(k.runs[len(k.runs)-1], g.full), g.class
			k.long++
		}
		key := w.Text
		if w.Part {
			key += "\x00"
		}
		if k.long == 0 || seen[key] {
			continue
		}
		seen[key] = true
		l.add(k)
	}
	l.link()
	return l
}

func (l *List) add(k known) {
	at := int32(0)
	for _, class := range k.classes {
		next := l.next(at, class)
		if next == 0 {
			next = int32(len(l.nodes))
			l.nodes = append(l.nodes, node{})
			l.nodes[at].to = append(l.nodes[at].to, edge{class, next})
			if at == 0 && class < int32(len(l.first)) {
				l.first[class] = next
			}
		}
		at = next
	}
	l.nodes[at].ends = append(l.nodes[at].ends, int32(len(l.words)))
	l.words = append(l.words, k)
}

// next is where a class leads from a place; 0 for nowhere.
func (l *List) next(at int32, class rune) int32 {
	if at == 0 && class < int32(len(l.first)) {
		return l.first[class]
	}
	for _, e := range l.nodes[at].to {
		if e.class == class {
			return e.next
		}
	}
	return 0
}

// link finds for each place the longest other one that ends alike.
func (l *List) link() {
	queue := []int32{0}
	for len(queue) > 0 {
		at := queue[0]
		queue = queue[1:]
		for _, e := range l.nodes[at].to {
			next := e.next
			if at != 0 {
				l.nodes[next].fail = l.step(l.nodes[at].fail, e.class)
			}
			f := l.nodes[next].fail
			if l.nodes[next].end = l.nodes[f].end; len(l.nodes[f].ends) > 0 {
				l.nodes[next].end = f
			}
			queue = append(queue, next)
		}
	}
}

func (l *List) step(at int32, class rune) int32 {
	for {
		if next := l.next(at, class); next != 0 {
			return next
		}
		if at == 0 {
			return 0
		}
		at = l.nodes[at].fail
	}
}

// Empty reports whether there are no words.
func (l *List) Empty() bool { return l == nil || len(l.words) == 0 }

// Find is the first word of the list that a text holds.
func (l *List) Find(text string) (Word, bool) {
	if l.Empty() {
		return Word{}, false
	}
	t := read(text)
	if w, ok := l.in(t); ok {
		return w, true
	}
	if strings.ContainsAny(text, "\u202e\u202d\u2067") { // shown the other way round
		return l.in(t.reversed())
	}
	return Word{}, false
}

func (l *List) in(t reading) (Word, bool) {
	for _, c := range t.chunks {
		for i := range c {
			if w, ok := l.whole(c[i].glyphs); ok {
				return w, true
			}
			if w, ok := l.within(c[i].glyphs, false); ok {
				return w, true
			}
		}
		if len(c) > 1 {
			if all := joined(c); all != nil {
				if w, ok := l.whole(all); ok {
					return w, true
				}
				if short(c) {
					if w, ok := l.within(all, false); ok {
						return w, true
					}
				}
			}
		}
	}
	for _, spaced := range t.spaced() {
		if w, ok := l.within(spaced, true); ok {
			return w, true
		}
	}
	return Word{}, false
}

// whole is the word that glyphs are, with or without digits at their ends.
func (l *List) whole(g []glyph) (Word, bool) {
	if w, ok := l.all(g); ok {
		return w, true
	}
	bare := g
	for len(bare) > 0 && bare[0].stands {
		bare = bare[1:]
	}
	for len(bare) > 0 && bare[len(bare)-1].stands {
		bare = bare[:len(bare)-1]
	}
	if len(bare) == len(g) {
		return Word{}, false
	}
	return l.all(bare)
}

func (l *List) all(g []glyph) (Word, bool) {
	at := int32(0)
	for i := 0; i < len(g); i++ {
		if i > 0 && g[i].class == g[i-1].class {
			continue
		}
		if at = l.next(at, g[i].class); at == 0 {
			return Word{}, false
		}
	}
	for _, n := range l.nodes[at].ends {
		if l.words[n].is(g) {
			return l.words[n].Word, true
		}
	}
	return Word{}, false
}

// leastSpaced is how many letters a word has at least that is looked for in letters with blanks between them.
const leastSpaced = 3

// within is a word that stands somewhere in glyphs: one that is listed as a part, or in letters that stand apart any of three and
// more.
func (l *List) within(g []glyph, apart bool) (Word, bool) {
	at := int32(0)
	var few [32]int
	begins := few[:0] // of the runs
	for i := 0; i < len(g); i++ {
		if i == 0 || g[i].class != g[i-1].class {
			begins = append(begins, i)
			at = l.step(at, g[i].class)
		}
		if i+1 < len(g) && g[i+1].class == g[i].class {
			continue
		}
		for n := at; n != 0; n = l.nodes[n].end {
			for _, w := range l.nodes[n].ends {
				k := &l.words[w]
				if !k.Part && (!apart || k.long < leastSpaced) || len(k.runs) > len(begins) {
					continue
				}
				if k.is(g[begins[len(begins)-len(k.runs)] : i+1]) {
					return k.Word, true
				}
			}
		}
	}
	return Word{}, false
}

// is reports whether glyphs are a word: each run of them its run, none shorter, and what is longer by one letter alone no more
// than ordinary spelling is. At least one of them is a letter.
func (k *known) is(g []glyph) bool {
	longer, small, some, mixed := 0, 0, false, mixes(g)
	for r, i := 0, 0; r < len(k.runs); r++ {
		if i >= len(g) {
			return false
		}
		from := i
		for i++; i < len(g) && g[i].class == g[from].class; i++ {
		}
		run, want := g[from:i], k.runs[r]
		if len(run) < len(want) || !stretches(want, run, mixed) {
			return false
		}
		if len(run) > len(want) {
			if longer++; len(run) < max(3, len(want)+1) {
				small++
			}
		}
		some = some || slices.ContainsFunc(run, func(x glyph) bool { return !x.stands })
		if r == len(k.runs)-1 && i != len(g) {
			return false
		}
	}
	return some && (small == 0 || longer > 1) // "later" is not "latter" and "goood" is "good"; "llaater" hides "later"
}

// stretches reports whether letters, each once or several times, are a run.
func stretches(letters []rune, run []glyph, mixed bool) bool {
	if len(letters) == 0 {
		return len(run) == 0
	}
	for n := 1; n <= len(run)-len(letters)+1 && run[n-1].like(letters[0], mixed); n++ {
		if stretches(letters[1:], run[n:], mixed) {
			return true
		}
	}
	return false
}
