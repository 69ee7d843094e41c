package store

import (
	"context"
	"crypto/sha256"
	_ "embed"
	"encoding/hex"
	"fmt"
	"reflect"
	"slices"

	"vividporch/store/evenings"
	"vividporch/store/jobs"
	"vividporch/store/kept"
	"vividporch/store/keys"
	"vividporch/store/log"
	"vividporch/store/lookbacks"
	"vividporch/store/moving"
	"vividporch/store/safe"
	"vividporch/store/signin"
	"vividporch/store/tables"
)

// migrateLock is the advisory lock under which one process at a time brings the tables up
// to date.
const migrateLock = 7_206_101

// all are the rows of every table of ours.
var all = slices.Concat(tables.All, []any{&safe.Secret{}, &safe.AllowedHost{}, &jobs.Delivery{}, &log.SetAside{}, &log.Owner{}, &moving.Step{}, &evenings.Evening{}, &lookbacks.Made{}, &keys.Key{}, &kept.Message{}, &kept.Lost{}, &signin.SignIn{}})

//go:embed migrate.go
var steps string

// shape tells one state of the tables from another: by the rows, the indexes, what this file
// does, and the queue's own version.
func shape() (string, error) {
	h := sha256.New()
	for _, row := range all {
		t := reflect.TypeOf(row).Elem()
		fmt.Fprintln(h, t)
		for i := range t.NumField() {
			f := t.Field(i)
			fmt.Fprintln(h, f.Name, f.Type, f.Tag)
		}
	}
	queue, err := jobs.Version()
	fmt.Fprintln(h, tables.Indexes, jobs.Indexes, steps, queue)
	return hex.EncodeToString(h.Sum(nil)), err
}

// Migrate brings the tables up to date again, after others were put in their place.
func (s *Store) Migrate(ctx context.Context) error { return s.migrate(ctx, nil) }

// migrate brings the tables up to date, one process at a time. Where they are already, it does
// nothing: looking at every table takes longer than the rest of a start.
func (s *Store) migrate(ctx context.Context, before func(context.Context, *Store) error) error {
	now, err := shape()
	if err != nil {
		return err
	}
	var was string
	if err := s.SQL.QueryRowContext(ctx, "SELECT shape FROM tables_shape").Scan(&was); err == nil && was == now {
		return nil
	}
	if was != "" && before != nil {
		if err := before(ctx, s); err != nil {
			return err
		}
	}
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
	posts := s.DB.WithContext(ctx).Migrator().HasTable("posts")
	books := s.DB.WithContext(ctx).Migrator().HasColumn(&tables.Channel{}, "booked")
	if err := s.DB.WithContext(ctx).AutoMigrate(all...); err != nil {
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
	for _, q := range jobs.Indexes {
		if _, err := conn.ExecContext(ctx, q); err != nil {
			return fmt.Errorf("the indexes of what goes to places cannot be made (%s): %w", q, err)
		}
	}
	if err := jobs.Migrate(ctx, s.SQL); err != nil {
		return err
	}
	if posts { // until now each post was a job of its own
		if err := jobs.Lift(ctx, conn); err != nil {
			return err
		}
	}
	_, err = conn.ExecContext(ctx, "CREATE TABLE IF NOT EXISTS tables_shape (shape text NOT NULL); DELETE FROM tables_shape; INSERT INTO tables_shape VALUES ('"+now+"')")
	return err
}
