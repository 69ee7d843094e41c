// Package company tells the streamer of the people round the channel what is worth knowing just now:
// what somebody who comes back last said to them or asked, and, when the stream nears its end, to whom
// it could go on. Nothing of it is decided or logged.
package company

import (
	"context"
	"sync"
	"time"

	"vividporch/core/event"
	"vividporch/core/profile"
	"vividporch/core/room"
	"vividporch/core/thread"
	"vividporch/store"
	"vividporch/store/find"
	"vividporch/store/members"
	"vividporch/store/record"
	"vividporch/voices/platform"
)

// Config is what the company of a channel needs.
type Config struct {
	Channel int64
	Store   *store.Store
	Plan    func() *room.Plan
	Clock   func() time.Time
	Opened  func() time.Time // when the stream that is on began, or the last one ended; zero for neither
	Live    func() bool      // whether one is on

	Reckoning func() record.Reckoning
	Look      func(context.Context, *profile.Profile, *event.Person) (platform.Told, error) // asks a platform about somebody
}

// Company answers. Its methods may be called from any goroutine.
type Company struct {
	cfg    Config
	mu     sync.Mutex
	lately map[string]answer // what platforms told lately, by account: one for each fellow streamer that was asked about
}

// New makes the company of a channel.
func New(cfg Config) *Company { return &Company{cfg: cfg, lately: map[string]answer{}} }

// Threads tells what the people behind some accounts last said to the streamer, or asked, before this
// stream; with now also in it. It goes no further back than chat is kept.
func (c *Company) Threads(ctx context.Context, accounts []string, now bool) (map[string]find.Thread, error) {
	plan, until := c.cfg.Plan(), c.cfg.Opened()
	if until.IsZero() || now {
		until = c.cfg.Clock()
	}
	from := time.Time{}
	if days := plan.Privacy.KeepDays; days > 0 {
		from = c.cfg.Clock().AddDate(0, 0, -days)
	}
	ear, err := c.ear(ctx, plan)
	if err != nil {
		return nil, err
	}
	return c.cfg.Store.Find.Threads(ctx, c.cfg.Channel, accounts, from, until, ear, func(platform, text string) bool { return plan.Hears(text, platform).Any() })
}

// ear knows what the streamer is called: on their platforms, and as the owner of the house.
func (c *Company) ear(ctx context.Context, plan *room.Plan) (thread.Ear, error) {
	names := []string{plan.Channel}
	for _, p := range plan.Chat() {
		names = append(names, plan.ChannelOn(p))
	}
	list, err := c.cfg.Store.Members.List(ctx, c.cfg.Channel, time.Hour)
	if err != nil {
		return thread.Ear{}, err
	}
	for _, m := range list {
		if m.Role == members.RoleOwner {
			names = append(names, m.Name)
		}
	}
	return thread.Of(names...), nil
}
