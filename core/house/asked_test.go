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
	"vividporch/core/who"
)

// answering is a courtesy that answers a word.
func answering(id string, words []string, asked *courtesy.Asking, wording string) courtesy.Courtesy {
	return courtesy.Courtesy{ID: id, On: true, When: happening.Command, Asks: words, Asked: asked, Slot: happening.Answer, Do: []output.Output{{ID: "chat", Do: &output.Say{}, Alternatives: []string{wording}}}}
}

// with adds courtesies to a house that says everything at once.
func with(list ...courtesy.Courtesy) func(*housefile.Settings) {
	return func(s *housefile.Settings) {
		stage(s)
		s.Pace.GapSeconds = 0
		s.Courtesy = append(s.Courtesy, list...)
	}
}

func (e *evening) texts(id string) (out []string) {
	for _, d := range e.said() {
		if d.Courtesy == id {
			out = append(out, d.Text)
		}
	}
	return out
}

func TestACommandRestsForAllAndForWhoeverAsked(t *testing.T) {
	e := begin(t, with(answering("tides", []string{"tides"}, &courtesy.Asking{Rest: 10, Person: 60, Resting: []string{"{name}, give it a moment"}}, "High at nine ({times})")))
	e.happens(on("quayside"))
	ask := func(login string) { e.happens(line(login, "!tides")); e.after(2 * time.Second) }
	ask("mossy_mare")
	ask("tidewrack") // within ten seconds of any answer
	ask("tidewrack") // and is told so once
	e.after(10 * time.Second)
	ask("tidewrack")
	e.after(15 * time.Second)
	ask("mossy_mare") // within a minute of her own
	ask("mossy_mare")
	e.after(time.Minute)
	ask("mossy_mare")
	if got := strings.Join(e.texts("tides"), "|"); got != "High at nine (1)|tidewrack, give it a moment|High at nine (2)|mossy_mare, give it a moment|High at nine (3)" {
		t.Error(got)
	}
	e.wantReason("was answered less than 10s ago")
	e.wantReason("they asked less than 1m0s ago")
}

func TestACommandOfTwoAccountsOfOnePersonRestsOnce(t *testing.T) {
	e := begin(t, with(answering("tides", []string{"tides"}, &courtesy.Asking{Person: 60}, "High at nine")))
	e.happens(on("quayside"))
	known := &people.Known{Person: 7, Accounts: []string{"quayside:id-mossy_mare", "fernlight:id-mossy_mare"}}
	e.happens(line("mossy_mare", "!tides"), known)
	other := line("mossy_mare", "!tides")
	other.Person.Platform = "fernlight"
	e.happens(other, known)
	e.after(time.Minute)
	e.wantSaid(1, "tides")
}

func TestTheHouseMayAlwaysAndDoesNotRest(t *testing.T) {
	nobody := answering("rules", nil, &courtesy.Asking{Rest: 3600}, "Be kind to limpets, {name}")
	nobody.Who.Nobody = true
	says := func(id, when string, slot happening.Slot) courtesy.Courtesy {
		return courtesy.Courtesy{ID: id, On: true, When: when, Slot: slot, Do: []output.Output{{ID: "a", Do: &output.Answer{Of: "rules"}}}}
	}
	follow, ask := says("on-follow", "porch.person.followed", happening.Thanks), says("asked", happening.Command, happening.Answer)
	ask.Asks = []string{"house"}
	e := begin(t, with(nobody, follow, ask))
	e.happens(on("quayside"))
	for range 2 {
		e.happens(followed("tidewrack"))
		e.happens(line("mossy_mare", "!house"))
		e.happens(line("mossy_mare", "!rules"))
		e.after(time.Minute)
	}
	got := e.texts("rules")
	if len(got) != 4 || !slices.Contains(got, "Be kind to limpets, tidewrack") || !slices.Contains(got, "Be kind to limpets, mossy_mare") {
		t.Errorf("%q", got)
	}
}

func TestAnAnswerThatComesBackToItselfIsRefusedBeforeItIsInForce(t *testing.T) {
	a, b := answering("a", []string{"a"}, nil, "a"), answering("b", []string{"b"}, nil, "b")
	a.Do = append(a.Do, output.Output{ID: "on", Do: &output.Answer{Of: "b"}})
	b.Do = append(b.Do, output.Output{ID: "on", Do: &output.Answer{Of: "a"}})
	faults := faultsOf(t, with(a, b))
	if !slices.ContainsFunc(faults, func(f courtesy.Fault) bool { return strings.Contains(f.What, "a brings on b brings on a") }) {
		t.Errorf("%+v", faults)
	}
	c := answering("c", []string{"c"}, nil, "c")
	c.Do[0] = output.Output{ID: "on", Do: &output.Answer{Of: "gone"}}
	if faults = faultsOf(t, with(c)); len(faults) != 1 || faults[0].At != "do.0.of" {
		t.Errorf("%+v", faults)
	}
}

func TestACommandIsHeardBehindThePlatformsSignOrItsOwn(t *testing.T) {
	e := begin(t, with(answering("tides", []string{"tides", "~ebb"}, nil, "High at nine")), func(s *housefile.Settings) {
		s.Commands.Signs = map[string]string{"fernlight": "?+"}
	})
	e.happens(on("quayside"))
	for _, c := range []struct {
		platform, text string
		answered       bool
	}{
		{"quayside", "!tides", true}, {"quayside", "?tides", false}, {"quayside", "~ebb", true},
		{"fernlight", "?tides", true}, {"fernlight", "+TIDES", true}, {"fernlight", "!tides", false}, {"fernlight", "~Ebb", true}, {"fernlight", "!ebb", false},
	} {
		before := len(e.texts("tides"))
		l := line("mossy_mare", c.text)
		l.Person.Platform = c.platform
		e.happens(l)
		e.after(10 * time.Second)
		if got := len(e.texts("tides")) > before; got != c.answered {
			t.Errorf("%s on %s: answered %v", c.text, c.platform, got)
		}
	}
}

func TestWordsInASentenceAskTooAndNameWhoeverIsMarked(t *testing.T) {
	e := begin(t, with(answering("when", nil, &courtesy.Asking{Words: []string{"when does", "when is the stream"}}, "{hasMeant, select, yes {Ask {meant}} other {Thursdays}}, {name}")))
	e.happens(on("quayside"))
	e.happens(line("kelpwright", "evening"))
	e.happens(line("mossy_mare", "so WHEN is the stream?"))
	e.happens(line("mossy_mare", "and when does @kelpwright go live?"))
	e.happens(line("mossy_mare", "whenever"))
	e.after(time.Minute)
	if got := strings.Join(e.texts("when"), "|"); got != "Thursdays, mossy_mare|Ask kelpwright, mossy_mare" {
		t.Error(got)
	}
}

func TestAWordByWordAnswerAndWhoeverIsNamedByALink(t *testing.T) {
	e := begin(t, with(answering("say", []string{"say"}, nil, "{hasFirst, select, yes {{first}} other {-}}/{hasSecond, select, yes {{second}} other {-}}/{hasThird, select, yes {{third}} other {-}}/{hasAfter, select, yes {{after}} other {-}}/{hasMeant, select, yes {{meant}} other {-}}")), func(s *housefile.Settings) {
		s.Profiles[0].Link = "https://quayside.example/{login}"
	})
	e.happens(on("quayside"))
	e.happens(line("kelpwright", "evening"))
	for _, text := range []string{"!say", "!say one two three four", "!say https://quayside.example/Kelpwright?from=chat hi", "!say (@kelpwright)", "!say {name} '{'"} {
		e.happens(line("mossy_mare", text))
		e.after(5 * time.Second)
	}
	want := []string{"-/-/-/-/-", "one/two/three/two three four/-", "https://quayside.example/Kelpwright?from=chat/hi/-/hi/kelpwright", "(@kelpwright)/-/-/-/kelpwright", "{name}/'{'/-/'{'/-"}
	if got := e.texts("say"); !slices.Equal(got, want) {
		t.Errorf("%q", got)
	}
}

func TestACounterIsSetByHandAndOutlivesTheStreamAndARestart(t *testing.T) {
	e := begin(t, with(answering("falls", []string{"falls"}, nil, "Fell in {times, plural, one {once} other {# times}}")))
	e.happens(on("quayside"))
	e.happens(line("mossy_mare", "!falls"))
	e.happens(&event.CounterSet{Courtesy: "falls", Times: 41, Was: 1, Member: "Odalys Brine"})
	e.happens(line("mossy_mare", "!falls"))
	e.after(time.Minute)
	e.restore(e.snapshot())
	e.happens(off("quayside"))
	e.after(20 * time.Minute)
	e.happens(on("quayside"))
	e.happens(line("mossy_mare", "!falls"))
	e.after(time.Minute)
	if got := strings.Join(e.texts("falls"), "|"); got != "Fell in once|Fell in 42 times|Fell in 43 times" {
		t.Error(got)
	}
}

func TestACommandForSomeIsAnsweredByWhoeverIsCloserAndTheOthersRestOnTheirOwn(t *testing.T) {
	crew := answering("tides-crew", []string{"tides"}, &courtesy.Asking{Rest: 60}, "Low Water League: nine sharp")
	crew.Who.Crews = &who.Crews{Of: []string{"low-water-league"}}
	e := begin(t, with(answering("tides", []string{"tides"}, nil, "High at nine"), crew))
	e.happens(on("quayside"))
	for range 2 {
		e.happens(line("mossy_mare", "!tides"), &people.Known{Crews: []string{"low-water-league"}})
		e.happens(line("tidewrack", "!tides"))
		e.after(5 * time.Second)
	}
	if crew, all := len(e.texts("tides-crew")), len(e.texts("tides")); crew != 1 || all != 2 {
		t.Errorf("the crew was answered %d times, all others %d", crew, all)
	}
	if n := len(e.of(hall.Kind("asked"))); n != 3 {
		t.Errorf("counted %d times", n)
	}
}

func followed(login string) *happening.PersonFollowed {
	f := &happening.PersonFollowed{}
	f.Person = viewer(login)
	return f
}

// faultsOf are the faults of a house that is not to come into force.
func faultsOf(t *testing.T, change func(*housefile.Settings)) []courtesy.Fault {
	t.Helper()
	s := settings(t)
	change(s)
	_, faults := house.Ready(s, 1)
	return faults
}

// greeters is a house that answers them, several close together as one.
func greeters(rest, person float64) func(*housefile.Settings) {
	return func(s *housefile.Settings) {
		with()(s)
		s.Courtesy = slices.DeleteFunc(s.Courtesy, func(c courtesy.Courtesy) bool { return c.When == happening.Hello || c.When == happening.Arrival })
		s.Courtesy = append(s.Courtesy, courtesy.Courtesy{ID: "hello", On: true, When: happening.Hello, Slot: happening.Answer, Burst: &courtesy.Burst{Seconds: 3, At: 2},
			Do: []output.Output{{ID: "chat", Do: &output.Say{}, Alternatives: []string{"Hello, {name}"}, Joined: []string{"Hello, {names}"}}}})
		s.Hello = housefile.Hello{Words: []string{"hello", "hey", "boa noite"}, RestSeconds: rest, PersonSeconds: person}
	}
}

func TestAHelloIsKnownDrawnOutAndInSeveralLanguages(t *testing.T) {
	for text, answered := range map[string]bool{"heyyyy all": true, "HELLOOO": true, "Boa noite!": true, "hey, hey": true, "they said": false, "heydey": false, "@kelpwright hello": false, "hello kelpwright": false, "othello": false} {
		t.Run(text, func(t *testing.T) {
			e := begin(t, greeters(0, 0))
			e.happens(on("quayside"))
			e.happens(line("kelpwright", "evening"))
			e.happens(line("mossy_mare", text))
			e.after(time.Minute)
			if got := len(e.texts("hello")) == 1; got != answered {
				t.Errorf("answered: %v", got)
			}
		})
	}
}

func TestHellosCloseTogetherAreAnsweredAsOneThoughEachWouldRest(t *testing.T) {
	e := begin(t, greeters(20, 600))
	e.happens(on("quayside"))
	for _, login := range []string{"mossy_mare", "tidewrack", "pebble_june"} {
		e.happens(line(login, "hello"))
		e.after(500 * time.Millisecond)
	}
	e.after(5 * time.Second)
	e.happens(line("saltpan_pip", "hello")) // too soon after them
	e.after(time.Minute)
	e.happens(line("mossy_mare", "hello")) // and her own is not ten minutes ago
	e.happens(line("grebe_watcher", "hello"))
	e.after(time.Minute)
	var said []string
	for _, d := range e.said() {
		said = append(said, d.Text)
	}
	if got := strings.Join(said, "|"); !strings.Contains(got, "Hello, mossy_mare, tidewrack, pebble_june|") && !strings.Contains(got, "Hello, mossy_mare, tidewrack and pebble_june|") || !strings.HasSuffix(got, "Hello, grebe_watcher") || strings.Contains(got, "saltpan") {
		t.Error(got)
	}
}

// shouting is a house that shouts out who has ever streamed.
func shouting(gap, hours float64) func(*housefile.Settings) {
	return func(s *housefile.Settings) {
		with()(s)
		s.Courtesy = []courtesy.Courtesy{
			{ID: "out", On: true, When: happening.Arrival, Slot: happening.ShoutOut, Who: who.Who{Mark: people.Fellow}, Do: []output.Output{{ID: "chat", Do: &output.Say{}, Alternatives: []string{"Go and see {name}"}}}},
			{ID: "so", On: true, When: happening.Command, Asks: []string{"so"}, Slot: happening.Answer, Do: []output.Output{{ID: "s", Do: &output.ShoutOut{}}}}}
		s.Pace.WaitSeconds = 20
		s.ShoutOuts = housefile.ShoutOuts{GapSeconds: gap, PersonHours: hours, Never: []string{"quiet_quay"}}
	}
}

func TestShoutOutsKeepTheirGapAndNoneIsLostForIt(t *testing.T) {
	e := begin(t, shouting(60, 0))
	e.happens(on("quayside"))
	streams := &people.Known{Fellow: true}
	for _, login := range []string{"kelpwright", "mothlight", "night_heron_cam", "reed_watch", "quiet_quay"} {
		e.happens(line(login, "evening"), streams)
	}
	e.after(10 * time.Minute)
	var at []time.Time
	for i := range e.log {
		for _, d := range e.log[i].ds {
			if d.Kind == hall.Say && d.Courtesy == "out" {
				at = append(at, e.log[i].ev.Logged)
			}
		}
	}
	if len(at) != 4 {
		t.Fatalf("%d were shouted out", len(at))
	}
	for i := 1; i < len(at); i++ {
		if at[i].Sub(at[i-1]) < time.Minute {
			t.Errorf("%s after the one before", at[i].Sub(at[i-1]))
		}
	}
	e.wantReason("is on the list of those who are not shouted out")
	e.happens(line("mossy_mare", "!so quiet_quay")) // whoever may ask gets it
	e.after(2 * time.Minute)
	if n := len(e.texts("out")); n != 5 {
		t.Errorf("%d were shouted out", n)
	}
}

func TestSomebodyIsNotShoutedOutAgainTooSoonOverStreamsButIsWhenAsked(t *testing.T) {
	e := begin(t, shouting(0, 48))
	streams := &people.Known{Fellow: true}
	evening := func() {
		e.happens(on("quayside"))
		e.happens(line("kelpwright", "evening"), streams)
		e.after(time.Minute)
		e.happens(off("quayside"))
		e.after(time.Hour)
		e.restore(e.snapshot())
	}
	evening()
	raw, _ := json.Marshal(map[string]any{"last": e.now.Add(-time.Hour - time.Minute)})
	streams.Kept = people.Kept{"quayside:id-kelpwright": {"shout-out": raw}} // as the guest book knows it from now on
	e.after(20 * time.Hour)
	evening()
	e.wantReason("was shouted out less than 48h0m0s ago")
	if n := len(e.texts("out")); n != 1 {
		t.Fatalf("%d times", n)
	}
	e.happens(on("quayside"))
	e.happens(line("kelpwright", "evening"), streams)
	e.happens(line("mossy_mare", "!so kelpwright"))
	e.after(time.Minute)
	e.happens(off("quayside"))
	e.after(50 * time.Hour)
	evening()
	if n := len(e.texts("out")); n != 3 {
		t.Errorf("%d times", n)
	}
}

func TestGreetingsAndShoutOutsAreMadeAnewForOneOrForAll(t *testing.T) {
	e := begin(t, shouting(0, 0), func(s *housefile.Settings) {
		s.Courtesy = append(s.Courtesy, courtesy.Courtesy{ID: "greet", On: true, When: happening.Arrival, Slot: happening.Greeting, Do: []output.Output{{ID: "chat", Do: &output.Say{}, Alternatives: []string{"Welcome, {name}"}}}})
	})
	e.happens(on("quayside"))
	streams := &people.Known{Fellow: true}
	come := func() {
		e.happens(line("kelpwright", "evening"), streams)
		e.happens(line("mothlight", "evening"), streams)
		e.after(2 * time.Minute)
	}
	want := func(greeted, shouted int) {
		t.Helper()
		if g, s := len(e.texts("greet")), len(e.texts("out")); g != greeted || s != shouted {
			t.Errorf("greeted %d, shouted out %d; want %d and %d", g, s, greeted, shouted)
		}
	}
	come()
	come()
	want(2, 2)
	e.happens(&event.Rearmed{What: event.Greetings, Person: viewer("kelpwright")})
	come()
	come()
	want(3, 2)
	e.happens(&event.Rearmed{What: event.ShoutOuts})
	e.happens(&event.Rearmed{What: event.Greetings})
	e.restore(e.snapshot())
	come()
	come()
	want(5, 4)
	if n := len(e.s.Evening.Arrivals); n != 2 {
		t.Errorf("%d arrivals on the evening line", n)
	}
	e.happens(&event.Rearmed{What: event.ShoutOuts, Person: viewer("tidewrack")})
	e.wantReason("was not shouted out in this stream")
}

func TestAnAnswerTellsOfWhoeverIsMeantAndTheStreamerHasASentenceOfTheirOwn(t *testing.T) {
	e := begin(t, with(answering("age", []string{"age"}, nil, "{follows, select, streamer {{hasMeant, select, yes {{meant}} other {{name}}} is at home} yes {{hasMeant, select, yes {{meant}} other {{name}}}: {followAge}, {streams}, {standing}} other {no, {name}}}")))
	e.happens(on("quayside"))
	e.after(90 * time.Second)
	followed := dusk.AddDate(-1, 0, -3)
	e.happens(line("kelpwright", "evening"), &people.Known{Followed: &followed, Attended: 7})
	for _, text := range []string{"!age", "!age kelpwright"} {
		e.happens(line("mossy_mare", text))
		e.after(5 * time.Second)
	}
	streamer := line("tidepool_hours", "!age")
	streamer.Person.Roles = []event.Role{event.Streamer}
	e.happens(streamer)
	e.after(5 * time.Second)
	want := "no, mossy_mare|kelpwright: 1 year, 3 days and 1 minute, 8, returning|tidepool_hours is at home"
	if got := strings.Join(e.texts("age"), "|"); got != want {
		t.Errorf("%s\nwant %s", got, want)
	}
}

func TestCountsAreToldAsThePlatformToldThemAndCountedOnAndForgottenAfterADay(t *testing.T) {
	e := begin(t, with(answering("many", []string{"many"}, nil, "{hasFollowers, select, yes {{followers}} other {unknown}} {hasUpTime, select, yes {{upTime}} other {off}}")))
	ask := func() { e.happens(line("mossy_mare", "!many")); e.after(time.Second) }
	ask()
	e.happens(on("quayside"))
	e.happens(&event.CountsTold{Platform: "quayside", Counts: map[string]int64{"followers": 1204}})
	e.after(2 * time.Minute)
	ask()
	e.happens(followed("tidewrack"))
	ask()
	e.restore(e.snapshot())
	ask()
	e.happens(&event.CountsTold{Platform: "fernlight", Counts: map[string]int64{"followers": 10}})
	l := line("mossy_mare", "!many")
	l.Person.Platform = "fernlight"
	e.happens(l)
	e.after(25 * time.Hour)
	ask()
	var got []string
	for _, s := range e.texts("many") {
		n, _, _ := strings.Cut(s, " ")
		got = append(got, n)
	}
	if strings.Join(got, " ") != "1204 1205 1205 10 unknown" {
		t.Errorf("%q", e.texts("many"))
	}
}

func TestATextFromOutsideIsSaidWithItsAgeAndNotOnceItIsOldOrOfAnotherAddress(t *testing.T) {
	own := func(s *housefile.Settings) {
		s.FillIns = append(s.FillIns, housefile.FillIn{Name: "lowWater", Kind: "fetched", Address: "https://tides.example/next"})
	}
	e := begin(t, own, with(answering("low", []string{"low"}, nil, "{hasLowWater, select, yes {{lowWater}, as of {lowWaterAge}} other {nobody knows}}")))
	e.happens(on("quayside"))
	ask := func() { e.happens(line("mossy_mare", "!low")); e.after(time.Second) }
	ask()
	e.happens(&event.TextFetched{Name: "lowWater", Address: "https://tides.example/next", Text: "Low at {ten} \x1b[31m"})
	e.after(12 * time.Minute)
	ask()
	e.restore(e.snapshot())
	e.happens(&event.TextFetched{Name: "lowWater", Address: "https://elsewhere.example", Text: "High"})
	ask()
	e.happens(&event.TextFetched{Name: "lowWater", Address: "https://tides.example/next", Text: "Low at one"})
	e.after(25 * time.Hour)
	ask()
	want := []string{"nobody knows", "Low at {ten} [31m, as of 12 minutes", "nobody knows", "nobody knows"}
	if got := e.texts("low"); !slices.Equal(got, want) {
		t.Errorf("%q", got)
	}
}

func TestWhoStreamsAlongIsTypedOrSaidAndOneLinkShowsAll(t *testing.T) {
	set := answering("with", []string{"with"}, nil, "Noted: {hasTogether, select, yes {{together}} other {nobody}}")
	set.Do = append([]output.Output{{ID: "note", Do: &output.Along{}}}, set.Do...)
	set.Who.Role, set.Who.OrAbove = event.Moderator, true
	e := begin(t, with(set, answering("together", []string{"together"}, nil, "{hasAlongside, select, yes {{alongside}: } other {}}{hasTogether, select, yes {{together}} other {alone}}")), func(s *housefile.Settings) {
		s.Along = map[string]string{"quayside": "https://side.example/{login}/{next}?big=1"}
		s.Profiles[0].Link = "https://quayside.example/{login}"
	})
	e.happens(&event.AlongSet{Logins: []string{"mothlight"}, Member: "Odalys Brine"})
	e.happens(on("quayside"))
	ask := func() { e.happens(line("mossy_mare", "!together")); e.after(time.Second) }
	ask()
	mod := line("sandhopper9", "!with @kelpwright, https://quayside.example/night_heron_cam and tidepool_hours")
	e.happens(mod) // who may not
	mod.Person.Roles = []event.Role{event.Moderator}
	e.happens(mod)
	e.restore(e.snapshot())
	ask()
	e.happens(&event.AlongSet{})
	ask()
	e.happens(&event.AlongSet{Logins: []string{"mothlight"}})
	e.happens(off("quayside"))
	e.after(20 * time.Minute)
	e.happens(on("quayside")) // another evening
	ask()
	e.after(10 * time.Second)
	want := []string{"mothlight: https://side.example/tidepool_hours/mothlight?big=1", "kelpwright and night_heron_cam: https://side.example/tidepool_hours/kelpwright/night_heron_cam?big=1", "alone", "alone"}
	if got := e.texts("together"); !slices.Equal(got, want) {
		t.Errorf("%q", got)
	}
	if got := e.texts("with"); !slices.Equal(got, []string{"Noted: https://side.example/tidepool_hours/kelpwright/night_heron_cam?big=1"}) {
		t.Errorf("%q", got)
	}
}

func TestSomebodyHasTheirOwnWordsHoweverTheyAreShoutedOut(t *testing.T) {
	own := courtesy.Courtesy{ID: "own", On: true, When: happening.Arrival, Slot: happening.ShoutOut, Who: who.Who{Account: "quayside:id-kelpwright"}, Do: []output.Output{{ID: "chat", Do: &output.Say{}, Alternatives: []string{"Our own {name}"}}}}
	e := begin(t, shouting(0, 0), func(s *housefile.Settings) {
		raid := courtesy.Courtesy{ID: "raid-out", On: true, When: happening.RaidCameType, Slot: happening.ShoutOut, Do: []output.Output{{ID: "chat", Do: &output.Say{}, Alternatives: []string{"Go and see {name}"}}}}
		s.Courtesy = append(s.Courtesy, raid, own)
	})
	e.happens(on("quayside"))
	e.happens(line("mossy_mare", "evening"))
	e.happens(line("kelpwright", "evening"))
	e.after(time.Minute)
	e.happens(&event.DeskAsked{Act: "shoutout", Person: viewer("kelpwright"), Member: "Odalys Brine"})
	e.happens(line("mossy_mare", "!so kelpwright"))
	e.happens(&event.DeskAsked{Act: "shoutout", Person: viewer("mossy_mare"), Member: "Odalys Brine"})
	e.after(time.Minute)
	if a, b := len(e.texts("own")), len(e.texts("raid-out")); a != 3 || b != 1 {
		t.Errorf("%d in own words, %d in others", a, b)
	}
}

// Found under a storm of commands: every word behind one was looked for in the guest book as a name.
func TestNobodyIsLookedForWhoDoesNotMatterToWhatIsAsked(t *testing.T) {
	shout := answering("so", []string{"so"}, nil, "Go and see {name}")
	shout.Do = []output.Output{{ID: "o", Do: &output.ShoutOut{}}}
	e := begin(t, with(answering("plain", []string{"plain"}, nil, "It is four o'clock, {name}"), answering("hug", []string{"hug"}, nil, "{hasMeant, select, yes {A hug for {meant}} other {A hug}}"),
		answering("age", []string{"age"}, nil, "{streams} streams"), shout))
	for text, name := range map[string]string{"!plain please": "", "!hug please": "please", "!age please": "please", "!so @please!": "please", "please": ""} {
		d := line("mossy_mare", text)
		if got := house.Means(e.plan, &event.Event{Type: d.Type(), Data: d}); got != name {
			t.Errorf("%s looks for %q", text, got)
		}
	}
}
