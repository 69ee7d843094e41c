package card

import (
	"slices"
	"time"
)

// AsOf takes off the card what came with a stream or after it: visits, follows, raids. Whoever was
// first seen later was in no book then, and is left with no account.
func (c *Card) AsOf(stream int, opened time.Time) {
	later := func(t *time.Time) bool { return t != nil && !t.Before(opened) }
	c.Streams = slices.DeleteFunc(c.Streams, func(n int) bool { return n >= stream })
	c.Raids = slices.DeleteFunc(c.Raids, func(x Raid) bool { return !x.At.Before(opened) })
	if later(c.FirstSeen) {
		c.Accounts = nil
		return
	}
	if later(c.Followed) {
		c.Followed = nil
	}
	if later(c.LastSeen) {
		c.LastSeen = nil
	}
	if c.Fetched != nil && later(&c.Fetched.At) {
		c.Fetched = nil
	}
	for i := range c.Accounts {
		a := &c.Accounts[i]
		a.Visits = slices.DeleteFunc(a.Visits, func(v Visit) bool { return v.Stream >= stream })
		if later(a.Followed) {
			a.Followed = nil
		}
	}
}
