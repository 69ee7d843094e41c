// Package moving keeps how far a house has moved in, and whether it holds still after it was
// brought back from a backup.
package moving

import (
	"context"
	"time"

	"gorm.io/gorm/clause"

	"vividporch/store/pg"
)

// Step is what somebody said about a step of moving in: it is done, or skipped. What can be
// seen, a door that is open, is not kept.
type Step struct {
	Channel int64     `gorm:"primaryKey;autoIncrement:false"`
	Step    string    `gorm:"primaryKey"`
	State   string    `gorm:"not null"`
	At      time.Time `gorm:"not null"`
}

// TableName says whose steps they are.
func (Step) TableName() string { return "moving_steps" }

// Moving keeps the steps.
type Moving struct{ pg.Base }

// Steps are what was said about the steps, by step. A house that never began to move in has none.
func (m *Moving) Steps(ctx context.Context, channel int64) (map[string]string, error) {
	var list []Step
	if err := m.DB.WithContext(ctx).Where("channel = ?", channel).Find(&list).Error; err != nil {
		return nil, err
	}
	out := map[string]string{}
	for _, s := range list {
		out[s.Step] = s.State
	}
	return out, nil
}

// Say keeps what somebody says about a step; "" takes it back.
func (m *Moving) Say(ctx context.Context, channel int64, step, state string) error {
	if state == "" {
		return m.DB.WithContext(ctx).Where("channel = ? AND step = ?", channel, step).Delete(&Step{}).Error
	}
	return m.DB.WithContext(ctx).Clauses(clause.OnConflict{UpdateAll: true}).Create(&Step{Channel: channel, Step: step, State: state, At: time.Now()}).Error
}

// Held reports whether a channel's house holds still: its doors are shut and nothing leaves.
func (m *Moving) Held(ctx context.Context, channel int64) (held bool, err error) {
	return held, m.SQL.QueryRowContext(ctx, "SELECT held FROM channels WHERE id = $1", channel).Scan(&held)
}

// Go lets a house that holds still go on.
func (m *Moving) Go(ctx context.Context, channel int64) error {
	_, err := m.SQL.ExecContext(ctx, "UPDATE channels SET held = false WHERE id = $1", channel)
	return err
}

// HoldAll makes every house of the database hold still.
func (m *Moving) HoldAll(ctx context.Context) error {
	_, err := m.SQL.ExecContext(ctx, "UPDATE channels SET held = true")
	return err
}
