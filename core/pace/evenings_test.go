package pace_test

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"vividporch/core/pace"
)

// random is an evening's rules and lines: a busy one, on two platforms of which one cuts long lines.
func random(r *rand.Rand) (rules pace.Rules, lines []pace.Line) {
	rules = pace.Rules{Gap: time.Duration(r.IntN(6)) * time.Second, JoinAt: r.IntN(4), JoinEvery: time.Duration(r.IntN(20)) * time.Second,
		Limits: map[string]pace.Limit{"quayside": {Lines: 3 + r.IntN(6), Window: time.Duration(10+r.IntN(30)) * time.Second, Bytes: 60}, "fernlight": {Lines: 2 + r.IntN(20), Window: 30 * time.Second}}}
	for i := range 5 + r.IntN(60) {
		l := line(fmt.Sprint("l", i), float64(r.IntN(240)), on([]string{"quayside", "quayside", "fernlight"}[r.IntN(3)]), ranks(pace.Priority(r.IntN(int(pace.ByHand)+1))))
		l.Made = l.Due.Add(-time.Duration(r.IntN(10)) * time.Second)
		l.Event = int64(i)
		l.Text = strings.Repeat("low water ", 1+r.IntN(15))
		l.Hurried = r.IntN(12) == 0
		if l.Join = l.Priority == pace.GeneralGreeting; l.Join {
			l.Text = "welcome in" // what several leave as is one line
		}
		if r.IntN(3) == 0 {
			l.Expires = l.Due.Add(time.Duration(5+r.IntN(90)) * time.Second)
		}
		lines = append(lines, l)
	}
	return rules, lines
}

func TestWhateverComesUpIsPacedAndNothingGoesWithoutAWord(t *testing.T) {
	for seed := range uint64(500) {
		r := rand.New(rand.NewPCG(seed, 16))
		rules, lines := random(r)
		q := &pace.Queue{Lines: lines}
		type said struct {
			at      time.Time
			hurried bool
		}
		left, pieces, gone := map[string][]said{}, map[string][]time.Time{}, map[string]string{}
		for {
			at, ok := q.Wake(false, rules)
			if !ok {
				break
			}
			out := q.Release(nil, at, false, rules)
			if len(out) == 0 {
				t.Fatalf("seed %d: woken at %s for nothing", seed, at.Sub(dusk))
			}
			for _, o := range out {
				for _, l := range o.Lines {
					if gone[l.Key()] != "" {
						t.Fatalf("seed %d: %s leaves twice", seed, l.Key())
					}
					gone[l.Key()] = "said"
					q.Remove(l.ID, o.Platform)
				}
				if o.Drop != "" {
					if gone[o.Lines[0].Key()] = o.Drop; o.Lines[0].Expires.IsZero() || at.Before(o.Lines[0].Expires) {
						t.Errorf("seed %d: %s is given up at %s: %s", seed, o.Lines[0].Key(), at.Sub(dusk), o.Drop)
					}
					continue
				}
				first := o.Lines[0]
				if !first.Hurried && !o.Joined && at.Before(first.Due) {
					t.Errorf("seed %d: %s before it is due", seed, first.Key())
				}
				for _, w := range q.Lines { // of those that wait with it none was nearer that may yet be said
					if w.Platform == o.Platform && w.Expires.IsZero() && !first.Hurried && !w.Join && w.Priority > first.Priority && !w.Due.After(at) && !leaves(out, w.ID) {
						t.Errorf("seed %d: %s (%d) leaves at %s before %s (%d)", seed, first.Key(), first.Priority, at.Sub(dusk), w.Key(), w.Priority)
					}
				}
				n := rules.Limits[o.Platform].Pieces(first.Text)
				q.Left(o.Platform, at, o.Joined && first.Join, n)
				left[o.Platform] = append(left[o.Platform], said{at, first.Hurried})
				for range n {
					pieces[o.Platform] = append(pieces[o.Platform], at)
				}
			}
		}
		if len(q.Lines) > 0 || len(gone) != len(lines) {
			t.Errorf("seed %d: %d wait for ever, %d of %d have gone", seed, len(q.Lines), len(gone), len(lines))
		}
		for platform, all := range left {
			for i := 1; i < len(all); i++ {
				if !all[i].hurried && all[i].at.Sub(all[i-1].at) < rules.Gap {
					t.Errorf("seed %d: two lines on %s within %s", seed, platform, all[i].at.Sub(all[i-1].at))
				}
			}
			lim, sent := rules.Limits[platform], pieces[platform]
			for i := lim.Lines; i < len(sent); i++ {
				if d := sent[i].Sub(sent[i-lim.Lines]); d < lim.Window {
					t.Errorf("seed %d: %d pieces on %s within %s", seed, lim.Lines+1, platform, d)
				}
			}
		}
	}
}

func leaves(out []pace.Out, id string) bool {
	for _, o := range out {
		for _, l := range o.Lines {
			if l.ID == id {
				return true
			}
		}
	}
	return false
}
