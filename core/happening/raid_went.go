package happening

import "vividporch/core/event"

// RaidWent: we took Viewers people to a fellow streamer.
type RaidWent struct {
	by
	Viewers int64 `json:"viewers"`
}

func (r *RaidWent) Validate() error {
	return event.FirstOf(r.by.Validate(), event.AtLeast("viewers", r.Viewers, 0))
}

// RaidWentType is the type of it.
const RaidWentType = "porch.raid.went"

func (*RaidWent) Type() string { return RaidWentType }

var raidWent = &Happening{Data: func() event.Data { return &RaidWent{} }, Words: "our raid on somebody", Slots: []Slot{Thanks, Free},
	Told:    "we went to {name} with {viewers, plural, one {# viewer} other {# viewers}}",
	Numbers: []Number{Whole("viewers", func(d *RaidWent) int64 { return d.Viewers })},
	FillIns: []FillIn{Count("viewers", "how many viewers", "120", func(d *RaidWent) int64 { return d.Viewers })},
	Entry:   Happened(func(d *RaidWent) string { return "was raided by us with " + many(d.Viewers, "viewer") }),
	Book:    Book{Raid: "went", Viewers: func(d event.Data) int64 { return d.(*RaidWent).Viewers }}}
