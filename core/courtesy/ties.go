package courtesy

import (
	"fmt"
	"math"
	"slices"
	"strings"
)

// Tie is two courtesies for which some cause exists where nothing but the order
// the streamer set tells which of them wins.
type Tie struct {
	First  string `json:"first"`
	Second string `json:"second"`
	Why    string `json:"why"`
}

// mostBranches bounds how far a who with many "any" is taken apart.
const mostBranches = 64

// Ties finds the pairs that can tie. Only courtesies that are on and fill a slot
// can; most bounds how many are told.
func (s *Set) Ties(most int) []Tie {
	type branch struct {
		r *Ready
		w Who
	}
	groups := map[string][]branch{}
	var order []string
	for _, r := range s.all {
		if !r.On || r.Slot == Free || r.Also {
			continue
		}
		for _, w := range r.Who.branches() {
			var h held
			for _, f := range w.flat() {
				f.count(&h)
			}
			key := fmt.Sprintf("%s/%s/%d/%d/%d/%d", r.When, r.Slot, h.close, h.crews, h.conditions, r.Measure.rank())
			if groups[key] == nil {
				order = append(order, key)
			}
			groups[key] = append(groups[key], branch{r, w})
		}
	}
	var out []Tie
	told := map[[2]string]bool{}
	for _, key := range order {
		g := groups[key]
		for i := range g {
			for j := i + 1; j < len(g) && len(out) < most; j++ {
				a, b := g[i], g[j]
				pair := [2]string{a.r.ID, b.r.ID}
				word, clash := sharedAsk(a.r, b.r)
				if a.r == b.r || told[pair] || a.r.When == Command && !clash || a.w.apart(&b.w) || a.r.Measure.apart(b.r.Measure) {
					continue
				}
				told[pair] = true
				why := "for " + both(whom(a.w), whom(b.w)) + " only their order decides"
				if clash {
					why = "both are asked by " + word + "; " + why
				}
				out = append(out, Tie{a.r.ID, b.r.ID, why})
			}
		}
	}
	return out
}

// sharedAsk is a word by which two commands are both asked; ok is false when each has
// words of its own.
func sharedAsk(a, b *Ready) (word string, ok bool) {
	for _, w := range a.Asks {
		if slices.ContainsFunc(b.Asks, func(o string) bool { return strings.EqualFold(w, o) }) {
			return w, true
		}
	}
	return "", false
}

func both(a, b string) string {
	if a == b {
		return a
	}
	return a + " who is also " + b
}

// branches takes a who apart into the flat ones of which any may match.
func (w *Who) branches() []Who {
	flat := *w
	flat.All, flat.Any = nil, nil
	out := []Who{flat}
	cross := func(with []Who) {
		var next []Who
		for _, a := range out {
			for _, b := range with {
				if len(next) < mostBranches {
					next = append(next, a.merged(b))
				}
			}
		}
		out = next
	}
	for i := range w.All {
		cross(w.All[i].branches())
	}
	if len(w.Any) > 0 {
		var any []Who
		for i := range w.Any {
			any = append(any, w.Any[i].branches()...)
		}
		cross(any)
	}
	return out
}

// merged is both at once; where they differ in one field the first keeps it and
// the second stands beside it.
func (w Who) merged(o Who) Who {
	out := w
	out.All = append(slices.Clone(w.All), o)
	return out
}

// flat lists a who and those that must hold beside it.
func (w *Who) flat() []*Who {
	out := []*Who{w}
	for i := range w.All {
		out = append(out, w.All[i].flat()...)
	}
	return out
}

// apart reports whether no person and moment can fit both.
func (w *Who) apart(o *Who) bool {
	for _, a := range w.flat() {
		for _, b := range o.flat() {
			if a.differs(b) {
				return true
			}
		}
	}
	return false
}

func (w *Who) differs(o *Who) bool {
	other := func(a, b string) bool { return a != "" && b != "" && !strings.EqualFold(a, b) }
	if other(string(w.Standing), string(o.Standing)) || other(w.Platform, o.Platform) || other(w.Account, o.Account) {
		return true
	}
	if len(w.Days) > 0 && len(o.Days) > 0 && !slices.ContainsFunc(w.Days, func(d string) bool {
		return slices.ContainsFunc(o.Days, func(e string) bool { return strings.EqualFold(d, e) })
	}) {
		return true
	}
	if w.Until != "" && o.Since != "" && w.Until < o.Since || o.Until != "" && w.Since != "" && o.Until < w.Since {
		return true
	}
	for k, v := range w.Fields {
		if other(v, o.Fields[k]) {
			return true
		}
	}
	return false
}

// apart reports whether no number is of both measures, or one of two that meet is
// always the closer.
func (m *Measure) apart(o *Measure) bool {
	if m == nil || o == nil {
		return false
	}
	if m.Of != o.Of && m.Of != "" && o.Of != "" || m.Currency != o.Currency && m.Currency != "" && o.Currency != "" {
		return true
	}
	if d, _ := m.compare(o); d != 0 {
		return true
	}
	low, high := m.ends()
	least, most := o.ends()
	return high < least || most < low
}

// Stretch is a piece of the number line on which the same courtesy wins: from From
// to To, both included; To is nil where it goes on for ever. Without a Courtesy it
// is a gap. Under lists those that would fit too.
type Stretch struct {
	From     float64  `json:"from"`
	To       *float64 `json:"to,omitempty"`
	Courtesy string   `json:"courtesy,omitempty"`
	Under    []string `json:"under,omitempty"`
}

// Line works out who wins on each piece of the number line, for a cause without
// its number. The numbers are whole, or hundredths of an amount.
func (s *Set) Line(c Cause, slot Slot, of, currency string) []Stretch {
	step := 1.0
	if of == "amount" {
		step = 0.01
	}
	next := func(f float64) float64 { return math.Round((f+step)/step) * step }
	starts := []float64{0}
	for _, r := range s.For(c) {
		if r.Slot != slot || r.Measure == nil {
			continue
		}
		low, high := r.Measure.ends()
		if low > 0 && !math.IsInf(low, 0) {
			starts = append(starts, low)
		}
		if !math.IsInf(high, 0) && high >= 0 {
			starts = append(starts, next(high))
		}
	}
	slices.Sort(starts)
	starts = slices.Compact(starts)
	var out []Stretch
	for i, from := range starts {
		// The largest so far is no place on the line: nothing here is larger than what was.
		c.Quantities = []Quantity{{Of: of, Currency: currency, N: from, Tonight: math.MaxFloat64, Ever: math.MaxFloat64}}
		won, ladder := s.Winner(c, slot)
		st := Stretch{From: from}
		if won != nil {
			st.Courtesy = won.ID
		}
		for _, g := range ladder {
			if !g.Won && strings.HasPrefix(g.Why, "gives way to ") {
				st.Under = append(st.Under, g.Courtesy)
			}
		}
		if i+1 < len(starts) {
			to := math.Round((starts[i+1]-step)/step) * step
			st.To = &to
		}
		if last := len(out) - 1; last >= 0 && out[last].Courtesy == st.Courtesy && slices.Equal(out[last].Under, st.Under) {
			out[last].To = st.To
			continue
		}
		out = append(out, st)
	}
	return out
}
