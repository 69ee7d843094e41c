package house_test

import (
	"strings"
	"testing"
	"time"

	"vividporch/core/courtesy"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/house"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/core/people"
	"vividporch/core/who"
)

// adds puts courtesies of the test's own into the house file, in their own words.
func adds(list ...courtesy.Courtesy) func(*housefile.Settings) {
	return func(s *housefile.Settings) {
		s.Pace.JoinAt, s.Pace.GapSeconds = 0, 0
		s.Courtesy = append(s.Courtesy, list...)
	}
}

func says(id, when string, slot happening.Slot, who who.Who, m *who.Measure, words string) courtesy.Courtesy {
	return courtesy.Courtesy{ID: id, On: true, When: when, Slot: slot, Who: who, Measure: m,
		Do: []output.Output{{ID: "chat", Do: &output.Say{}, Alternatives: []string{words}}}}
}

func num(f float64) *float64 { return &f }

func TestACrewMemberOfARaidGetsTheirOwnGreeting(t *testing.T) {
	e := begin(t, adds(says("moths", happening.Arrival, happening.Greeting, who.Who{Crews: &who.Crews{Of: []string{"quiet-moths"}}}, nil, "{name} of the moths")))
	e.happens(on("quayside"))
	moth, plain := &people.Known{Crews: []string{"quiet-moths"}, Attended: 3}, &people.Known{Attended: 3}
	e.happens(raid("mothlight", 20), moth)
	e.happens(raid("reed_watch", 20), plain)
	e.after(30 * time.Second)
	e.happens(line("mothlight", "hello all"), moth)
	e.happens(line("reed_watch", "hello"), plain)
	e.after(30 * time.Second)
	e.wantSaid(2, "raid-boatload")
	if got := e.wantSaid(1, "moths"); got[0].Text != "mothlight of the moths" {
		t.Errorf("said %q", got[0].Text)
	}
	e.wantSaid(0, "greet-")
	e.wantReason("was already thanked for the raid")
}

func TestOnePersonsWordsFollowThemToAnyAccount(t *testing.T) {
	e := begin(t, adds(says("own", happening.Arrival, happening.Greeting, who.Who{Account: "fernlight:f-1"}, nil, "There you are, {name}")))
	e.happens(on("quayside"))
	e.happens(line("other_name", "hi"), &people.Known{Accounts: []string{"fernlight:f-1", "quayside:id-other_name"}, Attended: 2})
	e.after(time.Minute)
	e.wantSaid(1, "own")
}

func TestTheLargestTipOfTheEveningIsThankedInItsOwnWords(t *testing.T) {
	tip := func(amount string) *happening.Tipped {
		x := &happening.Tipped{Amount: amount, Currency: "EUR"}
		x.Person = viewer("saltpan_pip")
		return x
	}
	e := begin(t, adds(
		says("tip", "porch.support.tipped", happening.Thanks, who.Who{}, &who.Measure{Of: "amount", Currency: "EUR", AtLeast: num(2)}, "Thanks for{hasAmount, select, yes { {amount}} other {}}"),
		says("largest", "porch.support.tipped", happening.Thanks, who.Who{}, &who.Measure{Of: "amount", Currency: "EUR", Largest: "tonight"}, "The largest tonight")))
	e.happens(on("quayside"))
	for _, amount := range []string{"5.00", "4.50", "5.00", "5.01", "1.00"} {
		e.happens(tip(amount))
		e.after(time.Minute)
	}
	e.wantSaid(2, "largest")
	if got := e.wantSaid(2, "tip"); got[0].Text != "Thanks for 4.50 EUR" {
		t.Errorf("said %q", got[0].Text)
	}
	e.wantReason("no thanks fits") // one euro is below every band
	e.happens(off("quayside"))
	e.after(time.Hour).happens(on("quayside"))
	e.happens(tip("3.00"))
	e.after(time.Minute)
	e.wantSaid(3, "largest") // tonight begins anew
}

func TestAnotherServicesEventIsAnsweredByItsNameAndFields(t *testing.T) {
	e := begin(t, adds(
		says("tide", "porch.other", happening.Free, who.Who{Fields: map[string]string{"event": "tide.turned", "way": "in"}}, nil, "The tide comes in, {channel}"),
		says("beside", happening.Arrival, happening.Free, who.Who{Tag: "bell"}, nil, "A bell for {name}")))
	e.happens(on("quayside"))
	e.happens(&happening.Other{Name: "tide.turned", Fields: map[string]any{"way": "IN"}})
	e.happens(&happening.Other{Name: "tide.turned", Fields: map[string]any{"way": "out"}})
	e.happens(&happening.Other{Name: "kettle.boiled"})
	e.after(time.Minute)
	e.wantSaid(1, "tide") // where the stream is, not on the platform that is dark
	e.happens(line("grebe_watch", "hi"), &people.Known{Tags: []string{"bell"}, Attended: 1})
	e.after(time.Minute)
	e.wantSaid(1, "beside")
	e.wantSaid(1, "greet-returning")
}

func TestAlsoRunsBesideTheWinner(t *testing.T) {
	also := says("also", "porch.support.gifted", happening.Thanks, who.Who{}, nil, "and a bell is rung")
	also.Also = true
	e := begin(t, adds(also, says("gift", "porch.support.gifted", happening.Thanks, who.Who{}, nil, "{gifts, plural, one {a gift} other {# gifts}} from {name}")))
	e.happens(on("quayside"))
	g := &happening.Gifted{Count: 5}
	g.Person = viewer("limpet_lena")
	e.happens(g)
	e.after(time.Minute)
	e.wantSaid(1, "also")
	if got := e.wantSaid(1, "gift"); got[0].Text != "5 gifts from limpet_lena" {
		t.Errorf("said %q", got[0].Text)
	}
}

func TestTheLadderIsTheOneTheEveningClimbs(t *testing.T) {
	e := begin(t, adds(says("moths", happening.Arrival, happening.Greeting, who.Who{Crews: &who.Crews{Of: []string{"quiet-moths"}}}, nil, "{name} of the moths")))
	e.happens(on("quayside"))
	known := &people.Known{Crews: []string{"quiet-moths"}, Attended: 3}
	shown := house.Climb(e.s, e.plan, happening.Arrival, happening.Greeting, viewer("mothlight"), known, nil, "")
	e.happens(line("mothlight", "hello"), known)
	var lived []courtesy.Rung
	for _, d := range e.all {
		if d.Courtesy == "moths" && len(d.Ladder) > 0 {
			lived = d.Ladder
		}
	}
	if shown.Standing != people.Returning || len(lived) == 0 || len(lived) != len(shown.Rungs) {
		t.Fatalf("shown %+v, lived %+v", shown, lived)
	}
	for i := range lived {
		if lived[i] != shown.Rungs[i] {
			t.Errorf("lived %+v, shown %+v", lived[i], shown.Rungs[i])
		}
	}
	raids := house.Climb(e.s, e.plan, "porch.raid.came", happening.Thanks, viewer("x"), nil, &who.Quantity{Of: "viewers", N: 70}, "")
	if len(raids.Line) != 3 || raids.Line[0].Courtesy != "raid-handful" || raids.Line[2].To != nil {
		t.Errorf("%+v", raids.Line)
	}
	won := ""
	for _, r := range raids.Rungs {
		if r.Won {
			won = r.Courtesy
		}
	}
	if won != "raid-fleet" || !strings.Contains(raids.Why, "no earlier stream") {
		t.Errorf("%s won; %s", won, raids.Why)
	}
}

func TestAHelloToTheRoomIsAnsweredAndOneToAFriendIsNot(t *testing.T) {
	answer := says("answer", happening.Hello, happening.Answer, who.Who{}, nil, "Hello, {name}")
	e := begin(t, adds(answer), func(s *housefile.Settings) { s.Hello.PersonSeconds = 1800 })
	e.happens(on("quayside"))
	e.happens(line("mossy_mare", "hello all")) // the arrival: greeted, not answered too
	e.happens(line("grebe_watch", "is this on"))
	e.happens(line("tidewrack", "evening"))
	e.after(time.Hour)
	for _, text := range []string{"what a shell", "chilly in here", "hello @grebe_watch", "Hi grebe_watch!", "hey grebe_watch, long time"} {
		e.happens(line("mossy_mare", text))
		e.after(time.Minute)
	}
	reply := line("mossy_mare", "hello!")
	reply.ReplyTo = "a-line"
	e.happens(reply)
	e.after(time.Minute)
	e.wantSaid(0, "answer")
	e.happens(line("mossy_mare", "Héllo everyone, hello @tidepool_hours"))
	e.after(5 * time.Second)
	e.happens(line("tidewrack", "evening!")) // five seconds after the last: too soon for another
	e.after(time.Minute)
	e.happens(line("mossy_mare", "hello again")) // and she was answered a minute ago
	e.happens(line("tidewrack", "good EVENING room"))
	e.after(time.Minute)
	got := e.wantSaid(2, "answer")
	if got[0].Text != "Hello, mossy_mare" || got[1].Text != "Hello, tidewrack" {
		t.Errorf("%q, %q", got[0].Text, got[1].Text)
	}
	e.wantReason("another was answered less than 20s ago")
	e.wantReason("was answered less than 30m0s ago")
	e.wantSaid(3, "greet-newcomer")
}

func TestARaidOfFourHundredIsWelcomedInFewLinesAndCrewsGetTheirOwn(t *testing.T) {
	crew := says("moths", happening.Arrival, happening.Greeting, who.Who{Crews: &who.Crews{Of: []string{"quiet-moths"}}}, nil, "{name} of the moths")
	e := begin(t, func(s *housefile.Settings) {
		crew.Do[0].WaitSeconds = 180
		s.Courtesy = append(s.Courtesy, crew)
	})
	e.happens(on("quayside"))
	e.after(10 * time.Minute)
	e.happens(raid("night_heron_cam", 400))
	begun := e.now
	for i := range 120 {
		var known *people.Known
		if i%24 == 0 {
			known = &people.Known{Crews: []string{"quiet-moths"}, Attended: 3}
		}
		e.happens(line("raider_"+strings.Repeat("x", i%7)+string(rune('a'+i%26))+string(rune('a'+i/26)), "hi"), known)
		e.after(250 * time.Millisecond)
	}
	e.after(3 * time.Minute)
	general, personal, greeted := 0, 0, map[string]int{}
	for _, l := range e.log {
		for _, d := range l.ds {
			if d.Kind != hall.Say || l.ev.Logged.Before(begun) {
				continue
			}
			if d.Courtesy == "moths" {
				personal++
				greeted[d.Person]++
				if l.ev.Logged.Sub(begun) > 3*time.Minute {
					t.Errorf("%s waited more than three minutes", d.Name)
				}
				continue
			}
			if l.ev.Logged.Sub(begun) <= time.Minute {
				general++
			}
			if len(d.Joined) > 0 {
				for _, j := range d.Joined {
					greeted[j.Person]++
				}
			} else if strings.HasPrefix(d.Courtesy, "greet-") {
				greeted[d.Person]++
			}
		}
	}
	if general > 6 {
		t.Errorf("%d lines in the minute of the raid", general)
	}
	if personal != 5 {
		t.Errorf("%d of five moths got their own", personal)
	}
	if len(greeted) != 120 {
		t.Errorf("%d of 120 were named or counted", len(greeted))
	}
	for who, n := range greeted {
		if n != 1 {
			t.Errorf("%s was greeted %d times", who, n)
		}
	}
}
