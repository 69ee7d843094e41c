// Package wording reads and renders what the house says. A wording is ICU
// MessageFormat (https://unicode-org.github.io/icu/userguide/format_parse/messages/):
// text with fill-ins in braces.
//
//	Welcome back, {name}! That makes {streams, plural, one {# stream} other {# streams}} together.
//
// [Parse] turns the text into a [Wording] or says where it is broken; [Wording.Check]
// holds it against the fill-ins a courtesy can offer; [Wording.Render] fills it in.
// Values are never parsed again: braces in somebody's name are just braces.
package wording

import (
	"fmt"
	"slices"
	"strings"
	"unicode/utf16"

	"vividporch/core/plain"
)

// Wording is a parsed text, ready to render. It is immutable.
type Wording struct {
	src   string
	nodes []node
	needs []string
}

// Problem is a fault in a wording at a place: byte offsets From and To into the
// source. What says what is wrong, Remedy what to do.
type Problem struct {
	From   int    `json:"from"`
	To     int    `json:"to"`
	What   string `json:"what"`
	Remedy string `json:"remedy"`
}

func (p *Problem) Error() string { return fmt.Sprintf("at %d: %s; %s", p.From, p.What, p.Remedy) }

// node is one piece of a parsed wording.
type node interface{ at() (from, to int) }

type span struct{ from, to int }

func (s span) at() (int, int) { return s.from, s.to }

type (
	text struct {
		span
		s string
	}
	// fill is {name} or {name, number, style}.
	fill struct {
		span
		name, kind, style string
	}
	// hash is # inside a plural: the number less the offset.
	hash struct{ span }
	// choice is plural, selectordinal or select.
	choice struct {
		span
		name, kind string
		offset     int
		keys       []string
		arms       [][]node
	}
)

// Parse reads a wording. The error is a *Problem.
func Parse(src string) (*Wording, error) {
	p := &parser{src: src}
	nodes, err := p.message(false, 0)
	if err != nil {
		return nil, err
	}
	w := &Wording{src: src, nodes: nodes}
	seen := map[string]bool{}
	for _, n := range nodes {
		if f, ok := n.(*fill); ok && !seen[f.name] {
			seen[f.name] = true
			w.needs = append(w.needs, f.name)
		}
	}
	return w, nil
}

// String returns the source.
func (w *Wording) String() string { return w.src }

// Needs lists the fill-ins that stand outside any choice, in order: without a
// value for one of them the sentence has a hole.
func (w *Wording) Needs() []string { return w.needs }

// Alone names the fill-in that is all of a wording, as a number or as it is; "" when
// there is more to it.
func (w *Wording) Alone() string {
	if len(w.nodes) == 1 {
		if f, ok := w.nodes[0].(*fill); ok && (f.kind == "" || f.kind == "number") {
			return f.name
		}
	}
	return ""
}

// Plain reports whether a wording is words alone, without a fill-in or a choice.
func (w *Wording) Plain() bool {
	return !slices.ContainsFunc(w.nodes, func(n node) bool { _, words := n.(*text); return !words })
}

// Quoted is text as a wording that says just that: braces, and apostrophes before them, in quotes.
func Quoted(s string) string {
	if !strings.ContainsAny(s, "{}'") {
		return s
	}
	s = strings.ReplaceAll(s, "'", "''")
	s = strings.ReplaceAll(s, "{", "'{'")
	return strings.ReplaceAll(s, "}", "'}'")
}

// Uses reports whether a fill-in, or its companion, stands anywhere in the wording.
func (w *Wording) Uses(name string) bool {
	var in func(nodes []node) bool
	in = func(nodes []node) bool {
		for _, n := range nodes {
			switch n := n.(type) {
			case *fill:
				if n.name == name {
					return true
				}
			case *choice:
				if n.name == name || n.name == Companion(name) {
					return true
				}
				for _, arm := range n.arms {
					if in(arm) {
						return true
					}
				}
			}
		}
		return false
	}
	return in(w.nodes)
}

// Fits reports whether every fill-in the wording needs has a value.
func (w *Wording) Fits(args Args) bool { return w.Lacks(args) == "" }

// Lacks is the first fill-in the wording needs that has no value, or "".
func (w *Wording) Lacks(args Args) string {
	for _, n := range w.needs {
		if args[n].missing() {
			return n
		}
	}
	return ""
}

// UTF16 converts a byte offset into src to UTF-16 code units, which is how a
// browser counts.
func UTF16(src string, offset int) int {
	if offset > len(src) {
		offset = len(src)
	}
	return len(utf16.Encode([]rune(src[:offset])))
}

// Kind is what sort of value a fill-in has.
type Kind string

// The kinds of fill-ins.
const (
	Text   Kind = "text"
	Number Kind = "number"
	Moment Kind = "moment"
)

// FillIn is a blank a courtesy can offer to its wordings. A fill-in that may be
// missing comes with a companion named "has…", which is "yes" when the value is
// known: {hasCategory, select, yes {last seen with {category}} other {}}.
type FillIn struct {
	Name     string `json:"name"`
	Kind     Kind   `json:"kind"`
	Tells    string `json:"tells"`
	Example  string `json:"example"`
	Optional bool   `json:"optional,omitempty"`
}

// Companion is the name of the fill-in that tells whether name has a value.
func Companion(name string) string { return "has" + strings.ToUpper(name[:1]) + name[1:] }

// Check holds the wording against what is offered and returns every fault found,
// in order of place.
func (w *Wording) Check(offered []FillIn) []Problem {
	known := map[string]FillIn{}
	for _, f := range offered {
		known[f.Name] = f
		if f.Optional {
			known[Companion(f.Name)] = FillIn{Name: Companion(f.Name), Kind: Text}
		}
	}
	var out []Problem
	var walk func(nodes []node, inside bool)
	use := func(n node, name string, number, bare bool) {
		from, to := n.at()
		f, ok := known[name]
		switch {
		case !ok:
			remedy := "take one of: " + strings.Join(namesOf(offered), ", ")
			if near := nearest(name, offered); near != "" {
				remedy = fmt.Sprintf("did you mean {%s}?", near)
			}
			out = append(out, Problem{from, to, fmt.Sprintf("there is no fill-in {%s} here", name), remedy})
		case number && f.Kind != Number:
			out = append(out, Problem{from, to, fmt.Sprintf("{%s} is no number", name), "use it as it is, or in a select"})
		case bare && f.Optional:
			out = append(out, Problem{from, to, fmt.Sprintf("{%s} is not always known", name),
				fmt.Sprintf("put it into {%s, select, yes {… {%s} …} other {…}}", Companion(name), name)})
		}
	}
	walk = func(nodes []node, inside bool) {
		for _, n := range nodes {
			switch n := n.(type) {
			case *fill:
				use(n, n.name, n.kind == "number", !inside)
				if f, ok := known[n.name]; ok && (n.kind == "date" || n.kind == "time") && f.Kind != Moment {
					out = append(out, Problem{n.from, n.to, fmt.Sprintf("{%s} is no date", n.name), "use it as it is"})
				}
			case *choice:
				use(n, n.name, n.kind != "select", false)
				for _, arm := range n.arms {
					walk(arm, true)
				}
			}
		}
	}
	walk(w.nodes, false)
	return out
}

func namesOf(fs []FillIn) []string {
	var out []string
	for _, f := range fs {
		out = append(out, f.Name)
	}
	return out
}

// nearest finds the offered name closest to a misspelt one, at most two edits away.
func nearest(name string, fs []FillIn) string {
	best, at := "", 3
	for _, f := range fs {
		if d := plain.Edits(strings.ToLower(name), strings.ToLower(f.Name)); d < at {
			best, at = f.Name, d
		}
	}
	return best
}
