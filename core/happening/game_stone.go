package happening

import (
	"vividporch/core/event"
	"vividporch/core/plain"
	"vividporch/core/wording"
)

// StoneTurned: somebody turned a stone, and what lives under it decided.
type StoneTurned struct {
	by
	Found string `json:"found"`
	Stake int64  `json:"stake"`
	Won   int64  `json:"won"` // 0 for nothing
	One   int64  `json:"one"` // it is found once in so many
	In    int64  `json:"in"`  //
}

// Validate refuses one of nobody.
func (s *StoneTurned) Validate() error {
	return event.FirstOf(s.by.Validate(), event.AtLeast("stake", s.Stake, 0), event.AtLeast("won", s.Won, 0))
}

// Points are those that it tells of, by fill-in.
func (s *StoneTurned) Points() map[string]int64 {
	return map[string]int64{"stake": s.Stake, "won": s.Won}
}

// StoneTurnedType is the type of it.
const StoneTurnedType = "porch.game.stone"

func (*StoneTurned) Type() string { return StoneTurnedType }

var stoneTurned = &Happening{Data: func() event.Data { return &StoneTurned{} }, Within: true, Roomed: true, Words: "a stone that is turned", Verb: "Tell of ", Slots: []Slot{Free}, Reason: "somebody turned a stone",
	Starters: []string{"{name} turns a stone over for {stake}: {found}. {wonNumber, plural, =0 {The tide keeps it.} other {That makes {won}!}}", "Under the stone of {name}: {found}. {wonNumber, plural, =0 {Nothing to carry home.} other {{won} to carry home.}}", "{found}, says the stone to {name}. {wonNumber, plural, =0 {{stake} gone.} other {{won}!}}"},
	Told:     "{name} turned a stone: {found}", Numbers: []Number{Whole("won", func(d *StoneTurned) int64 { return d.Won })},
	FillIns: []FillIn{FillIn{wording.FillIn{Name: "found", Kind: wording.Text, Tells: "what lives under it", Example: "a brittle star"}, func(d event.Data) wording.Value { return wording.Str(plain.Text(d.(*StoneTurned).Found)) }},
		pearls("stake", "what was staked", "20 pearls"), pearls("won", "what was won", "40 pearls"), Count("wonNumber", "how many were won", "40", func(d *StoneTurned) int64 { return d.Won }),
		Count("once", "it is found so often…", "1", func(d *StoneTurned) int64 { return d.One }), Count("in", "…in so many", "8", func(d *StoneTurned) int64 { return d.In })}}
