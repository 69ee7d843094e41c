// Package lookbacks keeps what became of each stream, worked out once when it closed: by accounts,
// with nobody's name in it.
package lookbacks

import (
	"context"
	"encoding/json"
	"time"

	"gorm.io/gorm/clause"

	"vividporch/core/lookback"
	"vividporch/store/pg"
)

// Made is what became of a stream.
type Made struct {
	Channel int64           `gorm:"primaryKey;autoIncrement:false"`
	Stream  int             `gorm:"primaryKey;autoIncrement:false"`
	Doc     json.RawMessage `gorm:"type:json;not null"` // lookback.Evening
	Made    time.Time       `gorm:"not null"`
	Stale   bool            `gorm:"not null;default:false"` // something came late: it is to be made anew
}

// TableName says what of.
func (Made) TableName() string { return "lookbacks" }

// Lookbacks keeps them.
type Lookbacks struct{ pg.Base }

// When is when one was made, and whether something came late since.
type When struct {
	At    time.Time
	Stale bool
}

// Of is that of a stream; ErrNone when it is not made yet.
func (s *Lookbacks) Of(ctx context.Context, channel int64, stream int) (e lookback.Evening, made When, err error) {
	var m Made
	if err := pg.None(s.DB.WithContext(ctx).Where("channel = ? AND stream = ?", channel, stream).First(&m).Error); err != nil {
		return e, made, err
	}
	return e, When{m.Made, m.Stale}, json.Unmarshal(m.Doc, &e)
}

// Some are those of some streams, by their numbers.
func (s *Lookbacks) Some(ctx context.Context, channel int64, streams []int) (map[int]lookback.Evening, error) {
	var list []Made
	if err := s.DB.WithContext(ctx).Where("channel = ? AND stream IN ?", channel, streams).Find(&list).Error; err != nil {
		return nil, err
	}
	out := map[int]lookback.Evening{}
	for i := range list {
		var e lookback.Evening
		if json.Unmarshal(list[i].Doc, &e) == nil {
			out[list[i].Stream] = e
		}
	}
	return out, nil
}

// Keep keeps what became of a stream, in the place of what was made before.
func (s *Lookbacks) Keep(ctx context.Context, channel int64, stream int, e *lookback.Evening, at time.Time) error {
	doc, err := json.Marshal(e)
	if err != nil {
		return err
	}
	return s.DB.WithContext(ctx).Clauses(clause.OnConflict{UpdateAll: true}).Create(&Made{Channel: channel, Stream: stream, Doc: doc, Made: at}).Error
}

// Late says of the streams that were on at some moments that something came late.
func (s *Lookbacks) Late(ctx context.Context, channel int64, at []time.Time) error {
	for _, t := range at {
		if _, err := s.SQL.ExecContext(ctx, `UPDATE lookbacks l SET stale = true FROM streams s WHERE l.channel = $1 AND s.channel = $1 AND s.number = l.stream AND s.opened <= $2 AND s.closed > $2`, channel, t); err != nil {
			return err
		}
	}
	return nil
}
