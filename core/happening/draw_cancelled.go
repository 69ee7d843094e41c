package happening

import (
	"vividporch/core/event"
	"vividporch/core/plain"
	"vividporch/core/wording"
)

// DrawCancelled: a draw was called off.
type DrawCancelled struct {
	DrawTold
	Reason string `json:"reason"`
}

// DrawCancelledType is the type of it.
const DrawCancelledType = "porch.draw.cancelled"

func (*DrawCancelled) Type() string { return DrawCancelledType }

var drawCancelled = &Happening{Data: func() event.Data { return &DrawCancelled{} }, Within: true, Words: "a draw that is called off", Verb: "Tell of ", Slots: []Slot{Free}, Frame: OfStream, Reason: "a draw was called off",
	Starters: []string{"The draw for {prize} is off: {reason}.", "We call the draw for {prize} off. {reason}.", "No draw for {prize} after all: {reason}."},
	Told:     "{channel}: the draw for {prize} was called off: {reason}", FillIns: drawFillIns(FillIn{wording.FillIn{Name: "reason", Kind: wording.Text, Tells: "why", Example: "the prints are not dry yet"}, func(d event.Data) wording.Value {
		return wording.Str(plain.Text(d.(*DrawCancelled).Reason))
	}}), Entry: aboutDraw("A draw was called off")}
