package house_test

import (
	"encoding/json"
	"os"
	"slices"
	"strings"
	"testing"
	"time"

	"vividporch/core/courtesy"
	"vividporch/core/dates"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/housefile"
	"vividporch/core/occasion"
	"vividporch/core/people"
	"vividporch/core/room"
	"vividporch/core/who"
)

// keeping is a house with the ready-made courtesies about days, which says everything at once. In
// what it is otherwise it greets nobody.
func keeping(t *testing.T, rooms ...string) func(*housefile.Settings) {
	return func(s *housefile.Settings) {
		stage(s)
		s.Pace.GapSeconds, s.Pace.PersonSeconds = 0, 0
		s.Courtesy = dayCourtesies(t)
		s.Rooms = map[string]json.RawMessage{}
		if len(rooms) > 0 {
			s.Rooms["day"] = json.RawMessage(rooms[0])
		}
	}
}

func dayCourtesies(t *testing.T) (out []courtesy.Courtesy) {
	raw, err := os.ReadFile("../../starter/house.json")
	if err != nil {
		t.Fatal(err)
	}
	var s housefile.Settings
	if err := json.Unmarshal(raw, &s); err != nil {
		t.Fatal(err)
	}
	for _, c := range s.Courtesy {
		if c.ID == "celebrate" || strings.HasPrefix(c.ID, "birthday") || strings.HasPrefix(c.ID, "keep-a-") {
			c.On, c.OffLine = true, true
			for i := range c.Do {
				c.Do[i].Alternatives = c.Do[i].Alternatives[:min(1, len(c.Do[i].Alternatives))] // so that what is said is certain
			}
			out = append(out, c)
		}
	}
	if len(out) < 9 {
		t.Fatalf("only %d courtesies about days are ready made", len(out))
	}
	return out
}

// knows is somebody of the guest book: their birthday as in a file ("--05-14"), and when they first came
// and followed, as days.
func knows(login, birthday string, more ...func(*people.Known)) *people.Known {
	k := &people.Known{Person: int64(len(login)), Accounts: []string{"quayside:id-" + login}, Attended: 3}
	if birthday != "" {
		d, err := dates.Parse(birthday, true)
		if err != nil {
			panic(err)
		}
		k.Birthday = &d
	}
	for _, f := range more {
		f(k)
	}
	return k
}

func since(day string) *time.Time {
	t, err := time.Parse(time.DateOnly, day)
	if err != nil {
		panic(err)
	}
	return &t
}

// lines are the texts that were said, joined.
func (e *evening) lines() string {
	var out []string
	for _, d := range e.said() {
		out = append(out, d.Text)
	}
	return strings.Join(out, " | ")
}

// mod is a line of a moderator.
func mod(login, text string) *happening.ChatSaid {
	l := line(login, text)
	l.Person.Roles = []event.Role{event.Moderator}
	return l
}

// edits are the changes of the guest book that were asked for, as they are lived next.
func (e *evening) edits() (out []event.Edit) {
	for _, l := range e.log {
		for _, r := range room.Raised(e.plan, &l.ev, l.ds) {
			if d, ok := r.Data.(*event.BookEdited); ok {
				out = append(out, d.Edit)
			}
		}
	}
	return out
}

func TestADayOfTheirsIsKeptAtTheArrivalWithLineAndCardOnce(t *testing.T) {
	e := begin(t, keeping(t))
	e.happens(on("quayside"))
	lena := knows("limpet_lena", "--05-14")
	e.happens(line("limpet_lena", "hello"), lena)
	e.after(time.Minute)
	if got := e.lines(); got != "Happy birthday, limpet_lena!" && got != "It is the birthday of limpet_lena today. All the best!" {
		t.Fatal(got)
	}
	if n := len(e.of("card")); n != 1 {
		t.Errorf("%d cards", n)
	}
	// Asking later that day has the line alone, and so has arriving in another stream of that day.
	e.happens(line("limpet_lena", "!birthday"), lena)
	e.after(time.Minute)
	e.happens(off("quayside"))
	e.after(20 * time.Minute)
	e.happens(on("quayside"))
	e.happens(line("limpet_lena", "back"), lena)
	e.after(time.Minute)
	if got := len(e.said()); got != 2 || len(e.of("card")) != 1 {
		t.Errorf("%d lines, %d cards: %s", got, len(e.of("card")), e.lines())
	}
	e.wantReason("was celebrated already: now its line alone")
}

func TestADayIsKeptOnceOverAllAccountsOfAPersonAndOverARestart(t *testing.T) {
	e := begin(t, keeping(t))
	e.happens(on("quayside"))
	both := knows("limpet_lena", "--05-14", func(k *people.Known) { k.Accounts = append(k.Accounts, "fernlight:id-limpet_lena") })
	e.happens(line("limpet_lena", "hello"), both)
	e.restore(e.snapshot()) // while the line waits
	other := line("limpet_lena", "hello here too")
	other.Person.Platform = "fernlight"
	e.happens(other, both)
	e.after(time.Minute)
	e.restore(e.snapshot())
	asks := line("limpet_lena", "!birthday")
	asks.Person.Platform = "fernlight"
	e.happens(asks, both)
	e.after(time.Minute)
	if n := len(e.of("card")); n != 1 {
		t.Errorf("%d cards: %s", n, e.lines())
	}
}

func TestWhatCameToNothingIsStillToBeKept(t *testing.T) {
	e := begin(t, keeping(t))
	e.happens(on("quayside"))
	e.happens(&event.Hushed{On: true})
	lena := knows("limpet_lena", "--05-14")
	e.happens(line("limpet_lena", "hello"), lena)
	e.after(10 * time.Minute) // given up under hush
	e.happens(&event.Hushed{})
	e.happens(line("limpet_lena", "!birthday"), lena)
	e.after(time.Minute)
	if n := len(e.of("card")); n != 1 || len(e.said()) != 1 {
		t.Errorf("%d cards: %s", n, e.lines())
	}
}

func TestTheirDayIsTheirsInTheirOwnZone(t *testing.T) {
	for zone, kept := range map[string]int{"Pacific/Kiritimati": 1, "Etc/GMT+12": 0, "": 0} { // it is 19:00 of the 14th in UTC
		t.Run("in "+zone, func(t *testing.T) {
			e := begin(t, keeping(t), func(s *housefile.Settings) { s.Zone = "UTC" })
			e.happens(on("quayside"))
			e.happens(line("limpet_lena", "hello"), knows("limpet_lena", "--05-15", func(k *people.Known) { k.Zone = zone }))
			e.after(time.Minute)
			if n := len(e.of("card")); n != kept {
				t.Errorf("kept %d times", n)
			}
		})
	}
}

func TestEveryKindOfDayIsKeptInItsOwnWords(t *testing.T) {
	for name, c := range map[string]struct {
		known *people.Known
		says  string
	}{
		"years of following":                       {knows("mossy_mare", "", func(k *people.Known) { k.Followed = since("2028-05-14") }), "3 years"},
		"years since the first visit":              {knows("mossy_mare", "", func(k *people.Known) { k.FirstSeen = since("2030-05-14") }), "year"},
		"a round number":                           {knows("mossy_mare", "", func(k *people.Known) { k.Attended = 49 }), "number 50"},
		"a birthday that was missed":               {knows("mossy_mare", "--05-12"), "2 days ago"},
		"following since a day that was yesterday": {knows("mossy_mare", "", func(k *people.Known) { k.Followed = since("2029-05-13") }), "yesterday"},
	} {
		t.Run(name, func(t *testing.T) {
			e := begin(t, keeping(t))
			e.happens(on("quayside"))
			e.happens(line("mossy_mare", "hello"), c.known)
			e.after(time.Minute)
			if got := e.lines(); !strings.Contains(got, c.says) || !strings.Contains(got, "mossy_mare") {
				t.Errorf("said %q", got)
			}
		})
	}
	e := begin(t, keeping(t))
	e.happens(on("quayside"))
	e.happens(line("mossy_mare", "hello"), knows("mossy_mare", "--05-06")) // eight days ago
	e.after(time.Minute)
	e.wantSaid(0, "keep-a-missed-day")
}

func TestABirthdayIsSetInAnySpellingSpelledOutCorrectedAndThenLocked(t *testing.T) {
	e := begin(t, keeping(t))
	e.happens(on("quayside"))
	says := func(text string, known *people.Known) string {
		before := len(e.said())
		e.happens(line("wrack_wren", text), known)
		e.after(time.Second)
		var out []string
		for _, d := range e.said()[before:] {
			out = append(out, d.Text)
		}
		return strings.Join(out, " | ")
	}
	if got := says("!mybirthday 31/02", knows("wrack_wren", "")); got != "wrack_wren, “31/02” is no day of the calendar: write it like 9 March." {
		t.Error(got)
	}
	if got := says("!mybirthday", knows("wrack_wren", "")); !strings.Contains(got, "the day is missing") {
		t.Error(got)
	}
	if got := says("!mybirthday 3/9", knows("wrack_wren", "")); got != "Kept, wrack_wren: 3 September. 112 days to go. To correct it, write it again within 5 minutes." {
		t.Error(got)
	}
	if got := says("!mybirthday Mar 9th", knows("wrack_wren", "--09-03")); !strings.HasPrefix(got, "Kept, wrack_wren: 9 March. 300 days to go.") {
		t.Error(got)
	}
	e.after(5 * time.Minute)
	if got := says("!mybirthday 10 March", knows("wrack_wren", "--03-09")); got != "wrack_wren, it is kept as 9 March already; a moderator can clear it." {
		t.Error(got)
	}
	var set []string
	for _, x := range e.edits() {
		set = append(set, x.Set.Birthday.String())
	}
	if !slices.Equal(set, []string{"--09-03", "--03-09"}) {
		t.Errorf("kept %v", set)
	}
}

func TestTheChannelsOrderDecidesWhatDigitsLeaveOpen(t *testing.T) {
	e := begin(t, keeping(t, `{"monthFirst": true}`))
	e.happens(on("quayside"))
	e.happens(line("wrack_wren", "!mybirthday 3/9/1990"), knows("wrack_wren", ""))
	e.after(time.Second)
	if got := e.edits(); len(got) != 1 || got[0].Set.Birthday.String() != "1990-03-09" || strings.Contains(e.lines(), "1990") || !strings.Contains(e.lines(), "9 March") {
		t.Errorf("%+v, said %q", got, e.lines())
	}
}

func TestABirthdaySetOnTheDayIsCelebratedOnceHoweverOftenItIsSet(t *testing.T) {
	e := begin(t, keeping(t))
	e.happens(on("quayside"))
	e.happens(line("wrack_wren", "!mybirthday 14 May"), knows("wrack_wren", ""))
	e.after(time.Minute)
	if !strings.Contains(e.lines(), "That is today!") || len(e.of("card")) != 1 {
		t.Fatal(e.lines())
	}
	known := knows("wrack_wren", "--05-14")
	e.happens(mod("kelpwright", "!clearbirthday wrack_wren"))
	e.happens(line("wrack_wren", "!mybirthday 14 May"), knows("wrack_wren", "")) // cleared, and set again
	e.happens(line("wrack_wren", "!birthday"), known)
	e.after(time.Minute)
	if n := len(e.of("card")); n != 1 {
		t.Errorf("celebrated %d times: %s", n, e.lines())
	}
}

func TestADaySetAfterItPassedIsBelatedWithinTheWindow(t *testing.T) {
	e := begin(t, keeping(t))
	e.happens(on("quayside"))
	e.happens(line("wrack_wren", "!mybirthday 12 May"), knows("wrack_wren", ""))
	e.after(time.Minute)
	e.happens(off("quayside"))
	e.after(24 * time.Hour)
	e.happens(on("quayside"))
	e.happens(line("wrack_wren", "hello"), knows("wrack_wren", "--05-12"))
	e.after(time.Minute)
	if got := e.lines(); !strings.Contains(got, "3 days ago") {
		t.Error(got)
	}
}

func TestWhoAsksOfAnotherIsToldTheSameOfHiddenUnknownAndNone(t *testing.T) {
	hidden := knows("kelpwright", "--05-14", func(k *people.Known) { k.HideDay = true })
	none := knows("kelpwright", "")
	for name, known := range map[string]*people.Known{"hidden": hidden, "none": none, "nobody": nil} {
		t.Run(name, func(t *testing.T) {
			e := begin(t, keeping(t))
			e.happens(on("quayside"))
			of := []people.Named{}
			if known != nil {
				of = append(of, people.Named{Person: viewer("kelpwright"), Known: known})
			}
			e.named(line("wrack_wren", "!birthday @kelpwright"), of...)
			e.after(time.Minute)
			if got := e.lines(); got != "No birthday of kelpwright is kept here." {
				t.Error(got)
			}
		})
	}
	e := begin(t, keeping(t))
	e.happens(on("quayside"))
	e.named(line("wrack_wren", "!birthday kelpwright"), people.Named{Person: viewer("kelpwright"), Known: knows("kelpwright", "--05-14")})
	e.after(time.Minute)
	if got := e.lines(); got != "Today is the birthday of kelpwright!" || len(e.of("card")) != 0 {
		t.Errorf("%s, %d cards: whoever asks of another celebrates nothing", got, len(e.of("card")))
	}
	// A birthday that is hidden is kept at no arrival.
	e.happens(line("kelpwright", "hello"), hidden)
	e.after(time.Minute)
	if len(e.of("card")) != 0 {
		t.Error(e.lines())
	}
}

func TestOnlyAModeratorClearsAnothersBirthdayAndEverybodySeesToTheirOwn(t *testing.T) {
	meant := people.Named{Person: viewer("kelpwright"), Known: knows("kelpwright", "--09-14")}
	e := begin(t, keeping(t))
	e.happens(on("quayside"))
	for _, text := range []string{"!clearbirthday kelpwright", "!mybirthday kelpwright 3 May", "!forgetbirthday kelpwright"} {
		e.named(line("wrack_wren", text), meant)
		e.after(time.Second)
	}
	if got := e.edits(); len(got) != 0 {
		t.Fatalf("a viewer changed %+v: %s", got, e.lines())
	}
	e.named(mod("mossy_mare", "!clearbirthday kelpwright"), meant)
	e.after(time.Second)
	if got := e.edits(); len(got) != 1 || got[0].Set.Birthday == nil || !got[0].Set.Birthday.IsZero() {
		t.Fatalf("%+v: %s", got, e.lines())
	}
	e.happens(line("kelpwright", "!hidebirthday"), meant.Known)
	e.happens(line("kelpwright", "!showbirthday"), knows("kelpwright", "--09-14", func(k *people.Known) { k.HideDay = true }))
	e.happens(line("kelpwright", "!forgetbirthday"), meant.Known)
	e.after(time.Second)
	if got := e.edits(); len(got) != 4 || !people.Yes(got[1].Set.HideDay) || got[2].Set.HideDay == nil || *got[2].Set.HideDay || got[3].Set.Birthday == nil || !got[3].Set.Birthday.IsZero() {
		t.Errorf("%+v: %s", got, e.lines())
	}
}

func TestWhoeverPosesAsAnotherSetsNothingOfTheirs(t *testing.T) {
	e := begin(t, keeping(t))
	e.happens(on("quayside"))
	poser := line("kelpwright", "!mybirthday 3 May") // a nick that anybody could take, of a person with accounts that are vouched for
	poser.Person.Nick = true
	e.happens(poser, knows("kelpwright", "", func(k *people.Known) { k.Accounts = append(k.Accounts, "fernlight:77") }))
	e.after(time.Second)
	if got := e.edits(); len(got) != 0 || !strings.Contains(e.lines(), "ask a moderator") {
		t.Errorf("%+v: %s", got, e.lines())
	}
	own := line("nick_only", "!mybirthday 3 May") // whom the house knows by that nick alone
	own.Person.Nick = true
	e.happens(own, knows("nick_only", ""))
	e.after(time.Second)
	if got := e.edits(); len(got) != 1 {
		t.Errorf("%+v: %s", got, e.lines())
	}
	same := line("brine", "!mybirthday 4 May") // whoever looks like another is themselves all the same
	same.Person.Name = "kelpwright"
	e.happens(same, knows("brine", ""))
	e.after(time.Second)
	if got := e.edits(); len(got) != 2 || !strings.Contains(e.lines(), "4 May") {
		t.Errorf("%+v: %s", got, e.lines())
	}
}

func TestWhoMovesToAnotherZoneKeepsTheirDayOnce(t *testing.T) {
	e := begin(t, keeping(t), func(s *housefile.Settings) { s.Zone = "UTC" })
	e.happens(on("quayside"))
	in := func(zone string) *people.Known {
		return knows("limpet_lena", "--05-15", func(k *people.Known) { k.Zone = zone })
	}
	e.happens(line("limpet_lena", "hello"), in("Pacific/Kiritimati")) // it is the 15th there already
	e.after(time.Minute)
	e.happens(off("quayside"))
	e.after(25 * time.Hour) // and it is the 15th in the west, where they are by then
	e.happens(on("quayside"))
	e.happens(line("limpet_lena", "hello again"), in("Etc/GMT+12"))
	e.happens(line("limpet_lena", "!birthday"), in("Etc/GMT+12"))
	e.after(time.Minute)
	if n := len(e.of("card")); n != 1 {
		t.Errorf("kept %d times: %s", n, e.lines())
	}
}

func TestAModeratorCelebratesWhomTheHouseMissed(t *testing.T) {
	meant := people.Named{Person: viewer("kelpwright"), Known: knows("kelpwright", "--05-11")}
	e := begin(t, keeping(t))
	e.happens(on("quayside"))
	e.named(mod("mossy_mare", "!celebrate kelpwright"), meant)
	e.after(time.Minute)
	if got := e.lines(); got != "Happy birthday for 3 days ago, kelpwright!" {
		t.Fatal(got)
	}
	e.named(mod("mossy_mare", "!celebrate kelpwright"), meant)
	e.happens(line("kelpwright", "hello"), meant.Known) // and then comes
	e.after(time.Minute)
	if n := len(e.said()); n != 2 || e.said()[1].Text != "No day of kelpwright waits to be kept." {
		t.Error(e.lines())
	}
}

// An idempotent celebration: whatever happens in whatever order, of one person's one day there is one card.
func TestOfOneDayThereIsOneCelebrationWhateverHappens(t *testing.T) {
	both := func(k *people.Known) { k.Accounts = append(k.Accounts, "fernlight:id-wrack_wren") }
	for seed := range 60 {
		e := begin(t, keeping(t))
		e.happens(on("quayside"))
		known, n := knows("wrack_wren", "", both), seed
		for range 12 {
			n = n*1103515245 + 12345
			from := func(text string) *happening.ChatSaid {
				l := line("wrack_wren", text)
				if n>>20&1 == 1 {
					l.Person.Platform = "fernlight"
				}
				return l
			}
			switch n >> 16 & 7 {
			case 0:
				e.happens(from("!mybirthday 14 May"), known)
				known = knows("wrack_wren", "--05-14", both)
			case 1:
				e.happens(from("!birthday"), known)
			case 2:
				e.named(mod("mossy_mare", "!clearbirthday wrack_wren"), people.Named{Person: viewer("wrack_wren"), Known: known})
				known = knows("wrack_wren", "", both)
			case 3:
				e.happens(&event.Hushed{On: n>>21&1 == 1})
			case 4:
				e.restore(e.snapshot())
			case 5:
				e.happens(from("hello"), known)
			case 6:
				e.named(mod("mossy_mare", "!celebrate wrack_wren"), people.Named{Person: viewer("wrack_wren"), Known: known})
			}
			e.after(time.Duration(n>>18&31) * time.Second)
		}
		e.happens(&event.Hushed{})
		e.after(10 * time.Minute)
		if cards := len(e.of("card")); cards > 1 {
			t.Errorf("seed %d: %d cards", seed, cards)
		}
	}
}

func TestFiveHundredWhoSetTheirDaysInOneMinuteAllKeepThem(t *testing.T) {
	e := begin(t, keeping(t), func(s *housefile.Settings) { s.Pace.GapSeconds = 3 })
	e.happens(on("quayside"))
	for i := range 500 {
		login := "gull_" + strings.Repeat("a", i/26) + string(rune('a'+i%26))
		e.happens(line(login, "!mybirthday 9 March"), knows(login, ""))
		e.after(100 * time.Millisecond)
	}
	e.after(2 * time.Minute)
	if n := len(e.edits()); n != 500 {
		t.Errorf("%d are kept", n)
	}
	if n := len(e.said()); n > 80 {
		t.Errorf("the house said %d lines in three minutes", n)
	}
}

func TestRulesOfDaysAreCheckedAndBoundWhatIsKept(t *testing.T) {
	for _, bad := range []string{`{"belatedDays": 90}`, `{"round": [1]}`, `{"correctMinutes": -1}`, `{"since": "soon"}`, `{"evenings": ["Wednesdays"]}`, `{"tide": 1}`} {
		if faults := faultsOf(t, keeping(t, bad)); len(faults) != 1 || !strings.HasPrefix(faults[0].At, "rooms.day") || faults[0].Remedy == "" {
			t.Errorf("%s: %v", bad, faults)
		}
	}
	e := begin(t, keeping(t, `{"belatedDays": 1, "round": [4]}`))
	e.happens(on("quayside"))
	e.happens(line("mossy_mare", "hello"), knows("mossy_mare", "--05-12", func(k *people.Known) { k.Attended = 3 }))
	e.after(time.Minute)
	if got := e.lines(); !strings.Contains(got, "number 4") {
		t.Error(got)
	}
}

func TestWhoComesWithADayStandsBeforeTheStreamerUntilItIsCelebrated(t *testing.T) {
	e := begin(t, keeping(t), func(s *housefile.Settings) { // the house does nothing by itself
		for i := range s.Courtesy {
			s.Courtesy[i].On = !strings.HasPrefix(s.Courtesy[i].ID, "keep-a-")
		}
	})
	e.happens(on("quayside"))
	lena := knows("limpet_lena", "--05-14", func(k *people.Known) { k.Followed = since("2029-05-12") })
	e.happens(line("limpet_lena", "hello"), lena)
	if w := e.s.Waiting; len(w) != 1 || w[0].Kind != "day" || w[0].Why != "today: birthday; missed: 2 years of following" {
		t.Fatalf("%+v", w)
	}
	if g := e.s.Tonight["quayside:id-limpet_lena"]; g.Day != "birthday" {
		t.Errorf("arrived with %q", g.Day)
	}
	e.happens(off("quayside"))
	e.after(20 * time.Minute)
	e.happens(on("quayside"))
	if len(e.s.Waiting) != 0 {
		t.Error("what waited of the stream before waits on")
	}

	e = begin(t, keeping(t))
	e.happens(on("quayside"))
	e.happens(line("limpet_lena", "hello"), lena)
	e.after(time.Minute)
	if len(e.s.Waiting) != 0 || len(e.of(hall.Wait)) != 1 {
		t.Errorf("celebrated, and still waiting: %+v", e.s.Waiting)
	}
}

func TestWhoAsksOnTheirDayIsAnsweredThoughTheyWereJustSpokenTo(t *testing.T) {
	e := begin(t, keeping(t), func(s *housefile.Settings) { s.Pace.PersonSeconds = 30 })
	e.happens(on("quayside"))
	lena := knows("limpet_lena", "--05-14")
	e.happens(line("limpet_lena", "hello"), lena)
	e.after(6 * time.Second)
	e.happens(line("limpet_lena", "!birthday"), lena)
	e.after(time.Minute)
	if n := len(e.said()); n != 2 {
		t.Errorf("%d lines: %s", n, e.lines())
	}
}

func TestTheChannelsOwnDayIsKeptOnceAYearWhenTheStreamOpens(t *testing.T) {
	c := says("our-day", happening.StreamOpenedType, happening.Free, who.Who{Date: &who.Date{Of: occasion.Channel, When: who.Today}}, nil, "{channel} is {years} years old")
	e := begin(t, keeping(t, `{"since": "2026-05-14"}`), func(s *housefile.Settings) { s.Courtesy = append(s.Courtesy, c) })
	for range 2 {
		e.happens(on("quayside"))
		e.after(time.Minute)
		e.restore(e.snapshot())
		e.happens(off("quayside"))
		e.after(20 * time.Minute)
	}
	if got := e.texts("our-day"); len(got) != 1 || got[0] != "tidepool_hours is 5 years old" {
		t.Errorf("%q", got)
	}
	for name, when := range map[string]string{"an arrival": happening.Arrival, "a raid": happening.RaidCameType} {
		if faults := faultsOf(t, func(s *housefile.Settings) {
			s.Courtesy = append(s.Courtesy, says("no", when, happening.Free, c.Who, nil, "{name}"))
		}); len(faults) != 1 || faults[0].Remedy == "" {
			t.Errorf("the channel's day at %s: %v", name, faults)
		}
	}
	if faults := faultsOf(t, func(s *housefile.Settings) {
		s.Courtesy = append(s.Courtesy, says("no", happening.StreamOpenedType, happening.Free, who.Who{Date: &who.Date{When: who.Today}}, nil, "hm"))
	}); len(faults) != 1 {
		t.Errorf("somebody's day where nobody comes: %v", faults)
	}
}
