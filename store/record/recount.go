package record

import (
	"context"

	"vividporch/store/pg"
)

// What is counted of a stream is kept beside it, see tables.Turnout: whatever changes who came to it, or who was new there,
// says so in the same transaction. Refresh does for the streams in which somebody was new; whoever writes visits, or makes
// accounts another person's, does for those.

// Recounts is the end of a statement whose rows are a channel and a stream each: these are to be counted anew.
const Recounts = ` ORDER BY 1, 2 ON CONFLICT (channel, stream) DO UPDATE SET version = turnouts.version + 1`

// Recount says that the streams people came to are to be counted anew.
func Recount(ctx context.Context, q pg.Queryer, channel int64, persons ...int64) error {
	_, err := q.ExecContext(ctx, `INSERT INTO turnouts (channel, stream, version) SELECT DISTINCT v.channel, v.stream, 1 FROM accounts a JOIN visits v ON v.channel = a.channel AND v.key = a.key
		WHERE a.channel = $1 AND a.person = ANY($2::bigint[])`+Recounts, channel, persons)
	return err
}

// RecountAll says that all streams are.
func RecountAll(ctx context.Context, q pg.Queryer, channel int64) error {
	_, err := q.ExecContext(ctx, `INSERT INTO turnouts (channel, stream, version) SELECT channel, number, 1 FROM streams WHERE channel = $1`+Recounts, channel)
	return err
}
