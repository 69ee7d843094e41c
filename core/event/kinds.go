package event

import (
	"maps"
	"slices"
)

// Kinds are types of events: each makes an empty value of its data. What the house logs of
// itself is in [OwnKinds]; all there are, with what comes in from outside, is in the
// catalogue of happenings.
type Kinds map[string]func() Data

// OwnKinds are the types that the house logs of itself.
func OwnKinds() Kinds {
	out := Kinds{}
	for _, fresh := range slices.Concat(ownKinds, bookKinds, screenKinds, guardKinds, drawKinds, pointsKinds) {
		out.Add(fresh)
	}
	return out
}

// Add takes in a type.
func (k Kinds) Add(fresh func() Data) { k[fresh().Type()] = fresh }

// Types lists every type: what may come in from outside first, then what the house logs
// of itself, each in alphabetical order.
func (k Kinds) Types() (outside, own []string) {
	for _, kind := range slices.Sorted(maps.Keys(k)) {
		if IsOwn(kind) {
			own = append(own, kind)
		} else {
			outside = append(outside, kind)
		}
	}
	return outside, own
}

// Fresh returns an empty data value of a type, for schemas and tools; nil for an
// unknown type.
func (k Kinds) Fresh(kind string) Data {
	if fresh, ok := k[kind]; ok {
		return fresh()
	}
	return nil
}

// What data is checked with, by whoever makes a type of it. Fields are named as they
// stand in the data.

// FirstOf is the first of some errors, or nil.
func FirstOf(errs ...error) error {
	for _, e := range errs {
		if e != nil {
			return e
		}
	}
	return nil
}

// AtLeast refuses a number below a bound.
func AtLeast(field string, n, low int64) error {
	if n < low {
		return Wrong("data."+field, "is %d; it must be %d or more", n, low)
	}
	return nil
}

// Filled refuses an empty text.
func Filled(field, s string) error {
	if s == "" {
		return Wrong("data."+field, "is missing")
	}
	return nil
}

// Short refuses a text of more than most bytes.
func Short(field, s string, most int) error {
	if len(s) > most {
		return Wrong("data."+field, "is longer than %d bytes", most)
	}
	return nil
}
