package porch

import (
	"context"
	"errors"
	"strconv"
	"strings"
	"time"

	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/privacy"
	"vividporch/store/log"
)

// The log comes first: what is to be said leaves as soon as it is committed, and the
// guest book is written after it, while the owner goes on with the log. Whoever asks the
// book, or changes it by hand, waits until all that it must know is written. Further lines,
// nearly all there are, are booked several batches at once. What a crash leaves between
// the two is booked at the next start, from the log.
const (
	bookWithin  = time.Second     // longest time a further line waits to be booked
	bookMost    = 8000            // events booked at once
	bookBehind  = 2 * bookMost    // events that may wait; then the owner waits
	closeWithin = 2 * time.Second // how long what is being written may take when the house closes
)

// unbooked is what is in the log and not in the book yet. It is the owner's.
type unbooked struct {
	batch   *log.Batch // that is gathered
	since   time.Time  // when it was begun
	asks    bool       // it holds more than further lines
	then    []func()   // what is to be done when it is booked
	running *booking   // of the batch before it; nil for none
	err     error      // why nothing more can be booked: the house closes, or is another's
}

// booking is a batch that is being booked.
type booking struct {
	asks bool
	done chan struct{} // closed when it has been
	err  error         // then
}

// ended is when what is being booked is in the book, as a channel; nil for nothing.
func (u *unbooked) ended() <-chan struct{} {
	if u.running == nil {
		return nil
	}
	return u.running.done
}

func (u *unbooked) add(b *log.Batch) {
	if u.batch == nil {
		u.batch, u.since, u.asks = &log.Batch{Fresh: map[string]int64{}, Claims: map[string]string{}, Unsettled: map[string]bool{}}, time.Now(), false
	}
	u.batch.Add(b)
	u.asks = u.asks || b.Asks()
}

// until is when what is there must be booked.
func (u *unbooked) until() (time.Time, bool) {
	if u.asks {
		return u.since, u.batch != nil
	}
	return u.since.Add(bookWithin), u.batch != nil
}

func (u *unbooked) due() bool {
	at, any := u.until()
	return any && (len(u.batch.Entries) >= bookMost || !at.After(time.Now()))
}

// behind reports whether the book lacks more than further lines.
func (u *unbooked) behind() bool {
	return u.batch != nil && u.asks || u.running != nil && u.running.asks
}

// whenBooked does something when all that is in the log now is in the book.
func (h *House) whenBooked(f func()) {
	switch u := &h.unbooked; {
	case u.batch != nil:
		u.then = append(u.then, f)
	case u.running != nil:
		running := u.running
		go func() { <-running.done; f() }()
	default:
		f()
	}
}

// keepBook begins to book what is due to be. It waits for the book only when too much is
// waiting to be booked.
func (h *House) keepBook(ctx context.Context) error {
	u := &h.unbooked
	select {
	case <-u.ended():
		u.reap()
	default:
	}
	switch {
	case u.running != nil && u.batch != nil && len(u.batch.Entries) >= bookBehind:
		return h.book(ctx)
	case u.running == nil && u.err == nil && u.due():
		h.beginBook(ctx)
		return nil
	}
	return u.err
}

// reap notes how the booking that has ended went.
func (u *unbooked) reap() { u.err, u.running = u.running.err, nil }

// beginBook books what is gathered, beside the owner. It must not be running already.
func (h *House) beginBook(ctx context.Context) {
	u := &h.unbooked
	b, then, it := u.batch, u.then, &booking{asks: u.asks, done: make(chan struct{})}
	u.running, u.batch, u.then = it, nil, nil
	go func() {
		own, end := toItsEnd(ctx)
		defer end()
		it.err = h.write(own, b)
		for _, f := range then {
			f()
		}
		close(it.done)
	}()
}

// book writes what is not in the book yet, however long that takes. An error says that the
// house closes meanwhile, or is another process's.
func (h *House) book(ctx context.Context) error {
	u := &h.unbooked
	for {
		if u.running != nil {
			select {
			case <-u.ended():
				u.reap()
			case <-ctx.Done():
				return ctx.Err()
			}
		}
		if u.err != nil || u.batch == nil {
			return u.err
		}
		h.beginBook(ctx)
	}
}

// write writes a batch into the book. What the book refuses for what it is is left out of
// it, and said.
func (h *House) write(ctx context.Context, b *log.Batch) error {
	write := func(b *log.Batch) (err error) {
		if stumbled := safely(func() {
			err = h.insistAs(ctx, &h.adrift, slowly, func(ctx context.Context) error { return h.store.Book.Write(ctx, h.ID, b) })
		}); stumbled != nil {
			return stumbled
		}
		return err
	}
	err := write(b)
	if err == nil || ctx.Err() != nil || errors.Is(err, log.ErrHeld) {
		return err
	}
	h.log.Error("a batch cannot be booked; its events are booked one by one", "error", err)
	for i := range b.Entries {
		one := *b
		one.Entries = b.Entries[i : i+1]
		if err = write(&one); err == nil || ctx.Err() != nil || errors.Is(err, log.ErrHeld) {
			continue
		}
		h.log.Error("an event is left out of the guest book", "event", b.Entries[i].Event.Seq, "type", b.Entries[i].Event.Type, "error", err)
		setAside.WithLabelValues("book").Inc()
		seq := b.Entries[i].Event.Seq
		why := log.Cause(err)
		err = h.insistAs(ctx, &h.adrift, quickly, func(ctx context.Context) error { return h.store.Book.SkipBook(ctx, h.ID, seq) })
		h.tell(&event.Noticed{Item: "book/" + strconv.FormatInt(seq, 10), Kind: "book", Name: b.Entries[i].Event.Type, Why: why})
	}
	return err
}

// closeBook books what is left as the house closes; what it cannot, the next start
// does.
func (h *House) closeBook() {
	ctx, cancel := context.WithTimeout(context.Background(), closeWithin)
	defer cancel()
	if h.gone.Load() {
		return
	}
	if err := h.book(ctx); err != nil { // nothing behind a batch that is not booked may be: it would never be looked for
		h.log.Warn("the last lines are booked at the next start", "error", err)
	}
}

// bookChange begins the types of what changes the guest book by hand.
const bookChange = "porch.book."

// changesBook reports whether a batch changes the guest book itself, by hand or by
// forgetting: then log and book are written together.
func changesBook(b *log.Batch) bool {
	for i := range b.Entries {
		if strings.HasPrefix(b.Entries[i].Event.Type, bookChange) {
			return true
		}
		for _, d := range b.Entries[i].Decisions {
			if d.Kind == hall.Forget {
				return true
			}
		}
	}
	return false
}

// wantsBook reports whether what follows from a batch looks into the book at once.
func wantsBook(b *log.Batch) bool {
	for i := range b.Entries {
		for _, d := range b.Entries[i].Decisions {
			if d.Kind == hall.Close || d.Kind == privacy.Show {
				return true
			}
		}
	}
	return false
}

// rebook books what a crash left in the log alone.
func (h *House) rebook(ctx context.Context) error {
	booked, err := h.store.Book.Booked(ctx, h.ID)
	if err != nil || booked >= h.state.Seq {
		return err
	}
	b := h.newBatch()
	b.Reckoning = h.Reckoning()
	var who []event.Person
	numbered := map[string]int64{} // by the decisions that were made about them
	err = h.store.Log.Since(ctx, h.ID, booked, 0, func(en log.Entry) error {
		en.Stream = h.state.StreamAt(en.Event.Time)
		b.Entries = append(b.Entries, en)
		if p := en.Event.Who(); p != nil && !event.IsOwn(en.Event.Type) && !b.Unsettled[p.Key()] {
			b.Unsettled[p.Key()] = true
			who = append(who, *p)
		}
		for _, d := range en.Decisions {
			if d.Known != nil && d.Known.Person > 0 {
				numbered[d.Person] = d.Known.Person
			}
		}
		return nil
	})
	if err != nil || len(b.Entries) == 0 {
		return err
	}
	known, claims, err := h.store.Book.Known(ctx, h.ID, who, h.state.StreamNow())
	if err != nil {
		return err
	}
	if err := h.numbers.fill(ctx, h, len(who)); err != nil {
		return err
	}
	for i := range who {
		key := who[i].Key()
		switch k := known[key]; {
		case k == nil:
			if b.Fresh[key] = numbered[key]; b.Fresh[key] == 0 {
				b.Fresh[key] = h.numbers.take()
			}
		case claims[key] != "":
			b.Fresh[key], b.Claims[key] = k.Person, claims[key]
		}
	}
	h.log.Info("booked what was in the log alone", "events", len(b.Entries))
	h.unbooked.add(b)
	return h.book(ctx)
}
