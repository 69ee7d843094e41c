package event

import (
	"maps"
	"slices"
)

// kinds makes an empty data value for each type.
var kinds = map[string]func() Data{}

// Register makes a type known: fresh returns an empty value of its data.
func Register(fresh func() Data) bool { kinds[fresh().Type()] = fresh; return true }

func sortedKinds() []string { return slices.Sorted(maps.Keys(kinds)) }

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
