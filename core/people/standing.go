package people

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"vividporch/core/attendance"
)

// Rules are the numbers that standings go by; all are settings.
type Rules struct {
	RegularAttended int `json:"regularAttended"` // at least so many streams …
	RegularOf       int `json:"regularOf"`       // … of the channel's last so many
	AwayVisits      int `json:"awayVisits"`      // long away: at least so many visits before …
	AwayDays        int `json:"awayDays"`        // … and none for so many days
}

// DefaultRules are what a channel starts with.
var DefaultRules = Rules{RegularAttended: 6, RegularOf: 10, AwayVisits: 3, AwayDays: 30}

// Or fills in what is not set.
func (r Rules) Or(d Rules) Rules {
	for dst, def := range map[*int]int{&r.RegularAttended: d.RegularAttended, &r.RegularOf: d.RegularOf, &r.AwayVisits: d.AwayVisits, &r.AwayDays: d.AwayDays} {
		if *dst == 0 {
			*dst = def
		}
	}
	return r
}

// Since is the moment before which a last visit counts as long away.
func (r Rules) Since(now time.Time) time.Time { return now.AddDate(0, 0, -r.AwayDays) }

// Standing works out how somebody stands before a stream, with the reason in
// words. past are the streams before it, oldest first. Long away goes before
// regular: who missed a month is welcomed back whatever they were. A pause of the
// channel itself makes nobody long away: they must have missed a stream.
func (r Rules) Standing(k *Known, past []attendance.Past, now time.Time, zone *time.Location) (Standing, string) {
	if k == nil || k.Attended == 0 {
		return Newcomer, "no earlier stream with a visit"
	}
	window := past[max(0, len(past)-r.RegularOf):]
	came, missed := 0, []string(nil)
	for _, p := range window {
		if slices.Contains(k.Recent, p.Number) {
			came++
		} else {
			missed = append(missed, p.Opened.In(zone).Format("2 January"))
		}
	}
	if k.LastSeen != nil && k.Attended >= r.AwayVisits && k.LastSeen.Before(r.Since(now)) {
		since := 0
		for _, p := range past {
			if p.Opened.After(*k.LastSeen) {
				since++
			}
		}
		if since > 0 {
			return LongAway, fmt.Sprintf("%s before, the last on %s; %s missed since", count(k.Attended, "stream"), k.LastSeen.In(zone).Format("2 January 2006"), count(since, "stream"))
		}
	}
	if len(window) == 0 {
		return Returning, count(k.Attended, "earlier stream")
	}
	of := fmt.Sprintf("%d of the last %d streams", came, len(window))
	if came >= r.RegularAttended {
		if len(missed) == 0 {
			return Regular, of + "; missed none"
		}
		return Regular, of + "; missed " + few(missed, 6)
	}
	return Returning, fmt.Sprintf("%s, %s; %d make a regular", count(k.Attended, "earlier stream"), of, r.RegularAttended)
}

func count(n int, what string) string {
	if n == 1 {
		return "1 " + what
	}
	return fmt.Sprintf("%d %ss", n, what)
}

// few lists up to most things and counts the rest.
func few(list []string, most int) string {
	if len(list) <= most {
		return strings.Join(list, ", ")
	}
	return fmt.Sprintf("%s and %d more", strings.Join(list[:most], ", "), len(list)-most)
}

// Balance says in words how things stand between us and somebody who raids.
func Balance(came, went int, lastCame *time.Time, zone *time.Location) string {
	switch {
	case came == 0 && went == 0:
		return "no raids yet"
	case came == 0:
		return "we went " + times(went) + ", they have not come"
	}
	s := "they came " + times(came)
	if went == 0 {
		s += ", we have not gone yet"
	} else {
		s += ", we went " + times(went)
	}
	if lastCame != nil {
		s += ", last on " + lastCame.In(zone).Format("2 January")
	}
	return s
}

func times(n int) string {
	switch n {
	case 1:
		return "once"
	case 2:
		return "twice"
	}
	return fmt.Sprintf("%d times", n)
}
