package rehearsing

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"time"

	"vividporch/core/compare"
	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/lookback"
	"vividporch/core/plain"
	"vividporch/core/prose"
	"vividporch/core/rehearsal"
	"vividporch/porch/rehearse"
	"vividporch/porch/screen"
	"vividporch/spec"
)

// How much of a rehearsal is told at once.
const (
	mostDifferences = 2000
	mostSilent      = 200
	mostReasons     = 30
	mostRows        = 60
	before          = 6 * time.Minute // a moment, that is shown of the conversation
)

// label names what an effect is of, as the Courtesies view does.
func (x *Rehearsing) label(ctx context.Context) func(id string) string {
	names, called := map[string]string{}, x.names(ctx)
	list := x.house.Plan().Whole.Courtesy
	return func(id string) string {
		if names[id] == "" {
			i := slices.IndexFunc(list, func(c courtesy.Courtesy) bool { return c.ID == id })
			if names[id] = prose.Named(id); i >= 0 {
				names[id] = prose.Whole(list[i], called)
			}
		}
		return names[id]
	}
}

func (x *Rehearsing) result(ctx context.Context, r *rehearse.Result) spec.RehearsalResult {
	label := x.label(ctx)
	out := spec.RehearsalResult{Millis: int(r.Took.Milliseconds()), Version: r.Version, Differences: []spec.EveningDifference{}, Counts: map[string]int{}}
	for kind, n := range compare.Counted(r.Differences) {
		out.Counts[string(kind)] = n
	}
	out.More = max(0, len(r.Differences)-mostDifferences)
	for i := range r.Differences[:len(r.Differences)-out.More] {
		d := &r.Differences[i]
		of := cmp.Or(d.Above, d.Below)
		v := spec.EveningDifference{Kind: spec.EveningDifferenceKind(d.Kind), At: d.At(), Label: label(of.Courtesy), Why: d.Why, Seconds: d.By.Seconds(), Above: line(d.Above), Below: line(d.Below)}
		out.Differences = append(out.Differences, v)
	}
	out.Above, out.Below = side(r.Above), side(r.Below)
	out.Opened, out.Closed = spans(r)
	return out
}

// spans is from when to when an evening is drawn: from its opening to its end, else from its first to its last happening.
func spans(r *rehearse.Result) (from, to time.Time) {
	script := r.Evening.Script
	if len(script) > 0 {
		from, to = script[0].Time, script[len(script)-1].Time
	}
	for _, e := range []*lookback.Evening{r.Above.Evening, r.Below.Evening} {
		if !e.Opened.IsZero() {
			from = e.Opened
		}
		if e.Closed.After(to) {
			to = e.Closed
		}
	}
	return from, to
}

// side is one side, with what is drawn of it.
func side(l *rehearsal.Lived) spec.RehearsedSide {
	e := l.Evening
	silent := e.Silent()
	out := spec.RehearsedSide{Lines: e.House, Share: e.Share(), Longest: e.Longest.Seconds(), Greeted: e.Greeted(), Arrived: len(e.Arrivals), Shown: e.Shown, Queue: e.Queue,
		Silent: []spec.SilentOne{}, SilentOf: len(silent), Dropped: screen.Counted(e.Dropped, mostReasons), Evening: screen.Looked(e, func(string) string { return "" })}
	for _, a := range silent[:min(len(silent), mostSilent)] {
		out.Silent = append(out.Silent, spec.SilentOne{Name: plain.Name(a.Name), Account: a.Account, Why: a.Why, At: a.At})
	}
	return out
}

func line(e *rehearsal.Effect) spec.RehearsedLine {
	if e == nil {
		return spec.RehearsedLine{}
	}
	return spec.RehearsedLine{At: e.At, Effect: e.Effect, Text: e.Text, To: e.To, Courtesy: e.Courtesy, Joined: len(e.Joined), Because: append([]string{}, e.Because...)}
}

// moment is the conversation of both sides until a moment, the last rows of it.
func moment(r *rehearse.Result, at time.Time) spec.LivedMoment {
	from := at.Add(-before)
	within := func(t time.Time) bool { return !t.Before(from) && !t.After(at) }
	var rows []spec.MomentRow
	for i := range r.Evening.Script {
		ev := &r.Evening.Script[i]
		if !within(ev.Time) {
			continue
		}
		switch d := ev.Data.(type) {
		case *happening.ChatSaid:
			rows = append(rows, spec.MomentRow{At: ev.Time, Who: plain.Name(d.Person.Shown()), Platform: d.Person.Platform, Said: plain.Text(d.Text)})
		default:
			if event.IsOwn(ev.Type) && ev.Door != "desk" || ev.Door == "house" || !event.IsOwn(ev.Type) && happening.OfData(ev.Data).Entry == nil {
				continue // nothing that stands in a conversation
			}
			row := spec.MomentRow{At: ev.Time, Told: happening.OfData(ev.Data).Words}
			if who := ev.Who(); who != nil {
				row.Who, row.Platform = plain.Name(who.Shown()), who.Platform
			}
			if row.Told == "" {
				row.Told = ev.Type
			}
			rows = append(rows, row)
		}
	}
	of := map[*rehearsal.Effect]int{}
	for i := range r.Differences {
		d := &r.Differences[i]
		for _, e := range []*rehearsal.Effect{d.Above, d.Below} {
			if e != nil {
				of[e] = i + 1
			}
		}
	}
	for i := range r.Above.Effects {
		e := &r.Above.Effects[i]
		if e.Effect == "drop" || !within(e.At) {
			continue
		}
		row := spec.MomentRow{At: e.At, Above: line(e), Difference: of[e]}
		if row.Difference == 0 {
			row.Below = line(e)
		} else {
			d := &r.Differences[row.Difference-1]
			row.Elsewhere = elsewhere(d, d.Below, e)
			if d.Kind == compare.Words && d.By < time.Second {
				row.Below = line(d.Below)
			}
		}
		rows = append(rows, row)
	}
	for i := range r.Below.Effects {
		e := &r.Below.Effects[i]
		n := of[e]
		if e.Effect == "drop" || n == 0 || !within(e.At) {
			continue
		}
		d := &r.Differences[n-1]
		if d.Kind == compare.Words && d.By < time.Second {
			continue // stands beside the one above
		}
		rows = append(rows, spec.MomentRow{At: e.At, Below: line(e), Difference: n, Elsewhere: elsewhere(d, d.Above, e)})
	}
	slices.SortStableFunc(rows, func(a, b spec.MomentRow) int { return a.At.Compare(b.At) })
	out := spec.LivedMoment{Rows: rows[max(0, len(rows)-mostRows):], Earlier: max(0, len(rows)-mostRows)}
	if out.Rows == nil {
		out.Rows = []spec.MomentRow{}
	}
	return out
}

// elsewhere is what stands on the other side instead.
func elsewhere(d *compare.Difference, other, mine *rehearsal.Effect) string {
	if other == nil {
		return d.Why
	}
	by := d.By.Round(time.Second)
	if other.At.After(mine.At) {
		return fmt.Sprintf("said %s later", by)
	}
	return fmt.Sprintf("said %s ago", by)
}
