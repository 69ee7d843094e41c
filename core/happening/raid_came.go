package happening

import (
	"vividporch/core/event"
	"vividporch/core/wording"
)

// RaidCame: a fellow streamer brought Viewers people over.
type RaidCame struct {
	by
	Viewers int64 `json:"viewers"`
}

func (r *RaidCame) Validate() error {
	return event.FirstOf(r.by.Validate(), event.AtLeast("viewers", r.Viewers, 0))
}

// RaidCameType is the type of it.
const RaidCameType = "porch.raid.came"

func (*RaidCame) Type() string { return RaidCameType }

var raidCame = &Happening{Roomed: true, Data: func() event.Data { return &RaidCame{} }, Words: "a raid", Slots: []Slot{Thanks, ShoutOut, Free},
	Told: "{name} came with {viewers, plural, one {# viewer} other {# viewers}}",
	Verb: "Thank ", Leader: "the leader of a raid", By: " led by ", Label: "Raid thanks", Reason: "a raid came",
	Numbers: []Number{Whole("viewers", func(d *RaidCame) int64 { return d.Viewers })},
	FillIns: []FillIn{
		Count("viewers", "how many they brought", "120", func(d *RaidCame) int64 { return d.Viewers }),
		Offered(wording.FillIn{Name: "raids", Kind: wording.Number, Tells: "how often they have come, this one included", Example: "3"}),
	},
	Entry: func(d event.Data) Entry { return Entry{Kind: "raid", Viewers: d.(*RaidCame).Viewers} },
	Book:  Book{Visit: true, Raid: "came", Viewers: func(d event.Data) int64 { return d.(*RaidCame).Viewers }}, Latest: "raiders", Owed: true}
