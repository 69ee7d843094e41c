package log

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"time"

	"vividporch/core/hall"
	"vividporch/core/house"
	"vividporch/store/pg"
	"vividporch/store/tables"
)

// Recorded is a stream as the log has it, with what was decided about each event: from the one
// that opened it until a few minutes after it was over, or until the next one opened.
type Recorded struct {
	Entries []Entry
	First   int64 // number of the event that opened it
	Until   time.Time
	Blanked bool // some of what was said in it is not kept any more
}

// justBefore parts what still belongs to a stream from the opening of the next.
const justBefore = time.Millisecond

// afterwards is how long after its end a stream's lines still leave: a good night, a joined line.
const afterwards = 5 * time.Minute

// SeqAt is the number of the first event logged at a moment or after it; one beyond the last
// when there is none. The log's clock never goes back, so that it is found by halves.
func (s *Log) SeqAt(ctx context.Context, channel int64, at time.Time) (int64, error) {
	var low, high int64 = 1, 0
	if err := s.SQL.QueryRowContext(ctx, `SELECT coalesce(max(seq), 0) + 1 FROM events WHERE channel = $1`, channel).Scan(&high); err != nil {
		return 0, err
	}
	for low < high {
		mid := low + (high-low)/2
		var seq int64
		var logged time.Time
		err := s.SQL.QueryRowContext(ctx, `SELECT seq, logged FROM events WHERE channel = $1 AND seq >= $2 ORDER BY seq LIMIT 1`, channel, mid).Scan(&seq, &logged)
		switch {
		case errors.Is(err, sql.ErrNoRows):
			high = mid
		case err != nil:
			return 0, err
		case logged.Before(at):
			low = seq + 1
		default:
			high = mid
		}
	}
	return low, nil
}

// beforehand is how much sooner than its opening a stream's first event may be logged: an
// event may tell a time ahead.
const beforehand = 2 * time.Minute

// Stream reads a stream of the log. ErrNone when the log does not have it: it was brought in
// from a file, or never was.
func (s *Log) Stream(ctx context.Context, channel int64, number int, opened time.Time) (*Recorded, error) {
	from, err := s.SeqAt(ctx, channel, opened.Add(-beforehand))
	if err != nil {
		return nil, err
	}
	out := &Recorded{}
	on := false
	var ends time.Time
	err = s.Since(ctx, channel, from-1, 0, func(en Entry) error {
		at := en.Event.Logged
		if !ends.IsZero() && at.After(ends) {
			out.Until = ends
			return errPast
		}
		for i := range en.Decisions {
			switch d := &en.Decisions[i]; d.Kind {
			case hall.Open:
				switch {
				case d.Stream == number:
					on, out.First = true, en.Event.Seq
				case on || d.Stream > number:
					out.Until = at.Add(-justBefore)
					return errPast
				}
			case hall.Continue:
				if on {
					ends = time.Time{}
				}
			case hall.Close:
				if on {
					ends = at.Add(afterwards)
				}
			}
		}
		if on {
			out.Entries, out.Until = append(out.Entries, en), at
		}
		return nil
	})
	if err != nil && !errors.Is(err, errPast) {
		return nil, err
	}
	if err == nil && !ends.IsZero() { // the log ends before its last lines could leave
		out.Until = ends
	}
	if !on {
		return nil, pg.ErrNone
	}
	var blanked int64
	if err := s.SQL.QueryRowContext(ctx, `SELECT blanked FROM channels WHERE id = $1`, channel).Scan(&blanked); err != nil {
		return nil, err
	}
	out.Blanked = blanked >= out.First
	return out, nil
}

// Lately is what an event that came late fulfils, as the index of such events has it: see event.LateAfter.
const Lately = "logged - time > interval '2 minutes'"

// LateFor are the events logged after a number that happened between two moments: what came late of a stream.
func (s *Log) LateFor(ctx context.Context, channel, after int64, from, to time.Time) (out []Entry, err error) {
	var list []int64
	if err := s.DB.WithContext(ctx).Raw(`SELECT seq FROM events WHERE channel = ? AND seq > ? AND time >= ? AND time < ? AND `+Lately+` ORDER BY seq LIMIT 100000`, channel, after, from, to).Scan(&list).Error; err != nil {
		return nil, err
	}
	for _, seq := range list {
		if err := s.Since(ctx, channel, seq-1, 1, func(en Entry) error { out = append(out, en); return nil }); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// StateBefore is the house as it stood before an event: from the last state kept before it,
// moved on by the log. at is told now and then how many events were read.
func (s *Log) StateBefore(ctx context.Context, channel, seq int64, at func(n int)) (*house.State, error) {
	st := house.NewState()
	var snap tables.Snapshot
	err := s.DB.WithContext(ctx).Where("channel = ? AND seq < ?", channel, seq).Order("seq DESC").Limit(1).Find(&snap).Error
	if err != nil {
		return nil, err
	}
	if snap.Seq > 0 {
		if kept, anew, ok := house.RestoreState(snap.State); ok && len(anew) == 0 {
			st = kept
		}
	}
	n := 0
	err = s.Since(ctx, channel, st.Seq, 0, func(en Entry) error {
		if en.Event.Seq >= seq {
			return errPast
		}
		st.Evolve(&en.Event, en.Decisions)
		if n++; n%1000 == 0 && at != nil {
			at(n)
		}
		return nil
	})
	if errors.Is(err, errPast) {
		err = nil
	}
	return st, err
}

// KeptBefore is what rooms kept of accounts as of an event: by account and room. What was kept of several accounts in one
// breath is found by the ledger, into which every such breath writes.
func (s *Log) KeptBefore(ctx context.Context, channel, seq int64, accounts []string) (map[string]map[string]json.RawMessage, error) {
	out, last := map[string]map[string]json.RawMessage{}, map[[2]string]int64{}
	for _, q := range []string{
		`SELECT DISTINCT ON (person, room) person, body->>'room' AS room, body->'kept', seq FROM decisions
			WHERE channel = $1 AND person = ANY($2::text[]) AND seq < $3 AND body->'kept' IS NOT NULL ORDER BY person, room, seq DESC, n DESC`,
		`SELECT l.key, d.body->>'room', d.body->'keeps'->l.key, l.seq FROM (SELECT DISTINCT ON (key) key, seq, n FROM ledger
			WHERE channel = $1 AND key = ANY($2::text[]) AND seq < $3 ORDER BY key, seq DESC, n DESC) l
			JOIN decisions d ON d.channel = $1 AND d.seq = l.seq AND d.n = l.n WHERE d.body->'keeps'->l.key IS NOT NULL`,
	} {
		rows, err := s.SQL.QueryContext(ctx, q, channel, accounts, seq)
		if err != nil {
			return nil, err
		}
		defer rows.Close()
		for rows.Next() {
			var account, room string
			var kept []byte
			var at int64
			if err := rows.Scan(&account, &room, &kept, &at); err != nil {
				return nil, err
			}
			if last[[2]string{account, room}] > at {
				continue
			}
			last[[2]string{account, room}] = at
			if out[account] == nil {
				out[account] = map[string]json.RawMessage{}
			}
			out[account][room] = kept
		}
		if err := rows.Err(); err != nil {
			return nil, err
		}
	}
	return out, nil
}
