// Package note is the room for what people leave for the streamer: it waits on the Porch until it is done with.
package note

import (
	"fmt"

	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/plain"
	"vividporch/core/room"
)

// Room puts notes before the streamer. Thanks for them, and where else they go, are courtesies.
var Room = room.Of(room.Spec[struct{}, struct{}]{Name: "note",
	Hears: []string{happening.NoteLeftType},
	Decide: func(t *room.Turn, _, _ *struct{}) {
		left, ok := t.Event.Data.(*happening.NoteLeft)
		if !ok {
			return
		}
		why := "left in chat"
		if left.Place != "" {
			why = "left at " + plain.Text(left.Place)
		}
		t.Decide(hall.Decision{Kind: hall.Wait, Output: "note", Person: left.Person.Key(), Name: t.SayName(left.Person), Because: []string{why}, Item: &hall.Item{
			ID: ItemID(t.Event.Seq), Kind: "note", Person: &left.Person, Name: t.SayName(left.Person), Type: happening.NoteLeftType, Text: plain.Text(left.Text), Why: why,
			Count: 1, Since: t.Event.Time, About: []string{left.Person.Key()}}})
	}})

// Answer is what is said in chat to whoever left a note.
func Answer(left *happening.NoteLeft, text, member string) *event.DeskSaid {
	return &event.DeskSaid{Text: plain.Name(left.Person.Shown()) + ": " + text, To: []string{left.Person.Platform}, Member: member}
}

// ItemID is what waits of the note that was left with an event.
func ItemID(seq int64) string { return fmt.Sprintf("note/%d", seq) }
