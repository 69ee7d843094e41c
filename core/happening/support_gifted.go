package happening

import (
	"vividporch/core/event"
	"vividporch/core/plain"
)

// Gifted: somebody gave Count subscriptions, to named persons or to chance.
type Gifted struct {
	by
	Count int64          `json:"count"`
	Tier  string         `json:"tier,omitempty"`
	To    []event.Person `json:"to,omitempty"`
}

func (g *Gifted) Validate() error {
	return event.FirstOf(g.by.Validate(), event.AtLeast("count", g.Count, 1))
}

func (*Gifted) Type() string { return "porch.support.gifted" }

var gifted = &Happening{Data: func() event.Data { return &Gifted{} }, Words: "gifts", Slots: []Slot{Thanks, Free},
	Told:    "{name} gave {gifts, plural, one {a subscription} other {# subscriptions}}",
	Numbers: []Number{Whole("gifts", func(d *Gifted) int64 { return d.Count })},
	Texts:   []Text{TextOf("tier", func(d *Gifted) string { return d.Tier })},
	FillIns: []FillIn{Count("gifts", "how many they gave", "5", func(d *Gifted) int64 { return d.Count }), Says("tier", "the tier's name", "Harbour", func(d *Gifted) string { return d.Tier }),
		Says("to", "who got it, when it was for one person", "mossy_mare", func(d *Gifted) string {
			if len(d.To) != 1 {
				return ""
			}
			return plain.Name(d.To[0].Shown())
		})},
	Entry: Happened(func(d *Gifted) string { return "gave " + many(d.Count, "subscription") }),
	Book:  Gave(func(d *Gifted) Support { return Support{Kind: "gifted", Count: d.Count, What: d.Tier} }), Latest: "gifters", Owed: true}
