package happening

import "vividporch/core/event"

// DrawUnwon: a draw is over, and something of it went to nobody.
type DrawUnwon struct{ DrawTold }

// DrawUnwonType is the type of it.
const DrawUnwonType = "porch.draw.unwon"

func (*DrawUnwon) Type() string { return DrawUnwonType }

var drawUnwon = &Happening{Data: func() event.Data { return &DrawUnwon{} }, Within: true, Words: "a draw that nobody won", Verb: "Tell of ", Slots: []Slot{Free}, Frame: OfStream, Reason: "nobody won a draw",
	Starters: []string{"Nobody has {prize} this time.", "{prize} stays with us for another evening.", "And so {prize} goes back on the shelf."},
	Told:     "{channel}: nobody won {prize}", FillIns: drawFillIns(), Entry: aboutDraw("Nobody won")}
