package screen

import (
	"cmp"
	"fmt"
	"maps"
	"slices"

	"vividporch/core/lookback"
	"vividporch/core/plain"
	"vividporch/spec"
)

// Looked is an evening that was read as the evening line has it; called is what an account is called now, or "".
func Looked(e *lookback.Evening, called func(account string) string) spec.Evening {
	out := spec.Evening{Minutes: make([]int, len(e.Minutes)), Arrivals: []spec.Mark{}, Raids: []spec.Mark{}, Said: []spec.Mark{}, Pins: []spec.Mark{}}
	for i, m := range e.Minutes {
		out.Minutes[i] = m.People
	}
	name := func(account, was string) string {
		return cmp.Or(plain.Name(cmp.Or(called(account), was)), "somebody")
	}
	for i, a := range e.Arrivals {
		out.Arrivals = append(out.Arrivals, spec.Mark{At: a.At, ID: fmt.Sprint("arrival-", i), Name: name(a.Account, a.Name), Standing: string(a.Standing), Fellow: a.Fellow})
	}
	for i, r := range e.Raids {
		if !r.Went {
			out.Raids = append(out.Raids, spec.Mark{At: r.At, ID: fmt.Sprint("raid-", i), Name: name(r.Account, r.Name), Viewers: r.Viewers})
		}
	}
	for i, s := range e.Said {
		out.Said = append(out.Said, spec.Mark{At: s.At, ID: fmt.Sprint("said-", i)})
	}
	return out
}

// Counted are names with counts, the highest first, at most so many.
func Counted(of map[string]int, most int) []spec.CountedReason {
	out := []spec.CountedReason{}
	for _, why := range slices.Sorted(maps.Keys(of)) {
		out = append(out, spec.CountedReason{Why: why, Count: of[why]})
	}
	slices.SortStableFunc(out, func(a, b spec.CountedReason) int { return b.Count - a.Count })
	return out[:min(len(out), most)]
}
