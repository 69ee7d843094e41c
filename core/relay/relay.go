// Package relay is the room for what is posted to places later than it happens: gathered into one post, or held
// over the quiet hours.
package relay

import (
	"cmp"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"vividporch/core/courtesy"
	"vividporch/core/hall"
	"vividporch/core/output"
	"vividporch/core/plain"
	"vividporch/core/room"
)

// Room posts what has gathered.
var Room = room.Of(room.Spec[struct{}, Memory]{Name: name, Version: 1,
	Hears: []string{"porch.house.woke"},
	Decide: func(t *room.Turn, _ *struct{}, m *Memory) {
		for i := range m.Waiting {
			if g := &m.Waiting[i]; !g.Due.After(t.Now) {
				post(t, g)
			}
		}
	},
	Evolve: func(m *Memory, l room.Lived) { m.evolve(l) },
	Wake: func(_ *struct{}, m *Memory) (at time.Time, due bool) {
		for i := range m.Waiting {
			if g := &m.Waiting[i]; !due || g.Due.Before(at) {
				at, due = g.Due, true
			}
		}
		return at, due
	},
	Forget: func(m *Memory, gone *hall.Gone) { m.forget(gone) },
})

const name = "relay"

// lookAgain is how long an announcement waits on for a stream that dropped.
const lookAgain = 30 * time.Second

// mostShown is how many are told of in one post.
const mostShown = 50

// Memory is what waits, by the output that posts it, whatever waited first before.
type Memory struct {
	Waiting []Group `json:"waiting,omitempty"`
}

// Group is what waits for one output.
type Group struct {
	Courtesy string    `json:"courtesy"`
	Output   string    `json:"output"`
	Place    string    `json:"place"`
	Due      time.Time `json:"due"`
	Full     int       `json:"full,omitempty"`
	Items    []Item    `json:"items"`
	More     int       `json:"more,omitempty"` // beyond those that are told of
	Stream   int       `json:"stream,omitempty"`
	Rested   bool      `json:"rested,omitempty"` // it has to wait longer than its own minutes
}

// Item is one of those that wait.
type Item struct {
	hall.JoinedOne
	Text    string    `json:"text"`
	Picture string    `json:"picture,omitempty"`
	Alt     uint64    `json:"alt,omitempty"`
	Due     time.Time `json:"due,omitzero"` // it would leave by then, were it alone
}

// rest is what is noted of a group that has to wait longer.
type rest struct {
	Courtesy, Output string
	Due              time.Time
}

func (m *Memory) evolve(l room.Lived) {
	for i := range l.Decisions {
		x := &l.Decisions[i]
		switch {
		case x.Kind == room.Gather:
			m.gathered(x, l.Now)
		case x.Kind == hall.Note && x.Room == name:
			for _, r := range room.Noted[rest](room.Lived{Room: name, Decisions: l.Decisions[i : i+1]}, strings.TrimPrefix(x.Output, name+" ")) {
				if g := m.of(r.Courtesy, r.Output); g != nil {
					g.Due, g.Full, g.Rested = r.Due, 0, true
				}
			}
		case x.Room == name && (x.Kind == hall.Relay || x.Kind == hall.Refuse):
			m.Waiting = slices.DeleteFunc(m.Waiting, func(g Group) bool { return g.Courtesy == x.Courtesy && g.Output == x.Output })
		}
	}
}

func (m *Memory) of(courtesy, output string) *Group {
	for i := range m.Waiting {
		if g := &m.Waiting[i]; g.Courtesy == courtesy && g.Output == output {
			return g
		}
	}
	return nil
}

func (m *Memory) gathered(x *hall.Decision, now time.Time) {
	var in room.Gathered
	if json.Unmarshal(x.Body, &in) != nil { // a forgetting took it out
		return
	}
	g := m.of(x.Courtesy, x.Output)
	if g == nil {
		m.Waiting = append(m.Waiting, Group{Courtesy: x.Courtesy, Output: x.Output, Due: in.Due})
		g = &m.Waiting[len(m.Waiting)-1]
	}
	if g.Stream > 0 && in.Stream > g.Stream { // another stream has opened meanwhile, and is what there is to announce
		g.Items, g.More, g.Due, g.Rested = nil, 0, in.Due, false
	}
	g.Place, g.Full, g.Stream = x.Place, in.Full, max(g.Stream, in.Stream)
	if in.Due.Before(g.Due) { // the settings have changed
		g.Due = in.Due
	}
	if len(g.Items) == mostShown {
		g.More++
	} else {
		g.Items = append(g.Items, Item{Text: in.Text, Picture: in.Picture, Alt: x.Alt, Due: in.Due, JoinedOne: hall.JoinedOne{Event: x.Event, EventID: x.EventID, Person: x.Person, Name: x.Name, Line: x.Line}})
	}
	if g.Full > 0 && len(g.Items)+g.More >= g.Full && now.Before(g.Due) { // there is nothing to wait for
		g.Due = now
	}
}

// anew is when a group leaves by those that are left of it: as if whoever is forgotten had never been one of them, for the
// log tells of them no more.
func (g *Group) anew() {
	if g.Rested || g.Full > 0 && len(g.Items)+g.More >= g.Full {
		return
	}
	for i := range g.Items {
		if due := g.Items[i].Due; due.IsZero() { // written before each knew its own
			return
		} else if i == 0 || due.Before(g.Due) {
			g.Due = due
		}
	}
}

func (m *Memory) forget(gone *hall.Gone) {
	for i := range m.Waiting {
		g := &m.Waiting[i]
		g.Items = slices.DeleteFunc(g.Items, func(it Item) bool { return gone.Mine(it.Person) })
		g.anew()
		for k := range g.Items {
			g.Items[k].Text = plain.Without(g.Items[k].Text, gone.Sparing(g.Items[k].Name))
		}
	}
	m.Waiting = slices.DeleteFunc(m.Waiting, func(g Group) bool { return len(g.Items)+g.More == 0 })
}

// post posts a group, or says why it is not.
func post(t *room.Turn, g *Group) {
	r, o := find(t, g)
	why := ""
	switch rel, _ := outputOf(o); {
	case rel == nil:
		why = "the relay was taken away"
	case !r.On || r.Away:
		why = "the courtesy is switched off"
	case rel.Paused:
		why = "the relay is paused"
	case g.Stream > 0 && (!t.IsLive() || t.State.Stream.Number != g.Stream):
		why = "the stream has ended meanwhile"
	case g.Stream > 0 && !t.State.Stream.Gone.IsZero(): // nobody is live just now: it ends, or it goes on
		room.Note(t, "rest "+g.Courtesy+"/"+g.Output, rest{g.Courtesy, g.Output, t.Now.Add(lookAgain).UTC()}, "no platform is live just now")
		return
	case t.Plan.PlaceNamed(rel.Place) == nil || !t.Plan.PlaceNamed(rel.Place).Ready():
		why = "the place has no address"
	case rel.Quiet != nil && rel.Quiet.Hold(t.Now.In(t.Plan.Zone)):
		if rel.Quiet.Drop {
			why = "nothing is posted there " + rel.Quiet.String()
			break
		}
		room.Note(t, "rest "+g.Courtesy+"/"+g.Output, rest{g.Courtesy, g.Output, rel.Quiet.Ends(t.Now.In(t.Plan.Zone)).UTC()}, "nothing is posted there "+rel.Quiet.String())
		return
	}
	n := len(g.Items) + g.More
	if why != "" {
		t.TakenBack(g.Courtesy, g.Output, g.Place, n, why)
		return
	}
	var texts []string
	var of []hall.JoinedOne
	for _, it := range g.Items {
		texts, of = append(texts, it.Text), append(of, it.JoinedOne)
	}
	if g.More > 0 {
		texts = append(texts, fmt.Sprintf("and %d more", g.More))
	}
	because := fmt.Sprintf("%d had gathered", n)
	if n == 1 {
		because = "waited its time"
	}
	if g.Stream > 0 && n == 1 {
		t.Announced(r, o, of[0], g.Items[0].Alt, because)
		return
	}
	picture := ""
	if n == 1 {
		picture = g.Items[0].Picture
	}
	t.Digest(r, o, texts, picture, of, because)
}

// Holds reports whether the announcement that an output makes still waits; which platform it names is then seen when it is
// posted.
func Holds(t *room.Turn, courtesy, output string) bool {
	g := room.MemoryOf[Memory](t, name).of(courtesy, output)
	return g != nil && g.Stream > 0
}

func find(t *room.Turn, g *Group) (*courtesy.Ready, *courtesy.ReadyOutput) {
	r := t.Find(g.Courtesy)
	if r == nil {
		return nil, nil
	}
	at := slices.IndexFunc(r.Outputs, func(o courtesy.ReadyOutput) bool { return o.ID == g.Output })
	if at < 0 {
		return r, nil
	}
	return r, &r.Outputs[at]
}

func outputOf(o *courtesy.ReadyOutput) (*output.Relay, bool) {
	if o == nil {
		return nil, false
	}
	rel, ok := o.Do.(*output.Relay)
	return rel, ok
}

// Waits is what waits for one output.
type Waits struct {
	Courtesy, Output, Place string
	Due                     time.Time
	Count                   int
}

// Waiting tells what waits, the first due first.
func Waiting(mem room.Memory) (out []Waits) {
	for _, g := range room.Remembered[Memory](mem, name).Waiting {
		out = append(out, Waits{g.Courtesy, g.Output, g.Place, g.Due, len(g.Items) + g.More})
	}
	slices.SortStableFunc(out, func(a, b Waits) int { return cmp.Or(a.Due.Compare(b.Due), cmp.Compare(a.Courtesy, b.Courtesy)) })
	return out
}
