// Package hello is the room that answers a hello said to everybody by somebody who is here
// already.
package hello

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/housefile"
	"vividporch/core/pace"
	"vividporch/core/plain"
	"vividporch/core/room"
	"vividporch/core/spoken"
)

// Room answers whoever says hello.
var Room = room.Of(room.Spec[words, Memory]{Name: name, Version: 1,
	Ready: func(f *housefile.Settings, fault func(courtesy.Fault)) (w words) {
		w.ready(f.Hello, fault)
		return w
	},
	Hears: []string{happening.ChatSaidType},
	Decide: func(t *room.Turn, w *words, m *Memory) {
		data := t.Event.Data.(*happening.ChatSaid)
		if t.IsLate || t.Done || t.Arrives && (t.Awaits || t.Greets(data.Person.Key()) || t.Never(data.Person) != "") {
			return // whoever is greeted has been answered
		}
		sayHello(t, w, m, data)
	},
	Evolve: func(m *Memory, l room.Lived) {
		if l.Opened != nil {
			*m = Memory{}
		}
		for i := range l.Decisions {
			if x := &l.Decisions[i]; x.Kind == replied {
				if m.Hellos == nil {
					m.Hellos = map[string]time.Time{}
				}
				m.Hellos[x.Person], m.Last = l.Now, l.Now
			}
		}
	},
	Forget: func(m *Memory, gone *hall.Gone) {
		for _, k := range gone.Keys {
			delete(m.Hellos, k)
		}
	},
	Asks: func(p *room.Plan, w *words, ev *event.Event) bool {
		said, ok := ev.Data.(*happening.ChatSaid)
		return ok && p.Set.Has(happening.Hello) && w.says(spoken.Words(said.Text))
	}})

const name = "hello"

// replied is the kind of its decision: a hello is answered.
const replied hall.Kind = "replied"

// Memory is whose hello was answered in this stream, and when.
type Memory struct {
	Hellos map[string]time.Time `json:"hellos,omitempty"`
	Last   time.Time            `json:"last,omitzero"` // answer to any
}

// Said answers a hello in a line that waited for an answer.
func Said(t *room.Turn, data *happening.ChatSaid) {
	sayHello(t, room.Section[words](t.Plan, name), room.MemoryOf[Memory](t, name), data)
}

// words are the words split into their words, as they are compared.
type words struct {
	phrases      [][]string
	rest, person time.Duration
}

func (w *words) ready(h housefile.Hello, fault func(courtesy.Fault)) {
	for i, s := range h.Words {
		words := spoken.Words(s)
		if len(words) == 0 {
			fault(courtesy.Fault{At: fmt.Sprintf("hello.words.%d", i), What: "holds no word", Remedy: "write a word, or take it out"})
			continue
		}
		w.phrases = append(w.phrases, words)
	}
	if h.RestSeconds < 0 || h.RestSeconds > 86_400 || h.PersonSeconds < 0 || h.PersonSeconds > 86_400 {
		fault(courtesy.Fault{At: "hello.restSeconds", What: "is out of range", Remedy: "use 0 to 86400 seconds"})
	}
	w.rest, w.person = room.Seconds(h.RestSeconds), room.Seconds(h.PersonSeconds)
}

// sayHello answers a hello said to the room by somebody who is here already. A hello
// to somebody else, or one too soon after the last, is no business of the house.
func sayHello(t *room.Turn, w *words, m *Memory, data *happening.ChatSaid) {
	if !t.Plan.Set.Has(happening.Hello) {
		return
	}
	line := spoken.Words(data.Text)
	if !w.says(line) || data.ReplyTo != "" || toSomebody(t, data, line) {
		return
	}
	key := data.Person.Key()
	g := t.State.Guests()[key]
	if t.Known == nil && g != nil {
		t.Known = g.Known // as they arrived: the book has not got them yet
	}
	called := t.SayName(data.Person)
	no := func(why string) {
		t.Decide(hall.Decision{Kind: hall.Refuse, Output: string(happening.Answer), Person: key, Name: called, Because: []string{why}})
	}
	if why := t.Never(data.Person); why != "" {
		no(why)
		return
	}
	c := t.Cause(data.Person)
	c.When = happening.Hello
	met := t.Plan.Set.Meet(c)
	last, how := m.last(t, key)
	switch {
	case !last.IsZero() && t.Now.Sub(last) < w.person:
		no("said hello, and was " + how + " less than " + w.person.String() + " ago")
		return
	case !m.Last.IsZero() && t.Now.Sub(m.Last) < w.rest && !joins(t, met, data.Person.Platform):
		no("said hello, and another was answered less than " + w.rest.String() + " ago")
		return
	}
	t.Answer(met, called, t.About(data.Person), []string{data.Person.Platform}, "no answer to a hello fits",
		&hall.Decision{Kind: replied, Output: "hello", Person: key, Name: called, Because: []string{"said hello to the room"}})
}

// joins reports whether an answer waits that this one is said together with.
func joins(t *room.Turn, met *courtesy.Meeting, platform string) bool {
	won, _ := met.Winner(happening.Answer)
	return won != nil && won.Burst != nil && slices.ContainsFunc(t.State.Queue.Lines, func(l pace.Line) bool {
		return l.Platform == platform && l.Courtesy == won.ID && l.Burst != ""
	})
}

// last is when somebody was last answered or greeted in this period, on any of
// their accounts, and which of both it was.
func (m *Memory) last(t *room.Turn, key string) (last time.Time, how string) {
	gs := t.State.Guests()
	for _, k := range t.Known.AccountsWith(key) {
		if at := m.Hellos[k]; at.After(last) {
			last, how = at, "answered"
		}
		if g := gs[k]; g != nil && g.Welcomed && g.Arrived.After(last) {
			last, how = g.Arrived, "greeted"
		}
	}
	return last, how
}

// says reports whether one of the phrases stands in a line as whole words, which may be stretched.
func (w *words) says(line []string) bool {
	for _, p := range w.phrases {
		for i := 0; i+len(p) <= len(line); i++ {
			found := true
			for k := 0; found && k < len(p); k++ {
				found = spoken.Stretched(line[i+k], p[k])
			}
			if found {
				return true
			}
		}
	}
	return false
}

// toSomebody reports whether a line names somebody who is here, by an at-sign or by
// login or name alone. The streamer and the house are the room.
func toSomebody(t *room.Turn, data *happening.ChatSaid, line []string) bool {
	everybody := func(login string) bool {
		login = strings.ToLower(login)
		return login == strings.ToLower(t.Plan.Channel) || t.Plan.IsAccount(login)
	}
	for _, f := range strings.Fields(data.Text) {
		if at, ok := strings.CutPrefix(f, "@"); ok && !everybody(strings.TrimRight(at, ",.!?:;")) {
			return true
		}
	}
	said := map[string]bool{}
	for _, w := range line {
		said[w] = true
	}
	for key, g := range t.State.Guests() {
		if key != data.Person.Key() && !everybody(g.Login) && (said[plain.Fold(g.Login)] || said[plain.Fold(g.Name)]) {
			return true
		}
	}
	return false
}
