package happening

import "vividporch/core/event"

// DrawClaimed: whoever was drawn said something in time.
type DrawClaimed struct {
	by
	DrawTold
}

// Validate refuses one of nobody.
func (d *DrawClaimed) Validate() error { return event.FirstOf(d.by.Validate(), d.DrawTold.Validate()) }

// DrawClaimedType is the type of it.
const DrawClaimedType = "porch.draw.claimed"

func (*DrawClaimed) Type() string { return DrawClaimedType }

var drawClaimed = &Happening{Data: func() event.Data { return &DrawClaimed{} }, Within: true, Roomed: true, Words: "a claimed win", Verb: "Tell of ", Slots: []Slot{Free}, Reason: "a winner spoke up",
	Starters: []string{"{name} is here: {prize} it is. Well done!", "There you are, {name}! {prize} is yours.", "{name} has {prize}. Lovely."},
	Told:     "{name} spoke up and has {prize}", FillIns: drawFillIns(), Entry: Happened(func(d *DrawClaimed) string { return "spoke up in time for " + d.Prize() })}
