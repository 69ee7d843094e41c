package house

import (
	"fmt"
	"strings"
	"time"
	"unicode"

	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/housefile"
	"vividporch/core/people"
	"vividporch/core/plain"
	"vividporch/core/wording"
)

// helloWords are the words split into their words, as they are compared.
type helloWords struct {
	phrases      [][]string
	rest, person time.Duration
}

func (w *helloWords) load(h housefile.Hello) []courtesy.Fault {
	var faults []courtesy.Fault
	for i, s := range h.Words {
		words := spoken(s)
		if len(words) == 0 {
			faults = append(faults, courtesy.Fault{At: fmt.Sprintf("hello.words.%d", i), What: "holds no word", Remedy: "write a word, or take it out"})
			continue
		}
		w.phrases = append(w.phrases, words)
	}
	if h.RestSeconds < 0 || h.RestSeconds > 86_400 || h.PersonSeconds < 0 || h.PersonSeconds > 86_400 {
		faults = append(faults, courtesy.Fault{At: "hello.restSeconds", What: "is out of range", Remedy: "use 0 to 86400 seconds"})
	}
	w.rest, w.person = secs(h.RestSeconds), secs(h.PersonSeconds)
	return faults
}

// spoken splits a line into its words, without accents; nearly every line has none,
// and is looked through as it stands.
func spoken(s string) []string {
	for i := range len(s) {
		if s[i] >= 0x80 {
			s = plain.Fold(s)
			break
		}
	}
	return strings.FieldsFunc(s, func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) && r != '_' && r != '\'' })
}

// says reports whether one of the phrases stands in a line as whole words.
func (w *helloWords) says(words []string) bool {
	for _, p := range w.phrases {
		for i := 0; i+len(p) <= len(words); i++ {
			found := true
			for k := 0; found && k < len(p); k++ {
				found = strings.EqualFold(words[i+k], p[k])
			}
			if found {
				return true
			}
		}
	}
	return false
}

// sayHello answers a hello said to the room by somebody who is here already. A hello
// to somebody else, or one too soon after the last, is no business of the house.
func sayHello(d *decider, data *happening.ChatSaid) {
	if !d.p.Set.Has(happening.Hello) {
		return
	}
	words := spoken(data.Text)
	if !d.p.hello.says(words) || data.ReplyTo != "" || toSomebody(d, data, words) {
		return
	}
	key := data.Person.Key()
	g := d.s.guests()[key]
	if d.known == nil && g != nil {
		d.known = g.Known // as they arrived: the book has not got them yet
	}
	name := d.sayName(data.Person)
	no := func(why string) {
		d.decide(Decision{Kind: Refuse, Output: string(happening.Answer), Person: key, Name: name, Because: []string{why}})
	}
	if why := d.p.never.Reason(data.Person, d.known); why != "" {
		no(why)
		return
	}
	last, how := d.s.lastHello(key, d.known)
	switch {
	case !last.IsZero() && d.now.Sub(last) < d.p.hello.person:
		no("said hello, and was " + how + " less than " + d.p.hello.person.String() + " ago")
		return
	case !d.s.HelloAt.IsZero() && d.now.Sub(d.s.HelloAt) < d.p.hello.rest:
		no("said hello, and another was answered less than " + d.p.hello.rest.String() + " ago")
		return
	}
	c := d.cause(data.Person)
	c.When = happening.Hello
	d.answer(d.p.Set.Meet(c), name, d.about(data.Person), []string{data.Person.Platform}, "no answer to a hello fits",
		&Decision{Kind: Replied, Output: "hello", Person: key, Name: name, Because: []string{"said hello to the room"}})
}

// lastHello is when somebody was last answered or greeted in this period, on any of
// their accounts, and which of both it was.
func (s *State) lastHello(key string, known *people.Known) (last time.Time, how string) {
	gs := s.guests()
	for _, k := range accountsOf(key, known) {
		if at := s.Hellos[k]; at.After(last) {
			last, how = at, "answered"
		}
		if g := gs[k]; g != nil && g.Welcomed && g.Arrived.After(last) {
			last, how = g.Arrived, "greeted"
		}
	}
	return last, how
}

// command answers a line that begins with a word some courtesy is asked by, and
// reports whether it does. Who asked and who is meant are different people.
func command(d *decider, data *happening.ChatSaid) bool {
	if !d.p.Set.Has(happening.Command) {
		return false
	}
	word, rest := commandIn(data.Text)
	if !d.p.Set.Asked(word) {
		return false
	}
	key := data.Person.Key()
	if g := d.s.guests()[key]; d.known == nil && g != nil {
		d.known = g.Known
	}
	if why := d.p.never.Reason(data.Person, d.known); why != "" && !d.isStreamer(data.Person) {
		d.decide(Decision{Kind: Refuse, Output: string(happening.Answer), Person: key, Name: d.sayName(data.Person), Because: []string{why}})
		return true
	}
	c := d.cause(data.Person)
	c.When, c.Fields = happening.Command, map[string]string{"command": word}
	m := d.p.Set.Meet(c)
	if name, at := nameIn(rest); name != "" {
		found, near := meansWhom(d, name, data.Person.Platform)
		switch {
		case len(found) == 1:
			commanded(d, data, word, rest, &found[0])
			return true
		case concernsSomebody(d, m):
			unsure(d, data, name, len(found), near)
			return true
		case at: // a name all the same, as it was written
			commanded(d, data, word, rest, &people.Named{Person: event.Person{Name: name}})
			return true
		}
	}
	commanded(d, data, word, rest, nil)
	return true
}

// commanded does what a command asks for, to whom it means: without a name, to
// whoever asked.
func commanded(d *decider, data *happening.ChatSaid, word, rest string, meant *people.Named) {
	c := d.cause(data.Person)
	c.When, c.Fields = happening.Command, map[string]string{"command": word}
	m := d.p.Set.Meet(c)
	args, platform := d.about(data.Person), []string{data.Person.Platform}
	args.Maybe("asker", args["name"])
	args.Maybe("rest", wording.Str(plain.Text(rest)))
	if meant != nil {
		args.Maybe("meant", wording.Value{Text: meant.Said()})
		about := wording.Args{}
		if meant.Person.ID != "" {
			d.meant = meant
			about = d.aboutMeant(args)
		}
		for _, f := range []string{"link", "category"} { // of whoever is meant
			delete(args, f)
			args.Maybe(f, about[f])
		}
	}
	d.answer(m, d.sayName(data.Person), args, platform, "no answer to this command fits", nil)
	d.meant = nil
}

// answer runs whichever courtesy answers a cause, and those beside it. before, if
// any, is decided ahead of an answer.
func (d *decider) answer(m *courtesy.Meeting, name string, args wording.Args, platforms []string, none string, before *Decision) {
	c := m.Cause
	won, ladder := m.Winner(happening.Answer)
	switch {
	case won == nil:
		d.refuse(happening.Answer, nil, c.Person.Key(), name, ladder, none)
	case len(won.Outputs) == 0:
		d.refuse(happening.Answer, won, c.Person.Key(), name, ladder, "these are passed over in silence")
	default:
		if before != nil {
			d.decide(*before)
		}
		d.fill(c, won, ladder, args, platforms)
	}
	d.beside(m, happening.Answer, args, platforms)
	d.free(m, args, platforms)
}

// toSomebody reports whether a line names somebody who is here, by an at-sign or by
// login or name alone. The streamer and the house are the room.
func toSomebody(d *decider, data *happening.ChatSaid, words []string) bool {
	room := func(login string) bool {
		login = strings.ToLower(login)
		return login == strings.ToLower(d.p.Channel) || d.p.IsAccount(login)
	}
	for _, f := range strings.Fields(data.Text) {
		if at, ok := strings.CutPrefix(f, "@"); ok && !room(strings.TrimRight(at, ",.!?:;")) {
			return true
		}
	}
	said := map[string]bool{}
	for _, w := range words {
		said[strings.ToLower(w)] = true
	}
	for key, g := range d.s.guests() {
		if key != data.Person.Key() && !room(g.Login) && (said[plain.Fold(g.Login)] || said[plain.Fold(g.Name)]) {
			return true
		}
	}
	return false
}

// isStreamer reports whether somebody is the streamer, by their role, as the owner who
// linked this account, or by the account that lines go out under.
func (d *decider) isStreamer(who event.Person) bool {
	door := d.p.StreamerDoor(who.Platform)
	return who.Is(event.Streamer) || d.known.MemberBy(who) == event.Streamer || door != nil && strings.EqualFold(door.Account, who.Login)
}
