package wording

import (
	"math"
	"strconv"
	"strings"
	"time"

	"golang.org/x/text/feature/plural"
	"golang.org/x/text/language"

	"vividporch/core/plain"
)

// Value is what a fill-in is filled with.
type Value struct {
	Text  string     `json:"text,omitempty"`
	Num   float64    `json:"num,omitempty"`
	IsNum bool       `json:"isNum,omitempty"`
	Time  *time.Time `json:"time,omitempty"` // a moment, in the zone it is shown in
}

// Args are the values by fill-in. A name that is absent, or an empty text, is
// missing.
type Args map[string]Value

// Str makes a text value, cleaned of what does harm in a line.
func Str(s string) Value { return Value{Text: plain.Text(s)} }

// Name makes a text value out of a display name.
func Name(s string) Value { return Value{Text: plain.Name(s)} }

// Num makes a number.
func Num(n int64) Value { return Value{Num: float64(n), IsNum: true} }

func (v Value) missing() bool { return !v.IsNum && v.Time == nil && v.Text == "" }

// Maybe sets an optional fill-in and its companion.
func (a Args) Maybe(name string, v Value) {
	if !v.missing() {
		a[name] = v
		a[Companion(name)] = Value{Text: "yes"}
	}
}

// english is the one language of this house's sample and default settings.
// Plural rules come from CLDR through golang.org/x/text.
var english = language.English

// Render fills the wording in. A value that is missing leaves nothing behind: a
// select takes its other branch, a plain fill-in is empty, and the spaces round
// the hole are closed up.
func (w *Wording) Render(args Args) string {
	var b strings.Builder
	r := renderer{args: args, out: &b}
	r.nodes(w.nodes, nil)
	s := b.String()
	if r.hole || strings.Contains(s, "  ") {
		s = closeUp(s)
	}
	return strings.TrimSpace(s)
}

type renderer struct {
	args Args
	out  *strings.Builder
	hole bool
}

// nodes renders in order; count is the number # stands for, nil outside a plural.
func (r *renderer) nodes(ns []node, count *float64) {
	for _, n := range ns {
		switch n := n.(type) {
		case *text:
			r.out.WriteString(n.s)
		case *hash:
			if count != nil {
				r.out.WriteString(decimal(*count))
			}
		case *fill:
			r.fill(n)
		case *choice:
			r.choice(n, count)
		}
	}
}

func (r *renderer) fill(f *fill) {
	v := r.args[f.name]
	switch {
	case v.missing():
		r.hole = true
	case v.Time != nil && (f.kind == "date" || f.kind == "time"):
		r.out.WriteString(moment(*v.Time, f.kind, f.style))
	case v.Time != nil:
		r.out.WriteString(moment(*v.Time, "date", "medium"))
	case !v.IsNum:
		r.out.WriteString(v.Text)
	case f.kind == "number":
		r.out.WriteString(numeral(v.Num, f.style))
	default: // as it is: a year or a number of a house has no commas
		r.out.WriteString(strconv.FormatFloat(v.Num, 'f', -1, 64))
	}
}

func (r *renderer) choice(c *choice, outer *float64) {
	v := r.args[c.name]
	if c.kind == "select" {
		key := v.Text
		if v.IsNum {
			key = decimal(v.Num)
		}
		r.nodes(c.arm(key), outer)
		return
	}
	if !v.IsNum {
		r.nodes(c.arm("other"), nil)
		return
	}
	less := v.Num - float64(c.offset)
	exact := "=" + strconv.FormatFloat(v.Num, 'f', -1, 64)
	for i, k := range c.keys {
		if k == exact {
			r.nodes(c.arms[i], &less)
			return
		}
	}
	rules := plural.Cardinal
	if c.kind == "selectordinal" {
		rules = plural.Ordinal
	}
	r.nodes(c.arm(formName(rules, less)), &less)
}

// arm finds a case by name, else other.
func (c *choice) arm(key string) []node {
	var other []node
	for i, k := range c.keys {
		if k == key {
			return c.arms[i]
		}
		if k == "other" {
			other = c.arms[i]
		}
	}
	return other
}

// formName is the CLDR plural category of n. Only whole numbers are counted in
// this product; a fraction is "other", as in English.
func formName(rules *plural.Rules, n float64) string {
	n = math.Abs(n)
	if n >= 1e15 { // beyond what a form can be told of; its last digits still tell
		n = 1000 + math.Mod(n, 1000)
	}
	if n != float64(int64(n)) { // a fraction, or no number at all
		return "other"
	}
	form := rules.MatchPlural(english, int(n), 0, 0, 0, 0)
	for i, f := range []plural.Form{plural.Zero, plural.One, plural.Two, plural.Few, plural.Many} {
		if f == form {
			return pluralKeys[i]
		}
	}
	return "other"
}

// decimal writes a number with English grouping. Small whole numbers, nearly all
// there are, take a short way.
func decimal(n float64) string {
	if n == float64(int64(n)) && n > -1000 && n < 1000 {
		return strconv.Itoa(int(n))
	}
	return numeral(n, "")
}

// closeUp removes doubled spaces and a space before closing punctuation.
func closeUp(s string) string {
	var b strings.Builder
	prev := rune(0)
	rs := []rune(s)
	for i, c := range rs {
		if c == ' ' {
			next := rune(0)
			if i+1 < len(rs) {
				next = rs[i+1]
			}
			if prev == ' ' || prev == 0 || strings.ContainsRune(" ,.;!?", next) {
				continue
			}
		}
		b.WriteRune(c)
		prev = c
	}
	return b.String()
}
