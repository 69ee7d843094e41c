package movein

import (
	"time"

	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/house"
	"vividporch/core/housefile"
	"vividporch/core/rehearsal"
	"vividporch/core/room"
	"vividporch/porch/screen"
	"vividporch/spec"
	"vividporch/starter"
)

// madeUp is the platform of the made-up evening, where the house is on none yet.
const madeUp = "chat"

// Evening lives the made-up evening under a house's settings, as it would stand on the Porch:
// how it begins, and what changes when. It is a rehearsal; nothing leaves, and nothing is kept.
func Evening(settings *housefile.Settings, opens time.Time) (spec.ShownEvening, error) {
	opens = opens.Truncate(time.Second)
	s := settings.Clone()
	platform := madeUp
	for _, d := range s.Doors {
		if d.Kind == "irc" && d.As == "" {
			platform = d.Platform
			break
		}
	}
	s.Doors = []housefile.Door{{Name: madeUp, Kind: "irc", Platform: platform, Address: "made.up:1", Room: "#evening", Account: "the_house"}}
	if s.Channel == housefile.Unnamed {
		s.Channel = "your channel"
	}
	plan := house.Loosely(s, 1)
	script, book, err := starter.Evening(opens, platform)
	if err != nil {
		return spec.ShownEvening{}, err
	}
	scene := func(st *house.State, p *room.Plan) screen.Scene {
		return screen.Scene{State: st, Plan: p, Now: st.Clock, Doors: []spec.Door{}}
	}
	out := spec.ShownEvening{Millis: int(starter.Minute.Milliseconds()), Frames: []spec.ShownFrame{}}
	var shown *screen.Parts
	first := house.NewState()
	first.Clock = opens
	out.Whole = screen.Whole(scene(first, plan), []spec.Entry{})
	_, err = rehearsal.Followed(plan, book, script, func(st *house.State, ev *event.Event, ds []hall.Decision, p *room.Plan) {
		after := ev.Logged.Sub(opens)
		if after > starter.Minute {
			return
		}
		entries := screen.Entries(ev, ds)
		for _, e := range entries {
			if e.State == spec.EntryStateSending { // speech succeeds at once
				e.State = spec.EntryStateSaid
				entries = append(entries, e)
			}
		}
		var c spec.Change
		c, shown = screen.Change(scene(st, p), []screen.Lived{{Event: ev, Decisions: ds}}, entries, shown)
		out.Frames = append(out.Frames, spec.ShownFrame{After: int(after.Milliseconds()), Change: c})
	})
	return out, err
}
