package house

import (
	"fmt"
	"maps"
	"slices"
	"time"

	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/who"
	"vividporch/core/wording"
)

// When a stream opens, goes on and ends.

// streamOpened: the first platform opens a stream, unless it was gone for less than the
// grace time; only an opening is announced.
func streamOpened(d *decider, platform string, info happening.StreamInfo) {
	s := &d.s.Stream
	args := d.told(info)
	switch {
	case s.Live() && s.Gone.IsZero():
		platformJoins(d, args, platform, "the stream is already on; "+platform+" joins it")
		return
	case s.Continues(d.ev.Time, d.p.grace):
		why := "was live again before it was told that none is"
		if gone := d.ev.Time.Sub(s.Gone).Round(time.Second); !s.Gone.IsZero() && gone >= 0 {
			why = fmt.Sprintf("was gone for %s, less than the grace time of %s", gone, d.p.grace)
		}
		d.decide(Decision{Kind: Continue, Output: "stream", Stream: s.Number, Platform: platform, Because: []string{why}})
		platformJoins(d, args, platform, "the stream goes on after a drop; it was announced when it opened")
		return
	}
	if s.Live() {
		closeStream(d, s.Gone, "no platform was live for the grace time")
	}
	openStream(d, d.ev.Time, "the first platform is live")
	thankFor(d, args, platform)
}

func streamDeclared(d *decider, data *event.StreamDeclared) {
	s := &d.s.Stream
	switch {
	case data.Act == "closed":
		if s.Live() {
			closeStream(d, d.ev.Time, "closed at the desk")
			d.release(d.s.Hush)
		}
		return
	case data.Act == "opened" && s.Live():
		d.decide(Decision{Kind: Refuse, Output: "stream", Because: []string{"a stream is already on; declare a new one to start over"}})
		return
	case s.Live():
		closeStream(d, d.ev.Time, "a new stream was declared at the desk")
	}
	openStream(d, d.ev.Time, "declared at the desk")
	args := d.args()
	args.Maybe("title", wording.Str(data.Title))
	d.announce(args, d.p.chat)
}

func openStream(d *decider, at time.Time, why string) {
	live := true
	d.live = &live
	d.decide(Decision{Kind: Open, Output: "stream", Stream: d.s.Stream.Number + 1, At: at, Because: []string{why}})
	for i := range d.s.Queue.Lines { // whoever is still here is greeted anew
		if l := &d.s.Queue.Lines[i]; l.Greets() && l.Made.Before(at) {
			d.takeBack(l, "another stream opened before it could be said")
		}
	}
}

func closeStream(d *decider, at time.Time, why string) {
	d.decide(Decision{Kind: Close, Output: "stream", Stream: d.s.Stream.Number, At: at, Because: []string{why}})
	info := happening.StreamInfo{}
	for _, name := range slices.Sorted(maps.Keys(d.s.Stream.Platforms)) {
		p := d.s.Stream.Platforms[name]
		info = happening.StreamInfo{Platform: name, Title: p.Title, Category: p.Category, URL: p.URL}
	}
	d.closing = true
	defer func() { d.closing = false }()
	d.free(d.p.Set.Meet(who.Cause{When: happening.StreamClosedType, Live: true, At: d.now.In(d.p.Zone)}), d.told(info), d.onAir())
}

// notAnnounced says for each announcement why it is not made again.
func notAnnounced(d *decider, why string) {
	for _, r := range d.p.Set.For(who.Cause{When: happening.StreamOpenedType}) {
		d.decide(Decision{Kind: Refuse, Courtesy: r.ID, Because: []string{why}})
	}
}
