// Package occasion tells which days of somebody's are to be kept: their birthday, the day they followed
// and the day they first came, each year, and the streams with a round number.
//
// What is known of somebody is [Dates]; [Now] tells what is kept at a moment, [Belated] what passed while
// nobody could, and [Coming] what is ahead. Days are civil dates in the person's own zone, so that it is
// their birthday when it is for them. What an occasion is remembered under, so that it is kept once, is
// its [Occasion.Key].
package occasion

import (
	"cmp"
	"fmt"
	"slices"
	"time"

	"vividporch/core/dates"
)

// Kind is what sort of day it is.
type Kind string

// The kinds, in the order in which they are kept where several fall on one day.
const (
	Birthday   Kind = "birthday"
	Follow     Kind = "follow"       // they followed so many years ago
	FirstVisit Kind = "first visit"  // they first came so many years ago
	Streams    Kind = "round number" // of streams they were at
	Channel    Kind = "channel"      // the channel itself began so many years ago
)

// Kinds lists them in that order.
func Kinds() []Kind { return []Kind{Birthday, Follow, FirstVisit, Streams, Channel} }

// OfChannel is the day of a channel that began on a day, where it is to be kept at a moment.
func OfChannel(began dates.Day, now, since time.Time, zone *time.Location, r Rules) []Occasion {
	if began.Year == 0 {
		return nil
	}
	out := Now(Dates{First: began.At(zone).Add(12 * time.Hour), Zone: zone}, now, since, r) // at noon, whatever the clocks did
	for i := range out {
		out[i].Kind = Channel
	}
	return out
}

// Dates are what is known of somebody's days. What is zero is not known.
type Dates struct {
	Birthday dates.Day // its year only where they gave it
	Followed time.Time
	First    time.Time      // their first visit
	Streams  int            // they were at, tonight's included; 0 when they are not at one
	Zone     *time.Location // theirs, else the channel's
}

// Rules are how days are kept on a channel. The zero value keeps the default ones.
type Rules struct {
	Leap   dates.LeapRule
	Round  []int // numbers of streams; none is 10, 25, 50 and 100. Beyond the last each further hundred
	Window int   // days within which what passed is belated; 0 is a week
}

// DefaultWindow is how many days what passed is belated for.
const DefaultWindow = 7

var defaultRound = []int{10, 25, 50, 100}

// IsRound reports whether a number of streams is one to keep.
func (r Rules) IsRound(n int) bool {
	list := r.Round
	if len(list) == 0 {
		list = defaultRound
	}
	return n > 0 && (slices.Contains(list, n) || n > slices.Max(list) && n%100 == 0)
}

func (r Rules) window() int { return cmp.Or(r.Window, DefaultWindow) }

// Occasion is a day of somebody's as it is kept in one year.
type Occasion struct {
	Kind  Kind
	On    dates.Day // as it is kept that year; of a round number the day of the stream
	Years int       // how many it makes; 0 where that is not known. Of a round number: of streams
	Days  int       // until then; less than 0 is how long ago it was
}

// Key is what it is remembered under once it was kept: of its kind and year, or its number, so that
// setting a day anew, another account or another zone keep nothing twice.
func (o Occasion) Key() string {
	if o.Kind == Streams {
		return fmt.Sprintf("%s/%d", o.Kind, o.Years)
	}
	return fmt.Sprintf("%s/%d", o.Kind, o.On.Year)
}

// Words are what it is, to stand after "for": "birthday", "3 years of following".
func (o Occasion) Words() string {
	years := fmt.Sprintf("%d years", o.Years)
	if o.Years == 1 {
		years = "a year"
	}
	switch o.Kind {
	case Follow:
		return years + " of following"
	case FirstVisit:
		return years + " since the first visit"
	case Streams:
		return fmt.Sprintf("stream number %d", o.Years)
	case Channel:
		return years + " of this channel"
	}
	return string(o.Kind)
}

// Now are the days of somebody's that are to be kept at a moment: those of today, and of the day on which
// the stream that is on began, where that was yesterday for them. since is when it began; zero is none.
func Now(d Dates, now, since time.Time, r Rules) []Occasion {
	today := dates.On(now, d.Zone)
	first := today
	if !since.IsZero() && since.Before(now) {
		first = dates.On(since, d.Zone)
	}
	var out []Occasion
	for _, o := range d.last(today, now, r) {
		if -o.Days <= first.DaysTo(today) {
			out = append(out, o)
		}
	}
	if r.IsRound(d.Streams) {
		out = append(out, Occasion{Kind: Streams, On: today, Years: d.Streams})
	}
	return out
}

// Belated are those that passed before the stream began, or before today, within the window.
func Belated(d Dates, now, since time.Time, r Rules) []Occasion {
	today := dates.On(now, d.Zone)
	kept := Now(d, now, since, r)
	var out []Occasion
	for _, o := range d.last(today, now, r) {
		if o.Days < 0 && -o.Days <= r.window() && !slices.Contains(kept, o) {
			out = append(out, o)
		}
	}
	return out
}

// Coming are those of today and of so many days ahead, the nearest first.
func Coming(d Dates, now time.Time, days int, r Rules) []Occasion {
	today := dates.On(now, d.Zone)
	var out []Occasion
	for _, y := range d.yearly(now) {
		next, left := y.day.Next(today, r.leap())
		o := Occasion{Kind: y.kind, On: next, Days: left}
		if o.Years = y.years(next); left <= days && o.made() {
			out = append(out, o)
		}
	}
	slices.SortStableFunc(out, func(a, b Occasion) int { return cmp.Compare(a.Days, b.Days) })
	return out
}

// yearly is a day that comes round each year.
type yearly struct {
	kind  Kind
	day   dates.Day // without a year
	began int       // its first year; 0 where that is not known
}

func (y *yearly) years(on dates.Day) int {
	if y.began == 0 {
		return 0
	}
	return on.Year - y.began
}

// yearly lists somebody's days that come round. What lies ahead, as where a platform's clock is fast,
// has not begun.
func (d *Dates) yearly(now time.Time) []yearly {
	var out []yearly
	if b := d.Birthday; !b.IsZero() {
		out = append(out, yearly{Birthday, dates.Day{Month: b.Month, Day: b.Day}, b.Year})
	}
	for _, x := range []struct {
		kind Kind
		at   time.Time
	}{{Follow, d.Followed}, {FirstVisit, d.First}} {
		if x.at.IsZero() || x.at.After(now) {
			continue
		}
		on := dates.On(x.at, d.Zone)
		out = append(out, yearly{x.kind, dates.Day{Month: on.Month, Day: on.Day}, on.Year})
	}
	return out
}

// made reports whether there is anything to keep: a birthday always, the rest once a year is over.
func (o *Occasion) made() bool { return o.Kind == Birthday && o.Years >= 0 || o.Years > 0 }

// last are somebody's days as they last came round, today's included.
func (d *Dates) last(today dates.Day, now time.Time, r Rules) []Occasion {
	var out []Occasion
	for _, y := range d.yearly(now) {
		on := y.day.In(today.Year, r.leap())
		days := today.DaysTo(on)
		if days > 0 {
			on = y.day.In(today.Year-1, r.leap())
			days = today.DaysTo(on)
		}
		o := Occasion{Kind: y.kind, On: on, Days: days}
		if o.Years = y.years(on); o.made() {
			out = append(out, o)
		}
	}
	return out
}

func (r Rules) leap() dates.LeapRule { return cmp.Or(r.Leap, dates.OnFebruary28) }
