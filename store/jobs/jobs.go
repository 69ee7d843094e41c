// Package jobs keeps how deliveries to places stand. The queue itself is River's.
package jobs

import (
	"context"
	"database/sql"
	"fmt"
	"time"

	"github.com/riverqueue/river/riverdriver/riverdatabasesql"
	"github.com/riverqueue/river/rivermigrate"
	"gorm.io/gorm/clause"

	"vividporch/store/pg"
)

// Version is that of River's tables, as this program wants them.
func Version() (int, error) {
	m, err := rivermigrate.New(riverdatabasesql.New(nil), nil)
	if err != nil {
		return 0, err
	}
	all := m.AllVersions()
	return all[len(all)-1].Version, nil
}

// Migrate brings River's tables up to date.
func Migrate(ctx context.Context, db *sql.DB) error {
	m, err := rivermigrate.New(riverdatabasesql.New(db), nil)
	if err != nil {
		return err
	}
	if _, err := m.Migrate(ctx, rivermigrate.DirectionUp, nil); err != nil {
		return fmt.Errorf("the job tables cannot be brought up to date: %w", err)
	}
	return nil
}

// Jobs are how deliveries to places stand; the queue itself is River's.
type Jobs struct{ pg.Base }

// Post is how the delivery of one post to a place stands. It is what "at most
// once" rests on for a place that ignores idempotency keys: an attempt is noted
// before it is made.
type Post struct {
	Channel  int64     `gorm:"primaryKey;autoIncrement:false"`
	Line     string    `gorm:"primaryKey"`
	Place    string    `gorm:"primaryKey"`
	State    string    `gorm:"not null"` // "trying", "delayed", "delivered", "failed", "unclear"
	Attempts int       `gorm:"not null"`
	Reason   string    `gorm:"not null;default:''"`
	Changed  time.Time `gorm:"not null"`
}

// SetPost notes how a delivery stands.
func (s *Jobs) SetPost(ctx context.Context, p Post) error {
	p.Changed = time.Now()
	return s.DB.WithContext(ctx).Clauses(clause.OnConflict{UpdateAll: true}).Create(&p).Error
}

// PostOf returns how a delivery stands; the zero Post when it was never tried.
func (s *Jobs) Post(ctx context.Context, channel int64, line, place string) (Post, error) {
	var p Post
	err := s.DB.WithContext(ctx).Where("channel = ? AND line = ? AND place = ?", channel, line, place).Limit(1).Find(&p).Error
	return p, err
}

// FreeJobs gives back the jobs of a queue that a process which is gone had begun.
// Only the owner of the channel may call it: nobody else works that queue.
func (s *Jobs) Free(ctx context.Context, queue string) error {
	_, err := s.SQL.ExecContext(ctx, `UPDATE river_job SET state = 'available', scheduled_at = now() WHERE queue = $1 AND state = 'running'`, queue)
	return err
}
