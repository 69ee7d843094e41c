// Package signin keeps who signed in to which platform for the house, what was allowed and until
// when. The tokens themselves lie in the safe.
package signin

import (
	"context"
	"time"

	"gorm.io/gorm/clause"

	"vividporch/store/pg"
)

// SignIn is one account of a platform that lets the house in.
type SignIn struct {
	Channel  int64     `gorm:"primaryKey;autoIncrement:false"`
	Platform string    `gorm:"primaryKey"`
	Who      string    `gorm:"primaryKey"` // "house" or "streamer"
	Account  string    `gorm:"not null"`   // its id there
	Login    string    `gorm:"not null"`
	Name     string    `gorm:"not null;default:''"`
	Scopes   string    `gorm:"not null;default:''"` // with blanks between them
	Leads    string    `gorm:"not null;default:''"` // sites that its token may be sent to, with blanks between them
	Since    time.Time `gorm:"not null"`
	Expires  *time.Time
	Renews   bool   `gorm:"not null;default:false"` // it is renewed by itself
	Trouble  string `gorm:"not null;default:''"`    // why it is not good any more
	Gone     bool   `gorm:"not null;default:false"` // it was given up; who it was is kept, to ask before another
}

// TableName says what the rows are.
func (SignIn) TableName() string { return "platform_signins" }

// SignIns keeps them.
type SignIns struct{ pg.Base }

// List are a channel's, those that were given up too.
func (s *SignIns) List(ctx context.Context, channel int64) (out []SignIn, err error) {
	return out, s.DB.WithContext(ctx).Where("channel = ?", channel).Order("platform, who").Find(&out).Error
}

// Set keeps one.
func (s *SignIns) Set(ctx context.Context, x SignIn) error {
	return s.DB.WithContext(ctx).Clauses(clause.OnConflict{UpdateAll: true}).Create(&x).Error
}
