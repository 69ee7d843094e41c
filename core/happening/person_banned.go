package happening

import "vividporch/core/event"

// PersonBanned: somebody was banned.
type PersonBanned struct {
	by
	By     string `json:"by,omitempty"`
	Reason string `json:"reason,omitempty"`
}

func (*PersonBanned) Type() string { return "porch.person.banned" }

var personBanned = &Happening{Data: func() event.Data { return &PersonBanned{} }, Within: true, Words: "a ban", Slots: []Slot{Thanks, Free},
	Told:    "{name} was banned{hasBy, select, yes { by {by}} other {}}{hasReason, select, yes {: {reason}} other {}}",
	FillIns: []FillIn{Says("by", "who did it", "grebe_watch", func(d *PersonBanned) string { return d.By }), Says("reason", "the reason given", "the same line forty times", func(d *PersonBanned) string { return d.Reason })},
	Entry:   Happened(func(*PersonBanned) string { return "was banned" })}
