package house_test

import (
	"encoding/json"
	"slices"
	"strings"
	"testing"
	"time"

	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/house"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/core/people"
	"vividporch/core/room"
	"vividporch/core/who"
)

// What is said of the house is so, and what was not meant is not done.

func TestHushPressedAgainWhileItIsOnLetsNothingOut(t *testing.T) {
	e := begin(t)
	e.happens(on("quayside"))
	e.after(time.Minute).happens(&event.Hushed{On: true})
	e.happens(line("tidewrack", "hello"))
	e.after(20 * time.Second)
	e.happens(&event.Hushed{On: true})
	e.wantSaid(0, "greet-")
	e.happens(&event.Hushed{On: false})
	e.wantSaid(1, "greet-") // at once: it has been due for long
}

func TestAFirstHelloIsAnsweredWhenNoGreetingIsSaid(t *testing.T) {
	e := begin(t, adds(says("answer", happening.Hello, happening.Answer, who.Who{}, nil, "Hello, {name}")), func(s *housefile.Settings) {
		s.Hello.PersonSeconds = 1800
		for i := range s.Courtesy {
			if s.Courtesy[i].ID == "greet-returning" {
				s.Courtesy[i].On = false
			}
		}
	})
	e.happens(on("quayside"))
	known := &people.Known{Attended: 3}
	e.happens(line("mossy_mare", "hello all"), known)
	e.after(time.Minute)
	if got := e.wantSaid(1, "answer"); got[0].Text != "Hello, mossy_mare" {
		t.Errorf("%+v", got)
	}
	e.happens(line("tidewrack", "hello all")) // a newcomer has a greeting
	e.happens(line("grebe_watch", "what a shell"), known)
	e.after(time.Minute)
	e.happens(line("grebe_watch", "and hello everyone"), known) // arrived a minute ago, and was not greeted
	e.happens(line("tidewrack", "hello again"))
	e.after(time.Minute)
	e.wantSaid(2, "answer")
	e.wantReason("was greeted less than 30m0s ago")
}

func TestNobodyIsShoutedOutTwiceInAStreamUnlessSomebodyAsks(t *testing.T) {
	e := begin(t, stage, does("fellows", happening.Arrival, happening.ShoutOut, output.Output{Do: &output.Say{}, Alternatives: []string{"Go and see {name}"}}),
		does("followers", "porch.person.followed", happening.Free, output.Output{Do: &output.ShoutOut{}}))
	e.happens(on("quayside"))
	e.happens(raid("kelpwright", 120))
	e.after(time.Minute)
	e.wantSaid(1, "shout-out")
	both := &people.Known{Accounts: []string{"quayside:id-kelpwright", "quayside:id-kelpwright_b"}}
	e.happens(line("kelpwright_b", "it is me"), both)
	e.happens(follows("kelpwright"))
	e.happens(raid("kelpwright", 130))
	e.after(time.Minute)
	e.wantSaid(1, "shout-out")
	e.wantSaid(0, "fellows")
	n := 0
	for _, d := range e.all {
		if d.Kind == hall.Refuse && slices.Contains(d.Because, "was shouted out in this stream already") {
			n++
		}
	}
	if n != 3 {
		t.Errorf("%d refusals say so; an arrival, a follow and a second raid should", n)
	}
	e.happens(&event.DeskAsked{Act: "shoutout", Person: viewer("kelpwright"), Member: "Odalys Brine"})
	e.after(time.Minute)
	e.wantSaid(2, "shout-out")
	e.happens(off("quayside"))
	e.after(time.Hour).happens(on("quayside"))
	e.happens(raid("kelpwright", 140))
	e.after(time.Minute)
	e.wantSaid(3, "shout-out")
}

func TestWhoIsNeverGreetedIsNeverShoutedOutByTheHouseItself(t *testing.T) {
	e := begin(t, stage, does("followers", "porch.person.followed", happening.Free, output.Output{Do: &output.ShoutOut{}}))
	e.happens(on("quayside"))
	never := &people.Known{LeaveBe: true}
	e.happens(follows("kelpwright"), never)
	e.after(time.Minute)
	e.wantSaid(0, "shout-out")
	e.happens(&event.DeskAsked{Act: "shoutout", Person: viewer("kelpwright"), Member: "Odalys Brine"}, never)
	e.after(time.Minute)
	e.wantSaid(1, "shout-out")
}

func TestWhoComesInAgainIsMetOnceAStream(t *testing.T) {
	in := func() *happening.PersonEntered {
		p := &happening.PersonEntered{}
		p.Person = viewer("pebble_june")
		return p
	}
	out := func() *happening.PersonLeft {
		p := &happening.PersonLeft{}
		p.Person = viewer("pebble_june")
		return p
	}
	e := begin(t, adds(says("door", "porch.person.entered", happening.Free, who.Who{}, nil, "{name} is at the door")))
	e.happens(on("quayside"))
	for range 3 {
		e.happens(in())
		e.after(time.Minute)
		e.happens(out())
	}
	e.wantSaid(1, "door")
	e.happens(off("quayside"))
	e.after(time.Hour).happens(on("quayside"))
	e.happens(in())
	e.after(time.Minute)
	e.wantSaid(2, "door")
}

func TestATryKeepsItsMarkAfterALookUpAndATriedTipItsCurrency(t *testing.T) {
	e := begin(t, adds(says("tip", "porch.support.tipped", happening.Thanks, who.Who{}, &who.Measure{Of: "amount", Currency: "CHF", AtLeast: num(2)}, "{hasAmount, select, yes {{amount}} other {}}")))
	e.happens(on("quayside"))
	shout := ""
	for _, r := range e.plan.Set.All() {
		if r.Slot == happening.ShoutOut {
			shout = r.ID
		}
	}
	e.happens(&event.DeskAsked{Act: "try", Courtesy: shout, Person: viewer("night_heron_cam"), Member: "Odalys Brine", Number: 5})
	asks := e.of(hall.Ask)
	if len(asks) != 1 {
		t.Fatalf("%d asked", len(asks))
	}
	e.happens(&event.LookupAnswered{Ask: asks[0].Line, Found: true, Link: "https://quayside.example/night_heron_cam", Category: "Reedbed at dusk"})
	e.after(time.Minute)
	if got := e.wantSaid(1, shout); !strings.HasPrefix(got[0].Text, "(a try) ") || !strings.Contains(got[0].Text, "Reedbed") {
		t.Errorf("said %q", got[0].Text)
	}
	e.happens(&event.DeskAsked{Act: "try", Courtesy: "tip", Person: viewer("saltpan_pip"), Member: "Odalys Brine", Number: 7})
	e.after(time.Minute)
	if got := e.wantSaid(1, "tip"); got[0].Text != "(a try) 7 CHF" {
		t.Errorf("said %q", got[0].Text)
	}
}

func TestARaidWhoseThanksWasGivenUpCanBeThankedFromWaiting(t *testing.T) {
	e := begin(t)
	e.happens(on("quayside"))
	e.after(time.Minute).happens(&event.Hushed{On: true})
	e.happens(raid("kelpwright", 37))
	e.after(10 * time.Minute).happens(&event.Hushed{On: false})
	if len(e.s.Waiting) != 1 || e.s.Waiting[0].Type != "porch.raid.came" {
		t.Fatalf("%+v", e.s.Waiting)
	}
	e.happens(&event.DeskAsked{Act: "thank", Person: viewer("kelpwright"), Member: "Odalys Brine"})
	e.after(time.Minute)
	if got := e.wantSaid(1, "raid-"); !strings.Contains(got[0].Text, "37") {
		t.Errorf("said %q", got[0].Text)
	}
	if len(e.s.Waiting) != 0 {
		t.Errorf("%+v", e.s.Waiting)
	}
}

func TestAWordingThatComesOutEmptyIsNotSaid(t *testing.T) {
	empty := "{hasFollowed, select, yes {since {followed}} other {}}"
	e := begin(t, stage, does("empty", "porch.person.followed", happening.Thanks,
		output.Output{Do: &output.Say{}, Alternatives: []string{empty}}, output.Output{Do: &output.Speak{Fitting: "bell"}, Alternatives: []string{empty}},
		output.Output{Do: &output.Card{}, Alternatives: []string{empty}}, output.Output{Do: &output.Relay{Place: "boathouse"}, Alternatives: []string{empty}}), func(s *housefile.Settings) {
		s.Courtesy[len(s.Courtesy)-1].Do[3].Do = &output.Relay{Place: s.Places[0].Name}
	})
	e.happens(on("quayside"))
	e.happens(follows("pebble_june"))
	e.after(time.Minute)
	refused := 0
	for _, d := range e.all {
		if d.Courtesy == "empty" && d.Kind != hall.Refuse {
			t.Errorf("%s: %q", d.Kind, d.Text)
		} else if d.Courtesy == "empty" && strings.Contains(d.Because[0], "comes out empty") {
			refused++
		}
	}
	if refused != 4 {
		t.Errorf("%d of 4 say why", refused)
	}
	at := e.now.AddDate(-1, 0, 0)
	e.happens(follows("mossy_mare"), &people.Known{Followed: &at})
	e.after(time.Minute)
	e.wantSaid(1, "empty")
}

func TestACardThatWantsToKnowMoreAsks(t *testing.T) {
	e := begin(t, stage, does("card", "porch.raid.came", happening.Free, output.Output{Do: &output.Card{}, Ask: true, Alternatives: []string{"{name}{hasCategory, select, yes {: {category}} other {}}"}}), func(s *housefile.Settings) {
		s.Courtesy = slices.DeleteFunc(s.Courtesy, func(c courtesy.Courtesy) bool { return c.When == "porch.raid.came" && c.ID != "card" })
	})
	e.happens(on("quayside"))
	e.happens(raid("night_heron_cam", 120))
	asks := e.of(hall.Ask)
	if len(asks) != 1 {
		t.Fatalf("%d asked", len(asks))
	}
	e.happens(&event.LookupAnswered{Ask: asks[0].Line, Found: true, Category: "Reedbed at dusk"})
	if got := e.of("card"); len(got) != 1 || read(t, got[0]).Text != "night_heron_cam: Reedbed at dusk" {
		t.Errorf("%+v", got)
	}
	for i := range e.plan.Settings.Profiles {
		e.plan.Settings.Profiles[i].Lookup = nil
	}
	e.plan, _ = house.Ready(e.plan.Settings, 2)
	e.happens(raid("kelpwright", 20))
	if got := e.of("card"); len(got) != 2 || slices.ContainsFunc(got[1].Because, func(b string) bool { return strings.Contains(b, "did not answer") }) {
		t.Errorf("nobody was asked, and the card says: %+v", got)
	}
}

func TestAPostWithADelayIsNoLineThatHushHolds(t *testing.T) {
	e := begin(t, func(s *housefile.Settings) {
		does("later", "porch.person.followed", happening.Free, output.Output{Do: &output.Relay{Place: s.Places[0].Name}, DelaySeconds: 30, Alternatives: []string{"{name} follows"}})(s)
	})
	e.happens(on("quayside"))
	e.happens(&event.Hushed{On: true})
	e.happens(follows("pebble_june"))
	for i := range e.s.Queue.Lines {
		if l := &e.s.Queue.Lines[i]; l.Courtesy == "later" && (l.Hushed || l.Held(true) || slices.Contains(l.Because, "hush is on: held")) {
			t.Errorf("%+v", l)
		}
	}
	before := len(e.of(hall.Relay))
	e.after(time.Minute)
	if len(e.of(hall.Relay)) != before+1 {
		t.Error("it was not posted")
	}
}

func TestAFieldThatReadsLikeNoNumberRaisesItsEventAsText(t *testing.T) {
	e := begin(t, stage, does("raises", "porch.person.followed", happening.Free, output.Output{Do: &output.Raise{Event: "bell", Fields: map[string]string{"much": "Infinity", "less": "-inf", "not": "nan", "n": "4"}}}))
	e.happens(on("quayside"))
	ds := e.happens(follows("pebble_june"))
	ev := event.Event{Seq: 1, Time: e.now, Logged: e.now}
	raised := room.Raised(e.plan, &ev, ds)
	if len(raised) != 1 {
		t.Fatalf("%d raised by %+v", len(raised), ds)
	}
	raw, err := json.Marshal(raised[0].Data)
	if err != nil {
		t.Fatal(err)
	}
	for _, want := range []string{`"much":"Infinity"`, `"less":"-inf"`, `"not":"nan"`, `"n":4`} {
		if !strings.Contains(string(raw), want) {
			t.Errorf("%s lacks %s", raw, want)
		}
	}
}

func TestAShoutOutThatWouldRunAnotherIsRefusedForWhatItIs(t *testing.T) {
	s := settings(t)
	stage(s)
	does("twice", happening.Arrival, happening.ShoutOut, output.Output{Do: &output.ShoutOut{}})(s)
	_, faults := house.Ready(s, 1)
	if len(faults) != 1 || !strings.Contains(faults[0].What, "is a shout-out itself") || faults[0].Courtesy != "twice" {
		t.Errorf("%v", faults)
	}
}

func TestAReasonForARaidNamesTheSlotThatStaysEmpty(t *testing.T) {
	e := begin(t, func(s *housefile.Settings) {
		s.Courtesy = slices.DeleteFunc(s.Courtesy, func(c courtesy.Courtesy) bool { return c.Slot == happening.ShoutOut })
	})
	e.happens(on("quayside"))
	e.happens(raid("kelpwright", 120))
	e.after(time.Minute)
	e.wantSaid(1, "raid-")
	e.wantReason("no courtesy is for the shout-out of a raid")
}

// thanking has a thanks for follows, for tips and for raids, and greetings for all.
func thanking(s *housefile.Settings) {
	adds(says("follow", "porch.person.followed", happening.Thanks, who.Who{}, nil, "Thanks for the follow, {name}"),
		says("tip", "porch.support.tipped", happening.Thanks, who.Who{}, nil, "Thanks for the tip, {name}"))(s)
	s.Pace.PersonSeconds = 8
}

func TestNobodyIsSpokenToTwiceInAFewSeconds(t *testing.T) {
	tip := &happening.Tipped{Amount: "5.00", Currency: "EUR"}
	tip.Person = viewer("pebble_june")
	e := begin(t, thanking, adds(says("hello-june", happening.Arrival, happening.Greeting, who.Who{Account: "quayside:id-pebble_june"}, nil, "There you are, {name}")))
	e.happens(on("quayside"))
	e.after(time.Minute)
	e.happens(line("pebble_june", "evening"))
	e.after(2 * time.Second)
	e.wantSaid(1, "hello-june")
	e.happens(follows("pebble_june")) // less than money: it is given up
	e.happens(tip)                    // waits
	e.after(5 * time.Second)
	e.wantSaid(0, "follow")
	e.wantSaid(0, "tip")
	e.wantReason("was spoken to 2s before; nobody is twice within 8s")
	e.after(2 * time.Second)
	e.wantSaid(1, "tip")
	e.after(time.Second).happens(follows("mossy_mare")) // somebody else is not held up
	e.after(time.Second)
	e.wantSaid(1, "follow")
}

func TestOnePersonIsOnePersonOverAllPlatformsAndOneCauseOneWord(t *testing.T) {
	both := &people.Known{Person: 3, Accounts: []string{"quayside:id-pebble_june", "fernlight:f-june"}, Attended: 2}
	also := says("also", "porch.person.followed", happening.Thanks, who.Who{}, nil, "and welcome aboard, {name}")
	also.Also = true
	e := begin(t, thanking, adds(also), func(s *housefile.Settings) { s.Pace.PersonSeconds = 8 })
	e.happens(on("quayside"))
	e.happens(on("fernlight"))
	e.after(time.Minute)
	e.happens(follows("pebble_june"), both)
	e.after(time.Second)
	e.wantSaid(1, "follow")
	e.wantSaid(1, "also") // of the same cause
	hi := &happening.ChatSaid{Text: "evening"}
	hi.Person = onFern("june", "June")
	hi.Person.ID = "f-june"
	e.happens(hi, both)
	e.after(time.Minute)
	e.wantSaid(0, "greet-")
	e.wantReason("was spoken to")
}

func TestWhatARaisedEventSaysIsOfTheSameCause(t *testing.T) {
	e := begin(t, thanking, stage, does("raises", "porch.person.followed", happening.Free, output.Output{Do: &output.Raise{Event: "bell"}}),
		adds(says("bell", "porch.other", happening.Thanks, who.Who{Fields: map[string]string{"event": "bell"}}, nil, "And a bell for {name}")), func(s *housefile.Settings) { s.Pace.PersonSeconds = 8 })
	e.happens(on("quayside"))
	e.after(time.Minute)
	ds := e.happens(follows("pebble_june"))
	for _, r := range room.Raised(e.plan, &event.Event{Seq: e.s.Seq, Time: e.now}, ds) {
		r.Seq, r.Logged = e.s.Seq+1, e.now
		e.keep(r, house.Step(e.s, &r, nil, e.plan))
	}
	e.after(3 * time.Second)
	e.wantSaid(1, "follow")
	e.wantSaid(1, "bell")
}

func TestACourtesyWaitsBeforeAllThatItDoes(t *testing.T) {
	c := courtesy.Courtesy{ID: "late", On: true, When: "porch.person.followed", Slot: happening.Thanks, Delay: 20, Do: []output.Output{
		{ID: "a", Do: &output.Say{}, Alternatives: []string{"Thanks, {name}"}}, {ID: "b", Do: &output.Card{}, Alternatives: []string{"{name}"}, DelaySeconds: 5},
		{ID: "c", Do: &output.Relay{}, Alternatives: []string{"{name}"}}, {ID: "d", Do: &output.ShoutOut{}, DelaySeconds: 10}}}
	e := begin(t, stage, func(s *housefile.Settings) {
		c.Do[2].Do = &output.Relay{Place: s.Places[0].Name}
		s.Courtesy = append(s.Courtesy, c)
	})
	e.happens(on("quayside"))
	e.after(time.Minute)
	posts := len(e.of(hall.Relay))
	e.happens(follows("kelpwright"))
	count := func() [4]int {
		says, outs := 0, 0
		for _, d := range e.said() {
			if d.Courtesy == "late" {
				says++
			} else if strings.HasPrefix(d.Courtesy, "shout-out") {
				outs++
			}
		}
		return [4]int{says, len(e.of("card")), len(e.of(hall.Relay)) - posts, outs}
	}
	for _, at := range []struct {
		after time.Duration
		want  [4]int
	}{{19 * time.Second, [4]int{}}, {2 * time.Second, [4]int{1, 0, 1, 0}}, {5 * time.Second, [4]int{1, 1, 1, 0}}, {15 * time.Second, [4]int{1, 1, 1, 1}}} {
		e.after(at.after)
		if got := count(); got != at.want {
			t.Errorf("%s on: lines, cards, posts, shout-outs %v, want %v", at.after, got, at.want)
		}
	}
}

func TestNewcomersAreJoinedInTheHousesWordsWhenTheirGreetingHasNone(t *testing.T) {
	e := begin(t, func(s *housefile.Settings) {
		s.JoinWords = nil
		for i := range s.Courtesy {
			for k := range s.Courtesy[i].Do {
				s.Courtesy[i].Do[k].Joined = nil
			}
		}
	})
	e.happens(on("quayside"))
	e.after(time.Minute)
	for i := range 30 {
		e.happens(line("newcomer"+string(rune('a'+i%26))+string(rune('a'+i/26)), "hello"))
		e.after(400 * time.Millisecond)
	}
	e.after(time.Minute)
	lines, joined := 0, 0
	for _, d := range e.said() {
		if strings.HasPrefix(d.Courtesy, "greet-") || d.Courtesy == "joined" {
			lines++
			joined += len(d.Joined)
		}
	}
	if lines > 10 || joined < 20 {
		t.Errorf("%d lines, %d of 30 joined", lines, joined)
	}
}

func TestAStreamersFirstVisitEverIsMetAsOne(t *testing.T) {
	e := begin(t, adds(says("fellow-out", happening.Arrival, happening.ShoutOut, who.Who{Mark: people.Fellow}, nil, "{name}: {hasLink, select, yes {{link}} other {?}} {hasCategory, select, yes {{category}} other {?}}"),
		says("answer", happening.Hello, happening.Answer, who.Who{}, nil, "Hello, {name}")))
	e.happens(on("quayside"))
	e.after(time.Minute)
	e.happens(line("kelpwright", "hello"))
	e.happens(line("pebble_june", "hello"))
	e.happens(line("too_slow", "evening"))
	asks := e.of(hall.Ask)
	if len(asks) != 3 {
		t.Fatalf("%d asked", len(asks))
	}
	e.after(time.Second)
	e.wantSaid(0, "greet-")
	e.happens(&event.LookupAnswered{Ask: asks[0].Line, Account: asks[0].Person, Found: true, Streams: true, Link: "https://quayside.example/kelpwright", Category: "Cold frame kelp"})
	e.happens(&event.LookupAnswered{Ask: asks[1].Line, Account: asks[1].Person})
	e.restore(e.snapshot())
	e.after(30 * time.Second)
	e.happens(&event.LookupAnswered{Ask: asks[2].Line, Account: asks[2].Person, Found: true, Streams: true, Link: "https://quayside.example/too_slow"})
	e.after(time.Minute)
	e.wantSaid(1, "greet-fellow")
	e.wantSaid(2, "greet-newcomer")
	if got := e.wantSaid(1, "fellow-out"); got[0].Text != "kelpwright: https://quayside.example/kelpwright Cold frame kelp" {
		t.Errorf("said %q", got[0].Text)
	}
	e.wantSaid(0, "answer") // they were greeted
	e.wantReason("did not tell in time whether they stream")
	if len(e.s.Questions) != 0 {
		t.Errorf("%+v", e.s.Questions)
	}
}

func TestALinkIsKnownWhereTheDoorSaysWhereItsStreamsAre(t *testing.T) {
	e := begin(t, adds(says("follow", "porch.person.followed", happening.Thanks, who.Who{}, nil, "Thanks {name}{hasLink, select, yes { {link}} other {}}")), func(s *housefile.Settings) {
		for i := range s.Profiles {
			if s.Profiles[i].Platform == "quayside" {
				s.Profiles[i].Link = "https://quayside.example/{login}"
			}
		}
	})
	e.happens(on("quayside"))
	e.happens(follows("pebble_june"))
	odd := follows("a b/?x")
	e.happens(odd)
	e.after(time.Minute)
	got := e.wantSaid(2, "follow")
	if got[0].Text != "Thanks pebble_june https://quayside.example/pebble_june" || strings.Contains(got[1].Text, "quayside.example") {
		t.Errorf("%q, %q", got[0].Text, got[1].Text)
	}
}
