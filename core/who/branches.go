package who

import (
	"slices"
	"strings"
)

// mostBranches bounds how far a who with many "any" is taken apart.
const mostBranches = 64

// Branches takes a who apart into the flat ones of which any may match.
func (w *Who) Branches() []Who {
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
		cross(w.All[i].Branches())
	}
	if len(w.Any) > 0 {
		var any []Who
		for i := range w.Any {
			any = append(any, w.Any[i].Branches()...)
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

// Reach is how close a flat who comes for those whom it fits.
func (w *Who) Reach() Held {
	var h Held
	for _, f := range w.flat() {
		f.count(&h)
	}
	return h
}

// Apart reports whether no person and moment can fit both.
func (w *Who) Apart(o *Who) bool {
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
	if w.Date != nil && o.Date != nil && w.Date.apart(o.Date) {
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

// Apart reports whether no number is of both measures, or one of two that meet is
// always the closer.
func (m *Measure) Apart(o *Measure) bool {
	if m == nil || o == nil {
		return false
	}
	if m.Of != o.Of && m.Of != "" && o.Of != "" || m.Currency != o.Currency && m.Currency != "" && o.Currency != "" {
		return true
	}
	if d, _ := m.Compare(o); d != 0 {
		return true
	}
	low, high := m.Ends()
	least, most := o.Ends()
	return high < least || most < low
}
