package who

import (
	"fmt"
	"math"
	"slices"
	"strconv"

	"vividporch/core/happening"
	"vividporch/core/plain"
)

// Measure is a band of a happening's number: exactly, the largest so far, from
// AtLeast to UpTo (both included), or with one of these alone; with none of them
// it is "otherwise". Of names the number when the happening has several.
type Measure struct {
	Of       string   `json:"of,omitempty"`       // as its happening names it
	Currency string   `json:"currency,omitempty"` // ISO 4217, of an amount
	Exactly  *float64 `json:"exactly,omitempty"`
	AtLeast  *float64 `json:"atLeast,omitempty"`
	UpTo     *float64 `json:"upTo,omitempty"`
	Largest  string   `json:"largest,omitempty" jsonschema:"enum=tonight,enum=ever"`
}

// CurrencyOr is the currency a measure is about, or another.
func (m *Measure) CurrencyOr(other string) string {
	if m == nil || m.Currency == "" {
		return other
	}
	return m.Currency
}

// Quantity is a number that came with a happening, and the largest of its kind
// before it.
type Quantity struct {
	Of       string // as its happening names it: "viewers"
	Currency string
	N        float64
	Tonight  float64 // the largest before it in this stream; 0 when there was none
	Ever     float64 // the largest before it at all
}

// find picks the quantity a measure is about; nil when the happening has none.
func (m *Measure) find(qs []Quantity) *Quantity {
	for i := range qs {
		if (m.Of == "" || m.Of == qs[i].Of) && (m.Currency == "" || m.Currency == qs[i].Currency) {
			return &qs[i]
		}
	}
	return nil
}

// Misfit says why a measure does not hold, or "".
func (m *Measure) Misfit(qs []Quantity) string {
	q := m.find(qs)
	switch {
	case q == nil && (m.Of != "" || m.Currency != "" || m.Largest != ""):
		return "is for " + m.String() + ", this has none"
	case q == nil:
		return ""
	case m.Largest == "tonight" && q.N <= q.Tonight:
		return "is for the largest tonight, which was " + Number(q.Tonight)
	case m.Largest == "ever" && q.N <= q.Ever:
		return "is for the largest ever, which was " + Number(q.Ever)
	case !m.Holds(q.N):
		return "is for " + m.String() + ", this is " + Number(q.N)
	}
	return ""
}

// Holds reports whether a number is in the band.
func (m *Measure) Holds(n float64) bool {
	switch {
	case m.Exactly != nil:
		return n == *m.Exactly
	case m.AtLeast != nil && n < *m.AtLeast, m.UpTo != nil && n > *m.UpTo:
		return false
	}
	return true
}

// String is the band in words.
func (m *Measure) String() string {
	unit := ""
	if m.Currency != "" {
		unit = " " + m.Currency
	} else if m.Of != "" {
		unit = " " + m.Of
	}
	switch {
	case m.Exactly != nil:
		return "exactly " + Number(*m.Exactly) + unit
	case m.Largest == "tonight":
		return "the largest tonight"
	case m.Largest == "ever":
		return "the largest ever"
	case m.AtLeast != nil && m.UpTo != nil:
		return Number(*m.AtLeast) + " to " + Number(*m.UpTo) + unit
	case m.AtLeast != nil:
		return Number(*m.AtLeast) + " or more" + unit
	case m.UpTo != nil:
		return "up to " + Number(*m.UpTo) + unit
	}
	return "otherwise"
}

// Number writes a whole number without a point.
func Number(f float64) string { return strconv.FormatFloat(f, 'f', -1, 64) }

// Rank orders measures: exactly, the largest so far, a band with two ends, a band
// with one, otherwise, none.
func (m *Measure) Rank() int {
	switch {
	case m == nil:
		return 0
	case m.Exactly != nil:
		return 5
	case m.Largest != "":
		return 4
	case m.UpTo != nil:
		return 3
	case m.AtLeast != nil:
		return 2
	}
	return 1
}

// Compare puts the closer of two measures that both hold first.
func (m *Measure) Compare(o *Measure) (int, string) {
	if d := m.Rank() - o.Rank(); d != 0 {
		return d, "the closer measure wins"
	}
	if m.Rank() == 4 && m.Largest != o.Largest {
		if m.Largest == "ever" {
			return 1, "the largest ever is closer than tonight's"
		}
		return -1, "the largest ever is closer than tonight's"
	}
	if m.Rank() == 2 && *m.AtLeast != *o.AtLeast {
		if *m.AtLeast > *o.AtLeast {
			return 1, "the higher amount wins"
		}
		return -1, "the higher amount wins"
	}
	return 0, ""
}

// Ends are the least and the greatest number a band takes in.
func (m *Measure) Ends() (low, high float64) {
	low, high = math.Inf(-1), math.Inf(1)
	switch {
	case m == nil:
	case m.Exactly != nil:
		return *m.Exactly, *m.Exactly
	default:
		if m.AtLeast != nil {
			low = *m.AtLeast
		}
		if m.UpTo != nil {
			high = *m.UpTo
		}
	}
	return low, high
}

// Check reports what in a measure can never be meant.
func (m *Measure) Check(fault func(at, what, remedy string)) {
	if m.AtLeast != nil && m.UpTo != nil && *m.UpTo < *m.AtLeast {
		fault("measure", "ends before it begins", "let upTo be at least atLeast")
	}
	if m.Exactly != nil && (m.AtLeast != nil || m.UpTo != nil || m.Largest != "") || m.Largest != "" && (m.AtLeast != nil || m.UpTo != nil) {
		fault("measure", "says more than one thing", "use exactly, largest, or a band alone")
	}
	if m.Of != "" && !slices.Contains(happening.Measures(), m.Of) {
		fault("measure.of", fmt.Sprintf("%q is no measure", m.Of), "use "+plain.List(happening.Measures(), "or"))
	}
	if m.Of == "amount" && m.Currency == "" {
		fault("measure.currency", "is missing", "an amount is of one currency; give its ISO 4217 code")
	}
	if m.Largest != "" && m.Largest != "tonight" && m.Largest != "ever" {
		fault("measure.largest", fmt.Sprintf("%q is no span", m.Largest), "use tonight or ever")
	}
}
