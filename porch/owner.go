package porch

import (
	"context"
	"crypto/rand"
	"database/sql"
	"encoding/json"
	"errors"
	"slices"
	"strings"
	"sync/atomic"
	"time"

	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/house"
	"vividporch/core/people"
	"vividporch/core/room"
	"vividporch/porch/places"
	"vividporch/store/forget"
	"vividporch/store/jobs"
	"vividporch/store/log"
	"vividporch/store/tables"
)

// run is the owner: it alone touches the state. It gathers what has come in,
// lives it in one batch, and wakes by itself when something falls due.
func (h *House) run(ctx context.Context) {
	defer h.closeBook()
	for {
		reqs, ok := h.gather(ctx)
		if !ok {
			return
		}
		for len(reqs) > 0 && ctx.Err() == nil {
			n := batchEnd(reqs, h.plan.Load())
			h.take(ctx, reqs[:n])
			reqs = reqs[n:]
			h.progress.Store(time.Now().UnixNano())
		}
	}
}

// gather waits for the next request or the next wake, then takes all that is
// there. Meanwhile it keeps the guest book up with the log.
func (h *House) gather(ctx context.Context) ([]request, bool) {
	var reqs []request
	for len(reqs) == 0 {
		if h.keepBook(ctx) != nil {
			return nil, false
		}
		at, due := h.state.Wake(h.plan.Load())
		wait, wake := at.Sub(h.clock.now()), due
		if end, pending := h.unbooked.until(); pending && h.unbooked.running == nil && (!due || time.Until(end) < wait) {
			wait, due, wake = time.Until(end), true, false
		}
		var timer <-chan time.Time
		if due {
			t := time.NewTimer(max(0, wait))
			defer t.Stop()
			timer = t.C
		}
		select {
		case <-ctx.Done():
			return nil, false
		case <-h.unbooked.ended(): // the next may be begun
		case <-timer:
			if wake {
				return []request{{}}, true // nothing came in
			}
		case r := <-h.in:
			reqs = append(reqs, r)
		}
	}
	for n := len(reqs[0].events); n < batchMost; {
		select {
		case r := <-h.in:
			reqs = append(reqs, r)
			n += len(r.events)
			continue
		default:
		}
		break
	}
	return reqs, true
}

// batchEnd is how many requests one batch takes: it ends after whatever opens or
// closes a stream, changes the settings or the guest book, or may forget somebody,
// since what follows is known and decided differently.
func batchEnd(reqs []request, plan *room.Plan) int {
	for i, r := range reqs {
		if r.do != nil {
			return i + 1
		}
		for _, e := range r.events {
			switch e.Data.(type) {
			case *happening.StreamOpened, *happening.StreamClosed, *event.StreamDeclared, *event.SettingsChanged:
				return i + 1
			}
			if strings.HasPrefix(e.Type, bookChange) || plan.MayChange(&e) || house.WantsNames(plan, &e) {
				return i + 1
			}
		}
	}
	return len(reqs)
}

// take decides a batch, writes it down, and lets out what leaves. What cannot be lived
// or written for what it is is set aside, and the rest of the batch lived without it.
func (h *House) take(ctx context.Context, reqs []request) {
	if len(reqs) == 1 && reqs[0].do != nil {
		if h.unbooked.behind() { // whoever looks at the state may look at the book next
			h.book(ctx)
		}
		reqs[0].do(h.state)
		return
	}
	results, err := h.together(ctx, reqs, true)
	if err != nil && ctx.Err() == nil && !errors.Is(err, log.ErrHeld) {
		results, err = h.apart(ctx, reqs, err)
	}
	if err != nil { // the house closes, or another process has the channel
		return
	}
	for i, r := range reqs {
		if r.reply != nil {
			if h.unbooked.behind() { // whoever hears of it may ask the book about it
				h.whenBooked(func() { r.reply <- results[i] })
			} else {
				r.reply <- results[i]
			}
		}
		if r.do != nil {
			if h.unbooked.behind() {
				h.book(ctx)
			}
			r.do(h.state)
		}
	}
}

// together lives what is due and all requests as one batch. After an error the state
// may have gone further than the log. Without wake what is due is left for later.
func (h *House) together(ctx context.Context, reqs []request, wake bool) (results [][]Result, err error) {
	if stumbled := safely(func() { results, err = h.batch(ctx, reqs, wake) }); stumbled != nil {
		return nil, stumbled
	}
	return results, err
}

func (h *House) batch(ctx context.Context, reqs []request, wake bool) ([][]Result, error) {
	b := h.newBatch()
	if wake { // first: what is due may end the stream that those who come in are asked about
		h.wake(b)
	}
	t, err := h.prepare(ctx, reqs)
	if err != nil {
		return nil, err
	}
	results := make([][]Result, len(reqs))
	seen := map[string]bool{}
	for i := range reqs {
		for j := range reqs[i].events {
			ev := &reqs[i].events[j]
			results[i] = append(results[i], h.one(ev, b, t.repeats[ev] || seen[ev.Key()], &t))
			seen[ev.Key()] = true
		}
	}
	if len(b.Entries) == 0 {
		return results, nil
	}
	return results, h.commit(ctx, b)
}

func (h *House) newBatch() *log.Batch {
	return &log.Batch{Fresh: map[string]int64{}, Claims: map[string]string{}, Unsettled: map[string]bool{}, Epoch: h.epoch}
}

// wake lives what has fallen due.
func (h *House) wake(b *log.Batch) {
	now := h.clock.now().Truncate(time.Microsecond) // what PostgreSQL can keep
	for {
		ev, ds, ok := house.Advance(h.state, now, h.plan.Load())
		if !ok {
			return
		}
		h.keep(b, ev, ds)
		h.raised(&ev, ds, b, &answers{known: map[string]*people.Known{}})
	}
}

// one lives one event.
func (h *House) one(ev *event.Event, b *log.Batch, repeat bool, t *answers) Result {
	if repeat {
		return Result{Repeat: true}
	}
	if sc, ok := ev.Data.(*event.SettingsChanged); ok && sc.Version <= h.plan.Load().Version {
		return Result{Overtaken: true}
	}
	if h.state.Passes(ev, h.plan.Load()) || h.isForgotten(ev) || h.outcomeOfForgotten(ev) {
		return Result{Passed: true}
	}
	if back := h.clock.back(); back > 0 && !ev.Time.IsZero() && !event.IsOwn(ev.Type) {
		ev.Time = ev.Time.Add(back) // into the house's time, which runs ahead of the clock that the sender and this machine share
	}
	ev.Stamp(h.clock.now().Truncate(time.Microsecond)) // what PostgreSQL can keep
	ev.Time = ev.Time.Truncate(time.Microsecond)
	ev.Seq = h.state.Seq + 1
	var k *people.Known
	if who := ev.Who(); who != nil && !event.IsOwn(ev.Type) {
		key := who.Key()
		k = t.known[key]
		switch was := t.claims[key]; {
		case k == nil && h.state.NeedsKnown(ev) && t.asked[key]: // the book knows nobody by this account
			k = &people.Known{Person: h.numbers.take(), Accounts: []string{key}}
			t.known[key], b.Fresh[key] = k, k.Person
		case was != "": // the book knew their login, and now knows their id
			b.Fresh[key], b.Claims[key] = k.Person, was
		}
	} else if who != nil {
		k = t.known[who.Key()]
	}
	if k != nil && t.private[ev.Who().Key()] { // and in this batch, before they ask to be forgotten
		for _, n := range []string{ev.Who().Login, ev.Who().Name} {
			if n != "" && !slices.Contains(k.Names, n) {
				k.Names = append(k.Names, n)
			}
		}
	}
	if who := ev.Who(); who != nil && !h.state.Settled(ev) {
		b.Unsettled[who.Key()] = true
	}
	if sc, ok := ev.Data.(*event.SettingsChanged); ok {
		if p, err := planOf(sc.Settings, sc.Version); err == nil {
			h.plan.Store(p)
			v := tables.SettingsVersion{Version: sc.Version, Base: sc.Base, Member: sc.Member, What: sc.What, At: ev.Logged, Doc: sc.Settings}
			if sc.By != nil {
				v.Account = sc.By.Key()
			}
			b.Settings = append(b.Settings, v)
		}
	}
	ds := house.Step(h.state, ev, k, h.plan.Load(), t.named[ev]...)
	h.keep(b, *ev, ds)
	h.raised(ev, ds, b, t)
	return Result{Seq: ev.Seq, Decisions: ds}
}

// raised lives the events that decisions raise, in the same batch as their cause,
// whose person is known by then.
func (h *House) raised(ev *event.Event, ds []hall.Decision, b *log.Batch, t *answers) {
	for _, r := range room.Raised(h.plan.Load(), ev, ds) {
		if who := r.Who(); who != nil && t.known[who.Key()] == nil {
			t.known[who.Key()] = h.state.KnownHere(who.Key()) // a further line was decided without asking the book
		}
		h.one(&r, b, false, t)
	}
}

func (h *House) keep(b *log.Batch, ev event.Event, ds []hall.Decision) {
	b.Entries = append(b.Entries, log.Entry{Event: ev, Decisions: ds, Stream: h.state.StreamAt(ev.Time)})
	opened := false
	for _, key := range hall.Forgotten(&ev, ds) { // from now on, what else of theirs came in with it too
		h.forgotten[forget.Digest(key)] = true
	}
	for i := range ds {
		opened = opened || ds[i].Kind == hall.Open
	}
	if opened || ev.Seq-h.lastSnap >= snapshotEvery {
		if raw, err := json.Marshal(h.state); err == nil {
			h.snaps = append(h.snaps, tables.Snapshot{Channel: h.ID, Seq: ev.Seq, State: raw, Stream: h.state.Stream.Number})
			h.lastSnap = ev.Seq
		}
	}
}

// answers are what the database told about a batch before it is lived.
type answers struct {
	repeats map[*event.Event]bool
	asked   map[string]bool // accounts that the book was asked about
	known   map[string]*people.Known
	named   map[*event.Event][]people.Named // whom of the guest book a command may mean
	private map[string]bool                 // accounts whose names are told too
	claims  map[string]string               // account → the key under which its login was known
}

// namedMost is for how many commands of one batch the guest book is looked through.
const namedMost = 50

// prepare asks the database which events are repeats and who is behind those
// that matter, once for the whole batch. While it does not answer, it waits.
func (h *House) prepare(ctx context.Context, reqs []request) (answers, error) {
	var doors, sources, ids []string
	var at []*event.Event
	var ask []event.Person
	var names []string // accounts whose names are asked for too
	want := map[string]bool{}
	meant := map[*event.Event]string{} // commands, and the name behind each
	for i := range reqs {
		for j := range reqs[i].events {
			ev := &reqs[i].events[j]
			ev.Clean()
			if !ownID(ev) {
				doors, sources, ids, at = append(doors, ev.Door), append(sources, ev.Source), append(ids, ev.ID), append(at, ev)
			}
			plan := h.plan.Load()
			if name := house.Means(plan, ev); name != "" && len(meant) < namedMost {
				meant[ev] = name
			}
			private := house.WantsNames(plan, ev) // who they are, all of it, as of now
			if who := ev.Who(); who != nil && h.state.Wants(ev, plan) {
				key := who.Key()
				if !want[key] {
					want[key] = true
					ask = append(ask, *who)
				}
				if private && !slices.Contains(names, key) { // whatever they said before it
					names = append(names, key)
				}
			}
		}
	}
	t := answers{repeats: map[*event.Event]bool{}, private: map[string]bool{}, asked: want, known: map[string]*people.Known{}}
	if len(ids)+len(ask)+len(meant) == 0 {
		return t, nil
	}
	if len(names) > 0 || len(ask)+len(meant) > 0 && h.unbooked.behind() { // all they were called until now is to be found in the book
		if err := h.book(ctx); err != nil {
			return t, err
		}
	}
	err := h.insist(ctx, quickly, func(ctx context.Context) error {
		if len(ids) > 0 {
			m, err := h.store.Log.Repeats(ctx, h.ID, doors, sources, ids)
			if err != nil {
				return err
			}
			for i := range m {
				t.repeats[at[i]] = true
			}
		}
		if len(ask) > 0 {
			var err error
			if t.known, t.claims, err = h.store.Book.Known(ctx, h.ID, ask, h.state.StreamNow()); err != nil {
				return err
			}
		}
		t.named = map[*event.Event][]people.Named{}
		for ev, name := range meant {
			var err error
			if t.named[ev], err = h.store.Book.Called(ctx, h.ID, name, h.state.StreamNow()); err != nil {
				return err
			}
		}
		for _, key := range names {
			t.private[key] = true
			if k := t.known[key]; k != nil {
				var err error
				if k.Names, err = h.store.Privacy.NamesOf(ctx, h.ID, k.Person); err != nil {
					return err
				}
			}
		}
		return h.numbers.fill(ctx, h, len(ask))
	})
	return t, err
}

// commit writes a batch, however long that takes, then lets out what leaves. An error
// says that it cannot be written.
func (h *House) commit(ctx context.Context, b *log.Batch) error {
	var posts []jobs.Delivery
	for i := range b.Entries {
		for j := range b.Entries[i].Decisions {
			if d := &b.Entries[i].Decisions[j]; d.Kind == hall.Relay {
				posts = append(posts, places.Delivery(h.ID, h.plan.Load(), time.Now(), d))
			}
		}
	}
	if len(posts) > 0 {
		b.Jobs = func(tx *sql.Tx) error { return h.relay.Add(ctx, tx, posts) }
	}
	h.setTimes()
	b.Reckoning = h.Reckoning()
	within := quickly
	if h.forgets(b) {
		b.State, _ = json.Marshal(h.state)
		within = slowly
	}
	if b.Later = !changesBook(b); !b.Later {
		if err := h.book(ctx); err != nil {
			return err
		}
	}
	tried, begun := false, time.Now()
	last := &b.Entries[len(b.Entries)-1].Event
	if err := h.insist(ctx, within, func(context.Context) error {
		ctx, end := toItsEnd(ctx)
		defer end()
		ctx, cancel := context.WithTimeout(ctx, within)
		defer cancel()
		if tried { // the last try may have been written although its answer was lost
			if ok, err := h.store.Log.Written(ctx, h.ID, last); err != nil || ok {
				return err
			}
		}
		tried = true
		return h.store.Commit(ctx, h.ID, b)
	}); err != nil {
		return err
	}
	h.letOut(b)
	commitTook.Observe(time.Since(begun).Seconds())
	measure(b)
	h.show(b)
	if b.Later {
		h.unbooked.add(b)
		book := h.keepBook
		if wantsBook(b) {
			book = h.book
		}
		if book(ctx) != nil {
			return nil // the house closes; the next start books it
		}
	}
	h.after(ctx, b)
	for _, snap := range h.snaps { // off the way of speech
		go func() {
			if err := h.store.Log.SaveSnapshot(ctx, snap); err != nil && ctx.Err() == nil {
				h.log.Warn("a snapshot could not be kept", "error", err)
			}
		}()
	}
	h.snaps = nil
	return nil
}

// How long one try at the database may take before it is given up as gone: nearly
// everything is done in milliseconds, forgetting somebody looks through the whole log.
const (
	quickly = 4 * time.Second
	slowly  = 5 * time.Minute
)

// insist does something with the database until it works or the house closes;
// meanwhile the Porch says that the database is gone. It returns the error when waiting
// cannot heal it, or when another process has the channel.
func (h *House) insist(ctx context.Context, within time.Duration, f func(context.Context) error) error {
	return h.insistAs(ctx, &h.stalled, within, f)
}

// insistAs does the same for whoever of the house waits.
func (h *House) insistAs(ctx context.Context, who *atomic.Bool, within time.Duration, f func(context.Context) error) error {
	pause := 50 * time.Millisecond
	for {
		once, cancel := context.WithTimeout(ctx, within)
		err := f(once)
		cancel()
		switch {
		case ctx.Err() != nil:
			return ctx.Err()
		case err == nil:
			h.waits(who, nil)
			return nil
		case errors.Is(err, log.ErrHeld):
			h.lost()
			return err
		case !log.Waits(err):
			h.waits(who, nil)
			return err
		}
		h.waits(who, err)
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(pause):
		}
		pause = min(2*pause, retryMost)
	}
}

// toItsEnd is a context for writing what the house has begun to write: when it closes
// meanwhile that is brought to its end, if it is soon. A statement that is given up is not
// undone, and PostgreSQL may still finish it when another has the channel.
func toItsEnd(ctx context.Context) (context.Context, func()) {
	own, cancel := context.WithCancel(context.WithoutCancel(ctx))
	stop := context.AfterFunc(ctx, func() { time.AfterFunc(closeWithin, cancel) })
	return own, func() { stop(); cancel() }
}

// ownEvent makes an event of the house itself.
func (h *House) ownEvent(d event.Data) event.Event {
	return event.Event{Door: "house", Source: "house", ID: ownPrefix + rand.Text(), Type: d.Type(), Data: d}
}

// ownPrefix starts the ids the house gives out itself. They cannot repeat.
const ownPrefix = "own-"

func ownID(ev *event.Event) bool {
	return (ev.Door == "house" || ev.Door == "desk") && len(ev.ID) > len(ownPrefix) && ev.ID[:len(ownPrefix)] == ownPrefix
}
