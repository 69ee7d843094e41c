package output

import (
	"cmp"
	"fmt"
	"time"

	"vividporch/core/happening"
	"vividporch/core/wording"
)

// Announcing is when places are told of the opening of a stream, and what becomes of that where it comes too late.
type Announcing struct {
	HoldSeconds float64 `json:"holdSeconds,omitempty" jsonschema:"minimum=0,maximum=600"` // a stream that is over sooner is not announced
	Late        string  `json:"late,omitempty" jsonschema:"enum=drop,enum=follow up"`     // what could not be posted before the stream ended: none is "drop"
	LateWords   string  `json:"lateWords,omitempty"`                                      // of such a follow-up, with what a stream's opening offers
}

// lateFollows is what becomes of an announcement that its place takes only after the stream: words that say so.
const lateFollows = "follow up"

// mostHold is how long an announcement can be held, in seconds.
const mostHold = 600

// lateWords say that the stream has been.
const lateWords = "{channel} was live{hasTitle, select, yes {: {title}} other {}}{hasLink, select, yes {. {link}} other {}}"

// Hold is how long an announcement waits to see that the stream goes on.
func (a *Announcing) Hold() time.Duration { return time.Duration(a.HoldSeconds * float64(time.Second)) }

// Words are what a late announcement says; nil for nothing.
func (a *Announcing) Words() *wording.Wording {
	if a.Late != lateFollows {
		return nil
	}
	w, err := wording.Parse(cmp.Or(a.LateWords, lateWords))
	if err != nil {
		return nil
	}
	return w
}

// Check reports what is wrong with it.
func (a *Announcing) Check(fault func(at, what, remedy string)) {
	if a.HoldSeconds < 0 || a.HoldSeconds > mostHold {
		fault("announcing.holdSeconds", "is out of range", fmt.Sprintf("use 0 to %d seconds", mostHold))
	}
	if a.Late != "" && a.Late != "drop" && a.Late != lateFollows {
		fault("announcing.late", fmt.Sprintf("%q is not known", a.Late), `use "drop" or "follow up"`)
	}
	if w, err := wording.Parse(a.LateWords); err != nil {
		fault("announcing.lateWords", err.Error(), "mend the words, or leave them out for the house's own")
	} else if len(w.Check(happening.Of(happening.StreamOpenedType).Offers())) > 0 {
		fault("announcing.lateWords", "hold a fill-in that is not there", "use channel, platform, title, category and link")
	}
}
