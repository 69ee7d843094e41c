package find

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"vividporch/core/attendance"
	"vividporch/core/people"
)

// Came is somebody who came to a stream, as the guest book has them now.
type Came struct {
	Person      int64
	Name        string // "" of somebody who was forgotten
	Account     string // one of theirs
	Lines       int64  // in that stream
	First       time.Time
	Attended    int
	FirstStream int
	WithRaid    int64 // number of the raid they came with, the first time
	Follows     bool
	Birthday    bool
}

// Who came to a stream: of whom it is asked.
type WhoCame string

// Whom can be asked for.
const (
	Everybody WhoCame = "everybody"
	New       WhoCame = "new"      // never before
	Returned  WhoCame = "returned" // new in one of the five streams before, and here again for the first time
)

// cameSQL begins with whom it is about where few are: a stream may have many thousands of visits.
const cameSQL = `WITH p AS %s (SELECT * FROM people WHERE channel = $1 AND root = id AND %s)
	SELECT p.id, p.name, min(v.key), sum(v.lines), min(v.first), p.attended, p.first_stream, p.with_raid, p.followed IS NOT NULL, p.birth_month > 0
	FROM p JOIN accounts a ON a.channel = p.channel AND a.person = p.id JOIN visits v ON v.channel = a.channel AND v.key = a.key AND v.stream = $2
	GROUP BY p.id, p.name, p.attended, p.first_stream, p.with_raid, p.followed, p.birth_month ORDER BY sum(v.lines) DESC, p.id LIMIT $3`

// newBefore holds for those who were new in one of the streams before a stream from which coming back counts.
var newBefore = fmt.Sprintf("first_stream BETWEEN greatest(1, $2 - %d) AND $2 - 1", attendance.ReturnWithin)

// CameTo lists who came to a stream, those who said most first.
func (s *Find) CameTo(ctx context.Context, channel int64, stream int, who WhoCame, most int) ([]Came, error) {
	switch who {
	case Everybody:
		return s.came(ctx, fmt.Sprintf(cameSQL, "NOT MATERIALIZED", "true"), channel, stream, most)
	case New:
		return s.came(ctx, fmt.Sprintf(cameSQL, "MATERIALIZED", "first_stream = $2"), channel, stream, most)
	case Returned:
		return s.came(ctx, fmt.Sprintf(cameSQL, "MATERIALIZED", "second_stream = $2 AND "+newBefore), channel, stream, most)
	}
	return nil, fmt.Errorf("store: there is no %q among those who came", who)
}

// OfThem finds people by accounts or by numbers, as they came to a stream; whoever did not come has no lines.
func (s *Find) OfThem(ctx context.Context, channel int64, stream int, accounts []string, persons []int64, most int) ([]Came, error) {
	return s.came(ctx, `SELECT p.id, p.name, min(a.key), coalesce(sum(v.lines), 0), coalesce(min(v.first), 'epoch'), p.attended, p.first_stream, p.with_raid, p.followed IS NOT NULL, p.birth_month > 0
		FROM people p JOIN accounts a ON a.channel = p.channel AND a.person = p.id LEFT JOIN visits v ON v.channel = a.channel AND v.key = a.key AND v.stream = $2
		WHERE p.channel = $1 AND (p.id = ANY($5::bigint[]) OR p.id IN (SELECT person FROM accounts WHERE channel = $1 AND key = ANY($4::text[])))
		GROUP BY p.id, p.name, p.attended, p.first_stream, p.with_raid, p.followed, p.birth_month ORDER BY coalesce(sum(v.lines), 0) DESC, p.id LIMIT $3`, channel, stream, most, accounts, persons)
}

func (s *Find) came(ctx context.Context, sql string, args ...any) ([]Came, error) {
	rows, err := s.SQL.QueryContext(ctx, sql, args...)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := []Came{}
	for rows.Next() {
		var c Came
		if err := rows.Scan(&c.Person, &c.Name, &c.Account, &c.Lines, &c.First, &c.Attended, &c.FirstStream, &c.WithRaid, &c.Follows, &c.Birthday); err != nil {
			return nil, err
		}
		out = append(out, c)
	}
	return out, rows.Err()
}

// EarlierNew is how many were new in the five streams before one.
func (s *Find) EarlierNew(ctx context.Context, channel int64, stream int) (n int, err error) {
	return n, s.SQL.QueryRowContext(ctx, `SELECT count(*) FROM people WHERE channel = $1 AND root = id AND `+newBefore, channel, stream).Scan(&n)
}

// Gift is something that was given in a stream.
type Gift struct {
	Kind, Name, Amount, Currency, What string
	Count                              int64
	At                                 time.Time
	Account                            string
}

// Gifts are what was given in a stream, in its order.
func (s *Find) Gifts(ctx context.Context, channel int64, stream, most int) ([]Gift, error) {
	rows, err := s.SQL.QueryContext(ctx, `SELECT g.kind, coalesce(p.name, ''), g.amount::text, g.currency, g.what, g.count, g.at, g.key FROM supports g
		LEFT JOIN accounts a ON a.channel = g.channel AND a.key = g.key LEFT JOIN people p ON p.channel = a.channel AND p.id = a.person
		WHERE g.channel = $1 AND g.stream = $2 ORDER BY g.at, g.seq LIMIT $3`, channel, stream, most)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := []Gift{}
	for rows.Next() {
		var g Gift
		if err := rows.Scan(&g.Kind, &g.Name, &g.Amount, &g.Currency, &g.What, &g.Count, &g.At, &g.Account); err != nil {
			return nil, err
		}
		out = append(out, g)
	}
	return out, rows.Err()
}

// Given is what was given in a stream, of one kind: how often, and the sums by currency, "12.50 EUR".
type Given struct {
	Kind  string
	Count int
	Sums  []string
}

// Given are all kinds of what was given in a stream.
func (s *Find) Given(ctx context.Context, channel int64, stream int) ([]Given, error) {
	rows, err := s.SQL.QueryContext(ctx, `SELECT kind, sum(n)::int, coalesce(json_agg(round(amount, 2)::text || ' ' || currency ORDER BY currency) FILTER (WHERE currency <> ''), '[]')
		FROM (SELECT kind, currency, count(*) AS n, sum(amount) AS amount FROM supports WHERE channel = $1 AND stream = $2 GROUP BY kind, currency) g GROUP BY kind ORDER BY kind`, channel, stream)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []Given
	for rows.Next() {
		var g Given
		var sums []byte
		if err := rows.Scan(&g.Kind, &g.Count, &sums); err != nil {
			return nil, err
		}
		if err := json.Unmarshal(sums, &g.Sums); err != nil {
			return nil, err
		}
		out = append(out, g)
	}
	return out, rows.Err()
}

// RaidOf is a raid of a stream, either way, and what became of the newcomers it brought.
type RaidOf struct {
	Name      string
	Account   string
	Viewers   int64
	Way       string // "came" or "went"
	At        time.Time
	Thanked   bool
	Newcomers int
	Returned  int // who were seen again since
}

// RaidsOf are the raids of a stream.
func (s *Find) RaidsOf(ctx context.Context, channel int64, stream int) ([]RaidOf, error) {
	rows, err := s.SQL.QueryContext(ctx, `SELECT coalesce(p.name, ''), r.key, r.viewers, r.way, r.at, r.thanked,
			(SELECT count(*) FROM people n WHERE n.channel = r.channel AND n.first_stream = r.stream AND n.with_raid = r.seq AND n.root = n.id),
			(SELECT count(*) FROM people n WHERE n.channel = r.channel AND n.first_stream = r.stream AND n.with_raid = r.seq AND n.root = n.id AND n.second_stream > 0)
		FROM raids r LEFT JOIN accounts a ON a.channel = r.channel AND a.key = r.key LEFT JOIN people p ON p.channel = a.channel AND p.id = a.person
		WHERE r.channel = $1 AND r.stream = $2 ORDER BY r.at LIMIT 200`, channel, stream)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := []RaidOf{}
	for rows.Next() {
		var r RaidOf
		if err := rows.Scan(&r.Name, &r.Account, &r.Viewers, &r.Way, &r.At, &r.Thanked, &r.Newcomers, &r.Returned); err != nil {
			return nil, err
		}
		out = append(out, r)
	}
	return out, rows.Err()
}

// RaidersOf are the names of whose raids people came with, by the raids' numbers.
func (s *Find) RaidersOf(ctx context.Context, channel int64, list []Came) (map[int64]string, error) {
	var seqs []int64
	for _, c := range list {
		if c.WithRaid != 0 {
			seqs = append(seqs, c.WithRaid)
		}
	}
	out := map[int64]string{}
	if len(seqs) == 0 {
		return out, nil
	}
	rows, err := s.SQL.QueryContext(ctx, `SELECT r.seq, coalesce(p.name, '') FROM raids r LEFT JOIN accounts a ON a.channel = r.channel AND a.key = r.key LEFT JOIN people p ON p.channel = a.channel AND p.id = a.person
		WHERE r.channel = $1 AND r.seq = ANY($2::bigint[])`, channel, seqs)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	for rows.Next() {
		var seq int64
		var name string
		if err := rows.Scan(&seq, &name); err != nil {
			return nil, err
		}
		out[seq] = name
	}
	return out, rows.Err()
}

// RegularsAt is how many of those who came to streams were regulars already by some rules. streams are in the order of their numbers.
// Whose mask holds too few of the last 64 streams need not be looked at visit by visit.
func (s *Find) RegularsAt(ctx context.Context, channel int64, streams []int, rules people.Rules) (map[int]int, error) {
	if len(streams) == 0 {
		return map[int]int{}, nil
	}
	rows, err := s.SQL.QueryContext(ctx, `WITH p AS MATERIALIZED (SELECT id FROM people WHERE channel = $1 AND root = id AND mask_at >= $2 AND (bit_count(mask_bits::bit(64)) > $5::int OR mask_at - 63 > $2 - $4::int)),
		v AS MATERIALIZED (SELECT DISTINCT v.stream, p.id AS person FROM p JOIN accounts a ON a.channel = $1 AND a.person = p.id JOIN visits v ON v.channel = a.channel AND v.key = a.key WHERE v.stream BETWEEN $2 - $4::int AND $3),
		n AS (SELECT stream, count(*) OVER (PARTITION BY person ORDER BY stream RANGE BETWEEN $4::int PRECEDING AND 1 PRECEDING) AS before FROM v)
		SELECT stream, count(*) FROM n WHERE before >= $5::int AND stream >= $2 GROUP BY stream`, channel, streams[0], streams[len(streams)-1], rules.RegularOf, rules.RegularAttended)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := map[int]int{}
	for rows.Next() {
		var stream, n int
		if err := rows.Scan(&stream, &n); err != nil {
			return nil, err
		}
		out[stream] = n
	}
	return out, rows.Err()
}

// HouseLine is what the house said, or did not.
type HouseLine struct {
	At                      time.Time
	Courtesy, To, Text, Why string
}

// HouseLines are what the house said between two moments; with dropped, what was to be said and was given up.
func (s *Find) HouseLines(ctx context.Context, channel int64, from, to time.Time, dropped bool, most int) ([]HouseLine, error) {
	kind := "say"
	if dropped {
		kind = "drop"
	}
	rows, err := s.SQL.QueryContext(ctx, `SELECT e.logged, d.courtesy, coalesce(d.body->>'platform', ''), coalesce(d.body->>'text', ''), coalesce(d.body->'because'->>-1, '') FROM events e
		JOIN decisions d ON d.channel = e.channel AND d.seq = e.seq AND d.kind = $4
		WHERE e.channel = $1 AND e.logged >= $2 AND e.logged <= $3 ORDER BY e.seq, d.n LIMIT $5`, channel, from, to, kind, most)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := []HouseLine{}
	for rows.Next() {
		var l HouseLine
		if err := rows.Scan(&l.At, &l.Courtesy, &l.To, &l.Text, &l.Why); err != nil {
			return nil, err
		}
		out = append(out, l)
	}
	return out, rows.Err()
}
