package happening

import "vividporch/core/wording"

var command = &Happening{Type: Command, Words: "a command in chat", Lane: Asks, Slots: []Slot{Answer, Free}, FillIns: []FillIn{
	Offered(wording.FillIn{Name: "asker", Kind: wording.Text, Tells: "who asked, where somebody else is meant", Example: "limpet_lena", Optional: true}),
	Offered(theMeant),
	Offered(wording.FillIn{Name: "rest", Kind: wording.Text, Tells: "what stood after the command", Example: "how high tonight?", Optional: true}),
	Offered(wording.FillIn{Name: AskedWords[0], Kind: wording.Text, Tells: "the first word of that", Example: "how", Optional: true}),
	Offered(wording.FillIn{Name: AskedWords[1], Kind: wording.Text, Tells: "the second word", Example: "high", Optional: true}),
	Offered(wording.FillIn{Name: AskedWords[2], Kind: wording.Text, Tells: "the third word", Example: "tonight?", Optional: true}),
	Offered(wording.FillIn{Name: "after", Kind: wording.Text, Tells: "all but the first word", Example: "high tonight?", Optional: true}),
	Offered(wording.FillIn{Name: "kept", Kind: wording.Text, Tells: "the command that answers what they wrote now", Example: "!tides", Optional: true}),
	Offered(wording.FillIn{Name: "unkept", Kind: wording.Text, Tells: "why it does not", Example: "the answer is missing: write it behind the name", Optional: true}),
	Offered(wording.FillIn{Name: "refused", Kind: wording.Text, Tells: "why what they asked of a birthday was not done", Example: "31 February is no day of the calendar: write it like 9 March", Optional: true}),
	Offered(wording.FillIn{Name: "correctFor", Kind: wording.Number, Tells: "minutes within which a birthday that was just set can be corrected", Example: "5"}),
	Offered(wording.FillIn{Name: "celebrated", Kind: wording.Text, Tells: "for a choice: yes where a day of theirs is celebrated with this answer", Example: "yes", Optional: true}),
	Offered(wording.FillIn{Name: "times", Kind: wording.Number, Tells: "how often it was asked for, this time included", Example: "17"}),
	Offered(wording.FillIn{Name: "commands", Kind: wording.Text, Tells: "the commands that are on the list of what viewers can ask", Example: "!tides, !lens and !rules", Optional: true}),
	Offered(wording.FillIn{Name: "amounts", Kind: wording.Text, Tells: "what is told viewers of special amounts", Example: "5 EUR: the lamp turns red", Optional: true}),
	Offered(wording.FillIn{Name: "list", Kind: wording.Text, Tells: "where the whole list is to be found", Example: "https://porch.example/asks", Optional: true}),
}}

// AskedWords are the fill-ins of the words that stood after a command, one by one.
var AskedWords = []string{"first", "second", "third"}
