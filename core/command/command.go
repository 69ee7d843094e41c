// Package command is the room that answers what people ask for in chat: by the name of a
// command at the beginning of a line, or by words anywhere in it. Who asked and who is meant
// are different people.
package command

import (
	"slices"
	"strings"
	"time"

	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/housefile"
	"vividporch/core/people"
	"vividporch/core/plain"
	"vividporch/core/room"
	"vividporch/core/spoken"
	"vividporch/core/who"
	"vividporch/core/wording"
)

// Room answers commands.
var Room = room.Of(room.Spec[section, Memory]{Name: name, Version: 1,
	Ready: func(f *housefile.Settings, fault func(courtesy.Fault)) section {
		texts := f.Unclear
		if len(texts) == 0 {
			texts = []string{unclearWords}
		}
		return section{room.Words("unclear", texts, unclearFillIns, fault)}
	},
	Hears: []string{happening.ChatSaidType},
	Decide: func(t *room.Turn, s *section, m *Memory) {
		if !t.IsLate && !t.Done {
			t.Done = s.asked(t, m, t.Event.Data.(*happening.ChatSaid))
		}
	},
	Resume: func(t *room.Turn, s *section, m *Memory, q *hall.Question, a *event.LookupAnswered) {
		s.answeredWhom(t, m, q, a)
	},
	Sees:   []string{event.CounterSetType},
	Evolve: func(m *Memory, l room.Lived) { m.evolve(l) },
	Forget: func(m *Memory, gone *hall.Gone) { m.forget(gone) },
	Asks: func(p *room.Plan, _ *section, ev *event.Event) bool {
		said, ok := ev.Data.(*happening.ChatSaid)
		return ok && Begins(p, said)
	},
	Means: func(p *room.Plan, _ *section, ev *event.Event) string {
		said, ok := ev.Data.(*happening.ChatSaid)
		if !ok {
			return ""
		}
		h := p.Hears(said.Text, said.Person.Platform)
		if !h.Any() || !p.Set.TellsOfThem(h) {
			return ""
		}
		return whoIn(p, h).name
	}})

const name = "command"

// section is what the house asks back when it is not clear who is meant.
type section struct{ unclear []*wording.Wording }

// Begins reports whether a line asks for something.
func Begins(p *room.Plan, said *happening.ChatSaid) bool {
	return p.Hears(said.Text, said.Person.Platform).Any()
}

// asked answers a line that asks for something, and reports whether it does.
func (s *section) asked(t *room.Turn, m *Memory, data *happening.ChatSaid) bool {
	if !t.Plan.Set.Has(happening.Command) {
		return false
	}
	h := t.Plan.Hears(data.Text, data.Person.Platform)
	if !h.Any() {
		return false
	}
	key := data.Person.Key()
	if g := t.State.Guests()[key]; t.Known == nil && g != nil {
		t.Known = g.Known
	}
	if why := t.Never(data.Person); why != "" && !t.IsStreamer(data.Person) {
		t.Decide(hall.Decision{Kind: hall.Refuse, Output: string(happening.Answer), Person: key, Name: t.SayName(data.Person), Because: []string{why}})
		return true
	}
	called := called{}
	if t.Plan.Set.TellsOfThem(h) {
		called = whoIn(t.Plan, h)
	}
	met := t.Plan.Set.Meet(cause(t, data, h))
	if called.name != "" {
		found := meansWhom(t, called)
		switch {
		case len(found) == 1:
			m.answer(t, data, h, &found[0])
			return true
		case concernsSomebody(t, met):
			s.unsure(t, m, data, met, called, found)
			return true
		case called.marked: // a name all the same, as it was written
			m.answer(t, data, h, &people.Named{Person: event.Person{Name: called.name}})
			return true
		}
	}
	m.answer(t, data, h, nil)
	return true
}

// cause is what was asked, as courtesies are matched against it.
func cause(t *room.Turn, data *happening.ChatSaid, h spoken.Heard) who.Cause {
	c := t.Cause(data.Person)
	c.When, c.Heard, c.Fields = happening.Command, h, nil
	return c
}

// answer does what a command asks for, to whom it means: without a name, to whoever asked.
// What was answered too lately rests.
func (m *Memory) answer(t *room.Turn, data *happening.ChatSaid, h spoken.Heard, meant *people.Named) {
	met := t.Plan.Set.Meet(cause(t, data, h))
	args, platform := t.About(data.Person), []string{data.Person.Platform}
	args.Maybe("asker", args["name"])
	said(args, h.Rest)
	t.Askable(args)
	for _, r := range met.All() {
		if why := m.rests(t, r, data.Person.Key()); why != "" {
			met.Hold(r, why)
		}
	}
	won, _ := met.Winner(happening.Answer)
	if args["times"] = wording.Num(1); won != nil {
		args["times"] = wording.Num(m.Times(won.ID) + 1)
	}
	if meant != nil {
		args.Maybe("meant", wording.Value{Text: meant.Said()})
		about := wording.Args{}
		if meant.Person.ID != "" {
			t.Meant, t.Asker = meant, data.Person.Key()
			about = t.AboutMeant(args)
		}
		for _, f := range happening.AboutThem() { // of whoever is meant; the name stays that of who asked
			if f == "name" {
				continue
			}
			delete(args, f)
			if v, known := about[f]; known {
				args[f] = v
			}
		}
	}
	name := t.SayName(data.Person)
	t.Answer(met, name, args, platform, "no answer to this command fits", nil)
	t.Meant, t.Asker = nil, ""
	for _, r := range met.All() {
		if ok, _ := r.Fits(met.Cause); ok && met.Held(r) == "" && (r == won || r.Also || r.Slot == happening.Free) {
			m.count(t, r, data.Person.Key(), name)
		}
	}
	if won != nil && met.Held(won) != "" {
		m.restingWords(t, won, data.Person, args)
	}
}

// said fills in the words that stood behind a command.
func said(args wording.Args, rest string) {
	rest = plain.Text(rest)
	args.Maybe("rest", wording.Str(rest))
	for _, f := range happening.AskedWords {
		word, more, _ := strings.Cut(rest, " ")
		args.Maybe(f, wording.Str(word))
		if f == happening.AskedWords[0] {
			args.Maybe("after", wording.Str(strings.TrimSpace(more)))
		}
		rest = strings.TrimSpace(more)
	}
}

// Memory is how often each command was asked for, and which rest until when.
type Memory struct {
	Of map[string]*Count `json:"of,omitempty"` // by courtesy
}

// Count is how often a command was asked for.
type Count struct {
	Times   int64                `json:"times,omitempty"`   // ever, or as it was set by hand
	Tonight int                  `json:"tonight,omitempty"` // in this stream
	When    []time.Time          `json:"when,omitempty"`    // the last of these, at most mostWhen
	Last    time.Time            `json:"last,omitzero"`
	Rests   map[string]time.Time `json:"rests,omitempty"` // whoever asked, by account → until when it is not done for them again
	Told    map[string]time.Time `json:"told,omitempty"`  // who was told that it rests → until when they are not told again
}

// Counts are how often commands were asked for, by courtesy.
func Counts(m room.Memory) map[string]*Count { return room.Remembered[Memory](m, name).Of }

// The kinds of this room's own decisions.
const (
	Asked hall.Kind = "asked"  // a command was asked for, and done; At is until when it rests for whoever asked
	told  hall.Kind = "rested" // somebody was told that it rests; At is until when they are not told again
)

// Times is how often a command was asked for.
func (m *Memory) Times(id string) int64 {
	if n := m.Of[id]; n != nil {
		return n.Times
	}
	return 0
}

// rests says why a command is not done now: it was, too lately; or "".
func (m *Memory) rests(t *room.Turn, r *courtesy.Ready, key string) string {
	n := m.Of[r.ID]
	if r.Asked == nil || n == nil {
		return ""
	}
	for _, k := range t.Known.AccountsWith(key) {
		if n.Rests[k].After(t.Now) {
			return "they asked less than " + room.Seconds(r.Asked.Person).String() + " ago"
		}
	}
	if rest := room.Seconds(r.Asked.Rest); rest > 0 && t.Now.Sub(n.Last) < rest {
		return "was answered less than " + rest.String() + " ago"
	}
	return ""
}

// count counts a command that is done for somebody.
func (m *Memory) count(t *room.Turn, r *courtesy.Ready, key, name string) {
	x := hall.Decision{Kind: Asked, Courtesy: r.ID, Output: "asked", Person: key, Name: name, Because: []string{"asked for it in chat"}}
	if r.Asked != nil && r.Asked.Person > 0 {
		x.At = t.Now.Add(room.Seconds(r.Asked.Person))
	}
	t.Decide(x)
}

// restingWords tells somebody who asked too soon that a command rests, once.
func (m *Memory) restingWords(t *room.Turn, r *courtesy.Ready, person event.Person, args wording.Args) {
	n := m.Of[r.ID]
	key := person.Key()
	if len(r.Resting) == 0 || slices.ContainsFunc(t.Known.AccountsWith(key), func(k string) bool { return n.Told[k].After(t.Now) }) {
		return
	}
	until := n.Last.Add(room.Seconds(r.Asked.Rest))
	for _, k := range t.Known.AccountsWith(key) {
		if n.Rests[k].After(until) {
			until = n.Rests[k]
		}
	}
	t.Decide(hall.Decision{Kind: told, Courtesy: r.ID, Output: "rests", Person: key, Name: args["name"].Text, At: until, Because: []string{"asked while it rests"}})
	t.Aside(r.ID, "rests", r.Resting, args, person)
}

// mostResting bounds how many people a command rests for at once; the one it rests for the
// shortest gives way.
const mostResting = 1000

// mostWhen is of how many times it is remembered when they were.
const mostWhen = 60

func (m *Memory) evolve(l room.Lived) {
	if l.Opened != nil {
		for _, n := range m.Of {
			n.Tonight, n.When = 0, nil
		}
	}
	if set, ok := l.Event.Data.(*event.CounterSet); ok {
		m.of(set.Courtesy).Times = set.Times
	}
	for i := range l.Decisions {
		x := &l.Decisions[i]
		if x.Room != l.Room || x.Kind != Asked && x.Kind != told {
			continue
		}
		n := m.of(x.Courtesy)
		if x.Kind == told {
			n.Told = until(n.Told, x.Person, x.At, l.Now)
			continue
		}
		n.Times++
		n.Tonight++
		n.Last = l.Now
		n.When = append(n.When[max(0, len(n.When)-mostWhen+1):], l.Now)
		if !x.At.IsZero() {
			n.Rests = until(n.Rests, x.Person, x.At, l.Now)
		}
	}
}

func (m *Memory) of(courtesy string) *Count {
	if m.Of == nil {
		m.Of = map[string]*Count{}
	}
	if m.Of[courtesy] == nil {
		m.Of[courtesy] = &Count{}
	}
	return m.Of[courtesy]
}

// until keeps until when something holds for somebody, and lets go of what is over.
func until(list map[string]time.Time, key string, at, now time.Time) map[string]time.Time {
	if list == nil {
		list = map[string]time.Time{}
	}
	list[key] = at
	if len(list) <= mostResting {
		return list
	}
	soonest := ""
	for k, v := range list {
		if !v.After(now) {
			delete(list, k)
		} else if soonest == "" || v.Before(list[soonest]) || v.Equal(list[soonest]) && k < soonest {
			soonest = k
		}
	}
	if len(list) > mostResting {
		delete(list, soonest)
	}
	return list
}

func (m *Memory) forget(gone *hall.Gone) {
	for _, n := range m.Of {
		for _, k := range gone.Keys {
			delete(n.Rests, k)
			delete(n.Told, k)
		}
	}
}
