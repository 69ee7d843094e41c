package screen

import (
	"time"

	"vividporch/core/draw"
	"vividporch/core/house"
	"vividporch/spec"
)

// shownFor is how long a draw that is over still stands on the Porch.
const shownFor = 10 * time.Minute

// drawn is the draw that goes on, or one that just ended; empty for none.
func drawn(s *house.State) (g spec.DrawGlance) {
	d := draw.Now(s.Rooms)
	if d == nil || !d.State.Running() && s.Clock.Sub(d.Ended) > shownFor {
		return g
	}
	told := d.Told()
	g = spec.DrawGlance{ID: d.ID, State: string(d.State), Prizes: told.Prize(), Word: told.How(), Entries: int(told.Entries), Closes: d.Closes, Picks: len(d.Picks)}
	for i := range d.Picks {
		if p := &d.Picks[i]; p.State == draw.Pending {
			g.Waits = append(g.Waits, PickView(p))
		}
	}
	return g
}

// PickView is a pick as it is shown.
func PickView(p *draw.Pick) spec.DrawPick {
	return spec.DrawPick{Prize: p.Prize, Number: p.Number, Account: p.Account, Name: p.Name, State: spec.DrawPickState(p.State), Why: p.Why, Ends: p.Ends}
}
