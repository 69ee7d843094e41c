// Package regulars is the room that tells the streamer once whom a stream's end made
// regulars.
package regulars

import (
	"fmt"
	"strconv"
	"strings"

	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/room"
)

// Room tells of new regulars.
var Room = room.Of(room.Spec[struct{}, struct{}]{Name: "regulars",
	Hears:  []string{"porch.book.settled"},
	Decide: func(t *room.Turn, _, _ *struct{}) { settled(t, t.Event.Data.(*event.BookSettled)) }})

// settled: a stream's end made some people regulars; the streamer is told once.
func settled(t *room.Turn, data *event.BookSettled) {
	if len(data.Regulars) == 0 {
		return
	}
	var names []string
	for _, r := range data.Regulars {
		names = append(names, r.Name)
	}
	why := data.Regulars[0].Why
	if len(names) > 1 {
		why = fmt.Sprintf("at least %d of the last %d streams", t.Plan.Standings().RegularAttended, t.Plan.Standings().RegularOf)
	}
	t.Decide(hall.Decision{Kind: hall.Wait, Output: "settled", Because: []string{why}, Item: &hall.Item{ID: "regular/" + strconv.Itoa(data.Stream), Kind: "regular",
		Name: strings.Join(names, ", "), Why: why, Count: len(names), Since: t.Now}})
}
