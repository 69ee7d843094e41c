// Package neighbour is the room for other assistants in the channel. The house does not greet
// them, never answers them and counts them apart; what they say may be a cause of its own. A circle
// through a neighbour ends by rule: what one says within ten seconds of a line of ours that may be
// its command, or that it had brought on, is no cause.
package neighbour

import (
	"strings"
	"time"

	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/plain"
	"vividporch/core/room"
	"vividporch/core/wording"
)

// Room hears what neighbours say. It stands before all rooms that answer lines of chat.
var Room = room.Of(room.Spec[struct{}, Memory]{Name: name, Version: 1,
	Hears: []string{happening.ChatSaidType},
	Decide: func(t *room.Turn, _ *struct{}, m *Memory) {
		if data := t.Event.Data.(*happening.ChatSaid); t.Plan.IsNeighbour(data.Person) {
			t.Done = true
			said(t, m, data)
		}
	},
	Evolve: func(m *Memory, l room.Lived) {
		for i := range l.Decisions {
			if x := &l.Decisions[i]; x.Kind == hall.Say && x.Stirs {
				if m.Stirred == nil {
					m.Stirred = map[string]time.Time{}
				}
				m.Stirred[x.Platform] = l.Now
			}
		}
	}})

const name = "neighbour"

// Quiet is for how long nothing that a neighbour says is a cause, after a line of ours that may have
// stirred it.
const Quiet = 10 * time.Second

// Memory is when a line of ours was last said that may have stirred a neighbour, by platform.
type Memory struct {
	Stirred map[string]time.Time `json:"stirred,omitempty"`
}

// said counts what a neighbour says apart, and runs whatever courtesies hear it.
func said(t *room.Turn, m *Memory, data *happening.ChatSaid) {
	called := t.SayName(data.Person)
	t.Decide(hall.Decision{Kind: hall.Neighbour, Output: "said", Person: data.Person.Key(), Name: called, Because: []string{"is a neighbour: another assistant in the channel"}})
	if !t.Plan.Set.Has(happening.Neighbour) || t.IsLate {
		return
	}
	no := func(why string) {
		t.Decide(hall.Decision{Kind: hall.Refuse, Output: name, Person: data.Person.Key(), Name: called, Because: []string{why}})
	}
	if at := m.Stirred[data.Person.Platform]; !at.IsZero() && t.Now.Sub(at) < Quiet {
		no("a neighbour answers a line of ours, or one it brought on: within " + Quiet.String() + " that is no cause")
		return
	}
	c := t.Cause(data.Person)
	c.When, c.Fields = happening.Neighbour, map[string]string{"neighbour": data.Person.Login, "said": data.Text}
	c.Line = data.Text
	args := t.About(data.Person)
	args["said"] = wording.Str(plain.Text(data.Text))
	rest := plain.Text(data.Text)
	for _, f := range happening.AskedWords {
		word, more, _ := strings.Cut(rest, " ")
		args.Maybe(f, wording.Str(word))
		rest = strings.TrimSpace(more)
	}
	t.Stirred = true
	t.Free(t.Plan.Set.Meet(c), args, []string{data.Person.Platform})
	t.Stirred = false
	t.ReleaseIfDue()
}
