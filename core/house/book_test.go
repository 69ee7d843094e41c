package house_test

import (
	"encoding/json"
	"strings"
	"testing"
	"time"

	"vividporch/core/attendance"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/house"
	"vividporch/core/housefile"
	"vividporch/core/people"
	"vividporch/core/privacy"
)

// remembers gives the house past streams, every third day before tonight.
func (e *evening) remembers(n int) *evening {
	for i := 1; i <= n; i++ {
		at := dusk.AddDate(0, 0, -3*(n+1-i))
		e.s.Past = attendance.Add(e.s.Past, attendance.Past{Number: i, Opened: at, Closed: at.Add(2 * time.Hour)})
	}
	e.s.Stream.Number, e.s.Stream.Ended = n, true
	return e
}

func came(numbers ...int) *people.Known {
	return &people.Known{Attended: len(numbers), Recent: numbers, Accounts: []string{"quayside:x"}}
}

func TestEachStandingGetsItsOwnGreeting(t *testing.T) {
	e := begin(t, func(s *housefile.Settings) { s.Pace.JoinAt = 0 }).remembers(12)
	e.happens(on("quayside"))
	for who, k := range map[string]*people.Known{"seed_new": nil, "leaf_back": came(12), "ring_always": came(4, 5, 6, 7, 8, 9, 10)} {
		e.happens(line(who, "hi"), k)
		e.after(10 * time.Second)
	}
	fellow := came(12)
	fellow.Fetched = &people.Fetched{Streams: true, At: dusk}
	e.happens(line("sail_friend", "hi"), fellow)
	e.after(10 * time.Second)
	for about, name := range map[string]string{"greet-newcomer": "seed_new", "greet-returning": "leaf_back", "greet-regular": "ring_always", "greet-fellow": "sail_friend"} {
		if got := e.wantSaid(1, about)[0]; got.Name != name {
			t.Errorf("%s went to %s", about, got.Name)
		}
	}
	e.wantReason("7 of the last 10 streams; missed")
}

func TestTonightsStreamCountsAsPastOnlyWhenItIsOver(t *testing.T) {
	e := begin(t).remembers(2)
	e.happens(on("quayside"))
	if len(e.s.Past) != 2 {
		t.Fatal("tonight is no past yet")
	}
	e.after(time.Hour).happens(off("quayside"))
	e.after(5 * time.Minute).happens(on("quayside")) // back within the grace time
	if len(e.s.Past) != 2 {
		t.Fatal("a drop ends no stream")
	}
	e.after(time.Minute).happens(off("quayside"))
	e.after(time.Hour)
	if n := len(e.s.Past); n != 3 || e.s.Past[2].Number != 3 || !e.s.Past[2].Opened.Equal(dusk) {
		t.Errorf("%+v", e.s.Past)
	}
}

func TestANewcomerAfterARaidCameWithIt(t *testing.T) {
	e := begin(t)
	e.happens(on("quayside"))
	e.after(time.Minute).happens(raid("night_heron_cam", 40))
	e.after(9 * time.Minute).happens(line("reed_wing", "hi"))
	e.after(2 * time.Minute).happens(line("late_lark", "hi"))
	e.wantReason("came with the raid of night_heron_cam")
	if with := e.s.Tonight["quayside:id-reed_wing"].With; with != e.s.Raids[0].Event {
		t.Errorf("attributed to event %d", with)
	}
	if e.s.Tonight["quayside:id-late_lark"].With != 0 {
		t.Error("eleven minutes later is too late")
	}
}

func TestAPlatformIsAskedOnceADayWhetherSomebodyStreams(t *testing.T) {
	e := begin(t)
	e.happens(on("quayside"))
	fresh, old := came(1), came(1)
	fresh.Fetched = &people.Fetched{At: dusk.Add(-23 * time.Hour)}
	old.Fetched = &people.Fetched{At: dusk.Add(-25 * time.Hour)}
	e.happens(line("asked_lately", "hi"), fresh)
	e.happens(line("asked_long_ago", "hi"), old)
	e.happens(line("never_asked", "hi"))
	e.happens(line("never_asked", "hi again"))
	asks := e.of(hall.Ask)
	if len(asks) != 2 || asks[0].About.Login != "asked_long_ago" || asks[1].About.Login != "never_asked" {
		t.Fatalf("%+v", asks)
	}
	e.happens(&event.LookupAnswered{Ask: asks[1].Line, Account: asks[1].Person, Found: true, Streams: true})
	if !e.s.Tonight["quayside:id-never_asked"].Fellow {
		t.Error("the answer is not kept")
	}
}

func TestNewRegularsAreNamedOnceBeforeTheStreamer(t *testing.T) {
	e := begin(t)
	e.happens(&event.BookSettled{Stream: 60, Regulars: []event.Settled{{Person: 1, Name: "limpet_lena", Why: "6 of the last 10 streams"}, {Person: 2, Name: "sandhopper9"}}, Lost: []event.Settled{{Person: 3, Name: "x"}}})
	if len(e.s.Waiting) != 1 || e.s.Waiting[0].Kind != "regular" || e.s.Waiting[0].Name != "limpet_lena, sandhopper9" {
		t.Fatalf("%+v", e.s.Waiting)
	}
	e.happens(&event.BookSettled{Stream: 61, Lost: []event.Settled{{Person: 3, Name: "x"}}})
	if len(e.s.Waiting) != 1 {
		t.Error("who lost it is listed in the book, not announced")
	}
}

func TestWhatIsKeptIsToldInPrivateOrNotAtAll(t *testing.T) {
	e := begin(t)
	e.happens(on("quayside"))
	e.happens(on("fernlight"))
	ask := line("limpet_lena", "  What do you KNOW of me ")
	e.happens(ask)
	e.after(time.Minute)
	shows := e.of(privacy.Show)
	if len(shows) != 1 || !strings.Contains(shows[0].Text, privacy.LinkMark) || shows[0].About == nil {
		t.Fatalf("on a platform with private messages: %+v", shows)
	}
	e.wantSaid(0, "privacy")
	e.happens(line("limpet_lena", "what do you know of me"))
	e.wantReason("was told less than five minutes ago")
	open := line("ottoline", "what do you know of me")
	open.Person.Platform = "fernlight"
	e.happens(open)
	e.after(5 * time.Second)
	said := e.wantSaid(1, "privacy")[0]
	if strings.Contains(said.Text, "http") || said.Platform != "fernlight" || len(e.of(privacy.Show)) != 2 {
		t.Errorf("in open chat: %+v", said)
	}
}

func TestBeingForgottenNeedsASecondWordWithinAMinute(t *testing.T) {
	e := begin(t)
	e.happens(on("quayside"))
	e.happens(raid("limpet_lena", 12))
	e.happens(line("limpet_lena", "hi"))
	e.happens(line("limpet_lena", "!yes-forget-me")) // nobody asked
	e.happens(line("limpet_lena", "!forget-me"))
	e.after(61 * time.Second).happens(line("limpet_lena", "!yes-forget-me"))
	e.wantReason("the second word came after more than a minute")
	if len(e.of(hall.Forget)) != 0 {
		t.Fatal("forgotten without a timely second word")
	}
	e.happens(line("limpet_lena", "!forget-me"))
	e.happens(line("kelpwright", "!yes-forget-me")) // somebody else's word
	e.after(30 * time.Second).happens(line("limpet_lena", "yes, forget me"))
	got := e.of(hall.Forget)
	if len(got) != 1 || got[0].Person != "quayside:id-limpet_lena" {
		t.Fatalf("%+v", got)
	}
	e.after(10 * time.Second)
	last := e.said()[len(e.said())-1]
	if last.Courtesy != "privacy" || last.Output != "gone" || strings.Contains(last.Text, "lena") || last.Person != "" {
		t.Errorf("the farewell: %+v", last)
	}
	raw, err := json.Marshal(e.s)
	if err != nil || strings.Contains(string(raw), "limpet_lena") {
		t.Errorf("the house still has the name in mind: %s %v", raw, err)
	}
}

func TestPrivacyWordsWithoutTheirSecondAreAFault(t *testing.T) {
	s := settings(t)
	s.Privacy.Confirm, s.Privacy.Sure, s.Privacy.KeepDays, s.Standings.RegularOf, s.LeapDay = nil, []string{"sure, {nam}?"}, -1, 99, "sometimes"
	_, faults := house.Ready(s, 1)
	got := map[string]bool{}
	for _, f := range faults {
		got[f.At] = true
	}
	for _, at := range []string{"privacy.confirm", "privacy.sure.0", "privacy.keepDays", "standings", "leapDay"} {
		if !got[at] {
			t.Errorf("nothing is said about %s: %v", at, faults)
		}
	}
}

func TestAnImportOnTheFirstEveningGivesTheHouseItsPast(t *testing.T) {
	e := begin(t)
	past := []event.PastStream{{Number: 1, Opened: dusk.AddDate(0, 0, -9), Closed: dusk.AddDate(0, 0, -9).Add(time.Hour)}, {Number: 2, Opened: dusk.AddDate(0, 0, -2), Closed: dusk.AddDate(0, 0, -2).Add(time.Hour)}}
	e.happens(&event.BookImported{Import: 1, New: 3, Past: past})
	e.happens(on("quayside"))
	if e.s.Stream.Number != 3 || len(e.s.Past) != 2 {
		t.Errorf("tonight is stream %d after %d", e.s.Stream.Number, len(e.s.Past))
	}
	e.happens(line("limpet_lena", "hi"), came(1, 2))
	if e.s.Tonight["quayside:id-limpet_lena"].Standing != people.Returning {
		t.Error("who is known from before is no newcomer")
	}
}
