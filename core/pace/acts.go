package pace

import (
	"strings"
	"time"

	"vividporch/core/plain"
)

// ActLimit is how often a platform does one of its actions: Gap is the least time between two, Person
// between two about one person. Zero is no limit. What comes before the gap is over waits; what is
// about somebody too soon is given up, with that reason.
type ActLimit struct{ Gap, Person time.Duration }

// MostAct is the longest time between two actions that can be kept.
const MostAct = 24 * time.Hour

// actPrefix begins what actions are remembered by among people: no account has such a key.
const actPrefix = "act "

func actKey(platform, act string) string { return actPrefix + platform + " " + act }

// Acting names what bounds a platform's action in [Rules].
func Acting(platform, act string) string { return platform + "/" + act }

// actAt is when a platform takes a line's action again, and no sooner than t.
func (s *lately) actAt(l *Line, t time.Time, r Rules) time.Time {
	lim, bound := r.Acts[Acting(l.Platform, l.Act)]
	if l.Act == "" || !bound || l.Try {
		return t
	}
	if last, was := s.of(actKey(l.Platform, l.Act)); was && lim.Gap > 0 {
		t = later(t, last.At.Add(lim.Gap))
	}
	return t
}

// actTooSoon says why a line's action is not asked for: the platform did it about the same person
// lately; or "".
func (s *lately) actTooSoon(l *Line, now time.Time, r Rules) string {
	lim := r.Acts[Acting(l.Platform, l.Act)]
	if l.Act == "" || l.Try || lim.Person <= 0 || l.Person == "" {
		return ""
	}
	if last, was := s.of(actKey(l.Platform, l.Act) + " " + l.Person); was && now.Before(last.At.Add(lim.Person)) {
		return plain.Titled(l.Platform) + " does this once in " + seconds(lim.Person) + " for one person; it was " + seconds(now.Sub(last.At)) + " before"
	}
	return ""
}

// acted notes that a platform is asked for an action.
func (s *lately) acted(platform, act, person string, cause int64, at time.Time) {
	s.note(actKey(platform, act), Spoken{at, cause})
	if person != "" {
		s.note(actKey(platform, act)+" "+person, Spoken{at, cause})
	}
}

// Asked is how many lines wait that ask a platform for an action.
func (q *Queue) Asked(platform, act string) (n int) {
	for i := range q.Lines {
		if l := &q.Lines[i]; l.Platform == platform && l.Act == act {
			n++
		}
	}
	return n
}

// Acted notes an action that was asked of a platform by hand, without waiting here.
func (q *Queue) Acted(platform, act, person string, event int64, at time.Time) {
	s := lately{since: q.Spoken}
	s.acted(platform, act, person, event, at)
	q.Spoken = s.since
}

// minded is for how long something is remembered that people or platforms mind the repeat of.
func minded(key string) time.Duration {
	if strings.HasPrefix(key, actPrefix) {
		return MostAct
	}
	return spokenFor
}
