package safe

import (
	"context"
	"time"

	"gorm.io/gorm/clause"
)

// AllowedHost is a host on this machine or a private network that the owner lets the
// house reach. It is never part of the settings: no house file brings one along.
type AllowedHost struct {
	Channel int64     `gorm:"primaryKey;autoIncrement:false"`
	Host    string    `gorm:"primaryKey"`
	At      time.Time `gorm:"not null"`
	Found   bool      `gorm:"not null;default:false"` // it was in use before there was this list
}

// Allow lets the house reach a host; found says that it did before.
func (s *Safe) Allow(ctx context.Context, channel int64, host string, found bool) error {
	return s.DB.WithContext(ctx).Clauses(clause.OnConflict{DoNothing: true}).Create(&AllowedHost{Channel: channel, Host: host, At: time.Now(), Found: found}).Error
}

// Disallow takes a host off the list.
func (s *Safe) Disallow(ctx context.Context, channel int64, host string) error {
	return s.DB.WithContext(ctx).Where("channel = ? AND host = ?", channel, host).Delete(&AllowedHost{}).Error
}

// Allowed lists the hosts that may be reached.
func (s *Safe) Allowed(ctx context.Context, channel int64) (list []AllowedHost, err error) {
	return list, s.DB.WithContext(ctx).Where("channel = ?", channel).Order("host").Find(&list).Error
}

// Guarded reports whether a channel's list of hosts holds, and makes it so: on one that
// is older than the list, what is in use is to be put on it first.
func (s *Safe) Guarded(ctx context.Context, channel int64) (was bool, err error) {
	err = s.SQL.QueryRowContext(ctx, `UPDATE channels c SET guarded = true FROM (SELECT id, guarded FROM channels WHERE id = $1 FOR UPDATE) was WHERE c.id = was.id RETURNING was.guarded`, channel).Scan(&was)
	return was, err
}
