package room

import (
	"time"

	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/pace"
	"vividporch/core/people"
	"vividporch/core/who"
)

// Whether and when somebody is shouted out. Of the house's own accord: nobody of the never-list,
// nobody twice in a stream, nobody again too soon over streams. Whoever may ask for it always gets
// it. Any two keep their gap: what comes sooner waits in what is coming up, and is not lost.

// NoShout says why somebody is not shouted out of the house's own accord, or "".
func (t *Turn) NoShout(p event.Person, known *people.Known) string {
	switch {
	case t.Plan.neverShout.Has(p):
		return "is on the list of those who are not shouted out"
	case t.State.WasShouted(p.Key(), known):
		return "was shouted out in this stream already"
	}
	if rest := time.Duration(t.Plan.ShoutOuts.PersonHours * float64(time.Hour)); rest > 0 {
		if last := t.lastShout(p, known); !last.IsZero() && t.Now.Sub(last) < rest {
			return "was shouted out less than " + rest.String() + " ago"
		}
	}
	return ""
}

// ShoutFor is how somebody is shouted out who is asked for: in words of their own, whatever these were
// made for, else as for the cause itself, a raid, or an arrival. It is never the courtesy that asks.
func (t *Turn) ShoutFor(c who.Cause, asks string) (won *courtesy.Ready, ladder []courtesy.Rung, cause who.Cause) {
	cause = c
	for _, when := range []string{c.When, happening.RaidCameType, happening.Arrival} {
		at := c
		at.When = when
		r, rungs := t.Plan.Set.Winner(at, happening.ShoutOut)
		if r == nil || len(r.Outputs) == 0 || r.ID == asks {
			continue
		}
		if own := r.Who.Closest() == who.ForPerson; won == nil || own {
			won, ladder, cause = r, rungs, at
			if own {
				break
			}
		}
	}
	return won, ladder, cause
}

// shout is what is kept of an account over streams.
type shout struct {
	Last time.Time `json:"last"`
}

// shoutRoom is the name that it is kept under.
const shoutRoom = "shout-out"

func (t *Turn) lastShout(p event.Person, known *people.Known) time.Time {
	was := t.room
	defer func() { t.room = was }()
	t.room = shoutRoom
	return KeptOf(t, p, known, func(all []shout) (last shout) {
		for _, s := range all {
			if s.Last.After(last.Last) {
				last = s
			}
		}
		return last
	}).Last
}

// keepShout keeps that somebody was shouted out, once the line for it leaves.
func (t *Turn) keepShout(l *pace.Line) {
	if !l.Shouts || l.Person == "" || l.Try || t.Plan.ShoutOuts.PersonHours <= 0 {
		return
	}
	was := t.room
	defer func() { t.room = was }()
	t.room = shoutRoom
	Keep(t, l.Person, shout{t.Now}, "was shouted out")
}

// waitsLonger is how much longer a shout-out may wait than other lines: those before it keep their gap.
func (t *Turn) waitsLonger(platform string) time.Duration {
	n := 1
	for i := range t.State.Queue.Lines {
		if l := &t.State.Queue.Lines[i]; l.Shouts && l.Platform == platform {
			n++
		}
	}
	return time.Duration(n) * Seconds(t.Plan.ShoutOuts.GapSeconds)
}
