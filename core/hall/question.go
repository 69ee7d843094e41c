package hall

import (
	"time"

	"vividporch/core/event"
	"vividporch/core/happening"
)

// Question is a line whose answer hangs on what a platform tells: a command, of whom it
// means; an arrival, of whether they stream.
type Question struct {
	Ask    string             `json:"ask"`
	Ends   time.Time          `json:"ends"` // asked back from then on
	Event  int64              `json:"event"`
	ID     string             `json:"id"`               // of the line that asked
	Origin string             `json:"origin,omitempty"` // what was decided about it is named by
	At     time.Time          `json:"at"`
	Said   happening.ChatSaid `json:"said"`
	Near   []string           `json:"near,omitempty"`  // who goes by a name like it
	Meant  string             `json:"meant,omitempty"` // the name it wrote, as a login
	Room   string             `json:"room,omitempty"`  // that asked
}

// AsEvent is the line as it came.
func (q *Question) AsEvent(logged time.Time) *event.Event {
	return &event.Event{Seq: q.Event, ID: q.ID, Type: happening.ChatSaidType, Time: q.At, Logged: logged, Data: &q.Said}
}

// Question finds the command that waits for an answer, or nil.
func (s *State) Question(ask string) *Question {
	for i := range s.Questions {
		if s.Questions[i].Ask == ask {
			return &s.Questions[i]
		}
	}
	return nil
}

// Arrives reports whether the line is an arrival, which belongs to its stream.
func (q *Question) Arrives() bool { return q.Room == "arrive" }
