// Package chatlog reads old chat logs: plain text with a time and a name in each
// line, or JSON Lines with a time and who spoke. Whoever spoke becomes a person, and
// the streams are told apart by the silence between them.
package chatlog

import (
	"encoding/json"
	"fmt"
	"io"
	"regexp"
	"slices"
	"sort"
	"strings"
	"time"

	"vividporch/core/attendance"
	"vividporch/core/card"
	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/people"
	"vividporch/formats/row"
	"vividporch/formats/text"
)

// Log is what was understood of a file.
type Log struct {
	Streams []attendance.Past // numbered from 1 in the file
	Lines   int               // understood
	Missed  int               // not understood
	Firsts  []string          // the first few lines that were not, with their numbers
	people  map[string]*speaker
}

type speaker struct {
	p      event.Person
	visits map[int]*card.Visit
}

// Line is one line of a log.
type Line struct {
	At   time.Time
	Who  event.Person
	Text string
}

// plain finds time and name in a line of text: "[2031-05-14 19:02:11] <limpet_lena> hello",
// "2031-05-14T19:02:11Z limpet_lena: hello", "14.05.2031 19:02 limpet_lena: hello".
var plain = regexp.MustCompile(`^\W{0,2}(\d{4}-\d{2}-\d{2}|\d{1,2}[./]\d{1,2}[./]\d{4})[T ,]+(\d{1,2}:\d{2}(?::\d{2})?(?:\.\d+)?)\s*(Z|[+-]\d{2}:?\d{2})?\W{0,3}?[ \t\]>-]*[<@(]*([^\s<>:()@]{1,60})[>)]?:?\s+(.*)$`)

// mostMissed is how many lines that were not understood are shown.
const mostMissed = 10

// Read reads a whole log. Times without a zone are in zone. Lines may be in any
// order; who spoke is kept, not what they said.
func Read(r io.Reader, platform string, zone *time.Location) (*Log, error) {
	l := &Log{people: map[string]*speaker{}}
	src := text.NewLines(r)
	type spoken struct {
		at  time.Time
		who string
	}
	var all []spoken
	for {
		raw, n, long, err := src.Next()
		if err == io.EOF {
			break
		}
		if err != nil {
			return nil, err
		}
		if strings.TrimSpace(string(raw)) == "" {
			continue
		}
		line, ok := Parse(string(raw), zone)
		if !ok || long {
			l.Missed++
			if len(l.Firsts) < mostMissed {
				s := []rune(string(raw))
				l.Firsts = append(l.Firsts, fmt.Sprintf("line %d: %s", n, string(s[:min(len(s), 80)])))
			}
			continue
		}
		l.Lines++
		if line.Who.Platform == "" {
			line.Who.Platform = platform
		}
		key := line.Who.Platform + ":" + line.Who.ID
		if line.Who.ID == "" {
			key = line.Who.Platform + ":" + people.Provisional + strings.ToLower(line.Who.Login)
		}
		if l.people[key] == nil {
			l.people[key] = &speaker{p: line.Who, visits: map[int]*card.Visit{}}
		}
		all = append(all, spoken{line.At, key})
	}
	sort.SliceStable(all, func(i, j int) bool { return all[i].at.Before(all[j].at) })
	var periods attendance.Periods
	for _, s := range all {
		n := periods.At(s.at)
		v := l.people[s.who].visits[n]
		if v == nil {
			v = &card.Visit{Stream: n, First: s.at}
			l.people[s.who].visits[n] = v
		}
		v.Last = s.at
		v.Lines++
	}
	l.Streams = periods.List
	return l, nil
}

// Parse understands one line.
func Parse(s string, zone *time.Location) (Line, bool) {
	if strings.HasPrefix(strings.TrimSpace(s), "{") {
		return parseJSON(s)
	}
	m := plain.FindStringSubmatch(s)
	if m == nil {
		return Line{}, false
	}
	day := m[1]
	if day[4] != '-' {
		p := strings.FieldsFunc(day, func(r rune) bool { return r == '.' || r == '/' })
		day = fmt.Sprintf("%s-%02s-%02s", p[2], p[1], p[0])
	}
	clock := m[2]
	if strings.Count(clock, ":") == 1 {
		clock += ":00"
	}
	if clock[1] == ':' {
		clock = "0" + clock
	}
	at, err := time.ParseInLocation("2006-01-02 15:04:05.999999999", day+" "+clock, zone)
	if m[3] != "" {
		off := m[3]
		if len(off) == 5 {
			off = off[:3] + ":" + off[3:]
		}
		at, err = time.Parse("2006-01-02 15:04:05.999999999Z07:00", day+" "+clock+off)
	}
	login := strings.Trim(m[4], "@+%~&*:,")
	if err != nil || login == "" {
		return Line{}, false
	}
	return Line{At: at.UTC(), Who: event.Person{Login: login}, Text: m[5]}, true
}

// parseJSON understands a line of JSON: an event of the contract, or an object with
// a time and a name under any of the usual keys.
func parseJSON(s string) (Line, bool) {
	if ev, err := happening.Kinds.Parse([]byte(s)); err == nil {
		if d, ok := ev.Data.(*happening.ChatSaid); ok && !ev.Time.IsZero() {
			return Line{At: ev.Time.UTC(), Who: d.Person, Text: d.Text}, true
		}
		return Line{}, false
	}
	var o map[string]any
	if json.Unmarshal([]byte(s), &o) != nil {
		return Line{}, false
	}
	pick := func(keys ...string) string {
		for _, k := range keys {
			switch v := o[k].(type) {
			case string:
				if v != "" {
					return v
				}
			case float64:
				return fmt.Sprintf("%.0f", v)
			}
		}
		return ""
	}
	l := Line{Who: event.Person{Platform: strings.ToLower(pick("platform", "site")), ID: pick("id", "userId", "user_id", "accountId"), Login: pick("login", "user", "username", "nick", "handle", "author", "from"),
		Name: pick("name", "displayName", "display_name")}, Text: pick("text", "message", "msg", "body")}
	when := pick("time", "timestamp", "at", "date", "created_at", "sent")
	at, err := time.Parse(time.RFC3339Nano, when)
	if err != nil {
		var sec int64
		if _, scan := fmt.Sscanf(when, "%d", &sec); scan != nil || sec <= 0 {
			return Line{}, false
		}
		if at = time.Unix(sec, 0); sec > 1e11 {
			at = time.UnixMilli(sec)
		}
	}
	l.At = at.UTC()
	if l.Who.Login == "" {
		l.Who.Login = l.Who.Name
	}
	return l, l.Who.Login != "" || l.Who.ID != ""
}

// Source hands out the people of the log, one a row, in the order of their logins.
func (l *Log) Source() func() (row.Row, error) {
	var keys []string
	for k := range l.people {
		keys = append(keys, k)
	}
	slices.Sort(keys)
	i := 0
	return func() (row.Row, error) {
		if i == len(keys) {
			return row.Row{}, io.EOF
		}
		sp := l.people[keys[i]]
		i++
		a := card.Account{Person: sp.p}
		for _, v := range sp.visits {
			a.Visits = append(a.Visits, *v)
		}
		slices.SortFunc(a.Visits, func(x, y card.Visit) int { return x.Stream - y.Stream })
		in := row.Row{N: i, Name: sp.p.Shown(), Card: card.Card{Accounts: []card.Account{a}}}
		if err := in.Card.Fill(""); err != nil {
			in.Why = err.Error()
		}
		return in, nil
	}
}
