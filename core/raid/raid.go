// Package raid is the room that thanks for raids, in bands of size, shouts their leaders out, and
// keeps where we went ourselves.
package raid

import (
	"slices"

	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/room"
	"vividporch/core/wording"
)

// Room thanks for raids.
var Room = room.Of(room.Spec[struct{}, Memory]{Name: name, Version: 2,
	Hears: []string{happening.RaidCameType, event.ActDoneType},
	Decide: func(t *room.Turn, _ *struct{}, m *Memory) {
		switch data := t.Event.Data.(type) {
		case *happening.RaidCame:
			raidCame(t, data)
		case *event.ActDone:
			m.sent(t, &data.ActOutcome)
		}
	},
	Sees:   []string{happening.RaidWentType, event.ActDoneType, event.ActRefusedType},
	Evolve: func(m *Memory, l room.Lived) { m.evolve(l) },
	Forget: func(m *Memory, gone *hall.Gone) { m.forget(gone) }})

const name = "raid"

// raidCame: thanks in bands of size, and the leader shouted out. The leader's link
// and last category are asked of the platform while the lines wait.
func raidCame(t *room.Turn, data *happening.RaidCame) {
	args := t.About(data.Person)
	args["viewers"] = wording.Num(data.Viewers)
	args["raids"] = wording.Num(By(t, data.Person.Key()) + 1)
	m := t.Plan.Set.Meet(t.Cause(data.Person))
	c := m.Cause
	name := t.SayName(data.Person)
	if why := t.Never(data.Person); why != "" {
		t.Decide(hall.Decision{Kind: hall.Refuse, Output: string(happening.Thanks), Person: data.Person.Key(), Name: name, Because: []string{why}})
		return
	}
	noShout := t.NoShout(data.Person, t.Known)
	for _, slot := range []happening.Slot{happening.Thanks, happening.ShoutOut} {
		won, ladder := m.Winner(slot)
		if slot == happening.Thanks {
			won, ladder = t.OwedLate(m, slot)
		}
		switch {
		case slot == happening.ShoutOut && t.Shouting[data.Person.Key()]:
		case won != nil && slot == happening.ShoutOut && noShout != "":
			t.Refuse(slot, won, data.Person.Key(), name, ladder, noShout)
		case won == nil:
			why := "no " + string(slot) + " fits"
			switch {
			case len(ladder) == 0:
				why = "no courtesy is for the " + string(slot) + " of a raid"
			case !slices.ContainsFunc(ladder, func(g courtesy.Rung) bool { return !g.ByNumber }):
				why += " a raid of this size"
			}
			t.Refuse(slot, nil, data.Person.Key(), name, ladder, why)
			if slot == happening.Thanks && len(ladder) > 0 {
				t.WaitFor(data.Person, name, "raid", why, data.Viewers)
			}
		case len(won.Outputs) == 0:
			t.Refuse(slot, won, data.Person.Key(), name, ladder, "raids of this size are passed over in silence")
		default:
			if slot == happening.ShoutOut {
				t.ShoutsOut(data.Person.Key())
			}
			t.SpeakOrWait(c, won, ladder, args, t.ChatsOf(data.Person), &data.Viewers)
		}
		t.Beside(m, slot, args, t.ChatsOf(data.Person))
	}
	t.Announce(args, t.ChatsOf(data.Person))
}

// By counts the raids somebody brought, tonight's included as far as they are
// in the state.
func By(t *room.Turn, key string) int64 {
	n := 0
	if t.Known != nil {
		n = t.Known.Raids
	}
	for _, r := range t.State.Raids {
		if r.Person.Key() == key {
			n++
		}
	}
	return int64(n)
}
