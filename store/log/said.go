package log

import (
	"context"
	"encoding/json"
	"time"

	"vividporch/core/hall"
	"vividporch/core/happening"
)

// Said is a line of chat that is kept. Removed is true of one that somebody took out.
type Said struct {
	Seq     int64
	At      time.Time
	Said    happening.ChatSaid
	Removed bool
}

// SaidSince are the lines of chat since a moment whose text is kept, oldest first, the last ones of more than so many.
func (s *Log) SaidSince(ctx context.Context, channel int64, since time.Time, most int) ([]Said, error) {
	rows, err := s.SQL.QueryContext(ctx, `SELECT * FROM (SELECT e.seq, e.time, e.data FROM events e
		WHERE e.channel = $1 AND e.type = 'porch.chat.said' AND e.time >= $2 AND e.data->>'text' <> '' ORDER BY e.seq DESC LIMIT $3) x ORDER BY seq`, channel, since, most)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []Said
	at := map[string]int{}
	for rows.Next() {
		var x Said
		var data []byte
		if err := rows.Scan(&x.Seq, &x.At, &data); err != nil {
			return nil, err
		}
		if json.Unmarshal(data, &x.Said) != nil {
			continue
		}
		if x.Said.MessageID != "" {
			at[x.Said.Person.Platform+" "+x.Said.MessageID] = len(out)
		}
		out = append(out, x)
	}
	if err := rows.Err(); err != nil {
		return nil, err
	}
	gone, err := s.SQL.QueryContext(ctx, `SELECT coalesce(data->'person'->>'platform', ''), coalesce(data->>'messageId', '') FROM events WHERE channel = $1 AND type = 'porch.chat.removed' AND time >= $2`, channel, since)
	if err != nil {
		return nil, err
	}
	defer gone.Close()
	for gone.Next() {
		var platform, id string
		if err := gone.Scan(&platform, &id); err != nil {
			return nil, err
		}
		if i, ok := at[platform+" "+id]; ok {
			out[i].Removed = true
		}
	}
	return out, gone.Err()
}

// Touched is one decision of the guard about a line. Let is how a held one ended.
type Touched struct {
	Seq      int64
	At       time.Time
	Text     string
	Decision hall.Decision
	Let      *hall.Decision
}

// Touches are the last decisions of the guard about lines, the newest first, each with the line where its text is kept; before is
// the number of the last one of the page before, 0 for none.
func (s *Log) Touches(ctx context.Context, channel, before int64, most int) ([]Touched, error) {
	rows, err := s.SQL.QueryContext(ctx, `SELECT d.seq, e.logged, d.body, coalesce(e.data->>'text', ''), (SELECT l.body FROM decisions l WHERE l.channel = d.channel AND l.kind = 'let' AND l.line = d.line LIMIT 1)
		FROM decisions d JOIN events e ON e.channel = d.channel AND e.seq = d.seq
		WHERE d.channel = $1 AND d.kind = 'touched' AND ($2 = 0 OR d.seq < $2) ORDER BY d.seq DESC LIMIT $3`, channel, before, most)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []Touched
	for rows.Next() {
		var x Touched
		var body, let []byte
		if err := rows.Scan(&x.Seq, &x.At, &body, &x.Text, &let); err != nil {
			return nil, err
		}
		if json.Unmarshal(body, &x.Decision) != nil {
			continue
		}
		if len(let) > 0 {
			x.Let = &hall.Decision{}
			_ = json.Unmarshal(let, x.Let) // what cannot be read any more ended all the same
		}
		out = append(out, x)
	}
	return out, rows.Err()
}
