package house_test

import (
	"encoding/json"
	"strings"
	"testing"
	"time"

	"vividporch/core/dates"
	"vividporch/core/day"
	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/housefile"
	"vividporch/core/occasion"
	"vividporch/core/who"
)

// weekly is a house that tells the week's dates at a weekday and hour. It is 19:00 UTC on a Wednesday.
func weekly(when string) func(*housefile.Settings) {
	return func(s *housefile.Settings) {
		stage(s)
		s.Pace.GapSeconds = 0
		s.Zone = "Europe/Lisbon"
		s.Courtesy = append(s.Courtesy, says("week", happening.DatesWeekType, happening.Free, who.Who{}, nil, "{dates} days: {hasWeek, select, yes {{week}} other {none}}"))
		s.Courtesy[len(s.Courtesy)-1].OffLine = true
		s.Rooms = map[string]json.RawMessage{"day": json.RawMessage(`{"week": ` + when + `}`)}
	}
}

func (e *evening) owes() string {
	owed := day.Owed(e.s.Rooms)
	if owed.IsZero() {
		return ""
	}
	return owed.In(e.plan.Zone).Format("Mon 15:04")
}

func week() *happening.DatesWeek {
	return &happening.DatesWeek{From: dates.Day{Year: 2031, Month: time.May, Day: 18}, More: 1, Days: []happening.WeekDay{
		{Person: viewer("limpet_lena"), Kind: occasion.Birthday, On: dates.Day{Year: 2031, Month: time.May, Day: 20}},
		{Person: viewer("mossy_mare"), Kind: occasion.Follow, On: dates.Day{Year: 2031, Month: time.May, Day: 20}, Years: 2},
		{Person: viewer("tidewrack"), Kind: occasion.FirstVisit, On: dates.Day{Year: 2031, Month: time.May, Day: 23}, Years: 1}}}
}

func TestTheWeekIsOwedAtItsHourOnceAndToldByCourtesies(t *testing.T) {
	e := begin(t, weekly(`{"day": "Sunday", "at": "10:00"}`))
	e.happens(on("quayside"))
	e.happens(off("quayside"))
	e.after(3*24*time.Hour + 13*time.Hour + 59*time.Minute) // Sunday 08:59 UTC: one minute to ten in Lisbon
	if got := e.owes(); got != "" {
		t.Fatalf("owed at %s already", got)
	}
	e.after(time.Minute)
	if got := e.owes(); got != "Sun 10:00" {
		t.Fatalf("owes %q", got)
	}
	e.happens(week())
	e.after(time.Minute)
	if got := e.texts("week"); len(got) == 0 || got[0] != "4 days: Tuesday 20 May: limpet_lena (birthday), mossy_mare (2 years of following); Friday 23 May: tidewrack (a year since the first visit)" {
		t.Errorf("%q", got)
	}
	if e.owes() != "" {
		t.Error("told, and still owed")
	}
	e.restore(e.snapshot())
	e.after(6 * 24 * time.Hour)
	if e.owes() != "" {
		t.Error("owed before a week is over")
	}
	e.after(24 * time.Hour)
	if got := e.owes(); got != "Sun 10:00" {
		t.Errorf("a week later: %q", got)
	}
}

func TestAHouseThatWasDownAtThatMinuteOwesTheWeekLateAndOnce(t *testing.T) {
	e := begin(t, weekly(`{"day": "Sunday", "at": "10:00"}`))
	e.happens(on("quayside"))
	e.happens(off("quayside"))
	e.after(20 * time.Minute)
	e.now = e.now.Add(14 * 24 * time.Hour) // two Sundays pass without anybody
	e.after(time.Second)
	if got := e.owes(); got != "Sun 10:00" {
		t.Fatalf("owes %q", got)
	}
	e.happens(week())
	e.after(24 * time.Hour)
	if got := e.owes(); got != "" {
		t.Errorf("and again %q", got)
	}
}

func TestAnotherHourHoldsFromTheMomentItIsSet(t *testing.T) {
	e := begin(t, weekly(`{"day": "Sunday", "at": "10:00"}`))
	e.happens(on("quayside"))
	s := settings(t)
	weekly(`{"day": "Wednesday", "at": "18:00"}`)(s) // which was an hour ago, today
	raw, err := json.Marshal(s)
	if err != nil {
		t.Fatal(err)
	}
	e.plan = begin(t, func(to *housefile.Settings) { *to = *s }).plan
	e.happens(&event.SettingsChanged{Version: 2, Base: 1, What: "rooms", Settings: raw})
	e.after(6 * 24 * time.Hour)
	if got := e.owes(); got != "" {
		t.Errorf("owes %q", got)
	}
	e.after(24 * time.Hour)
	if got := e.owes(); got != "Wed 18:00" {
		t.Errorf("owes %q", got)
	}
	for _, bad := range []string{`{"day": "Sunday"}`, `{"day": "Sundays", "at": "10:00"}`, `{"day": "Sunday", "at": "25:00"}`} {
		if faults := faultsOf(t, weekly(bad)); len(faults) != 1 || !strings.HasPrefix(faults[0].At, "rooms.day.week") {
			t.Errorf("%s: %v", bad, faults)
		}
	}
}
