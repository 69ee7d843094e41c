package room

import (
	"encoding/json"

	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/people"
)

// KeptOf is what the room whose turn it is keeps of a person for longer than a stream, over
// all their accounts: unite makes one of what is kept of several. known is who they are, as
// the guest book knows them.
func KeptOf[K any](t *Turn, p event.Person, known *people.Known, unite func([]K) K) K {
	var of []K
	seen := map[string]bool{}
	for _, account := range known.AccountsWith(p.Key()) {
		if seen[account] {
			continue
		}
		seen[account] = true
		raw := t.kept(t.room, account, known)
		var k K
		if raw != nil && json.Unmarshal(raw, &k) == nil { // what another version kept says nothing to this one
			of = append(of, k)
		}
	}
	return unite(of)
}

// kept is what a room keeps of an account, as of what was lived by now; nil for nothing.
func (t *Turn) kept(room, account string, known *people.Known) json.RawMessage {
	places := []people.Kept{t.State.Kept, t.State.KeptLast, nil} // the newest first
	if known != nil {
		places[2] = known.Kept
	}
	for _, p := range places {
		if raw := p[account][room]; raw != nil {
			return raw
		}
	}
	return nil
}

// Keep decides what the room whose turn it is keeps of an account from now on. It is written
// into the guest book, and goes with whoever is forgotten.
func Keep[K any](t *Turn, account string, value K, why string) {
	raw, err := json.Marshal(value)
	if err != nil {
		return
	}
	t.Decide(hall.Decision{Kind: hall.Keep, Output: t.room, Line: account, Person: account, Kept: raw, Because: []string{why}})
}

// Note decides something that is the own business of the room whose turn it is: its memory
// moves on by it ([Noted]). what names it within the event.
func Note[D any](t *Turn, what string, data D, why string) bool {
	raw, err := json.Marshal(data)
	if err != nil {
		return false
	}
	return t.Decide(hall.Decision{Kind: hall.Note, Output: t.room + " " + what, Saying: hall.Saying{Body: raw}, Because: []string{why}})
}

// Noted is what a room noted with an event, as far as it can be read: a forgetting may have
// taken it out.
func Noted[D any](l Lived, what string) []D {
	var out []D
	for i := range l.Decisions {
		x := &l.Decisions[i]
		var d D
		if x.Kind == hall.Note && x.Room == l.Room && x.Output == l.Room+" "+what && json.Unmarshal(x.Body, &d) == nil {
			out = append(out, d)
		}
	}
	return out
}

// KeptEach is what a room keeps of each account of a person, as of what was decided by now.
func KeptEach[K any](t *Turn, room string, p event.Person, known *people.Known) map[string]K {
	out := map[string]K{}
	for _, account := range known.AccountsWith(p.Key()) {
		if _, seen := out[account]; seen {
			continue
		}
		raw := t.kept(room, account, known)
		for i := range t.Decided {
			if x := &t.Decided[i]; x.Room == room {
				x.EachKept(func(of string, value json.RawMessage) {
					if of == account {
						raw = value
					}
				})
			}
		}
		var k K
		if raw != nil {
			_ = json.Unmarshal(raw, &k) // what another version kept says nothing to this one
		}
		out[account] = k
	}
	return out
}
