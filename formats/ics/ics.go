// Package ics writes the days of people as an iCalendar (RFC 5545) that others subscribe to, and reads
// days out of one.
//
// A day is an all-day event that comes back each year, with an identity that stays. 29 February comes
// back on the last day of February, or on the sixtieth day of the year, which is 1 March but for leap
// years, when it is the day itself. What a reader takes a day to be of stands in CATEGORIES, and the
// account in X-PORCH-ACCOUNT.
package ics

import (
	"bytes"
	"fmt"
	"io"
	"strings"
	"time"

	ical "github.com/arran4/golang-ical"

	"vividporch/core/card"
	"vividporch/core/dates"
	"vividporch/formats/row"
	"vividporch/formats/text"
)

// The categories of events, which say what sort of day it is.
const (
	Birthday   = "BIRTHDAY"
	Follow     = "FOLLOW ANNIVERSARY"
	FirstVisit = "FIRST VISIT"
)

// Day is a day of somebody's that comes back each year.
type Day struct {
	UID     string
	On      dates.Day // Year is 0 where it is not known
	Summary string
	Of      string // its category
	Account string // key, "platform:id"
	Stamp   time.Time
}

// noYear is the year in which days without one begin: a leap year, so that each has its date.
const noYear = 2000

// Writer writes a calendar event by event: it holds none of them.
type Writer struct {
	w     io.Writer
	leap  dates.LeapRule
	alarm time.Duration // before the day; 0 for none
}

// NewWriter begins a calendar of a name. With an alarm each event reminds so long before its day begins.
func NewWriter(w io.Writer, name string, leap dates.LeapRule, alarm time.Duration) (*Writer, error) {
	cal := ical.NewCalendarFor("Vivid Porch")
	cal.SetVersion("2.0")
	cal.SetMethod(ical.MethodPublish)
	cal.SetXWRCalName(name)
	cal.SetRefreshInterval("PT6H")
	head := strings.TrimSuffix(cal.Serialize(ical.WithNewLineWindows), "END:VCALENDAR\r\n")
	_, err := io.WriteString(w, head)
	return &Writer{w, leap, alarm}, err
}

// Write writes one day.
func (w *Writer) Write(d Day) error {
	e := ical.NewEvent(d.UID)
	on := d.On
	if on.Year == 0 {
		on.Year = noYear
	}
	e.SetDtStampTime(d.Stamp)
	first := on.In(on.Year, w.leap).At(time.UTC)
	e.SetAllDayStartAt(first)
	e.SetSummary(d.Summary)
	e.AddCategory(d.Of)
	e.SetTimeTransparency(ical.TransparencyTransparent) // it takes nobody's time
	e.AddProperty("X-PORCH-ACCOUNT", d.Account)
	e.AddRrule(rule(on, w.leap))
	if w.alarm > 0 {
		a := e.AddAlarm()
		a.SetAction(ical.ActionDisplay)
		a.SetProperty(ical.ComponentPropertyDescription, d.Summary)
		a.SetTrigger(fmt.Sprintf("-PT%dM", int(w.alarm/time.Minute)))
	}
	_, err := io.WriteString(w.w, e.Serialize(&ical.SerializationConfiguration{MaxLength: 75, NewLine: "\r\n", PropertyMaxLength: 75}))
	return err
}

// rule is how a day comes back (RFC 5545, section 3.3.10): a date that a year lacks would be left out.
func rule(on dates.Day, leap dates.LeapRule) string {
	switch {
	case on.Month != time.February || on.Day != 29:
		return "FREQ=YEARLY"
	case leap == dates.OnMarch1:
		return "FREQ=YEARLY;BYYEARDAY=60"
	}
	return "FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=-1"
}

// Close ends the calendar.
func (w *Writer) Close() error {
	_, err := io.WriteString(w.w, "END:VCALENDAR\r\n")
	return err
}

// eventMost is how many bytes one event may have.
const eventMost = 64 << 10

// Reader reads the days of people out of a calendar, event by event.
type Reader struct {
	lines    *text.Lines
	platform string
	n        int
}

// NewReader reads a calendar; platform is that of people whom an event names without an account.
func NewReader(r io.Reader, platform string) *Reader {
	return &Reader{lines: text.NewLines(r), platform: platform}
}

// Next returns the next event; io.EOF ends the file. Rows count events from 1.
func (v *Reader) Next() (row.Row, error) {
	raw, why, err := v.event()
	if err != nil {
		return row.Row{}, err
	}
	v.n++
	in := row.Row{N: v.n, Why: why}
	if why != "" {
		return in, nil
	}
	cal, err := ical.ParseCalendar(bytes.NewReader(raw))
	if err != nil || len(cal.Events()) != 1 {
		in.Why = "the event cannot be read: save the calendar anew"
		return in, nil
	}
	v.fill(&in, cal.Events()[0])
	return in, nil
}

// event gathers the lines of the next event into a calendar of its own.
func (v *Reader) event() (raw []byte, why string, err error) {
	var b bytes.Buffer
	inside, size := false, 0
	for {
		l, _, long, err := v.lines.Next()
		if err == io.EOF && inside {
			return nil, "the event has no END:VEVENT", nil
		}
		if err != nil {
			return nil, "", err
		}
		up := strings.ToUpper(string(bytes.TrimSpace(l)))
		if !inside && up != "BEGIN:VEVENT" {
			continue
		}
		if !inside {
			b.WriteString("BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//porch\r\n")
		}
		inside = true
		if size += len(l); long || size > eventMost {
			why = fmt.Sprintf("the event is longer than %d kB", eventMost>>10)
		} else {
			b.Write(l)
			b.WriteString("\r\n")
		}
		if up == "END:VEVENT" {
			b.WriteString("END:VCALENDAR\r\n")
			return b.Bytes(), why, nil
		}
	}
}

// fill reads whose day it is, and which.
func (v *Reader) fill(in *row.Row, e *ical.VEvent) {
	prop := func(name ical.ComponentProperty) string {
		if p := e.GetProperty(name); p != nil {
			return strings.TrimSpace(p.Value)
		}
		return ""
	}
	start := prop(ical.ComponentPropertyDtStart)
	if len(start) > 8 {
		start = start[:8] // the day of a moment, where it stands
	}
	day, err := dates.Parse(start, true)
	if err != nil {
		in.Why = fmt.Sprintf("its beginning %q is no day of the calendar", start)
		return
	}
	name, of := whose(prop(ical.ComponentPropertySummary)), strings.ToUpper(prop(ical.ComponentPropertyCategories))
	in.Name = name
	var a card.Account
	if key := prop("X-PORCH-ACCOUNT"); key != "" {
		a.Platform, a.ID, _ = strings.Cut(key, ":")
		a.Name = name
	} else {
		a.Login = name
	}
	switch {
	case of == Follow:
		at := day.At(time.UTC).Add(12 * time.Hour) // the day is known, and not the hour
		a.Followed = &at
	case of == FirstVisit:
		in.Why = "a first visit is what the house saw itself; it is not brought in"
		return
	default:
		if day.Year == noYear || day.Year > 0 && !ofBirth(e) {
			day.Year = 0
		}
		in.Card.Birthday = &day
	}
	in.Card.Accounts = []card.Account{a}
	if err := in.Card.Fill(v.platform); err != nil {
		in.Why = err.Error()
	}
}

// ofBirth reports whether the year of an event is that of a birth, and not of when it was written down:
// only our own say so, by the account.
func ofBirth(e *ical.VEvent) bool { return e.GetProperty("X-PORCH-ACCOUNT") != nil }

// whose is the name in a summary as calendars of birthdays write it: "limpet_lena's birthday",
// "Birthday: limpet_lena", "limpet_lena (1990)".
func whose(summary string) string {
	s := summary
	if i := strings.LastIndex(s, "("); i > 0 {
		s = s[:i]
	}
	low := strings.ToLower(s)
	for _, cut := range []string{"birthday of ", "birthday: ", "birthday – ", "birthday - "} {
		if strings.HasPrefix(low, cut) {
			return strings.TrimSpace(s[len(cut):])
		}
	}
	for _, cut := range []string{"'s birthday", "’s birthday", "' birthday", "’ birthday", ": birthday", " birthday"} {
		if strings.HasSuffix(strings.TrimSpace(low), cut) {
			s = strings.TrimSpace(s)
			return strings.TrimSpace(s[:len(s)-len(cut)])
		}
	}
	return strings.TrimSpace(s)
}
