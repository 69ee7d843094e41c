package output

import (
	"fmt"
	"time"

	"vividporch/core/who"
)

// KindRelay is the name of it.
const KindRelay Kind = "relay"

// Relay posts to a place: at once, or what has gathered as one.
type Relay struct {
	Place  string  `json:"place,omitempty"` // its name
	Paused bool    `json:"paused,omitempty"`
	Gather *Gather `json:"gather,omitempty"`
	Quiet  *Quiet  `json:"quiet,omitempty"`
}

// Gather has posts wait for each other: so many minutes from the first on, or until so many have come.
type Gather struct {
	Minutes float64 `json:"minutes" jsonschema:"minimum=1,maximum=1440"`
	Count   int     `json:"count,omitempty" jsonschema:"minimum=0,maximum=200"` // 0 is however many come
}

// Quiet is hours, in the channel's zone, in which nothing is posted: what comes then waits for their end, or is
// dropped.
type Quiet struct {
	who.Hours
	Drop bool `json:"drop,omitempty"`
}

// The bounds of gathering.
const (
	mostGatherMinutes = 1440
	mostGathered      = 200
)

var relay = Spec{New: func() Does { return &Relay{} }, Way: ToPlace, Worded: true}

// Kind is the name of it.
func (*Relay) Kind() Kind { return KindRelay }

// Says tells what it does.
func (r *Relay) Says(n who.Names) string {
	switch g := r.Gather; {
	case r.Paused:
		return "post to " + n.OfPlace(r.Place) + ", paused"
	case g != nil && g.Minutes == 1440:
		return "post to " + n.OfPlace(r.Place) + " once a day"
	case g != nil:
		return fmt.Sprintf("post to %s every %g minutes", n.OfPlace(r.Place), g.Minutes)
	}
	return "post to " + n.OfPlace(r.Place)
}

// Towards says where its words go.
func (r *Relay) Towards(n who.Names) string { return n.OfPlace(r.Place) }

// PlaceName is where it is posted.
func (r *Relay) PlaceName() string { return r.Place }

// Due is when what happens now is posted, as far as time decides it, and why it waits; now is in the channel's zone.
func (r *Relay) Due(now time.Time) (due time.Time, why string) {
	due = now
	if g := r.Gather; g != nil {
		due, why = now.Add(time.Duration(g.Minutes*float64(time.Minute))), fmt.Sprintf("is gathered for %g minutes", g.Minutes)
		if g.Count > 0 {
			why += fmt.Sprintf(", or until there are %d", g.Count)
		}
	}
	if r.Quiet != nil && r.Quiet.Hold(due) {
		due, why = r.Quiet.Ends(due), "nothing is posted there "+r.Quiet.String()
	}
	return due, why
}

// Full is how many have gathered when they need not wait any longer; 0 is never.
func (r *Relay) Full() int {
	if r.Gather == nil {
		return 0
	}
	return r.Gather.Count
}

// Check reports a place that is not there, and times that are none.
func (r *Relay) Check(_ *Output, in In, fault func(at, what, remedy string)) {
	if !in.Places[r.Place] {
		fault("place", fmt.Sprintf("there is no place %q", r.Place), "use the name of one of your places")
	}
	if g := r.Gather; g != nil {
		if g.Minutes < 1 || g.Minutes > mostGatherMinutes {
			fault("gather.minutes", "is out of range", fmt.Sprintf("use 1 to %d minutes", mostGatherMinutes))
		}
		if g.Count < 0 || g.Count > mostGathered {
			fault("gather.count", "is out of range", fmt.Sprintf("use 0 to %d", mostGathered))
		}
	}
	if q := r.Quiet; q != nil {
		q.Check("quiet", fault)
		if q.From == q.To {
			fault("quiet.to", "is when they begin", "use another time of day, or no quiet hours")
		}
	}
}
