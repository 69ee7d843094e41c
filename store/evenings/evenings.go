// Package evenings keeps evenings to rehearse: written ones with their scripts, and those that
// are kept, with what is expected of them and how they went last. One that is kept of a recorded
// stream points into the log and copies nobody.
package evenings

import (
	"context"
	"encoding/json"
	"errors"
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

	Away gorm.DeletedAt // when it was taken away; for a day it can be brought back
}

// TableName keeps it in the plural of its own.
func (Evening) TableName() string { return "evenings" }

// Evenings keeps them.
type Evenings struct{ pg.Base }

// Why an evening is not put down.
var (
	ErrTaken   = errors.New("another evening has that name")
	ErrChanged = errors.New("somebody changed that evening meanwhile")
)

// Seen is an evening as somebody saw it before they changed it; At is when it had been put down,
// or zero for however it stands.
type Seen struct {
	Name string
	At   time.Time
}

// All are those of a channel, by their names.
func (s *Evenings) All(ctx context.Context, channel int64) (list []Evening, err error) {
	return list, s.DB.WithContext(ctx).Where("channel = ?", channel).Order("name").Find(&list).Error
}

// Of is one; ErrNone when there is none of that name.
func (s *Evenings) Of(ctx context.Context, channel int64, name string) (e Evening, err error) {
	return e, pg.None(s.DB.WithContext(ctx).Where("channel = ? AND name = ?", channel, name).First(&e).Error)
}

// Change puts an evening down by a name, in one transaction: in place of the one that was seen, which
// goes by the name from then on, or as a new one where none was. change is handed what there is. Two
// members lose nothing to each other: a name that another evening has is [ErrTaken]; where
// the one that was seen was changed since, it is [ErrChanged], or a new one under another name.
func (s *Evenings) Change(ctx context.Context, channel int64, name string, of Seen, change func(*Evening) error) error {
	return s.DB.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var list []Evening
		if err := tx.Clauses(clause.Locking{Strength: "UPDATE"}).Where("channel = ? AND name IN ?", channel, []string{name, of.Name}).Order("name").Find(&list).Error; err != nil {
			return err
		}
		there := map[string]*Evening{}
		for i := range list {
			there[list[i].Name] = &list[i]
		}
		e := there[of.Name]
		switch {
		case e != nil && !of.At.IsZero() && !of.At.Equal(e.At):
			if name == of.Name {
				return ErrChanged
			}
			e = nil
		case e == nil && of.Name != "" && of.At.IsZero():
			return pg.ErrNone
		}
		if there[name] != e && there[name] != nil {
			return ErrTaken
		}
		names := []string{name} // of what it takes the place of; what was taken away under its name cannot come back
		if e == nil {
			e = &Evening{Channel: channel}
		} else {
			names = append(names, e.Name)
		}
		if err := tx.Unscoped().Where("channel = ? AND name IN ?", channel, names).Delete(&Evening{}).Error; err != nil {
			return err
		}
		e.Name = name
		if err := change(e); err != nil {
			return err
		}
		made := tx.Clauses(clause.OnConflict{DoNothing: true}).Create(e)
		if made.Error == nil && made.RowsAffected == 0 {
			return ErrTaken // by somebody in the same moment
		}
		return made.Error
	})
}

// Drop takes one away; it can be brought [Evenings.Back] until it is pruned.
func (s *Evenings) Drop(ctx context.Context, channel int64, name string, now time.Time) error {
	return s.DB.WithContext(ctx).Model(&Evening{}).Where("channel = ? AND name = ?", channel, name).Update("away", now).Error
}

// Back brings one back that was taken away; ErrNone when it is gone for good, or its name is another's.
func (s *Evenings) Back(ctx context.Context, channel int64, name string) error {
	return pg.Back(s.DB.WithContext(ctx), &Evening{}, channel, name)
}

// Prune lets go for good of those taken away before a moment.
func (s *Evenings) Prune(ctx context.Context, channel int64, before time.Time) error {
	return s.DB.WithContext(ctx).Unscoped().Where("channel = ? AND away < ?", channel, before).Delete(&Evening{}).Error
}

// Tell notes how one went under a version of the settings, unless it was changed meanwhile.
func (s *Evenings) Tell(ctx context.Context, e *Evening, version int64, went json.RawMessage) error {
	now := time.Now()
	return s.DB.WithContext(ctx).Model(&Evening{}).Where("channel = ? AND name = ? AND at = ? AND kept", e.Channel, e.Name, e.At).
		Updates(map[string]any{"tried": version, "tried_at": now, "went": string(went)}).Error
}
