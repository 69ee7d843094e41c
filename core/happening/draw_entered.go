package happening

import (
	"fmt"

	"vividporch/core/event"
	"vividporch/core/plain"
	"vividporch/core/wording"
)

// DrawEntered: somebody entered a draw, under a number.
type DrawEntered struct {
	by
	DrawTold
	Number int64 `json:"number"`
}

// Validate refuses one of nobody.
func (d *DrawEntered) Validate() error { return event.FirstOf(d.by.Validate(), d.DrawTold.Validate()) }

// DrawEnteredType is the type of it.
const DrawEnteredType = "porch.draw.entered"

func (*DrawEntered) Type() string { return DrawEnteredType }

var drawEntered = &Happening{Data: func() event.Data { return &DrawEntered{} }, Within: true, Roomed: true, Words: "an entry to a draw", Verb: "Tell of ", Slots: []Slot{Free}, Reason: "somebody entered a draw",
	Starters: []string{"In: {entry}.", "{name} is in, as number {number}.", "Number {number} is {name}. Good luck!"},
	Together: []string{"In: {names}{more, plural, =0 {} other { and # more}}.", "Also in: {names}{more, plural, =0 {} other { and # more}}. Good luck!"},
	Told:     "{name} entered the draw for {prize} as number {number}", Listed: "entry",
	FillIns: drawFillIns(Count("number", "the number of their entry", "12", func(d *DrawEntered) int64 { return d.Number }),
		FillIn{wording.FillIn{Name: "entry", Kind: wording.Text, Tells: "their name with the number of their entry; so they are named where several are", Example: "limpet_lena (12)"}, func(data event.Data) wording.Value {
			d := data.(*DrawEntered)
			return wording.Str(fmt.Sprintf("%s (%d)", plain.Name(d.Person.Shown()), d.Number))
		}})}
