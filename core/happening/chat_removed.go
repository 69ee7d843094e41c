package happening

import "vividporch/core/event"

// ChatRemoved: somebody took a line out of chat.
type ChatRemoved struct {
	by
	By        string `json:"by,omitempty"`
	MessageID string `json:"messageId,omitempty"`
	Reason    string `json:"reason,omitempty"`
}

func (*ChatRemoved) Type() string { return "porch.chat.removed" }

var chatRemoved = &Happening{Data: func() event.Data { return &ChatRemoved{} }, Within: true, Words: "a line taken out of chat", Slots: []Slot{Thanks, Free},
	Told:    "a line of {name} was taken out{hasBy, select, yes { by {by}} other {}}{hasReason, select, yes {: {reason}} other {}}",
	FillIns: []FillIn{Says("by", "who did it", "grebe_watch", func(d *ChatRemoved) string { return d.By }), Says("reason", "the reason given", "the same line forty times", func(d *ChatRemoved) string { return d.Reason })}}
