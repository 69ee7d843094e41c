package house_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/house"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/core/room"
)

// asksPosts is the demo house, in which VIPs may ask for posts and what moderators ask for is not looked at first.
func asksPosts(more ...func(*housefile.Settings)) func(*housefile.Settings) {
	return func(s *housefile.Settings) {
		s.Pace.JoinAt, s.Pace.GapSeconds = 0, 0
		for _, f := range more {
			f(s)
		}
	}
}

func wantsPosted(login string, role event.Role, text string) *happening.ChatSaid {
	l := line(login, "!post "+text)
	l.Person.Roles = []event.Role{role}
	return l
}

// posted are the texts that went to the account.
func (e *evening) skerried() (out []string) {
	for _, d := range e.relays() {
		if d.Place == "skerry" {
			out = append(out, d.Text)
		}
	}
	return out
}

// asks has somebody ask for a post, and lives what comes of it.
func (e *evening) asks(login string, role event.Role, text string) {
	e.t.Helper()
	ds := e.happens(wantsPosted(login, role, text))
	for _, r := range room.Raised(e.plan, &e.log[len(e.log)-1].ev, ds) {
		e.happens(r.Data)
	}
	e.after(10 * time.Second)
}

func (e *evening) asking() (out []hall.Item) {
	for _, it := range e.s.Waiting {
		if it.Kind == "social" {
			out = append(out, it)
		}
	}
	return out
}

func TestWhatSomebodyAsksToHavePostedIsLookedAtFirst(t *testing.T) {
	e := begin(t, asksPosts())
	e.happens(on("quayside"))
	e.asks("mossy_mare", event.VIP, "The night-heron is back at the lock.")
	if got := e.skerried(); len(got) != 0 {
		t.Fatalf("posted %q before anybody looked", got)
	}
	if said := e.wantSaid(1, "post-asked"); !strings.Contains(said[0].Text, "looks at it first") {
		t.Errorf("said %q", said[0].Text)
	}
	waits := e.asking()
	if len(waits) != 1 || waits[0].Text != "The night-heron is back at the lock." {
		t.Fatalf("%+v", waits)
	}
	let := &event.DeskPosted{Item: waits[0].ID, Place: "skerry", Text: "The night-heron is back at the lock!", Person: waits[0].Person, Member: "Odalys"}
	e.happens(let)
	e.happens(let) // two members press at the same time
	if got := e.skerried(); len(got) != 1 || got[0] != "The night-heron is back at the lock!" || len(e.asking()) != 0 {
		t.Errorf("posted %q, %d still wait", got, len(e.asking()))
	}
}

func TestWhatCannotBePostedIsRefusedWithItsReason(t *testing.T) {
	for name, c := range map[string]struct {
		who    event.Role
		text   string
		change func(*housefile.Settings)
		said   string
	}{
		"a link":                  {event.VIP, "look at https://a.example/x", nil, "it holds a link"},
		"a bare host":             {event.VIP, "look at a.example", nil, "it holds a link"},
		"too long":                {event.VIP, strings.Repeat("a tide and ", 28), nil, "letters too long"},
		"an account that rests":   {event.Moderator, "low water", func(s *housefile.Settings) { s.PlaceNamed("skerry").Paused = true }, "nothing is posted there for now"},
		"a moderator's goes":      {event.Moderator, "low water", nil, ""},
		"an honest end of a line": {event.Moderator, "Low water at nine.Boots on", nil, "it holds a link"},
		"a number with a dot":     {event.Moderator, "The tide is 4.2 m tonight.", nil, ""},
	} {
		t.Run(name, func(t *testing.T) {
			e := begin(t, asksPosts(func(s *housefile.Settings) {
				if c.change != nil {
					c.change(s)
				}
			}))
			e.happens(on("quayside"))
			e.asks("mossy_mare", c.who, c.text)
			if said := e.wantSaid(1, "post-asked"); !strings.Contains(said[0].Text, c.said) {
				t.Errorf("said %q", said[0].Text)
			}
			if n := len(e.skerried()); (n == 1) != (c.said == "") || len(e.asking()) != 0 {
				t.Errorf("%d posts, %d wait", n, len(e.asking()))
			}
		})
	}
}

func TestWhoMayNotAskBringsNothingAbout(t *testing.T) {
	e := begin(t, asksPosts())
	e.happens(on("quayside"))
	e.asks("mossy_mare", event.Subscriber, "anything at all")
	e.happens(line("tidewrack", "!post"))
	e.after(10 * time.Second)
	if len(e.skerried())+len(e.asking()) != 0 {
		t.Errorf("%q, %v", e.skerried(), e.asking())
	}
}

func TestAPostRingsNobodyAndIsTheLatest(t *testing.T) {
	e := begin(t, asksPosts(func(s *housefile.Settings) {
		s.Courtesy = append(s.Courtesy, says("latest", "porch.person.followed", happening.Free, s.Courtesy[0].Who, nil, "{hasLatestPost, select, yes {{latestPost}} other {nothing}}"))
	}))
	e.happens(on("quayside"))
	e.asks("mossy_mare", event.Moderator, "come @everybody")
	e.happens(follows("tidewrack"))
	e.after(10 * time.Second)
	if got := e.skerried(); len(got) != 1 || strings.Contains(got[0], "@everybody") {
		t.Errorf("posted %q", got)
	}
	if said := e.wantSaid(1, "latest"); !strings.HasPrefix(said[0].Text, "come @") {
		t.Errorf("said %q", said[0].Text)
	}
}

func TestWhatAnAccountMayDoIsSwitchedOnOneByOne(t *testing.T) {
	for _, c := range []struct {
		relay  output.Relay
		allows []string
		fault  string
	}{
		{output.Relay{}, nil, ""},
		{output.Relay{Does: "message"}, nil, "not switched on"},
		{output.Relay{Does: "message"}, []string{"message"}, ""},
		{output.Relay{Does: "banner"}, []string{"banner"}, "is missing"},
		{output.Relay{Does: "banner", Media: "lantern.png"}, []string{"banner"}, ""},
		{output.Relay{Does: "portrait", Media: "lantern.png"}, []string{"banner"}, "not switched on"},
		{output.Relay{Does: "sing"}, []string{"banner"}, "not known"},
		{output.Relay{Call: "all"}, nil, "nobody can be called"},
		{output.Relay{Media: "lantern.png"}, nil, "nothing that is done there"},
	} {
		t.Run(fmt.Sprintf("%+v", c.relay), func(t *testing.T) {
			s := settings(t)
			s.PlaceNamed("skerry").Allows = c.allows
			c.relay.Place = "skerry"
			add(s, "thanks", "porch.social.followed", c.relay)
			_, faults := house.Ready(s, 1)
			if got := fmt.Sprint(faults); (c.fault == "") != (len(faults) == 0) || !strings.Contains(got, c.fault) {
				t.Errorf("faults: %s", got)
			}
		})
	}
}

func add(s *housefile.Settings, id, when string, r output.Relay) {
	c := says(id, when, happening.Free, s.Courtesy[0].Who, nil, "Thank you, {name}!")
	c.Do = []output.Output{{ID: "post", Do: &r, Alternatives: []string{"Thank you, {name}!"}}}
	s.Courtesy = append(s.Courtesy, c)
}
