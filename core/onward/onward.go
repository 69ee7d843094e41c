// Package onward tells to whom a stream could go on when it ends: which fellow streamers are live or
// usually are at this hour, to whom a raid is owed, and who was not visited for long. [Suggest] is all
// of it; each suggestion says why.
package onward

import (
	"cmp"
	"slices"
	"strings"
	"time"

	"vividporch/core/attendance"
	"vividporch/core/people"
)

// Fellow is a fellow streamer as far as it matters whom to go to.
type Fellow struct {
	Person                         int64
	Account, Platform, Login, Name string
	Came, Went                     int        // raids
	LastCame, LastWent             *time.Time // of these
	Usual                          []attendance.Usual
	Live                           *bool // as the platform told just now; nil where it does not tell
	Link, Category                 string
}

// Suggestion is somebody to go to, and why.
type Suggestion struct {
	Fellow
	Why []string
}

// Most is how many there are to choose from.
const Most = 3

// lately is how long a visit of ours makes another one less likely.
const lately = 7 * 24 * time.Hour

// mostOwed bounds how much what is owed weighs: not more than that somebody is live.
const mostOwed = 3

// Suggest chooses whom to go to now: whoever is live first, then whoever usually is, among them those
// we owe most, and of equals whoever was not visited for longest. Whoever is told not to be live is not
// suggested, nor one of whom nothing speaks for now.
func Suggest(of []Fellow, now time.Time, zone *time.Location) []Suggestion {
	type ranked struct {
		Suggestion
		score int
	}
	var list []ranked
	for _, f := range of {
		if score, why := weigh(&f, now, zone); score > 0 {
			list = append(list, ranked{Suggestion{f, why}, score})
		}
	}
	slices.SortStableFunc(list, func(a, b ranked) int {
		return cmp.Or(cmp.Compare(b.score, a.score), last(a.LastWent).Compare(last(b.LastWent)), cmp.Compare(strings.ToLower(a.Name), strings.ToLower(b.Name)))
	})
	out := []Suggestion{}
	for _, r := range list[:min(Most, len(list))] {
		out = append(out, r.Suggestion)
	}
	return out
}

// weigh is how much speaks for somebody, and what; zero or less is nothing.
func weigh(f *Fellow, now time.Time, zone *time.Location) (score int, why []string) {
	if f.Live != nil && !*f.Live {
		return 0, nil
	}
	usual, habit := attendance.Now(f.Usual, now, zone)
	switch {
	case f.Live != nil && f.Category != "":
		score, why = 8, append(why, "live now with "+f.Category)
	case f.Live != nil:
		score, why = 8, append(why, "live now")
	case habit:
		score, why = 4, append(why, "usually live now: "+usual.String())
	}
	if owed := f.Came - f.Went; owed > 0 {
		score += min(owed, mostOwed)
		why = append(why, people.Balance(f.Came, f.Went, f.LastCame, zone))
	} else if f.Came+f.Went > 0 {
		why = append(why, people.Balance(f.Came, f.Went, f.LastCame, zone))
	}
	if f.LastWent != nil && now.Sub(*f.LastWent) < lately {
		score -= 2
		why = append(why, "we were there on "+f.LastWent.In(zone).Format("Monday"))
	}
	return score, why
}

// last is a moment, the earliest of all where there is none.
func last(t *time.Time) time.Time {
	if t == nil {
		return time.Time{}
	}
	return *t
}
