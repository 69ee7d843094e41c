// Package opening is the room that knows when a stream opens, goes on and ends, and what is
// announced of it.
package opening

import (
	"fmt"
	"maps"
	"slices"
	"time"

	"vividporch/core/bookmark"
	"vividporch/core/courtesy"
	"vividporch/core/dates"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/core/people"
	"vividporch/core/plain"
	"vividporch/core/relay"
	"vividporch/core/room"
	"vividporch/core/who"
	"vividporch/core/wording"
)

// Room opens and closes streams.
var Room = room.Of(room.Spec[section, struct{}]{Name: "opening",
	Ready: func(f *housefile.Settings, fault func(courtesy.Fault)) (s section) {
		s.ready(f.AlsoOn, fault)
		return s
	},
	Hears: []string{happening.StreamOpenedType, "porch.stream.changed", "porch.desk.declared", "porch.house.woke"},
	Decide: func(t *room.Turn, s *section, _ *struct{}) {
		switch data := t.Event.Data.(type) {
		case *happening.StreamOpened:
			s.streamOpened(t, data.Platform, data.StreamInfo)
		case *happening.StreamChanged:
			t.Announce(t.AboutStream(t.State.KnownStream(data.StreamInfo)), []string{data.Platform})
		case *event.StreamDeclared:
			streamDeclared(t, data)
		case *event.Woke: // a closed platform decides nothing: the grace time does the rest
			if end, going := t.State.Stream.EndsAt(t.Plan.Grace()); going && !end.After(t.Now) {
				closeStream(t, t.State.Stream.Gone, fmt.Sprintf("no platform was live for %s", t.Plan.Grace()))
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
func (s *section) streamOpened(t *room.Turn, platform string, info happening.StreamInfo) {
	on := &t.State.Stream
	args := t.AboutStream(info)
	switch {
	case on.Live() && on.Gone.IsZero():
		s.platformJoins(t, args, platform, "the stream is already on; "+platform+" joins it")
		return
	case on.Continues(t.Event.Time, t.Plan.Grace()):
		why := "was live again before it was told that none is"
		if gone := t.Event.Time.Sub(on.Gone).Round(time.Second); !on.Gone.IsZero() && gone >= 0 {
			why = fmt.Sprintf("was gone for %s, less than the grace time of %s", gone, t.Plan.Grace())
		}
		t.Decide(hall.Decision{Kind: hall.Continue, Output: "stream", Stream: on.Number, Platform: platform, Because: []string{why}})
		s.platformJoins(t, args, platform, "the stream goes on after a drop; it was announced when it opened")
		if !on.Gone.IsZero() { // everybody saw it drop
			t.Free(t.Plan.Set.Meet(who.Cause{When: happening.StreamBack, Live: true, At: t.Now.In(t.Plan.Zone)}), args, []string{platform})
			t.Release(t.State.Hush)
		}
		return
	}
	if on.Live() {
		closeStream(t, on.Gone, "no platform was live for the grace time")
	}
	openStream(t, t.Event.Time, "the first platform is live")
	t.Announce(args, []string{platform})
}

func streamDeclared(t *room.Turn, data *event.StreamDeclared) {
	s := &t.State.Stream
	switch {
	case data.Act == "closed":
		if s.Live() {
			closeStream(t, t.Event.Time, "closed at the desk")
			t.Release(t.State.Hush)
		}
		return
	case data.Act == "opened" && s.Live():
		t.Decide(hall.Decision{Kind: hall.Refuse, Output: "stream", Because: []string{"a stream is already on; declare a new one to start over"}})
		return
	case s.Live():
		closeStream(t, t.Event.Time, "a new stream was declared at the desk")
	}
	openStream(t, t.Event.Time, "declared at the desk")
	args := t.Args()
	args.Maybe("title", wording.Str(data.Title))
	t.Announce(args, t.Plan.Chat())
}

func openStream(t *room.Turn, at time.Time, why string) {
	live := true
	t.Live = &live
	t.Decide(hall.Decision{Kind: hall.Open, Output: "stream", Stream: t.State.Stream.Number + 1, At: at, Because: []string{why}})
	for i := range t.State.Queue.Lines { // whoever is still here is greeted anew
		if l := &t.State.Queue.Lines[i]; l.Greets() && l.Made.Before(at) {
			t.TakeBack(l, "another stream opened before it could be said")
		}
	}
}

func closeStream(t *room.Turn, at time.Time, why string) {
	t.Decide(hall.Decision{Kind: hall.Close, Output: "stream", Stream: t.State.Stream.Number, At: at, Because: []string{why}})
	info := happening.StreamInfo{}
	for _, name := range slices.Sorted(maps.Keys(t.State.Stream.Platforms)) {
		p := t.State.Stream.Platforms[name]
		info = happening.StreamInfo{Platform: name, Title: p.Title, Category: p.Category, URL: p.URL}
	}
	t.Closing = true
	defer func() { t.Closing = false }()
	args := t.AboutStream(info)
	args["length"] = wording.Str(dates.Age(t.State.Stream.Opened, at, t.Plan.Zone))
	args["watched"], args["spoke"] = wording.Num(t.State.Evening.Watched), wording.Num(int64(len(t.State.Evening.Arrivals)))
	args["bookmarks"] = wording.Num(int64(len(bookmark.Tonight(t.Memory))))
	inSum(&t.State.Evening, t.State.Raids, args)
	t.Free(t.Plan.Set.Meet(who.Cause{When: happening.StreamClosedType, Live: true, At: t.Now.In(t.Plan.Zone)}), args, t.OnAir())
}

// inSum sums an evening up, for whoever is told of its end.
func inSum(e *hall.Evening, raids []hall.Raid, args wording.Args) {
	standing := map[people.Standing]int64{}
	for i := range e.Arrivals {
		standing[e.Arrivals[i].Standing]++
	}
	brought := int64(0)
	for i := range raids {
		brought += raids[i].Viewers
	}
	share := int64(0)
	if all := e.People + e.House; all > 0 {
		share = int64(100*e.House+all/2) / int64(all)
	}
	args["newcomers"], args["regulars"] = wording.Num(standing[people.Newcomer]), wording.Num(standing[people.Regular])
	args["raided"], args["lines"], args["share"] = wording.Num(brought), wording.Num(int64(e.People)), wording.Num(share)
}

// notAnnounced says for each announcement why it is not made again.
func notAnnounced(t *room.Turn, why string) {
	for _, r := range t.Plan.Set.For(who.Cause{When: happening.StreamOpenedType}) {
		t.Decide(hall.Decision{Kind: hall.Refuse, Courtesy: r.ID, Because: []string{why}})
	}
}

// platformJoins: a platform goes live while the stream is on. Once a stream it is told of, as
// the settings say.
func (s *section) platformJoins(t *room.Turn, args wording.Args, platform, why string) {
	how := t.Plan.AlsoOn.How
	if t.State.Stream.Platforms[platform] != nil || how == housefile.NoFollow {
		notAnnounced(t, why)
		return
	}
	c := who.Cause{When: happening.StreamOpenedType, Live: true, At: t.Now.In(t.Plan.Zone)}
	c.Person.Platform = platform
	if how == housefile.EachOwn {
		t.Free(t.Plan.Set.Meet(c), args, []string{platform})
		t.Release(t.State.Hush)
		return
	}
	for _, r := range t.Plan.Set.For(c) {
		fits, no := r.Fits(c)
		if r.Slot != happening.Free || !fits {
			if r.Slot == happening.Free {
				t.Decide(hall.Decision{Kind: hall.Refuse, Courtesy: r.ID, Because: []string{no}})
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
				t.Do(c, r, &o, nil, args, []string{platform})
			case o.Way() == output.ToPlace && relay.Holds(t, r.ID, o.ID):
				t.Decide(hall.Decision{Kind: hall.Refuse, Courtesy: r.ID, Output: o.ID, Place: o.Place(), Because: []string{"its announcement has not left yet, and will name " + plain.Titled(platform) + " too"}})
			case o.Way() == output.ToPlace:
				o.ID, o.Alts, o.Weights = o.ID+" too", s.alsoOn, nil
				t.Do(c, r, &o, nil, args, nil)
			}
		}
	}
	t.Release(t.State.Hush)
}
