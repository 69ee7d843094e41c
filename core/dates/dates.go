// Package dates reckons with days as people do: birthdays that may lack a year,
// the length of a follow by the calendar, and the next time a day comes round.
//
// A [Day] is a civil date with no zone; whoever needs one for a moment asks
// [On] with the zone the day belongs to. 29 February has a [LeapRule].
package dates

import (
	"errors"
	"fmt"
	"strconv"
	"strings"
	"time"
)

// Day is a day of the calendar. Year is 0 when only month and day are known.
type Day struct {
	Year  int
	Month time.Month
	Day   int
}

// LeapRule says when a 29 February is kept in a year without one.
type LeapRule string

// The leap rules.
const (
	OnFebruary28 LeapRule = "28 February"
	OnMarch1     LeapRule = "1 March"
)

// On is the day of a moment in a zone.
func On(t time.Time, zone *time.Location) Day {
	y, m, d := t.In(zone).Date()
	return Day{y, m, d}
}

// At is midnight, as the day begins in a zone. A day without a year has none.
func (d Day) At(zone *time.Location) time.Time {
	return time.Date(d.Year, d.Month, d.Day, 0, 0, 0, 0, zone)
}

// IsZero reports whether no day is given.
func (d Day) IsZero() bool { return d.Month == 0 }

// String writes the day as in ISO 8601, or as --MM-DD without a year, the
// truncated form of RFC 6350, section 4.3.1, with a hyphen that eases reading.
func (d Day) String() string {
	switch {
	case d.IsZero():
		return ""
	case d.Year == 0:
		return fmt.Sprintf("--%02d-%02d", d.Month, d.Day)
	}
	return fmt.Sprintf("%04d-%02d-%02d", d.Year, d.Month, d.Day)
}

// Spelled writes the day so that day and month cannot be mistaken: "14 May" or
// "14 May 1990".
func (d Day) Spelled() string {
	switch {
	case d.IsZero():
		return ""
	case d.Year == 0:
		return fmt.Sprintf("%d %s", d.Day, d.Month)
	}
	return fmt.Sprintf("%d %s %d", d.Day, d.Month, d.Year)
}

// MarshalText writes the day for JSON.
func (d Day) MarshalText() ([]byte, error) { return []byte(d.String()), nil }

// UnmarshalText reads what MarshalText wrote, and the basic forms without hyphens.
func (d *Day) UnmarshalText(b []byte) error {
	if len(b) == 0 {
		*d = Day{}
		return nil
	}
	got, err := Parse(string(b), true)
	if err == nil {
		*d = got
	}
	return err
}

// ErrNoDay says that a text is no day of the calendar.
var ErrNoDay = errors.New(`is no day of the calendar; write it like 14 May, 2031-05-14 or --05-14`)

var months = map[string]time.Month{}

func init() {
	for m := time.January; m <= time.December; m++ {
		name := strings.ToLower(m.String())
		months[name], months[name[:3]] = m, m
	}
	months["sept"] = time.September
}

// Parse reads a day in the spellings people and files use: 2031-05-14, 20310514,
// --05-14, --0514, 14 May, May 14th, 14 May 1990, 14.5., 14/05/1990. Where digits
// alone leave day and month open, dayFirst decides, unless only one order gives
// a day of the calendar.
func Parse(s string, dayFirst bool) (Day, error) {
	s = strings.ToLower(strings.TrimSpace(s))
	if t, _, ok := strings.Cut(s, "t"); ok && len(t) == 10 && t[4] == '-' { // an RFC 3339 moment
		s = t
	}
	if rest, ok := strings.CutPrefix(s, "--"); ok {
		rest = strings.ReplaceAll(rest, "-", "")
		if len(rest) != 4 {
			return Day{}, ErrNoDay
		}
		return digits("0000" + rest)
	}
	if plain := strings.ReplaceAll(s, "-", ""); len(plain) == 8 && allDigits(plain) && (len(s) == 8 || s[4] == '-') {
		return digits(plain)
	}
	words := strings.FieldsFunc(s, func(r rune) bool { return strings.ContainsRune(" .,/-\t", r) })
	var nums []int
	var month time.Month
	for _, w := range words {
		if m, ok := months[w]; ok {
			if month != 0 {
				return Day{}, ErrNoDay
			}
			month = m
			continue
		}
		if w == "of" || w == "the" {
			continue
		}
		for _, end := range []string{"st", "nd", "rd", "th"} {
			w = strings.TrimSuffix(w, end)
		}
		n, err := strconv.Atoi(w)
		if err != nil || n < 0 {
			return Day{}, ErrNoDay
		}
		nums = append(nums, n)
	}
	switch {
	case month != 0 && len(nums) == 1:
		return check(Day{0, month, nums[0]})
	case month != 0 && len(nums) == 2:
		if nums[0] > 31 {
			nums[0], nums[1] = nums[1], nums[0]
		}
		return check(Day{nums[1], month, nums[0]})
	case month == 0 && (len(nums) == 2 || len(nums) == 3):
		d := Day{Month: time.Month(nums[1]), Day: nums[0]}
		if !dayFirst && nums[0] <= 12 || nums[1] > 12 {
			d.Month, d.Day = time.Month(nums[0]), nums[1]
		}
		if len(nums) == 3 {
			d.Year = nums[2]
		}
		return check(d)
	}
	return Day{}, ErrNoDay
}

func allDigits(s string) bool { return strings.Trim(s, "0123456789") == "" }

func digits(s string) (Day, error) {
	if !allDigits(s) {
		return Day{}, ErrNoDay
	}
	n, _ := strconv.Atoi(s)
	return check(Day{n / 10000, time.Month(n / 100 % 100), n % 100})
}

func check(d Day) (Day, error) {
	year := d.Year
	if year == 0 {
		year = 2000 // a leap year: 29 February is a birthday
	}
	t := time.Date(year, d.Month, d.Day, 0, 0, 0, 0, time.UTC)
	if d.Year != 0 && (d.Year < 1800 || d.Year > 9998) || t.Month() != d.Month || t.Day() != d.Day {
		return Day{}, ErrNoDay
	}
	return d, nil
}

// In is the day as it is kept in a year.
func (d Day) In(year int, rule LeapRule) Day {
	if d.Month == time.February && d.Day == 29 && time.Date(year, time.February, 29, 0, 0, 0, 0, time.UTC).Day() != 29 {
		if rule == OnMarch1 {
			return Day{year, time.March, 1}
		}
		return Day{year, time.February, 28}
	}
	return Day{year, d.Month, d.Day}
}

// Next is the first time the day is kept on or after today, and how many days
// are left until then; 0 is today.
func (d Day) Next(today Day, rule LeapRule) (Day, int) {
	next := d.In(today.Year, rule)
	if next.before(today) {
		next = d.In(today.Year+1, rule)
	}
	return next, today.DaysTo(next)
}

func (d Day) before(o Day) bool {
	return d.Year < o.Year || d.Year == o.Year && (d.Month < o.Month || d.Month == o.Month && d.Day < o.Day)
}

// DaysTo counts the days from one day to a later one.
func (d Day) DaysTo(o Day) int {
	return int(o.At(time.UTC).Sub(d.At(time.UTC)) / (24 * time.Hour))
}

// Span is a length of time by the calendar.
type Span struct{ Years, Months, Days int }

// Between is how long it is from one moment to a later one, by the calendar of a
// zone: whole years, then whole months, then whole days. Somebody who followed on
// 31 January has followed for a month when February is over.
func Between(from, to time.Time, zone *time.Location) Span {
	if to.Before(from) {
		return Span{}
	}
	from, to = from.In(zone), to.In(zone)
	a, b := On(from, zone), On(to, zone)
	clock := func(t time.Time) time.Duration {
		return time.Duration(t.Hour())*time.Hour + time.Duration(t.Minute())*time.Minute + time.Duration(t.Second())*time.Second + time.Duration(t.Nanosecond())
	}
	if clock(to) < clock(from) { // the last day is not full
		b = On(time.Date(b.Year, b.Month, b.Day-1, 12, 0, 0, 0, time.UTC), time.UTC)
	}
	months := (b.Year-a.Year)*12 + int(b.Month) - int(a.Month)
	mark := func(n int) Day { // n months after a, cut to the length of that month
		first := time.Date(a.Year, a.Month+time.Month(n), 1, 0, 0, 0, 0, time.UTC)
		last := first.AddDate(0, 1, -1).Day()
		return Day{first.Year(), first.Month(), min(a.Day, last)}
	}
	if months > 0 && b.before(mark(months)) {
		months--
	}
	if months < 0 {
		months = 0
	}
	return Span{months / 12, months % 12, max(0, mark(months).DaysTo(b))}
}

// String writes the span in full: "1 year, 8 months, 3 days".
func (s Span) String() string {
	return s.write(", ", func(n int, unit string) string {
		if n == 1 {
			return "1 " + unit
		}
		return strconv.Itoa(n) + " " + unit + "s"
	}, 3)
}

// Short writes the two largest units: "1 y 8 m", "3 m", "5 d".
func (s Span) Short() string {
	return s.write(" ", func(n int, unit string) string { return strconv.Itoa(n) + " " + unit[:1] }, 2)
}

func (s Span) write(sep string, one func(int, string) string, most int) string {
	var parts []string
	for i, n := range []int{s.Years, s.Months, s.Days} {
		if n > 0 && len(parts) < most && (most > 2 || i < 2 || len(parts) == 0) {
			parts = append(parts, one(n, []string{"year", "month", "day"}[i]))
		}
	}
	if len(parts) == 0 {
		return one(0, "day")
	}
	return strings.Join(parts, sep)
}

// Age is how long it is from one moment to a later one, by the calendar of a zone and to the
// minute: "1 year, 8 months, 3 days, 4 hours and 12 minutes". Units that are none are left out;
// less than a minute is "less than a minute".
func Age(from, to time.Time, zone *time.Location) string {
	span := Between(from, to, zone)
	from, to = from.In(zone), to.In(zone)
	first := time.Date(from.Year()+span.Years, from.Month()+time.Month(span.Months), 1, 0, 0, 0, 0, time.UTC)
	day := min(from.Day(), first.AddDate(0, 1, -1).Day()) + span.Days
	full := time.Date(first.Year(), first.Month(), day, from.Hour(), from.Minute(), from.Second(), from.Nanosecond(), zone)
	left := max(0, to.Sub(full))
	var parts []string
	for _, u := range []struct {
		n    int
		unit string
	}{{span.Years, "year"}, {span.Months, "month"}, {span.Days, "day"}, {int(left / time.Hour), "hour"}, {int(left % time.Hour / time.Minute), "minute"}} {
		switch {
		case u.n == 1:
			parts = append(parts, "1 "+u.unit)
		case u.n > 1:
			parts = append(parts, strconv.Itoa(u.n)+" "+u.unit+"s")
		}
	}
	switch n := len(parts); n {
	case 0:
		return "less than a minute"
	case 1:
		return parts[0]
	default:
		return strings.Join(parts[:n-1], ", ") + " and " + parts[n-1]
	}
}
