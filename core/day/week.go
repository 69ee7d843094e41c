package day

import (
	"slices"
	"time"

	"vividporch/core/happening"
	"vividporch/core/room"
)

// The days of a week are told once a week, at a weekday and an hour in the channel's zone: late when the
// house was down at that minute, and never twice. When it is time the house owes the week; whoever runs
// it reads the days from the guest book and tells them as an event, whose courtesies carry it on.

// Week is when that is; the zero value is never.
type Week struct {
	Day string `json:"day" jsonschema:"enum=Monday,enum=Tuesday,enum=Wednesday,enum=Thursday,enum=Friday,enum=Saturday,enum=Sunday"`
	At  string `json:"at" jsonschema:"pattern=^([01][0-9]|2[0-3]):[0-5][0-9]$"` // "HH:MM"
}

// String says it: "Sunday 10:00"; "" for never.
func (w Week) String() string {
	if w == (Week{}) {
		return ""
	}
	return w.Day + " " + w.At
}

// after is the next time after a moment; zero for never.
func (w Week) after(now time.Time, zone *time.Location) time.Time {
	at, err := time.Parse("15:04", w.At)
	if err != nil || zone == nil {
		return time.Time{}
	}
	here := now.In(zone)
	for days := range 8 {
		next := time.Date(here.Year(), here.Month(), here.Day()+days, at.Hour(), at.Minute(), 0, 0, zone)
		if next.Weekday().String() == w.Day && next.After(now) {
			return next
		}
	}
	return time.Time{}
}

// Memory is when the week is told next, as it was set then, and one that is owed.
type Memory struct {
	At   string    `json:"at,omitempty"`
	Due  time.Time `json:"due,omitzero"`
	Owed time.Time `json:"owed,omitzero"`  // was due then, and is not told yet
	Days []string  `json:"days,omitempty"` // of the channel's own that were kept, by what they are remembered under
}

// Kept reports whether a day of the channel's own was kept.
func (m *Memory) Kept(key string) bool { return slices.Contains(m.Days, key) }

// weekNote is what moves the memory on.
const weekNote = "week"

// Owed is the moment of a week that is to be told now; zero for none.
func Owed(m room.Memory) time.Time { return room.Remembered[Memory](m, Name).Owed }

// schedule keeps when the week is due, and owes it when that has come.
func (s *Settings) schedule(t *room.Turn, m *Memory) {
	next := Memory{At: m.At, Due: m.Due, Owed: m.Owed}
	why := "the week’s dates are due then"
	switch set := s.Week.String(); {
	case m.At != set: // set anew: what was due by the old hour is not
		next = Memory{At: set, Due: s.Week.after(t.Now, s.zone), Owed: m.Owed}
	case !m.Due.IsZero() && !m.Due.After(t.Now): // one week, however many passed
		next.Owed, next.Due, why = m.Due, s.Week.after(t.Now, s.zone), "the week’s dates are due"
	default:
		return
	}
	room.Note(t, weekNote, next, why)
}

// tell runs the courtesies of the week's dates.
func tell(t *room.Turn, week *happening.DatesWeek) {
	args := t.Args()
	happening.OfData(week).Tell(week, args)
	t.Announce(args, t.OnAir())
}
