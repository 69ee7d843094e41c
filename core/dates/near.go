package dates

import (
	"fmt"
	"time"
)

// soon is how many days ahead a date is worth knowing; missed how many behind.
const (
	soon   = 7
	missed = 3
)

// Near says which days of somebody's are near today: a birthday that is today, comes
// within a week or was within three days, and a follow anniversary that is today or
// within a week. A zero day is not known.
func Near(today, birthday, followed Day, rule LeapRule) []string {
	var out []string
	if !birthday.IsZero() {
		next, left := birthday.Next(today, rule)
		last := birthday.In(today.Year, rule)
		if today.before(last) {
			last = birthday.In(today.Year-1, rule)
		}
		switch ago := last.DaysTo(today); {
		case left == 0:
			out = append(out, "birthday today")
		case left <= soon:
			out = append(out, "birthday "+dayName(next, left))
		case ago <= missed:
			out = append(out, "birthday was "+last.At(time.UTC).Format("Monday"))
		}
	}
	if followed.Year > 0 {
		next, left := Day{0, followed.Month, followed.Day}.Next(today, rule)
		if years := next.Year - followed.Year; left <= soon && years > 0 {
			unit := "years"
			if years == 1 {
				unit = "year"
			}
			if left == 0 {
				out = append(out, fmt.Sprintf("follows %d %s today", years, unit))
			} else {
				out = append(out, fmt.Sprintf("follows %d %s on %s", years, unit, next.At(time.UTC).Format("Monday")))
			}
		}
	}
	return out
}

func dayName(d Day, left int) string {
	if left == 1 {
		return "tomorrow"
	}
	return d.At(time.UTC).Format("Monday")
}
