package occasion

import (
	"slices"
	"strings"
	"time"

	"vividporch/core/attendance"
	"vividporch/core/dates"
)

// Chance is how sure it is that somebody comes to a stream, by how they came to the last ones.
type Chance string

// The chances.
const (
	Likely   Chance = "likely"   // at three of five or more
	Perhaps  Chance = "perhaps"  // at one of five or more
	Unlikely Chance = "unlikely" //
	Unknown  Chance = "new"      // they were at one or none
)

// ChanceOf reads it from an attendance strip ([attendance.Strip]).
func ChanceOf(strip string) Chance {
	came := strings.Count(strip, "1") + strings.Count(strip, "t")
	switch {
	case came < 2:
		return Unknown
	case came*5 >= len(strip)*3:
		return Likely
	case came*5 >= len(strip):
		return Perhaps
	}
	return Unlikely
}

// streamsLooked is of how many streams the habit of a channel is read.
const streamsLooked = 20

// Evenings are the weekdays on which a channel streams: as they are set, else as a quarter or more of
// its last streams of the busiest weekday were. They begin on Monday (ISO 8601).
func Evenings(set []string, past []attendance.Past, zone *time.Location) []time.Weekday {
	var out []time.Weekday
	week := []time.Weekday{time.Monday, time.Tuesday, time.Wednesday, time.Thursday, time.Friday, time.Saturday, time.Sunday}
	if len(set) > 0 {
		for _, d := range week {
			if slices.Contains(set, d.String()) {
				out = append(out, d)
			}
		}
		return out
	}
	var times [7]int
	most := 0
	for _, p := range past[max(0, len(past)-streamsLooked):] {
		d := p.Opened.In(zone).Weekday()
		times[d]++
		most = max(most, times[d])
	}
	for _, d := range week {
		if times[d] > 1 && times[d]*4 >= most {
			out = append(out, d)
		}
	}
	return out
}

// Year are somebody's days of a year from today on; of a round number the day of the stream at which they
// reach it if they come to each that is expected. Who that is asked of is up to whoever lists them.
func Year(d Dates, now time.Time, r Rules, expected []dates.Day) []Occasion {
	out := Coming(d, now, 365, r)
	today := dates.On(now, d.Zone)
	for i, on := range expected {
		if n := d.Streams + i + 1; r.IsRound(n) {
			out = append(out, Occasion{Kind: Streams, On: on, Years: n, Days: today.DaysTo(on)})
			break
		}
	}
	slices.SortStableFunc(out, func(a, b Occasion) int { return a.Days - b.Days })
	return out
}

// Expected are the next days from tomorrow on that fall onto such weekdays.
func Expected(today dates.Day, on []time.Weekday, most int) []dates.Day {
	var out []dates.Day
	if len(on) == 0 {
		return nil
	}
	for at := today.At(time.UTC).AddDate(0, 0, 1); len(out) < most; at = at.AddDate(0, 0, 1) {
		if slices.Contains(on, at.Weekday()) {
			out = append(out, dates.On(at, time.UTC))
		}
	}
	return out
}
