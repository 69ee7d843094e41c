// Package kept keeps other services' messages for a while: what was understood for looking at it,
// what nobody understood until somebody teaches the house to.
package kept

import (
	"context"
	"crypto/sha256"
	"database/sql"
	"encoding/hex"
	"fmt"
	"hash/fnv"
	"time"

	"vividporch/store/pg"
)

// Limits of what is kept, of each door.
const (
	For            = 7 * 24 * time.Hour
	MostUnderstood = 50
	MostWaiting    = 1000
	MostBytes      = 64 << 20 // of all that waits
)

// States of a message.
const (
	New        = "new"        // it is not read yet
	Understood = "understood" // something was made of it
	Waiting    = "waiting"    // nothing understands it, or not all of it
	gone       = "gone"       // it fell out; what is left of it tells repeats
)

// Message is one message as it came, secrets blanked.
type Message struct {
	ID      int64     `gorm:"primaryKey"`
	Channel int64     `gorm:"not null;index:kept_messages_door,priority:1"`
	Door    string    `gorm:"not null;index:kept_messages_door,priority:2"`
	Mark    string    `gorm:"not null;index:kept_messages_door,priority:3"` // what tells that it is the same
	State   string    `gorm:"not null"`
	At      time.Time `gorm:"not null"`
	Body    []byte
	Why     string `gorm:"not null;default:''"` // nothing was made of it
}

// TableName says what the rows are.
func (Message) TableName() string { return "kept_messages" }

// Event is the id that events made of the message have in common: the same message makes the same
// events, however often it is read.
func (m *Message) Event() string {
	if m.Mark[0] == 'p' { // it has an id of its own
		return m.Mark
	}
	return fmt.Sprintf("%s:%d", m.Mark, m.ID)
}

// Lost is how many messages fell out on a day before anything understood them.
type Lost struct {
	Channel int64     `gorm:"primaryKey;autoIncrement:false"`
	Door    string    `gorm:"primaryKey"`
	Day     time.Time `gorm:"primaryKey;type:date"`
	Count   int64     `gorm:"not null"`
}

// TableName says what the rows are.
func (Lost) TableName() string { return "kept_lost" }

// Kept keeps messages.
type Kept struct{ pg.Base }

// Mark tells messages apart: by their own id, or by their bytes.
func Mark(id string, body []byte) string {
	how, of := "b:", body
	if id != "" {
		how, of = "p:", []byte(id)
	}
	sum := sha256.Sum256(of)
	return how + hex.EncodeToString(sum[:16])
}

// Keep keeps a message, unless it is one that came before: by its own id at any time, by its
// bytes within so long, or for as long as it was not read. That one is returned then.
func (k *Kept) Keep(ctx context.Context, m Message, within time.Duration) (is Message, repeat bool, err error) {
	err = k.InTx(ctx, m.Channel, func(tx pg.Tx) error {
		h := fnv.New64a()
		fmt.Fprintf(h, "%d %s", m.Channel, m.Door)
		if err := tx.Exec("SELECT pg_advisory_xact_lock($1)", int64(h.Sum64())); err != nil { // two of the same at once
			return err
		}
		since := m.At.Add(-within)
		if m.Mark[0] == 'p' {
			since = time.Time{}
		}
		is = Message{Channel: m.Channel, Door: m.Door}
		err := tx.SQL.QueryRowContext(ctx, `SELECT id, mark, state, at, coalesce(body, ''), why FROM kept_messages WHERE channel = $1 AND door = $2 AND mark = $3 AND (at > $4 OR state = 'new') ORDER BY id LIMIT 1`,
			m.Channel, m.Door, m.Mark, since).Scan(&is.ID, &is.Mark, &is.State, &is.At, &is.Body, &is.Why)
		if err == nil {
			repeat = true
			return nil
		}
		if err != sql.ErrNoRows {
			return err
		}
		is = m
		return tx.SQL.QueryRowContext(ctx, `INSERT INTO kept_messages (channel, door, mark, state, at, body, why) VALUES ($1,$2,$3,$4,$5,$6,$7) RETURNING id`,
			m.Channel, m.Door, m.Mark, m.State, m.At, m.Body, m.Why).Scan(&is.ID)
	})
	return is, repeat, err
}

// Set says what became of a message.
func (k *Kept) Set(ctx context.Context, channel, id int64, state, why string) error {
	_, err := k.SQL.ExecContext(ctx, `UPDATE kept_messages SET state = $3, why = $4 WHERE channel = $1 AND id = $2 AND state <> 'gone'`, channel, id, state, why)
	return err
}

// List are the messages of a door that are kept, the newest first; at most so many of each state.
func (k *Kept) List(ctx context.Context, channel int64, door string, most int) ([]Message, error) {
	var out []Message
	err := k.DB.WithContext(ctx).Raw(`SELECT * FROM (SELECT *, row_number() OVER (PARTITION BY state = 'understood' ORDER BY id DESC) AS n FROM kept_messages
		WHERE channel = ? AND door = ? AND state <> 'gone') t WHERE n <= ? ORDER BY id DESC`, channel, door, most).Scan(&out).Error
	return out, err
}

// Waits are the messages of a door that nothing understands yet, the oldest first.
func (k *Kept) Waits(ctx context.Context, channel int64, door string) (out []Message, err error) {
	return out, k.DB.WithContext(ctx).Where("channel = ? AND door = ? AND state IN ?", channel, door, []string{Waiting, New}).Order("id").Find(&out).Error
}

// CountWaiting tells how many messages of each door nothing understands.
func (k *Kept) CountWaiting(ctx context.Context, channel int64) (map[string]int64, error) {
	var rows []struct {
		Door  string
		Count int64
	}
	err := k.DB.WithContext(ctx).Raw(`SELECT door, count(*) FROM kept_messages WHERE channel = ? AND state IN ('waiting', 'new') GROUP BY door`, channel).Scan(&rows).Error
	out := map[string]int64{}
	for _, r := range rows {
		out[r.Door] = r.Count
	}
	return out, err
}

// Fallen are how many messages of a door fell out, by day, the newest first.
func (k *Kept) Fallen(ctx context.Context, channel int64, door string) (out []Lost, err error) {
	return out, k.DB.WithContext(ctx).Where("channel = ? AND door = ?", channel, door).Order("day DESC").Limit(30).Find(&out).Error
}

// Empty drops all that is kept of a channel.
func (k *Kept) Empty(ctx context.Context, channel int64) error {
	return k.InTx(ctx, channel, Empty)
}

// Empty drops, within a transaction, all that is kept of its channel: somebody who may be in it was
// forgotten. What tells repeats stays.
func Empty(tx pg.Tx) error {
	return tx.Exec(`UPDATE kept_messages SET state = 'gone', body = NULL, why = '' WHERE channel = $1`, tx.Channel)
}

// Rename lets what is kept of a door go by the door's new name.
func (k *Kept) Rename(ctx context.Context, channel int64, from, to string) error {
	return k.InTx(ctx, channel, func(tx pg.Tx) error {
		if err := tx.Exec(`UPDATE kept_messages SET door = $3 WHERE channel = $1 AND door = $2`, channel, from, to); err != nil {
			return err
		}
		return tx.Exec(`UPDATE kept_lost SET door = $3 WHERE channel = $1 AND door = $2`, channel, from, to)
	})
}

// PruneOld drops what is too old of every door, those that are no more too.
func (k *Kept) PruneOld(ctx context.Context, channel int64, now time.Time) error {
	_, err := k.SQL.ExecContext(ctx, `DELETE FROM kept_messages WHERE channel = $1 AND at < $2 AND (state = 'gone' OR state = 'understood' OR at < $3)`, channel, now.Add(-For), now.Add(-2*For))
	return err
}

// Prune lets fall out what is too old or too much of a door, and counts what nothing understood.
func (k *Kept) Prune(ctx context.Context, channel int64, door string, now time.Time) error {
	return k.InTx(ctx, channel, func(tx pg.Tx) error {
		rows, err := tx.SQL.QueryContext(ctx, `WITH kept AS (
				SELECT id, state, at, row_number() OVER w AS n, sum(coalesce(length(body), 0)) OVER w AS bytes FROM kept_messages
				WHERE channel = $1 AND door = $2 AND state <> 'gone' WINDOW w AS (PARTITION BY state = 'understood' ORDER BY at DESC, id DESC)),
			falls AS (UPDATE kept_messages m SET state = 'gone', body = NULL, why = '' FROM kept k WHERE m.id = k.id AND
				(k.at < $3 OR k.state = 'understood' AND k.n > $4 OR k.state <> 'understood' AND (k.n > $5 OR k.bytes > $6)) RETURNING k.state)
			SELECT count(*) FILTER (WHERE state <> 'understood') FROM falls`, channel, door, now.Add(-For), MostUnderstood, MostWaiting, MostBytes)
		if err != nil {
			return err
		}
		var lost int64
		for rows.Next() {
			if err := rows.Scan(&lost); err != nil {
				return err
			}
		}
		if err := rows.Close(); err != nil {
			return err
		}
		if lost > 0 {
			if err := tx.Exec(`INSERT INTO kept_lost (channel, door, day, count) VALUES ($1,$2,$3::date,$4) ON CONFLICT (channel, door, day) DO UPDATE SET count = kept_lost.count + excluded.count`,
				channel, door, now, lost); err != nil {
				return err
			}
		}
		return tx.Exec(`DELETE FROM kept_messages WHERE channel = $1 AND door = $2 AND state = 'gone' AND at < $3`, channel, door, now.Add(-For))
	})
}
