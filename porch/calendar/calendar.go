// Package calendar tells members whose days are today, were missed and are ahead, and writes the days of
// people as a calendar that others subscribe to. Which days are whose is package occasion's.
package calendar

import (
	"cmp"
	"context"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"

	"vividporch/core/attendance"
	"vividporch/core/dates"
	"vividporch/core/day"
	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/occasion"
	"vividporch/core/room"
	"vividporch/formats/ics"
	"vividporch/store"
	"vividporch/store/find"
	"vividporch/store/record"
)

// Config is what the calendar of a channel needs.
type Config struct {
	Channel   int64
	Store     *store.Store
	Plan      func() *room.Plan
	Reckoning func() record.Reckoning
	Tonight   func() int       // number of the stream that is on; 0 for none
	Opened    func() time.Time // when it opened
	Here      func(context.Context) (map[string]Here, error)
}

// Here is somebody in this stream, by account.
type Here struct {
	Since time.Time // they arrived; zero: not yet
	Due   time.Time // when a line that keeps a day of theirs leaves; zero for none
	Keeps []string  // the days that it keeps, by what they are remembered under
	Kept  []string  // what was celebrated in this stream and in the one before
}

// Calendar answers. Its methods may be called from any goroutine.
type Calendar struct{ cfg Config }

// New makes the calendar of a channel.
func New(cfg Config) *Calendar { return &Calendar{cfg} }

// Entry is one day of one person.
type Entry struct {
	*find.Dated
	occasion.Occasion
	Strip  string
	Chance occasion.Chance
	Stream bool // one is expected that day
	Left   int  // of what was missed: days within which it can still be kept
	Kept   bool // it was celebrated
	Here   Here
}

// Overview is what the view of the dates shows.
type Overview struct {
	Today    dates.Day
	Entries  []Entry // of today
	Missed   []Entry
	Year     []Entry // from today on, the nearest first
	Evenings []time.Weekday
	People   int
	More     bool // there are more people than are shown
}

// roundAhead is within how many expected streams a round number is foretold.
const roundAhead = 12

// mostPeople is of how many people days are shown at once.
const mostPeople = 5000

// Overview tells whose days are today, which were missed, and those of a year ahead. All is everybody,
// and not only who was at one of the last streams.
func (c *Calendar) Overview(ctx context.Context, all bool) (Overview, error) {
	k, plan := c.cfg.Reckoning(), c.cfg.Plan()
	set := room.Section[day.Settings](plan, day.Name)
	rules := set.Rules()
	out := Overview{Today: dates.On(k.Now, k.Zone), Evenings: occasion.Evenings(set.Evenings, k.Past, k.Zone)}
	here, err := c.cfg.Here(ctx)
	if err != nil {
		return out, err
	}
	tonight := c.cfg.Tonight()
	since := time.Time{}
	if tonight > 0 {
		since = c.cfg.Opened()
	}
	expected := occasion.Expected(out.Today, out.Evenings, roundAhead)
	err = c.cfg.Store.Find.Dates(ctx, c.cfg.Channel, !all, func(d *find.Dated) error {
		if out.People == mostPeople {
			out.More = true
			return nil
		}
		out.People++
		theirs := c.of(d, k.Zone)
		strip := attendance.Strip(attendance.Mask{At: d.MaskAt, Bits: d.MaskBits}, k.Past, tonight)
		now := here[d.Account]
		kept := slices.Concat(d.Kept, now.Kept)
		entry := func(o occasion.Occasion) Entry {
			return Entry{Dated: d, Occasion: o, Strip: strip, Chance: occasion.ChanceOf(strip), Here: now, Kept: slices.Contains(kept, o.Key()),
				Stream: o.Days == 0 && tonight > 0 || slices.Contains(out.Evenings, o.On.At(time.UTC).Weekday())}
		}
		at := theirs
		if tonight > 0 && !now.Since.IsZero() {
			at.Streams = max(at.Streams, 1)
		} else {
			at.Streams = 0
		}
		for _, o := range occasion.Now(at, k.Now, since, rules) {
			out.Entries = append(out.Entries, entry(o))
		}
		for _, o := range occasion.Belated(theirs, k.Now, since, rules) {
			if e := entry(o); !e.Kept && !d.LeaveBe {
				e.Left = rules.Window + o.Days + 1
				out.Missed = append(out.Missed, e)
			}
		}
		ahead := expected
		if occasion.ChanceOf(strip) != occasion.Likely { // nobody can tell when they are at how many
			ahead = nil
		}
		for _, o := range occasion.Year(theirs, k.Now, rules, ahead) {
			if o.Days > 0 {
				out.Year = append(out.Year, entry(o))
			}
		}
		return nil
	})
	slices.SortStableFunc(out.Missed, func(a, b Entry) int { return cmp.Or(cmp.Compare(b.Days, a.Days), cmp.Compare(a.Name, b.Name)) })
	slices.SortStableFunc(out.Entries, func(a, b Entry) int {
		return cmp.Or(b.Here.Since.Compare(a.Here.Since), cmp.Compare(a.Name, b.Name))
	})
	slices.SortStableFunc(out.Year, func(a, b Entry) int { return cmp.Or(cmp.Compare(a.Days, b.Days), cmp.Compare(a.Name, b.Name)) })
	return out, err
}

// of is what is known of somebody's days.
func (c *Calendar) of(d *find.Dated, zone *time.Location) occasion.Dates {
	out := occasion.Dates{Birthday: d.Birthday, Streams: d.Attended, Zone: zone}
	if own, err := time.LoadLocation(d.Zone); err == nil && d.Zone != "" {
		out.Zone = own
	}
	if d.Followed != nil {
		out.Followed = *d.Followed
	}
	if d.FirstSeen != nil {
		out.First = *d.FirstSeen
	}
	return out
}

// weekDays is how many days a week has.
const weekDays = 7

// Week are the days of people of the week from a moment on, those of hidden birthdays left out.
func (c *Calendar) Week(ctx context.Context, from time.Time) (*happening.DatesWeek, error) {
	k, plan := c.cfg.Reckoning(), c.cfg.Plan()
	rules := room.Section[day.Settings](plan, day.Name).Rules()
	out := &happening.DatesWeek{From: dates.On(from, k.Zone), Days: []happening.WeekDay{}}
	err := c.cfg.Store.Find.Dates(ctx, c.cfg.Channel, true, func(d *find.Dated) error {
		theirs := c.of(d, k.Zone)
		if d.Hidden {
			theirs.Birthday = dates.Day{}
		}
		if d.LeaveBe || d.Account == "" {
			return nil
		}
		for _, o := range occasion.Coming(theirs, from, weekDays-1, rules) {
			if len(out.Days) == mostWeek {
				out.More++
				continue
			}
			platform, id, _ := strings.Cut(d.Account, ":")
			out.Days = append(out.Days, happening.WeekDay{Person: event.Person{Platform: platform, ID: id, Login: d.Login, Name: d.Name}, Kind: o.Kind, On: o.On, Years: o.Years})
		}
		return nil
	})
	slices.SortStableFunc(out.Days, func(a, b happening.WeekDay) int {
		return cmp.Or(a.On.At(time.UTC).Compare(b.On.At(time.UTC)), cmp.Compare(a.Person.Name, b.Person.Name))
	})
	return out, err
}

// mostWeek is how many days a week tells by name; the rest is counted.
const mostWeek = 60

// Feed says what a calendar holds.
type Feed struct {
	Kinds []occasion.Kind // none are birthdays and years of following
	Alarm time.Duration   // a reminder before each day; 0 for none
}

// Tag changes whenever the calendar would.
func (c *Calendar) Tag(ctx context.Context) (string, error) {
	tag, err := c.cfg.Store.Find.DatesTag(ctx, c.cfg.Channel)
	return tag + "-" + string(c.cfg.Plan().Leap()), err
}

// Write writes the calendar as it goes: of a birthday that somebody hides, nothing.
func (c *Calendar) Write(ctx context.Context, w io.Writer, f Feed) error {
	plan, k := c.cfg.Plan(), c.cfg.Reckoning()
	if len(f.Kinds) == 0 {
		f.Kinds = []occasion.Kind{occasion.Birthday, occasion.Follow}
	}
	out, err := ics.NewWriter(w, "Days of "+plan.Channel, plan.Leap(), f.Alarm)
	if err != nil {
		return err
	}
	err = c.cfg.Store.Find.Dates(ctx, c.cfg.Channel, false, func(d *find.Dated) error {
		theirs := c.of(d, k.Zone)
		for _, kind := range f.Kinds {
			e := ics.Day{UID: uid(kind, d.Person, plan.Channel), Account: d.Account, Stamp: k.Now}
			switch {
			case kind == occasion.Birthday && !d.Birthday.IsZero() && !d.Hidden:
				e.On, e.Of, e.Summary = d.Birthday, ics.Birthday, "Birthday: "+d.Name
			case kind == occasion.Follow && d.Followed != nil:
				e.On, e.Of, e.Summary = dates.On(theirs.Followed, theirs.Zone), ics.Follow, d.Name+" follows"
			case kind == occasion.FirstVisit && d.FirstSeen != nil:
				e.On, e.Of, e.Summary = dates.On(theirs.First, theirs.Zone), ics.FirstVisit, d.Name+" first came"
			default:
				continue
			}
			if err := out.Write(e); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		return err
	}
	return out.Close()
}

// uid is the identity of a day, which stays (RFC 5545, section 3.8.4.7).
func uid(kind occasion.Kind, person int64, channel string) string {
	return fmt.Sprintf("%s-%d@%s", strings.ReplaceAll(string(kind), " ", "-"), person, channel)
}
