// Package thank is the room that thanks for what happens, and runs whatever else courtesies
// do at it: every happening that no other room has for its own.
package thank

import (
	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/room"
)

// Room thanks for whatever happens.
var Room = room.Of(room.Spec[struct{}, struct{}, struct{}]{Name: "thank",
	Takes: func(ev *event.Event) bool {
		h := happening.OfData(ev.Data)
		return h.IsWhen() && h.Frame == happening.OfPerson && h.Type != happening.RaidCameType && h.Type != presence
	},
	Decide: func(d *room.Turn, _, _ *struct{}) { For(d) }})

// presence is the type of comings in, which have a room of their own.
var presence = (&happening.PersonEntered{}).Type()

// For runs the courtesies of an event's type: announcements and the like, which have no
// slot, and thanks.
func For(d *room.Turn) {
	h, args := happening.OfData(d.Event.Data), d.Args()
	who := d.Event.Who()
	if who == nil {
		h.Tell(d.Event.Data, args)
		d.Announce(args, d.OnAir())
		return
	}
	person, platform := *who, []string{who.Platform}
	for k, v := range d.About(person) {
		args[k] = v
	}
	h.Tell(d.Event.Data, args)
	m := d.Plan.Set.Meet(d.Cause(person))
	c := m.Cause
	won, ladder := m.Winner(happening.Thanks)
	never := d.Never(person)
	switch {
	case never != "" && len(ladder) > 0:
		d.Refuse(happening.Thanks, nil, person.Key(), d.SayName(person), ladder, never)
	case won == nil && len(ladder) > 0:
		d.Refuse(happening.Thanks, nil, person.Key(), d.SayName(person), ladder, "no thanks fits")
	case won != nil && len(won.Outputs) == 0:
		d.Refuse(happening.Thanks, won, person.Key(), d.SayName(person), ladder, "these are passed over in silence")
	case won != nil:
		d.SpeakOrWait(c, won, ladder, args, platform, nil)
	}
	if never == "" {
		d.Beside(m, happening.Thanks, args, platform)
	}
	d.Announce(args, platform)
}
