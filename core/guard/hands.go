package guard

import (
	"cmp"
	"encoding/json"
	"slices"
	"time"

	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/output"
	"vividporch/core/plain"
	"vividporch/core/room"
	"vividporch/core/trouble"
)

// decided does what a member decided of a held line.
func decided(t *room.Turn, m *Memory, data *event.HeldDecided) {
	at := slices.IndexFunc(m.Held, func(h Held) bool { return h.ID == data.Held })
	if at < 0 {
		t.Decide(hall.Decision{Kind: hall.Refuse, Output: "desk", Line: data.Held, Because: []string{"is decided already, or nobody waited for it any longer"}})
		return
	}
	h := &m.Held[at]
	switch {
	case !data.Allow:
		let(t, h, goneLine, "a member had it taken out")
		refuse(t, h)
	case h.Back: // it comes as a line, then
		let(t, h, allowedLine, "a member allowed it")
		have(t, h.Said.Person, output.Deed{Act: output.AllowLine, Message: h.Said.MessageID, Login: h.Said.Person.Login}, "a member allowed it")
	default:
		let(t, h, allowedLine, "a member allowed it")
		said := h.Said
		t.Admits = &said
	}
}

// refuse has the platform take a held line out, or not let it through.
func refuse(t *room.Turn, h *Held) {
	act := output.DeleteLine
	if h.Back {
		act = output.RefuseLine
	}
	why := t.Plan.Cannot(h.Said.Person.Platform, act)
	if h.Said.MessageID == "" {
		why = cmp.Or(why, "the platform gave this line no id")
	}
	if why != "" {
		t.Decide(hall.Decision{Kind: hall.Refuse, Output: "desk", Line: h.ID, Platform: h.Said.Person.Platform, Because: []string{why}})
		return
	}
	have(t, h.Said.Person, output.Deed{Act: act, Message: h.Said.MessageID, Login: h.Said.Person.Login}, "a member had it taken out")
}

// How the waiting of a held line ends.
const (
	allowedLine = iota // a member allowed it
	goneLine           // it is taken out, by a member here or by somebody else
	lapsedLine         // nobody decided
)

// letAs says how it ended, in what no forgetting takes out.
var letAs = [...]string{allowedLine: "allowed ", goneLine: "gone ", lapsedLine: "lapsed "}

// let ends the waiting of a held line.
func let(t *room.Turn, h *Held, how int, why string) {
	as := letting{Allowed: how == allowedLine}
	if as.Allowed && !h.Back {
		as.Said = &h.Said
	}
	body, _ := json.Marshal(as)
	t.Decide(hall.Decision{Kind: Let, Output: letAs[how] + h.ID, Line: h.ID, Person: h.Said.Person.Key(), Name: plain.Name(h.Said.Person.Shown()), Platform: h.Said.Person.Platform, Saying: hall.Saying{Body: body}, Because: []string{why}})
	t.Decide(hall.Decision{Kind: hall.Done, Output: "held " + h.ID, Line: itemOf(h.ID), Person: h.Said.Person.Key(), Item: &hall.Item{ID: itemOf(h.ID)}, Because: []string{why}})
}

// gone ends the waiting of lines that somebody else dealt with.
func gone(t *room.Turn, m *Memory, of func(*Held) bool, why string) {
	for i := range m.Held {
		if h := &m.Held[i]; of(h) {
			let(t, h, goneLine, why)
		}
	}
}

// permitted says what holds from now on.
func permitted(t *room.Turn, data *event.Permitted) {
	why := "is permitted for " + room.Seconds(data.Seconds).String()
	if data.Seconds == 0 {
		why = "is not permitted any more"
	}
	t.Decide(hall.Decision{Kind: hall.Note, Output: name + " permit", Person: data.Person.Key(), Name: plain.Name(data.Person.Shown()), Because: []string{why}})
}

// flood holds a flood of strangers off, or no longer.
func flood(t *room.Turn, s *Section, m *Memory, data *event.FloodKey) {
	if !data.On {
		if m.Flood.IsZero() {
			t.Decide(hall.Decision{Kind: hall.Refuse, Output: "desk", Because: []string{"no flood is held off"}})
			return
		}
		ebb(t, m, "the key was pressed again")
		return
	}
	until := t.Now.Add(room.Seconds(60 * cmp.Or(s.FloodMinutes, trouble.UsualFlood)))
	t.Decide(hall.Decision{Kind: HoldOff, Output: "flood", At: until, Because: []string{"the key against a flood was pressed"}})
	if !m.Flood.IsZero() { // it holds longer
		return
	}
	modes := s.Modes
	if len(modes) == 0 {
		modes = []string{string(output.SlowChat)}
	}
	var on []mode
	for _, platform := range t.Plan.Chat() {
		for _, act := range modes {
			if t.Plan.Cannot(platform, output.Act(act)) == "" {
				on = append(on, mode{platform, act})
				have(t, event.Person{Platform: platform}, output.Deed{Act: output.Act(act), Seconds: until.Sub(t.Now).Seconds()}, "a flood of strangers is held off")
			}
		}
	}
	room.Note(t, "modes", on, "brought by the key")
}

// ebb undoes what the key brought.
func ebb(t *room.Turn, m *Memory, why string) {
	t.Decide(hall.Decision{Kind: HoldOff, Output: "flood", Because: []string{why}})
	for _, x := range m.Modes {
		have(t, event.Person{Platform: x.Platform}, output.Deed{Act: output.Act(x.Act), Off: true}, why)
	}
	room.Note(t, "modes", []mode{}, why)
}

// wake is when a held line is let go, or a flood is over.
func wake(s *Section, m *Memory) (at time.Time, due bool) {
	for i := range m.Held {
		if t := s.lapses(&m.Held[i]); !due || t.Before(at) {
			at, due = t, true
		}
	}
	if !m.Flood.IsZero() && (!due || m.Flood.Before(at)) {
		at, due = m.Flood, true
	}
	return at, due
}

func (s *Section) lapses(h *Held) time.Time {
	return h.Since.Add(room.Seconds(60 * cmp.Or(s.HeldMinutes, trouble.UsualHeld)))
}

// woke lets go what nobody decided: nothing is taken out, nobody is greeted.
func woke(t *room.Turn, s *Section, m *Memory) {
	for i := range m.Held {
		if h := &m.Held[i]; !t.Now.Before(s.lapses(h)) {
			let(t, h, lapsedLine, "nobody decided in time: it stands, and nothing comes of it")
			if h.Ours && h.Back {
				have(t, h.Said.Person, output.Deed{Act: output.AllowLine, Message: h.Said.MessageID, Login: h.Said.Person.Login}, "nobody decided in time")
			}
		}
	}
	if !m.Flood.IsZero() && !t.Now.Before(m.Flood) {
		ebb(t, m, "its time is over")
	}
}
