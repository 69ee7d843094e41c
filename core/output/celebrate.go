package output

import (
	"vividporch/core/happening"
	"vividporch/core/who"
)

// KindCelebrate is the name of it.
const KindCelebrate Kind = "celebrate"

// Celebrate runs whichever courtesy keeps a day of whoever asks: in full as long as it was not kept,
// else its line alone.
type Celebrate struct {
	Missed bool `json:"missed,omitempty"` // of whoever is named, what they missed too: for moderators
}

var celebrate = Spec{New: func() Does { return &Celebrate{} }, Way: Within}

// Kind is the name of it.
func (*Celebrate) Kind() Kind { return KindCelebrate }

// Says tells what it does.
func (c *Celebrate) Says(who.Names) string {
	if c.Missed {
		return "celebrate the day of whoever is named, missed or not"
	}
	return "celebrate their day, if it is one"
}

// Concerns whoever is named, where it is for moderators.
func (c *Celebrate) Concerns() bool { return c.Missed }

// Check reports a celebration within one.
func (*Celebrate) Check(_ *Output, in In, fault func(at, what, remedy string)) {
	if in.When == happening.Day || in.Slot == happening.Greeting {
		fault("kind", "this courtesy may be what celebrates, and cannot have another one run", "say it here in a line of chat")
	}
}
