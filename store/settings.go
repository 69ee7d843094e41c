package store

import (
	"context"
	"errors"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"
)

// SettingsNow returns the version in force; ok is false on a new channel.
func (s *Store) SettingsNow(ctx context.Context, channel int64) (v SettingsVersion, ok bool, err error) {
	err = s.DB.WithContext(ctx).Where("channel = ?", channel).Order("version DESC").First(&v).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return v, false, nil
	}
	return v, err == nil, err
}

// SettingsAt returns one version.
func (s *Store) SettingsAt(ctx context.Context, channel, version int64) (v SettingsVersion, err error) {
	return v, none(s.DB.WithContext(ctx).Where("channel = ? AND version = ?", channel, version).First(&v).Error)
}

// SettingsBefore returns the version before another; ErrNone when there is none.
func (s *Store) SettingsBefore(ctx context.Context, channel, version int64) (v SettingsVersion, err error) {
	return v, none(s.DB.WithContext(ctx).Where("channel = ? AND version < ?", channel, version).Order("version DESC").First(&v).Error)
}

// SettingsHistory lists versions without their documents, newest first.
func (s *Store) SettingsHistory(ctx context.Context, channel int64, most int) ([]SettingsVersion, error) {
	var out []SettingsVersion
	err := s.DB.WithContext(ctx).Omit("doc").Where("channel = ?", channel).Order("version DESC").Limit(most).Find(&out).Error
	return out, err
}

// SaveDraft keeps a courtesy as it was typed.
func (s *Store) SaveDraft(ctx context.Context, d Draft) error {
	d.At = time.Now()
	return s.DB.WithContext(ctx).Clauses(clause.OnConflict{Columns: []clause.Column{{Name: "channel"}, {Name: "courtesy"}, {Name: "member"}},
		DoUpdates: clause.AssignmentColumns([]string{"at", "doc"})}).Create(&d).Error // it goes on from the version it was begun on
}

// DropDraft forgets a member's draft: it came into force or was taken back.
func (s *Store) DropDraft(ctx context.Context, channel int64, courtesy, member string) error {
	return s.DB.WithContext(ctx).Where("channel = ? AND courtesy = ? AND member = ?", channel, courtesy, member).Delete(&Draft{}).Error
}

// Drafts lists what is typed and not in force.
func (s *Store) Drafts(ctx context.Context, channel int64) ([]Draft, error) {
	var out []Draft
	err := s.DB.WithContext(ctx).Where("channel = ?", channel).Order("courtesy").Find(&out).Error
	return out, err
}
