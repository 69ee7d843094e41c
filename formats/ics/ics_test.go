package ics_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"os/exec"
	"strings"
	"testing"
	"time"

	"vividporch/core/dates"
	"vividporch/formats/ics"
)

var stamp = time.Date(2031, 5, 14, 19, 0, 0, 0, time.UTC)

func calendar(t testing.TB, leap dates.LeapRule, alarm time.Duration, days ...ics.Day) string {
	t.Helper()
	var b bytes.Buffer
	w, err := ics.NewWriter(&b, "Days of tidepool_hours", leap, alarm)
	if err != nil {
		t.Fatal(err)
	}
	for _, d := range days {
		d.Stamp = stamp
		if err := w.Write(d); err != nil {
			t.Fatal(err)
		}
	}
	if err := w.Close(); err != nil {
		t.Fatal(err)
	}
	return b.String()
}

var odd = ics.Day{UID: "birthday-7@porch", On: dates.Day{Month: time.March, Day: 9}, Of: ics.Birthday, Account: "quayside:8841",
	Summary: "Birthday: " + strings.Repeat("mӧss,y; \\ “mare” 🐙 ", 12)}

func TestLinesFoldAtSeventyFiveOctetsAndEndWithCRLF(t *testing.T) {
	doc := calendar(t, dates.OnFebruary28, 12*time.Hour, odd)
	if strings.Count(doc, "\n") != strings.Count(doc, "\r\n") || !strings.HasSuffix(doc, "END:VCALENDAR\r\n") {
		t.Error("a line does not end with CRLF")
	}
	for _, l := range strings.Split(doc, "\r\n") {
		if len(l) > 75 {
			t.Errorf("%d octets: %s", len(l), l)
		}
		if !strings.HasPrefix(l, " ") && strings.ToValidUTF8(l, "?") != l {
			t.Errorf("a character is cut: %q", l)
		}
	}
}

// A second reader, of somebody else's making, has the last word.
const reads = `
import sys, json, icalendar
from dateutil.rrule import rrulestr
from datetime import datetime
out = []
for e in icalendar.Calendar.from_ical(sys.stdin.buffer.read()).walk('VEVENT'):
    start = e['DTSTART'].dt
    rule = rrulestr(e['RRULE'].to_ical().decode(), dtstart=datetime(start.year, start.month, start.day))
    out.append({"uid": str(e['UID']), "summary": str(e['SUMMARY']), "start": start.isoformat(), "of": e['CATEGORIES'].to_ical().decode(),
        "days": [d.date().isoformat() for d in rule.between(datetime(2096, 1, 1), datetime(2105, 1, 1))], "alarms": len(e.walk('VALARM'))})
print(json.dumps(out))
`

type read struct {
	UID, Summary, Start, Of string
	Days                    []string
	Alarms                  int
}

func secondReader(t *testing.T, doc string) (out []read) {
	t.Helper()
	cmd := exec.Command("/usr/bin/python3", "-c", reads)
	cmd.Stdin = strings.NewReader(doc)
	raw, err := cmd.CombinedOutput()
	if err != nil {
		t.Fatalf("%v: %s", err, raw)
	}
	if err := json.Unmarshal(raw, &out); err != nil {
		t.Fatal(err, string(raw))
	}
	return out
}

func TestAnIndependentReaderReadsWhatWeWrite(t *testing.T) {
	leapDay := ics.Day{UID: "birthday-8@porch", On: dates.Day{Year: 1988, Month: time.February, Day: 29}, Of: ics.Birthday, Summary: "Birthday: whelk_parade", Account: "quayside:9"}
	followed := ics.Day{UID: "follow-7@porch", On: dates.Day{Year: 2029, Month: time.May, Day: 13}, Of: ics.Follow, Summary: "limpet_lena follows", Account: "quayside:8841"}
	got := secondReader(t, calendar(t, dates.OnFebruary28, time.Hour, odd, leapDay, followed))
	if len(got) != 3 || got[0].Summary != odd.Summary || got[0].Start != "2000-03-09" || got[0].UID != odd.UID || got[0].Alarms != 1 {
		t.Fatalf("%+v", got)
	}
	if days := fmt.Sprint(got[1].Days); days != "[2096-02-29 2097-02-28 2098-02-28 2099-02-28 2100-02-28 2101-02-28 2102-02-28 2103-02-28 2104-02-29]" {
		t.Error(days)
	}
	if got[2].Start != "2029-05-13" || got[2].Of != ics.Follow || len(got[2].Days) != 9 {
		t.Errorf("%+v", got[2])
	}
	march := secondReader(t, calendar(t, dates.OnMarch1, 0, leapDay))
	if days := fmt.Sprint(march[0].Days); days != "[2096-02-29 2097-03-01 2098-03-01 2099-03-01 2100-03-01 2101-03-01 2102-03-01 2103-03-01 2104-02-29]" || march[0].Alarms != 0 {
		t.Error(days)
	}
}

func TestWhatWeWroteComesBackIn(t *testing.T) {
	days := []ics.Day{odd, {UID: "b", On: dates.Day{Year: 1988, Month: time.February, Day: 29}, Of: ics.Birthday, Summary: "Birthday: whelk_parade", Account: "quayside:9"},
		{UID: "f", On: dates.Day{Year: 2029, Month: time.May, Day: 13}, Of: ics.Follow, Summary: "limpet_lena follows", Account: "quayside:8841"},
		{UID: "v", On: dates.Day{Year: 2029, Month: time.May, Day: 13}, Of: ics.FirstVisit, Summary: "limpet_lena first came", Account: "quayside:8841"}}
	r := ics.NewReader(strings.NewReader(calendar(t, dates.OnFebruary28, time.Hour, days...)), "")
	var got []string
	for {
		in, err := r.Next()
		if err == io.EOF {
			break
		}
		if err != nil {
			t.Fatal(err)
		}
		switch c := in.Card; {
		case in.Why != "":
			got = append(got, in.Why)
		case c.Birthday != nil:
			got = append(got, c.Accounts[0].Key()+" born "+c.Birthday.String())
		default:
			got = append(got, c.Accounts[0].Key()+" followed "+c.Accounts[0].Followed.Format(time.DateOnly))
		}
	}
	want := "quayside:8841 born --03-09 | quayside:9 born 1988-02-29 | quayside:8841 followed 2029-05-13 | a first visit is what the house saw itself; it is not brought in"
	if s := strings.Join(got, " | "); s != want {
		t.Errorf("got  %s\nwant %s", s, want)
	}
}

func TestBirthdaysOfOtherCalendarsAreReadByTheirNames(t *testing.T) {
	event := func(summary, start string) string {
		return "BEGIN:VEVENT\r\nUID:x\r\nDTSTAMP:20310514T190000Z\r\nSUMMARY:" + summary + "\r\nDTSTART" + start + "\r\nRRULE:FREQ=YEARLY\r\nEND:VEVENT\r\n"
	}
	doc := "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:x\r\n" + event("kelpwright's birthday", ";VALUE=DATE:19900309") + event("Birthday: mossy_mare (1988)", ";VALUE=DATE:20240229") +
		event("saltpan_pip", ":20260101T000000Z") + event("nobody", ";VALUE=DATE:20260231") + "BEGIN:VEVENT\r\nSUMMARY:cut off"
	r := ics.NewReader(strings.NewReader(doc), "quayside")
	var got []string
	for {
		in, err := r.Next()
		if err == io.EOF {
			break
		}
		if in.Why != "" {
			got = append(got, in.Why)
			continue
		}
		got = append(got, in.Card.Accounts[0].Login+" "+in.Card.Birthday.String())
	}
	want := `kelpwright --03-09 | mossy_mare --02-29 | saltpan_pip --01-01 | its beginning "20260231" is no day of the calendar | the event has no END:VEVENT`
	if s := strings.Join(got, " | "); s != want {
		t.Errorf("got  %s\nwant %s", s, want)
	}
}

func TestAHundredThousandDaysAreWrittenAsTheyCome(t *testing.T) {
	w, err := ics.NewWriter(io.Discard, "many", dates.OnFebruary28, 0)
	if err != nil {
		t.Fatal(err)
	}
	if allocs := testing.AllocsPerRun(200, func() { _ = w.Write(odd) }); allocs > 400 {
		t.Errorf("%.0f allocations a day", allocs)
	}
}

func FuzzACalendarIsReadOrItsEventsAreRefused(f *testing.F) {
	f.Add(calendar(f, dates.OnFebruary28, time.Hour, odd))
	f.Add("BEGIN:VEVENT\nDTSTART:2031\nEND:VEVENT")
	f.Fuzz(func(t *testing.T, doc string) {
		r := ics.NewReader(strings.NewReader(doc), "quayside")
		for range 100 {
			in, err := r.Next()
			if err != nil {
				return
			}
			if in.Why == "" && (len(in.Card.Accounts) != 1 || in.Card.Birthday == nil && in.Card.Accounts[0].Followed == nil) {
				t.Fatalf("%+v", in)
			}
		}
	})
}
