package house_test

import (
	"slices"
	"strings"
	"testing"
	"time"

	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/housefile"
	"vividporch/core/people"
	"vividporch/core/who"
)

// Questions a streamer asks of a whole evening, each lived from the doors to chat.

// greets adds a greeting of its own words.
func greets(id string, who who.Who, words string) func(*housefile.Settings) {
	return func(s *housefile.Settings) {
		s.Courtesy = append(s.Courtesy, says(id, happening.Arrival, happening.Greeting, who, nil, words))
	}
}

func TestSwitchingTheGeneralGreetingOffLeavesTheSpecialOnesWorking(t *testing.T) {
	e := begin(t, func(s *housefile.Settings) {
		for i := range s.Courtesy {
			if s.Courtesy[i].Slot == happening.Greeting {
				s.Courtesy[i].On = false
			}
		}
	}, greets("row", who.Who{Crews: &who.Crews{Of: []string{"row"}}}, "The Row is in: {name}"))
	e.happens(on("quayside"))
	e.happens(line("mossy_mare", "evening"), &people.Known{Attended: 9, Accounts: []string{"quayside:id-mossy_mare"}})
	e.happens(line("tern_and_tide", "evening"), &people.Known{Attended: 9, Crews: []string{"row"}, Accounts: []string{"quayside:id-tern_and_tide"}})
	e.after(time.Minute)
	e.wantSaid(0, "greet-")
	if said := e.wantSaid(1, "row"); said[0].Text != "The Row is in: tern_and_tide" {
		t.Errorf("%+v", said)
	}
	e.wantRung("greet-returning", "is switched off")
}

// wantRung looks for a reason on the ladder of any decision.
func (e *evening) wantRung(id, why string) {
	e.t.Helper()
	for _, d := range e.all {
		if slices.ContainsFunc(d.Ladder, func(r courtesy.Rung) bool { return r.Courtesy == id && r.Why == why }) {
			return
		}
	}
	e.t.Errorf("no ladder says of %s that it %s", id, why)
}

func TestOnePersonIsLeftInSilenceByACourtesyThatDoesNothing(t *testing.T) {
	e := begin(t, func(s *housefile.Settings) {
		s.Courtesy = append(s.Courtesy, courtesy.Courtesy{ID: "hush-lena", On: true, When: happening.Arrival, Slot: happening.Greeting, Who: who.Who{Account: "quayside:id-limpet_lena"}})
	})
	e.happens(on("quayside"))
	e.happens(line("limpet_lena", "evening"))
	e.happens(line("mossy_mare", "evening"))
	e.after(time.Minute)
	for _, d := range e.of(hall.Say) {
		if strings.Contains(d.Text, "limpet_lena") {
			t.Errorf("she was greeted: %s", d.Text)
		}
	}
	e.wantSaid(1, "greet-newcomer")
	e.wantReason("passed over in silence")
}

func TestACourtesyOfOneWeekdayAndHourHoldsInTheChannelsZone(t *testing.T) {
	friday := greets("late", who.Who{Standing: people.Newcomer, Days: []string{"Friday"}, Hours: &who.Hours{From: "22:00", To: "02:00"}}, "Late on Friday, {name}!")
	zone := func(s *housefile.Settings) { s.Zone = "Pacific/Auckland" }
	e := begin(t, zone, friday)
	auckland, err := time.LoadLocation("Pacific/Auckland")
	if err != nil {
		t.Fatal(err)
	}
	at := func(day, hour int) {
		e.now = time.Date(2031, 5, day, hour, 30, 0, 0, auckland).UTC()
	}
	at(16, 22) // a Friday there, Friday morning in UTC
	e.happens(on("quayside"))
	e.happens(line("mossy_mare", "evening"))
	e.after(time.Minute)
	e.wantSaid(1, "late")
	at(17, 1) // after midnight the window is still open, and the day is a Saturday
	e.happens(line("tangle_tom", "evening"))
	e.after(time.Minute)
	e.wantSaid(1, "late")
	e.wantRung("late", "is for Friday; this is a Saturday")
}

func TestTwoCausesMaySpeakTwice(t *testing.T) {
	e := begin(t, greets("own", who.Who{Account: "quayside:id-kelpwright"}, "{name}, the kettle is on"))
	e.happens(on("quayside"))
	e.after(time.Minute).happens(raid("kelpwright", 37))
	e.after(20 * time.Second).happens(line("kelpwright", "hello all"))
	e.after(time.Minute)
	if thanks := e.wantSaid(1, "raid-"); !strings.Contains(thanks[0].Text, "37") {
		t.Errorf("%+v", thanks)
	}
	if own := e.wantSaid(1, "own"); own[0].Text != "kelpwright, the kettle is on" {
		t.Errorf("%+v", own)
	}
}

func TestAMemberHasSomebodyGreetedAgainInMidStream(t *testing.T) {
	e := begin(t)
	e.happens(on("quayside"))
	e.happens(line("limpet_lena", "hello"))
	e.after(time.Minute)
	e.wantSaid(1, "greet-newcomer")
	e.happens(&event.DeskAsked{Act: "greet", Person: viewer("limpet_lena"), Member: "Odalys Brine"})
	e.after(10 * time.Second)
	again := e.wantSaid(2, "greet-newcomer")[1]
	if !again.ByHand || !slices.Contains(again.Because, "asked for at the desk") {
		t.Errorf("%+v", again)
	}
	e.happens(line("limpet_lena", "still here"))
	e.after(time.Minute)
	e.wantSaid(2, "greet-newcomer")
}

func TestANameThatLooksLikeAFillInStaysAName(t *testing.T) {
	e := begin(t)
	e.happens(on("quayside"))
	odd := viewer("braces")
	odd.Name = "{name} {streams, plural, other {#}} '{'"
	said := &happening.ChatSaid{Text: "hi there"}
	said.Person = odd
	e.happens(said)
	e.after(time.Minute)
	if got := e.wantSaid(1, "greet-newcomer")[0]; !strings.Contains(got.Text, "{name} {streams, plural, other {#}}") {
		t.Errorf("%q", got.Text)
	}
}

func TestWhoeverLeadsARaidDidNotComeWithIt(t *testing.T) {
	e := begin(t)
	e.happens(on("quayside"))
	e.after(time.Minute).happens(raid("kelpwright", 37))
	e.after(20 * time.Second)
	e.happens(line("kelpwright", "hello all"))
	e.happens(line("sandhopper9", "with kelpwright"))
	for _, d := range e.of(hall.Arrive) {
		if with := d.With != 0; with != (d.Name == "sandhopper9") {
			t.Errorf("%s came with raid %d", d.Name, d.With)
		}
	}
}
