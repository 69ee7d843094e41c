// Package store keeps the house in PostgreSQL, each part behind a small surface of its own:
// the log, the guest book and those who look into it, imports, members, the shelf, the
// safe, and the jobs of the relays. Everything carries its channel.
//
// [Store.Commit] is the main path: a batch of events, with what was decided about them, goes
// into the log, and what it changes about people into the book.
package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/stdlib"
	"gorm.io/driver/postgres"
	"gorm.io/gorm"
	"gorm.io/gorm/clause"
	"gorm.io/gorm/logger"

	"vividporch/store/book"
	"vividporch/store/evenings"
	"vividporch/store/find"
	"vividporch/store/forget"
	"vividporch/store/imports"
	"vividporch/store/jobs"
	"vividporch/store/kept"
	"vividporch/store/keys"
	"vividporch/store/log"
	"vividporch/store/lookbacks"
	"vividporch/store/members"
	"vividporch/store/moving"
	"vividporch/store/pg"
	"vividporch/store/safe"
	"vividporch/store/shelf"
	"vividporch/store/signin"
	"vividporch/store/tables"
)

// Store is a database with its tables in place.
type Store struct {
	pg.Base

	Log       *log.Log
	Book      *book.Book
	Find      *find.Find
	Privacy   *forget.Privacy
	Imports   *imports.Imports
	Members   *members.Members
	Shelf     *shelf.Shelf
	Safe      *safe.Safe
	Jobs      *jobs.Jobs
	Moving    *moving.Moving
	Evenings  *evenings.Evenings
	Lookbacks *lookbacks.Lookbacks
	Keys      *keys.Keys
	Kept      *kept.Kept
	SignIns   *signin.SignIns
}

// Open connects and brings the tables up to date.
func Open(ctx context.Context, url string) (*Store, error) { return OpenWith(ctx, url, nil) }

// OpenWith is Open that does something first before the tables of a house that is there already are
// brought up to date; nothing is changed when it fails.
func OpenWith(ctx context.Context, url string, before func(context.Context, *Store) error) (*Store, error) {
	conf, err := pgx.ParseConfig(url)
	if err != nil {
		return nil, fmt.Errorf("the database's address cannot be read: %w", err)
	}
	// Compiling a query takes longer than any of ours runs.
	conf.RuntimeParams["jit"] = "off"
	sqlDB := stdlib.OpenDB(*conf)
	// What is done at every batch is planned once a connection: planning takes longer than
	// doing it. What it asks by leads to an index whatever the values are.
	often := conf.Copy()
	often.RuntimeParams["plan_cache_mode"] = "force_generic_plan"
	hot := stdlib.OpenDB(*often)
	db, err := gorm.Open(postgres.New(postgres.Config{Conn: sqlDB}), &gorm.Config{
		Logger: logger.Discard, SkipDefaultTransaction: true, TranslateError: true,
	})
	if err != nil {
		return nil, fmt.Errorf("the database does not answer: %w", err)
	}
	sqlDB.SetMaxOpenConns(16)
	sqlDB.SetMaxIdleConns(8)
	sqlDB.SetConnMaxIdleTime(5 * time.Minute)
	hot.SetMaxOpenConns(4)
	hot.SetMaxIdleConns(4)
	base := pg.Base{DB: db, SQL: sqlDB}
	book := &book.Book{Base: base, Hot: pg.Base{DB: db, SQL: hot}}
	s := &Store{
		Base: base, Log: &log.Log{Base: base, Hot: book.Hot},
		Book: book, Find: &find.Find{Base: base, Book: book}, Privacy: &forget.Privacy{Base: base}, Imports: &imports.Imports{Base: base, Book: book},
		Members: &members.Members{Base: base}, Shelf: &shelf.Shelf{Base: base}, Safe: &safe.Safe{Base: base}, Jobs: &jobs.Jobs{Base: base}, Moving: &moving.Moving{Base: base}, Evenings: &evenings.Evenings{Base: base}, Lookbacks: &lookbacks.Lookbacks{Base: base}, Keys: &keys.Keys{Base: base}, Kept: &kept.Kept{Base: base}, SignIns: &signin.SignIns{Base: base},
	}
	if err := s.migrate(ctx, before); err != nil {
		s.Close()
		return nil, err
	}
	return s, nil
}

// Close lets go of every connection.
func (s *Store) Close() error { return errors.Join(s.SQL.Close(), s.Log.Hot.SQL.Close()) }

// Ping asks whether the database answers.
func (s *Store) Ping(ctx context.Context) error { return s.SQL.PingContext(ctx) }

// Channel finds a channel by name, making it when it is new.
func (s *Store) Channel(ctx context.Context, name string) (int64, error) {
	c := tables.Channel{Name: name}
	err := s.DB.WithContext(ctx).Clauses(clause.OnConflict{DoNothing: true}).Where("name = ?", name).FirstOrCreate(&c).Error
	if err == nil && c.ID == 0 { // another process made it in this moment
		err = s.DB.WithContext(ctx).Where("name = ?", name).First(&c).Error
	}
	return c.ID, err
}

// Channels are the names of the channels that the database holds.
func (s *Store) Channels(ctx context.Context) (names []string, err error) {
	return names, s.DB.WithContext(ctx).Model(&tables.Channel{}).Order("name").Pluck("name", &names).Error
}

// ChannelName is the name by which a channel's house is started.
func (s *Store) ChannelName(ctx context.Context, id int64) (string, error) {
	c := tables.Channel{}
	err := pg.None(s.DB.WithContext(ctx).First(&c, id).Error)
	return c.Name, err
}

// Houses are the settings in force of every channel but one.
func (s *Store) Houses(ctx context.Context, but int64) (docs []json.RawMessage, err error) {
	return docs, s.DB.WithContext(ctx).Raw("SELECT DISTINCT ON (channel) doc FROM settings_versions WHERE channel <> ? ORDER BY channel, version DESC", but).Scan(&docs).Error
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
