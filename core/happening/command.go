package happening

import "vividporch/core/wording"

var command = &Happening{Type: Command, Words: "a command in chat", Lane: Asks, Slots: []Slot{Answer, Free}, FillIns: []FillIn{
	Offered(wording.FillIn{Name: "asker", Kind: wording.Text, Tells: "who asked, where somebody else is meant", Example: "limpet_lena", Optional: true}),
	Offered(theMeant),
	Offered(wording.FillIn{Name: "rest", Kind: wording.Text, Tells: "what stood after the command", Example: "how high tonight?", Optional: true}),
}}
