// Package shelf keeps the pictures, sounds and films of a house.
package shelf

import (
	"context"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"vividporch/store/pg"
	"vividporch/store/tables"
)

// Shelf is where the house keeps pictures, sounds and films.
type Shelf struct{ pg.Base }

// Shelf lists what is on a channel's shelf, without the files themselves.
func (s *Shelf) List(ctx context.Context, channel int64) ([]tables.Medium, error) {
	var out []tables.Medium
	return out, s.DB.WithContext(ctx).Omit("data").Where("channel = ?", channel).Order("name").Find(&out).Error
}

// ShelfSums tells the SHA-256 of each file on the shelf, by name.
func (s *Shelf) Sums(ctx context.Context, channel int64) (map[string][32]byte, error) {
	var rows []struct {
		Name string
		Sum  []byte
	}
	if err := s.DB.WithContext(ctx).Model(&tables.Medium{}).Select("name, sha256(data) AS sum").Where("channel = ?", channel).Find(&rows).Error; err != nil {
		return nil, err
	}
	out := map[string][32]byte{}
	for _, r := range rows {
		out[r.Name] = [32]byte(r.Sum)
	}
	return out, nil
}

// PutMedia puts files on the shelf, all or none; one of the same name is replaced.
func (s *Shelf) Put(ctx context.Context, list []tables.Medium) error {
	if len(list) == 0 {
		return nil
	}
	return s.DB.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		for i := range list {
			if err := tx.Clauses(clause.OnConflict{UpdateAll: true}).Create(&list[i]).Error; err != nil {
				return err
			}
		}
		return nil
	})
}

// MediumNamed reads a file from the shelf; ErrNone when there is none of that name.
func (s *Shelf) Named(ctx context.Context, channel int64, name string) (m tables.Medium, err error) {
	return m, pg.None(s.DB.WithContext(ctx).Where("channel = ? AND name = ?", channel, name).First(&m).Error)
}

// Card tells of a file on the shelf without reading it; ErrNone when there is none of that name.
func (s *Shelf) Card(ctx context.Context, channel int64, name string) (m tables.Medium, err error) {
	return m, pg.None(s.DB.WithContext(ctx).Omit("data").Where("channel = ? AND name = ?", channel, name).First(&m).Error)
}

// Unmeasured are the sounds and films of which nobody has looked how loud they are, without the files themselves.
func (s *Shelf) Unmeasured(ctx context.Context, channel int64) (out []tables.Medium, err error) {
	return out, s.DB.WithContext(ctx).Omit("data").Where("channel = ? AND NOT measured AND kind IN ('sound', 'film')", channel).Order("name").Find(&out).Error
}

// Measured keeps how loud a file is, as long as it is still that one: nothing is known of one put in its place.
func (s *Shelf) Measured(ctx context.Context, m *tables.Medium, lufs, peak float64) error {
	return s.DB.WithContext(ctx).Model(&tables.Medium{}).Where("channel = ? AND name = ? AND at = ?", m.Channel, m.Name, m.At).
		Updates(map[string]any{"measured": true, "lufs": lufs, "peak": peak}).Error
}

// Drop takes a file off the shelf; it can be put [Shelf.Back] until it is pruned.
func (s *Shelf) Drop(ctx context.Context, channel int64, name string, now time.Time) error {
	return s.DB.WithContext(ctx).Model(&tables.Medium{}).Where("channel = ? AND name = ?", channel, name).Update("away", now).Error
}

// Back puts a file back that was taken off the shelf; ErrNone when it is gone for good, or its name is another's.
func (s *Shelf) Back(ctx context.Context, channel int64, name string) error {
	return pg.Back(s.DB.WithContext(ctx), &tables.Medium{}, channel, name)
}

// Prune lets go for good of what was taken off the shelf before a moment.
func (s *Shelf) Prune(ctx context.Context, channel int64, before time.Time) error {
	return s.DB.WithContext(ctx).Unscoped().Where("channel = ? AND away < ?", channel, before).Delete(&tables.Medium{}).Error
}
