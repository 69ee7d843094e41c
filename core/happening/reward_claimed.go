package happening

import "vividporch/core/event"

// RewardClaimed: a channel reward was claimed, at Cost points.
type RewardClaimed struct {
	by
	Reward string `json:"reward"`
	Cost   int64  `json:"cost"`
	Text   string `json:"text,omitempty"`
}

func (r *RewardClaimed) Validate() error {
	return event.FirstOf(r.by.Validate(), event.Filled("reward", r.Reward), event.AtLeast("cost", r.Cost, 0))
}

func (*RewardClaimed) Type() string { return "porch.reward.claimed" }

var rewardClaimed = &Happening{Data: func() event.Data { return &RewardClaimed{} }, Words: "a claimed reward", Slots: []Slot{Thanks, Free},
	Numbers: []Number{Whole("cost", func(d *RewardClaimed) int64 { return d.Cost })},
	Texts:   []Text{TextOf("reward", func(d *RewardClaimed) string { return d.Reward })},
	FillIns: []FillIn{Says("reward", "the reward's name", "Name a hermit crab", func(d *RewardClaimed) string { return d.Reward }),
		Count("cost", "what it cost, in points", "400", func(d *RewardClaimed) int64 { return d.Cost }), Says("message", "what they wrote with it", "for the anemone", func(d *RewardClaimed) string { return d.Text })},
	Entry: Happened(func(d *RewardClaimed) string { return "claimed " + d.Reward })}
