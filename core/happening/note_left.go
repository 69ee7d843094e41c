package happening

import (
	"vividporch/core/event"
	"vividporch/core/plain"
)

// MostNote is how long a note may be, in bytes.
const MostNote = 2000

// NoteLeft: somebody left a note for the streamer: in chat, or at the landing Place of a community server.
type NoteLeft struct {
	by
	Text  string `json:"text"`
	Place string `json:"place,omitempty"`
}

// Validate refuses a note without words, and one that is too long.
func (n *NoteLeft) Validate() error {
	return event.FirstOf(n.by.Validate(), event.Filled("text", n.Text), event.Short("text", n.Text, MostNote), event.Short("place", n.Place, 200))
}

// NoteLeftType is the type of it.
const NoteLeftType = "porch.note.left"

func (*NoteLeft) Type() string { return NoteLeftType }

var noteLeft = &Happening{Data: func() event.Data { return &NoteLeft{} }, Words: "a note", Slots: []Slot{Thanks, Free},
	Told:    "{name} left a note{hasNote, select, yes {: {note}} other {}}",
	Texts:   []Text{TextOf("place", func(d *NoteLeft) string { return d.Place })},
	FillIns: []FillIn{Says("note", "what it says", "the mussels moved since Tuesday", func(d *NoteLeft) string { return plain.Text(d.Text) }), Says("place", "where it was left, if not in chat", "Newcomers", func(d *NoteLeft) string { return d.Place })},
	Entry:   Happened(func(*NoteLeft) string { return "left a note" }), Owed: true}
