package house_test

import (
	"cmp"
	"strings"
	"testing"

	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/pace"
)

// Over random houses and evenings: of the house's own accord nobody is shouted out twice
// in a stream, and nobody is greeted or thanked twice within the set time but for one
// cause. Held against the log alone, as a stranger would read it.
func TestNobodyIsSpokenToTooOften(t *testing.T) {
	spoken, shouts := 0, 0
	for seed := range uint64(900) {
		l := anEvening(t, 5000+seed, 120)
		least := l.plan.Rules().Person
		plans := map[string]*pace.Line{}
		last := map[string]pace.Spoken{}
		hurried := map[string]bool{}
		out := map[string]bool{}
		for i, en := range l.log {
			asked := false
			if said, ok := en.ev.Data.(*happening.ChatSaid); ok {
				asked = l.plan.Hears(said.Text, said.Person.Platform).Any()
			}
			if re, ok := en.ev.Data.(*event.Rearmed); ok && re.What == event.ShoutOuts {
				clear(out)
			}
			for k := range en.ds {
				d := &en.ds[k]
				if d.Kind == hall.Open {
					clear(out)
				}
				if d.Kind == hall.Forget { // of whom nothing is known any more, that neither
					clear(out)
					clear(last)
				}
				if d.Kind == hall.Hurry {
					hurried[d.Line] = true
				}
				if d.Plan != nil {
					plans[d.Plan.Key()] = d.Plan
				}
				if p := d.Plan; p != nil && p.Shouts && !d.ByHand && !d.Try && !asked && !strings.HasSuffix(d.Line, ".meant") {
					key := d.Person + "/" + d.Line[:strings.IndexByte(d.Line, '.')]
					if out[d.Person] && !out[key] {
						t.Fatalf("evening %d, event %d: %s is shouted out again", 5000+seed, i, d.Person)
					}
					out[d.Person], out[key] = true, true // one shout-out may be several lines
					shouts++
				}
				if d.Kind != hall.Say || d.ByHand || d.Try {
					continue
				}
				lines := []string{d.Line}
				for _, j := range d.Joined {
					lines = append(lines, j.Line)
				}
				for _, id := range lines {
					p := plans[id+"@"+d.Platform]
					if p == nil || !p.Counts() {
						continue
					}
					cause, at := cmp.Or(p.Cause, p.Event), en.ev.Logged
					was, before := last[p.Whose]
					if before && was.Event != cause && at.Sub(was.At) < least && !hurried[id] && len(d.Joined) == 0 {
						t.Fatalf("evening %d, event %d: %s is spoken to %s after the last time", 5000+seed, i, p.Whose, at.Sub(was.At))
					}
					last[p.Whose] = pace.Spoken{At: at, Event: cause}
					if least > 0 {
						spoken++
					}
				}
			}
		}
	}
	if spoken < 25 || shouts < 50 {
		t.Errorf("only %d lines and %d shout-outs were looked at", spoken, shouts)
	}
}
