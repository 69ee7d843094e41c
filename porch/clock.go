package porch

import (
	"sync"
	"time"
)

// clock is the house's time. It follows the wall clock, and never goes back: when the
// wall clock is set back, or stands behind the log at a start, the house goes on from
// the last moment it knows by a monotonic clock, until the wall clock has caught up.
type clock struct {
	wall  func() time.Time
	still bool // the wall clock alone moves it on

	mu     sync.Mutex
	at     time.Time     // the last moment given
	ticked time.Time     // a monotonic reading taken with it
	behind time.Duration // how far the wall clock lay behind then
}

// clockSlack is how far the wall clock may lie behind without being called so: clocks
// that are put right by and by run a little slower than a monotonic one.
const clockSlack = 500 * time.Millisecond

// begin says that the log has come as far as a moment.
func (c *clock) begin(logged time.Time) {
	c.mu.Lock()
	defer c.mu.Unlock()
	if logged.After(c.at) {
		c.at, c.ticked = logged, time.Now()
	}
}

// now is the house's moment.
func (c *clock) now() time.Time {
	c.mu.Lock()
	defer c.mu.Unlock()
	wall, tick := c.wall().Round(0), time.Now()
	if c.still {
		if wall.After(c.at) {
			c.at = wall
		}
		return c.at
	}
	if c.at.IsZero() {
		c.at, c.ticked = wall, tick
		return wall
	}
	on := c.at.Add(tick.Sub(c.ticked)) // where the monotonic clock has come to
	switch c.behind = 0; {
	case wall.After(on):
		on = wall
	case on.Sub(wall) > clockSlack:
		c.behind = on.Sub(wall)
	case wall.After(c.at):
		on = wall
	default:
		on = c.at
	}
	c.at, c.ticked = on, tick
	return on
}

// back is how far the wall clock lies behind the house; 0 for a clock that is well.
func (c *clock) back() time.Duration {
	c.now()
	c.mu.Lock()
	defer c.mu.Unlock()
	return c.behind
}
