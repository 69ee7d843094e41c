// Package evenings keeps evenings to rehearse: written ones with their scripts, and those that
// are kept, with what is expected of them and how they went last. One that is kept of a recorded
// stream points into the log and copies nobody.
package evenings

import (
	"context"
	"encoding/json"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"vividporch/store/pg"
)

// Evening is one, by its name. Exactly one of Script, Stream and Dials says what happens in it.
type Evening struct {
	Channel int64           `gorm:"primaryKey;autoIncrement:false"`
	Name    string          `gorm:"primaryKey"`
	Script  string          `gorm:"not null;default:''"` // JSON Lines
	Stream  int             `gorm:"not null;default:0"`
	Dials   json.RawMessage `gorm:"type:json"`
	Member  string          `gorm:"not null;default:''"`
	At      time.Time       `gorm:"not null"`

	Kept     bool            `gorm:"not null;default:false"`
	Version  int64           `gorm:"not null;default:0"` // of the settings under which it goes as it should; 0: what it says does not matter
	Expected json.RawMessage `gorm:"type:json"`          // expect.Expected: what must, what must not, how many

	Tried   int64           `gorm:"not null;default:0"` // version of the settings it was lived under last; 0 not yet
	TriedAt *time.Time      //
	Went    json.RawMessage `gorm:"type:json"` // how: a rehearse.Went
}

// TableName keeps it in the plural of its own.
func (Evening) TableName() string { return "evenings" }

// Evenings keeps them.
type Evenings struct{ pg.Base }

// All are those of a channel, by their names.
func (s *Evenings) All(ctx context.Context, channel int64) (list []Evening, err error) {
	return list, s.DB.WithContext(ctx).Where("channel = ?", channel).Order("name").Find(&list).Error
}

// Of is one; ErrNone when there is none of that name.
func (s *Evenings) Of(ctx context.Context, channel int64, name string) (e Evening, err error) {
	return e, pg.None(s.DB.WithContext(ctx).Where("channel = ? AND name = ?", channel, name).First(&e).Error)
}

// Change makes one, or changes it, in one transaction: change is handed what there is, new with
// its name alone.
func (s *Evenings) Change(ctx context.Context, channel int64, name string, change func(*Evening) error) error {
	return s.DB.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		e := Evening{Channel: channel, Name: name}
		if err := tx.Clauses(clause.Locking{Strength: "UPDATE"}).Where("channel = ? AND name = ?", channel, name).Limit(1).Find(&e).Error; err != nil {
			return err
		}
		e.Channel, e.Name = channel, name
		if err := change(&e); err != nil {
			return err
		}
		return tx.Clauses(clause.OnConflict{UpdateAll: true}).Create(&e).Error
	})
}

// Drop takes one away; without an error when there is none.
func (s *Evenings) Drop(ctx context.Context, channel int64, name string) error {
	return s.DB.WithContext(ctx).Where("channel = ? AND name = ?", channel, name).Delete(&Evening{}).Error
}

// Tell notes how one went under a version of the settings, unless it was changed meanwhile.
func (s *Evenings) Tell(ctx context.Context, e *Evening, version int64, went json.RawMessage) error {
	now := time.Now()
	return s.DB.WithContext(ctx).Model(&Evening{}).Where("channel = ? AND name = ? AND at = ? AND kept", e.Channel, e.Name, e.At).
		Updates(map[string]any{"tried": version, "tried_at": now, "went": string(went)}).Error
}
