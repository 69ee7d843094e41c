// Package store keeps the house in PostgreSQL: the log of events and decisions,
// the people it knows, the settings and their versions, and the members.
//
// [Store.Commit] is the main path: a batch of events, what was decided about
// them and what they change about people is written in one transaction, with the
// jobs of the relays. Everything carries its channel.
package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/stdlib"
	"gorm.io/driver/postgres"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"
)

// Store is a database with its tables in place.
type Store struct {
	DB  *gorm.DB
	SQL *sql.DB
}

// migrateLock is the advisory lock under which one process at a time brings the
// tables up to date; ownerLock is the first half of a channel's ownership lock.
const (
	migrateLock = 7_206_101
	ownerLock   = 7_206_102
)

// Open connects and brings the tables up to date.
func Open(ctx context.Context, url string) (*Store, error) {
	conf, err := pgx.ParseConfig(url)
	if err != nil {
		return nil, fmt.Errorf("the database's address cannot be read: %w", err)
	}
	// Compiling a query takes longer than any of ours runs.
	conf.RuntimeParams["jit"] = "off"
	sqlDB := stdlib.OpenDB(*conf)
	db, err := gorm.Open(postgres.New(postgres.Config{Conn: sqlDB}), &gorm.Config{
		Logger: logger.Discard, SkipDefaultTransaction: true, TranslateError: true,
	})
	if err != nil {
		return nil, fmt.Errorf("the database does not answer: %w", err)
	}
	sqlDB.SetMaxOpenConns(16)
	sqlDB.SetMaxIdleConns(8)
	sqlDB.SetConnMaxIdleTime(5 * time.Minute)
	s := &Store{DB: db, SQL: sqlDB}
	if err := s.migrate(ctx); err != nil {
		sqlDB.Close()
		return nil, err
	}
	return s, nil
}

// Close lets go of every connection.
func (s *Store) Close() error { return s.SQL.Close() }

// Ping asks whether the database answers.
func (s *Store) Ping(ctx context.Context) error { return s.SQL.PingContext(ctx) }

func (s *Store) migrate(ctx context.Context) error {
	conn, err := s.SQL.Conn(ctx)
	if err != nil {
		return fmt.Errorf("the database does not answer: %w", err)
	}
	defer conn.Close()
	if _, err := conn.ExecContext(ctx, "SELECT pg_advisory_lock($1)", migrateLock); err != nil {
		return err
	}
	defer conn.ExecContext(context.WithoutCancel(ctx), "SELECT pg_advisory_unlock($1)", migrateLock)
	books := s.DB.WithContext(ctx).Migrator().HasColumn(&Channel{}, "booked")
	if err := s.DB.WithContext(ctx).AutoMigrate(models...); err != nil {
		return fmt.Errorf("the tables cannot be brought up to date: %w", err)
	}
	if !books { // until now the book was written with the log
		if _, err := conn.ExecContext(ctx, "UPDATE channels c SET booked = coalesce((SELECT max(seq) FROM events e WHERE e.channel = c.id), 0)"); err != nil {
			return err
		}
	}
	// Counters change with every line: room on the page keeps those updates in place.
	for _, table := range []string{"accounts", "visits"} {
		if _, err := conn.ExecContext(ctx, "ALTER TABLE "+table+" SET (fillfactor = 70)"); err != nil {
			return err
		}
	}
	for _, q := range bookIndexes {
		if _, err := conn.ExecContext(ctx, q); err != nil {
			return fmt.Errorf("the guest book's indexes cannot be made (%s): %w", q, err)
		}
	}
	return migrateJobs(ctx, s.SQL)
}

// ErrOwned says that another process looks after the channel.
var ErrOwned = errors.New("another process owns this channel")

// Ownership is a channel held by this process: an advisory lock of a connection
// of its own.
type Ownership struct {
	store   *Store
	channel int64
	conn    *sql.Conn
}

// Own takes a channel for this process; ErrOwned when another has it.
func (s *Store) Own(ctx context.Context, channel int64) (*Ownership, error) {
	o := &Ownership{store: s, channel: channel}
	return o, o.take(ctx)
}

func (o *Ownership) take(ctx context.Context) error {
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
		return ErrOwned
	}
	o.conn = conn
	return nil
}

// keepEvery is how often an owner looks whether it still is one.
const keepEvery = 2 * time.Second

// Keep holds the channel until ctx ends. When the connection is lost the lock is
// gone with it: it is taken again as soon as the database answers, or ErrOwned is
// returned when another process was quicker.
func (o *Ownership) Keep(ctx context.Context) error {
	for {
		select {
		case <-ctx.Done():
			return nil
		case <-time.After(keepEvery):
		}
		if o.conn != nil {
			if _, err := o.conn.ExecContext(ctx, "SELECT 1"); err == nil {
				continue
			}
			o.conn.Close()
			o.conn = nil
		}
		if err := o.take(ctx); errors.Is(err, ErrOwned) {
			return err
		}
	}
}

// Release gives the channel back.
func (o *Ownership) Release() {
	if o.conn != nil {
		o.conn.ExecContext(context.Background(), "SELECT pg_advisory_unlock($1, $2)", ownerLock, o.channel)
		o.conn.Close()
	}
}

// Channel finds a channel by name, making it when it is new.
func (s *Store) Channel(ctx context.Context, name string) (int64, error) {
	c := Channel{Name: name}
	err := s.DB.WithContext(ctx).Where("name = ?", name).FirstOrCreate(&c).Error
	return c.ID, err
}
