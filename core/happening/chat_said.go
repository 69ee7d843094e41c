package happening

import (
	"vividporch/core/event"
	"vividporch/core/plain"
)

// ChatSaid: a line in chat.
type ChatSaid struct {
	by
	Text      string `json:"text"`
	MessageID string `json:"messageId,omitempty"`
	ReplyTo   string `json:"replyTo,omitempty"`
}

func (c *ChatSaid) Validate() error {
	return event.FirstOf(c.by.Validate(), event.Short("text", c.Text, 16_384))
}

// ChatSaidType is the type of it.
const ChatSaidType = "porch.chat.said"

func (*ChatSaid) Type() string { return ChatSaidType }

var chatSaid = &Happening{Data: func() event.Data { return &ChatSaid{} }, Within: true, Words: "a line of chat", Reason: "said so in chat", Book: Book{Visit: true, Line: true},
	Entry: func(d event.Data) Entry {
		c := d.(*ChatSaid)
		return Entry{Kind: "line", Text: plain.Text(c.Text), Message: c.MessageID, Login: c.Person.Login}
	}}
