package dates_test

import (
	"fmt"
	"strings"
	"testing"
	"testing/quick"
	"time"

	"vividporch/core/dates"
)

func day(y int, m time.Month, d int) dates.Day { return dates.Day{Year: y, Month: m, Day: d} }

func TestADayIsReadInEverySpellingPeopleUse(t *testing.T) {
	for in, want := range map[string]string{
		"2031-05-14": "2031-05-14", "20310514": "2031-05-14", "--05-14": "--05-14", "--0514": "--05-14", "14 May": "--05-14", "May 14th": "--05-14",
		"14th of May 1990": "1990-05-14", "14.5.": "--05-14", "14/05/1990": "1990-05-14", "05/14/1990": "1990-05-14", "3/4": "--04-03",
		"29 Feb": "--02-29", "1990 14 may": "1990-05-14", "2031-05-14T19:02:00Z": "2031-05-14",
		"03-09": "--09-03", "3/9": "--09-03", "3.9.": "--09-03", "9 March": "--03-09", "Mar 9th": "--03-09", "march 9 1990": "1990-03-09", "9th march": "--03-09",
		"the 9th of March": "--03-09", "MARCH 9": "--03-09", "9-mar": "--03-09", "9 . 3 .": "--03-09", " 9   march ": "--03-09", "13/9": "--09-13", "9/13": "--09-13", "1 sept": "--09-01",
	} {
		d, err := dates.Parse(in, true)
		if err != nil || d.String() != want {
			t.Errorf("%q: %v %v, want %s", in, d, err, want)
		}
	}
	if d, _ := dates.Parse("3/4", false); d.String() != "--03-04" {
		t.Errorf("with the month first 3/4 is %s", d)
	}
	for _, in := range []string{"", "soon", "31 June", "29 Feb 2031", "0/0", "14 May June", "2031-13-01", "14", "1/2/3/4", "--5-1",
		"31/02", "00-10", "10-00", "tomorrow", "3️⃣/9️⃣", "٣/٩", "३/९", "３／９", "9 März", "march", "9", "3/9/x", "0x3/9", "3e1/9", "9 march april", "32 march", "1/1/1/1", "march 9 march", "\u202e3/9", "3/9\x00", "💧 march", strings.Repeat("9", 400) + " march"} {
		if d, err := dates.Parse(in, true); err == nil {
			t.Errorf("%q was read as %s", in, d)
		}
	}
}

func TestWhatIsWrittenIsReadTheSame(t *testing.T) {
	same := func(n uint32, withYear bool) bool {
		d := dates.On(time.Unix(int64(n), 0), time.UTC)
		if !withYear {
			d.Year = 0
		}
		for _, s := range []string{d.String(), d.Spelled()} {
			if got, err := dates.Parse(s, true); err != nil || got != d {
				return false
			}
		}
		return true
	}
	if err := quick.Check(same, nil); err != nil {
		t.Error(err)
	}
}

func TestABirthdayOnTheTwentyNinthOfFebruaryIsKeptEveryYear(t *testing.T) {
	born := dates.Day{Month: time.February, Day: 29}
	for _, c := range []struct {
		today dates.Day
		rule  dates.LeapRule
		want  string
		left  int
	}{
		{day(2031, 2, 27), dates.OnFebruary28, "2031-02-28", 1},
		{day(2031, 2, 27), dates.OnMarch1, "2031-03-01", 2},
		{day(2032, 2, 27), dates.OnMarch1, "2032-02-29", 2},
		{day(2031, 3, 1), dates.OnMarch1, "2031-03-01", 0},
		{day(2031, 3, 2), dates.OnMarch1, "2032-02-29", 364},
	} {
		if next, left := born.Next(c.today, c.rule); next.String() != c.want || left != c.left {
			t.Errorf("on %s by %s: %s in %d days, want %s in %d", c.today, c.rule, next, left, c.want, c.left)
		}
	}
}

func TestAFollowIsAsOldAsTheCalendarSays(t *testing.T) {
	at := func(s string) time.Time { v, _ := time.Parse("2006-01-02 15:04", s); return v }
	for _, c := range []struct{ from, to, want, short string }{
		{"2029-09-11 20:00", "2031-05-14 20:00", "1 year, 8 months, 3 days", "1 y 8 m"},
		{"2029-09-11 20:01", "2031-05-14 20:00", "1 year, 8 months, 2 days", "1 y 8 m"},
		{"2031-01-31 12:00", "2031-02-28 12:00", "1 month", "1 m"},
		{"2031-01-31 12:00", "2031-02-27 12:00", "27 days", "27 d"},
		{"2031-05-14 20:00", "2031-05-14 21:00", "0 days", "0 d"},
		{"2031-05-14 20:00", "2031-05-13 21:00", "0 days", "0 d"},
		{"2028-02-29 10:00", "2029-02-28 10:00", "1 year", "1 y"},
		{"2030-05-14 20:00", "2031-06-14 20:00", "1 year, 1 month", "1 y 1 m"},
	} {
		s := dates.Between(at(c.from), at(c.to), time.UTC)
		if s.String() != c.want || s.Short() != c.short {
			t.Errorf("%s to %s: %s (%s), want %s (%s)", c.from, c.to, s, s.Short(), c.want, c.short)
		}
	}
}

func TestASpanAddsUpAgain(t *testing.T) {
	adds := func(a, b uint32) bool {
		from, to := time.Unix(int64(min(a, b)), 0).UTC(), time.Unix(int64(max(a, b)), 0).UTC()
		s := dates.Between(from, to, time.UTC)
		mark := from.AddDate(0, s.Years*12+s.Months, 0)
		if mark.Day() != from.Day() { // cut to the length of the month
			mark = mark.AddDate(0, 0, -mark.Day())
		}
		left := to.Sub(mark.AddDate(0, 0, s.Days))
		return s.Months < 12 && s.Days < 31 && left >= 0 && left < 24*time.Hour
	}
	if err := quick.Check(adds, &quick.Config{MaxCount: 2000}); err != nil {
		t.Error(err)
	}
}

func ExampleBetween() {
	followed := time.Date(2029, 5, 16, 20, 0, 0, 0, time.UTC)
	fmt.Println(dates.Between(followed, time.Date(2031, 5, 14, 21, 0, 0, 0, time.UTC), time.UTC))
	// Output: 1 year, 11 months, 28 days
}

func TestAnAgeIsToldToTheMinuteByTheCalendar(t *testing.T) {
	lisbon, err := time.LoadLocation("Europe/Lisbon")
	if err != nil {
		t.Fatal(err)
	}
	at := func(s string) time.Time {
		out, err := time.ParseInLocation("2006-01-02 15:04:05", s, lisbon)
		if err != nil {
			t.Fatal(err)
		}
		return out
	}
	for _, c := range []struct{ name, from, to, want string }{
		{"all units", "2029-01-10 18:00:00", "2031-03-12 21:05:30", "2 years, 2 months, 2 days, 3 hours and 5 minutes"},
		{"one of each", "2030-02-11 17:59:00", "2031-03-12 19:00:00", "1 year, 1 month, 1 day, 1 hour and 1 minute"},
		{"to the very minute", "2030-05-14 19:00:00", "2031-05-14 19:00:00", "1 year"},
		{"a minute short of it", "2030-05-14 19:00:00", "2031-05-14 18:59:00", "11 months, 29 days, 23 hours and 59 minutes"},
		{"just now", "2031-05-14 19:00:00", "2031-05-14 19:00:59", "less than a minute"},
		{"from the last of a long month", "2031-01-31 12:00:00", "2031-02-28 12:00:00", "1 month"},
		{"from 29 February", "2028-02-29 12:00:00", "2031-02-28 13:00:00", "3 years and 1 hour"},
		{"over the clock going forward", "2031-03-29 12:00:00", "2031-03-30 12:30:00", "1 day and 30 minutes"},
		{"in the night it does", "2031-03-29 23:00:00", "2031-03-30 03:00:00", "3 hours"},
		{"backwards", "2031-05-14 19:00:00", "2030-05-14 19:00:00", "less than a minute"},
	} {
		t.Run(c.name, func(t *testing.T) {
			if got := dates.Age(at(c.from), at(c.to), lisbon); got != c.want {
				t.Errorf("%q, want %q", got, c.want)
			}
		})
	}
}
