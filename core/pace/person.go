package pace

import (
	"cmp"
	"maps"
	"strings"
	"time"
)

// Spoken is when somebody was last greeted or thanked, and for what: what one cause
// says of somebody is one word to them, however many lines it has.
type Spoken struct {
	At    time.Time `json:"at"`
	Event int64     `json:"event"`
}

// Counts reports whether a line is one of those of which nobody gets two in quick
// succession: a greeting or a thanks in chat that the house says by itself.
func (l *Line) Counts() bool {
	return l.Effect == "" && !l.Try && l.Whose != "" && (l.Greets() || l.Priority == Thanks)
}

// cause is the number of what a line came of in the end.
func (l *Line) cause() int64 { return cmp.Or(l.Cause, l.Event) }

// lately is who was spoken to lately: as the queue has it, and since.
type lately struct{ before, since map[string]Spoken }

func (l *lately) of(whose string) (s Spoken, was bool) {
	if s, was = l.since[whose]; !was {
		s, was = l.before[whose]
	}
	return s, was
}

// soon reports whether a line would speak to somebody who was spoken to just now, for
// another cause, and since when.
func (l *Line) soon(spoken *lately, now time.Time, r Rules) (time.Time, bool) {
	if r.Person <= 0 || !l.Counts() || l.Hurried {
		return time.Time{}, false
	}
	s, was := spoken.of(l.Whose)
	return s.At, was && s.Event != l.cause() && now.Before(s.At.Add(r.Person))
}

// tooSoon finds a line that leaves now, with all that leave with it, and is not worth
// waiting for: whoever it is for was spoken to just now. -1 when there is none.
func tooSoon(lines []*Line, take []int, spoken *lately, now time.Time, r Rules) (int, string) {
	for _, k := range take {
		if why := spoken.actTooSoon(lines[k], now, r); why != "" {
			return k, why
		}
		if at, soon := lines[k].soon(spoken, now, r); soon && !lines[k].Waits {
			return k, "was spoken to " + seconds(now.Sub(at)) + " before; nobody is twice within " + seconds(r.Person)
		}
	}
	return -1, ""
}

// heard notes whom lines spoke to.
func (s *lately) heard(lines []Line, at time.Time) {
	for i := range lines {
		l := &lines[i]
		if l.Counts() {
			s.note(l.Whose, Spoken{at, l.cause()})
		}
		s.left(l, at)
	}
}

func (s *lately) note(whose string, spoken Spoken) {
	if s.since == nil {
		s.since = map[string]Spoken{}
	}
	s.since[whose] = spoken
}

// shoutOuts is what the last shout-out is remembered by, among people: no account has that key.
const shoutOuts = "shout-outs"

// shoutBefore is when somebody was shouted out last, where a line shouts out too, for another cause.
func (s *lately) shoutBefore(l *Line) (time.Time, bool) {
	if !l.Shouts || l.Effect != "" || l.Try {
		return time.Time{}, false
	}
	last, was := s.of(shoutOuts)
	return last.At, was && last.Event != l.cause()
}

// left notes that a line which shouts somebody out, or asks a platform for something, left.
func (s *lately) left(l *Line, at time.Time) {
	switch {
	case l.Try:
	case l.Act != "":
		s.acted(l.Platform, l.Act, l.Person, l.cause(), at)
	case l.Shouts && l.Effect == "":
		s.note(shoutOuts, Spoken{at, l.cause()})
	}
}

// Spoke notes that a line left for whoever it is for.
func (q *Queue) Spoke(l *Line, at time.Time) {
	s := lately{since: q.Spoken}
	s.heard([]Line{*l}, at)
	q.Spoken = s.since
}

// Prune takes out whoever was last spoken to longer ago than anybody minds.
func (q *Queue) Prune(at time.Time) {
	maps.DeleteFunc(q.Spoken, func(key string, s Spoken) bool { return at.Sub(s.At) > minded(key) })
}

// Forget takes out what is remembered under somebody's key.
func (q *Queue) Forget(whose string) {
	maps.DeleteFunc(q.Spoken, func(key string, _ Spoken) bool {
		return key == whose || strings.HasPrefix(key, actPrefix) && strings.HasSuffix(key, " "+whose)
	})
}

// MostPerson is the longest time that can be set between two lines to one person, or between two
// shout-outs.
const MostPerson = 10 * time.Minute

// spokenFor is for how long it is remembered who was spoken to.
const spokenFor = MostPerson
