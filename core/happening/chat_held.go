package happening

import (
	"vividporch/core/event"
	"vividporch/core/plain"
)

// ChatHeld: the platform holds a line back until somebody decides.
type ChatHeld struct {
	by
	Text      string `json:"text"`
	MessageID string `json:"messageId"`
	Why       string `json:"why,omitempty"` // as the platform says it
}

func (c *ChatHeld) Validate() error {
	return event.FirstOf(c.by.Validate(), event.Short("text", c.Text, 16_384), event.Filled("messageId", c.MessageID))
}

// ChatHeldType is the type of it.
const ChatHeldType = "porch.chat.held"

func (*ChatHeld) Type() string { return ChatHeldType }

var chatHeld = &Happening{Data: func() event.Data { return &ChatHeld{} }, Within: true, Words: "a line that the platform holds", Book: Book{Visit: true},
	Entry: Happened(func(d *ChatHeld) string { return "wrote what the platform holds: " + plain.Text(d.Text) })}
