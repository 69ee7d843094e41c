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
var Room = room.Of(room.Spec[struct{}, struct{}, struct{}]{Name: "arrive",
	Hears: []string{happening.ChatSaidType},
	Decide: func(d *room.Turn, _, _ *struct{}) {
		data := d.Event.Data.(*happening.ChatSaid)
		if d.IsLate || d.Done || d.State.Arrived(data.Person.Key(), d.Known) {
			return // a late line counts as a visit, and does not use up the arrival
		}
		d.Arrives = true
		d.Awaits = arrives(d, data)
	},
	Resume: func(d *room.Turn, _, _ *struct{}, q *hall.Question, a *event.LookupAnswered) { welcomeAfter(d, q, a) }})

// arrives greets whoever speaks for the first time in this period, and shouts them
// out, as far as courtesies say so. It reports whether that waits for what the platform
// tells about them.
func arrives(d *room.Turn, data *happening.ChatSaid) (awaits bool) {
	key := data.Person.Key()
	standing, why := d.Standing()
	name := d.SayName(data.Person)
	arrived := hall.Decision{Kind: hall.Arrive, Output: "arrival", Person: key, Name: name, Standing: standing, Known: d.Known, Because: []string{why}}
	if r := d.State.CameWith(key, standing, d.Event.Time); r != nil {
		arrived.With = r.Event
		arrived.Because = append(arrived.Because, "came with the raid of "+plain.Name(r.Person.Shown()))
	}
	never := d.Never(data.Person)
	if never != "" { // the streamer and whoever is never greeted are no newcomers
		arrived.Standing, arrived.Because = "", []string{d.FirstLine()}
	}
	d.Decide(arrived)
	if never != "" {
		d.Decide(hall.Decision{Kind: hall.Refuse, Output: string(happening.Greeting), Person: key, Name: name, Because: []string{never}})
		return false
	}
	if unsureOf(d, data.Person) {
		if hangsOn(d, arriving(d, data)) {
			await(d, data)
			return true
		}
		d.Ask(data.Person, "whether they stream, and what")
	}
	welcome(d, data)
	return false
}

// arriving is the cause that an arrival is.
func arriving(d *room.Turn, data *happening.ChatSaid) *courtesy.Meeting {
	c := d.Cause(data.Person)
	c.When, c.Quantities, c.Fields = happening.Arrival, nil, nil
	return d.Plan.Set.Meet(c)
}

// welcome does what courtesies say of an arrival.
func welcome(d *room.Turn, data *happening.ChatSaid) {
	key, name := data.Person.Key(), d.SayName(data.Person)
	m := arriving(d, data)
	c := m.Cause
	raid := d.State.RaidOf(key)
	args := d.About(data.Person)
	for _, slot := range []happening.Slot{happening.Greeting, happening.ShoutOut} {
		won, ladder := m.Winner(slot)
		switch {
		case slot == happening.ShoutOut && d.Shouting[key]:
		case won != nil && slot == happening.ShoutOut && d.State.WasShouted(key, d.Known):
			d.Refuse(slot, won, key, name, ladder, room.ShoutedBefore)
		case won == nil:
			if len(ladder) > 0 {
				why := "no " + string(slot) + " fits"
				if !c.Live && onlyLive(ladder) {
					why = "no stream is on: " + map[happening.Slot]string{happening.Greeting: "greetings are said", happening.ShoutOut: "shout-outs are done"}[slot] + " only while live"
				}
				d.Refuse(slot, nil, key, name, ladder, why)
			}
		case len(won.Outputs) == 0:
			d.Refuse(slot, won, key, name, ladder, "these are passed over in silence")
		case raid != nil && raid.Thanked && !won.Personal(c): // only words of their own or a crew's go on top
			d.Refuse(slot, won, key, name, ladder, "was already thanked for the raid")
		default:
			if slot == happening.ShoutOut {
				d.ShoutsOut(data.Person.Key())
			}
			d.Fill(c, won, ladder, args, []string{data.Person.Platform})
		}
		d.Beside(m, slot, args, []string{data.Person.Platform})
	}
	d.Free(m, args, []string{data.Person.Platform})
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
