package store

import (
	"context"
	"errors"
	"time"

	"gorm.io/gorm"
)

// ErrNone says that there is no such row.
var ErrNone = errors.New("store: none")

func none(err error) error {
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return ErrNone
	}
	return err
}

// Owner finds a channel's owner, making them when there is none.
func (s *Store) Owner(ctx context.Context, channel int64, name string) (Member, error) {
	m := Member{}
	err := s.DB.WithContext(ctx).Where("channel = ? AND role = ?", channel, "owner").Attrs(Member{Channel: channel, Name: name, Role: "owner"}).FirstOrCreate(&m).Error
	return m, err
}

// MemberNamed finds a member by name, in any case.
func (s *Store) MemberNamed(ctx context.Context, channel int64, name string) (m Member, err error) {
	return m, none(s.DB.WithContext(ctx).Where("channel = ? AND lower(name) = lower(?)", channel, name).First(&m).Error)
}

// SetPassword keeps a password's hash and ends every other way in.
func (s *Store) SetPassword(ctx context.Context, member int64, hash string) error {
	return s.DB.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := tx.Model(&Member{}).Where("id = ?", member).Update("password", hash).Error; err != nil {
			return err
		}
		return tx.Where("member = ?", member).Delete(&SignIn{}).Error
	})
}

// AddSignIn keeps a one-time link by its hash.
func (s *Store) AddSignIn(ctx context.Context, in SignIn) error {
	return s.DB.WithContext(ctx).Create(&in).Error
}

// UseSignIn takes a one-time link out and returns whose it was; two uses at the
// same moment cannot both succeed.
func (s *Store) UseSignIn(ctx context.Context, hash string) (m Member, err error) {
	res := []SignIn{}
	if err := s.DB.WithContext(ctx).Raw("DELETE FROM sign_ins WHERE hash = ? AND expires > now() RETURNING *", hash).Scan(&res).Error; err != nil {
		return m, err
	}
	if len(res) == 0 {
		return m, ErrNone
	}
	return m, none(s.DB.WithContext(ctx).First(&m, res[0].Member).Error)
}

// AddSession keeps a signed-in browser.
func (s *Store) AddSession(ctx context.Context, sess Session) error {
	return s.DB.WithContext(ctx).Create(&sess).Error
}

// SessionMember finds whose session a cookie is, if it was used within age.
func (s *Store) SessionMember(ctx context.Context, hash string, age time.Duration) (m Member, sess Session, err error) {
	db := s.DB.WithContext(ctx)
	if err := none(db.Where("hash = ? AND seen > ?", hash, time.Now().Add(-age)).First(&sess).Error); err != nil {
		return m, sess, err
	}
	if time.Since(sess.Seen) > time.Hour {
		if err := db.Model(&Session{}).Where("hash = ?", hash).Update("seen", time.Now()).Error; err != nil {
			return m, sess, err
		}
	}
	return m, sess, none(db.First(&m, sess.Member).Error)
}

// EndSession forgets a signed-in browser.
func (s *Store) EndSession(ctx context.Context, hash string) error {
	return s.DB.WithContext(ctx).Where("hash = ?", hash).Delete(&Session{}).Error
}
