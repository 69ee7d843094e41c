// Package chat understands what comes in at a chat door: who says a line and as what, who
// comes, goes and is renamed, and which lines are only the house's own, come back.
//
// An [Ear] is one door's. What it hears is an event's data, or nil for what is nobody's
// business; the door's event is made of it by whoever runs the house.
package chat

import (
	"maps"
	"slices"
	"strings"
	"time"

	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/core/profile"
)

// Line is a line of chat as the network passes it on.
type Line struct {
	Nick    string
	Account string // services account, of the account tag; "" unknown
	Text    string
	Tags    map[string]string
	Own     bool // the house's own, echoed
}

// Moved is somebody coming into the room or going.
type Moved struct {
	Nick    string
	Tags    map[string]string
	Entered bool
}

// Nicked is somebody in the room under another nick.
type Nicked struct {
	From, To string
	Account  string // services account, of the account tag; "" unknown
	Tags     map[string]string
}

// Ear understands what one chat door brings. It is one goroutine's.
type Ear struct {
	Door  housefile.Door
	Chat  profile.Chat      // of the door's platform
	first map[string]string // nick → the one they were known by first on this network
}

// deaf reports whether nothing is taken from this door: one that speaks as the streamer
// stands in the same room as the house's own, which hears it all.
func (e *Ear) deaf() bool { return e.Door.As == output.AsStreamer }

// Said is what somebody said, with the platform's own id of it ("" for none) and when they
// did (zero when the platform does not tell). The platform's own id of a person is who they
// are where it gives one; on a plain network it is the account, or else the nick, for which
// nobody vouches.
func (e *Ear) Said(l Line) (said *happening.ChatSaid, id string, at time.Time) {
	if l.Own && !e.Door.Shared || e.deaf() {
		return nil, "", at
	}
	p := &e.Chat
	said = &happening.ChatSaid{Text: l.Text}
	said.Person = event.Person{Platform: e.Door.Platform, ID: l.Tags[p.IDTag], Login: l.Nick, Name: l.Tags[p.NameTag]}
	if who := &said.Person; who.ID == "" {
		if who.ID, who.Nick = e.known(l.Nick), true; l.Account != "" { // the network knows who signed in
			who.ID, who.Nick = strings.ToLower(l.Account), false
		}
	}
	if p.RolesTag != "" {
		for word := range strings.SplitSeq(l.Tags[p.RolesTag], ",") {
			if r := p.Roles[word]; r != "" {
				said.Person.Roles = append(said.Person.Roles, event.Role(r))
			}
		}
	}
	if p.MessageTag != "" {
		said.MessageID = l.Tags[p.MessageTag]
	}
	if p.TimeTag != "" {
		if t, err := time.Parse(time.RFC3339Nano, l.Tags[p.TimeTag]); err == nil {
			at = t
		}
	}
	return said, said.MessageID, at
}

// Moved is that somebody came or went; a hint only. It is nil where nothing is taken.
func (e *Ear) Moved(m Moved) event.Data {
	if e.deaf() {
		return nil
	}
	who := event.Person{Platform: e.Door.Platform, ID: m.Tags[e.Chat.IDTag], Login: m.Nick}
	if who.ID == "" {
		if who.ID = e.known(m.Nick); !m.Entered {
			delete(e.first, strings.ToLower(m.Nick))
		}
	}
	if m.Entered {
		data := &happening.PersonEntered{}
		data.Person = who
		return data
	}
	data := &happening.PersonLeft{}
	data.Person = who
	return data
}

// Renamed is that somebody has another nick, on a network that knows people by nothing
// else: they stay who they are. It is nil where the platform's own id goes on.
func (e *Ear) Renamed(n Nicked) event.Data {
	if e.deaf() || e.Chat.IDTag != "" && n.Tags[e.Chat.IDTag] != "" {
		return nil
	}
	data := &happening.PersonRenamed{Was: n.From}
	data.Person = event.Person{Platform: e.Door.Platform, ID: strings.ToLower(n.Account), Login: n.To}
	if n.Account == "" {
		data.Person.ID, data.Person.Nick = e.renick(n.From, n.To), true
	}
	return data
}

// known is by which nick somebody was known first on this connection: their id.
func (e *Ear) known(nick string) string {
	nick = strings.ToLower(nick)
	if id := e.first[nick]; id != "" {
		return id
	}
	id := nick
	for slices.Contains(slices.Collect(maps.Values(e.first)), id) { // somebody else was known by it, and is still here
		id += "~"
	}
	return id
}

func (e *Ear) renick(from, to string) string {
	if e.first == nil {
		e.first = map[string]string{}
	}
	from, to = strings.ToLower(from), strings.ToLower(to)
	id := e.known(from)
	delete(e.first, from)
	if delete(e.first, to); id != to {
		e.first[to] = id
	}
	return id
}
