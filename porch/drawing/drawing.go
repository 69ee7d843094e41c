// Package drawing is the edge of draws: it makes their secrets and opens them again, which the core cannot, and finds old draws in the log.
package drawing

import (
	"context"
	"crypto/rand"
	"errors"

	"vividporch/core/draw"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/house"
	"vividporch/core/lots"
	"vividporch/store"
	"vividporch/store/safe"
)

// Config is what the draws of a channel need.
type Config struct {
	Channel int64
	Store   *store.Store
	Tell    func(event.Data)                                // logs what the edge tells
	Look    func(context.Context, func(*house.State)) error // runs f on the state, between two batches
}

// Drawing answers for draws. Its methods may be called from any goroutine.
type Drawing struct{ cfg Config }

// New makes the draws of a channel.
func New(cfg Config) *Drawing { return &Drawing{cfg} }

// Seal makes the secret of a draw, or opens it once its entries are closed. In between it lies in the log sealed, and nowhere else.
func (x *Drawing) Seal(d hall.Decision) {
	r, ok := draw.RequestOf(&d)
	if !ok {
		return
	}
	name := "draw " + r.Draw
	if d.Kind == draw.Seal {
		secret := make([]byte, lots.SecretBytes)
		rand.Read(secret)
		sealed, err := x.cfg.Store.Safe.Seal(x.cfg.Channel, name, secret)
		if err != nil {
			x.cfg.Tell(&event.DrawSealed{Draw: r.Draw, Failed: "this house has no key to seal it with"})
			return
		}
		x.cfg.Tell(r.Made(secret, sealed))
		return
	}
	secret, err := x.cfg.Store.Safe.Open(x.cfg.Channel, name, r.Sealed)
	switch {
	case errors.Is(err, safe.ErrKey):
		x.cfg.Tell(&event.DrawUnsealed{Draw: r.Draw, Failed: "it was sealed under another key"})
	case err != nil:
		x.cfg.Tell(&event.DrawUnsealed{Draw: r.Draw, Failed: "this house has no key"})
	default:
		x.cfg.Tell(&event.DrawUnsealed{Draw: r.Draw, Secret: secret})
	}
}

// Memory is all that the house remembers of draws, as a copy.
func (x *Drawing) Memory(ctx context.Context) (m draw.Memory, err error) {
	err = x.cfg.Look(ctx, func(s *house.State) { m = draw.Of(s.Rooms).Copied() })
	return m, err
}

// Draw is a draw of this channel, the one that goes on or any before it; nil where there is none of this id.
func (x *Drawing) Draw(ctx context.Context, id string) (*draw.Draw, error) {
	m, err := x.Memory(ctx)
	if err != nil || m.Now != nil && m.Now.ID == id {
		return m.Now, err
	}
	log, err := x.cfg.Store.Log.Drawn(ctx, x.cfg.Channel, id)
	if err != nil {
		return nil, err
	}
	return draw.Replay(id, log), nil
}
