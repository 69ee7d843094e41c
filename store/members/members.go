// Package members keeps those who may sign in: how, from where, and until when.
package members

import (
	"context"
	"errors"
	"time"

	"gorm.io/gorm"

	"vividporch/store/pg"
	"vividporch/store/tables"
)

// Members are those who may sign in.
type Members struct{ pg.Base }

// Owner finds a channel's owner, making them when there is none.
func (s *Members) Owner(ctx context.Context, channel int64, name string) (tables.Member, error) {
	m := tables.Member{}
	err := s.DB.WithContext(ctx).Where("channel = ? AND role = ?", channel, "owner").Attrs(tables.Member{Channel: channel, Name: name, Role: "owner"}).FirstOrCreate(&m).Error
	return m, err
}

// MemberNamed finds a member by name, in any case.
func (s *Members) Named(ctx context.Context, channel int64, name string) (m tables.Member, err error) {
	return m, pg.None(s.DB.WithContext(ctx).Where("channel = ? AND lower(name) = lower(?)", channel, name).First(&m).Error)
}

// Pegs are what a member has to hand, in its order; none where they never chose.
func (s *Members) Pegs(ctx context.Context, member int64) ([]string, error) {
	m := tables.Member{}
	err := s.DB.WithContext(ctx).Select("id", "pegs").Where("id = ?", member).First(&m).Error
	return m.Pegs, err
}

// SetPegs keeps what a member wants to hand.
func (s *Members) SetPegs(ctx context.Context, member int64, pegs []string) error {
	return s.DB.WithContext(ctx).Model(&tables.Member{ID: member}).Select("pegs").Updates(&tables.Member{Pegs: pegs}).Error
}

// SetPassword keeps a password's hash and ends every way in but the session it is set in.
func (s *Members) SetPassword(ctx context.Context, member int64, session, hash string) error {
	return s.DB.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := tx.Model(&tables.Member{}).Where("id = ?", member).Update("password", hash).Error; err != nil {
			return err
		}
		if err := tx.Where("member = ? AND hash <> ?", member, session).Delete(&tables.Session{}).Error; err != nil {
			return err
		}
		return tx.Where("member = ?", member).Delete(&tables.SignIn{}).Error
	})
}

// SignInGood finds whose a one-time link is, without using it up; ErrNone when it is no
// good.
func (s *Members) SignInGood(ctx context.Context, hash string) (m tables.Member, err error) {
	var in tables.SignIn
	if err := pg.None(s.DB.WithContext(ctx).Where("hash = ? AND expires > now()", hash).First(&in).Error); err != nil {
		return m, err
	}
	return m, pg.None(s.DB.WithContext(ctx).First(&m, in.Member).Error)
}

// AddSignIn keeps a one-time link by its hash.
func (s *Members) AddSignIn(ctx context.Context, in tables.SignIn) error {
	return s.DB.WithContext(ctx).Create(&in).Error
}

// DropSignIns withdraws a member's links that were not used.
func (s *Members) DropSignIns(ctx context.Context, member int64) error {
	return s.DB.WithContext(ctx).Where("member = ?", member).Delete(&tables.SignIn{}).Error
}

// UseSignIn takes a one-time link out and returns whose it was; two uses at the
// same moment cannot both succeed.
func (s *Members) UseSignIn(ctx context.Context, hash string) (m tables.Member, err error) {
	res := []tables.SignIn{}
	if err := s.DB.WithContext(ctx).Raw("DELETE FROM sign_ins WHERE hash = ? AND expires > now() RETURNING *", hash).Scan(&res).Error; err != nil {
		return m, err
	}
	if len(res) == 0 {
		return m, pg.ErrNone
	}
	return m, pg.None(s.DB.WithContext(ctx).First(&m, res[0].Member).Error)
}

// AddSession keeps a signed-in browser.
func (s *Members) AddSession(ctx context.Context, sess tables.Session) error {
	return s.DB.WithContext(ctx).Create(&sess).Error
}

// SessionMember finds whose session a cookie is, if it was used within age.
func (s *Members) SessionMember(ctx context.Context, hash string, age time.Duration) (m tables.Member, sess tables.Session, err error) {
	db := s.DB.WithContext(ctx)
	if err := pg.None(db.Where("hash = ? AND seen > ?", hash, time.Now().Add(-age)).First(&sess).Error); err != nil {
		return m, sess, err
	}
	if time.Since(sess.Seen) > time.Hour {
		if err := db.Model(&tables.Session{}).Where("hash = ?", hash).Update("seen", time.Now()).Error; err != nil {
			return m, sess, err
		}
	}
	return m, sess, pg.None(db.First(&m, sess.Member).Error)
}

// EndSession forgets a signed-in browser.
func (s *Members) EndSession(ctx context.Context, hash string) error {
	return s.DB.WithContext(ctx).Where("hash = ?", hash).Delete(&tables.Session{}).Error
}

// Roles a member can have, the one that may most first.
const (
	RoleOwner  = "owner"
	RoleCoHost = "co-host" // may change settings and the guest book
	RoleHelper = "helper"  // the Porch only
)

// MemberRow is a member with what the owner sees of their ways in.
type MemberRow struct {
	tables.Member
	Sessions int
	Seen     *time.Time
	Links    int
	Called   string // the account they are known by
	Nick     bool   // nobody vouches for that one
}

// Members lists who may sign in, the owner first. Sessions not used within age do
// not count.
func (s *Members) List(ctx context.Context, channel int64, age time.Duration) (list []MemberRow, err error) {
	return list, s.DB.WithContext(ctx).Raw(`SELECT m.*, count(DISTINCT s.hash) AS sessions, max(s.seen) AS seen, count(DISTINCT l.hash) AS links, coalesce(max(a.name), '') AS called, coalesce(bool_or(a.nick), false) AS nick
		FROM members m LEFT JOIN sessions s ON s.member = m.id AND s.seen > ? LEFT JOIN sign_ins l ON l.member = m.id AND l.expires > now()
			LEFT JOIN accounts a ON a.channel = m.channel AND a.key = m.account
		WHERE m.channel = ? GROUP BY m.id ORDER BY m.role <> 'owner', lower(m.name)`, time.Now().Add(-age), channel).Scan(&list).Error
}

// OpenSessions lists the browsers in which members of a channel are signed in, the
// last used first.
func (s *Members) OpenSessions(ctx context.Context, channel int64, age time.Duration) (list []tables.Session, err error) {
	return list, s.DB.WithContext(ctx).Raw(`SELECT s.* FROM sessions s JOIN members m ON m.id = s.member WHERE m.channel = ? AND s.seen > ? ORDER BY s.seen DESC`,
		channel, time.Now().Add(-age)).Scan(&list).Error
}

// EndOneSession signs one browser of a member out, by its short name; ErrNone when
// there is no such one.
func (s *Members) EndOneSession(ctx context.Context, channel, member int64, short string) error {
	res := s.DB.WithContext(ctx).Exec(`DELETE FROM sessions WHERE member = ? AND left(hash, 16) = ? AND member IN (SELECT id FROM members WHERE channel = ?)`, member, short, channel)
	if res.Error == nil && res.RowsAffected == 0 {
		return pg.ErrNone
	}
	return res.Error
}

// Invite makes somebody a member in a role, or gives them that role; the owner
// keeps theirs.
func (s *Members) Invite(ctx context.Context, channel int64, name, role string) (m tables.Member, err error) {
	return m, s.DB.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		err := tx.Where("channel = ? AND lower(name) = lower(?)", channel, name).First(&m).Error
		if errors.Is(err, gorm.ErrRecordNotFound) {
			m = tables.Member{Channel: channel, Name: name, Role: role}
			return tx.Create(&m).Error
		}
		if err != nil || m.Role == RoleOwner {
			return err
		}
		m.Role = role
		return tx.Model(&tables.Member{}).Where("id = ?", m.ID).Update("role", role).Error
	})
}

// EndAll ends every session and withdraws every link of every channel.
func (s *Members) EndAll(ctx context.Context) error {
	for _, row := range []any{&tables.Session{}, &tables.SignIn{}} {
		if err := s.DB.WithContext(ctx).Where("true").Delete(row).Error; err != nil {
			return err
		}
	}
	return nil
}

// EndWaysIn ends a member's sessions and unused links, and removes the member too
// if asked. ErrNone when there is no such member, or it is the owner.
func (s *Members) EndWaysIn(ctx context.Context, channel, member int64, remove bool) error {
	return s.DB.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var m tables.Member
		if err := pg.None(tx.Where("channel = ? AND id = ? AND role <> ?", channel, member, RoleOwner).First(&m).Error); err != nil {
			return err
		}
		for _, row := range []any{&tables.Session{}, &tables.SignIn{}} {
			if err := tx.Where("member = ?", member).Delete(row).Error; err != nil {
				return err
			}
		}
		if !remove {
			return nil
		}
		return tx.Delete(&m).Error
	})
}
