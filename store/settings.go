package store

import (
	"context"
	"encoding/json"
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

// SettingsHistory lists versions without their documents, newest first.
func (s *Store) SettingsHistory(ctx context.Context, channel int64, most int) ([]SettingsVersion, error) {
	var out []SettingsVersion
	err := s.DB.WithContext(ctx).Omit("doc").Where("channel = ?", channel).Order("version DESC").Limit(most).Find(&out).Error
	return out, err
}

// SaveDraft keeps a courtesy as it was typed.
func (s *Store) SaveDraft(ctx context.Context, channel int64, courtesy, member string, doc json.RawMessage) error {
	d := Draft{Channel: channel, Courtesy: courtesy, Member: member, At: time.Now(), Doc: doc}
	return s.DB.WithContext(ctx).Clauses(clause.OnConflict{UpdateAll: true}).Create(&d).Error
}

// DropDraft forgets a draft: it came into force or was taken back.
func (s *Store) DropDraft(ctx context.Context, channel int64, courtesy string) error {
	return s.DB.WithContext(ctx).Where("channel = ? AND courtesy = ?", channel, courtesy).Delete(&Draft{}).Error
}

// Drafts lists what is typed and not in force.
func (s *Store) Drafts(ctx context.Context, channel int64) ([]Draft, error) {
	var out []Draft
	err := s.DB.WithContext(ctx).Where("channel = ?", channel).Order("courtesy").Find(&out).Error
	return out, err
}

// SetSecret keeps a password or signing secret under a door's or place's name.
func (s *Store) SetSecret(ctx context.Context, channel int64, name, slot, value string) error {
	x := Secret{Channel: channel, Name: name, Slot: slot, Value: value}
	return s.DB.WithContext(ctx).Clauses(clause.OnConflict{UpdateAll: true}).Create(&x).Error
}

// Secrets returns the secrets of a name by slot.
func (s *Store) Secrets(ctx context.Context, channel int64, name string) (map[string]string, error) {
	var xs []Secret
	if err := s.DB.WithContext(ctx).Where("channel = ? AND name = ?", channel, name).Find(&xs).Error; err != nil {
		return nil, err
	}
	out := map[string]string{}
	for _, x := range xs {
		out[x.Slot] = x.Value
	}
	return out, nil
}
