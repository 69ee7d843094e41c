package rehearse

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"time"

	"vividporch/core/attendance"
	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/lookback"
	"vividporch/core/people"
	"vividporch/core/rehearsal"
	"vividporch/core/whatif"
	"vividporch/store/find"
	"vividporch/store/log"
)

// learnedFrom is of how many past streams the shape of an evening is learned.
const learnedFrom = 10

// learned is a shape as it was learned, until a further stream has ended.
type learned struct {
	shape whatif.Shape
	last  int // number of the last stream it is learned from
}

// Shape is what the channel's past streams are like. It is learned once a stream.
func (r *Rehearser) Shape(ctx context.Context) (whatif.Shape, error) {
	past, err := r.cfg.Store.Book.Streams(ctx, r.cfg.Channel)
	if err != nil {
		return whatif.Shape{}, err
	}
	s := whatif.Plain(r.platform())
	if len(past) == 0 {
		return s, nil
	}
	last := past[len(past)-1].Number
	r.mu.Lock()
	known := r.learned
	r.mu.Unlock()
	if known.last == last {
		return known.shape, nil
	}
	past = past[max(0, len(past)-learnedFrom):]
	numbers := make([]int, len(past))
	for i := range past {
		numbers[i] = past[i].Number
	}
	turnouts, err := r.cfg.Store.Find.Turnouts(ctx, r.cfg.Channel, numbers)
	if err != nil {
		return s, err
	}
	swells := make([]log.Swell, len(past))
	for i := range past {
		if swells[i], err = r.cfg.Store.Log.SwellOf(ctx, r.cfg.Channel, past[i]); err != nil {
			return s, err
		}
	}
	s = r.shapeOf(s, past, turnouts, swells)
	r.mu.Lock()
	r.learned = learned{s, last}
	r.mu.Unlock()
	return s, nil
}

// platform is where the house is in chat, the first of its doors.
func (r *Rehearser) platform() string {
	for _, d := range r.cfg.Plan().Settings.Doors {
		if d.Platform != "" {
			return d.Platform
		}
	}
	return "chat"
}

// shapeOf makes a shape of what streams were like: medians of what differs much, sums of what
// is seldom.
func (r *Rehearser) shapeOf(s whatif.Shape, past []attendance.Past, turnouts []find.Turnout, swells []log.Swell) whatif.Shape {
	var minutes, came, lines, fresh, raids []float64
	all, given, hours := 0, 0, 0.0
	standing, asked, platforms := map[string]int{}, map[string]int{}, map[string]float64{}
	var hill, arrivals [whatif.Parts]int
	for i, p := range past {
		long := p.Closed.Sub(p.Opened).Minutes()
		if long < 1 {
			continue
		}
		minutes, hours = append(minutes, long), hours+long/60
		for k := range whatif.Parts {
			hill[k] += swells[i].Lines[k]
			arrivals[k] += swells[i].Arrivals[k]
			all += swells[i].Lines[k]
		}
		for id, n := range swells[i].Asked {
			asked[id] += n
		}
		for st, n := range swells[i].Standing {
			standing[st] += n
		}
		at := slices.IndexFunc(turnouts, func(t find.Turnout) bool { return t.Stream == p.Number })
		if at < 0 || turnouts[at].People == 0 {
			continue
		}
		t := turnouts[at]
		came, lines, fresh = append(came, float64(t.People)/long), append(lines, float64(t.Lines)/long), append(fresh, float64(t.New)/float64(t.People))
		given += t.Given
		for _, n := range t.Raids {
			raids = append(raids, float64(n))
		}
		for name, n := range t.Platforms {
			platforms[name] += float64(n)
		}
	}
	if len(came) == 0 {
		return s
	}
	middle := func(vs []float64) float64 { return lookback.RangeOf(vs).Middle }
	s.Streams, s.Minutes = len(came), int(middle(minutes))
	s.PeopleMin, s.LinesMin, s.New, s.Support = middle(came), middle(lines), middle(fresh), float64(given)/hours
	if len(raids) > 0 {
		s.Raid = int(middle(raids))
	}
	spread(&s.Lines, hill)
	spread(&s.Arrivals, arrivals)
	if n := standing[string(people.Returning)] + standing[string(people.Regular)] + standing[string(people.LongAway)]; n > 0 {
		s.Regular, s.Away = float64(standing[string(people.Regular)])/float64(n), float64(standing[string(people.LongAway)])/float64(n)
	}
	if len(platforms) > 0 {
		s.Platforms = platforms
	}
	plan := r.cfg.Plan()
	for _, id := range slices.Sorted(maps.Keys(asked)) {
		at := slices.IndexFunc(plan.Settings.Courtesy, func(c courtesy.Courtesy) bool { return c.ID == id && len(c.Asks) > 0 })
		if at < 0 || all == 0 {
			continue
		}
		text := plan.Settings.Courtesy[at].Asks[0]
		if plan.Settings.Bare(text) == text {
			text = plan.Settings.Commands.SignsOn(r.platform())[:1] + text
		}
		s.Asked = append(s.Asked, whatif.Asked{Text: text, PerThousand: 1000 * float64(asked[id]) / float64(all)})
	}
	return s
}

// spread makes parts of all of counts; where nothing was counted they stay as they are.
func spread(into *[whatif.Parts]float64, counts [whatif.Parts]int) {
	sum := 0
	for _, n := range counts {
		sum += n
	}
	if sum == 0 {
		return
	}
	for i, n := range counts {
		into[i] = float64(n) / float64(sum)
	}
}

// imagined is an evening by dials, in the shape of the channel's own. It opens when the last
// stream did, today: nobody's day, and nobody known, is in it.
func (r *Rehearser) imagined(ctx context.Context, d whatif.Dials) (*rehearsal.Evening, error) {
	if err := d.Check(); err != nil {
		return nil, err
	}
	s, err := r.Shape(ctx)
	if err != nil {
		return nil, err
	}
	past, err := r.cfg.Store.Book.Streams(ctx, r.cfg.Channel)
	if err != nil {
		return nil, err
	}
	return whatif.Evening(s, d, r.opens(past), past[max(0, len(past)-60):]), nil
}

// opens is when an evening that nobody dates opens: at the hour of the last stream, on the day
// after it at the soonest.
func (r *Rehearser) opens(past []attendance.Past) time.Time {
	now := r.cfg.Clock()
	if len(past) == 0 {
		return now.Truncate(time.Hour)
	}
	at := past[len(past)-1].Opened
	for !at.After(past[len(past)-1].Closed) || at.Before(now.AddDate(0, 0, -1)) {
		at = at.AddDate(0, 0, 1)
	}
	return at
}

// mostWritten is how long a script may be.
const mostWritten = 200_000

// written is a script, lived with the people of the book whom it names. It begins on a day of
// its own: the house as it stands is none of it.
func (r *Rehearser) written(ctx context.Context, script []event.Event) (*rehearsal.Evening, error) {
	switch {
	case len(script) == 0:
		return nil, &event.FieldError{Field: "script", Remedy: "is empty; write at least one happening"}
	case len(script) > mostWritten:
		return nil, &event.FieldError{Field: "script", Remedy: fmt.Sprintf("has %d happenings; at most %d are lived", len(script), mostWritten)}
	}
	past, err := r.cfg.Store.Book.Streams(ctx, r.cfg.Channel)
	if err != nil {
		return nil, err
	}
	opened := script[0].Time
	past = slices.DeleteFunc(past, func(p attendance.Past) bool { return !p.Closed.Before(opened) })
	ev := &rehearsal.Evening{Book: rehearsal.NewBook(), Script: script}
	number := 1
	if len(past) > 0 {
		number = past[len(past)-1].Number + 1
	}
	ev.Book.Streams, ev.Book.LastStream = past, number-1
	entries := make([]log.Entry, len(script))
	for i := range script {
		entries[i].Event = script[i]
	}
	if ev.Book.People, err = r.guests(ctx, entries, 0, number, opened); err != nil {
		return nil, err
	}
	ev.Book.Fetches()
	return ev, nil
}
