package log

import (
	"context"
	"database/sql"
	"database/sql/driver"
	"encoding/json"
	"errors"
	"io"
	"net"
	"time"

	"github.com/jackc/pgx/v5/pgconn"

	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/store/pg"
)

// SetAside is an event that could not be lived or written for what it is. It waits for
// a member to try it again or to drop it.
type SetAside struct {
	Channel int64     `gorm:"primaryKey;autoIncrement:false"`
	ID      int64     `gorm:"primaryKey;autoIncrement:false"`
	At      time.Time `gorm:"not null"`
	Door    string    `gorm:"not null"`
	Type    string    `gorm:"not null"`
	Person  string    `gorm:"not null;default:''"`
	Cause   string    `gorm:"not null"`
	Event   []byte    `gorm:"not null"` // as CloudEvents JSON, byte for byte: what was wrong may be in it
}

// TableName keeps it in the singular.
func (SetAside) TableName() string { return "set_aside" }

// Waits reports whether an error is one that waiting can heal: the database is gone,
// hangs, restarts, is short of something or is being mended. Everything else is an
// error about what was to be written (SQLSTATE classes 22, 23 and 54, PostgreSQL's
// appendix A), or one of ours, and comes again however often it is tried.
func Waits(err error) bool {
	var pg *pgconn.PgError
	var connect *pgconn.ConnectError
	var netErr net.Error
	switch {
	case err == nil:
		return false
	case errors.As(err, &pg):
		switch pg.Code[:min(2, len(pg.Code))] {
		case "22", "23", "54":
			return false
		}
		return true
	case errors.As(err, &connect), errors.As(err, &netErr), errors.Is(err, context.DeadlineExceeded), errors.Is(err, context.Canceled),
		errors.Is(err, driver.ErrBadConn), errors.Is(err, sql.ErrConnDone), errors.Is(err, sql.ErrTxDone), errors.Is(err, io.EOF), errors.Is(err, io.ErrUnexpectedEOF), errors.Is(err, net.ErrClosed):
		return true
	}
	return pgconn.SafeToRetry(err)
}

// Cause says why something was set aside, without telling what was in it.
func Cause(err error) string {
	var pg *pgconn.PgError
	if !errors.As(err, &pg) {
		return "the house could not write it down"
	}
	switch pg.Code[:min(2, len(pg.Code))] {
	case "22":
		return "it holds something that the database cannot keep (SQLSTATE " + pg.Code + ")"
	case "23":
		return "the database holds it to be there already (SQLSTATE " + pg.Code + ")"
	}
	return "it is too large for the database (SQLSTATE " + pg.Code + ")"
}

// AddAside sets an event aside and returns the number it is found under.
func (s *Log) AddAside(ctx context.Context, channel int64, ev *event.Event, cause string) (id int64, err error) {
	raw, person := bareOf(ev)
	row := SetAside{Door: event.Shortened(event.CleanText(ev.Door), 200), Type: event.Shortened(event.CleanText(ev.Type), 200), Cause: event.CleanText(cause), Person: event.Shortened(event.CleanText(person), 400)}
	err = s.SQL.QueryRowContext(ctx, `INSERT INTO set_aside (channel, id, at, door, type, person, cause, event)
		SELECT $1, coalesce(max(id), 0) + 1, now(), $2, $3, $4, $5, $6 FROM set_aside WHERE channel = $1 RETURNING id`,
		channel, row.Door, row.Type, row.Person, row.Cause, raw).Scan(&id)
	return id, err
}

// bareOf is an event as JSON and whom it is about, or as much of it as can be had: it
// is one that something stumbled over.
func bareOf(ev *event.Event) (raw []byte, person string) {
	bare, _ := json.Marshal(map[string]any{"specversion": "1.0", "id": ev.ID, "source": ev.Source, "type": ev.Type, "door": ev.Door})
	defer func() {
		if recover() != nil {
			raw = bare
		}
	}()
	raw, err := json.Marshal(ev)
	if err != nil {
		raw = bare
	}
	if who := ev.Who(); who != nil {
		person = who.Key()
	}
	return raw, person
}

// TakeAside takes an event that was set aside out again; ErrNone when it is not there.
func (s *Log) TakeAside(ctx context.Context, channel, id int64) (ev event.Event, err error) {
	var raw []byte
	err = s.SQL.QueryRowContext(ctx, `DELETE FROM set_aside WHERE channel = $1 AND id = $2 RETURNING event`, channel, id).Scan(&raw)
	if errors.Is(err, sql.ErrNoRows) {
		return ev, pg.ErrNone
	}
	if err != nil {
		return ev, err
	}
	return happening.Kinds.Parse(raw)
}

// AsideIDs lists the events that are set aside, by the door and id each came with.
func (s *Log) AsideIDs(ctx context.Context, channel int64) ([]string, error) {
	var out []string
	err := s.DB.WithContext(ctx).Raw(`SELECT door || ' ' || coalesce(convert_from(event, 'UTF8')::json->>'id', '') FROM set_aside WHERE channel = ?`, channel).Scan(&out).Error
	return out, err
}
