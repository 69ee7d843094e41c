package happening

import "vividporch/core/event"

// Tipped: money given. Amount is a decimal string, Currency an ISO 4217 code;
// Campaign names the charity drive it belongs to, if any.
type Tipped struct {
	by
	Amount   string `json:"amount"`
	Currency string `json:"currency"`
	Message  string `json:"message,omitempty"`
	Campaign string `json:"campaign,omitempty"`
}

func (t *Tipped) Validate() error {
	return event.FirstOf(t.by.Validate(), money(t.Amount, t.Currency))
}

func (*Tipped) Type() string { return "porch.support.tipped" }

var tipped = &Happening{Data: func() event.Data { return &Tipped{} }, Words: "a tip", Slots: []Slot{Thanks, Free},
	Told:    "{name} tipped{hasAmount, select, yes { {amount}} other {}}{hasMessage, select, yes {: {message}} other {}}",
	Numbers: []Number{Amount(func(d *Tipped) (string, string) { return d.Amount, d.Currency })},
	Texts:   []Text{TextOf("campaign", func(d *Tipped) string { return d.Campaign })},
	FillIns: []FillIn{Says("amount", "the amount with its currency", "12.50 EUR", func(d *Tipped) string { return d.Amount + " " + d.Currency }), Says("message", "what they wrote with it", "for the anemone", func(d *Tipped) string { return d.Message })},
	Entry: Happened(func(d *Tipped) string {
		if d.Message == "" {
			return "tipped " + d.Amount + " " + d.Currency
		}
		return "tipped " + d.Amount + " " + d.Currency + ": " + d.Message
	}),
	Book: Gave(func(d *Tipped) Support {
		return Support{Kind: "tipped", Amount: d.Amount, Currency: d.Currency, Count: 1, What: d.Campaign}
	}), Latest: "tippers", Owed: true}
