package box

import (
	"fmt"
	"slices"
	"time"

	"vividporch/core/event"
)

// KindCountdown is the name of it.
const KindCountdown Kind = "countdown"

// Countdown counts down to a time, or from a length; support can lengthen it.
type Countdown struct {
	Until   string  `json:"until,omitempty"`                                          // RFC 3339; none: it counts from its length
	Seconds float64 `json:"seconds,omitempty" jsonschema:"minimum=0,maximum=2592000"` // its length
	Adds    []Add   `json:"adds,omitempty"`                                           // what lengthens it
	Most    float64 `json:"most,omitempty" jsonschema:"minimum=0,maximum=2592000"`    // seconds that support may add to it altogether; 0 is no ceiling
	Stop    string  `json:"stop,omitempty"`                                           // RFC 3339: nothing lengthens it beyond that
	Label   string  `json:"label,omitempty" jsonschema:"maxLength=60"`
	Size    float64 `json:"size,omitempty" jsonschema:"minimum=0,maximum=200"` // of the figures, in pixels of the overlay; 0 is 56
}

// Add is a rule by which support lengthens a countdown.
type Add struct {
	For      string  `json:"for" jsonschema:"enum=month,enum=unit,enum=gift,enum=credit"` // of a subscription; of the currency of a tip; given to one person; platform credits, by hundreds
	Currency string  `json:"currency,omitempty"`                                          // of unit, ISO 4217
	Campaign string  `json:"campaign,omitempty"`                                          // of unit: only of this one
	Seconds  float64 `json:"seconds" jsonschema:"minimum=0,maximum=86400"`
}

type clockShown struct {
	Ends time.Time `json:"ends,omitzero"` // it runs
	Left float64   `json:"left"`          // seconds, while it stands still
}

var countdown = Spec{New: func() Does { return &Countdown{Seconds: 3600} }, Title: "Countdown", At: At{45, 84, 18, 12}}

var addsFor = []string{"month", "unit", "gift", "credit"}

// Kind is the name of it.
func (*Countdown) Kind() Kind { return KindCountdown }

// Check reports what cannot stand.
func (c *Countdown) Check(fault func(at, what, remedy string)) {
	moment := func(at, text string) {
		if _, err := time.Parse(time.RFC3339, text); text != "" && err != nil {
			fault(at, fmt.Sprintf("%q is no moment", text), "use a day and time with its zone, as in 2026-12-24T18:00:00Z")
		}
	}
	moment("until", c.Until)
	moment("stop", c.Stop)
	within("seconds", c.Seconds, 1, event.CountdownMost, "seconds", fault)
	within("most", c.Most, 1, event.CountdownMost, "seconds", fault)
	within("size", c.Size, 12, 200, "pixels", fault)
	if c.Until == "" && c.Seconds == 0 {
		fault("seconds", "is missing", "say how long it counts, or until when")
	}
	for i, a := range c.Adds {
		at := fmt.Sprintf("adds.%d.", i)
		switch {
		case !slices.Contains(addsFor, a.For):
			fault(at+"for", fmt.Sprintf("%q lengthens nothing", a.For), "use month, unit, gift or credit")
		case a.For == "unit" && len(a.Currency) != len("EUR"):
			fault(at+"currency", fmt.Sprintf("%q is no currency", a.Currency), "use three letters as in ISO 4217, EUR")
		case a.Seconds <= 0 || a.Seconds > 86_400:
			fault(at+"seconds", "is out of range", "use 1 to 86400 seconds")
		}
	}
}

// Shows is how it stands.
func (c *Countdown) Shows(id string, f Facts) any {
	k := f.Clock(id)
	if k.Runs {
		return clockShown{Ends: k.Ends}
	}
	return clockShown{Left: k.Left.Seconds()}
}
