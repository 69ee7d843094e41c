package room

import (
	"encoding/json"

	"vividporch/core/hall"
)

// Note decides something that is the own business of the room whose turn it is: its memory
// moves on by it ([Noted]). what names it within the event.
func Note[D any](t *Turn, what string, data D, why string) bool {
	raw, err := json.Marshal(data)
	if err != nil {
		return false
	}
	return t.Decide(hall.Decision{Kind: hall.Note, Output: t.room + " " + what, Saying: hall.Saying{Body: raw}, Because: []string{why}})
}

// Noted is what a room noted with an event, as far as it can be read: a forgetting may have
// taken it out.
func Noted[D any](l Lived, what string) []D {
	var out []D
	for i := range l.Decisions {
		x := &l.Decisions[i]
		var d D
		if x.Kind == hall.Note && x.Room == l.Room && x.Output == l.Room+" "+what && json.Unmarshal(x.Body, &d) == nil {
			out = append(out, d)
		}
	}
	return out
}
