package find

import (
	"context"
	"fmt"
	"strings"

	"vividporch/core/occasion"
	"vividporch/core/people"
	"vividporch/core/who"
	"vividporch/store/record"
)

// Meant counts the people of the guest book that a who is about, and those of them
// who were here at one of the last streams. From countMost on it stops counting.
// What depends on the evening (days, hours, raiders, fields of a happening) is taken
// to hold, and AtMost says so.
type Meant struct {
	People, Lately int
	More           bool // there are more than People
	AtMost         bool
}

// lateStreams is how many streams back somebody was here lately.
const lateStreams = 10

// CountWho counts whom a who is about.
func (s *Find) CountWho(ctx context.Context, channel int64, w *who.Who) (m Meant, err error) {
	q := whoQuery{args: []any{channel, lateStreams - 1}}
	where := q.who(w, true)
	row := s.SQL.QueryRowContext(ctx, fmt.Sprintf(`
		WITH since AS (SELECT coalesce((SELECT opened FROM streams WHERE channel = $1 ORDER BY number DESC OFFSET $2 LIMIT 1), '-infinity'::timestamptz) AS at)
		SELECT count(*), count(*) FILTER (WHERE m.last_seen >= (SELECT at FROM since))
		FROM (SELECT p.last_seen FROM people p WHERE p.channel = $1 AND p.listed AND %s LIMIT %d) m`, where, countMost+1), q.args...)
	if err := row.Scan(&m.People, &m.Lately); err != nil {
		return m, fmt.Errorf("store: counting people: %w", err)
	}
	m.AtMost = q.unsure
	if m.More = m.People > countMost; m.More {
		m.People = countMost
	}
	return m, nil
}

// whoQuery turns a who into SQL over people p.
type whoQuery struct {
	args   []any
	unsure bool // something depends on the evening
}

func (q *whoQuery) arg(v any) string {
	q.args = append(q.args, v)
	return fmt.Sprintf("$%d", len(q.args))
}

// who is the condition of one who. With most it errs towards holding where the
// evening decides, else towards not holding; within a not that turns round.
func (q *whoQuery) who(w *who.Who, most bool) string {
	parts := []string{"TRUE"}
	if w.Nobody {
		parts = append(parts, "FALSE")
	}
	add := func(format string, args ...any) { parts = append(parts, fmt.Sprintf(format, args...)) }
	if w.Account != "" {
		// Nobody has number -1: it is never NULL, as a not may stand around it, and looked up once.
		add("p.id = coalesce((SELECT person FROM accounts WHERE channel = $1 AND key = %s), -1)", q.arg(w.Account))
	}
	if w.Crews != nil {
		of := q.arg(w.Crews.Of)
		switch w.Crews.In {
		case "any":
			add("p.crews && %s::text[]", of)
		case "one":
			add("(SELECT count(*) FROM unnest(p.crews) k WHERE k = ANY(%s::text[])) = 1", of)
		default:
			add("p.crews @> %s::text[]", of)
		}
	}
	if w.Role != "" {
		meant := []string{string(w.Role)}
		if w.OrAbove {
			meant = meant[:0]
			for _, r := range w.Role.OrAbove() {
				meant = append(meant, string(r))
			}
		}
		of := q.arg(meant)
		add("(p.roles && %s::text[] OR "+record.MemberRole+" = ANY(%s::text[]))", of, of)
	}
	if w.Tag != "" {
		add("EXISTS (SELECT 1 FROM unnest(p.tags) t WHERE lower(t) = lower(%s))", q.arg(w.Tag))
	}
	if w.Trusted {
		add("p.trusted")
	}
	if w.Standing != "" {
		add("p.standing = %s", q.arg(string(w.Standing)))
	}
	if w.Platform != "" {
		add("%s::text = ANY(p.platforms)", q.arg(w.Platform))
	}
	if w.Attended > 0 {
		add("p.attended + 1 >= %s", q.arg(w.Attended)) // the stream they come to counts
	}
	if d := w.Date; d != nil { // whose day it is, the day decides
		add("%s", map[occasion.Kind]string{occasion.Birthday: "p.birth_month > 0 AND NOT p.hide_day", occasion.Follow: "p.followed IS NOT NULL", occasion.FirstVisit: "p.first_seen IS NOT NULL"}[d.Of])
		if parts[len(parts)-1] == "" {
			parts = parts[:len(parts)-1]
		}
		add("%s", q.evening(most))
	}
	switch w.Mark {
	case people.Fellow:
		add("p.fellow")
	case people.Raider:
		add("%s", q.evening(most))
	}
	if len(w.Days) > 0 || w.Hours != nil || w.Since != "" || w.Until != "" || len(w.Fields) > 0 {
		add("%s", q.evening(most))
	}
	for i := range w.All {
		add("%s", q.who(&w.All[i], most))
	}
	var any []string
	for i := range w.Any {
		any = append(any, q.who(&w.Any[i], most))
	}
	if len(any) > 0 {
		add("(%s)", strings.Join(any, " OR "))
	}
	for i := range w.Not {
		add("NOT %s", q.who(&w.Not[i], !most))
	}
	return "(" + strings.Join(parts, " AND ") + ")"
}

func (q *whoQuery) evening(most bool) string {
	q.unsure = true
	if most {
		return "TRUE"
	}
	return "FALSE"
}
