// Package arrive is the room that greets whoever speaks for the first time in a stream, and
// shouts them out, as far as courtesies say so.
package arrive

import (
	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/plain"
	"vividporch/core/room"
)

// Room welcomes whoever arrives.
var Room = room.Of(room.Spec[struct{}, struct{}]{Name: "arrive",
	Hears: []string{happening.ChatSaidType},
	Decide: func(t *room.Turn, _, _ *struct{}) {
		data := t.Event.Data.(*happening.ChatSaid)
		if t.IsLate || t.Done || t.State.Arrived(data.Person.Key(), t.Known) {
			return // a late line counts as a visit, and does not use up the arrival
		}
		t.Arrives = true
		t.Awaits = arrives(t, data)
	},
	Resume: func(t *room.Turn, _, _ *struct{}, q *hall.Question, a *event.LookupAnswered) { welcomeAfter(t, q, a) }})

// arrives greets whoever speaks for the first time in this period, and shouts them
// out, as far as courtesies say so. It reports whether that waits for what the platform
// tells about them.
func arrives(t *room.Turn, data *happening.ChatSaid) (awaits bool) {
	key := data.Person.Key()
	standing, why := t.Standing()
	name := t.SayName(data.Person)
	arrived := hall.Decision{Kind: hall.Arrive, Output: "arrival", Person: key, Name: name, Met: hall.Met{Standing: standing, Known: t.Known}, Because: []string{why}}
	if r := t.State.CameWith(key, standing, t.Event.Time); r != nil {
		arrived.With = r.Event
		arrived.Because = append(arrived.Because, "came with the raid of "+plain.Name(r.Person.Shown()))
	}
	arrived.Day = t.DayOf(data.Person)
	never := t.Never(data.Person)
	if never != "" { // the streamer and whoever is never greeted are no newcomers
		arrived.Standing, arrived.Because = "", []string{t.FirstLine()}
	}
	if arrived.Again = t.State.IsAgain(key, t.Known); arrived.Again {
		arrived.Because = append(arrived.Because, "greetings are made anew")
	}
	t.Decide(arrived)
	if never != "" {
		t.Decide(hall.Decision{Kind: hall.Refuse, Output: string(happening.Greeting), Person: key, Name: name, Because: []string{never}})
		return false
	}
	t.DayWaits(data.Person)
	if unsureOf(t, data.Person) {
		if hangsOn(t, arriving(t, data)) {
			await(t, data)
			return true
		}
		t.Ask(data.Person, "whether they stream, and what")
	}
	welcome(t, data)
	return false
}

// arriving is the cause that an arrival is.
func arriving(t *room.Turn, data *happening.ChatSaid) *courtesy.Meeting {
	c := t.Cause(data.Person)
	c.When, c.Quantities, c.Fields = happening.Arrival, nil, nil
	return t.Plan.Set.Meet(c)
}

// welcome does what courtesies say of an arrival.
func welcome(t *room.Turn, data *happening.ChatSaid) {
	key, name := data.Person.Key(), t.SayName(data.Person)
	m := arriving(t, data)
	c := m.Cause
	raid := t.State.RaidOf(key)
	args := t.About(data.Person)
	noShout := t.NoShout(data.Person, t.Known)
	for _, slot := range []happening.Slot{happening.Greeting, happening.ShoutOut} {
		won, ladder := m.Winner(slot)
		switch {
		case slot == happening.ShoutOut && t.Shouting[key]:
		case won != nil && slot == happening.ShoutOut && noShout != "":
			t.Refuse(slot, won, key, name, ladder, noShout)
		case won == nil:
			if len(ladder) > 0 {
				why := "no " + string(slot) + " fits"
				if !c.Live && onlyLive(ladder) {
					why = "no stream is on: " + map[happening.Slot]string{happening.Greeting: "greetings are said", happening.ShoutOut: "shout-outs are done"}[slot] + " only while live"
				}
				t.Refuse(slot, nil, key, name, ladder, why)
			}
		case len(won.Outputs) == 0:
			t.Refuse(slot, won, key, name, ladder, "these are passed over in silence")
		case slot == happening.Greeting && t.Flooded() && !won.Personal(c):
			t.Refuse(slot, won, key, name, ladder, "a flood of strangers is held off: general greetings rest")
		case raid != nil && raid.Thanked && !won.Personal(c): // only words of their own or a crew's go on top
			t.Refuse(slot, won, key, name, ladder, "was already thanked for the raid")
		default:
			if slot == happening.ShoutOut {
				t.ShoutsOut(data.Person.Key())
			}
			t.Fill(c, won, ladder, args, []string{data.Person.Platform})
		}
		t.Beside(m, slot, args, []string{data.Person.Platform})
	}
	t.Free(m, args, []string{data.Person.Platform})
}

// onlyLive reports whether what is switched on of a ladder is for while a stream is on.
func onlyLive(ladder []courtesy.Rung) bool {
	some := false
	for _, g := range ladder {
		switch g.Why {
		case courtesy.OnlyLive:
			some = true
		case courtesy.SwitchedOff:
		default:
			return false
		}
	}
	return some
}
