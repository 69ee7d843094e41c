package happening

import "vividporch/core/event"

// Credits: platform credits spent on the channel.
type Credits struct {
	by
	Amount  int64  `json:"amount"`
	Message string `json:"message,omitempty"`
}

func (c *Credits) Validate() error {
	return event.FirstOf(c.by.Validate(), event.AtLeast("amount", c.Amount, 1))
}

func (*Credits) Type() string { return "porch.support.credits" }

var credits = &Happening{Data: func() event.Data { return &Credits{} }, Words: "credits", Slots: []Slot{Thanks, Free},
	Numbers: []Number{Whole("credits", func(d *Credits) int64 { return d.Amount })},
	FillIns: []FillIn{Count("credits", "credits spent", "300", func(d *Credits) int64 { return d.Amount }), Says("message", "what they wrote with it", "for the anemone", func(d *Credits) string { return d.Message })},
	Entry:   Happened(func(d *Credits) string { return "gave " + many(d.Amount, "credit") }),
	Book:    Gave(func(d *Credits) Support { return Support{Kind: "credits", Count: d.Amount} }), Owed: true}
