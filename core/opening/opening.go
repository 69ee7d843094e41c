// Package opening is the room that knows when a stream opens, goes on and ends, and what is
// announced of it.
package opening

import (
	"fmt"
	"maps"
	"slices"
	"time"

	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/core/room"
	"vividporch/core/who"
	"vividporch/core/wording"
)

// Room opens and closes streams.
var Room = room.Of(room.Spec[section, struct{}, struct{}]{Name: "opening",
	Ready: func(f *housefile.Settings, fault func(courtesy.Fault)) (s section) {
		s.ready(f.AlsoOn, fault)
		return s
	},
	Hears: []string{happening.StreamOpenedType, "porch.stream.changed", "porch.desk.declared", "porch.house.woke"},
	Decide: func(d *room.Turn, s *section, _ *struct{}) {
		switch data := d.Event.Data.(type) {
		case *happening.StreamOpened:
			s.streamOpened(d, data.Platform, data.StreamInfo)
		case *happening.StreamChanged:
			d.Announce(d.AboutStream(d.State.KnownStream(data.StreamInfo)), []string{data.Platform})
		case *event.StreamDeclared:
			streamDeclared(d, data)
		case *event.Woke: // a closed platform decides nothing: the grace time does the rest
			if end, going := d.State.Stream.EndsAt(d.Plan.Grace()); going && !end.After(d.Now) {
				closeStream(d, d.State.Stream.Gone, fmt.Sprintf("no platform was live for %s", d.Plan.Grace()))
			}
		}
	}})

// section is what becomes of announcements when a further platform goes live.
type section struct{ alsoOn []*wording.Wording }

const alsoOnWords = "{channel} is live on {platform} too{hasLink, select, yes {: {link}} other {}}"

func (s *section) ready(a housefile.AlsoOn, fault func(courtesy.Fault)) {
	switch a.How {
	case "", housefile.FollowUp, housefile.EachOwn, housefile.NoFollow:
	default:
		fault(courtesy.Fault{At: "alsoOn.how", What: fmt.Sprintf("%q is not known", a.How), Remedy: `use "follow up", "each" or "nothing"`})
	}
	if len(a.Words) == 0 {
		a.Words = []string{alsoOnWords}
	}
	s.alsoOn = room.Words("alsoOn.words", a.Words, happening.Of(happening.StreamOpenedType).Offers(), fault)
}

// streamOpened: the first platform opens a stream, unless it was gone for less than the
// grace time; only an opening is announced.
func (s *section) streamOpened(d *room.Turn, platform string, info happening.StreamInfo) {
	on := &d.State.Stream
	args := d.AboutStream(info)
	switch {
	case on.Live() && on.Gone.IsZero():
		s.platformJoins(d, args, platform, "the stream is already on; "+platform+" joins it")
		return
	case on.Continues(d.Event.Time, d.Plan.Grace()):
		why := "was live again before it was told that none is"
		if gone := d.Event.Time.Sub(on.Gone).Round(time.Second); !on.Gone.IsZero() && gone >= 0 {
			why = fmt.Sprintf("was gone for %s, less than the grace time of %s", gone, d.Plan.Grace())
		}
		d.Decide(hall.Decision{Kind: hall.Continue, Output: "stream", Stream: on.Number, Platform: platform, Because: []string{why}})
		s.platformJoins(d, args, platform, "the stream goes on after a drop; it was announced when it opened")
		return
	}
	if on.Live() {
		closeStream(d, on.Gone, "no platform was live for the grace time")
	}
	openStream(d, d.Event.Time, "the first platform is live")
	d.Announce(args, []string{platform})
}

func streamDeclared(d *room.Turn, data *event.StreamDeclared) {
	s := &d.State.Stream
	switch {
	case data.Act == "closed":
		if s.Live() {
			closeStream(d, d.Event.Time, "closed at the desk")
			d.Release(d.State.Hush)
		}
		return
	case data.Act == "opened" && s.Live():
		d.Decide(hall.Decision{Kind: hall.Refuse, Output: "stream", Because: []string{"a stream is already on; declare a new one to start over"}})
		return
	case s.Live():
		closeStream(d, d.Event.Time, "a new stream was declared at the desk")
	}
	openStream(d, d.Event.Time, "declared at the desk")
	args := d.Args()
	args.Maybe("title", wording.Str(data.Title))
	d.Announce(args, d.Plan.Chat())
}

func openStream(d *room.Turn, at time.Time, why string) {
	live := true
	d.Live = &live
	d.Decide(hall.Decision{Kind: hall.Open, Output: "stream", Stream: d.State.Stream.Number + 1, At: at, Because: []string{why}})
	for i := range d.State.Queue.Lines { // whoever is still here is greeted anew
		if l := &d.State.Queue.Lines[i]; l.Greets() && l.Made.Before(at) {
			d.TakeBack(l, "another stream opened before it could be said")
		}
	}
}

func closeStream(d *room.Turn, at time.Time, why string) {
	d.Decide(hall.Decision{Kind: hall.Close, Output: "stream", Stream: d.State.Stream.Number, At: at, Because: []string{why}})
	info := happening.StreamInfo{}
	for _, name := range slices.Sorted(maps.Keys(d.State.Stream.Platforms)) {
		p := d.State.Stream.Platforms[name]
		info = happening.StreamInfo{Platform: name, Title: p.Title, Category: p.Category, URL: p.URL}
	}
	d.Closing = true
	defer func() { d.Closing = false }()
	d.Free(d.Plan.Set.Meet(who.Cause{When: happening.StreamClosedType, Live: true, At: d.Now.In(d.Plan.Zone)}), d.AboutStream(info), d.OnAir())
}

// notAnnounced says for each announcement why it is not made again.
func notAnnounced(d *room.Turn, why string) {
	for _, r := range d.Plan.Set.For(who.Cause{When: happening.StreamOpenedType}) {
		d.Decide(hall.Decision{Kind: hall.Refuse, Courtesy: r.ID, Because: []string{why}})
	}
}

// platformJoins: a platform goes live while the stream is on. Once a stream it is told of, as
// the settings say.
func (s *section) platformJoins(d *room.Turn, args wording.Args, platform, why string) {
	how := d.Plan.AlsoOn.How
	if d.State.Stream.Platforms[platform] != nil || how == housefile.NoFollow {
		notAnnounced(d, why)
		return
	}
	c := who.Cause{When: happening.StreamOpenedType, Live: true, At: d.Now.In(d.Plan.Zone)}
	c.Person.Platform = platform
	if how == housefile.EachOwn {
		d.Free(d.Plan.Set.Meet(c), args, []string{platform})
		d.Release(d.State.Hush)
		return
	}
	for _, r := range d.Plan.Set.For(c) {
		fits, no := r.Fits(c)
		if r.Slot != happening.Free || !fits {
			if r.Slot == happening.Free {
				d.Decide(hall.Decision{Kind: hall.Refuse, Courtesy: r.ID, Because: []string{no}})
			}
			continue
		}
		for i := range r.Outputs {
			o := r.Outputs[i]
			if ok, _ := o.Fits(c); !ok {
				continue
			}
			switch {
			case o.Way() == output.ToChat && (len(o.On) == 0 || slices.Contains(o.On, platform)):
				o.On = nil
				d.Do(c, r, &o, nil, args, []string{platform})
			case o.Way() == output.ToPlace:
				o.ID, o.Alts, o.Weights = o.ID+" too", s.alsoOn, nil
				d.Do(c, r, &o, nil, args, nil)
			}
		}
	}
	d.Release(d.State.Hush)
}
