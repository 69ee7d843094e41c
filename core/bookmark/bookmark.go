// Package bookmark is the room for moments of a stream that were marked, by whomever and from wherever.
package bookmark

import (
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"vividporch/core/attendance"
	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/housefile"
	"vividporch/core/plain"
	"vividporch/core/room"
	"vividporch/core/wording"
)

// Room runs what courtesies do at a bookmark, and remembers those of this stream.
var Room = room.Of(room.Spec[section, Memory]{Name: name, Version: 1,
	Ready: func(f *housefile.Settings, fault func(courtesy.Fault)) section {
		return room.ReadSection[section](f, name, fault)
	},
	Hears: []string{happening.BookmarkSetType},
	Decide: func(t *room.Turn, s *section, _ *Memory) {
		if set, ok := t.Event.Data.(*happening.BookmarkSet); ok {
			s.decide(t, set)
		}
	},
	Sees: []string{happening.BookmarkSetType, event.BookmarkLabelledType},
	Evolve: func(m *Memory, l room.Lived) {
		m.evolve(l)
	},
	Forget: func(m *Memory, gone *hall.Gone) {
		for i := range m.Set {
			b := &m.Set[i]
			if gone.Mine(b.Account) {
				b.Account, b.By, b.Label = "", "", ""
			}
			if b.Account == "" { // of a member, or a key; whoever else it is by goes by the same name, and keeps it
				b.By = plain.Without(b.By, gone.Names)
			}
			b.Label = plain.Without(b.Label, gone.Names)
		}
	}})

const name = "bookmark"

// section is how a link into a recording is made: of {recording}, its address, and of {seconds}, or of {hours},
// {minutes} and {rest}, the seconds of the minute. Without one the recording's own address is the link.
type section struct {
	Recording string `json:"recording,omitempty"`
}

// Memory is the bookmarks of this stream, in the order in which they were set.
type Memory struct {
	Set []Bookmark `json:"set,omitempty"`
}

// Bookmark is one of them.
type Bookmark struct {
	Event   int64     `json:"event"`
	At      time.Time `json:"at"`
	Label   string    `json:"label,omitempty"`
	By      string    `json:"by,omitempty"`
	Account string    `json:"account,omitempty"`
}

// mostKept is how many a stream has: a thousand is a button that got stuck.
const mostKept = 1000

func (m *Memory) evolve(l room.Lived) {
	for i := range l.Decisions {
		if l.Decisions[i].Kind == hall.Close {
			m.Set = nil
		}
	}
	if l.Opened != nil {
		m.Set = nil
	}
	if named, ok := l.Event.Data.(*event.BookmarkLabelled); ok {
		for i := range m.Set {
			if m.Set[i].Event == named.Mark {
				m.Set[i].Label = plain.Text(named.Label)
			}
		}
		return
	}
	set, ok := l.Event.Data.(*happening.BookmarkSet)
	if !ok || !slices.ContainsFunc(l.Decisions, func(x hall.Decision) bool { return x.Kind == hall.Note && x.Room == name }) || len(m.Set) == mostKept {
		return
	}
	b := Bookmark{Event: l.Event.Seq, At: l.Event.Time, Label: plain.Text(set.Label), By: set.By()}
	if set.Person != nil {
		b.Account = set.Person.Key()
	}
	m.Set = append(m.Set, b)
	slices.SortStableFunc(m.Set, func(a, b Bookmark) int { return a.At.Compare(b.At) })
}

func (s *section) decide(t *room.Turn, set *happening.BookmarkSet) {
	now := &t.State.Stream
	if t.State.StreamAt(t.Event.Time) != now.Number || !now.Live() {
		t.Decide(hall.Decision{Kind: hall.Refuse, Output: name, Because: []string{"no stream is on: it was a try"}})
		return
	}
	into := Into(t.Event.Time.Sub(now.Opened))
	room.Note(t, "set", struct{}{}, "marked at "+into)
	on, info := platforms(t, set)
	args := t.AboutStream(info)
	happening.OfData(set).Tell(set, args)
	args["into"] = wording.Str(into)
	args.Maybe("recording", wording.Str(s.into(now, info.Platform, t.Event.Time)))
	t.Announce(args, on)
}

// Said is what came of setting a bookmark, in words; done is false for a try.
func Said(ds []hall.Decision) (words string, done bool) {
	for i := range ds {
		if x := &ds[i]; x.Room == name && (x.Kind == hall.Note || x.Kind == hall.Refuse && x.Output == name) {
			return strings.ToUpper(x.Because[0][:1]) + x.Because[0][1:] + ".", x.Kind == hall.Note
		}
	}
	return "", false
}

// platforms are where it is told of: where whoever set it is, or wherever the stream is on; and what is known of
// the first.
func platforms(t *room.Turn, set *happening.BookmarkSet) (on []string, info happening.StreamInfo) {
	on = t.OnAir()
	if set.Person != nil {
		on = t.ChatsOf(*set.Person)
	}
	of := on
	if len(of) == 0 {
		of = slices.Sorted(maps.Keys(t.State.Stream.Platforms))
	}
	if len(of) > 0 {
		info = t.State.KnownStream(happening.StreamInfo{Platform: of[0]})
	}
	return on, info
}

// Into writes how far into the stream something is: "1:02:33".
func Into(d time.Duration) string {
	s := max(0, int(d/time.Second))
	return fmt.Sprintf("%d:%02d:%02d", s/3600, s/60%60, s%60)
}

// into is the link to a moment in the recording that a platform keeps; "" where there is none.
func (s *section) into(on *attendance.Stream, platform string, at time.Time) string {
	p := on.Platforms[platform]
	if p == nil || p.Recording == "" {
		return ""
	}
	began := p.First
	if began.IsZero() {
		began = on.Opened
	}
	if s.Recording == "" {
		return p.Recording
	}
	n := max(0, int(at.Sub(began)/time.Second))
	return strings.NewReplacer("{recording}", p.Recording, "{seconds}", fmt.Sprint(n), "{hours}", fmt.Sprint(n/3600), "{minutes}", fmt.Sprint(n/60%60), "{rest}", fmt.Sprint(n%60)).Replace(s.Recording)
}

// Tonight are the bookmarks of this stream.
func Tonight(m room.Memory) []Bookmark { return room.Remembered[Memory](m, name).Set }
