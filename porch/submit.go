package porch

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/house"
	"vividporch/core/people"
	"vividporch/core/room"
	"vividporch/doors/irc"
	"vividporch/porch/desk"
)

// Submit logs events. It returns when they are committed, with what became of
// each; while the database is gone it waits, unless ctx ends first.
func (h *House) Submit(ctx context.Context, evs []event.Event) ([]Result, error) {
	reply := make(chan []Result, 1)
	select {
	case h.in <- request{events: evs, reply: reply}:
	case <-ctx.Done():
		return nil, ctx.Err()
	case <-h.closed:
		return nil, ErrClosed
	}
	select {
	case rs := <-reply:
		return rs, nil
	case <-ctx.Done():
		return nil, ctx.Err()
	case <-h.closed:
		return nil, ErrClosed
	}
}

// SubmitSoon hands an event over without waiting for the log. A full house makes
// the door wait.
func (h *House) SubmitSoon(ev event.Event) {
	select {
	case h.in <- request{events: []event.Event{ev}}:
	case <-h.closed:
	}
}

// tell logs something the house itself brought about. The owner may call it, so
// it never waits for the owner.
func (h *House) tell(d event.Data) {
	ev := h.ownEvent(d)
	select {
	case h.in <- request{events: []event.Event{ev}}:
	default:
		go h.SubmitSoon(ev)
	}
}

// handDoor is the door, and the source, of what members do.
const handDoor = "desk"

// HandedBefore tells, by their place in the list, which of some names of what members do stand in the log.
func (h *House) HandedBefore(ctx context.Context, ids []string) (map[int]bool, error) {
	doors := slices.Repeat([]string{handDoor}, len(ids))
	return h.store.Log.Repeats(ctx, h.ID, doors, doors, ids)
}

// Hand logs a member's action and returns what was decided about it.
func (h *House) Hand(ctx context.Context, d event.Data) ([]hall.Decision, error) {
	r, err := h.hand(ctx, d)
	return r.Decisions, err
}

// HandOnce does the same for what has a name of its own, and tells whether it was done before under that.
func (h *House) HandOnce(ctx context.Context, id string, d event.Data) (ds []hall.Decision, before bool, err error) {
	r, err := h.handAs(ctx, id, d)
	return r.Decisions, r.Repeat, err
}

func (h *House) hand(ctx context.Context, d event.Data) (Result, error) {
	return h.handAs(ctx, "", d)
}

func (h *House) handAs(ctx context.Context, id string, d event.Data) (Result, error) {
	ev := h.ownEvent(d)
	ev.Door, ev.Source, ev.ID = handDoor, handDoor, cmp.Or(id, ev.ID)
	ev.Clean() // before it is checked: what is checked is what is kept
	if err := d.Validate(); err != nil {
		return Result{}, err
	}
	if h.Stalled() {
		return Result{}, ErrStalled
	}
	rs, err := h.Submit(ctx, []event.Event{ev})
	if err != nil {
		return Result{}, err
	}
	if rs[0].Aside != "" {
		return Result{}, &ErrAside{rs[0].Aside}
	}
	if rs[0].Overtaken {
		return Result{}, desk.ErrOvertaken
	}
	return rs[0], nil
}

// deskHouse is the running house as the desk needs it.
type deskHouse struct{ *House }

func (h deskHouse) Ready() error {
	if h.Stalled() {
		return ErrStalled
	}
	return nil
}

func (h deskHouse) Hand(ctx context.Context, d event.Data) (int64, error) {
	r, err := h.hand(ctx, d)
	return r.Seq, err
}

func (h deskHouse) Look(ctx context.Context, f func(*house.State)) error { return h.look(ctx, f) }

func (h deskHouse) TellLeft(ctx context.Context) { h.tellLeft(ctx) }

// Stir has the house live what is due by its clock now, after the clock was moved on.
func (h *House) Stir(ctx context.Context) {
	select {
	case h.in <- request{}:
	case <-ctx.Done():
	case <-h.closed:
	}
}

// look runs f on the state, between two batches.
func (h *House) look(ctx context.Context, f func(*house.State)) error {
	done := make(chan struct{})
	select {
	case h.in <- request{do: func(s *house.State) { f(s); close(done) }}:
	case <-ctx.Done():
		return ctx.Err()
	case <-h.closed:
		return ErrClosed
	}
	select {
	case <-done:
		return nil
	case <-ctx.Done():
		return ctx.Err()
	case <-h.closed:
		return ErrClosed
	}
}

// Plan is the version of the settings in force.
func (h *House) Plan() *room.Plan { return h.plan.Load() }

// Stalled reports whether the database is gone.
func (h *House) Stalled() bool { return h.stalled.Load() || h.adrift.Load() || h.silent.Load() }

// ClockBack is how far the machine's clock lies behind the house's; 0 when it is well.
func (h *House) ClockBack() time.Duration { return h.clock.back() }

// Backlog is how many requests wait for the owner.
func (h *House) Backlog() int { return len(h.in) }

// Known tells what the house knows about an account, as for an event of now.
func (h *House) Known(ctx context.Context, key string) (*people.Known, error) {
	var stream int
	if err := h.look(ctx, func(s *house.State) { stream = s.StreamNow() }); err != nil {
		return nil, err
	}
	platform, id, _ := strings.Cut(key, ":")
	m, _, err := h.store.Book.Known(ctx, h.ID, []event.Person{{Platform: platform, ID: id}}, stream)
	return m[key], err
}

// Health tells how a chat door stands; the zero Health for one that is not there.
func (h *House) Health(door string) irc.Health {
	h.mu.Lock()
	defer h.mu.Unlock()
	if c := h.chats[door]; c != nil {
		return c.client.Health()
	}
	return irc.Health{}
}

// CheckDoor proves a chat door from end to end.
func (h *House) CheckDoor(ctx context.Context, door string) (time.Duration, error) {
	h.mu.Lock()
	c := h.chats[door]
	h.mu.Unlock()
	if c == nil {
		return 0, fmt.Errorf("there is no chat door %q", door)
	}
	return c.client.Check(ctx)
}
