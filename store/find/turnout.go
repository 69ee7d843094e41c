package find

import (
	"context"
	"database/sql"
	"encoding/json"
	"slices"

	"vividporch/store/pg"
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
	rows, err := s.SQL.QueryContext(ctx, `SELECT stream, doc FROM turnouts t WHERE channel = $1 AND stream = ANY($2::int[])
		AND NOT EXISTS (SELECT 1 FROM turnout_marks m WHERE m.channel = t.channel AND m.stream = t.stream)`, channel, streams)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := map[int]counted{}
	for rows.Next() {
		var stream int
		var doc []byte
		var c counted
		if err := rows.Scan(&stream, &doc); err != nil {
			return nil, err
		}
		if err := json.Unmarshal(doc, &c); err != nil {
			return nil, err
		}
		out[stream] = c
	}
	if err := rows.Err(); err != nil {
		return nil, err
	}
	stale := slices.DeleteFunc(slices.Compact(slices.Sorted(slices.Values(streams))), func(n int) bool { _, good := out[n]; return good })
	for some := range slices.Chunk(stale, atOnce) { // what is counted stands, also when nobody waits for the rest
		if err := s.recount(ctx, channel, some, out); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// seen is what was there in counting a stream: a count from before, and marks of what changed since.
type seen struct {
	counted bool
	marks   []int64
}

// recount counts streams and keeps what comes of it. What is counted is of one moment, and so are the marks that were seen
// then: a change after it leaves one of its own.
func (s *Find) recount(ctx context.Context, channel int64, streams []int, into map[int]counted) error {
	tx, err := s.SQL.BeginTx(ctx, &sql.TxOptions{Isolation: sql.LevelRepeatableRead, ReadOnly: true})
	if err != nil {
		return err
	}
	defer tx.Rollback()
	was := map[int]seen{}
	rows, err := tx.QueryContext(ctx, `SELECT s, EXISTS (SELECT 1 FROM turnouts t WHERE t.channel = $1 AND t.stream = s), (SELECT coalesce(json_agg(id), '[]') FROM turnout_marks m WHERE m.channel = $1 AND m.stream = s)
		FROM unnest($2::int[]) AS s`, channel, streams)
	if err != nil {
		return err
	}
	defer rows.Close()
	for rows.Next() {
		var stream int
		var marks []byte
		var w seen
		if err := rows.Scan(&stream, &w.counted, &marks); err != nil {
			return err
		}
		if err := json.Unmarshal(marks, &w.marks); err != nil {
			return err
		}
		was[stream] = w
	}
	if err := rows.Err(); err != nil {
		return err
	}
	fresh, err := count(ctx, tx, channel, streams)
	if err != nil {
		return err
	}
	for _, stream := range streams {
		into[stream] = fresh[stream]
		if err := s.keepCount(ctx, channel, stream, fresh[stream], was[stream]); err != nil {
			return err
		}
	}
	return nil
}

// keepCount keeps what was counted, unless somebody else counted meanwhile: who of the two looked later nobody knows.
func (s *Find) keepCount(ctx context.Context, channel int64, stream int, c counted, was seen) error {
	doc, err := json.Marshal(c)
	if err != nil {
		return err
	}
	tx, err := s.SQL.BeginTx(ctx, nil)
	if err != nil {
		return err
	}
	defer tx.Rollback()
	if len(was.marks) > 0 {
		res, err := tx.ExecContext(ctx, `DELETE FROM turnout_marks WHERE id = ANY($1::bigint[])`, was.marks)
		if err != nil {
			return err
		}
		if n, err := res.RowsAffected(); err != nil || n != int64(len(was.marks)) {
			return err
		}
		_, err = tx.ExecContext(ctx, `INSERT INTO turnouts (channel, stream, doc) VALUES ($1, $2, $3) ON CONFLICT (channel, stream) DO UPDATE SET doc = excluded.doc`, channel, stream, string(doc))
		if err != nil {
			return err
		}
	} else if !was.counted {
		if _, err := tx.ExecContext(ctx, `INSERT INTO turnouts (channel, stream, doc) VALUES ($1, $2, $3) ON CONFLICT DO NOTHING`, channel, stream, string(doc)); err != nil {
			return err
		}
	}
	return tx.Commit()
}

// atOnce is how many streams are counted together.
const atOnce = 5

// count counts who came to streams, of the visits themselves.
func count(ctx context.Context, q pg.Queryer, channel int64, streams []int) (map[int]counted, error) {
	rows, err := q.QueryContext(ctx, `WITH v AS MATERIALIZED (SELECT v.stream, a.person, a.platform, sum(v.lines) AS lines FROM visits v JOIN accounts a ON a.channel = v.channel AND a.key = v.key
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
