// Package book writes the guest book: what a batch of the log says about people, and what
// members did to the book; and it tells the house who is behind an account ([Book.Known]).
package book

import (
	"cmp"
	"context"
	"errors"
	"slices"

	"vividporch/store/log"
	"vividporch/store/pg"
	"vividporch/store/record"
)

// Book is the guest book.
type Book struct {
	pg.Base
	Hot pg.Base // for what is done at every batch
}

// Within writes into the guest book, in the transaction of the log, what a batch says about
// people and what members did to it.
func (s *Book) Within(tx pg.Tx, b *log.Batch) error {
	w := writer{tx}
	for _, step := range []func(*log.Batch) error{w.people, w.book, w.booked} {
		if err := step(b); err != nil && err != errBooked {
			return err
		}
	}
	return nil
}

// Write writes into the guest book what a batch in the log says about people. It may be
// called again for one whose answer was lost, and for one of which somebody else has written
// the beginning: what stands in the book already is left out.
func (s *Book) Write(ctx context.Context, channel int64, b *log.Batch) error {
	for {
		err := s.Hot.InTx(ctx, channel, func(tx pg.Tx) error {
			if b.Epoch > 0 {
				if err := log.Fence(ctx, tx.SQL, channel, b.Epoch); err != nil {
					return err
				}
			}
			have, err := booked(ctx, tx.SQL, channel)
			if err != nil || have >= b.Last() {
				return err
			}
			rest := *b
			for rest.Entries[0].Event.Seq <= have {
				rest.Entries = rest.Entries[1:]
			}
			w := writer{tx}
			for _, step := range []func(*log.Batch) error{w.people, w.booked} { // the channel's row last: others wait for it
				if err := step(&rest); err != nil {
					return err
				}
			}
			return nil
		})
		if !errors.Is(err, errBooked) {
			return err
		}
	}
}

// writer writes what a batch holds into the guest book.
type writer struct{ pg.Tx }

// booked notes how far the book has come; errBooked when somebody else has brought it there
// meanwhile.
func (w writer) booked(b *log.Batch) error {
	r, err := w.SQL.ExecContext(w.Ctx, "UPDATE channels SET booked = $2 WHERE id = $1 AND booked < $3", w.Channel, b.Last(), b.Entries[0].Event.Seq)
	if err != nil {
		return err
	}
	if n, err := r.RowsAffected(); err != nil || n == 0 {
		return cmp.Or(err, errBooked)
	}
	return nil
}

// errBooked says that a batch stands in the guest book already.
var errBooked = errors.New("booked already")

// Count is how many people stand in the guest book.
func (s *Book) Count(ctx context.Context, channel int64) (n int64, err error) {
	return n, s.SQL.QueryRowContext(ctx, "SELECT count(*) FROM people WHERE channel = $1 AND listed", channel).Scan(&n)
}

// Booked is the number up to which the log stands in the guest book.
func (s *Book) Booked(ctx context.Context, channel int64) (n int64, err error) {
	return booked(ctx, s.SQL, channel)
}

func booked(ctx context.Context, q pg.Queryer, channel int64) (n int64, err error) {
	return n, q.QueryRowContext(ctx, "SELECT booked FROM channels WHERE id = $1", channel).Scan(&n)
}

// SkipBook leaves an event out of the guest book that cannot be written there.
func (s *Book) SkipBook(ctx context.Context, channel, seq int64) error {
	_, err := s.SQL.ExecContext(ctx, `UPDATE channels SET booked = $2 WHERE id = $1 AND booked < $2`, channel, seq)
	return err
}

// Refresh works out anew the rows of persons.
func (s *Book) Refresh(ctx context.Context, channel int64, k *record.Reckoning, persons []int64) error {
	for part := range slices.Chunk(persons, 2000) {
		if err := record.Refresh(ctx, s.SQL, channel, k, part, nil); err != nil {
			return err
		}
	}
	return nil
}
