package happening

import (
	"vividporch/core/event"
	"vividporch/core/plain"
	"vividporch/core/wording"
)

// PointsGiven: somebody gave points to somebody.
type PointsGiven struct {
	by
	To     event.Person `json:"to"`
	Amount int64        `json:"amount"`
}

// Validate refuses one of or to nobody.
func (p *PointsGiven) Validate() error {
	return event.FirstOf(p.by.Validate(), p.To.Validate("data.to"), event.AtLeast("amount", p.Amount, 1))
}

// Points are those that it tells of, by fill-in.
func (p *PointsGiven) Points() map[string]int64 { return map[string]int64{"gift": p.Amount} }

// PointsGivenType is the type of it.
const PointsGivenType = "porch.points.given"

func (*PointsGiven) Type() string { return PointsGivenType }

var pointsGiven = &Happening{Data: func() event.Data { return &PointsGiven{} }, Within: true, Roomed: true, Words: "points that somebody gives", Verb: "Tell of ", Slots: []Slot{Free}, Reason: "somebody gave points",
	Starters: []string{"{name} gives {gift} to {given}.", "{given} has {gift} from {name}.", "From {name} to {given}: {gift}."}, Told: "{name} gave {gift} to {given}",
	FillIns: []FillIn{pearls("gift", "how many, in the channel's words", "40 pearls"),
		FillIn{wording.FillIn{Name: "given", Kind: wording.Text, Tells: "who has them now", Example: "mossy_mare"}, func(d event.Data) wording.Value { return wording.Str(plain.Name(d.(*PointsGiven).To.Shown())) }}}}
