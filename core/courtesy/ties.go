package courtesy

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"vividporch/core/happening"
	"vividporch/core/who"
)

// Tie is two courtesies for which some cause exists where nothing but the order
// the streamer set tells which of them wins.
type Tie struct {
	First  string `json:"first"`
	Second string `json:"second"`
	Why    string `json:"why"`
}

// Ties finds the pairs that can tie. Only courtesies that are on and fill a slot
// can; most bounds how many are told.
func (s *Set) Ties(most int) []Tie {
	type branch struct {
		r    *Ready
		w    who.Who
		word string // of a command: one that it is asked by
	}
	groups := map[string][]branch{}
	var order []string
	for _, r := range s.all {
		if !r.On || r.Slot == happening.Free || r.Also {
			continue
		}
		for _, w := range r.Who.Branches() {
			h := w.Reach()
			words := []string{""}
			if r.When == happening.Command {
				words = slices.Concat(r.names, r.phrases)
			}
			for _, word := range words {
				key := fmt.Sprintf("%s/%s/%s/%d/%d/%d/%d", r.When, word, r.Slot, h.Close, h.Crews, h.Conditions, r.Measure.Rank())
				if groups[key] == nil {
					order = append(order, key)
				}
				groups[key] = append(groups[key], branch{r, w, word})
			}
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
				if a.r == b.r || told[pair] || a.w.Apart(&b.w) || a.r.Measure.Apart(b.r.Measure) {
					continue
				}
				told[pair] = true
				why := "for " + both(a.w.Whom(), b.w.Whom()) + " only their order decides"
				if a.word != "" {
					why = "both are asked by " + a.word + "; " + why
				}
				out = append(out, Tie{a.r.ID, b.r.ID, why})
			}
		}
	}
	return out
}

func both(a, b string) string {
	if a == b {
		return a
	}
	return a + " who is also " + b
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
func (s *Set) Line(c who.Cause, slot happening.Slot, of, currency string) []Stretch {
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
		low, high := r.Measure.Ends()
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
		c.Quantities = []who.Quantity{{Of: of, Currency: currency, N: from, Tonight: math.MaxFloat64, Ever: math.MaxFloat64}}
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
