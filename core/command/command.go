// Package command is the room that answers lines which begin with a word some courtesy is
// asked by. Who asked and who is meant are different people.
package command

import (
	"strings"

	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/housefile"
	"vividporch/core/people"
	"vividporch/core/plain"
	"vividporch/core/room"
	"vividporch/core/wording"
)

// Room answers commands.
var Room = room.Of(room.Spec[section, struct{}]{Name: name,
	Ready: func(f *housefile.Settings, fault func(courtesy.Fault)) section {
		texts := f.Unclear
		if len(texts) == 0 {
			texts = []string{unclearWords}
		}
		return section{room.Words("unclear", texts, unclearFillIns, fault)}
	},
	Hears: []string{happening.ChatSaidType},
	Decide: func(t *room.Turn, s *section, _ *struct{}) {
		if !t.IsLate && !t.Done {
			t.Done = s.command(t, t.Event.Data.(*happening.ChatSaid))
		}
	},
	Resume: func(t *room.Turn, s *section, _ *struct{}, q *hall.Question, a *event.LookupAnswered) {
		s.answeredWhom(t, q, a)
	},
	Asks: func(p *room.Plan, _ *section, ev *event.Event) bool {
		said, ok := ev.Data.(*happening.ChatSaid)
		return ok && Begins(p, said.Text)
	},
	Means: func(p *room.Plan, _ *section, ev *event.Event) string {
		said, ok := ev.Data.(*happening.ChatSaid)
		if !ok || !Begins(p, said.Text) {
			return ""
		}
		_, rest := parted(said.Text)
		name, _ := nameIn(rest)
		return name
	}})

const name = "command"

// section is what the house asks back when it is not clear who is meant.
type section struct{ unclear []*wording.Wording }

// Begins reports whether a line begins with a word that some courtesy is asked by.
func Begins(p *room.Plan, text string) bool {
	word, _ := parted(text)
	return p.Set.Asked(word)
}

// command answers a line that begins with a word some courtesy is asked by, and
// reports whether it does. Who asked and who is meant are different people.
func (s *section) command(t *room.Turn, data *happening.ChatSaid) bool {
	if !t.Plan.Set.Has(happening.Command) {
		return false
	}
	word, rest := parted(data.Text)
	if !t.Plan.Set.Asked(word) {
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
	c := t.Cause(data.Person)
	c.When, c.Fields = happening.Command, map[string]string{"command": word}
	m := t.Plan.Set.Meet(c)
	if name, at := nameIn(rest); name != "" {
		found, near := meansWhom(t, name, data.Person.Platform)
		switch {
		case len(found) == 1:
			commanded(t, data, word, rest, &found[0])
			return true
		case concernsSomebody(t, m):
			s.unsure(t, data, name, len(found), near)
			return true
		case at: // a name all the same, as it was written
			commanded(t, data, word, rest, &people.Named{Person: event.Person{Name: name}})
			return true
		}
	}
	commanded(t, data, word, rest, nil)
	return true
}

// commanded does what a command asks for, to whom it means: without a name, to
// whoever asked.
func commanded(t *room.Turn, data *happening.ChatSaid, word, rest string, meant *people.Named) {
	c := t.Cause(data.Person)
	c.When, c.Fields = happening.Command, map[string]string{"command": word}
	m := t.Plan.Set.Meet(c)
	args, platform := t.About(data.Person), []string{data.Person.Platform}
	args.Maybe("asker", args["name"])
	args.Maybe("rest", wording.Str(plain.Text(rest)))
	if meant != nil {
		args.Maybe("meant", wording.Value{Text: meant.Said()})
		about := wording.Args{}
		if meant.Person.ID != "" {
			t.Meant, t.Asker = meant, data.Person.Key()
			about = t.AboutMeant(args)
		}
		for _, f := range []string{"link", "category"} { // of whoever is meant
			delete(args, f)
			args.Maybe(f, about[f])
		}
	}
	t.Answer(m, t.SayName(data.Person), args, platform, "no answer to this command fits", nil)
	t.Meant, t.Asker = nil, ""
}

// parted parts a line into the word that may be a command and what stands behind it.
func parted(text string) (word, rest string) {
	word, rest, _ = strings.Cut(strings.TrimSpace(text), " ")
	return word, rest
}

// nameIn is the first word of what stands behind a command, and whether an at-sign
// marks it as a name.
func nameIn(rest string) (name string, at bool) {
	first, _, _ := strings.Cut(strings.TrimSpace(rest), " ")
	name, at = strings.CutPrefix(strings.TrimRight(first, ",.!?:;"), "@")
	if len(name) > 200 { // no name of anybody's
		return "", false
	}
	return name, at
}
