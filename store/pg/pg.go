// Package pg is what every part of the store stands on: the connection, a transaction for a
// channel, and what is said when there is no such row.
package pg

import (
	"context"
	"database/sql"
	"errors"
	"strings"

	"gorm.io/gorm"
)

// Base is a database with its tables in place: what every part of the store stands on.
type Base struct {
	DB  *gorm.DB
	SQL *sql.DB
}

// InTx does something for a channel within one transaction.
func (b *Base) InTx(ctx context.Context, channel int64, f func(Tx) error) error {
	tx, err := b.SQL.BeginTx(ctx, nil)
	if err != nil {
		return err
	}
	defer tx.Rollback()
	if err := f(Tx{ctx, tx, channel}); err != nil {
		return err
	}
	return tx.Commit()
}

// Queryer is a connection, a transaction or the pool.
type Queryer interface {
	QueryContext(context.Context, string, ...any) (*sql.Rows, error)
	QueryRowContext(context.Context, string, ...any) *sql.Row
	ExecContext(context.Context, string, ...any) (sql.Result, error)
}

// Tx reads and writes for a channel, all but single statements in a transaction.
type Tx struct {
	Ctx     context.Context
	SQL     Queryer
	Channel int64
}

// Exec does a statement.
func (t Tx) Exec(q string, args ...any) error {
	_, err := t.SQL.ExecContext(t.Ctx, q, args...)
	return err
}

// Numbers are what a query about the channel ($1) and something else ($2) finds.
func (t Tx) Numbers(q string, arg any) ([]int64, error) {
	rows, err := t.SQL.QueryContext(t.Ctx, q, t.Channel, arg)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []int64
	for rows.Next() {
		var n int64
		if err := rows.Scan(&n); err != nil {
			return nil, err
		}
		out = append(out, n)
	}
	return out, rows.Err()
}

// LockSnapshots lets one transaction at a time change a channel's snapshots: a state that
// was written down before a forgetting must not come in behind it.
func (t Tx) LockSnapshots() error {
	return t.Exec("SELECT 1 FROM channels WHERE id = $1 FOR UPDATE", t.Channel)
}

// ErrNone says that there is no such row.
var ErrNone = errors.New("store: none")

// None is ErrNone for what GORM says when it finds no row.
func None(err error) error {
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return ErrNone
	}
	return err
}

// Back brings a row back that was taken away, as its column away tells, by its channel and name; [ErrNone]
// when it is gone for good.
func Back(db *gorm.DB, row any, channel int64, name string) error {
	got := db.Unscoped().Model(row).Where("channel = ? AND name = ? AND away IS NOT NULL", channel, name).Update("away", nil)
	if got.Error == nil && got.RowsAffected == 0 {
		return ErrNone
	}
	return got.Error
}

// Begins is the pattern of LIKE for what begins with a text.
func Begins(s string) string {
	return strings.NewReplacer(`\`, `\\`, "%", `\%`, "_", `\_`).Replace(s) + "%"
}
