// Package raid is the room that thanks for raids, in bands of size, and shouts their leaders
// out.
package raid

import (
	"slices"

	"vividporch/core/courtesy"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/room"
	"vividporch/core/wording"
)

// Room thanks for raids.
var Room = room.Of(room.Spec[struct{}, struct{}, struct{}]{Name: "raid",
	Hears:  []string{happening.RaidCameType},
	Decide: func(d *room.Turn, _, _ *struct{}) { raidCame(d, d.Event.Data.(*happening.RaidCame)) }})

// raidCame: thanks in bands of size, and the leader shouted out. The leader's link
// and last category are asked of the platform while the lines wait.
func raidCame(d *room.Turn, data *happening.RaidCame) {
	args := d.About(data.Person)
	args["viewers"] = wording.Num(data.Viewers)
	args["raids"] = wording.Num(By(d, data.Person.Key()) + 1)
	m := d.Plan.Set.Meet(d.Cause(data.Person))
	c := m.Cause
	name := d.SayName(data.Person)
	if why := d.Never(data.Person); why != "" {
		d.Decide(hall.Decision{Kind: hall.Refuse, Output: string(happening.Thanks), Person: data.Person.Key(), Name: name, Because: []string{why}})
		return
	}
	for _, slot := range []happening.Slot{happening.Thanks, happening.ShoutOut} {
		won, ladder := m.Winner(slot)
		switch {
		case slot == happening.ShoutOut && d.Shouting[data.Person.Key()]:
		case won != nil && slot == happening.ShoutOut && d.State.WasShouted(data.Person.Key(), d.Known):
			d.Refuse(slot, won, data.Person.Key(), name, ladder, room.ShoutedBefore)
		case won == nil:
			why := "no " + string(slot) + " fits"
			switch {
			case len(ladder) == 0:
				why = "no courtesy is for the " + string(slot) + " of a raid"
			case !slices.ContainsFunc(ladder, func(g courtesy.Rung) bool { return !g.ByNumber }):
				why += " a raid of this size"
			}
			d.Refuse(slot, nil, data.Person.Key(), name, ladder, why)
			if slot == happening.Thanks && len(ladder) > 0 {
				d.WaitFor(data.Person, name, "raid", why, data.Viewers)
			}
		case len(won.Outputs) == 0:
			d.Refuse(slot, won, data.Person.Key(), name, ladder, "raids of this size are passed over in silence")
		default:
			if slot == happening.ShoutOut {
				d.ShoutsOut(data.Person.Key())
			}
			d.SpeakOrWait(c, won, ladder, args, []string{data.Person.Platform}, &data.Viewers)
		}
		d.Beside(m, slot, args, []string{data.Person.Platform})
	}
	d.Announce(args, []string{data.Person.Platform})
}

// By counts the raids somebody brought, tonight's included as far as they are
// in the state.
func By(d *room.Turn, key string) int64 {
	n := 0
	if d.Known != nil {
		n = d.Known.Raids
	}
	for _, r := range d.State.Raids {
		if r.Person.Key() == key {
			n++
		}
	}
	return int64(n)
}
