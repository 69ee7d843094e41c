// Package social is the room for what people ask to have posted under the channel's social account: it is looked at,
// waits for a member where it has to, and goes to the account's place.
package social

import (
	"fmt"
	"slices"
	"strings"
	"unicode/utf8"

	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/plain"
	"vividporch/core/room"
	"vividporch/core/wording"
)

const name = "social"

// Room decides what becomes of a post that is asked for. What is said of it in chat are courtesies.
var Room = room.Of(room.Spec[struct{}, Memory]{Name: name, Version: 1,
	Hears: []string{happening.PostAskedType, "porch.desk.posted"},
	Decide: func(t *room.Turn, _ *struct{}, _ *Memory) {
		switch data := t.Event.Data.(type) {
		case *happening.PostAsked:
			asked(t, data)
		case *event.DeskPosted:
			approved(t, data)
		}
	},
	Evolve: func(m *Memory, l room.Lived) {
		for i := range l.Decisions {
			if x := &l.Decisions[i]; x.Kind == hall.Relay && x.Room == name {
				m.Latest = x.Text
				m.Account = x.Person
			}
		}
	},
	Forget: func(m *Memory, gone *hall.Gone) {
		if gone.Mine(m.Account) {
			m.Latest, m.Account = "", ""
		}
		m.Latest = plain.Without(m.Latest, gone.Names)
	},
})

// Memory is what was posted last.
type Memory struct {
	Latest  string `json:"latest,omitempty"`
	Account string `json:"account,omitempty"` // whose words they were
}

// LatestPost is what was posted last, for whoever tells of it.
func (m *Memory) LatestPost() string { return m.Latest }

// approved posts what a member has looked at: once, however many press at the same time.
func approved(t *room.Turn, p *event.DeskPosted) {
	at := slices.IndexFunc(t.State.Waiting, func(it hall.Item) bool { return it.ID == p.Item && it.Kind == name })
	why := ""
	if at < 0 {
		why = "somebody has dealt with it already"
	} else {
		why = Problem(t.Plan, p.Place, p.Text, true)
	}
	if why != "" {
		t.Decide(hall.Decision{Kind: hall.Refuse, Output: name, Place: p.Place, Because: []string{why}})
		return
	}
	post(t, p.Place, p.Text, p.Person, "approved by "+p.Member)
	t.Decide(hall.Decision{Kind: hall.Done, Output: "done", Item: &hall.Item{ID: p.Item}, Because: []string{"approved by " + p.Member}})
}

func asked(t *room.Turn, p *happening.PostAsked) {
	outcome, problem := happening.PostLeaves, Problem(t.Plan, p.Place, p.Text, p.Links)
	switch {
	case problem != "":
		outcome = happening.PostRefused
		t.Decide(hall.Decision{Kind: hall.Refuse, Output: name, Place: p.Place, Person: key(p.Person), Because: []string{problem}})
	case p.Approve && p.Person != nil:
		outcome = happening.PostWaits
		wait(t, p)
	default:
		post(t, p.Place, p.Text, p.Person, "asked for by "+by(p))
	}
	if p.Person == nil {
		return
	}
	args := t.About(*p.Person)
	happening.OfData(p).Tell(p, args)
	args["outcome"] = wording.Str(outcome)
	args.Maybe("problem", wording.Str(problem))
	t.Announce(args, t.ChatsOf(*p.Person))
}

func wait(t *room.Turn, p *happening.PostAsked) {
	t.Decide(hall.Decision{Kind: hall.Wait, Output: name, Person: p.Person.Key(), Name: t.SayName(*p.Person), Place: p.Place, Because: []string{"a member looks at it first"}, Item: &hall.Item{
		ID: ItemID(t.Event.Seq), Kind: name, Person: p.Person, Name: t.SayName(*p.Person), Type: happening.PostAskedType, Text: plain.Text(p.Text), Place: p.Place, Why: "asks for it to be posted",
		Count: 1, Since: t.Event.Time, About: []string{p.Person.Key()}}})
}

// post has a text go to an account's place.
func post(t *room.Turn, place, text string, person *event.Person, because string) {
	p := t.Plan.PlaceNamed(place)
	text = p.Safe(plain.Text(text))
	args := t.Args()
	args["text"] = wording.Value{Text: text}
	body, err := p.Render(args)
	if err != nil {
		t.Decide(hall.Decision{Kind: hall.Refuse, Output: name, Place: place, Because: []string{err.Error()}})
		return
	}
	t.Decide(hall.Decision{Kind: hall.Relay, Output: name, Line: t.LineID(name, place), Place: place, Text: text, Saying: hall.Saying{Body: body}, Event: t.Event.Seq, EventID: t.Event.ID, Person: key(person), Because: []string{because}})
}

// Problem is what keeps a text from being posted by an account; "" for nothing.
func Problem(plan *room.Plan, place, text string, links bool) string {
	p := plan.PlaceNamed(place)
	text = plain.Text(text)
	switch {
	case p == nil || !p.Ready() || p.Cannot("account", plan.Settings.Profile) != "":
		return "the social account is not set up"
	case p.Paused:
		return "nothing is posted there for now"
	case strings.TrimSpace(text) == "":
		return "it has no words"
	case !links && slices.ContainsFunc(strings.Fields(text), plain.IsLink):
		return "it holds a link"
	}
	if most := plan.Settings.Profile(p.Platform).Social.Limit; most > 0 {
		if over := utf8.RuneCountInString(text) - most; over > 0 {
			return fmt.Sprintf("it is %d letters too long; %d fit", over, most)
		}
	}
	return ""
}

func by(p *happening.PostAsked) string {
	if p.Person != nil {
		return plain.Name(p.Person.Shown())
	}
	return p.Member
}

func key(p *event.Person) string {
	if p == nil {
		return ""
	}
	return p.Key()
}

// Refusal is what is said in chat to whoever asked for a post that a member does not want.
func Refusal(asked *happening.PostAsked, reason, member string) *event.DeskSaid {
	return &event.DeskSaid{Text: plain.Name(asked.Person.Shown()) + ": it was not posted. " + reason, To: []string{asked.Person.Platform}, Member: member}
}

// ItemID is what waits of the post that was asked for with an event.
func ItemID(seq int64) string { return fmt.Sprintf("%s/%d", name, seq) }
