package happening

import (
	"vividporch/core/event"
	"vividporch/core/wording"
)

var neighbour = &Happening{Type: Neighbour, Words: "a neighbour saying something", Reason: "a neighbour said so", Slots: []Slot{Free},
	Texts: []Text{{"neighbour", func(event.Data) string { return "" }}},
	FillIns: []FillIn{
		Offered(wording.FillIn{Name: "said", Kind: wording.Text, Tells: "what the neighbour said", Example: "Seal alarm! 12 on the rocks"}),
		Offered(wording.FillIn{Name: AskedWords[0], Kind: wording.Text, Tells: "the first word of that", Example: "Seal", Optional: true}),
		Offered(wording.FillIn{Name: AskedWords[1], Kind: wording.Text, Tells: "the second word", Example: "alarm!", Optional: true}),
		Offered(wording.FillIn{Name: AskedWords[2], Kind: wording.Text, Tells: "the third word", Example: "12", Optional: true}),
	}}
