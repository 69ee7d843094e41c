package courtesy

import (
	"fmt"

	"vividporch/core/happening"
)

// Timer is when a courtesy of time itself comes up: now and then, or in a lull.
type Timer struct {
	Minutes    float64 `json:"minutes" jsonschema:"minimum=1,maximum=1440"`              // after it was last done; of a lull: that nobody spoke
	Lines      int     `json:"lines,omitempty" jsonschema:"minimum=0,maximum=10000"`     // at least so many were said by people since, on that platform
	OffMinutes float64 `json:"offMinutes,omitempty" jsonschema:"minimum=0,maximum=1440"` // the same while no stream is on; 0 is not then
}

// The bounds of a timer.
const (
	leastMinutes = 1
	mostMinutes  = 1440
	mostLines    = 10_000
)

// timing checks when a courtesy of time itself comes up.
func (c *Courtesy) timing(fault func(at, what, remedy string)) {
	t := c.Timer
	ofTime := c.When == happening.Timer || c.When == happening.Lull
	switch {
	case t == nil && ofTime:
		fault("timer", "is missing", "say how many minutes lie between")
	case t != nil && !ofTime:
		fault("timer", "is no matter of this when", "take it out, or choose now and then")
	case t == nil:
	default:
		if t.Minutes < leastMinutes || t.Minutes > mostMinutes {
			fault("timer.minutes", "is out of range", fmt.Sprintf("use %d to %d minutes", leastMinutes, mostMinutes))
		}
		if t.OffMinutes != 0 && (t.OffMinutes < leastMinutes || t.OffMinutes > mostMinutes) {
			fault("timer.offMinutes", "is out of range", fmt.Sprintf("use %d to %d minutes, or 0 for not while no stream is on", leastMinutes, mostMinutes))
		}
		if t.Lines < 0 || t.Lines > mostLines {
			fault("timer.lines", "is out of range", fmt.Sprintf("use 0 to %d lines", mostLines))
		}
		if c.When == happening.Lull && (t.Lines != 0 || t.OffMinutes != 0) {
			fault("timer.lines", "is no matter of a lull", "keep the minutes alone")
		}
		if c.Who.AboutPeople() {
			fault("who", "asks for people, and nobody comes with this", "ask for platforms, days or hours")
		}
	}
}
