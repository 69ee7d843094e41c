// Package log keeps what happened and what was decided about it, in order and for good.
//
// [Log.Commit] is the main path: a batch of events and decisions is written in one
// transaction, with the jobs of the relays. Beside it stand the snapshots of the state,
// the versions of the settings, what was set aside, and whose the channel is.
package log

import (
	"context"
	"database/sql"
	"maps"

	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/store/pg"
	"vividporch/store/record"
	"vividporch/store/tables"
)

// Log is the log of every channel: events, what was decided about them, snapshots of the
// state, and the settings with their versions.
type Log struct {
	pg.Base
	Hot pg.Base // for what is done at every batch
}

// Entry is an event with what was decided about it.
type Entry struct {
	Event     event.Event
	Decisions []hall.Decision
	Stream    int // the stream the event's time falls in; 0 for none
}

// Batch is what is written at once.
type Batch struct {
	Entries   []Entry
	Fresh     map[string]int64         // accounts seen for the first time → their person
	Claims    map[string]string        // of those, whom the book knew by login until now → the key it knew them under
	Unsettled map[string]bool          // accounts that are fresh, renamed, or not seen in this stream yet
	Settings  []tables.SettingsVersion // that came into force
	Reckoning record.Reckoning         // as it holds after the batch
	State     []byte                   // the state after it, when the batch forgets somebody
	Jobs      func(tx *sql.Tx) error   // adds jobs in the same transaction; may be nil
	Later     bool                     // the guest book is written after the log, not with it
	Epoch     int64                    // under which the channel is held; 0 for no owner
}

// Add puts a batch behind another, so that both are booked at once.
func (b *Batch) Add(more *Batch) {
	b.Entries = append(b.Entries, more.Entries...)
	maps.Copy(b.Fresh, more.Fresh)
	maps.Copy(b.Claims, more.Claims)
	maps.Copy(b.Unsettled, more.Unsettled)
	b.Reckoning, b.Epoch = more.Reckoning, more.Epoch
}

// Asks reports whether the book must be up to date before anything else is lived:
// for all but further lines of those who are here.
func (b *Batch) Asks() bool { return len(b.Unsettled) > 0 || !b.linesAlone() }

// Last is the number of its last event.
func (b *Batch) Last() int64 { return b.Entries[len(b.Entries)-1].Event.Seq }

// linesAlone reports whether a batch holds nothing but lines about which nothing was
// decided.
func (b *Batch) linesAlone() bool {
	for i := range b.Entries {
		if _, chat := b.Entries[i].Event.Data.(*happening.ChatSaid); !chat || len(b.Entries[i].Decisions) > 0 {
			return false
		}
	}
	return b.logAlone()
}

// oneStatement reports whether all of a batch is written by one.
func (b *Batch) oneStatement() bool { return b.linesAlone() || b.Epoch > 0 && b.logAlone() }

// logAlone reports whether a batch changes nothing but the log: no stream, no settings and no
// jobs.
func (b *Batch) logAlone() bool {
	for i := range b.Entries {
		if told, _ := happening.OfTheStream(b.Entries[i].Event.Data); told.Title != "" {
			return false
		}
		for _, d := range b.Entries[i].Decisions {
			switch d.Kind {
			case hall.Open, hall.Continue, hall.Close:
				return false
			}
		}
	}
	return len(b.Settings) == 0 && b.Jobs == nil
}

// Commit writes a batch into the log in one transaction, and with it whatever more there is
// to write. When it returns an error the batch may still have been written (the answer to
// the commit was lost): Written tells.
func (s *Log) Commit(ctx context.Context, channel int64, b *Batch, more ...func(pg.Tx, *Batch) error) error {
	if len(more) == 0 && b.oneStatement() { // which is a transaction of its own
		return writer{pg.Tx{Ctx: ctx, SQL: s.Hot.SQL, Channel: channel}}.all(b)
	}
	return s.Hot.InTx(ctx, channel, func(tx pg.Tx) error {
		if err := s.Within(tx, b); err != nil {
			return err
		}
		for _, f := range more {
			if err := f(tx, b); err != nil {
				return err
			}
		}
		if b.Jobs != nil {
			return b.Jobs(tx.SQL.(*sql.Tx))
		}
		return nil
	})
}

// Within writes a batch into the log in a transaction.
func (s *Log) Within(tx pg.Tx, b *Batch) error {
	return writer{tx}.all(b)
}

// SaveSnapshot keeps a state that the log has reached. It may come after the
// commit: without it a restart evolves a little longer.
func (s *Log) SaveSnapshot(ctx context.Context, snap tables.Snapshot) error {
	return s.InTx(ctx, snap.Channel, func(w pg.Tx) error {
		if err := w.LockSnapshots(); err != nil {
			return err
		}
		if err := w.Exec(`INSERT INTO snapshots (channel, seq, state, taken, stream) SELECT $1, $2, $3, now(), $4 WHERE NOT EXISTS (SELECT 1 FROM snapshots WHERE channel = $1 AND seq >= $2)`,
			snap.Channel, snap.Seq, string(snap.State), snap.Stream); err != nil {
			return err
		}
		return w.Exec(`DELETE FROM snapshots s WHERE channel = $1 AND seq < (SELECT min(seq) FROM (SELECT seq FROM snapshots WHERE channel = $1 ORDER BY seq DESC LIMIT $2) l)
		AND NOT (s.stream > 0 AND s.taken > now() - make_interval(days => $3) AND NOT EXISTS (SELECT 1 FROM snapshots o WHERE o.channel = s.channel AND o.stream = s.stream AND o.seq < s.seq))`,
			snap.Channel, snapshotsKept, snapshotDays)
	})
}

// How many of the last snapshots are kept, and for how many days the first of each stream.
const (
	snapshotsKept = 3
	snapshotDays  = 30
)

// Written reports whether an event stands in the log under its number.
func (s *Log) Written(ctx context.Context, channel int64, ev *event.Event) (bool, error) {
	var id string
	err := s.SQL.QueryRowContext(ctx, "SELECT id FROM events WHERE channel = $1 AND seq = $2", channel, ev.Seq).Scan(&id)
	if err == sql.ErrNoRows {
		return false, nil
	}
	return err == nil && id == ev.ID, err
}
