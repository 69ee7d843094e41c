// Package store keeps the house in PostgreSQL: the log of events and decisions,
// the people it knows, the settings and their versions, and the members.
//
// [Store.Commit] is the main path: a batch of events, what was decided about
// them and what they change about people is written in one transaction, with the
// jobs of the relays. Everything carries its channel.
package store

import (
	"context"
	"crypto/cipher"
	"database/sql"
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

	aead cipher.AEAD // that secrets are sealed with; nil before UseKey
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
	counts := s.DB.WithContext(ctx).Migrator().HasColumn(&Person{}, "lines")
	books := s.DB.WithContext(ctx).Migrator().HasColumn(&Channel{}, "booked")
	if err := s.DB.WithContext(ctx).AutoMigrate(models...); err != nil {
		return fmt.Errorf("the tables cannot be brought up to date: %w", err)
	}
	// A draft used to be the courtesy's; it is a member's.
	if _, err := conn.ExecContext(ctx, `DO $$ BEGIN IF NOT EXISTS (SELECT 1 FROM information_schema.key_column_usage WHERE table_schema = current_schema() AND table_name = 'drafts' AND constraint_name = 'drafts_pkey' AND column_name = 'member') THEN
		ALTER TABLE drafts DROP CONSTRAINT drafts_pkey; ALTER TABLE drafts ADD PRIMARY KEY (channel, courtesy, member); END IF; END $$`); err != nil {
		return err
	}
	if !books { // until now the book was written with the log
		if _, err := conn.ExecContext(ctx, "UPDATE channels c SET booked = coalesce((SELECT max(seq) FROM events e WHERE e.channel = c.id), 0)"); err != nil {
			return err
		}
	}
	if !counts { // until now lines and support were counted by account alone
		if _, err := conn.ExecContext(ctx, `UPDATE people p SET lines = t.lines, support = t.support FROM (SELECT a.channel, a.person, sum(a.lines) AS lines,
			sum((SELECT count(*) FROM supports u WHERE u.channel = a.channel AND u.key = a.key)) AS support FROM accounts a GROUP BY a.channel, a.person) t
			WHERE p.channel = t.channel AND p.id = t.person AND t.lines + t.support > 0`); err != nil {
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

// Channel finds a channel by name, making it when it is new.
func (s *Store) Channel(ctx context.Context, name string) (int64, error) {
	c := Channel{Name: name}
	err := s.DB.WithContext(ctx).Where("name = ?", name).FirstOrCreate(&c).Error
	return c.ID, err
}
