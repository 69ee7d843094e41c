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
		places := []people.Kept{t.State.Kept, t.State.KeptLast, nil} // the newest first
		if known != nil {
			places[2] = known.Kept
		}
		var raw json.RawMessage
		for _, p := range places {
			if raw == nil {
				raw = p[account][t.room]
			}
		}
		var k K
		if raw != nil && json.Unmarshal(raw, &k) == nil { // what another version kept says nothing to this one
			of = append(of, k)
		}
	}
	return unite(of)
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
