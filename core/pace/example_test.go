package pace_test

import (
	"fmt"
	"time"

	"vividporch/core/pace"
)

// Two thanks and a general greeting wait for one platform. With two seconds between the
// house's lines they leave one after the other, what matters more first.
func Example() {
	dusk := time.Date(2031, 5, 14, 19, 0, 0, 0, time.UTC)
	var q pace.Queue
	for i, l := range []pace.Line{
		{ID: "a", Text: "Welcome, tidewrack!", Priority: pace.GeneralGreeting},
		{ID: "b", Text: "Thank you for the raid, kelpwright!", Priority: pace.Thanks},
		{ID: "c", Text: "Thank you for following, mossy_mare!", Priority: pace.Thanks},
	} {
		l.Platform, l.Event, l.Made, l.Due, l.Expires = "quayside", int64(i+1), dusk, dusk, dusk.Add(time.Minute)
		q.Lines = append(q.Lines, l)
	}
	rules := pace.Rules{Gap: 2 * time.Second}
	for now := dusk; len(q.Lines) > 0; {
		for _, out := range q.Release(nil, now, false, rules) {
			for _, l := range out.Lines {
				fmt.Println(now.Format("15:04:05"), l.Text)
				q.Remove(l.ID, l.Platform)
			}
			q.Left(out.Platform, now, out.Joined, 1)
		}
		if at, waits := q.Wake(false, rules); waits {
			now = at
		}
	}
	// Output:
	// 19:00:00 Thank you for the raid, kelpwright!
	// 19:00:02 Thank you for following, mossy_mare!
	// 19:00:04 Welcome, tidewrack!
}
