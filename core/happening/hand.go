package happening

import "vividporch/core/wording"

var hand = &Happening{Type: Hand, Words: "your hand on the Porch", Lane: Asks, Slots: []Slot{Free}, Frame: OfHand, FillIns: []FillIn{
	Offered(wording.FillIn{Name: "asker", Kind: wording.Text, Tells: "the member who asked", Example: "Odalys Brine"}),
	Offered(theMeant), Offered(theirLink), Offered(theirCategory),
}}
