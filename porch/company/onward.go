package company

import (
	"context"
	"slices"
	"sync"
	"time"

	"vividporch/core/attendance"
	"vividporch/core/event"
	"vividporch/core/onward"
	"vividporch/voices/platform"
)

// How many fellow streamers are looked at, of how many of them platforms are asked, how many at once,
// for how long, and for how long an answer is good.
const (
	onwardOf   = 60
	onwardAsk  = 12
	onwardTwin = 4
	onwardMost = 3 * time.Second
	onwardGood = 20 * time.Second
)

// nearEnd is how long before its usual end a stream nears it.
const nearEnd = 20 * time.Minute

// Onward is to whom the stream could go on.
type Onward struct {
	Live bool
	Near bool      // the stream is about to reach its usual length, or has
	Ends time.Time // when that is; zero where there were too few streams to tell
	To   []onward.Suggestion
}

// Onward tells whether the stream nears its end and, if it does or somebody asks, to whom it could go
// on, with who is live now as the platforms tell it.
func (c *Company) Onward(ctx context.Context, asked bool) (Onward, error) {
	out := Onward{Live: c.cfg.Live(), To: []onward.Suggestion{}}
	k := c.cfg.Reckoning()
	if ends, known := attendance.EndsAbout(k.Past, c.cfg.Opened()); out.Live && known {
		out.Ends, out.Near = ends, !k.Now.Before(ends.Add(-nearEnd))
	}
	if !out.Live || !out.Near && !asked {
		return out, nil
	}
	list, err := c.fellows(ctx)
	if err != nil {
		return out, err
	}
	c.ask(ctx, list)
	out.To = onward.Suggest(list, k.Now, k.Zone)
	return out, nil
}

// fellows are the fellow streamers whom one of our platforms could be sent on to.
func (c *Company) fellows(ctx context.Context) ([]onward.Fellow, error) {
	plan, k := c.cfg.Plan(), c.cfg.Reckoning()
	all, err := c.cfg.Store.Find.Streamers(ctx, c.cfg.Channel, onwardOf)
	if err != nil {
		return nil, err
	}
	var out []onward.Fellow
	for _, s := range all {
		f := onward.Fellow{Person: s.Person, Name: s.Name}
		var came []time.Time
		for i := range s.Raids {
			at := &s.Raids[i].At
			if s.Raids[i].Way == "came" {
				f.Came, f.LastCame, came = f.Came+1, at, append(came, *at)
			} else {
				f.Went, f.LastWent = f.Went+1, at
			}
		}
		f.Usual = attendance.UsualHours(came, k.Zone)
		for _, a := range s.Accounts {
			if f.Account == "" && slices.Contains(plan.Chat(), a.Platform) && a.Login != "" {
				f.Account, f.Platform, f.Login = a.Key, a.Platform, a.Login
			}
		}
		if f.Account != "" {
			out = append(out, f)
		}
	}
	return out, nil
}

// ask asks the platforms which of the first of them are live. One that does not answer in time tells
// nothing.
func (c *Company) ask(ctx context.Context, list []onward.Fellow) {
	ctx, cancel := context.WithTimeout(ctx, onwardMost)
	defer cancel()
	var wait sync.WaitGroup
	turn := make(chan struct{}, onwardTwin)
	for i := range list[:min(onwardAsk, len(list))] {
		f := &list[i]
		wait.Go(func() {
			turn <- struct{}{}
			defer func() { <-turn }()
			if told, ok := c.told(ctx, f); ok {
				f.Live, f.Link, f.Category = told.Live, told.Link, told.Category
			}
		})
	}
	wait.Wait()
}

// told is what a platform tells of somebody, or told just now.
func (c *Company) told(ctx context.Context, f *onward.Fellow) (platform.Told, bool) {
	c.mu.Lock()
	last, was := c.lately[f.Account]
	c.mu.Unlock()
	if was && time.Since(last.at) < onwardGood {
		return last.Told, true
	}
	who := event.Person{Platform: f.Platform, Login: f.Login}
	who.ID = f.Account[len(f.Platform)+1:]
	told, err := c.cfg.Look(ctx, c.cfg.Plan().Profile(f.Platform), &who)
	if err != nil {
		return told, false
	}
	c.mu.Lock()
	c.lately[f.Account] = answer{told, time.Now()}
	c.mu.Unlock()
	return told, true
}

// answer is what a platform told, and when.
type answer struct {
	platform.Told
	at time.Time
}
