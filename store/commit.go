package store

import (
	"cmp"
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"time"

	"gorm.io/gorm"

	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
)

// Entry is an event with what was decided about it.
type Entry struct {
	Event     event.Event
	Decisions []hall.Decision
	Stream    int // the stream the event's time falls in; 0 for none
}

// Batch is what is written at once.
type Batch struct {
	Entries   []Entry
	Fresh     map[string]int64       // accounts seen for the first time → their person
	Claims    map[string]string      // of those, whom the book knew by login until now → the key it knew them under
	Unsettled map[string]bool        // accounts that are fresh, renamed, or not seen in this stream yet
	Settings  []SettingsVersion      // that came into force
	Reckoning Reckoning              // as it holds after the batch
	State     []byte                 // the state after it, when the batch forgets somebody
	Jobs      func(tx *sql.Tx) error // adds jobs in the same transaction; may be nil
	Later     bool                   // Commit leaves the guest book to Book
	Epoch     int64                  // under which the channel is held; 0 for no owner
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

func (b *Batch) last() int64 { return b.Entries[len(b.Entries)-1].Event.Seq }

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

// Commit writes a batch in one transaction: the log, and the guest book with it
// unless that comes later. When it returns an error the batch may still have been
// written (the answer to the commit was lost): Written tells.
func (s *Store) Commit(ctx context.Context, channel int64, b *Batch) error {
	if b.Later && b.linesAlone() { // one statement is a transaction of its own
		return writer{ctx: ctx, db: s.SQL, channel: channel}.events(b)
	}
	return s.DB.WithContext(ctx).Transaction(func(g *gorm.DB) error {
		tx, ok := g.Statement.ConnPool.(*sql.Tx)
		if !ok {
			return fmt.Errorf("store: no transaction of database/sql beneath")
		}
		w := writer{ctx, tx, tx, channel}
		steps := []func(*Batch) error{w.events, w.decisions, w.streams, w.rest}
		if !b.Later {
			steps = append(steps, w.people, w.book, w.booked)
		}
		for _, step := range steps {
			if err := step(b); err != nil && err != errBooked {
				return err
			}
		}
		if b.Jobs != nil {
			return b.Jobs(tx)
		}
		return nil
	})
}

// errBooked says that a batch stands in the guest book already.
var errBooked = errors.New("booked already")

// Book writes into the guest book what a batch in the log says about people. It may
// be called again for one whose answer was lost.
func (s *Store) Book(ctx context.Context, channel int64, b *Batch) error {
	err := s.inTx(ctx, func(tx *sql.Tx) error {
		w := writer{ctx, tx, tx, channel}
		if b.Epoch > 0 {
			if err := s.fence(ctx, channel, b.Epoch); err != nil {
				return err
			}
		}
		for _, step := range []func(*Batch) error{w.booked, w.people} {
			if err := step(b); err != nil {
				return err
			}
		}
		return nil
	})
	if errors.Is(err, errBooked) {
		return nil
	}
	return err
}

// Booked is the number up to which the log stands in the guest book.
func (s *Store) Booked(ctx context.Context, channel int64) (n int64, err error) {
	return n, s.SQL.QueryRowContext(ctx, "SELECT booked FROM channels WHERE id = $1", channel).Scan(&n)
}

// booked notes how far the book has come; errBooked when it was there already.
func (w writer) booked(b *Batch) error {
	r, err := w.tx.ExecContext(w.ctx, "UPDATE channels SET booked = $2 WHERE id = $1 AND booked < $2", w.channel, b.last())
	if err != nil {
		return err
	}
	if n, err := r.RowsAffected(); err != nil || n == 0 {
		return cmp.Or(err, errBooked)
	}
	return nil
}

// SaveSnapshot keeps a state that the log has reached. It may come after the
// commit: without it a restart evolves a little longer.
func (s *Store) SaveSnapshot(ctx context.Context, snap Snapshot) error {
	tx, err := s.SQL.BeginTx(ctx, nil)
	if err != nil {
		return err
	}
	defer tx.Rollback()
	w := writer{ctx: ctx, db: tx, tx: tx, channel: snap.Channel}
	if err := w.lockSnapshots(); err != nil {
		return err
	}
	if err := w.exec(`INSERT INTO snapshots (channel, seq, state, taken, stream) SELECT $1, $2, $3, now(), $4 WHERE NOT EXISTS (SELECT 1 FROM snapshots WHERE channel = $1 AND seq >= $2)`,
		snap.Channel, snap.Seq, string(snap.State), snap.Stream); err != nil {
		return err
	}
	if err := w.exec(`DELETE FROM snapshots s WHERE channel = $1 AND seq < (SELECT min(seq) FROM (SELECT seq FROM snapshots WHERE channel = $1 ORDER BY seq DESC LIMIT $2) l)
		AND NOT (s.stream > 0 AND s.taken > now() - make_interval(days => $3) AND NOT EXISTS (SELECT 1 FROM snapshots o WHERE o.channel = s.channel AND o.stream = s.stream AND o.seq < s.seq))`,
		snap.Channel, snapshotsKept, snapshotDays); err != nil {
		return err
	}
	return tx.Commit()
}

// How many of the last snapshots are kept, and for how many days the first of each stream.
const (
	snapshotsKept = 3
	snapshotDays  = 30
)

// lockSnapshots lets one transaction at a time change a channel's snapshots: a state that
// was written down before a forgetting must not come in behind it.
func (w writer) lockSnapshots() error {
	return w.exec("SELECT 1 FROM channels WHERE id = $1 FOR UPDATE", w.channel)
}

// Written reports whether an event stands in the log under its number.
func (s *Store) Written(ctx context.Context, channel int64, ev *event.Event) (bool, error) {
	var id string
	err := s.SQL.QueryRowContext(ctx, "SELECT id FROM events WHERE channel = $1 AND seq = $2", channel, ev.Seq).Scan(&id)
	if err == sql.ErrNoRows {
		return false, nil
	}
	return err == nil && id == ev.ID, err
}

// writer writes for a channel, all but single statements in a transaction.
type writer struct {
	ctx context.Context
	db  interface {
		ExecContext(context.Context, string, ...any) (sql.Result, error)
	}
	tx      *sql.Tx
	channel int64
}

func (w writer) exec(q string, args ...any) error {
	_, err := w.db.ExecContext(w.ctx, q, args...)
	return err
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
	args := []any{w.channel, seqs, doors, sources, ids, types, times, logged, ahead, persons, data, ext}
	if b.Epoch == 0 {
		return w.exec(insert, args...)
	}
	// Whoever takes the channel over waits for this, or this finds that they have.
	res, err := w.db.ExecContext(w.ctx, insert+", (SELECT 1 FROM owners WHERE channel = $1 AND epoch = $13 FOR SHARE) o", append(args, b.Epoch)...)
	if err != nil {
		return err
	}
	if written, err := res.RowsAffected(); err != nil || written == 0 {
		return cmp.Or(err, ErrOwned)
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
		switch o := en.Event.Data.(type) {
		case *event.SpeechSaid:
			doneLine, donePlatform = append(doneLine, o.Line), append(donePlatform, o.Platform)
		case *event.SpeechRefused:
			doneLine, donePlatform = append(doneLine, o.Line), append(donePlatform, o.Platform)
		case *event.SpeechUncertain:
			doneLine, donePlatform = append(doneLine, o.Line), append(donePlatform, o.Platform)
		}
	}
	if len(seqs) > 0 {
		if err := w.exec(`INSERT INTO decisions (channel, seq, n, kind, courtesy, slot, line, person, body)
			SELECT $1, * FROM unnest($2::bigint[], $3::int[], $4::text[], $5::text[], $6::text[], $7::text[], $8::text[], $9::json[])`,
			w.channel, seqs, ns, kinds, courtesies, slots, lines, persons, bodies); err != nil {
			return err
		}
	}
	if len(sayLine) > 0 {
		if err := w.exec(`INSERT INTO speech (channel, line, platform, text, seq) SELECT $1, * FROM unnest($2::text[], $3::text[], $4::text[], $5::bigint[])`,
			w.channel, sayLine, sayPlatform, sayText, saySeq); err != nil {
			return err
		}
	}
	if len(doneLine) > 0 {
		return w.exec(`DELETE FROM speech USING unnest($2::text[], $3::text[]) AS d(line, platform)
			WHERE speech.channel = $1 AND speech.line = d.line AND speech.platform = d.platform`, w.channel, doneLine, donePlatform)
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
				err = w.exec(`INSERT INTO streams (channel, number, opened, title) VALUES ($1,$2,$3,$4) ON CONFLICT (channel, number) DO NOTHING`, w.channel, d.Stream, d.At, title)
			case hall.Continue:
				err = w.exec(`UPDATE streams SET closed = NULL WHERE channel = $1 AND number = $2`, w.channel, d.Stream)
			case hall.Close:
				err = w.exec(`UPDATE streams SET closed = $3 WHERE channel = $1 AND number = $2`, w.channel, d.Stream, d.At)
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
		if err := w.exec(`INSERT INTO settings_versions (channel, version, base, member, what, at, doc) VALUES ($1,$2,$3,$4,$5,$6,$7)`,
			w.channel, v.Version, v.Base, v.Member, v.What, v.At, string(v.Doc)); err != nil {
			return err
		}
	}
	return nil
}
