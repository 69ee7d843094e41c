package api_test

import (
	"slices"
	"strings"
	"testing"

	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/housefile"
	"vividporch/porchtest"
	"vividporch/spec"
	"vividporch/standin"
)

// says speaks up in Quayside's chat.
func says(b *porchtest.Boat, id, login, text string) {
	b.Street.Platforms["quayside"].Chat.Say(standin.Viewer{ID: id, Login: login}, text)
}

// coming waits for a line that is coming up and says so much.
func coming(b *porchtest.Boat, part string) (c spec.Coming) {
	b.T.Helper()
	b.Until(part+" is coming up", func() bool {
		i := slices.IndexFunc(b.Porch().Coming, func(c spec.Coming) bool { return strings.Contains(c.Text, part) })
		if i >= 0 {
			c = b.Porch().Coming[i]
		}
		return i >= 0 && c.Line != ""
	})
	return c
}

// slow makes greetings wait long enough to be laid hands on.
func slow(s *housefile.Settings) {
	for i := range s.Courtesy {
		if s.Courtesy[i].Slot == happening.Greeting {
			s.Courtesy[i].Do[0].DelaySeconds = 300
		}
	}
	s.Pace.WaitSeconds = 600
}

func said(b *porchtest.Boat, part string) bool {
	return slices.ContainsFunc(b.Said("quayside"), func(t string) bool { return strings.Contains(t, part) })
}

func TestAStreamIsDeclaredOpenedNewAndClosedAtTheDesk(t *testing.T) {
	b := porchtest.Launch(t)
	b.SignIn()
	declare := func(act spec.DeclareStreamAct, title string) (d spec.Deed) {
		if s := b.Do("POST", "/api/desk/stream", spec.DeclareStream{Act: act, Title: title}, &d); s != 200 {
			t.Fatalf("%s: %d %+v", act, s, d)
		}
		return d
	}
	if d := declare("opened", "Low water by lamp"); !d.Done || !b.Porch().Live.On {
		t.Fatalf("%+v %+v", d, b.Porch().Live)
	}
	if d := declare("opened", ""); d.Done || !strings.Contains(strings.Join(d.Because, " "), "already on") {
		t.Errorf("opened twice: %+v", d)
	}
	opened := b.Porch().Live.Opened
	if d := declare("new", "The second tide"); !d.Done || !b.Porch().Live.Opened.After(opened) {
		t.Errorf("a new one: %+v", d)
	}
	if d := declare("closed", ""); !d.Done || b.Porch().Live.On {
		t.Errorf("closed: %+v", d)
	}
	var p spec.Problem
	if s := b.Do("POST", "/api/desk/stream", map[string]string{"act": "paused"}, &p); s != 422 || p.Field == "" || p.Remedy == "" {
		t.Errorf("%d %+v", s, p)
	}
}

func TestHushHoldsTheHouseAndNotItsMembers(t *testing.T) {
	b := porchtest.Launch(t)
	b.SignIn()
	b.Do("POST", "/api/desk/stream", spec.DeclareStream{Act: "opened"}, nil)
	b.Do("POST", "/api/desk/hush", spec.Switch{On: true}, nil)
	says(b, "5", "tidewrack", "evening")
	held := coming(b, "tidewrack")
	if !held.Hushed || !b.Porch().Hush {
		t.Errorf("%+v", held)
	}
	var d spec.Deed
	b.Do("POST", "/api/desk/say", spec.SayLine{Text: "the kettle is on", To: []string{"quayside"}}, &d)
	b.Until("a member's own line is said", func() bool { return said(b, "the kettle is on") })
	if said(b, "tidewrack") {
		t.Error("the greeting was said under hush")
	}
	b.Do("POST", "/api/desk/hush", spec.Switch{}, nil)
	b.Until("it is said once hush is lifted", func() bool { return said(b, "tidewrack") })
}

func TestALineComingUpIsChangedHurriedAndDroppedAtTheDesk(t *testing.T) {
	b := porchtest.Launch(t, slow)
	b.SignIn()
	b.Do("POST", "/api/desk/stream", spec.DeclareStream{Act: "opened"}, nil)
	says(b, "5", "tidewrack", "evening")
	says(b, "6", "mossy_mare", "hello there")
	first, second := coming(b, "tidewrack"), coming(b, "mossy_mare")
	var d spec.Deed
	if b.Do("POST", "/api/desk/line", spec.LineAct{Line: first.Line, Act: "change", Text: "Ahoy, wrack of the tide."}, &d); !d.Done {
		t.Fatalf("%+v", d)
	}
	coming(b, "Ahoy, wrack of the tide.")
	b.Do("POST", "/api/desk/line", spec.LineAct{Line: first.Line, Act: "hurry"}, &d)
	b.Until("the changed line is said at once", func() bool { return said(b, "Ahoy, wrack of the tide.") })
	b.Do("POST", "/api/desk/line", spec.LineAct{Line: second.Line, Act: "drop"}, &d)
	if !d.Done || slices.ContainsFunc(b.Porch().Coming, func(c spec.Coming) bool { return c.Line == second.Line }) {
		t.Errorf("%+v", d)
	}
	if b.Do("POST", "/api/desk/line", spec.LineAct{Line: second.Line, Act: "hurry"}, &d); d.Done {
		t.Error("what was dropped was hurried")
	}
	var p spec.Problem
	if s := b.Do("POST", "/api/desk/line", map[string]string{"line": first.Line, "act": "sing"}, &p); s != 422 || p.Field != "act" {
		t.Errorf("%d %+v", s, p)
	}
}

func TestEveryLineAnswersWhyAndEveryPersonWhyNot(t *testing.T) {
	b := porchtest.Launch(t)
	b.SignIn()
	b.Do("POST", "/api/desk/stream", spec.DeclareStream{Act: "opened"}, nil)
	says(b, "5", "tidewrack", "evening")
	b.Until("the newcomer is greeted", func() bool { return said(b, "tidewrack") })
	var line string
	for _, e := range b.Porch().Entries {
		if e.Kind == "house" && strings.Contains(e.Text, "tidewrack") {
			line = e.Line
		}
	}
	var why spec.Reasons
	if s := b.Do("GET", "/api/why?line="+line, nil, &why); s != 200 || len(why.Items) == 0 {
		t.Fatalf("%d %q %+v", s, line, why)
	}
	i := slices.IndexFunc(why.Items, func(r spec.Reason) bool { return len(r.Ladder) > 0 })
	if i < 0 {
		t.Fatalf("no ladder: %+v", why)
	}
	last := why.Items[i]
	won := slices.IndexFunc(last.Ladder, func(r spec.Rung) bool { return r.Won })
	if last.Sentence != "Greet a newcomer" || len(last.Because) == 0 || won < 0 || last.Ladder[won].Courtesy != "Greet a newcomer" || len(last.Ladder) < 3 {
		t.Errorf("%+v", last)
	}
	for _, r := range last.Ladder {
		if r.Why == "" {
			t.Errorf("%s lost for no reason", r.Courtesy)
		}
	}
	// The streamer is on the list of those never greeted, and the house can say so.
	says(b, "1", "tidepool_hours", "lamp is warming up")
	b.Until("it says why not", func() bool {
		var not spec.Reasons
		b.Do("GET", "/api/whynot?account=quayside:1", nil, &not)
		return slices.ContainsFunc(not.Items, func(r spec.Reason) bool { return r.Kind == "refuse" && strings.Join(r.Because, "") != "" })
	})
	var nobody spec.Reasons
	if s := b.Do("GET", "/api/whynot?account=quayside:999", nil, &nobody); s != 200 || len(nobody.Items) != 0 {
		t.Errorf("%d %+v", s, nobody)
	}
}

func TestSomebodyHereIsGreetedAndShoutedOutByHandAndNobodyElse(t *testing.T) {
	b := porchtest.Launch(t)
	b.SignIn()
	b.Do("POST", "/api/desk/stream", spec.DeclareStream{Act: "opened"}, nil)
	says(b, "9330", "kelpwright", "evening all")
	b.Until("kelpwright is here", func() bool { return len(b.Porch().Guests) > 0 })
	b.Until("the greeting is over", func() bool { return said(b, "kelpwright") })
	n := len(b.Said("quayside"))
	var d spec.Deed
	if s := b.Do("POST", "/api/desk/ask", spec.AskCourtesy{Act: "shoutout", Account: "quayside:9330"}, &d); s != 200 || !d.Done {
		t.Fatalf("%d %+v", s, d)
	}
	c := coming(b, "kelpwright")
	if !c.ByHand {
		t.Errorf("%+v", c)
	}
	b.Do("POST", "/api/desk/line", spec.LineAct{Line: c.Line, Act: "hurry"}, nil)
	b.Until("it is said with the link", func() bool {
		return slices.ContainsFunc(b.Said("quayside")[n:], func(t string) bool { return strings.Contains(t, "https://quayside.example/kelpwright") })
	})
	var p spec.Problem
	if s := b.Do("POST", "/api/desk/ask", spec.AskCourtesy{Act: "greet", Account: "quayside:777"}, &p); s != 404 || !strings.Contains(p.Title, "Nobody in the guest book") {
		t.Errorf("%d %+v", s, p)
	}
}

func TestPegsAreAMembersOwnInTheirOrder(t *testing.T) {
	b := porchtest.Launch(t)
	b.SignIn()
	pegs := func() (p spec.Pegs) {
		if s := b.Do("GET", "/api/pegs", nil, &p); s != 200 {
			t.Fatal(s)
		}
		return p
	}
	if got := pegs(); got.Pegs == nil || len(got.Pegs) != 0 {
		t.Errorf("who never chose: %+v", got)
	}
	for _, want := range [][]string{{"hush", "raider", "courtesy:tides"}, {"raider"}, {}} {
		if s := b.Do("PUT", "/api/pegs", spec.Pegs{Pegs: want}, nil); s != 200 {
			t.Fatal(s)
		}
		if got := pegs().Pegs; !slices.Equal(got, want) {
			t.Errorf("%v, want %v", got, want)
		}
	}
	for name, bad := range map[string][]string{"twice the same": {"hush", "hush"}, "an empty one": {""}, "one of any length": {strings.Repeat("x", 81)}, "any number": strings.Split(strings.Repeat("x,", 41), ",")} {
		var p spec.Problem
		if s := b.Do("PUT", "/api/pegs", spec.Pegs{Pegs: bad}, &p); s != 422 || p.Field == "" || p.Remedy == "" {
			t.Errorf("%s: %d %+v", name, s, p)
		}
	}
}

func TestTheLastRaiderIsShoutedOutWithoutBeingNamed(t *testing.T) {
	b := porchtest.Launch(t)
	b.SignIn()
	shout := func() (d spec.Deed) {
		if s := b.Do("POST", "/api/desk/ask", spec.AskCourtesy{Act: "shoutout", Whom: "raider"}, &d); s != 200 {
			t.Fatal(s)
		}
		return d
	}
	b.Do("POST", "/api/desk/stream", spec.DeclareStream{Act: "opened"}, nil)
	if d := shout(); d.Done || !strings.Contains(strings.Join(d.Because, " "), "nobody raided") {
		t.Errorf("before any raid: %+v", d)
	}
	for _, login := range []string{"saltlamp", "kelpwright"} {
		raid := &happening.RaidCame{Viewers: 12}
		raid.Person = event.Person{Platform: "quayside", ID: "id-" + login, Login: login, Name: login}
		if _, err := b.House.Submit(t.Context(), []event.Event{{Door: "quayside", Source: "s", ID: "raid-" + login, Type: "porch.raid.came", Data: raid}}); err != nil {
			t.Fatal(err)
		}
	}
	if d := shout(); !d.Done {
		t.Fatalf("%+v", d)
	}
	if c := coming(b, "kelpwright"); c.Line == "" {
		t.Error("somebody else is shouted out")
	}
	b.Do("POST", "/api/desk/stream", spec.DeclareStream{Act: "new"}, nil)
	if d := shout(); d.Done {
		t.Errorf("in a new stream: %+v", d)
	}
}
