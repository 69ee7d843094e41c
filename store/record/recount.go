package record

import (
	"context"

	"vividporch/store/pg"
)

// What is counted of a stream is kept, see tables.Turnout: whatever changes who came to it, or who was new there, puts a mark
// down in the same transaction. Refresh does for the streams in which somebody was new; whoever writes visits, or makes
// accounts another person's, does for those.

// Marks is the beginning of a statement whose rows are a channel and a stream each: these are to be counted anew.
const Marks = `INSERT INTO turnout_marks (channel, stream) SELECT DISTINCT `

// Recount says that the streams people came to are to be counted anew.
func Recount(ctx context.Context, q pg.Queryer, channel int64, persons ...int64) error {
	_, err := q.ExecContext(ctx, Marks+`v.channel, v.stream FROM accounts a JOIN visits v ON v.channel = a.channel AND v.key = a.key WHERE a.channel = $1 AND a.person = ANY($2::bigint[])`, channel, persons)
	return err
}
