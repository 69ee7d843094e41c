// Package store keeps the house in PostgreSQL, each part behind a small surface of its own:
// the log, the guest book and those who look into it, imports, members, the shelf, the
// safe, and the jobs of the relays. Everything carries its channel.
//
// [Store.Commit] is the main path: a batch of events, with what was decided about them, goes
// into the log, and what it changes about people into the book.
package store

import (
	"context"
	"fmt"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/stdlib"
	"gorm.io/driver/postgres"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"

	"vividporch/store/book"
	"vividporch/store/find"
	"vividporch/store/forget"
	"vividporch/store/imports"
	"vividporch/store/jobs"
	"vividporch/store/log"
	"vividporch/store/members"
	"vividporch/store/pg"
	"vividporch/store/safe"
	"vividporch/store/shelf"
	"vividporch/store/tables"
)

// Store is a database with its tables in place.
type Store struct {
	pg.Base

	Log     *log.Log
	Book    *book.Book
	Find    *find.Find
	Privacy *forget.Privacy
	Imports *imports.Imports
	Members *members.Members
	Shelf   *shelf.Shelf
	Safe    *safe.Safe
	Jobs    *jobs.Jobs
}

// migrateLock is the advisory lock under which one process at a time brings the tables up
// to date.
const migrateLock = 7_206_101

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
	base := pg.Base{DB: db, SQL: sqlDB}
	book := &book.Book{Base: base}
	s := &Store{
		Base: base, Log: &log.Log{Base: base},
		Book: book, Find: &find.Find{Base: base, Book: book}, Privacy: &forget.Privacy{Base: base}, Imports: &imports.Imports{Base: base, Book: book},
		Members: &members.Members{Base: base}, Shelf: &shelf.Shelf{Base: base}, Safe: &safe.Safe{Base: base}, Jobs: &jobs.Jobs{Base: base},
	}
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
	counts := s.DB.WithContext(ctx).Migrator().HasColumn(&tables.Person{}, "support")
	tallies := s.DB.WithContext(ctx).Migrator().HasTable(&tables.Tally{})
	books := s.DB.WithContext(ctx).Migrator().HasColumn(&tables.Channel{}, "booked")
	if err := s.DB.WithContext(ctx).AutoMigrate(append(tables.All, &safe.Secret{}, &safe.AllowedHost{}, &jobs.Post{}, &log.SetAside{}, &log.Owner{})...); err != nil {
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
	if !counts { // until now support was counted by account alone
		if _, err := conn.ExecContext(ctx, `UPDATE people p SET support = t.support FROM (SELECT a.channel, a.person, count(*) AS support
			FROM accounts a JOIN supports u ON u.channel = a.channel AND u.key = a.key GROUP BY a.channel, a.person) t WHERE p.channel = t.channel AND p.id = t.person`); err != nil {
			return err
		}
	}
	if !tallies { // until now lines were counted by account, or in the person's row
		for _, q := range []string{
			`INSERT INTO tallies (channel, person, lines) SELECT channel, person, sum(lines) FROM accounts GROUP BY channel, person`,
			`DROP INDEX IF EXISTS people_by_lines`,
			`ALTER TABLE people DROP COLUMN IF EXISTS lines`,
		} {
			if _, err := conn.ExecContext(ctx, q); err != nil {
				return err
			}
		}
	}
	// Counters change with every line: room on the page keeps those updates in place.
	for _, table := range []string{"accounts", "visits", "tallies"} {
		if _, err := conn.ExecContext(ctx, "ALTER TABLE "+table+" SET (fillfactor = 70)"); err != nil {
			return err
		}
	}
	for _, q := range tables.Indexes {
		if _, err := conn.ExecContext(ctx, q); err != nil {
			return fmt.Errorf("the guest book's indexes cannot be made (%s): %w", q, err)
		}
	}
	return jobs.Migrate(ctx, s.SQL)
}

// Channel finds a channel by name, making it when it is new.
func (s *Store) Channel(ctx context.Context, name string) (int64, error) {
	c := tables.Channel{Name: name}
	err := s.DB.WithContext(ctx).Where("name = ?", name).FirstOrCreate(&c).Error
	return c.ID, err
}

// Commit writes a batch in one transaction: the log, and the guest book with it unless that
// comes later. When it returns an error the batch may still have been written (the answer
// to the commit was lost): Log.Written tells.
func (s *Store) Commit(ctx context.Context, channel int64, b *log.Batch) error {
	if b.Later {
		return s.Log.Commit(ctx, channel, b)
	}
	return s.Log.Commit(ctx, channel, b, s.Book.Within)
}
