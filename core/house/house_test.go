package house_test

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/house"
	"vividporch/core/house/housetest"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/core/people"
	"vividporch/core/room"
	"vividporch/core/who"
)

// evening is a stream being lived in a test: it gives events their numbers and
// times and remembers every decision.
type evening struct {
	t    *testing.T
	s    *house.State
	plan *room.Plan
	now  time.Time
	n    int
	all  []hall.Decision
	log  []logged
}

type logged struct {
	ev event.Event
	ds []hall.Decision
}

var dusk = time.Date(2031, 5, 14, 19, 0, 0, 0, time.UTC)

func settings(t *testing.T) *housefile.Settings { return housetest.Demo(t) }

// Found: a thanks of a line and a card given up together put the same raid before the
// streamer twice; a platform named twice; a courtesy beside a shout-out that shouts out.
func TestTheFirstDecisionOfASlotStands(t *testing.T) {
	raid := &happening.RaidCame{Viewers: 12}
	raid.Person = viewer("kelpwright")
	t.Run("a thanks of two outputs is given up under hush", func(t *testing.T) {
		e := begin(t, stage, does("card-too", "porch.raid.came", happening.Thanks, output.Output{Do: &output.Say{}, Alternatives: []string{"Thanks"}}, output.Output{Do: &output.Card{}, Alternatives: []string{"Thanks"}}), func(s *housefile.Settings) {
			s.Courtesy[len(s.Courtesy)-1].Who.Account = raid.Person.Key()
		})
		e.happens(on("quayside"))
		e.happens(&event.Hushed{On: true})
		e.happens(raid)
		e.after(10 * time.Minute)
		if n := len(e.s.Waiting); n != 1 || e.s.Waiting[0].Count != 1 {
			t.Errorf("waiting: %+v", e.s.Waiting)
		}
	})
	t.Run("a platform named twice at the desk", func(t *testing.T) {
		e := begin(t)
		twice := event.Event{Door: "desk", Source: "desk", ID: "twice", Type: "porch.desk.said", Time: dusk, Logged: dusk, Seq: 1, Data: &event.DeskSaid{Text: "evening", To: []string{"quayside", "quayside"}}}
		if twice.Data.Validate() == nil {
			t.Error("it is not refused")
		}
		said := 0
		for _, d := range house.Decide(e.s, &twice, nil, e.plan) {
			if d.Kind == hall.Say {
				said++
			}
		}
		if said != 1 {
			t.Errorf("said %d times", said)
		}
	})
	t.Run("a shout-out beside one that fills the slot", func(t *testing.T) {
		e := begin(t, stage, does("too", "porch.raid.came", happening.Free, output.Output{Do: &output.ShoutOut{}}))
		e.happens(on("quayside"))
		e.happens(raid)
		e.after(10 * time.Second)
		seen := map[string]bool{}
		for i := range e.all {
			if key := fmt.Sprint(e.all[i].Event, e.all[i].Courtesy, e.all[i].Slot()); e.all[i].Kind == hall.Planned && seen[key] {
				t.Errorf("%s twice", key)
			} else {
				seen[key] = true
			}
		}
		e.wantReason("is shouted out already")
	})
}

func begin(t *testing.T, change ...func(*housefile.Settings)) *evening {
	t.Helper()
	s := settings(t)
	for _, f := range change {
		f(s)
	}
	plan, faults := house.Ready(s, 1)
	if len(faults) > 0 {
		t.Fatalf("the house file has faults: %v", faults)
	}
	return &evening{t: t, s: house.NewState(), plan: plan, now: dusk}
}

func (e *evening) after(d time.Duration) *evening {
	end := e.now.Add(d)
	for {
		at, ok := e.s.Wake(e.plan)
		if !ok || at.After(end) {
			break
		}
		ev, ds, ok := house.Advance(e.s, at, e.plan)
		if !ok {
			e.t.Fatalf("woken at %s for nothing", at)
		}
		e.keep(ev, ds)
	}
	e.now = end
	return e
}

func (e *evening) keep(ev event.Event, ds []hall.Decision) []hall.Decision {
	e.all = append(e.all, ds...)
	e.log = append(e.log, logged{ev, ds})
	return ds
}

func (e *evening) happens(data event.Data, known ...*people.Known) []hall.Decision {
	e.t.Helper()
	return e.happened(0, data, known...)
}

// happened logs an event that lies so far back.
func (e *evening) happened(ago time.Duration, data event.Data, known ...*people.Known) []hall.Decision {
	e.t.Helper()
	if err := data.Validate(); err != nil {
		e.t.Fatal(err)
	}
	e.n++
	ev := event.Event{Seq: e.s.Seq + 1, Door: "test", Source: "test", ID: fmt.Sprint("ev-", e.n), Type: data.Type(), Time: e.now.Add(-ago), Data: data}
	ev.Stamp(e.now)
	var k *people.Known
	if len(known) > 0 {
		k = known[0]
	}
	return e.keep(ev, house.Step(e.s, &ev, k, e.plan))
}

func on(platform string) *happening.StreamOpened {
	return &happening.StreamOpened{StreamInfo: happening.StreamInfo{Platform: platform, Title: "What the tide left", Category: "Field and microscope", URL: "https://" + platform + ".example/tidepool_hours"}}
}

func off(platform string) *happening.StreamClosed {
	return &happening.StreamClosed{StreamInfo: happening.StreamInfo{Platform: platform}}
}

func viewer(login string) event.Person {
	return event.Person{Platform: "quayside", ID: "id-" + login, Login: login, Name: login}
}

func line(login, text string) *happening.ChatSaid {
	c := &happening.ChatSaid{Text: text}
	c.Person = viewer(login)
	return c
}

func raid(login string, viewers int64) *happening.RaidCame {
	r := &happening.RaidCame{Viewers: viewers}
	r.Person = viewer(login)
	return r
}

func (e *evening) said() []hall.Decision { return e.of(hall.Say) }

func (e *evening) of(kind hall.Kind) []hall.Decision {
	var out []hall.Decision
	for _, d := range e.all {
		if d.Kind == kind {
			out = append(out, d)
		}
	}
	return out
}

func (e *evening) wantSaid(n int, about string) []hall.Decision {
	e.t.Helper()
	var got []hall.Decision
	var texts []string
	for _, d := range e.said() {
		texts = append(texts, d.Courtesy+": "+d.Text)
		if strings.HasPrefix(d.Courtesy, about) {
			got = append(got, d)
		}
	}
	if len(got) != n {
		e.t.Fatalf("want %d lines of %q, got %d in:\n%s", n, about, len(got), strings.Join(texts, "\n"))
	}
	return got
}

func (e *evening) wantReason(part string) {
	e.t.Helper()
	var all []string
	for _, d := range e.all {
		all = append(all, string(d.Kind)+" "+d.Courtesy+": "+strings.Join(d.Because, "; "))
		if strings.Contains(strings.Join(d.Because, "; "), part) {
			return
		}
	}
	e.t.Fatalf("no decision gives the reason %q:\n%s", part, strings.Join(all, "\n"))
}

func TestANewcomerIsGreetedOnceInAStream(t *testing.T) {
	e := begin(t)
	e.happens(on("quayside"))
	e.after(time.Minute).happens(line("limpet_lena", "hello!"))
	e.after(time.Minute).happens(line("limpet_lena", "still here"))
	e.after(time.Minute)
	got := e.wantSaid(1, "greet-")
	if !strings.Contains(got[0].Text, "limpet_lena") || got[0].Platform != "quayside" {
		t.Errorf("the greeting went wrong: %+v", got[0])
	}
	e.wantReason("no earlier stream with a visit")
}

func TestSomebodyKnownIsGreetedAsReturningWithTonightCounted(t *testing.T) {
	e := begin(t, func(s *housefile.Settings) {
		s.Courtesy[2].Do[0].Alternatives = []string{"{name} {streams, plural, one {# evening} other {# evenings}}"}
	})
	e.happens(on("quayside"))
	e.happens(line("kelpwright", "evening"), &people.Known{Accounts: []string{"quayside:id-kelpwright"}, Attended: 16})
	e.after(time.Minute)
	if got := e.wantSaid(1, "greet-returning"); got[0].Text != "kelpwright 17 evenings" {
		t.Errorf("said %q", got[0].Text)
	}
}

func TestTheSecondAccountOfOnePersonIsNotGreetedAgain(t *testing.T) {
	e := begin(t)
	both := &people.Known{Accounts: []string{"quayside:id-ottoline", "fernlight:id-ottoline"}, Attended: 3}
	e.happens(on("quayside"))
	e.happens(line("ottoline", "hi"), both)
	again := line("ottoline", "hi from here too")
	again.Person.Platform = "fernlight"
	e.after(time.Minute).happens(again, both)
	e.after(time.Minute)
	e.wantSaid(1, "greet-")
}

func TestAShortDropContinuesTheStream(t *testing.T) {
	e := begin(t)
	e.happens(on("quayside"))
	e.happens(line("limpet_lena", "hello"))
	e.after(20 * time.Minute).happens(off("quayside"))
	e.after(4 * time.Minute).happens(on("quayside"))
	e.happens(line("limpet_lena", "welcome back"))
	e.after(time.Minute)
	if e.s.Stream.Number != 1 || !e.s.Stream.Live() {
		t.Errorf("want stream 1 to go on, have %+v", e.s.Stream)
	}
	e.wantSaid(1, "greet-")
	if posts := e.of(hall.Relay); len(posts) != 1 {
		t.Errorf("want one announcement, got %d", len(posts))
	}
	e.wantReason("less than the grace time")
	e.wantReason("it was announced when it opened")
}

func TestALongDropEndsTheStreamAndTheNextOneGreetsAgain(t *testing.T) {
	e := begin(t)
	e.happens(on("quayside"))
	e.happens(line("limpet_lena", "hello"))
	e.after(time.Minute).happens(off("quayside"))
	e.after(11 * time.Minute)
	if e.s.Stream.Live() {
		t.Fatal("the stream should have ended")
	}
	e.happens(line("limpet_lena", "anyone here?"))
	e.after(time.Hour).happens(on("quayside"))
	e.happens(line("limpet_lena", "there you are"), &people.Known{Accounts: []string{"quayside:id-limpet_lena"}, Attended: 1})
	e.after(time.Minute)
	if e.s.Stream.Number != 2 {
		t.Errorf("want stream 2, have %d", e.s.Stream.Number)
	}
	e.wantSaid(1, "greet-newcomer")
	e.wantSaid(1, "greet-returning")
	e.wantReason("said only while live")
}

func TestADropToldLateStillContinuesTheStream(t *testing.T) {
	e := begin(t)
	e.happens(on("quayside"))
	e.after(30 * time.Minute)
	e.happened(15*time.Minute, off("quayside"))
	e.after(time.Second) // the grace time is over by the clock
	if e.s.Stream.Live() {
		t.Fatal("by what is known so far the stream has ended")
	}
	e.happened(11*time.Minute, on("quayside"))
	if e.s.Stream.Number != 1 || !e.s.Stream.Live() {
		t.Errorf("the platform was gone for four minutes; want stream 1 to go on, have %+v", e.s.Stream)
	}
}

func TestWhoWasGreetedBeforeTheHouseWasToldOfTheOpeningIsNotGreetedAgain(t *testing.T) {
	e := begin(t)
	e.happens(on("quayside"))
	e.after(20 * time.Minute)
	// The stream ends and a new one opens, but the platform's events are held up; chat goes on meanwhile.
	e.after(30 * time.Minute).happens(line("limpet_lena", "hello, a new evening"))
	e.after(time.Minute)
	e.wantSaid(1, "greet-")
	e.happened(25*time.Minute, off("quayside"))
	e.happened(5*time.Minute, on("quayside"))
	if e.s.Stream.Number != 2 {
		t.Fatalf("want stream 2, have %+v", e.s.Stream)
	}
	e.happens(line("limpet_lena", "still here"))
	e.happens(line("sandhopper9", "me too"))
	e.after(time.Minute)
	e.wantSaid(2, "greet-")
}

func TestASecondPlatformJoinsTheStreamAndTheAnnouncementIsFollowedUpOnce(t *testing.T) {
	e := begin(t)
	e.happens(on("quayside"))
	e.after(30 * time.Second).happens(on("fernlight"))
	e.after(time.Minute)
	posts := e.of(hall.Relay)
	if len(posts) != 2 || posts[1].Text != "tidepool_hours is live on Fernlight too: https://fernlight.example/tidepool_hours" || posts[1].Place != posts[0].Place {
		t.Errorf("%+v", posts)
	}
	said := e.wantSaid(2, "announce-opening")
	if said[0].Platform != "quayside" || said[1].Platform != "fernlight" {
		t.Errorf("%s, %s", said[0].Platform, said[1].Platform)
	}
	e.happens(off("fernlight"))
	e.after(time.Minute).happens(on("fernlight")) // a drop is no second coming
	e.after(time.Minute)
	if n := len(e.of(hall.Relay)); n != 2 {
		t.Errorf("%d posts", n)
	}
	e.happens(off("quayside"))
	e.after(30 * time.Minute)
	if !e.s.Stream.Live() {
		t.Error("fernlight is still live, so the stream is on")
	}
}

func TestWhatBecomesOfAnAnnouncementOnASecondPlatformIsASetting(t *testing.T) {
	posts := func(how string, change ...func(*housefile.Settings)) (texts []string) {
		e := begin(t, append(change, func(s *housefile.Settings) {
			s.AlsoOn = housefile.AlsoOn{How: how, Words: []string{"And on {platform}."}}
		})...)
		e.happens(&event.StreamDeclared{Act: "opened"}) // by hand, before any platform tells
		for _, p := range []string{"quayside", "fernlight"} {
			e.after(time.Minute).happens(on(p))
		}
		e.after(time.Minute)
		for _, d := range e.of(hall.Relay) {
			texts = append(texts, d.Courtesy+": "+d.Text)
		}
		return texts
	}
	if got := posts("nothing"); len(got) != 1 {
		t.Errorf("%q", got)
	}
	if got := posts("follow up"); len(got) != 3 || got[1] != "announce-opening: And on Quayside." || got[2] != "announce-opening: And on Fernlight." {
		t.Errorf("%q", got)
	}
	got := posts("each", func(s *housefile.Settings) {
		fern := s.Courtesy[slices.IndexFunc(s.Courtesy, func(c courtesy.Courtesy) bool { return c.ID == "announce-opening" })]
		fern.ID, fern.Who.Platform = "fern-opening", "fernlight"
		fern.Do = []output.Output{{ID: "post", Do: &output.Relay{Place: s.Places[0].Name}, Alternatives: []string{"Under the ferns"}}}
		for i := range s.Courtesy {
			if s.Courtesy[i].ID == "announce-opening" {
				s.Courtesy[i].Who.Platform = "quayside"
			}
		}
		s.Courtesy = append(s.Courtesy, fern)
	})
	if len(got) != 2 || !strings.HasPrefix(got[0], "announce-opening") || got[1] != "fern-opening: Under the ferns" {
		t.Errorf("%q", got)
	}
}

func TestAChangeOfCategoryAloneKeepsTheTitle(t *testing.T) {
	e := begin(t, adds(says("changed", "porch.stream.changed", happening.Free, who.Who{}, nil, "{hasTitle, select, yes {{title}} other {?}} / {hasCategory, select, yes {{category}} other {?}}")))
	e.happens(on("quayside"))
	e.happens(&happening.StreamChanged{StreamInfo: happening.StreamInfo{Platform: "quayside", Category: "Microscope"}})
	e.after(time.Minute)
	if got := e.wantSaid(1, "changed"); got[0].Text != "What the tide left / Microscope" {
		t.Errorf("said %q", got[0].Text)
	}
}

func TestABurstOfNewcomersBecomesFewLinesNamingSix(t *testing.T) {
	e := begin(t)
	e.happens(on("quayside"))
	e.after(time.Minute)
	for i := range 40 {
		e.happens(line(fmt.Sprintf("moth_%02d", i), "hi"))
		e.after(500 * time.Millisecond)
	}
	e.after(2 * time.Minute)
	greetings := e.wantSaid(len(e.said())-1, "greet-") // all but the opening's line
	if len(greetings) > 5 {
		t.Errorf("%d lines for forty newcomers is a flood", len(greetings))
	}
	named := 0
	for _, g := range greetings {
		named += max(1, len(g.Joined))
		if len(g.Joined) > 6 && strings.Count(g.Text, "moth_") != 6 {
			t.Errorf("a line for %d names %d: %q", len(g.Joined), strings.Count(g.Text, "moth_"), g.Text)
		}
		if n := len(g.Joined); n > 6 && !strings.Contains(g.Text, fmt.Sprintf("%d more", n-6)) {
			t.Errorf("the rest is not counted: %q", g.Text)
		}
	}
	if named != 40 {
		t.Errorf("greeted %d of 40", named)
	}
}

func TestARaidIsThankedByItsBandAndTheLeaderShoutedOut(t *testing.T) {
	e := begin(t)
	e.happens(on("quayside"))
	e.after(time.Minute).happens(raid("night_heron_cam", 120))
	asks := e.of(hall.Ask)
	if len(asks) != 1 {
		t.Fatalf("want one look-up, got %d", len(asks))
	}
	e.after(400 * time.Millisecond)
	e.wantSaid(0, "raid-")
	e.happens(&event.LookupAnswered{Ask: asks[0].Line, Found: true, Link: "https://quayside.example/night_heron_cam", Category: "Reedbed at dusk"})
	e.after(time.Minute)
	thanks := e.wantSaid(1, "raid-fleet")
	if !strings.Contains(thanks[0].Text, "120") {
		t.Errorf("said %q", thanks[0].Text)
	}
	if out := e.wantSaid(1, "shout-out"); !strings.Contains(out[0].Text, "quayside.example/night_heron_cam") || !strings.Contains(out[0].Text, "Reedbed at dusk") {
		t.Errorf("the shout-out lacks link or category: %q", out[0].Text)
	}
}

func TestWithoutAnAnswerInTwoSecondsTheSentenceStillReads(t *testing.T) {
	e := begin(t)
	e.happens(on("quayside"))
	e.after(time.Minute).happens(raid("night_heron_cam", 120))
	e.after(1900 * time.Millisecond)
	e.wantSaid(0, "raid-")
	e.after(200 * time.Millisecond)
	got := e.wantSaid(1, "raid-fleet")
	if strings.Contains(got[0].Text, "{") || strings.Contains(got[0].Text, "  ") {
		t.Errorf("a hole in %q", got[0].Text)
	}
	e.wantReason("did not answer within 2s")
}

func TestASmallRaidIsPassedOverInSilence(t *testing.T) {
	e := begin(t)
	e.happens(on("quayside"))
	e.after(time.Minute).happens(raid("sandhopper9", 3))
	e.after(time.Minute)
	e.wantSaid(0, "raid-")
	e.wantReason("passed over in silence")
	if len(e.s.Waiting) != 0 {
		t.Errorf("silence was chosen, nothing waits: %+v", e.s.Waiting)
	}
}

func TestAThankedRaidLeaderGetsNoGeneralGreetingOnTop(t *testing.T) {
	e := begin(t)
	e.happens(on("quayside"))
	e.after(time.Minute).happens(raid("kelpwright", 37))
	e.after(20 * time.Second).happens(line("kelpwright", "hello all"))
	e.after(time.Minute)
	e.wantSaid(0, "greet-")
	e.wantReason("already thanked for the raid")
}

func TestARaidThatOnlyASoundMarkedIsNotThankedAndItsLeaderIsGreeted(t *testing.T) {
	e := begin(t, func(s *housefile.Settings) {
		s.Courtesy = append(s.Courtesy, courtesy.Courtesy{ID: "bell", On: true, When: "porch.raid.came", Do: []output.Output{{ID: "bell", Do: &output.Sound{Fitting: s.Fittings[0].Name, Media: "bell.wav"}}}})
	})
	e.happens(on("quayside"))
	e.after(time.Minute).happens(raid("sandhopper9", 3))
	e.after(20 * time.Second).happens(line("sandhopper9", "hello all"))
	e.after(time.Minute)
	if !slices.ContainsFunc(e.all, func(d hall.Decision) bool { return d.Courtesy == "bell" && d.Kind == "sound" }) {
		t.Fatal("the bell was not rung")
	}
	e.wantSaid(0, "raid-")
	e.wantSaid(1, "greet-newcomer")
}

func TestAGreetingThatStillWaitsIsNotSaidInTheNextStream(t *testing.T) {
	e := begin(t, func(s *housefile.Settings) {
		for i := range s.Courtesy {
			if s.Courtesy[i].Slot == happening.Greeting {
				s.Courtesy[i].Do[0].DelaySeconds = 20
			}
		}
	})
	e.happens(on("quayside"))
	e.after(time.Minute).happens(line("limpet_lena", "hello"))
	e.after(5 * time.Second).happens(&event.StreamDeclared{Act: "new", Title: "The second tide", Member: "Odalys Brine"})
	e.after(time.Minute)
	e.wantSaid(0, "greet-")
	e.wantReason("another stream opened before it could be said")
	e.happens(line("limpet_lena", "oh, a new one"))
	e.after(time.Minute)
	e.wantSaid(1, "greet-newcomer")
}

func TestALateRaidIsNotSpokenOfButWaits(t *testing.T) {
	e := begin(t)
	e.happens(on("quayside"))
	e.after(10*time.Minute).happened(5*time.Minute, raid("kelpwright", 37))
	e.after(time.Minute)
	e.wantSaid(0, "raid-")
	if len(e.s.Waiting) != 1 || e.s.Waiting[0].Kind != "late" {
		t.Fatalf("the raid should wait for a person: %+v", e.s.Waiting)
	}
	ask := &event.DeskAsked{Act: "thank"}
	ask.Person = viewer("kelpwright")
	e.happens(ask)
	e.after(time.Minute)
	e.wantSaid(1, "raid-boatload")
	if len(e.s.Waiting) != 0 {
		t.Errorf("it is thanked now: %+v", e.s.Waiting)
	}
}

func TestARaidThatCannotBeThankedByHandGoesOnWaiting(t *testing.T) {
	e := begin(t)
	e.happens(on("quayside"))
	e.after(10*time.Minute).happened(5*time.Minute, raid("kelpwright", 37))
	if len(e.s.Waiting) != 1 {
		t.Fatalf("%+v", e.s.Waiting)
	}
	for i := range e.plan.Settings.Courtesy {
		e.plan.Settings.Courtesy[i].On = false
	}
	silent, _ := house.Ready(e.plan.Settings, 2)
	e.plan = silent
	ds := e.happens(&event.DeskAsked{Act: "thank", Person: viewer("kelpwright"), Member: "Odalys Brine"})
	if len(ds) != 1 || ds[0].Kind != hall.Refuse || len(e.s.Waiting) != 1 {
		t.Errorf("%+v; waiting %+v", ds, e.s.Waiting)
	}
	for i := range e.plan.Settings.Courtesy {
		e.plan.Settings.Courtesy[i].On = true
	}
	e.plan, _ = house.Ready(e.plan.Settings, 3)
	e.happens(&event.DeskAsked{Act: "thank", Person: viewer("kelpwright"), Member: "Odalys Brine"})
	e.after(10 * time.Second)
	if len(e.s.Waiting) != 0 {
		t.Errorf("it was thanked, and still waits: %+v", e.s.Waiting)
	}
	if got := e.wantSaid(1, "raid-")[0]; !got.ByHand || !strings.Contains(got.Text, "kelpwright") {
		t.Errorf("%+v", got)
	}
}

func TestALateChatLineDoesNotUseUpTheArrival(t *testing.T) {
	e := begin(t)
	e.happens(on("quayside"))
	e.after(10*time.Minute).happened(5*time.Minute, line("mossy_mare", "said while the house was down"))
	e.after(time.Minute)
	e.wantSaid(0, "greet-")
	e.happens(line("mossy_mare", "hello?"))
	e.after(time.Minute)
	e.wantSaid(1, "greet-")
}

func TestALateOpeningIsRelayedButNotSaid(t *testing.T) {
	e := begin(t)
	e.happened(5*time.Minute, on("quayside"))
	e.after(time.Minute)
	if n := len(e.of(hall.Relay)); n != 1 {
		t.Errorf("want the post, got %d", n)
	}
	e.wantSaid(0, "announce")
}

func TestStreamerAndHouseAndListedBotsAreNeverGreeted(t *testing.T) {
	e := begin(t)
	e.happens(on("quayside"))
	boss := line("odalys", "evening everyone")
	boss.Person.Roles = []event.Role{event.Streamer}
	e.happens(boss)
	e.happens(line("Quayside_Clerk", "reminder: be kind"))
	e.happens(line("porchlamp", "it is me"))
	e.after(time.Minute)
	e.wantSaid(0, "greet-")
	e.wantReason("is the streamer")
	e.wantReason("never greeted")
}

func TestHushHoldsLinesAndLetsHandsThrough(t *testing.T) {
	e := begin(t)
	e.happens(on("quayside"))
	e.after(time.Minute).happens(&event.Hushed{On: true})
	e.happens(line("tidewrack", "hello"))
	e.after(20 * time.Second)
	e.wantSaid(0, "greet-")
	e.happens(&event.DeskSaid{Text: "back in a minute", To: []string{"quayside"}})
	e.wantSaid(1, "desk")
	e.happens(&event.Hushed{On: false})
	e.after(10 * time.Second)
	e.wantSaid(1, "greet-")
}

func TestWhatWaitedTooLongUnderHushIsGivenUp(t *testing.T) {
	e := begin(t)
	e.happens(on("quayside"))
	e.after(time.Minute).happens(&event.Hushed{On: true})
	e.happens(line("tidewrack", "hello"))
	e.happens(raid("kelpwright", 37))
	e.after(10 * time.Minute).happens(&event.Hushed{On: false})
	e.after(time.Minute)
	e.wantSaid(0, "greet-")
	e.wantReason("was given up")
	if len(e.s.Waiting) != 1 || e.s.Waiting[0].Kind != "raid" {
		t.Errorf("the raid is unthanked and should wait: %+v", e.s.Waiting)
	}
}

func TestALineComingUpCanBeHurriedChangedAndDropped(t *testing.T) {
	e := begin(t)
	e.happens(on("quayside"))
	e.after(time.Minute)
	var lines []string
	for _, n := range []string{"tidewrack", "mossy_mare"} {
		e.happens(line(n, "hello"))
	}
	e.after(3 * time.Second) // no platform told about them
	for i := range e.s.Queue.Lines {
		lines = append(lines, e.s.Queue.Lines[i].ID)
	}
	reword := &event.LineReworded{Text: "Hello tidewrack, mind the step."}
	reword.Line = lines[0]
	e.happens(reword)
	hurry, drop := &event.LineHurried{}, &event.LineDropped{}
	hurry.Line, drop.Line = lines[0], lines[1]
	e.happens(hurry)
	e.happens(drop)
	e.after(time.Minute)
	if got := e.wantSaid(1, "greet-"); got[0].Text != "Hello tidewrack, mind the step." {
		t.Errorf("said %q", got[0].Text)
	}
	e.happens(drop)
	e.wantReason("already said, dropped or given up")
}

func TestTheGapAndTheNetworksLimitAreKept(t *testing.T) {
	e := begin(t, func(s *housefile.Settings) {
		s.Pace.JoinAt = 0
		s.Pace.WaitSeconds = 600
		s.Profiles[0].Chat.Lines, s.Profiles[0].Chat.WindowSeconds = 4, 30
	})
	e.happens(on("quayside"))
	for i := range 12 {
		e.happens(line(fmt.Sprint("forager_", i), "hi"))
	}
	e.after(10 * time.Minute)
	var at []time.Time
	for _, l := range e.log {
		for _, d := range l.ds {
			if d.Kind == hall.Say {
				at = append(at, l.ev.Logged)
			}
		}
	}
	if len(at) != 13 {
		t.Fatalf("want 13 lines, got %d", len(at))
	}
	for i := range at {
		if i > 0 && at[i].Sub(at[i-1]) < 3*time.Second {
			t.Errorf("lines %d and %d are %s apart", i-1, i, at[i].Sub(at[i-1]))
		}
		if i >= 4 && at[i].Sub(at[i-4]) < 30*time.Second {
			t.Errorf("five lines within %s", at[i].Sub(at[i-4]))
		}
	}
}

func TestAHostileNameCannotCommandPingOrTurnTheLine(t *testing.T) {
	for _, name := range []string{"/ban everyone", ".kick", "a\r\nQUIT :bye", "\u202eevil\u202c", "{name} {streams}", "e" + strings.Repeat("\u0301", 2000), "\x01ACTION\x01"} {
		e := begin(t, func(s *housefile.Settings) { s.Courtesy[1].Do[0].Alternatives = []string{"{name}, welcome in!"} })
		e.happens(on("quayside"))
		c := line("rogue", "hi")
		c.Person.Name = name
		e.happens(c)
		e.after(time.Minute)
		got := e.wantSaid(1, "greet-")[0].Text
		if strings.ContainsAny(got, "\r\n\x01\u202e") || strings.HasPrefix(got, "/") || strings.HasPrefix(got, ".") || len(got) > 400 {
			t.Errorf("%.20q became %q", name, got)
		}
	}
}

func TestARaidersNameCannotPingAPlace(t *testing.T) {
	e := begin(t, func(s *housefile.Settings) {
		boatload := &s.Courtesy[slices.IndexFunc(s.Courtesy, func(c courtesy.Courtesy) bool { return c.ID == "raid-boatload" })]
		boatload.Do = append(boatload.Do, s.Courtesy[0].Do[0])
		boatload.Do[1].Alternatives = []string{"@deckhands {name} came by"}
	})
	e.happens(on("quayside"))
	r := raid("kelpwright", 20)
	r.Person.Name = "@everybody"
	e.happens(r)
	posts := slices.DeleteFunc(e.of(hall.Relay), func(d hall.Decision) bool { return d.Courtesy != "raid-boatload" })
	body := string(posts[len(posts)-1].Body)
	if strings.Contains(body, "@everybody") {
		t.Errorf("the name can call: %s", body)
	}
	if !strings.Contains(body, "@deckhands") {
		t.Errorf("the streamer's own call is gone: %s", body)
	}
}

func TestAlternativesDoNotRepeatUntilAllWereUsed(t *testing.T) {
	e := begin(t, func(s *housefile.Settings) { s.Pace.JoinAt = 0 })
	e.happens(on("quayside"))
	var alts []uint64
	for i := range 12 {
		for _, d := range e.happens(line(fmt.Sprint("printmaker_", i), "hi")) {
			if d.Kind == hall.Planned {
				alts = append(alts, d.Alt)
			}
		}
		e.after(10 * time.Second)
	}
	for i := 0; i+4 <= len(alts); i += 4 {
		seen := map[uint64]bool{}
		for _, a := range alts[i : i+4] {
			seen[a] = true
		}
		if len(seen) != 4 {
			t.Errorf("round %d used %d of 4 alternatives", i/4, len(seen))
		}
	}
}

func TestTheLogBringsTheHouseBackExactly(t *testing.T) {
	e := begin(t)
	e.happens(on("quayside"))
	for i := range 10 {
		e.happens(line(fmt.Sprint("gardener_", i), "hi"))
		e.after(700 * time.Millisecond)
	}
	e.happens(raid("kelpwright", 37))
	e.happened(5*time.Minute, raid("night_heron_cam", 90))
	e.after(5 * time.Second)
	again := house.NewState()
	for i, l := range e.log {
		if i == len(e.log)/2 { // a snapshot half-way must make no difference
			raw, _ := json.Marshal(again)
			var ok bool
			if again, _, ok = house.RestoreState(raw); !ok {
				t.Fatal("the snapshot is not understood")
			}
		}
		raw, _ := json.Marshal(l.ds)
		var ds []hall.Decision
		if err := json.Unmarshal(raw, &ds); err != nil {
			t.Fatal(err)
		}
		again.Evolve(&l.ev, ds)
	}
	a, _ := json.Marshal(e.s)
	b, _ := json.Marshal(again)
	if string(a) != string(b) {
		t.Errorf("lived and restored differ:\n%s\n%s", a, b)
	}
}

func TestEveryDecisionIsUniqueWithinItsEventAndSaysWhy(t *testing.T) {
	e := begin(t)
	e.happens(on("quayside"))
	e.happens(on("fernlight"))
	for i := range 30 {
		e.happens(line(fmt.Sprint("trapper_", i), "hi"))
	}
	e.happens(raid("kelpwright", 37))
	e.after(3 * time.Minute)
	for _, l := range e.log {
		seen := map[string]bool{}
		for _, d := range l.ds {
			k := d.Courtesy + "|" + d.Slot()
			if seen[k] {
				t.Errorf("event %d decides %q twice", l.ev.Seq, k)
			}
			seen[k] = true
			if len(d.Because) == 0 {
				t.Errorf("event %d: %s %s gives no reason", l.ev.Seq, d.Kind, d.Courtesy)
			}
		}
	}
}

func (e *evening) snapshot() []byte {
	raw, err := json.Marshal(e.s)
	if err != nil {
		e.t.Fatal(err)
	}
	return raw
}

func (e *evening) restore(raw []byte) {
	s, _, ok := house.RestoreState(raw)
	if !ok {
		e.t.Fatal("the state cannot be restored")
	}
	e.s = s
}
