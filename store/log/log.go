// Package log keeps what happened and what was decided about it, in order and for good.
//
// [Log.Commit] is the main path: a batch of events and decisions is written in one
// transaction, with the jobs of the relays. Beside it stand the snapshots of the state,
// the versions of the settings, what was set aside, and whose the channel is.
package log

import (
	"cmp"
	"context"
	"database/sql"
	"encoding/json"
	"maps"
	"time"

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
	return len(b.Settings) == 0 && b.Jobs == nil
}

// Commit writes a batch into the log in one transaction, and with it whatever more there is
// to write. When it returns an error the batch may still have been written (the answer to
// the commit was lost): Written tells.
func (s *Log) Commit(ctx context.Context, channel int64, b *Batch, more ...func(pg.Tx, *Batch) error) error {
	if len(more) == 0 && b.linesAlone() { // one statement is a transaction of its own
		return writer{pg.Tx{Ctx: ctx, SQL: s.Hot.SQL, Channel: channel}}.events(b)
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
	w := writer{tx}
	for _, step := range []func(*Batch) error{w.events, w.decisions, w.streams, w.rest} {
		if err := step(b); err != nil {
			return err
		}
	}
	return nil
}

// writer writes what a batch holds into the log.
type writer struct{ pg.Tx }

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

func (w writer) events(b *Batch) error {
	n := len(b.Entries)
	seqs, ahead := make([]int64, n), make([]bool, n)
	doors, sources, ids, types, persons, data := make([]string, n), make([]string, n), make([]string, n), make([]string, n), make([]string, n), make([]string, n)
	ext := make([]*string, n)
	times, logged := make([]time.Time, n), make([]time.Time, n)
	for i := range b.Entries {
		e := &b.Entries[i].Event
		raw, err := e.DataJSON()
		if err != nil {
			return err
		}
		seqs[i], doors[i], sources[i], ids[i], types[i], times[i], logged[i], ahead[i], data[i] = e.Seq, e.Door, e.Source, e.ID, e.Type, e.Time, e.Logged, e.Ahead, string(raw)
		if who := e.Who(); who != nil {
			persons[i] = who.Key()
		}
		if len(e.Ext) > 0 {
			ext[i] = new(string(e.Ext))
		}
	}
	const insert = `INSERT INTO events (channel, seq, door, source, id, type, time, logged, ahead, person, data, ext)
		SELECT $1, e.* FROM unnest($2::bigint[], $3::text[], $4::text[], $5::text[], $6::text[], $7::timestamptz[], $8::timestamptz[], $9::bool[], $10::text[], $11::json[], $12::json[]) e`
	args := []any{w.Channel, seqs, doors, sources, ids, types, times, logged, ahead, persons, data, ext}
	if b.Epoch == 0 {
		return w.Exec(insert, args...)
	}
	// Whoever takes the channel over waits for this, or this finds that they have.
	res, err := w.SQL.ExecContext(w.Ctx, insert+", (SELECT 1 FROM owners WHERE channel = $1 AND epoch = $13 FOR SHARE) o", append(args, b.Epoch)...)
	if err != nil {
		return err
	}
	if written, err := res.RowsAffected(); err != nil || written == 0 {
		return cmp.Or(err, ErrHeld)
	}
	return nil
}

func (w writer) decisions(b *Batch) error {
	var seqs []int64
	var ns []int32
	var kinds, courtesies, slots, lines, persons, bodies []string
	var sayLine, sayPlatform, sayText []string
	var saySeq []int64
	var doneLine, donePlatform []string
	for i := range b.Entries {
		en := &b.Entries[i]
		for n := range en.Decisions {
			d := &en.Decisions[n]
			raw, err := json.Marshal(d)
			if err != nil {
				return err
			}
			seqs, ns = append(seqs, en.Event.Seq), append(ns, int32(n))
			kinds, courtesies, slots = append(kinds, string(d.Kind)), append(courtesies, d.Courtesy), append(slots, d.Slot())
			lines, persons, bodies = append(lines, d.Line), append(persons, d.Person), append(bodies, string(raw))
			if d.Kind == hall.Say {
				sayLine, sayPlatform, sayText, saySeq = append(sayLine, d.Line), append(sayPlatform, d.Platform), append(sayText, d.Text), append(saySeq, en.Event.Seq)
			}
		}
		if o, is := en.Event.Data.(interface {
			Ended() (line, platform string)
		}); is {
			line, platform := o.Ended()
			doneLine, donePlatform = append(doneLine, line), append(donePlatform, platform)
		}
	}
	if len(seqs) > 0 {
		if err := w.Exec(`INSERT INTO decisions (channel, seq, n, kind, courtesy, slot, line, person, body)
			SELECT $1, * FROM unnest($2::bigint[], $3::int[], $4::text[], $5::text[], $6::text[], $7::text[], $8::text[], $9::json[])`,
			w.Channel, seqs, ns, kinds, courtesies, slots, lines, persons, bodies); err != nil {
			return err
		}
	}
	if len(sayLine) > 0 {
		if err := w.Exec(`INSERT INTO speech (channel, line, platform, text, seq) SELECT $1, * FROM unnest($2::text[], $3::text[], $4::text[], $5::bigint[])`,
			w.Channel, sayLine, sayPlatform, sayText, saySeq); err != nil {
			return err
		}
	}
	if len(doneLine) > 0 {
		return w.Exec(`DELETE FROM speech USING unnest($2::text[], $3::text[]) AS d(line, platform)
			WHERE speech.channel = $1 AND speech.line = d.line AND speech.platform = d.platform`, w.Channel, doneLine, donePlatform)
	}
	return nil
}

func (w writer) streams(b *Batch) error {
	for i := range b.Entries {
		for _, d := range b.Entries[i].Decisions {
			var err error
			switch d.Kind {
			case hall.Open:
				title := ""
				if o, ok := b.Entries[i].Event.Data.(*happening.StreamOpened); ok {
					title = o.Title
				}
				err = w.Exec(`INSERT INTO streams (channel, number, opened, title) VALUES ($1,$2,$3,$4) ON CONFLICT (channel, number) DO NOTHING`, w.Channel, d.Stream, d.At, title)
			case hall.Continue:
				err = w.Exec(`UPDATE streams SET closed = NULL WHERE channel = $1 AND number = $2`, w.Channel, d.Stream)
			case hall.Close:
				err = w.Exec(`UPDATE streams SET closed = $3 WHERE channel = $1 AND number = $2`, w.Channel, d.Stream, d.At)
			}
			if err != nil {
				return err
			}
		}
	}
	return nil
}

func (w writer) rest(b *Batch) error {
	for _, v := range b.Settings {
		if err := w.Exec(`INSERT INTO settings_versions (channel, version, base, member, what, at, doc) VALUES ($1,$2,$3,$4,$5,$6,$7)`,
			w.Channel, v.Version, v.Base, v.Member, v.What, v.At, string(v.Doc)); err != nil {
			return err
		}
	}
	return nil
}
