package log

import (
	"context"
	"errors"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"vividporch/store/pg"
	"vividporch/store/tables"
)

// SettingsNow returns the version in force; ok is false on a new channel.
func (s *Log) SettingsNow(ctx context.Context, channel int64) (v tables.SettingsVersion, ok bool, err error) {
	err = s.DB.WithContext(ctx).Where("channel = ?", channel).Order("version DESC").First(&v).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return v, false, nil
	}
	return v, err == nil, err
}

// SettingsAt returns one version.
func (s *Log) SettingsAt(ctx context.Context, channel, version int64) (v tables.SettingsVersion, err error) {
	return v, pg.None(s.DB.WithContext(ctx).Where("channel = ? AND version = ?", channel, version).First(&v).Error)
}

// SettingsBefore returns the version before another; ErrNone when there is none.
func (s *Log) SettingsBefore(ctx context.Context, channel, version int64) (v tables.SettingsVersion, err error) {
	return v, pg.None(s.DB.WithContext(ctx).Where("channel = ? AND version < ?", channel, version).Order("version DESC").First(&v).Error)
}

// SettingsHistory lists versions without their documents, newest first.
func (s *Log) SettingsHistory(ctx context.Context, channel int64, most int) ([]tables.SettingsVersion, error) {
	var out []tables.SettingsVersion
	err := s.DB.WithContext(ctx).Omit("doc").Where("channel = ?", channel).Order("version DESC").Limit(most).Find(&out).Error
	return out, err
}

// SaveDraft keeps a courtesy as it was typed.
func (s *Log) SaveDraft(ctx context.Context, d tables.Draft) error {
	d.At = time.Now()
	return s.DB.WithContext(ctx).Clauses(clause.OnConflict{Columns: []clause.Column{{Name: "channel"}, {Name: "courtesy"}, {Name: "member"}},
		DoUpdates: clause.AssignmentColumns([]string{"at", "doc"})}).Create(&d).Error // it goes on from the version it was begun on
}

// DropDraft forgets a member's draft: it came into force or was taken back.
func (s *Log) DropDraft(ctx context.Context, channel int64, courtesy, member string) error {
	return s.DB.WithContext(ctx).Where("channel = ? AND courtesy = ? AND member = ?", channel, courtesy, member).Delete(&tables.Draft{}).Error
}

// Drafts lists what is typed and not in force.
func (s *Log) Drafts(ctx context.Context, channel int64) ([]tables.Draft, error) {
	var out []tables.Draft
	err := s.DB.WithContext(ctx).Where("channel = ?", channel).Order("courtesy").Find(&out).Error
	return out, err
}

// FirstSettings puts a house file in force on a channel that has none.
func (s *Log) FirstSettings(ctx context.Context, channel int64, doc []byte) error {
	if _, ok, err := s.SettingsNow(ctx, channel); err != nil || ok {
		return err
	}
	// Its list of hosts that may be reached holds from the first day on.
	if _, err := s.SQL.ExecContext(ctx, "UPDATE channels SET guarded = true WHERE id = $1", channel); err != nil {
		return err
	}
	// Two processes may begin at once: the first one's stands.
	return s.DB.WithContext(ctx).Clauses(clause.OnConflict{DoNothing: true}).Create(&tables.SettingsVersion{Channel: channel, Version: 1, What: "the first house file", At: time.Now(), Doc: doc}).Error
}
