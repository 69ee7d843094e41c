// Package day is the room for the days of people: how a channel reads and keeps them.
//
// Which days are whose is package occasion's, and what is done on one is a courtesy's: it asks for the
// day in its who. The frame of rooms keeps what was celebrated. Here stand the settings of all that.
package day

import (
	"cmp"
	"fmt"
	"slices"
	"time"

	"vividporch/core/courtesy"
	"vividporch/core/dates"
	"vividporch/core/happening"
	"vividporch/core/housefile"
	"vividporch/core/occasion"
	"vividporch/core/room"
)

// Room knows how days are kept, and when the week's are told.
var Room = room.Of(room.Spec[Settings, Memory]{Name: Name, Version: 1, Ready: Of,
	Hears: []string{happening.StreamOpenedType, "porch.settings.changed", "porch.house.woke", happening.DatesWeekType},
	Decide: func(t *room.Turn, s *Settings, m *Memory) {
		if week, ok := t.Event.Data.(*happening.DatesWeek); ok {
			tell(t, week)
			return
		}
		s.schedule(t, m)
	},
	Sees: []string{happening.DatesWeekType},
	Evolve: func(m *Memory, l room.Lived) {
		if _, ok := l.Event.Data.(*happening.DatesWeek); ok {
			m.Owed = time.Time{}
		}
		for _, next := range room.Noted[Memory](l, weekNote) {
			m.At, m.Due, m.Owed = next.At, next.Due, next.Owed
		}
		for _, key := range room.Noted[string](l, room.ChannelKept) {
			m.Days = append(m.Days, key)
		}
	},
	Wake: func(s *Settings, m *Memory) (time.Time, bool) {
		return m.Due, !m.Due.IsZero() && m.At == s.Week.String()
	}})

// Name is what its section stands under.
const Name = "day"

// Settings are how a channel reads and keeps days. The zero value is the usual way.
type Settings struct {
	MonthFirst  bool     `json:"monthFirst,omitempty"`                                         // 3/9 is 9 March
	BelatedDays int      `json:"belatedDays,omitempty" jsonschema:"minimum=0,maximum=60"`      // how long a missed day can be kept; 0 is a week
	Round       []int    `json:"round,omitempty"`                                              // numbers of streams; none is 10, 25, 50, 100; then each hundred
	Correct     int      `json:"correctMinutes,omitempty" jsonschema:"minimum=0,maximum=1440"` // within which what somebody set can be corrected; 0 is 5
	Since       string   `json:"since,omitempty" jsonschema:"format=date"`                     // the channel's own first day
	Evenings    []string `json:"evenings,omitempty"`                                           // weekdays on which a stream is expected; none: as the last streams were

	Week Week `json:"week,omitzero"` // when the week's days are told

	zone *time.Location
	leap dates.LeapRule // of the house file
}

const (
	defaultCorrect = 5 // minutes
	mostRound      = 40
)

// Of makes them ready of a house file.
func Of(f *housefile.Settings, fault func(courtesy.Fault)) Settings {
	s := room.ReadSection[Settings](f, Name, fault)
	s.leap = f.Leap()
	s.zone, _ = time.LoadLocation(f.Zone)
	wrong := func(at, what, remedy string) {
		fault(courtesy.Fault{At: "rooms." + Name + "." + at, What: what, Remedy: remedy})
	}
	if s.BelatedDays < 0 || s.BelatedDays > 60 {
		wrong("belatedDays", "is out of range", "use 1 to 60 days, or 0 for a week")
	}
	if s.Correct < 0 || s.Correct > 1440 {
		wrong("correctMinutes", "is out of range", "use 1 to 1440 minutes, or 0 for five")
	}
	if len(s.Round) > mostRound || slices.ContainsFunc(s.Round, func(n int) bool { return n < 2 || n > 100_000 }) {
		wrong("round", "has a number that is none to keep", fmt.Sprintf("list at most %d numbers of streams from 2 on, or none for the usual ones", mostRound))
	}
	if s.Since != "" {
		if d, err := dates.Parse(s.Since, true); err != nil || d.Year == 0 {
			wrong("since", fmt.Sprintf("%q is no day with a year", s.Since), `write year, month and day, such as "2021-03-09"`)
		}
	}
	if w := s.Week; w != (Week{}) {
		if !slices.Contains(weekdays, w.Day) {
			wrong("week.day", fmt.Sprintf("%q is no weekday", w.Day), "write it out, such as Sunday")
		}
		if _, err := time.Parse("15:04", w.At); err != nil || len(w.At) != 5 {
			wrong("week.at", fmt.Sprintf("%q is no time of day", w.At), `write hours and minutes, such as "10:00"`)
		}
	}
	for i, d := range s.Evenings {
		if !slices.Contains(weekdays, d) {
			wrong(fmt.Sprintf("evenings.%d", i), fmt.Sprintf("%q is no weekday", d), "write them out, such as Thursday")
		}
	}
	return s
}

var weekdays = []string{"Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"}

// Rules are how days are kept.
func (s *Settings) Rules() occasion.Rules {
	return occasion.Rules{Leap: s.leap, Round: s.Round, Window: cmp.Or(s.BelatedDays, occasion.DefaultWindow)}
}

// DayFirst reports whether the day comes first where digits alone leave it open.
func (s *Settings) DayFirst() bool { return !s.MonthFirst }

// Began is the channel's first day; zero where it is not told.
func (s *Settings) Began() dates.Day {
	d, _ := dates.Parse(s.Since, true)
	return d
}

// CorrectFor is how long what somebody set can be corrected.
func (s *Settings) CorrectFor() time.Duration {
	return time.Duration(cmp.Or(s.Correct, defaultCorrect)) * time.Minute
}
