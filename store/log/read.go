package log

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"gorm.io/gorm"

	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/house"
	"vividporch/store/pg"
	"vividporch/store/tables"
)

// Repeats tells which of these (door, source, id) stand in the log already, by
// their place in the lists.
func (s *Log) Repeats(ctx context.Context, channel int64, doors, sources, ids []string) (map[int]bool, error) {
	return Repeats(pg.Tx{Ctx: ctx, SQL: s.Hot.SQL, Channel: channel}, doors, sources, ids)
}

// Repeats tells it in a transaction.
func Repeats(tx pg.Tx, doors, sources, ids []string) (map[int]bool, error) {
	// One by one through the unique index: a plan made while the log was short would
	// read all of it, and be kept while it grows.
	rows, err := tx.SQL.QueryContext(tx.Ctx, `WITH k AS MATERIALIZED (SELECT $1::bigint AS channel, * FROM unnest($2::text[], $3::text[], $4::text[]) WITH ORDINALITY AS k(door, source, id, n))
		SELECT k.n FROM k, LATERAL (SELECT 1 FROM events e WHERE e.channel = k.channel AND e.door = k.door AND e.source = k.source AND e.id = k.id LIMIT 1) e`, tx.Channel, doors, sources, ids)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := map[int]bool{}
	for rows.Next() {
		var n int
		if err := rows.Scan(&n); err != nil {
			return nil, err
		}
		out[n-1] = true
	}
	return out, rows.Err()
}

// LastSnapshot returns the newest state kept, or a new one, and the rooms of the house that
// it holds nothing of: those are evolved from the log alone.
func (s *Log) LastSnapshot(ctx context.Context, channel int64) (st *house.State, anew []string, err error) {
	var snap tables.Snapshot
	err = s.DB.WithContext(ctx).Where("channel = ?", channel).Order("seq DESC").First(&snap).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return house.NewState(), nil, nil
	}
	if err != nil {
		return nil, nil, err
	}
	if st, anew, ok := house.RestoreState(snap.State); ok {
		return st, anew, nil
	}
	return house.NewState(), nil, nil
}

// Others lists the last events of other services, newest first.
func (s *Log) Others(ctx context.Context, channel int64, most int) ([]*happening.Other, error) {
	var rows []string
	err := s.DB.WithContext(ctx).Model(&tables.Event{}).Where("channel = ? AND type = 'porch.other'", channel).Order("seq DESC").Limit(most).Pluck("data", &rows).Error
	if err != nil {
		return nil, err
	}
	var out []*happening.Other
	for _, r := range rows {
		o := &happening.Other{}
		if err := json.Unmarshal([]byte(r), o); err != nil {
			return nil, fmt.Errorf("store: an event of another service: %w", err)
		}
		out = append(out, o)
	}
	return out, nil
}

// errPast ends the reading of a log that is read so far only.
var errPast = errors.New("store: that was the last one wanted")

// Until reads the log from its beginning up to a number, as [Store.Since] does.
func (s *Log) Until(ctx context.Context, channel, last int64, f func(Entry) error) error {
	err := s.Since(ctx, channel, 0, 0, func(en Entry) error {
		if en.Event.Seq > last {
			return errPast
		}
		return f(en)
	})
	if errors.Is(err, errPast) {
		return nil
	}
	return err
}

// Since reads the log after a number, in order, with decisions, and hands each
// entry to f. most bounds how many; 0 is all.
func (s *Log) Since(ctx context.Context, channel, after int64, most int, f func(Entry) error) error {
	limit := sql.NullInt64{Int64: int64(most), Valid: most > 0}
	rows, err := s.SQL.QueryContext(ctx, `SELECT e.seq, e.door, e.source, e.id, e.type, e.time, e.logged, e.ahead, e.data, e.ext, d.bodies
		FROM events e LEFT JOIN LATERAL (SELECT json_agg(body ORDER BY n) AS bodies FROM decisions d WHERE d.channel = e.channel AND d.seq = e.seq) d ON true
		WHERE e.channel = $1 AND e.seq > $2 ORDER BY e.seq LIMIT $3`, channel, after, limit)
	if err != nil {
		return err
	}
	defer rows.Close()
	for rows.Next() {
		var en Entry
		var data, ext, bodies []byte
		e := &en.Event
		if err := rows.Scan(&e.Seq, &e.Door, &e.Source, &e.ID, &e.Type, &e.Time, &e.Logged, &e.Ahead, &data, &ext, &bodies); err != nil {
			return err
		}
		e.Raw, e.Ext = data, ext
		e.Data = happening.Kinds.Restore(e.Type, data)
		if len(bodies) > 0 {
			if err := json.Unmarshal(bodies, &en.Decisions); err != nil {
				return fmt.Errorf("store: decisions of event %d: %w", e.Seq, err)
			}
		}
		if err := f(en); err != nil {
			return err
		}
	}
	return rows.Err()
}

// Unsaid lists the lines that were decided to be said and have no outcome.
func (s *Log) Unsaid(ctx context.Context, channel int64) ([]hall.Decision, error) {
	return s.bodies(ctx, `SELECT coalesce(d.body, json_build_object('kind', 'say', 'line', s.line, 'platform', s.platform, 'text', s.text)) FROM speech s LEFT JOIN decisions d ON d.channel = s.channel AND d.seq = s.seq AND d.line = s.line AND d.kind = 'say' AND d.body->>'platform' = s.platform
		WHERE s.channel = $1 ORDER BY s.seq, d.n`, channel)
}

func (s *Log) bodies(ctx context.Context, q string, args ...any) ([]hall.Decision, error) {
	rows, err := s.SQL.QueryContext(ctx, q, args...)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []hall.Decision
	for rows.Next() {
		var raw []byte
		var d hall.Decision
		if err := rows.Scan(&raw); err != nil {
			return nil, err
		}
		if err := json.Unmarshal(raw, &d); err != nil {
			return nil, err
		}
		out = append(out, d)
	}
	return out, rows.Err()
}

// Undone lists the platform actions and fittings' tasks at the end of the log that
// were decided and have no outcome: a crash cut them off.
func (s *Log) Undone(ctx context.Context, channel int64) ([]hall.Decision, error) {
	return s.bodies(ctx, `SELECT d.body FROM decisions d
		WHERE d.channel = $1 AND d.seq > (SELECT coalesce(max(seq), 0) - 2000 FROM events WHERE channel = $1) AND d.kind IN ('platform', 'lamp', 'scene', 'sound', 'film', 'speak')
		AND NOT EXISTS (SELECT 1 FROM events e WHERE e.channel = d.channel AND e.seq > d.seq AND e.type IN ('porch.act.done', 'porch.act.refused')
			AND e.data->>'line' = d.line AND e.data->>'to' = d.body->>'platform') ORDER BY d.seq`, channel)
}

// Told is a decision with the event behind it.
type Decided struct {
	Seq      int64
	Logged   time.Time
	Type     string
	Decision hall.Decision
}

// DecisionsAbout lists what was decided about an account since a moment, oldest
// first.
func (s *Log) DecisionsAbout(ctx context.Context, channel int64, account string, since time.Time, most int) ([]Decided, error) {
	return s.decided(ctx, `SELECT d.seq, e.logged, e.type, d.body FROM decisions d JOIN events e ON e.channel = d.channel AND e.seq = d.seq
		WHERE d.channel = $1 AND d.person = $2 AND e.logged >= $3 ORDER BY d.seq DESC, d.n DESC LIMIT $4`, channel, account, since, most)
}

// DecisionsOf lists what was decided about a line, from its plan to its end.
func (s *Log) DecisionsOf(ctx context.Context, channel int64, line string) ([]Decided, error) {
	return s.decided(ctx, `SELECT d.seq, e.logged, e.type, d.body FROM decisions d JOIN events e ON e.channel = d.channel AND e.seq = d.seq
		WHERE d.channel = $1 AND d.line = $2 ORDER BY d.seq DESC, d.n DESC LIMIT 50`, channel, line)
}

func (s *Log) decided(ctx context.Context, q string, args ...any) ([]Decided, error) {
	rows, err := s.SQL.QueryContext(ctx, q, args...)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []Decided
	for rows.Next() {
		var t Decided
		var body []byte
		if err := rows.Scan(&t.Seq, &t.Logged, &t.Type, &body); err != nil {
			return nil, err
		}
		if err := json.Unmarshal(body, &t.Decision); err != nil {
			return nil, err
		}
		out = append(out, t)
	}
	for i, j := 0, len(out)-1; i < j; i, j = i+1, j-1 {
		out[i], out[j] = out[j], out[i]
	}
	return out, rows.Err()
}

// EventID is the id of an event of the log.
func (s *Log) EventID(ctx context.Context, channel, seq int64) (id string, err error) {
	err = s.SQL.QueryRowContext(ctx, "SELECT id FROM events WHERE channel = $1 AND seq = $2", channel, seq).Scan(&id)
	if errors.Is(err, sql.ErrNoRows) {
		return "", pg.ErrNone
	}
	return id, err
}

// LastFrom is when what came in at a door last had happened; zero for nothing.
func (s *Log) LastFrom(ctx context.Context, channel int64, door string) (at time.Time, err error) {
	err = s.SQL.QueryRowContext(ctx, "SELECT time FROM events WHERE channel = $1 AND door = $2 ORDER BY seq DESC LIMIT 1", channel, door).Scan(&at)
	if errors.Is(err, sql.ErrNoRows) {
		err = nil
	}
	return at, err
}

// HeardFrom reports whether anything ever came in at one of these doors.
func (s *Log) HeardFrom(ctx context.Context, channel int64, doors []string) (heard bool, err error) {
	return heard, s.SQL.QueryRowContext(ctx, "SELECT EXISTS (SELECT 1 FROM events WHERE channel = $1 AND door = ANY($2))", channel, doors).Scan(&heard)
}

// Counts are how many events of each type were logged since a moment, chat left out.
func (s *Log) Counts(ctx context.Context, channel int64, since time.Time) (map[string]int64, error) {
	var rows []struct {
		Type string
		N    int64
	}
	err := s.DB.WithContext(ctx).Raw("SELECT type, count(*) AS n FROM events WHERE channel = ? AND logged >= ? AND type <> 'porch.chat.said' GROUP BY type", channel, since).Scan(&rows).Error
	out := map[string]int64{}
	for _, r := range rows {
		out[r.Type] = r.N
	}
	return out, err
}

// Begins is when the first event of a channel was logged; the zero time when there is none.
func (s *Log) Begins(ctx context.Context, channel int64) (at time.Time, err error) {
	err = s.SQL.QueryRowContext(ctx, `SELECT logged FROM events WHERE channel = $1 ORDER BY seq LIMIT 1`, channel).Scan(&at)
	if errors.Is(err, sql.ErrNoRows) {
		err = nil
	}
	return at, err
}
