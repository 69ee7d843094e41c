package happening

import (
	"vividporch/core/event"
	"vividporch/core/plain"
)

// DrawUnclaimed: whoever was drawn said nothing in time, or is passed over.
type DrawUnclaimed struct {
	by
	DrawTold
	Reason string `json:"reason,omitempty"` // where a member passed them over
}

// Validate refuses one of nobody.
func (d *DrawUnclaimed) Validate() error {
	return event.FirstOf(d.by.Validate(), d.DrawTold.Validate())
}

// DrawUnclaimedType is the type of it.
const DrawUnclaimedType = "porch.draw.unclaimed"

func (*DrawUnclaimed) Type() string { return DrawUnclaimedType }

var drawUnclaimed = &Happening{Data: func() event.Data { return &DrawUnclaimed{} }, Within: true, Roomed: true, Words: "an unclaimed win", Verb: "Tell of ", Slots: []Slot{Free}, Reason: "a winner did not speak up",
	Starters: []string{"No word from {name}: we draw again.", "{name} is not here, so {prize} goes back in.", "The next one, then: {name} did not speak up."},
	Told:     "{name} did not speak up for {prize}",
	FillIns:  drawFillIns(Says("reason", "why they were passed over by hand", "is away for the night", func(d *DrawUnclaimed) string { return plain.Text(d.Reason) })),
	Entry:    Happened(func(d *DrawUnclaimed) string { return "did not have " + d.Prize() + ": it is drawn again" })}
