// Package jobs keeps what goes to places, and how it stands. The queue itself is River's.
package jobs

import (
	"context"
	"database/sql"
	"fmt"

	"github.com/riverqueue/river/riverdriver/riverdatabasesql"
	"github.com/riverqueue/river/rivermigrate"

	"vividporch/store/pg"
)

// Version is that of River's tables, as this program wants them.
func Version() (int, error) {
	m, err := rivermigrate.New(riverdatabasesql.New(nil), nil)
	if err != nil {
		return 0, err
	}
	all := m.AllVersions()
	return all[len(all)-1].Version, nil
}

// Migrate brings River's tables up to date.
func Migrate(ctx context.Context, db *sql.DB) error {
	m, err := rivermigrate.New(riverdatabasesql.New(db), nil)
	if err != nil {
		return err
	}
	if _, err := m.Migrate(ctx, rivermigrate.DirectionUp, nil); err != nil {
		return fmt.Errorf("the job tables cannot be brought up to date: %w", err)
	}
	return nil
}

// Jobs are the deliveries to places; the queue itself is River's.
type Jobs struct{ pg.Base }

// Clear takes every job out of a queue, whoever had begun it: what is to be done stands in the deliveries. Only the
// owner of the channel may call it, before it works the queue: nobody else does.
func (s *Jobs) Clear(ctx context.Context, queue string) error {
	_, err := s.SQL.ExecContext(ctx, `DELETE FROM river_job WHERE queue = $1`, queue)
	return err
}

// Lift makes deliveries of the jobs of old, which were a post each, and of what was kept of them.
func Lift(ctx context.Context, conn *sql.Conn) error {
	for _, q := range []string{
		`INSERT INTO deliveries (channel, place, line, seq, about, body, state, attempts, reason, made, next)
			SELECT (j.args->>'channel')::bigint, j.args->>'place', j.args->>'line', 0, coalesce((j.args->'about')::json, '[]'), (j.args->'body')::json,
				CASE WHEN p.state = 'trying' THEN 'trying' ELSE 'waiting' END, coalesce(p.attempts, 0), coalesce(p.reason, ''), j.created_at, now()
			FROM river_job j LEFT JOIN posts p ON p.channel = (j.args->>'channel')::bigint AND p.line = j.args->>'line' AND p.place = j.args->>'place'
			WHERE j.kind = 'relay' AND j.state NOT IN ('completed', 'cancelled', 'discarded') AND j.args->>'body' IS NOT NULL AND coalesce(p.state, '') <> 'delivered' ORDER BY j.id
			ON CONFLICT (channel, line, place) DO NOTHING`,
		`INSERT INTO deliveries (channel, place, line, seq, about, body, state, attempts, reason, made, next, ended)
			SELECT p.channel, p.place, p.line, 0, '[]', (SELECT (d.body->'body')::json FROM decisions d WHERE d.channel = p.channel AND d.line = p.line AND d.body->>'place' = p.place LIMIT 1),
				p.state, p.attempts, p.reason, p.changed, p.changed, p.changed
			FROM posts p WHERE p.state IN ('delivered', 'failed', 'unclear') ORDER BY p.changed
			ON CONFLICT (channel, line, place) DO NOTHING`,
		`DELETE FROM river_job WHERE kind = 'relay'`,
		`DROP TABLE posts`,
	} {
		if _, err := conn.ExecContext(ctx, q); err != nil {
			return fmt.Errorf("what was on its way to places cannot be taken over: %w", err)
		}
	}
	return nil
}
