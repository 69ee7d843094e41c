package store

import (
	"context"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// Shelf lists what is on a channel's shelf, without the files themselves.
func (s *Store) Shelf(ctx context.Context, channel int64) ([]Medium, error) {
	var out []Medium
	return out, s.DB.WithContext(ctx).Omit("data").Where("channel = ?", channel).Order("name").Find(&out).Error
}

// ShelfSums tells the SHA-256 of each file on the shelf, by name.
func (s *Store) ShelfSums(ctx context.Context, channel int64) (map[string][32]byte, error) {
	var rows []struct {
		Name string
		Sum  []byte
	}
	if err := s.DB.WithContext(ctx).Model(&Medium{}).Select("name, sha256(data) AS sum").Where("channel = ?", channel).Find(&rows).Error; err != nil {
		return nil, err
	}
	out := map[string][32]byte{}
	for _, r := range rows {
		out[r.Name] = [32]byte(r.Sum)
	}
	return out, nil
}

// PutMedia puts files on the shelf, all or none; one of the same name is replaced.
func (s *Store) PutMedia(ctx context.Context, list []Medium) error {
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
func (s *Store) MediumNamed(ctx context.Context, channel int64, name string) (m Medium, err error) {
	return m, none(s.DB.WithContext(ctx).Where("channel = ? AND name = ?", channel, name).First(&m).Error)
}

// DropMedium takes a file off the shelf.
func (s *Store) DropMedium(ctx context.Context, channel int64, name string) error {
	return s.DB.WithContext(ctx).Where("channel = ? AND name = ?", channel, name).Delete(&Medium{}).Error
}
