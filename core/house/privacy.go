package house

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"vividporch/core/attendance"
	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/core/pace"
	"vividporch/core/people"
	"vividporch/core/plain"
	"vividporch/core/wording"
)

const (
	confirmWithin = time.Minute     // to say the second word
	answerEvery   = 5 * time.Minute // least time between two answers to one person
)

// LinkMark stands in a private message where the one-time link goes. It is a
// private-use character, which nobody's name or text can bring in.
const LinkMark = "\ue000"

// privacyWords are the privacy settings made ready.
type privacyWords struct {
	housefile.Privacy
	link, open, sure, gone []*wording.Wording
	longest                int // bytes of the longest word viewers can say
}

var privacyFillIns = map[string][]wording.FillIn{
	"link": {{Name: "name", Kind: wording.Text, Tells: "who asked", Example: "limpet_lena"}, {Name: "link", Kind: wording.Text, Tells: "the one-time link", Example: "https://…"}},
	"open": {{Name: "name", Kind: wording.Text, Tells: "who asked", Example: "limpet_lena"}, {Name: "channel", Kind: wording.Text, Tells: "this channel", Example: "tidepool_hours"}},
	"sure": {{Name: "name", Kind: wording.Text, Tells: "who asked", Example: "limpet_lena"}, {Name: "word", Kind: wording.Text, Tells: "the second word", Example: "yes forget me"}},
	"gone": {},
}

func (w *privacyWords) load(p housefile.Privacy) []courtesy.Fault {
	w.Privacy = p
	for _, list := range [][]string{p.Ask, p.Forget, p.Confirm, p.Remember} {
		for _, word := range list {
			w.longest = max(w.longest, len(word))
		}
	}
	var faults []courtesy.Fault
	for name, src := range map[string]struct {
		texts []string
		into  *[]*wording.Wording
	}{"link": {p.Link, &w.link}, "open": {p.Open, &w.open}, "sure": {p.Sure, &w.sure}, "gone": {p.Gone, &w.gone}} {
		for i, text := range src.texts {
			parsed, problems := courtesy.CheckWording(text, privacyFillIns[name])
			for _, pr := range problems {
				faults = append(faults, courtesy.Fault{At: fmt.Sprintf("privacy.%s.%d", name, i), Problem: &pr, What: pr.What, Remedy: pr.Remedy})
			}
			*src.into = append(*src.into, parsed)
		}
	}
	if p.KeepDays < 0 || p.KeepDays > 36_500 {
		faults = append(faults, courtesy.Fault{At: "privacy.keepDays", What: "is out of range", Remedy: "use 0 for ever, or 1 to 36500 days"})
	}
	if len(p.Forget) > 0 && len(p.Confirm) == 0 {
		faults = append(faults, courtesy.Fault{At: "privacy.confirm", What: "has no word", Remedy: "name the second word that confirms it"})
	}
	return faults
}

// is reports whether a line says one of these words and nothing else.
func is(text string, words []string) bool {
	text = strings.ToLower(strings.Join(strings.Fields(text), " "))
	return text != "" && slices.ContainsFunc(words, func(w string) bool { return strings.ToLower(w) == text })
}

// AsksToBeRemembered reports whether a line is the word by which somebody who was
// forgotten wants to be recorded again.
func (p *Plan) AsksToBeRemembered(text string) bool { return is(text, p.words.Remember) }

// Private reports whether an event is a line by which somebody asks what is kept of
// them, or to be forgotten: then who they are is asked of the book anew.
func (p *Plan) Private(ev *event.Event) bool {
	said, ok := ev.Data.(*happening.ChatSaid)
	if !ok || len(said.Text) > 4*p.words.longest+40 {
		return false
	}
	return is(said.Text, p.words.Ask) || is(said.Text, p.words.Forget) || is(said.Text, p.words.Confirm)
}

// privacyAsked answers what people ask about what is kept. It reports whether the
// event is dealt with, so that nothing else is said to its person.
func privacyAsked(d *decider, data *happening.ChatSaid) bool {
	w := &d.p.words
	if t := strings.TrimSpace(data.Text); len(t) > w.longest && !strings.Contains(t, "  ") {
		return false // too long to be one of them: most of chat
	}
	key := data.Person.Key()
	until := d.s.Forgets[key]
	switch {
	case is(data.Text, w.Ask):
		if d.now.Sub(d.s.Answered[key]) < answerEvery {
			d.decide(Decision{Kind: Refuse, Output: "kept", Person: key, Because: []string{"was told less than five minutes ago"}})
			return false
		}
		args := d.about(data.Person)
		show := Decision{Kind: Show, Output: "kept", Line: d.lineID("privacy", "kept"), Platform: data.Person.Platform, Person: key, Name: args["name"].Text,
			Because: []string{"asked what is kept about them"}}
		if door := d.p.DoorFor(data.Person.Platform); door != nil && door.Profile.Private && len(w.link) > 0 && !data.Person.Nick {
			args["link"] = wording.Value{Text: LinkMark}
			i, _ := wording.Choose(w.link, nil, args, nil, d.seed("privacy", "kept"))
			show.Text = w.link[i].Render(args)
			show.About = &data.Person
		} else {
			why := "there are no private messages there: nothing private is said in open chat"
			if data.Person.Nick {
				why = "the network does not vouch for whose nick this is: nothing private is told"
			}
			show.Because = append(show.Because, why)
			d.aside("open", w.open, args, data.Person)
		}
		d.decide(show)
	case is(data.Text, w.Forget) && data.Person.Nick: // anybody may carry this nick: a member looks who it is
		name := d.sayName(data.Person)
		why := "asked to be forgotten; the network does not vouch that it is them, so it waits for your yes"
		d.decide(Decision{Kind: Wait, Output: "forget", Person: key, Name: name, Because: []string{why}, Item: &Item{
			ID: "forget/" + key, Kind: "forget", Person: &data.Person, Name: name, Why: why, Count: 1, Since: d.now}})
		d.aside("open", w.open, d.about(data.Person), data.Person)
	case is(data.Text, w.Forget):
		args := d.about(data.Person)
		if len(w.Confirm) > 0 {
			args["word"] = wording.Str(w.Confirm[0])
		}
		d.decide(Decision{Kind: Confirm, Output: "forget", Person: key, At: d.now.Add(confirmWithin), Because: []string{"asked to be forgotten; the second word confirms it"}})
		d.aside("sure", w.sure, args, data.Person)
	case is(data.Text, w.Confirm) && !until.IsZero() && !data.Person.Nick:
		if d.now.After(until) {
			d.decide(Decision{Kind: Refuse, Output: "forget", Person: key, Because: []string{"the second word came after more than a minute"}})
			return false
		}
		d.decide(Decision{Kind: Forget, Output: "forget", Person: key, Names: everyName(d, data.Person), Known: &people.Known{Accounts: everyAccount(d, key)}, Because: []string{"asked to be forgotten, and confirmed it"}})
		d.aside("gone", w.gone, d.args(), event.Person{Platform: data.Person.Platform})
		return true
	}
	return false
}

// everyName is all that somebody is and was called, as far as it is known.
func everyName(d *decider, p event.Person) []string {
	out := []string{plain.Name(p.Shown()), p.Login}
	if d.known != nil {
		out = append(out, d.known.Names...)
	}
	return out
}

func everyAccount(d *decider, key string) []string {
	if d.known != nil && len(d.known.Accounts) > 0 {
		return d.known.Accounts
	}
	if g := d.s.guests()[key]; g != nil && g.Known != nil {
		return g.Known.Accounts
	}
	return []string{key}
}

// aside says one line to somebody who asked, ahead of what the house says by itself.
func (d *decider) aside(output string, words []*wording.Wording, args wording.Args, person event.Person) {
	if len(words) == 0 || !slices.Contains(d.p.chat, person.Platform) {
		return
	}
	args["platform"] = wording.Str(plain.Titled(person.Platform))
	i, mark := wording.Choose(words, nil, args, d.s.Used["privacy/"+output], d.seed("privacy", output))
	w := words[i]
	l := pace.Line{ID: d.lineID("privacy", output), Platform: person.Platform, Courtesy: "privacy", Output: output, Event: d.ev.Seq, EventID: d.ev.ID,
		Person: personKey(person), Text: d.fillIn(w, args, person.Platform), Alt: mark, Made: d.now, Due: d.now,
		Expires: d.now.Add(confirmWithin), Priority: pace.Answer, Hushed: d.s.Hush, Because: []string{"was asked in chat"}}
	if l.Person != "" {
		l.Name = args["name"].Text
	}
	d.comesUp(Decision{Kind: Planned, Courtesy: l.Courtesy, Output: output, Line: l.ID, Platform: l.Platform, Text: l.Text, Event: l.Event, EventID: l.EventID,
		Person: l.Person, Name: l.Name, Alt: l.Alt, Of: len(words), Plan: &l, Because: l.Because})
}

// forget takes somebody's accounts out of the state, and their names out of what
// waits for others.
func (s *State) forget(keys, names []string) {
	mine := func(key string) bool { return slices.Contains(keys, key) }
	names = slices.Clone(names)
	for _, n := range names {
		names = append(names, plain.Name(n)) // as the house says it
	}
	for _, k := range keys {
		for _, gs := range []map[string]*Guest{s.Tonight, s.Between} {
			if g := gs[k]; g != nil {
				names = append(names, g.Name, g.Login)
			}
		}
	}
	slices.SortStableFunc(names, func(a, b string) int { return len(b) - len(a) }) // "lena" stands in "limpet_lena"
	for _, k := range keys {
		for _, gs := range []map[string]*Guest{s.Tonight, s.Between} {
			if g := gs[k]; g != nil {
				s.unname(g.Name)
				s.unshow(k, g)
			}
		}
		delete(s.Tonight, k)
		delete(s.Between, k)
		delete(s.Forgets, k)
		delete(s.Answered, k)
		delete(s.Hellos, k)
		delete(s.Shouted, k)
		delete(s.Queue.Spoken, k)
		delete(s.Entered, k)
	}
	for i := range s.Raids {
		if mine(s.Raids[i].Person.Key()) {
			s.Raids[i].Person = event.Person{Platform: s.Raids[i].Person.Platform, ID: "~"}
		}
	}
	for kind, list := range s.Latest {
		if list = slices.DeleteFunc(slices.Clone(list), func(r Recent) bool { return mine(r.Account) }); len(list) > 0 {
			s.Latest[kind] = list
		} else {
			delete(s.Latest, kind)
		}
	}
	s.Cards = slices.DeleteFunc(slices.Clone(s.Cards), func(c Shown) bool { return mine(c.Told.Person) || slices.ContainsFunc(c.About, mine) })
	s.Acts = slices.DeleteFunc(slices.Clone(s.Acts), func(a event.ActOutcome) bool { return slices.ContainsFunc(a.About, mine) })
	s.Queue.Lines = slices.DeleteFunc(s.Queue.Lines, func(l pace.Line) bool { return mine(l.Person) })
	s.Questions = slices.DeleteFunc(slices.Clone(s.Questions), func(q Question) bool {
		_, rest := commandIn(q.Said.Text)
		name, _ := nameIn(rest)
		return mine(q.Said.Person.Key()) || slices.ContainsFunc(append(q.Near, name), func(n string) bool {
			return slices.ContainsFunc(names, func(m string) bool { return plain.Same(n, m) })
		})
	})
	s.Waiting = slices.DeleteFunc(s.Waiting, func(i Item) bool {
		return i.Person != nil && mine(i.Person.Key()) || slices.ContainsFunc(i.About, mine)
	})
	all := names
	for i := range s.Queue.Lines {
		l := &s.Queue.Lines[i]
		names := sparing(all, l.Name)
		l.Text = plain.Without(l.Text, names)
		for k, v := range l.Args {
			if v.Text != "" {
				v.Text = plain.Without(v.Text, names)
				l.Args[k] = v
			}
		}
		var t output.Told
		if l.Effect != "" && l.Effect != string(Relay) && json.Unmarshal(l.Body, &t) == nil {
			for _, text := range t.Texts() {
				*text = plain.Without(*text, names)
			}
			l.Body = t.JSON()
		} else if l.Effect == string(Relay) {
			l.Body = json.RawMessage(plain.Without(string(l.Body), names))
		}
	}
	for i := range s.Cards {
		names := sparing(all, s.Cards[i].Name)
		for _, text := range s.Cards[i].Told.Texts() {
			*text = plain.Without(*text, names)
		}
	}
	for i := range s.Waiting {
		it := &s.Waiting[i]
		it.Text, it.Why = plain.Without(it.Text, all), plain.Without(it.Why, all)
	}
	for i := range s.Evening.Arrivals {
		if a := &s.Evening.Arrivals[i]; mine(a.Account) {
			a.Name, a.Account = "somebody", ""
		}
	}
}

// sparing leaves a name alone: somebody else is called so.
func sparing(names []string, name string) []string {
	return slices.DeleteFunc(slices.Clone(names), func(n string) bool { return strings.EqualFold(n, name) })
}

// unshow takes out the cards that name somebody among several, and what platforms
// did about them.
func (s *State) unshow(key string, g *Guest) {
	platform, _, _ := strings.Cut(key, ":")
	s.Cards = slices.DeleteFunc(slices.Clone(s.Cards), func(c Shown) bool { return slices.Contains(c.Told.Names, g.Name) })
	s.Acts = slices.DeleteFunc(slices.Clone(s.Acts), func(a event.ActOutcome) bool { return a.To == platform && a.Login != "" && a.Login == g.Login })
}

// unname takes a name out of what waits about several people.
func (s *State) unname(name string) {
	for i := range s.Waiting {
		it := &s.Waiting[i]
		if it.Kind != "regular" {
			continue
		}
		names := strings.Split(it.Name, ", ")
		it.Name = strings.Join(slices.DeleteFunc(names, func(n string) bool { return n == name }), ", ")
	}
	s.Waiting = slices.DeleteFunc(s.Waiting, func(it Item) bool { return it.Kind == "regular" && it.Name == "" })
}

// remembered takes in streams of the past that an import brought. A house that had
// never streamed goes on counting after them.
func (s *State) remembered(past []event.PastStream) {
	for _, p := range past {
		if p.Number == s.Stream.Number && s.Stream.Live() {
			continue
		}
		s.Past = attendance.Add(s.Past, attendance.Past(p))
	}
	if n := len(s.Past); n > 0 && s.Past[n-1].Number > s.Stream.Number {
		last := s.Past[n-1]
		s.Stream = attendance.Stream{Number: last.Number, Opened: last.Opened, Gone: last.Closed, Ended: true}
	}
}

// cameWith finds the raid of this stream that a newcomer came with, or nil. Whoever
// leads a raid did not come with it.
func (s *State) cameWith(key string, standing people.Standing, first time.Time) *Raid {
	if standing != people.Newcomer {
		return nil
	}
	var at []time.Time
	var of []*Raid
	for i := range s.Raids {
		if r := &s.Raids[i]; r.Person.Key() != key {
			at, of = append(at, r.At), append(of, r)
		}
	}
	if i, ok := attendance.CameWith(first, at); ok {
		return of[i]
	}
	return nil
}
