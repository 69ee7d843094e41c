package find

import (
	"context"
	"time"

	"vividporch/core/event"
	"vividporch/core/thread"
)

// Thread is what somebody last said to the streamer, or asked.
type Thread struct {
	Text string
	At   time.Time
}

// How far somebody's chat is looked back through, and of how many lines of it more is asked.
const (
	threadLines = "400"
	threadOf    = "12"
)

// Threads finds what each of some accounts, or the others of the same person, last said to the
// streamer or asked between two moments. own reports whether a line was for the house alone, as a
// command is. Nobody is looked up who asked to be left be, and no line that was taken out of chat.
func (s *Find) Threads(ctx context.Context, channel int64, accounts []string, from, until time.Time, ear thread.Ear, own func(platform, text string) bool) (map[string]Thread, error) {
	rows, err := s.SQL.QueryContext(ctx, `SELECT me.key, c.platform, c.text, c.time, c.message <> '' AND EXISTS (SELECT 1 FROM events r WHERE r.channel = $1 AND r.type = 'porch.chat.removed' AND r.seq > c.seq AND r.seq < c.seq + 5000 AND r.data->>'messageId' = c.message),
			c.reply <> '' AND EXISTS (SELECT 1 FROM events r WHERE r.channel = $1 AND r.type = 'porch.chat.said' AND r.seq < c.seq AND r.seq > c.seq - 2000 AND r.data->>'messageId' = c.reply AND r.data->'person'->>'roles' LIKE '%"' || $6 || '"%')
		FROM unnest($2::text[]) AS w(key)
		JOIN accounts me ON me.channel = $1 AND me.key = w.key
		JOIN people p ON p.channel = $1 AND p.id = me.person AND NOT p.leave_be
		JOIN accounts a ON a.channel = $1 AND a.person = me.person
		CROSS JOIN LATERAL (SELECT a.platform, x.seq, x.time, x.data->>'text' AS text, coalesce(x.data->>'messageId', '') AS message, coalesce(x.data->>'replyTo', '') AS reply FROM (
			SELECT e.seq, e.time, e.data FROM events e WHERE e.channel = $1 AND e.type = 'porch.chat.said' AND e.person = a.key AND e.time < $3 AND e.time >= $4 ORDER BY e.seq DESC LIMIT `+threadLines+`) x
			WHERE x.data->>'replyTo' <> '' OR EXISTS (SELECT 1 FROM unnest($5::text[]) AS m(mark) WHERE position(m.mark IN lower(x.data->>'text')) > 0)
			ORDER BY x.seq DESC LIMIT `+threadOf+`) c
		ORDER BY me.key, c.time DESC`, channel, accounts, until, from, ear.Signs(), string(event.Streamer))
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := map[string]Thread{}
	for rows.Next() {
		var key, platform string
		var th Thread
		var gone, reply bool
		if err := rows.Scan(&key, &platform, &th.Text, &th.At, &gone, &reply); err != nil {
			return nil, err
		}
		if _, found := out[key]; !found && !gone && ear.Takes(th.Text, reply) && !own(platform, th.Text) {
			out[key] = th
		}
	}
	return out, rows.Err()
}
