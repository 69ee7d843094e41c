package occasion_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"vividporch/core/dates"
	"vividporch/core/occasion"
)

func zone(t testing.TB, name string) *time.Location {
	t.Helper()
	z, err := time.LoadLocation(name)
	if err != nil {
		t.Fatal(err)
	}
	return z
}

// at is a moment in UTC, "2031-05-14 19:00".
func at(t testing.TB, s string) time.Time {
	t.Helper()
	if s == "" {
		return time.Time{}
	}
	m, err := time.Parse("2006-01-02 15:04", s)
	if err != nil {
		t.Fatal(err)
	}
	return m
}

func words(list []occasion.Occasion) string {
	var out []string
	for _, o := range list {
		out = append(out, fmt.Sprintf("%s %s %d (%d)", o.Kind, o.On, o.Years, o.Days))
	}
	return strings.Join(out, "; ")
}

func TestTheDaysThatAreKeptAtAMoment(t *testing.T) {
	march1 := occasion.Rules{Leap: dates.OnMarch1}
	for _, c := range []struct {
		name             string
		birthday         string
		followed, first  string
		streams          int
		zone, now, since string
		rules            occasion.Rules
		now_, belated    string
	}{
		{name: "a birthday of today", birthday: "--05-14", now: "2031-05-14 19:00", now_: "birthday 2031-05-14 0 (0)"},
		{name: "and how many years it makes, where they gave the year", birthday: "1990-05-14", now: "2031-05-14 19:00", now_: "birthday 2031-05-14 41 (0)"},
		{name: "one of yesterday is belated", birthday: "--05-13", now: "2031-05-14 19:00", belated: "birthday 2031-05-13 0 (-1)"},
		{name: "for a week", birthday: "--05-07", now: "2031-05-14 19:00", belated: "birthday 2031-05-07 0 (-7)"},
		{name: "and no longer", birthday: "--05-06", now: "2031-05-14 19:00"},
		{name: "over the turn of the year", birthday: "--12-30", now: "2032-01-02 19:00", belated: "birthday 2031-12-30 0 (-3)"},
		{name: "one that begins while the stream is on", birthday: "--05-15", now: "2031-05-15 00:10", since: "2031-05-14 20:00", now_: "birthday 2031-05-15 0 (0)"},
		{name: "one that ended while it is on is kept in it", birthday: "--05-14", now: "2031-05-15 00:10", since: "2031-05-14 20:00", now_: "birthday 2031-05-14 0 (-1)"},
		{name: "one that ended before it began is belated", birthday: "--05-14", now: "2031-05-15 02:10", since: "2031-05-15 01:00", belated: "birthday 2031-05-14 0 (-1)"},
		{name: "far in the east it is their day already", birthday: "--05-15", zone: "Pacific/Kiritimati", now: "2031-05-14 10:30", now_: "birthday 2031-05-15 0 (0)"},
		{name: "far in the west it is theirs still", birthday: "--05-14", zone: "Etc/GMT+12", now: "2031-05-15 11:30", now_: "birthday 2031-05-14 0 (0)"},
		{name: "and over a minute later", birthday: "--05-14", zone: "Etc/GMT+12", now: "2031-05-15 12:01", belated: "birthday 2031-05-14 0 (-1)"},
		{name: "29 February on the day in a leap year", birthday: "--02-29", now: "2024-02-29 19:00", now_: "birthday 2024-02-29 0 (0)"},
		{name: "and in 2000, which was one", birthday: "2000-02-29", now: "2000-02-29 19:00", now_: "birthday 2000-02-29 0 (0)"},
		{name: "not in 2100, which is none", birthday: "2000-02-29", now: "2100-02-28 19:00", now_: "birthday 2100-02-28 100 (0)"},
		{name: "or on 1 March, as the channel has it", birthday: "2000-02-29", now: "2100-03-01 19:00", rules: march1, now_: "birthday 2100-03-01 100 (0)"},
		{name: "on 1 March of a leap year it was yesterday", birthday: "--02-29", now: "2024-03-01 19:00", rules: march1, belated: "birthday 2024-02-29 0 (-1)"},
		{name: "the night the clocks go forward", birthday: "--03-30", zone: "Europe/Lisbon", now: "2031-03-30 00:30", now_: "birthday 2031-03-30 0 (0)"},
		{name: "the night they go back, in the hour that comes twice", birthday: "--10-26", zone: "Europe/Lisbon", now: "2031-10-26 01:30", now_: "birthday 2031-10-26 0 (0)"},
		{name: "two years of following", followed: "2029-05-14 08:00", now: "2031-05-14 07:00", now_: "follow 2031-05-14 2 (0)"},
		{name: "the day they follow is none", followed: "2031-05-14 08:00", now: "2031-05-14 19:00"},
		{name: "a follow ahead of the clock is none", followed: "2031-05-14 19:30", now: "2031-05-14 19:00"},
		{name: "a follow of 29 February", followed: "2028-02-29 12:00", now: "2031-02-28 12:00", now_: "follow 2031-02-28 3 (0)"},
		{name: "in their zone they followed a day later", followed: "2029-05-14 23:30", zone: "Asia/Tokyo", now: "2031-05-15 03:00", now_: "follow 2031-05-15 2 (0)"},
		{name: "a first visit a year ago", first: "2030-05-14 20:00", now: "2031-05-14 19:00", now_: "first visit 2031-05-14 1 (0)"},
		{name: "the fiftieth stream", streams: 50, now: "2031-05-14 19:00", now_: "round number 2031-05-14 50 (0)"},
		{name: "the three hundredth", streams: 300, now: "2031-05-14 19:00", now_: "round number 2031-05-14 300 (0)"},
		{name: "no other", streams: 51, now: "2031-05-14 19:00"},
		{name: "numbers of the channel's own", streams: 7, now: "2031-05-14 19:00", rules: occasion.Rules{Round: []int{7}}, now_: "round number 2031-05-14 7 (0)"},
		{name: "all at once, the birthday first", birthday: "--05-14", followed: "2029-05-14 08:00", first: "2029-05-14 08:00", streams: 100, now: "2031-05-14 19:00",
			now_: "birthday 2031-05-14 0 (0); follow 2031-05-14 2 (0); first visit 2031-05-14 2 (0); round number 2031-05-14 100 (0)"},
		{name: "nothing is known", now: "2031-05-14 19:00"},
		{name: "a birthday of a year still to come is none", birthday: "2032-05-14", now: "2031-05-14 19:00"},
	} {
		t.Run(c.name, func(t *testing.T) {
			d := occasion.Dates{Followed: at(t, c.followed), First: at(t, c.first), Streams: c.streams, Zone: time.UTC}
			if c.birthday != "" {
				if err := d.Birthday.UnmarshalText([]byte(c.birthday)); err != nil {
					t.Fatal(err)
				}
			}
			if c.zone != "" {
				d.Zone = zone(t, c.zone)
			}
			if got := words(occasion.Now(d, at(t, c.now), at(t, c.since), c.rules)); got != c.now_ {
				t.Errorf("now: %q", got)
			}
			if got := words(occasion.Belated(d, at(t, c.now), at(t, c.since), c.rules)); got != c.belated {
				t.Errorf("belated: %q", got)
			}
		})
	}
}

func TestWhatIsAhead(t *testing.T) {
	d := occasion.Dates{Birthday: dates.Day{Year: 1990, Month: time.May, Day: 20}, Followed: at(t, "2029-05-15 12:00"), First: at(t, "2031-05-16 12:00"), Zone: time.UTC}
	if got := words(occasion.Coming(d, at(t, "2031-05-14 19:00"), 30, occasion.Rules{})); got != "follow 2031-05-15 2 (1); birthday 2031-05-20 41 (6)" {
		t.Errorf("%q", got)
	}
}

// Whatever somebody's days and the moment: each is kept, belated or neither, never two of these; the key
// of a year is the year's alone; and what comes is never past and never more than 366 days off.
func TestADayIsKeptOnceAYearWhenever(t *testing.T) {
	r := rand.New(rand.NewPCG(29, 2))
	zones := []*time.Location{time.UTC, zone(t, "Pacific/Kiritimati"), zone(t, "Etc/GMT+12"), zone(t, "Europe/Lisbon"), zone(t, "America/St_Johns")}
	for range 3000 {
		d := occasion.Dates{Birthday: dates.On(time.Unix(r.Int64N(2e9), 0), time.UTC), Followed: time.Unix(1e9+r.Int64N(1e9), 0), First: time.Unix(1e9+r.Int64N(1e9), 0), Zone: zones[r.IntN(len(zones))]}
		if r.IntN(2) == 0 {
			d.Birthday.Year = 0
		}
		if r.IntN(10) == 0 {
			d.Birthday = dates.Day{Month: time.February, Day: 29}
		}
		rules := occasion.Rules{Leap: []dates.LeapRule{"", dates.OnMarch1, dates.OnFebruary28}[r.IntN(3)]}
		now := time.Unix(19e8+r.Int64N(1e9), 0)
		since := now.Add(-time.Duration(r.Int64N(int64(30 * time.Hour))))
		kept, late := occasion.Now(d, now, since, rules), occasion.Belated(d, now, since, rules)
		for _, o := range kept {
			if slices.ContainsFunc(late, func(x occasion.Occasion) bool { return x.Key() == o.Key() }) {
				t.Fatalf("%+v is kept and belated at %s: %s", d, now, words(append(kept, late...)))
			}
		}
		for _, o := range late {
			if o.Days >= 0 || -o.Days > occasion.DefaultWindow {
				t.Fatalf("belated by %d days", -o.Days)
			}
		}
		for _, o := range occasion.Coming(d, now, 400, rules) {
			if o.Days < 0 || o.Days > 366 {
				t.Fatalf("%s is %d days off", o.Kind, o.Days)
			}
		}
		// A year is walked day by day: each of its days is kept on one of them, under one key a year.
		if r.IntN(30) > 0 {
			continue
		}
		times := map[string]int{}
		noon := time.Date(2031, time.January, 1, 12, 0, 0, 0, d.Zone)
		for i := range 365 {
			for _, o := range occasion.Now(d, noon.AddDate(0, 0, i), time.Time{}, rules) {
				times[o.Key()]++
			}
		}
		for key, n := range times {
			if n != 1 {
				t.Fatalf("%s is kept on %d days of 2031", key, n)
			}
		}
		if times["birthday/2031"] != 1 && d.Birthday.Year <= 2031 {
			t.Fatalf("the birthday %s is not kept in 2031: %v", d.Birthday, times)
		}
	}
}

func ExampleNow() {
	lena := occasion.Dates{Birthday: dates.Day{Month: time.May, Day: 14}, Followed: time.Date(2029, time.May, 14, 9, 0, 0, 0, time.UTC), Streams: 50, Zone: time.UTC}
	for _, o := range occasion.Now(lena, time.Date(2031, time.May, 14, 19, 30, 0, 0, time.UTC), time.Time{}, occasion.Rules{}) {
		fmt.Println(o.Kind, o.Years, "as", o.Key())
	}
	// Output:
	// birthday 0 as birthday/2031
	// follow 2 as follow/2031
	// round number 50 as round number/50
}
