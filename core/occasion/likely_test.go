package occasion_test

import (
	"fmt"
	"testing"
	"time"

	"vividporch/core/attendance"
	"vividporch/core/dates"
	"vividporch/core/occasion"
)

func TestHowSureItIsThatSomebodyComes(t *testing.T) {
	for strip, want := range map[string]occasion.Chance{
		"11111111110000000000": occasion.Perhaps, "1111111111110000000t": occasion.Likely, "10000000000000000001": occasion.Unlikely,
		"0000000000000000000t": occasion.Unknown, "": occasion.Unknown, "11": occasion.Likely,
	} {
		if got := occasion.ChanceOf(strip); got != want {
			t.Errorf("%q is %s", strip, got)
		}
	}
}

func TestTheEveningsOfAChannelAreReadFromItsStreamsUnlessTheyAreSet(t *testing.T) {
	var past []attendance.Past
	open := at(t, "2031-03-03 19:00") // a Monday
	for i := range 8 {
		past = append(past, attendance.Past{Number: i + 1, Opened: open.AddDate(0, 0, 7*i)})
	}
	for i := range 4 {
		past = append(past, attendance.Past{Number: i + 9, Opened: open.AddDate(0, 0, 3+7*i)})
	}
	past = append(past, attendance.Past{Number: 20, Opened: open.AddDate(0, 0, 5)}) // one that was an exception
	if got := fmt.Sprint(occasion.Evenings(nil, past, time.UTC)); got != "[Monday Thursday]" {
		t.Error(got)
	}
	if got := fmt.Sprint(occasion.Evenings([]string{"Sunday", "Friday"}, past, time.UTC)); got != "[Friday Sunday]" {
		t.Error(got)
	}
}

func TestAYearAheadHasEachDayOnceAndTheNextRoundNumber(t *testing.T) {
	now := at(t, "2031-05-14 19:00")
	d := occasion.Dates{Birthday: dates.Day{Month: time.May, Day: 14}, Followed: at(t, "2029-05-13 10:00"), Streams: 48, Zone: time.UTC}
	expected := occasion.Expected(dates.On(now, time.UTC), []time.Weekday{time.Sunday, time.Tuesday}, 60)
	if got := words(occasion.Year(d, now, occasion.Rules{}, expected)); got != "birthday 2031-05-14 0 (0); round number 2031-05-20 50 (6); follow 2032-05-13 3 (365)" {
		t.Error(got)
	}
}
