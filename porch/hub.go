package porch

import (
	"context"
	"encoding/json"
	"sync"
	"time"

	"vividporch/core/house"
)

// Limits of following the Porch.
const (
	framesKept  = 2000             // frames that a page can resume from
	framesAhead = 512              // frames a slow page may lag behind
	wantedFor   = 10 * time.Minute // how long frames are made after the last page left
)

// Frame is one server-sent event: Seq is its id, 0 for one without.
type Frame struct {
	Name string
	Seq  int64
	Data []byte
	from int64 // the event before the first that it tells of
}

// hub hands frames to every page that watches and keeps the last ones.
type hub struct {
	mu   sync.Mutex
	subs map[chan Frame]bool
	kept []Frame
	last time.Time // when somebody last watched
}

// wanted reports whether anybody watches or may resume soon.
func (h *hub) wanted() bool {
	h.mu.Lock()
	defer h.mu.Unlock()
	return len(h.subs) > 0 || time.Since(h.last) < wantedFor
}

// forget drops what was kept: frames were left out, so nobody can resume.
func (h *hub) forget() {
	h.mu.Lock()
	h.kept = nil
	h.mu.Unlock()
}

func (h *hub) send(name string, from, seq int64, v any) {
	raw, err := json.Marshal(v)
	if err != nil {
		return
	}
	f := Frame{name, seq, raw, from}
	h.mu.Lock()
	defer h.mu.Unlock()
	if seq > 0 {
		if h.kept = append(h.kept, f); len(h.kept) > 2*framesKept {
			h.kept = append([]Frame(nil), h.kept[len(h.kept)-framesKept:]...)
		}
	}
	for c := range h.subs {
		select {
		case c <- f:
		default: // too slow: it is cut off and comes back with its last id
			delete(h.subs, c)
			close(c)
		}
	}
}

// Watch follows the Porch from after a frame's id: first what was missed, or the
// whole Porch when that is not known any more, then every change. The channel
// closes when the page is too slow, or when stop is called.
func (h *House) Watch(ctx context.Context, after int64) (frames <-chan Frame, stop func(), err error) {
	c := make(chan Frame, framesAhead+2*framesKept)
	err = h.look(ctx, func(s *house.State) {
		h.hub.mu.Lock()
		defer h.hub.mu.Unlock()
		missed, ok := h.hub.missed(after, s.Seq)
		if !ok {
			raw, err := json.Marshal(h.whole(s))
			if err != nil {
				return
			}
			missed = []Frame{{Name: "whole", Seq: s.Seq, Data: raw}}
		}
		for _, f := range missed {
			c <- f
		}
		if h.hub.subs == nil {
			h.hub.subs = map[chan Frame]bool{}
		}
		h.hub.subs[c] = true
	})
	if err != nil {
		return nil, nil, err
	}
	return c, func() {
		h.hub.mu.Lock()
		defer h.hub.mu.Unlock()
		h.hub.last = time.Now()
		if h.hub.subs[c] {
			delete(h.hub.subs, c)
			close(c)
		}
	}, nil
}

// missed are the frames after an id; ok is false when they are not all known.
func (h *hub) missed(after, now int64) ([]Frame, bool) {
	switch {
	case after <= 0 || after > now:
		return nil, false
	case after == now:
		return nil, true
	}
	for i := range h.kept {
		if h.kept[i].from == after {
			return h.kept[i:], true
		}
	}
	return nil, false
}
