package log

import (
	"context"

	"vividporch/core/attendance"
	"vividporch/core/command"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/whatif"
)

// Swell is how one stream swelled and ebbed: lines by people and first lines in each part of
// its length, and how often each command was asked for.
type Swell struct {
	Lines, Arrivals [whatif.Parts]int
	Asked           map[string]int // by courtesy
	Standing        map[string]int // of those who arrived
}

// SwellOf reads it.
func (s *Log) SwellOf(ctx context.Context, channel int64, p attendance.Past) (out Swell, err error) {
	from, err := s.SeqAt(ctx, channel, p.Opened)
	if err != nil {
		return out, err
	}
	to, err := s.SeqAt(ctx, channel, p.Closed)
	if err != nil {
		return out, err
	}
	length := max(1, p.Closed.Sub(p.Opened).Seconds())
	for _, q := range []struct {
		sql  string
		into *[whatif.Parts]int
	}{
		{`SELECT floor($6 * extract(epoch FROM time - $4) / $5)::int AS part, count(*) FROM events WHERE channel = $1 AND seq >= $2 AND seq < $3 AND type = '` + happening.ChatSaidType + `' GROUP BY 1`, &out.Lines},
		{`SELECT floor($6 * extract(epoch FROM e.time - $4) / $5)::int AS part, count(*) FROM decisions d JOIN events e ON e.channel = d.channel AND e.seq = d.seq
			WHERE d.channel = $1 AND d.seq >= $2 AND d.seq < $3 AND d.kind = 'arrive' GROUP BY 1`, &out.Arrivals},
	} {
		rows, err := s.SQL.QueryContext(ctx, q.sql, channel, from, to, p.Opened, length, whatif.Parts)
		if err != nil {
			return out, err
		}
		for rows.Next() {
			var part, n int
			if err := rows.Scan(&part, &n); err != nil {
				rows.Close()
				return out, err
			}
			if part >= 0 && part < whatif.Parts {
				q.into[part] += n
			}
		}
		if err := rows.Err(); err != nil {
			return out, err
		}
		rows.Close()
	}
	for _, q := range []struct {
		sql  string
		kind string
		into *map[string]int
	}{
		{`SELECT courtesy, count(*) FROM decisions WHERE channel = $1 AND seq >= $2 AND seq < $3 AND kind = $4 GROUP BY 1`, string(command.Asked), &out.Asked},
		{`SELECT coalesce(body->>'standing', ''), count(*) FROM decisions WHERE channel = $1 AND seq >= $2 AND seq < $3 AND kind = $4 GROUP BY 1`, string(hall.Arrive), &out.Standing},
	} {
		if *q.into, err = s.counted(ctx, q.sql, channel, from, to, q.kind); err != nil {
			return out, err
		}
	}
	return out, nil
}

// counted reads names with their counts.
func (s *Log) counted(ctx context.Context, sql string, args ...any) (map[string]int, error) {
	rows, err := s.SQL.QueryContext(ctx, sql, args...)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := map[string]int{}
	for rows.Next() {
		var name string
		var n int
		if err := rows.Scan(&name, &n); err != nil {
			return nil, err
		}
		out[name] = n
	}
	return out, rows.Err()
}
