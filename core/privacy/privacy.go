// Package privacy is the room that answers what people ask about what is kept of them, and
// forgets whoever wants to be forgotten.
package privacy

import (
	"maps"
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
	"vividporch/core/wording"
)

// Room tells what is kept, and forgets.
var Room = room.Of(room.Spec[words, Memory]{Name: name, Version: 1,
	Ready: func(f *housefile.Settings, fault func(courtesy.Fault)) (w words) {
		w.ready(f.Privacy, fault)
		return w
	},
	Hears: []string{happening.ChatSaidType},
	Decide: func(t *room.Turn, w *words, m *Memory) {
		if !t.IsLate {
			t.Done = t.Done || w.asked(t, m, t.Event.Data.(*happening.ChatSaid))
		}
	},
	Evolve: func(m *Memory, l room.Lived) {
		for i := range l.Decisions {
			switch x := &l.Decisions[i]; x.Kind {
			case Show:
				maps.DeleteFunc(m.Answered, func(_ string, at time.Time) bool { return l.Now.Sub(at) >= answerEvery })
				m.Answered = with(m.Answered, x.Person, l.Now)
			case confirm:
				maps.DeleteFunc(m.Forgets, func(_ string, until time.Time) bool { return l.Now.After(until) })
				m.Forgets = with(m.Forgets, x.Person, x.At)
			}
		}
	},
	Forget: func(m *Memory, gone *hall.Gone) {
		for _, k := range gone.Keys {
			delete(m.Forgets, k)
			delete(m.Answered, k)
		}
	},
	Asks:  private,
	Names: private})

const name = "privacy"

// The kinds of its decisions.
const (
	Show    hall.Kind = "show"    // a private message with what is kept leaves for somebody
	confirm hall.Kind = "confirm" // somebody asked to be forgotten and is to say a second word
)

// Memory is who asked lately.
type Memory struct {
	Forgets  map[string]time.Time `json:"forgets,omitempty"`  // to be forgotten → until when they may confirm
	Answered map[string]time.Time `json:"answered,omitempty"` // was told what is kept → when
}

func with(m map[string]time.Time, key string, at time.Time) map[string]time.Time {
	if m == nil {
		m = map[string]time.Time{}
	}
	m[key] = at
	return m
}

const (
	confirmWithin = time.Minute     // to say the second word
	answerEvery   = 5 * time.Minute // least time between two answers to one person
)

// LinkMark stands in a private message where the one-time link goes. It is a
// private-use character, which nobody's name or text can bring in.
const LinkMark = "\ue000"

// words are the privacy settings made ready.
type words struct {
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

func (w *words) ready(p housefile.Privacy, fault func(courtesy.Fault)) {
	w.Privacy = p
	for _, list := range [][]string{p.Ask, p.Forget, p.Confirm, p.Remember} {
		for _, word := range list {
			w.longest = max(w.longest, len(word))
		}
	}
	load := func(at string, texts []string) []*wording.Wording {
		return room.Words("privacy."+at, texts, privacyFillIns[at], fault)
	}
	w.link, w.open, w.sure, w.gone = load("link", p.Link), load("open", p.Open), load("sure", p.Sure), load("gone", p.Gone)
	for _, kept := range []struct {
		at   string
		days int
	}{{"deliveredDays", p.DeliveredDays}, {"failedDays", p.FailedDays}} {
		if kept.days < 0 || kept.days > 36_500 {
			fault(courtesy.Fault{At: "privacy." + kept.at, What: "is out of range", Remedy: "use 1 to 36500 days, or 0 for the usual"})
		}
	}
	if p.KeepDays < 0 || p.KeepDays > 36_500 {
		fault(courtesy.Fault{At: "privacy.keepDays", What: "is out of range", Remedy: "use 0 for ever, or 1 to 36500 days"})
	}
	if len(p.Forget) > 0 && len(p.Confirm) == 0 {
		fault(courtesy.Fault{At: "privacy.confirm", What: "has no word", Remedy: "name the second word that confirms it"})
	}
}

// is reports whether a line says one of these words and nothing else.
func is(text string, words []string) bool {
	text = strings.ToLower(strings.Join(strings.Fields(text), " "))
	return text != "" && slices.ContainsFunc(words, func(w string) bool { return strings.ToLower(w) == text })
}

// AsksToBeRemembered reports whether a line is the word by which somebody who was
// forgotten wants to be recorded again.
func AsksToBeRemembered(p *room.Plan, text string) bool {
	return is(text, room.Section[words](p, name).Remember)
}

// private reports whether an event is a line by which somebody asks what is kept of
// them, or to be forgotten: then who they are is asked of the book anew.
func private(_ *room.Plan, w *words, ev *event.Event) bool {
	said, ok := ev.Data.(*happening.ChatSaid)
	if !ok || len(said.Text) > 4*w.longest+40 {
		return false
	}
	return is(said.Text, w.Ask) || is(said.Text, w.Forget) || is(said.Text, w.Confirm)
}

// asked answers what people ask about what is kept. It reports whether the
// event is dealt with, so that nothing else is said to its person.
func (w *words) asked(t *room.Turn, m *Memory, data *happening.ChatSaid) bool {
	if line := strings.TrimSpace(data.Text); len(line) > w.longest && !strings.Contains(line, "  ") {
		return false // too long to be one of them: most of chat
	}
	key := data.Person.Key()
	until := m.Forgets[key]
	switch {
	case is(data.Text, w.Ask):
		if t.Now.Sub(m.Answered[key]) < answerEvery {
			t.Decide(hall.Decision{Kind: hall.Refuse, Output: "kept", Person: key, Because: []string{"was told less than five minutes ago"}})
			return false
		}
		args := t.About(data.Person)
		show := hall.Decision{Kind: Show, Output: "kept", Line: t.LineID("privacy", "kept"), Platform: data.Person.Platform, Person: key, Name: args["name"].Text,
			Because: []string{"asked what is kept about them"}}
		closed := t.Plan.Reach.Closed()
		if door := t.Plan.DoorFor(data.Person.Platform); door != nil && t.Plan.Profile(data.Person.Platform).Chat.Private && len(w.link) > 0 && !data.Person.Nick && closed == "" {
			args["link"] = wording.Value{Text: LinkMark}
			i, _ := wording.Choose(w.link, nil, args, nil, t.Seed("privacy", "kept"))
			show.Text = w.link[i].Render(args)
			show.About = &data.Person
		} else {
			why := "there are no private messages there: nothing private is said in open chat"
			if data.Person.Nick {
				why = "the network does not vouch for whose nick this is: nothing private is told"
			} else if closed != "" {
				why = closed + ": a link would lead nowhere"
			}
			show.Because = append(show.Because, why)
			t.Aside(name, "open", w.open, args, data.Person)
		}
		t.Decide(show)
	case is(data.Text, w.Forget) && data.Person.Nick: // anybody may carry this nick: a member looks who it is
		name := t.SayName(data.Person)
		why := "asked to be forgotten; the network does not vouch that it is them, so it waits for your yes"
		t.Decide(hall.Decision{Kind: hall.Wait, Output: "forget", Person: key, Name: name, Because: []string{why}, Item: &hall.Item{
			ID: "forget/" + key, Kind: "forget", Person: &data.Person, Name: name, Why: why, Count: 1, Since: t.Now}})
		t.Aside(name, "open", w.open, t.About(data.Person), data.Person)
	case is(data.Text, w.Forget):
		args := t.About(data.Person)
		if len(w.Confirm) > 0 {
			args["word"] = wording.Str(w.Confirm[0])
		}
		t.Decide(hall.Decision{Kind: confirm, Output: "forget", Person: key, At: t.Now.Add(confirmWithin), Because: []string{"asked to be forgotten; the second word confirms it"}})
		t.Aside(name, "sure", w.sure, args, data.Person)
	case is(data.Text, w.Confirm) && !until.IsZero() && !data.Person.Nick:
		if t.Now.After(until) {
			t.Decide(hall.Decision{Kind: hall.Refuse, Output: "forget", Person: key, Because: []string{"the second word came after more than a minute"}})
			return false
		}
		t.Decide(hall.Decision{Kind: hall.Forget, Output: "forget", Person: key, Names: everyName(t, data.Person), Met: hall.Met{Known: &people.Known{Accounts: everyAccount(t, key)}}, Because: []string{"asked to be forgotten, and confirmed it"}})
		t.Aside(name, "gone", w.gone, t.Args(), event.Person{Platform: data.Person.Platform})
		return true
	}
	return false
}

// everyName is all that somebody is and was called, as far as it is known.
func everyName(t *room.Turn, p event.Person) []string {
	out := []string{plain.Name(p.Shown()), p.Login}
	if t.Known != nil {
		out = append(out, t.Known.Names...)
	}
	return out
}

func everyAccount(t *room.Turn, key string) []string {
	if t.Known != nil && len(t.Known.Accounts) > 0 {
		return t.Known.Accounts
	}
	if g := t.State.Guests()[key]; g != nil && g.Known != nil {
		return g.Known.Accounts
	}
	return []string{key}
}
