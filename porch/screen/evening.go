package screen

import (
	"fmt"
	"slices"
	"time"

	"vividporch/core/bookmark"
	"vividporch/core/event"
	"vividporch/core/house"
	"vividporch/core/plain"
	"vividporch/spec"
)

func evening(s *house.State) spec.Evening {
	e := spec.Evening{Minutes: slices.Clone(s.Evening.Minutes), Arrivals: []spec.Mark{}, Raids: []spec.Mark{}, Said: []spec.Mark{}}
	if e.Minutes == nil {
		e.Minutes = []int{}
	}
	for _, a := range s.Evening.Arrivals {
		e.Arrivals = append(e.Arrivals, spec.Mark{At: a.At, ID: fmt.Sprintf("%d.arrival", a.Event), Name: a.Name, Standing: string(a.Standing), Fellow: a.Fellow})
	}
	for _, r := range s.Raids {
		e.Raids = append(e.Raids, raidMark(r.Event, &r.Person, r.Viewers, r.At))
	}
	for _, m := range s.Evening.Said {
		e.Said = append(e.Said, spec.Mark{At: m.At, ID: m.Line})
	}
	e.Pins = pins(s)
	return e
}

// pins are the bookmarks of this stream.
func pins(s *house.State) []spec.Mark {
	out := []spec.Mark{}
	for _, b := range bookmark.Tonight(s.Rooms) {
		out = append(out, spec.Mark{At: b.At, ID: fmt.Sprint(b.Event), Name: b.Label})
	}
	return out
}

// raidMark is a raid on the evening line.
func raidMark(seq int64, p *event.Person, viewers int64, at time.Time) spec.Mark {
	return spec.Mark{At: at, ID: fmt.Sprint(seq), Name: plain.Name(p.Shown()), Viewers: viewers}
}
