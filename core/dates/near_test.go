package dates_test

import (
	"strings"
	"testing"
	"time"

	"vividporch/core/dates"
)

func TestDaysThatAreNearAreNamedAsOneSaysThem(t *testing.T) {
	wednesday := day(2031, time.May, 14)
	for _, c := range []struct {
		birthday, followed dates.Day
		want               string
	}{
		{day(0, time.May, 14), dates.Day{}, "birthday today"},
		{day(1988, time.May, 15), dates.Day{}, "birthday tomorrow"},
		{day(0, time.May, 19), dates.Day{}, "birthday Monday"},
		{day(0, time.May, 21), dates.Day{}, "birthday Wednesday"},
		{day(0, time.May, 22), dates.Day{}, ""},
		{day(0, time.May, 13), dates.Day{}, "birthday was Tuesday"},
		{day(0, time.May, 11), dates.Day{}, "birthday was Sunday"},
		{day(0, time.May, 10), dates.Day{}, ""},
		{dates.Day{}, day(2029, time.May, 14), "follows 2 years today"},
		{dates.Day{}, day(2030, time.May, 16), "follows 1 year on Friday"},
		{dates.Day{}, day(2031, time.May, 14), ""},
		{dates.Day{}, day(2029, time.May, 13), ""},
		{day(0, time.May, 14), day(2026, time.May, 18), "birthday today, follows 5 years on Sunday"},
		{dates.Day{}, dates.Day{}, ""},
	} {
		if got := strings.Join(dates.Near(wednesday, c.birthday, c.followed, dates.OnFebruary28), ", "); got != c.want {
			t.Errorf("birthday %v, follows since %v: %q, want %q", c.birthday, c.followed, got, c.want)
		}
	}
}

func TestNearGoesOverTheTurnOfTheYear(t *testing.T) {
	for _, c := range []struct {
		today, birthday dates.Day
		want            string
	}{
		{day(2030, time.December, 30), day(0, time.January, 2), "birthday Thursday"},
		{day(2031, time.January, 2), day(0, time.December, 31), "birthday was Tuesday"},
		{day(2031, time.February, 28), day(0, time.February, 29), "birthday today"},
		{day(2031, time.March, 1), day(0, time.February, 29), "birthday was Friday"},
		{day(2032, time.February, 28), day(0, time.February, 29), "birthday tomorrow"},
	} {
		if got := strings.Join(dates.Near(c.today, c.birthday, dates.Day{}, dates.OnFebruary28), ", "); got != c.want {
			t.Errorf("on %v, birthday %v: %q, want %q", c.today, c.birthday, got, c.want)
		}
	}
}
