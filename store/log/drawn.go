package log

import (
	"context"
	"encoding/json"

	"vividporch/core/draw"
)

// Drawn are the decisions about a draw, in their order, of which it is read back.
func (s *Log) Drawn(ctx context.Context, channel int64, id string) ([]draw.Logged, error) {
	rows, err := s.SQL.QueryContext(ctx, `SELECT d.seq, e.logged, d.body FROM decisions d JOIN events e ON e.channel = d.channel AND e.seq = d.seq
		WHERE d.channel = $1 AND d.kind = '`+draw.Kind+`' AND split_part(d.line, '/', 1) = $2 ORDER BY d.seq, d.n`, channel, id)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []draw.Logged
	for rows.Next() {
		var x draw.Logged
		var body []byte
		if err := rows.Scan(&x.Seq, &x.At, &body); err != nil {
			return nil, err
		}
		if json.Unmarshal(body, &x.Decision) == nil {
			out = append(out, x)
		}
	}
	return out, rows.Err()
}
