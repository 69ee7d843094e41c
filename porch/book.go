package porch

import (
	"cmp"
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/hex"
	"slices"
	"strings"
	"time"

	"vividporch/core/attendance"
	"vividporch/core/event"
	"vividporch/core/guard"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/points"
	"vividporch/core/privacy"
	"vividporch/store/forget"
	"vividporch/store/log"
	"vividporch/store/record"
)

// Times of keeping the guest book.
const (
	numbersAhead = 1000             // numbers of the guest book set aside at once
	keepEvery    = time.Hour        // between two looks at what is too old to keep
	linkFor      = 15 * time.Minute // how long a one-time link to what is kept is good
)

// numbers are numbers of the guest book that are this house's to give out.
type numbers struct{ next, end int64 }

func (n *numbers) take() int64 {
	n.next++
	return n.next - 1
}

// fill makes sure that there are numbers for so many newcomers.
func (n *numbers) fill(ctx context.Context, h *House, most int) error {
	if n.end-n.next >= int64(most) {
		return nil
	}
	first, err := h.store.Book.NewPeople(ctx, h.ID, numbersAhead+most)
	if err == nil {
		n.next, n.end = first, first+int64(numbersAhead+most)
	}
	return err
}

// times is which streams have been and which is on, for readers of the book.
type times struct {
	past    []attendance.Past
	tonight int       // number of the stream that is on; 0 for none
	begun   time.Time // when that opened, or the last one closed
	points  *points.Counting
}

func (h *House) setTimes() {
	t := &times{past: h.state.Past, points: points.MemoryOf(h.state.Rooms).Counting()}
	if n := len(t.past); n > 0 {
		t.begun = t.past[n-1].Closed
	}
	if h.state.Stream.Live() {
		t.tonight, t.begun = h.state.Stream.Number, h.state.Stream.Opened
	}
	h.times.Store(t)
}

// Reckoning is what standings are worked out from, as of now.
func (h *House) Reckoning() record.Reckoning {
	plan := h.plan.Load()
	t := h.times.Load()
	return record.Reckoning{Rules: plan.Standings(), Past: t.past, Now: h.clock.now(), Zone: plan.Zone, Points: t.points}
}

// Tonight is the number of the stream that is on, or 0.
func (h *House) Tonight() int { return h.times.Load().tonight }

// isForgotten reports whether an event is of somebody who asked not to be recorded.
// The word that takes this back is let through, and with it whatever follows.
func (h *House) isForgotten(ev *event.Event) bool {
	who := ev.Who()
	if len(h.forgotten) == 0 || who == nil || event.IsOwn(ev.Type) {
		return false
	}
	digest := forget.Digest(who.Key())
	if !h.forgotten[digest] {
		return false
	}
	if chat, ok := ev.Data.(*happening.ChatSaid); ok && privacy.AsksToBeRemembered(h.plan.Load(), chat.Text) {
		delete(h.forgotten, digest)
		go func() {
			ctx, cancel := context.WithTimeout(context.Background(), 10*time.Second)
			defer cancel()
			if err := h.store.Privacy.Remember(ctx, h.ID, who.Key()); err != nil {
				h.log.Error("a person who wants to be remembered could not be noted", "error", err)
			}
		}()
		return false
	}
	return true
}

// outcomeOfForgotten takes whoever was forgotten out of what became of a line of theirs
// after that; it reports whether nothing of the event is left.
func (h *House) outcomeOfForgotten(ev *event.Event) bool {
	if len(h.forgotten) == 0 {
		return false
	}
	gone := func(keys ...string) bool {
		return slices.ContainsFunc(keys, func(k string) bool { return h.forgotten[forget.Digest(k)] })
	}
	switch d := ev.Data.(type) {
	case *event.LookupAnswered:
		return gone(d.Account)
	case event.Outcome:
		if gone(d.Whom()...) {
			d.Unname()
			ev.Raw = nil
		}
	}
	return false
}

// forgets reports whether a batch forgets somebody.
func (h *House) forgets(b *log.Batch) bool {
	for i := range b.Entries {
		if len(hall.Forgotten(&b.Entries[i].Event, b.Entries[i].Decisions)) > 0 {
			return true
		}
	}
	return false
}

// after does what follows from a batch that is written, in the book too: a stream that
// ended changes standings, what is kept is shown to whoever asked, and whoever was
// forgotten disappears from what the Porch shows.
func (h *House) after(ctx context.Context, b *log.Batch) {
	gone, names := []string{}, []string{}
	var late []time.Time
	for i := range b.Entries {
		if ev := &b.Entries[i].Event; !event.IsOwn(ev.Type) {
			if _, is := ev.Late(); is {
				late = append(late, ev.Time)
			}
		}
		gone = append(gone, hall.Forgotten(&b.Entries[i].Event, b.Entries[i].Decisions)...)
		if f, ok := b.Entries[i].Event.Data.(*event.BookForgotten); ok {
			names = append(names, f.Names...)
		}
		if d, ok := b.Entries[i].Event.Data.(*event.BookSettled); ok {
			go h.Lookbacks.Closed(ctx, d.Stream) // with who became regular by it
		}
		if _, ok := b.Entries[i].Event.Data.(*event.SettingsChanged); ok {
			select {
			case h.tend <- struct{}{}:
			default: // they are to be looked at anyway
			}
			h.reach()
			h.Rehearser.Poke()
			go h.lookAtPlaces(ctx) // a place may be mended, or go on
		}
		for _, d := range b.Entries[i].Decisions {
			switch d.Kind {
			case hall.Close:
				k, n := h.Reckoning(), d.Stream
				go func() {
					h.settle(ctx, k, n)
					h.Lookbacks.Closed(ctx, n)
				}()
			case hall.Forget:
				names = append(names, d.Names...)
			case guard.Tell:
				h.tellPrivately(d, func(context.Context) (string, error) { return d.Text, nil })
			case privacy.Show: // what is kept of somebody who only now came into the book, too
				if d.Text != "" {
					h.whisper(d)
				}
			}
		}
	}
	if len(late) > 0 {
		go h.Lookbacks.Late(ctx, late)
	}
	if len(gone) == 0 {
		return
	}
	go h.lookAtPlaces(ctx) // what went first may be given up
	h.Gate.Forget()
	if h.cfg.OnForgotten != nil {
		h.cfg.OnForgotten(gone)
	}
	h.entries.Forget(gone, names)
	h.Screens.ForgetTheirs(gone)
	h.Looker.Forget()
	h.Rehearser.Forget()
	h.Speaker.Forget()
	h.hub.forget()
	h.shown = nil
	h.hub.send("whole", 0, h.state.Seq, h.whole(h.state))
}

// settle works standings out anew after a stream and logs who became a regular.
func (h *House) settle(ctx context.Context, k record.Reckoning, stream int) {
	gained, lost, err := h.store.Book.Settle(ctx, h.ID, &k)
	if err != nil {
		if ctx.Err() == nil {
			h.log.Error("standings could not be worked out", "error", err)
		}
		return
	}
	if len(gained)+len(lost) > 0 {
		h.tell(&event.BookSettled{Stream: stream, Regulars: gained, Lost: lost})
	}
}

// lookAtPlaces has whatever waits for places tried anew: something may be mended, or go on.
func (h *House) lookAtPlaces(ctx context.Context) {
	if h.cfg.Shut || h.held.Load() {
		return
	}
	if err := h.relay.LookAll(ctx); err != nil && ctx.Err() == nil {
		h.log.Warn("places could not be looked at", "error", err)
	}
}

// backFor is how long an evening or a file that was taken away can be brought back.
const backFor = 24 * time.Hour

// keepHouse takes old chat out of the log and keeps standings up with the calendar,
// every so often.
func (h *House) keepHouse(ctx context.Context) {
	for {
		if days := h.plan.Load().Settings.Privacy.KeepDays; days > 0 {
			for more := true; more && ctx.Err() == nil; {
				var err error
				if more, err = h.store.Privacy.BlankOldChat(ctx, h.ID, h.clock.now().AddDate(0, 0, -days)); err != nil {
					h.log.Warn("old chat could not be taken out of the log", "error", err)
					break
				}
			}
		}
		if err := h.Places.Prune(ctx, h.clock.now()); err != nil && ctx.Err() == nil {
			h.log.Warn("old deliveries could not be taken out", "error", err)
		}
		for _, prune := range []func(context.Context, int64, time.Time) error{h.store.Evenings.Prune, h.store.Shelf.Prune} {
			if err := prune(ctx, h.ID, h.clock.now().Add(-backFor)); err != nil && ctx.Err() == nil {
				h.log.Warn("what was taken away could not be let go of", "error", err)
			}
		}
		k := h.Reckoning()
		h.settle(ctx, k, currentNumber(k))
		if err := h.Services.Resume(ctx); err != nil && ctx.Err() == nil {
			h.log.Warn("what other services told waits at their doors", "error", err)
		}
		select {
		case <-ctx.Done():
			return
		case <-time.After(keepEvery):
		}
	}
}

// currentNumber is the number of the channel's last stream that is over.
func currentNumber(k record.Reckoning) int {
	if n := len(k.Past); n > 0 {
		return k.Past[n-1].Number
	}
	return 0
}

// whisper sends somebody, in private, a one-time link to what is kept about them.
func (h *House) whisper(d hall.Decision) {
	h.tellPrivately(d, func(ctx context.Context) (string, error) {
		token := rand.Text()
		err := h.store.Privacy.AddKeptLink(ctx, h.ID, d.Person, Digest(token), time.Now().Add(linkFor))
		return strings.ReplaceAll(d.Text, privacy.LinkMark, h.Links()+"/kept/"+token), err
	})
}

// tellPrivately sends somebody a private message, without waiting for it.
func (h *House) tellPrivately(d hall.Decision, text func(context.Context) (string, error)) {
	h.mu.Lock()
	var to *line
	for _, c := range h.chats {
		if c.ear.Door.Platform == d.Platform && c.ear.Door.As == "" { // never under the streamer's own account
			to = c
		}
	}
	h.mu.Unlock()
	if to == nil || d.About == nil {
		return
	}
	go func() {
		ctx, cancel := context.WithTimeout(context.Background(), speakWithin)
		defer cancel()
		words, err := text(ctx)
		if err == nil {
			err = to.client.Tell(ctx, cmp.Or(d.About.Login, d.About.ID), words)
		}
		if err != nil {
			h.log.Warn("a private message could not be sent", "platform", d.Platform, "error", err)
		}
	}()
}

// Digest is how one-time tokens are kept.
func Digest(token string) string {
	sum := sha256.Sum256([]byte(token))
	return hex.EncodeToString(sum[:])
}
