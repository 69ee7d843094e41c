package porch

import (
	"context"
	"errors"
	"strconv"
	"strings"
	"time"

	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/store/log"
)

// The log comes first: what is to be said leaves as soon as it is committed, and the
// guest book is written after it. Further lines, nearly all there are, are booked
// several batches at once. What a crash leaves between the two is booked at the next
// start, from the log.
const (
	bookWithin = 250 * time.Millisecond // longest time a further line is not in the book
	bookMost   = 2000                   // events booked at once
)

// unbooked are the batches that are in the log and not in the book yet.
type unbooked struct {
	batch *log.Batch
	since time.Time
}

func (u *unbooked) add(b *log.Batch) {
	if u.batch == nil {
		u.batch, u.since = &log.Batch{Fresh: map[string]int64{}, Claims: map[string]string{}, Unsettled: map[string]bool{}}, time.Now()
	}
	u.batch.Add(b)
}

// until is when what is there must be booked.
func (u *unbooked) until() (time.Time, bool) { return u.since.Add(bookWithin), u.batch != nil }

func (u *unbooked) full() bool {
	return u.batch != nil && (len(u.batch.Entries) >= bookMost || time.Since(u.since) >= bookWithin)
}

// book writes what is not in the book yet, however long that takes. What the book
// refuses for what it is is left out of it, and said. An error says that the house
// closes meanwhile, or is another process's.
func (h *House) book(ctx context.Context) error {
	b := h.unbooked.batch
	if b == nil {
		return nil
	}
	write := func(b *log.Batch) error {
		return h.insist(ctx, slowly, func(ctx context.Context) error { return h.store.Book.Write(ctx, h.ID, b) })
	}
	err := write(b)
	if err != nil && ctx.Err() == nil && !errors.Is(err, log.ErrHeld) {
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
			err = h.insist(ctx, quickly, func(ctx context.Context) error { return h.store.Book.SkipBook(ctx, h.ID, seq) })
			h.tell(&event.Noticed{Item: "book/" + strconv.FormatInt(seq, 10), Kind: "book", Name: b.Entries[i].Event.Type, Why: log.Cause(err)})
		}
	}
	if err != nil {
		return err
	}
	h.unbooked.batch = nil
	return nil
}

// closeBook books what is left as the house closes; what it cannot, the next start
// does.
func (h *House) closeBook() {
	ctx, cancel := context.WithTimeout(context.Background(), 2*time.Second)
	defer cancel()
	if h.gone.Load() {
		return
	}
	if b := h.unbooked.batch; b != nil {
		if err := h.store.Book.Write(ctx, h.ID, b); err != nil {
			h.log.Warn("the last lines are booked at the next start", "error", err)
		}
	}
}

// changesBook reports whether a batch changes the guest book itself, by hand or by
// forgetting: then log and book are written together.
func changesBook(b *log.Batch) bool {
	for i := range b.Entries {
		if strings.HasPrefix(b.Entries[i].Event.Type, "porch.book.") {
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
