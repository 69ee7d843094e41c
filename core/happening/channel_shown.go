package happening

import "vividporch/core/event"

// ChannelShown: another channel shows ours to its Viewers.
type ChannelShown struct {
	by
	Viewers int64 `json:"viewers"`
}

func (c *ChannelShown) Validate() error {
	return event.FirstOf(c.by.Validate(), event.AtLeast("viewers", c.Viewers, 0))
}

func (*ChannelShown) Type() string { return "porch.channel.shown" }

var channelShown = &Happening{Data: func() event.Data { return &ChannelShown{} }, Words: "being shown on another channel", Slots: []Slot{Thanks, Free},
	Numbers: []Number{Whole("viewers", func(d *ChannelShown) int64 { return d.Viewers })},
	FillIns: []FillIn{Count("viewers", "how many viewers", "120", func(d *ChannelShown) int64 { return d.Viewers })},
	Entry:   Happened(func(d *ChannelShown) string { return "shows this channel to " + many(d.Viewers, "viewer") })}
