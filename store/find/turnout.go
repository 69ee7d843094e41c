package find

import (
	"context"
	"encoding/json"
)

// Turnout is what the guest book has of one stream, over all platforms: a person with two
// accounts is one. It stays true when people are merged or parted, and when events come late.
type Turnout struct {
	Stream    int
	People    int
	New       int // who were never seen before it
	Lines     int64
	Given     int            // subscriptions, gifts, tips, credits, sales
	Brought   int64          // by raids
	Took      int64          // by our raids
	Raids     []int64        // those that came, by how many they brought
	Platforms map[string]int // people who spoke there
}

// Turnouts are those of some streams, in the order of their numbers.
func (s *Find) Turnouts(ctx context.Context, channel int64, streams []int) ([]Turnout, error) {
	rows, err := s.SQL.QueryContext(ctx, `WITH v AS MATERIALIZED (SELECT v.stream, a.person, a.platform, v.lines FROM visits v JOIN accounts a ON a.channel = v.channel AND a.key = v.key WHERE v.channel = $1 AND v.stream = ANY($2::int[]))
		SELECT s.number,
			(SELECT count(DISTINCT person) FROM v WHERE v.stream = s.number),
			(SELECT count(DISTINCT v.person) FROM v JOIN people p ON p.channel = $1 AND p.id = v.person AND p.first_stream = s.number WHERE v.stream = s.number),
			(SELECT coalesce(sum(lines), 0) FROM v WHERE v.stream = s.number),
			(SELECT count(*) FROM supports g WHERE g.channel = $1 AND g.stream = s.number),
			(SELECT coalesce(sum(viewers) FILTER (WHERE way = 'came'), 0) FROM raids r WHERE r.channel = $1 AND r.stream = s.number),
			(SELECT coalesce(sum(viewers) FILTER (WHERE way = 'went'), 0) FROM raids r WHERE r.channel = $1 AND r.stream = s.number),
			(SELECT coalesce(json_agg(viewers ORDER BY at) FILTER (WHERE way = 'came'), '[]') FROM raids r WHERE r.channel = $1 AND r.stream = s.number),
			(SELECT coalesce(json_object_agg(platform, n), '{}') FROM (SELECT platform, count(DISTINCT person) AS n FROM v WHERE v.stream = s.number GROUP BY platform) p)
		FROM streams s WHERE s.channel = $1 AND s.number = ANY($2::int[]) ORDER BY s.number`, channel, streams)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []Turnout
	for rows.Next() {
		var t Turnout
		var raids, platforms []byte
		if err := rows.Scan(&t.Stream, &t.People, &t.New, &t.Lines, &t.Given, &t.Brought, &t.Took, &raids, &platforms); err != nil {
			return nil, err
		}
		if err := json.Unmarshal(raids, &t.Raids); err != nil {
			return nil, err
		}
		if err := json.Unmarshal(platforms, &t.Platforms); err != nil {
			return nil, err
		}
		out = append(out, t)
	}
	return out, rows.Err()
}
