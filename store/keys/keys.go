// Package keys keeps the keys of addresses that carry their own: whoever has the address may read what
// stands there, until another key is made. Of a key only the SHA-256 is kept.
package keys

import (
	"context"
	"errors"
	"time"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"vividporch/store/pg"
)

// Dates is the address of the days of people as a calendar.
const Dates = "dates"

// Bookmarks are the addresses at which bookmarks are set, each under a name: by a button that posts, and by
// whatever can only open an address.
const (
	BookmarkPosted = "bookmark posted: "
	BookmarkOpened = "bookmark opened: "
)

// Feed is the address of a place that is a feed, by its name.
const Feed = "feed: "

// Overlay is the address of an overlay, by its id.
const Overlay = "overlay: "

// Ear is the address of the page in the ear.
const Ear = "ear"

// Key is the key of one address of a channel.
type Key struct {
	Channel int64     `gorm:"primaryKey;autoIncrement:false"`
	Of      string    `gorm:"primaryKey"`
	Hash    string    `gorm:"not null;uniqueIndex"`
	Made    time.Time `gorm:"not null"`
	Member  string    `gorm:"not null;default:''"` // who made it
}

// TableName says what they are the keys of.
func (Key) TableName() string { return "address_keys" }

// Keys keeps them.
type Keys struct{ pg.Base }

// Make keeps a new key, in place of the one there was.
func (s *Keys) Make(ctx context.Context, k Key) error {
	return s.DB.WithContext(ctx).Clauses(clause.OnConflict{UpdateAll: true}).Create(&k).Error
}

// Of is the key of an address; nil for none.
func (s *Keys) Of(ctx context.Context, channel int64, of string) (*Key, error) {
	var k Key
	err := s.DB.WithContext(ctx).Where("channel = ? AND of = ?", channel, of).Take(&k).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return nil, nil
	}
	return &k, err
}

// Holds reports whether a key of that hash opens an address of a channel.
func (s *Keys) Holds(ctx context.Context, channel int64, of, hash string) (bool, error) {
	var n int64
	err := s.DB.WithContext(ctx).Model(&Key{}).Where("channel = ? AND of = ? AND hash = ?", channel, of, hash).Count(&n).Error
	return n > 0, err
}

// Rename has an address's key be that of another one.
func (s *Keys) Rename(ctx context.Context, channel int64, from, to string) error {
	return s.DB.WithContext(ctx).Model(&Key{}).Where("channel = ? AND of = ?", channel, from).Update("of", to).Error
}

// By is the key of that hash among those of addresses that begin so; nil for none.
func (s *Keys) By(ctx context.Context, channel int64, begins, hash string) (*Key, error) {
	var k Key
	err := s.DB.WithContext(ctx).Where("channel = ? AND of LIKE ? AND hash = ?", channel, pg.Begins(begins), hash).Take(&k).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return nil, nil
	}
	return &k, err
}

// All are the keys of addresses that begin so, by their names.
func (s *Keys) All(ctx context.Context, channel int64, begins string) (list []Key, err error) {
	return list, s.DB.WithContext(ctx).Where("channel = ? AND of LIKE ?", channel, pg.Begins(begins)).Order("of").Find(&list).Error
}

// TakeAway takes a key away: its address answers nobody any more.
func (s *Keys) TakeAway(ctx context.Context, channel int64, of string) error {
	return s.DB.WithContext(ctx).Where("channel = ? AND of = ?", channel, of).Delete(&Key{}).Error
}
