package courtesy

import (
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"vividporch/core/happening"
	"vividporch/core/people"
	"vividporch/core/who"
)

// Finding is something worth a look in a whole set of courtesies. Kind is one of
// "never" (it can never happen), "tie", "gap" (numbers that nobody thanks for),
// "stopped" (something keeps it from happening), "long" and "letters" (a wording
// that does not come out as meant) and "missing".
type Finding struct {
	Courtesy string `json:"courtesy,omitempty"`
	Kind     string `json:"kind"`
	What     string `json:"what"`
	Remedy   string `json:"remedy"`
}

// mostGuests bounds how many made-up people a courtesy is held against before it
// is said that it can never win.
const mostGuests = 2000

// Review looks at a whole set at once: what can never happen, what ties, and which
// numbers nobody answers to. now is any moment in the channel's zone; platforms are
// those people can come from.
func (s *Set) Review(now time.Time, platforms []string) []Finding {
	var out []Finding
	for _, r := range s.all {
		if r.On && !r.Who.Nobody {
			if f, bad := s.never(r, now, platforms); bad {
				out = append(out, f)
			}
		}
	}
	for _, t := range s.Ties(20) {
		out = append(out, Finding{Courtesy: t.Second, Kind: "tie", What: "ties with " + t.First + ": " + t.Why, Remedy: "narrow one of them, or put them in the order you want"})
	}
	return append(out, s.gaps(now)...)
}

// never looks for somebody, and a moment, for whom a courtesy comes about.
func (s *Set) never(r *Ready, now time.Time, platforms []string) (Finding, bool) {
	fits, rival, why := false, "", ""
	for c := range guests(r, s, now, platforms) {
		if ok, misfit := r.Fits(c); !ok {
			why = misfit
			continue
		}
		fits = true
		if r.Slot == happening.Free || r.Also {
			return Finding{}, false
		}
		won, _ := s.Winner(c, r.Slot)
		if won == r {
			return Finding{}, false
		}
		rival = won.ID
	}
	f := Finding{Courtesy: r.ID, Kind: "never", What: "can never win: " + rival + " is always closer, or stands before it", Remedy: "narrow it, widen the other, or put one of them away"}
	if !fits {
		f.What, f.Remedy = "nobody can be all of that at once: it "+why, "take one of its conditions out"
	}
	return f, true
}

// guests makes up people and moments that a courtesy is for, the plainest first,
// then every number, platform and standing it leaves open; and other days and
// hours, where some courtesy of the same when minds them.
func guests(r *Ready, s *Set, now time.Time, platforms []string) func(yield func(who.Cause) bool) {
	days, hours := 1, []int{12}
	minds := false
	for _, q := range s.by[r.When] {
		q.Who.Each(func(w *who.Who) { minds = minds || len(w.Days) > 0 || w.Hours != nil || w.Since != "" || w.Until != "" })
	}
	if minds {
		days, hours = 7, []int{12, 20, 4, 0, 16, 8, 22, 2}
	}
	if len(platforms) == 0 {
		platforms = []string{""}
	}
	return func(yield func(who.Cause) bool) {
		n := 0
		for _, hour := range hours {
			for day := range days {
				at := time.Date(now.Year(), now.Month(), now.Day()+day, hour, 30, 0, 0, now.Location())
				for _, w := range r.Who.Branches() {
					for _, quantity := range s.numbers(r) {
						for _, platform := range platforms {
							for _, standing := range people.Standings {
								if n++; n > mostGuests || !yield(guest(r, &w, at, quantity, platform, standing)) {
									return
								}
							}
						}
					}
				}
			}
		}
	}
}

// guest makes up a cause that is what a flat who asks for.
func guest(r *Ready, w *who.Who, at time.Time, q *who.Quantity, platform string, standing people.Standing) who.Cause {
	c := who.Cause{When: r.When, Live: true, Known: &people.Known{}, Standing: standing, At: at, Fields: map[string]string{}}
	c.Person.Platform, c.Person.ID = platform, "~"
	c.Heard = r.AskedFor()
	if q != nil {
		c.Quantities = []who.Quantity{*q}
	}
	w.Embody(&c)
	return c
}

// numbers are the quantities worth trying for a courtesy: the ends of every band
// that shares its when, and the steps beside them; nil where no number comes.
func (s *Set) numbers(r *Ready) []*who.Quantity {
	of, currency := happening.Of(r.When).Main(), ""
	if of == "" {
		return []*who.Quantity{nil}
	}
	if m := r.Measure; m != nil {
		currency = m.Currency
		if m.Of != "" {
			of = m.Of
		}
	}
	points := []float64{1}
	for _, q := range s.by[r.When] {
		if q.Measure == nil {
			continue
		}
		low, high := q.Measure.Ends()
		for _, end := range []float64{low, high} {
			if !math.IsInf(end, 0) {
				points = append(points, end, end+1, max(0, end-1))
			}
		}
	}
	slices.Sort(points)
	if r.Measure != nil { // its own band first
		slices.SortStableFunc(points, func(a, b float64) int {
			in := func(f float64) int {
				if r.Measure.Holds(f) {
					return 0
				}
				return 1
			}
			return in(a) - in(b)
		})
	}
	var out []*who.Quantity
	for _, n := range slices.Compact(points) {
		out = append(out, &who.Quantity{Of: of, Currency: currency, N: n})
	}
	return out
}

// gaps are the numbers between bands that nobody in particular would be thanked for.
func (s *Set) gaps(now time.Time) []Finding {
	type band struct{ when, of, currency string }
	seen := map[band]bool{}
	var out []Finding
	for _, r := range s.all {
		if !r.On || r.Slot != happening.Thanks || r.Measure == nil {
			continue
		}
		k := band{r.When, r.Measure.Of, r.Measure.Currency}
		if k.of == "" {
			k.of = happening.Of(r.When).Main()
		}
		if seen[k] {
			continue
		}
		seen[k] = true
		c := who.Cause{When: r.When, Live: true, Known: &people.Known{}, Standing: people.Returning, At: now}
		for _, st := range s.Line(c, happening.Thanks, k.of, k.currency) {
			if st.Courtesy != "" || st.To != nil && *st.To < 1 {
				continue
			}
			to := "and more"
			if st.To != nil {
				to = "to " + who.Number(*st.To)
			}
			out = append(out, Finding{Courtesy: r.ID, Kind: "gap", What: fmt.Sprintf("nobody in particular is thanked for %s %s %s", who.Number(max(st.From, 1)), to, strings.TrimSpace(k.of+" "+k.currency)),
				Remedy: "widen a band, or add one that does nothing, to pass them over on purpose"})
		}
	}
	return out
}
