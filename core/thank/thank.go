// Package thank is the room that thanks for what happens, and runs whatever else courtesies
// do at it: every happening that no other room has for its own.
package thank

import (
	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/room"
)

// Room thanks for whatever happens.
var Room = room.Of(room.Spec[struct{}, struct{}]{Name: "thank",
	Takes: func(ev *event.Event) bool {
		h := happening.OfData(ev.Data)
		return h.IsWhen() && h.Frame == happening.OfPerson && !h.Roomed
	},
	Decide: func(t *room.Turn, _, _ *struct{}) { For(t) }})

// For runs the courtesies of an event's type: announcements and the like, which have no
// slot, and thanks.
func For(t *room.Turn) {
	h, args := happening.OfData(t.Event.Data), t.Args()
	who := t.Event.Who()
	if who == nil {
		h.Tell(t.Event.Data, args)
		t.Announce(args, t.OnAir())
		return
	}
	person, platform := *who, t.ChatsOf(*who)
	for k, v := range t.About(person) {
		args[k] = v
	}
	h.Tell(t.Event.Data, args)
	m := t.Plan.Set.Meet(t.Cause(person))
	c := m.Cause
	won, ladder := t.OwedLate(m, happening.Thanks)
	never := t.Never(person)
	switch {
	case never != "" && len(ladder) > 0:
		t.Refuse(happening.Thanks, nil, person.Key(), t.SayName(person), ladder, never)
	case won == nil && len(ladder) > 0:
		t.Refuse(happening.Thanks, nil, person.Key(), t.SayName(person), ladder, "no thanks fits")
	case won != nil && len(won.Outputs) == 0:
		t.Refuse(happening.Thanks, won, person.Key(), t.SayName(person), ladder, "these are passed over in silence")
	case won != nil:
		t.SpeakOrWait(c, won, ladder, args, platform, nil)
	}
	if never == "" {
		t.Beside(m, happening.Thanks, args, platform)
	}
	t.Announce(args, platform)
}
