package find

import (
	"context"
	"encoding/json"
	"slices"
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

// counted is what is counted of a stream's visits, which may be many thousands: it is kept until something changes it.
type counted struct {
	People    int            `json:"people"`
	New       int            `json:"new"`
	Lines     int64          `json:"lines"`
	Platforms map[string]int `json:"platforms"`
}

// Turnouts are those of some streams, in the order of their numbers.
func (s *Find) Turnouts(ctx context.Context, channel int64, streams []int) ([]Turnout, error) {
	counts, err := s.counts(ctx, channel, streams)
	if err != nil {
		return nil, err
	}
	rows, err := s.SQL.QueryContext(ctx, `SELECT s.number,
			(SELECT count(*) FROM supports g WHERE g.channel = $1 AND g.stream = s.number),
			(SELECT coalesce(sum(viewers) FILTER (WHERE way = 'came'), 0) FROM raids r WHERE r.channel = $1 AND r.stream = s.number),
			(SELECT coalesce(sum(viewers) FILTER (WHERE way = 'went'), 0) FROM raids r WHERE r.channel = $1 AND r.stream = s.number),
			(SELECT coalesce(json_agg(viewers ORDER BY at) FILTER (WHERE way = 'came'), '[]') FROM raids r WHERE r.channel = $1 AND r.stream = s.number)
		FROM streams s WHERE s.channel = $1 AND s.number = ANY($2::int[]) ORDER BY s.number`, channel, streams)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []Turnout
	for rows.Next() {
		var t Turnout
		var raids []byte
		if err := rows.Scan(&t.Stream, &t.Given, &t.Brought, &t.Took, &raids); err != nil {
			return nil, err
		}
		if err := json.Unmarshal(raids, &t.Raids); err != nil {
			return nil, err
		}
		c := counts[t.Stream]
		t.People, t.New, t.Lines, t.Platforms = c.People, c.New, c.Lines, c.Platforms
		out = append(out, t)
	}
	return out, rows.Err()
}

// counts are what was counted of streams; what is not counted yet, or was changed since, is counted now.
func (s *Find) counts(ctx context.Context, channel int64, streams []int) (map[int]counted, error) {
	// A row for each, before anything is counted: whoever changes a stream meanwhile moves its version on.
	if _, err := s.SQL.ExecContext(ctx, `INSERT INTO turnouts (channel, stream) SELECT $1, u FROM unnest($2::int[]) AS u ORDER BY u ON CONFLICT DO NOTHING`, channel, streams); err != nil {
		return nil, err
	}
	rows, err := s.SQL.QueryContext(ctx, `SELECT stream, version, made = version, coalesce(doc, '{}') FROM turnouts WHERE channel = $1 AND stream = ANY($2::int[])`, channel, streams)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out, versions, stale := map[int]counted{}, map[int]int64{}, []int{}
	for rows.Next() {
		var stream int
		var version int64
		var good bool
		var doc []byte
		if err := rows.Scan(&stream, &version, &good, &doc); err != nil {
			return nil, err
		}
		var c counted
		if versions[stream] = version; !good {
			stale = append(stale, stream)
		} else if err := json.Unmarshal(doc, &c); err != nil {
			return nil, err
		}
		out[stream] = c
	}
	if err := rows.Err(); err != nil || len(stale) == 0 {
		return out, err
	}
	slices.Sort(stale)
	for some := range slices.Chunk(stale, atOnce) { // what is counted stands, also when nobody waits for the rest
		fresh, err := s.count(ctx, channel, some)
		if err != nil {
			return nil, err
		}
		for _, stream := range some {
			out[stream] = fresh[stream]
			doc, err := json.Marshal(fresh[stream])
			if err != nil {
				return nil, err
			}
			if _, err := s.SQL.ExecContext(ctx, `UPDATE turnouts SET made = version, doc = $4 WHERE channel = $1 AND stream = $2 AND version = $3`, channel, stream, versions[stream], string(doc)); err != nil {
				return nil, err
			}
		}
	}
	return out, nil
}

// atOnce is how many streams are counted together.
const atOnce = 5

// count counts who came to streams, of the visits themselves.
func (s *Find) count(ctx context.Context, channel int64, streams []int) (map[int]counted, error) {
	rows, err := s.SQL.QueryContext(ctx, `WITH v AS MATERIALIZED (SELECT v.stream, a.person, a.platform, sum(v.lines) AS lines FROM visits v JOIN accounts a ON a.channel = v.channel AND a.key = v.key
			WHERE v.channel = $1 AND v.stream = ANY($2::int[]) GROUP BY 1, 2, 3),
		w AS (SELECT stream, count(DISTINCT person) AS people, sum(lines) AS lines FROM v GROUP BY stream),
		p AS (SELECT stream, json_object_agg(platform, n) AS platforms FROM (SELECT stream, platform, count(*) AS n FROM v GROUP BY 1, 2) x GROUP BY stream)
		SELECT w.stream, w.people, (SELECT count(*) FROM people x WHERE x.channel = $1 AND x.root = x.id AND x.first_stream = w.stream), w.lines, p.platforms FROM w JOIN p USING (stream)`, channel, streams)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := map[int]counted{}
	for rows.Next() {
		var stream int
		var c counted
		var platforms []byte
		if err := rows.Scan(&stream, &c.People, &c.New, &c.Lines, &platforms); err != nil {
			return nil, err
		}
		if err := json.Unmarshal(platforms, &c.Platforms); err != nil {
			return nil, err
		}
		out[stream] = c
	}
	return out, rows.Err()
}
