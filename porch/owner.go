package porch

import (
	"context"
	"crypto/rand"
	"database/sql"
	"encoding/json"
	"time"

	"vividporch/core/event"
	"vividporch/core/house"
	"vividporch/core/people"
	"vividporch/store"
	"vividporch/voices/relay"
)

// own is the owner: it alone touches the state. It gathers what has come in,
// lives it in one batch, and wakes by itself when something falls due.
func (h *House) own(ctx context.Context) {
	defer h.closeBook()
	for {
		reqs, ok := h.gather(ctx)
		if !ok {
			return
		}
		for len(reqs) > 0 && ctx.Err() == nil {
			n := batchEnd(reqs)
			h.live(ctx, reqs[:n])
			reqs = reqs[n:]
		}
	}
}

// gather waits for the next request or the next wake, then takes all that is
// there.
func (h *House) gather(ctx context.Context) ([]request, bool) {
	var timer <-chan time.Time
	at, due := h.state.Wake(h.plan.Load())
	if end, pending := h.unbooked.until(); pending && (!due || end.Before(at)) {
		at, due = end, true
	}
	if due {
		t := time.NewTimer(max(0, time.Until(at)))
		defer t.Stop()
		timer = t.C
	}
	var reqs []request
	select {
	case <-ctx.Done():
		return nil, false
	case <-timer:
		if end, pending := h.unbooked.until(); pending && !end.After(time.Now()) && !h.book(ctx) {
			return nil, false
		}
		return []request{{}}, true // nothing came in: a wake
	case r := <-h.in:
		reqs = append(reqs, r)
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
// closes a stream or changes the settings, since what follows is known and
// decided differently.
func batchEnd(reqs []request) int {
	for i, r := range reqs {
		if r.do != nil {
			return i + 1
		}
		for _, e := range r.events {
			switch e.Data.(type) {
			case *event.StreamOpened, *event.StreamClosed, *event.StreamDeclared, *event.SettingsChanged:
				return i + 1
			}
		}
	}
	return len(reqs)
}

// live decides a batch, writes it down, and lets out what leaves.
func (h *House) live(ctx context.Context, reqs []request) {
	if len(reqs) == 1 && reqs[0].do != nil {
		reqs[0].do(h.state)
		return
	}
	evs := 0
	for _, r := range reqs {
		evs += len(r.events)
		for i := range r.events {
			r.events[i].Clean()
		}
	}
	b := &store.Batch{Fresh: map[string]int64{}, Claims: map[string]string{}, Unsettled: map[string]bool{}}
	t := told{repeats: map[*event.Event]bool{}, known: map[string]*people.Known{}}
	if evs > 0 {
		var ok bool
		if t, ok = h.prepare(ctx, reqs); !ok {
			return
		}
	}
	h.wake(b)
	results := make([][]Result, len(reqs))
	seen := map[string]bool{}
	for i := range reqs {
		if reqs[i].do != nil {
			continue
		}
		for j := range reqs[i].events {
			ev := &reqs[i].events[j]
			results[i] = append(results[i], h.one(ev, b, t.repeats[ev] || seen[ev.Key()], &t))
			seen[ev.Key()] = true
		}
	}
	if len(b.Entries) > 0 {
		h.commit(ctx, b)
	}
	for i, r := range reqs {
		if r.reply != nil {
			r.reply <- results[i]
		}
		if r.do != nil {
			r.do(h.state)
		}
	}
}

// wake lives what has fallen due.
func (h *House) wake(b *store.Batch) {
	now := time.Now()
	for {
		ev, ds, ok := house.Advance(h.state, now, h.plan.Load())
		if !ok {
			return
		}
		h.keep(b, ev, ds)
		h.raised(&ev, ds, b, &told{known: map[string]*people.Known{}})
	}
}

// one lives one event.
func (h *House) one(ev *event.Event, b *store.Batch, repeat bool, t *told) Result {
	if repeat {
		return Result{Repeat: true}
	}
	if h.passes(ev) || h.isForgotten(ev) {
		return Result{Passed: true}
	}
	ev.Stamp(time.Now().Truncate(time.Microsecond)) // what PostgreSQL can keep
	ev.Time = ev.Time.Truncate(time.Microsecond)
	ev.Seq = h.state.Seq + 1
	var k *people.Known
	if who := ev.Who(); who != nil && !event.IsOwn(ev.Type) {
		key := who.Key()
		k = t.known[key]
		switch was := t.claims[key]; {
		case k == nil && h.state.NeedsKnown(ev):
			k = &people.Known{Person: h.numbers.take(), Accounts: []string{key}}
			t.known[key], b.Fresh[key] = k, k.Person
		case was != "": // the book knew their login, and now knows their id
			b.Fresh[key], b.Claims[key] = k.Person, was
		}
	} else if who != nil {
		k = t.known[who.Key()]
	}
	if who := ev.Who(); who != nil && !h.state.Settled(who) {
		b.Unsettled[who.Key()] = true
	}
	if sc, ok := ev.Data.(*event.SettingsChanged); ok {
		if p, err := planOf(sc.Settings, sc.Version); err == nil {
			h.plan.Store(p)
			b.Settings = append(b.Settings, store.SettingsVersion{Version: sc.Version, Base: sc.Base, Member: sc.Member, What: sc.What, At: ev.Logged, Doc: sc.Settings})
		}
	}
	ds := house.Step(h.state, ev, k, h.plan.Load())
	h.keep(b, *ev, ds)
	h.raised(ev, ds, b, t)
	return Result{Seq: ev.Seq, Decisions: ds}
}

// raised lives the events that decisions raise, in the same batch as their cause,
// whose person is known by then.
func (h *House) raised(ev *event.Event, ds []house.Decision, b *store.Batch, t *told) {
	for _, r := range house.Raised(ev, ds) {
		if who := r.Who(); who != nil && t.known[who.Key()] == nil {
			t.known[who.Key()] = h.state.KnownHere(who.Key()) // a further line was decided without asking the book
		}
		h.one(&r, b, false, t)
	}
}

// passes: comings and goings of people who are not here are not worth a line in
// the log.
func (h *House) passes(ev *event.Event) bool {
	switch ev.Data.(type) {
	case *event.PersonLeft, *event.PersonEntered:
		key := ev.Who().Key()
		return h.state.Tonight[key] == nil && h.state.Between[key] == nil
	}
	return false
}

func (h *House) keep(b *store.Batch, ev event.Event, ds []house.Decision) {
	b.Entries = append(b.Entries, store.Entry{Event: ev, Decisions: ds, Stream: h.streamAt(ev.Time)})
	opened := false
	for i := range ds {
		opened = opened || ds[i].Kind == house.Open
	}
	if opened || ev.Seq-h.lastSnap >= snapshotEvery {
		if raw, err := json.Marshal(h.state); err == nil {
			h.snaps = append(h.snaps, store.Snapshot{Channel: h.ID, Seq: ev.Seq, State: raw})
			h.lastSnap = ev.Seq
		}
	}
}

// streamAt is the number of the stream a moment belongs to, or 0.
func (h *House) streamAt(t time.Time) int {
	s := &h.state.Stream
	if s.Number > 0 && !t.Before(s.Opened) {
		if s.Live() || t.Before(s.Gone) {
			return s.Number
		}
		return 0
	}
	for _, p := range h.state.Past {
		if !t.Before(p.Opened) && t.Before(p.Closed) {
			return p.Number
		}
	}
	return 0
}

func currentStream(s *house.State) int {
	if s.Stream.Live() {
		return s.Stream.Number
	}
	return s.Stream.Number + 1
}

// told is what the database told about a batch before it is lived.
type told struct {
	repeats map[*event.Event]bool
	known   map[string]*people.Known
	claims  map[string]string // account → the key under which its login was known
}

// prepare asks the database which events are repeats and who is behind those
// that matter, once for the whole batch. While it does not answer, it waits.
func (h *House) prepare(ctx context.Context, reqs []request) (told, bool) {
	var doors, sources, ids []string
	var at []*event.Event
	var ask []event.Person
	want := map[string]bool{}
	for i := range reqs {
		for j := range reqs[i].events {
			ev := &reqs[i].events[j]
			if !ownID(ev) {
				doors, sources, ids, at = append(doors, ev.Door), append(sources, ev.Source), append(ids, ev.ID), append(at, ev)
			}
			if who := ev.Who(); who != nil && !want[who.Key()] && h.state.NeedsKnown(ev) {
				want[who.Key()] = true
				ask = append(ask, *who)
			}
		}
	}
	t := told{repeats: map[*event.Event]bool{}, known: map[string]*people.Known{}}
	ok := h.insist(ctx, func() error {
		if len(ids) > 0 {
			m, err := h.store.Repeats(ctx, h.ID, doors, sources, ids)
			if err != nil {
				return err
			}
			for i := range m {
				t.repeats[at[i]] = true
			}
		}
		if len(ask) > 0 {
			var err error
			if t.known, t.claims, err = h.store.Known(ctx, h.ID, ask, currentStream(h.state)); err != nil {
				return err
			}
		}
		return h.numbers.fill(ctx, h, len(ask))
	})
	return t, ok
}

// commit writes a batch, however long that takes, then lets out what leaves.
func (h *House) commit(ctx context.Context, b *store.Batch) {
	var jobs []relay.Job
	for i := range b.Entries {
		for j := range b.Entries[i].Decisions {
			if d := &b.Entries[i].Decisions[j]; d.Kind == house.Relay {
				jobs = append(jobs, relay.Job{Channel: h.ID, Line: d.Line, Place: d.Place, Body: d.Body, About: d.Whom()})
			}
		}
	}
	if len(jobs) > 0 {
		b.Jobs = func(tx *sql.Tx) error { return h.relay.Add(ctx, tx, jobs) }
	}
	h.setTimes()
	b.Reckoning = h.Reckoning()
	if h.forgets(b) {
		b.State, _ = json.Marshal(h.state)
	}
	if b.Later = !changesBook(b); !b.Later && !h.book(ctx) {
		return
	}
	tried, begun := false, time.Now()
	last := &b.Entries[len(b.Entries)-1].Event
	if !h.insist(ctx, func() error {
		if tried { // the last try may have been written although its answer was lost
			if ok, err := h.store.Written(ctx, h.ID, last); err != nil || ok {
				return err
			}
		}
		tried = true
		return h.store.Commit(ctx, h.ID, b)
	}) {
		return
	}
	h.letOut(b)
	commitTook.Observe(time.Since(begun).Seconds())
	measure(b)
	h.show(b)
	if b.Later {
		h.unbooked.add(b)
		if (b.Asks() || h.unbooked.full()) && !h.book(ctx) {
			return
		}
	}
	h.after(ctx, b)
	for _, snap := range h.snaps { // off the way of speech
		go func() {
			if err := h.store.SaveSnapshot(ctx, snap); err != nil && ctx.Err() == nil {
				h.log.Warn("a snapshot could not be kept", "error", err)
			}
		}()
	}
	h.snaps = nil
}

// insist does something with the database until it works or the house closes;
// meanwhile the Porch says that the database is gone.
func (h *House) insist(ctx context.Context, f func() error) bool {
	pause := 50 * time.Millisecond
	for {
		err := f()
		if err == nil {
			if h.stalled.Swap(false) {
				h.log.Info("the database is back")
				h.showStalled()
			}
			return true
		}
		if ctx.Err() != nil {
			return false
		}
		if !h.stalled.Swap(true) {
			h.log.Error("the database does not answer", "error", err)
			h.showStalled()
		}
		select {
		case <-ctx.Done():
			return false
		case <-time.After(pause):
		}
		pause = min(2*pause, retryMost)
	}
}

// letOut hands committed effects to the voices. The decision's own commit is the
// mark that the line is about to be said.
func (h *House) letOut(b *store.Batch) {
	for i := range b.Entries {
		for _, d := range b.Entries[i].Decisions {
			switch d.Kind {
			case house.Say:
				h.speak(d)
			case house.Act:
				address, door := h.plan.Load().ActsAt(d.Platform)
				h.stage.Do(address, door, d)
			case house.Sound, house.Film, house.Speak, house.Lamp, house.Scene:
				address := ""
				if f := h.plan.Load().Settings.FittingNamed(d.Platform); f != nil {
					address = f.URL
				}
				h.stage.Do(address, d.Platform, d)
			case house.Ask:
				h.asker.Ask(h.plan.Load().Lookup(d.Platform), d)
			}
		}
	}
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
