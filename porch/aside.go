package porch

import (
	"context"
	"errors"
	"fmt"
	"runtime/debug"
	"strconv"
	"strings"
	"sync/atomic"
	"time"

	"vividporch/core/event"
	"vividporch/store/log"
	"vividporch/store/pg"
)

// safely runs f and makes an error of a panic, so that one event's harm is that event's.
func safely(f func()) (err error) {
	defer func() {
		if r := recover(); r != nil {
			err = &stumbled{fmt.Sprint(r), debug.Stack()}
		}
	}()
	f()
	return nil
}

// stumbled is a panic while an event was lived.
type stumbled struct {
	what  string
	stack []byte
}

func (s *stumbled) Error() string { return s.what + "\n" + string(s.stack) }

// apart lives requests one event at a time, after all of them together could not be
// lived or written. What cannot be for what it is is set aside; everything else goes on.
func (h *House) apart(ctx context.Context, reqs []request, why error) ([][]Result, error) {
	h.log.Error("a batch could not be lived; its events are lived one by one", "error", why)
	if err := h.rewind(ctx); err != nil {
		return nil, err
	}
	results := make([][]Result, len(reqs))
	if _, err := h.together(ctx, nil, true); err != nil { // what is due, by itself
		h.asideWake(ctx, err)
	}
	for i := range reqs {
		for j := range reqs[i].events {
			one := []request{{events: reqs[i].events[j : j+1]}}
			got, err := h.together(ctx, one, false)
			switch {
			case ctx.Err() != nil || errors.Is(err, log.ErrHeld):
				return nil, err
			case err != nil:
				cause := h.setAside(ctx, &reqs[i].events[j], err, nil, false)
				results[i] = append(results[i], Result{Aside: cause})
			default:
				results[i] = append(results[i], got[0]...)
			}
		}
	}
	return results, ctx.Err()
}

// rewind brings the state back to where the log is.
func (h *House) rewind(ctx context.Context) error {
	h.snaps = nil
	err := h.insist(ctx, slowly, h.restore)
	if err != nil {
		return err
	}
	h.shown = nil
	h.hub.forget()
	if h.hub.wanted() {
		h.hub.send("whole", 0, h.state.Seq, h.whole(h.state))
	}
	return nil
}

// asideWake gives up what was due when that could not be lived: the lines go, so that
// they do not fail again for ever.
func (h *House) asideWake(ctx context.Context, why error) {
	now := h.clock.now()
	var lines []string
	if h.rewind(ctx) != nil {
		return
	}
	for i := range h.state.Queue.Lines {
		if l := &h.state.Queue.Lines[i]; !l.Due.After(now) || !l.Expires.IsZero() && !l.Expires.After(now) {
			lines = append(lines, l.Key())
		}
	}
	ev := event.Event{Door: "house", Source: "house", ID: "wake", Type: "porch.house.woke", Time: now, Logged: now, Data: &event.Woke{}}
	h.setAside(ctx, &ev, why, lines, true)
}

// setAside keeps an event that could not be lived or written, says so, and brings the
// house back to where the log is. It returns the cause, which tells nothing of what was
// in the event.
func (h *House) setAside(ctx context.Context, ev *event.Event, why error, lines []string, rest bool) string {
	cause, at := log.Cause(why), "write"
	var s *stumbled
	if errors.As(why, &s) {
		cause, at = "the house stumbled over it", "live"
	}
	h.log.Error("an event is set aside", "type", ev.Type, "door", ev.Door, "cause", cause, "error", why)
	setAside.WithLabelValues(at).Inc()
	if h.rewind(ctx) != nil {
		return cause
	}
	var id int64
	err := h.insist(ctx, quickly, func(ctx context.Context) (err error) {
		id, err = h.store.Log.AddAside(ctx, h.ID, ev, cause)
		return err
	})
	if err != nil {
		h.log.Error("what was set aside cannot be kept", "type", ev.Type, "error", err)
	}
	note := h.ownEvent(&event.Noticed{Item: "aside/" + strconv.FormatInt(id, 10), Kind: "aside", Name: ev.Type, Why: cause, Lines: lines, Rest: rest})
	if _, err := h.together(ctx, []request{{events: []event.Event{note}}}, false); err != nil && ctx.Err() == nil {
		h.log.Error("what was set aside cannot be shown", "type", ev.Type, "error", err) // nothing is set aside for that in its turn
		h.rewind(ctx)
	}
	return cause
}

// TryAside lives once more what was set aside. It is told what became of it.
func (h *House) TryAside(ctx context.Context, item string) (Result, error) {
	id, err := asideID(item)
	if err != nil {
		return Result{}, err
	}
	ev, err := h.store.Log.TakeAside(ctx, h.ID, id)
	if err != nil {
		return Result{}, err
	}
	rs, err := h.Submit(ctx, []event.Event{ev})
	if err != nil {
		return Result{}, err
	}
	return rs[0], nil
}

// DropAside forgets what was set aside.
func (h *House) DropAside(ctx context.Context, item string) error {
	id, err := asideID(item)
	if err != nil {
		return err
	}
	if _, err = h.store.Log.TakeAside(ctx, h.ID, id); errors.Is(err, pg.ErrNone) {
		return nil
	}
	var f *event.FieldError
	if errors.As(err, &f) { // it is gone, and could not be read
		return nil
	}
	return err
}

func asideID(item string) (int64, error) {
	n, err := strconv.ParseInt(strings.TrimPrefix(item, "aside/"), 10, 64)
	if err != nil {
		return 0, pg.ErrNone
	}
	return n, nil
}

// ErrAside says that something was set aside, and why.
type ErrAside struct{ Cause string }

func (e *ErrAside) Error() string { return "it was set aside: " + e.Cause }

// waits notes whether somebody waits for the database, and for what.
func (h *House) waits(who *atomic.Bool, err error) {
	if err == nil {
		if who.Swap(false) {
			h.log.Info("the database is back")
			h.showStalled()
		}
		return
	}
	if !who.Swap(true) {
		h.log.Error("the database does not answer", "error", err)
		h.showStalled()
	}
}

// lost notes that another process has the channel: nothing is written here any more.
func (h *House) lost() {
	if !h.gone.Swap(true) {
		h.log.Error("another process has taken this channel over")
		if h.cfg.OnLost != nil {
			h.cfg.OnLost()
		}
	}
}

// Times of watching the database.
const (
	pingEvery  = time.Second
	pingWithin = 2 * time.Second // one that hangs is noticed within five seconds, whoever asks
)

// watchDatabase notices a database that is gone or hangs, whether or not anybody wants
// anything of it; the machine's clock it watches along with it.
func (h *House) watchDatabase(ctx context.Context) {
	ill := false // the clock
	for {
		once, cancel := context.WithTimeout(ctx, pingWithin)
		err := h.store.Ping(once)
		cancel()
		if ctx.Err() != nil {
			return
		}
		if was := h.silent.Swap(err != nil); was != (err != nil) {
			if err != nil {
				h.log.Error("the database does not answer", "error", err)
			} else {
				h.log.Info("the database answers again")
			}
			h.showStalled()
		}
		if back := h.clock.back(); ill != (back > 0) {
			if ill = back > 0; ill {
				h.log.Error("the machine's clock went back; the house goes on from its last moment", "behind", back)
			} else {
				h.log.Info("the machine's clock has caught up")
			}
			h.showStalled()
		}
		select {
		case <-ctx.Done():
			return
		case <-time.After(pingEvery):
		}
	}
}

// stuckAfter is how long the owner may take over one batch before the house is not well.
const stuckAfter = time.Minute

// Stuck reports that the owner has made no progress for a minute although something
// waits for it.
func (h *House) Stuck() bool {
	since := time.Unix(0, h.progress.Load())
	return (h.stalled.Load() || len(h.in) > 0) && time.Since(since) > stuckAfter
}
