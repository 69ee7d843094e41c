package log

import (
	"context"
	"database/sql"
	"errors"
	"time"

	"vividporch/store/pg"
)

// ownerLock is the first half of a channel's ownership lock; the second is its number.
const ownerLock = 7_206_102

// ErrHeld says that another process looks after the channel.
var ErrHeld = errors.New("another process owns this channel")

// Owner is who looks after a channel: each process that takes it over raises Epoch by
// one, and whatever was taken under an earlier one can write no more.
type Owner struct {
	Channel int64     `gorm:"primaryKey;autoIncrement:false"`
	Epoch   int64     `gorm:"not null"`
	Since   time.Time `gorm:"not null"`
}

// Ownership is a channel held by this process: an advisory lock of a connection of its
// own, and an epoch that every commit is held against. The lock tells who may take the
// channel, the epoch who has it: a lock may be lost without anybody noticing, an epoch
// may not.
type Ownership struct {
	Epoch   int64
	store   *Log
	channel int64
	conn    *sql.Conn
}

// Times of owning.
const (
	keepEvery  = 2 * time.Second // between two looks whether it still is so
	lookWithin = 3 * time.Second // a look that takes longer has found the database gone
)

// Hold takes a channel for this process; ErrHeld when another has it.
func (s *Log) Hold(ctx context.Context, channel int64) (*Ownership, error) {
	o, err := s.Lock(ctx, channel)
	if err != nil {
		return nil, err
	}
	if err := o.Claim(ctx); err != nil {
		o.conn.Close()
		return nil, err
	}
	return o, nil
}

// Lock keeps everybody else from taking a channel, and writes nothing: for what is done to the tables
// themselves. ErrHeld when another process has it.
func (s *Log) Lock(ctx context.Context, channel int64) (*Ownership, error) {
	o := &Ownership{store: s, channel: channel}
	ctx, cancel := context.WithTimeout(ctx, lookWithin)
	defer cancel()
	return o, o.lock(ctx)
}

// Claim makes a locked channel this process's own.
func (o *Ownership) Claim(ctx context.Context) error {
	ctx, cancel := context.WithTimeout(ctx, lookWithin)
	defer cancel()
	// Waits for a commit that the owner before still has under way.
	return o.conn.QueryRowContext(ctx, `INSERT INTO owners (channel, epoch, since) VALUES ($1, 1, now())
		ON CONFLICT (channel) DO UPDATE SET epoch = owners.epoch + 1, since = now() RETURNING epoch`, o.channel).Scan(&o.Epoch)
}

func (o *Ownership) lock(ctx context.Context) error {
	conn, err := o.store.SQL.Conn(ctx)
	if err != nil {
		return err
	}
	var got bool
	if err := conn.QueryRowContext(ctx, "SELECT pg_try_advisory_lock($1, $2)", ownerLock, o.channel).Scan(&got); err != nil {
		conn.Close()
		return err
	}
	if !got {
		conn.Close()
		return ErrHeld
	}
	o.conn = conn
	return nil
}

// Keep holds the channel until ctx ends. When the connection is lost the lock is gone
// with it: it is taken again as soon as the database answers. ErrHeld is returned when
// another process has taken the channel meanwhile.
func (o *Ownership) Keep(ctx context.Context) error {
	for {
		select {
		case <-ctx.Done():
			return nil
		case <-time.After(keepEvery):
		}
		if err := o.look(ctx); errors.Is(err, ErrHeld) {
			return err
		}
	}
}

// look makes sure that the lock is held and the epoch is still this process's. A stop does not break it off: that would
// close the connection, and the server frees its lock only when it has noticed.
func (o *Ownership) look(ctx context.Context) error {
	ctx, cancel := context.WithTimeout(context.WithoutCancel(ctx), lookWithin)
	defer cancel()
	if o.conn != nil {
		if _, err := o.conn.ExecContext(ctx, "SELECT 1"); err == nil {
			return nil
		}
		o.conn.Close()
		o.conn = nil
	}
	// The lock may still be held by what is left of this process's own lost connection.
	locked := o.lock(ctx)
	if locked != nil && !errors.Is(locked, ErrHeld) {
		return locked
	}
	return Fence(ctx, o.store.SQL, o.channel, o.Epoch)
}

// Fence is ErrHeld when a channel is no longer held under an epoch.
func Fence(ctx context.Context, q pg.Queryer, channel, epoch int64) error {
	var now int64
	if err := q.QueryRowContext(ctx, "SELECT epoch FROM owners WHERE channel = $1", channel).Scan(&now); err != nil {
		return err
	}
	if now != epoch {
		return ErrHeld
	}
	return nil
}

// Release gives the channel back.
func (o *Ownership) Release() {
	if o.conn != nil {
		ctx, cancel := context.WithTimeout(context.Background(), lookWithin)
		defer cancel()
		o.conn.ExecContext(ctx, "SELECT pg_advisory_unlock($1, $2)", ownerLock, o.channel)
		o.conn.Close()
	}
}
