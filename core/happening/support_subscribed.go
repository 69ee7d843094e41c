package happening

import "vividporch/core/event"

// Subscribed: a subscription began or went on. Tier is free text; Months counts
// all months, Streak those without a gap.
type Subscribed struct {
	by
	Tier   string `json:"tier,omitempty"`
	Months int64  `json:"months"`
	Streak int64  `json:"streak,omitempty"`
}

func (s *Subscribed) Validate() error {
	return event.FirstOf(s.by.Validate(), event.AtLeast("months", s.Months, 0), event.AtLeast("streak", s.Streak, 0))
}

func (*Subscribed) Type() string { return "porch.support.subscribed" }

var subscribed = &Happening{Data: func() event.Data { return &Subscribed{} }, Words: "a subscription", Slots: []Slot{Thanks, Free},
	Told:    "{name} subscribed, {months, plural, one {the first month} other {# months by now}}",
	Numbers: []Number{Whole("months", func(d *Subscribed) int64 { return d.Months })},
	Texts:   []Text{TextOf("tier", func(d *Subscribed) string { return d.Tier })},
	FillIns: []FillIn{Count("months", "months in all", "14", func(d *Subscribed) int64 { return d.Months }), Says("tier", "the tier's name", "Harbour", func(d *Subscribed) string { return d.Tier })},
	Entry:   Happened(func(d *Subscribed) string { return "subscribed, " + many(d.Months, "month") }),
	Book:    Gave(func(d *Subscribed) Support { return Support{Kind: "subscribed", Count: max(1, d.Months), What: d.Tier} }), Latest: "subscribers", Owed: true}
