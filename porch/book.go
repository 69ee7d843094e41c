package porch

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"io"
	"slices"
	"strings"
	"time"

	"vividporch/core/attendance"
	"vividporch/core/card"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/people"
	"vividporch/core/privacy"
	"vividporch/formats/list"
	"vividporch/formats/row"
	"vividporch/store/book"
	"vividporch/store/forget"
	"vividporch/store/imports"
	"vividporch/store/log"
	"vividporch/store/members"
	"vividporch/store/pg"
	"vividporch/store/record"
	"vividporch/store/tables"
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
	tonight int // number of the stream that is on; 0 for none
}

func (h *House) setTimes() {
	t := &times{past: h.state.Past}
	if h.state.Stream.Live() {
		t.tonight = h.state.Stream.Number
	}
	h.times.Store(t)
}

// Reckoning is what standings are worked out from, as of now.
func (h *House) Reckoning() record.Reckoning {
	plan := h.plan.Load()
	return record.Reckoning{Rules: plan.Standings(), Past: h.times.Load().past, Now: h.clock.now(), Zone: plan.Zone}
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
	blank := func(about *[]string, texts ...*string) {
		if !gone(*about...) {
			return
		}
		*about, ev.Raw = nil, nil
		for _, t := range texts {
			*t = ""
		}
	}
	switch d := ev.Data.(type) {
	case *event.LookupAnswered:
		return gone(d.Account)
	case *event.SpeechSaid:
		blank(&d.About, &d.Text, &d.Reason)
	case *event.SpeechRefused:
		blank(&d.About, &d.Text, &d.Reason)
	case *event.SpeechUncertain:
		blank(&d.About, &d.Text, &d.Reason)
	case *event.ActDone:
		blank(&d.About, &d.Text, &d.Was, &d.Login, &d.Reason)
	case *event.ActRefused:
		blank(&d.About, &d.Text, &d.Was, &d.Login, &d.Reason)
	case *event.RelayDelivered:
		blank(&d.About, &d.Reason)
	case *event.RelayDelayed:
		blank(&d.About, &d.Reason)
	case *event.RelayFailed:
		blank(&d.About, &d.Reason)
	case *event.RelayUnclear:
		blank(&d.About, &d.Reason)
	}
	return false
}

// forgets reports whether a batch forgets somebody.
func (h *House) forgets(b *log.Batch) bool {
	for i := range b.Entries {
		if len(forgottenBy(&b.Entries[i].Event, b.Entries[i].Decisions)) > 0 {
			return true
		}
	}
	return false
}

// forgottenBy lists the accounts that an event and its decisions forget.
func forgottenBy(ev *event.Event, ds []hall.Decision) []string {
	var out []string
	if f, ok := ev.Data.(*event.BookForgotten); ok {
		out = f.Keys
	}
	for i := range ds {
		if ds[i].Kind == hall.Forget {
			out = append(out, append(ds[i].Known.Accounts, ds[i].Person)...)
		}
	}
	return out
}

// after does what follows from a batch that is written, in the book too: a stream that
// ended changes standings, what is kept is shown to whoever asked, and whoever was
// forgotten disappears from what the Porch shows.
func (h *House) after(ctx context.Context, b *log.Batch) {
	gone, names := []string{}, []string{}
	for i := range b.Entries {
		gone = append(gone, forgottenBy(&b.Entries[i].Event, b.Entries[i].Decisions)...)
		if f, ok := b.Entries[i].Event.Data.(*event.BookForgotten); ok {
			names = append(names, f.Names...)
		}
		if _, ok := b.Entries[i].Event.Data.(*event.SettingsChanged); ok {
			select {
			case h.tend <- struct{}{}:
			default: // they are to be looked at anyway
			}
		}
		for _, d := range b.Entries[i].Decisions {
			switch d.Kind {
			case hall.Close:
				k, n := h.Reckoning(), d.Stream
				go h.settle(ctx, k, n)
			case hall.Forget:
				names = append(names, d.Names...)
			case privacy.Show: // what is kept of somebody who only now came into the book, too
				if d.Text != "" {
					h.whisper(d)
				}
			}
		}
	}
	if len(gone) == 0 {
		return
	}
	h.entries.Forget(gone, names)
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

// keepHouse takes old chat out of the log and keeps standings up with the calendar,
// every so often.
func (h *House) keepHouse(ctx context.Context) {
	for {
		if days := h.plan.Load().Settings.Privacy.KeepDays; days > 0 {
			for more := true; more && ctx.Err() == nil; {
				var err error
				if more, err = h.store.Privacy.BlankOldChat(ctx, h.ID, time.Now().AddDate(0, 0, -days)); err != nil {
					h.log.Warn("old chat could not be taken out of the log", "error", err)
					break
				}
			}
		}
		k := h.Reckoning()
		h.settle(ctx, k, currentNumber(k))
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
	h.mu.Lock()
	var to *chat
	for _, c := range h.chats {
		if c.door.Platform == d.Platform && c.door.As == "" { // never under the streamer's own account
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
		token := rand.Text()
		err := h.store.Privacy.AddKeptLink(ctx, h.ID, d.Person, Digest(token), time.Now().Add(linkFor))
		if err == nil {
			nick := d.About.Login
			if nick == "" {
				nick = d.About.ID
			}
			err = to.client.Tell(ctx, nick, strings.ReplaceAll(d.Text, privacy.LinkMark, h.cfg.Public+"/kept/"+token))
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

// Edit changes what is set by hand about people and returns the number that takes it
// back.
func (h *House) Edit(ctx context.Context, d *event.BookEdited) (int64, error) {
	if err := h.tellWhom(ctx, d); err != nil {
		return 0, err
	}
	rs, err := h.desk(ctx, d)
	if err != nil {
		return 0, err
	}
	return rs.Seq, nil
}

// Merge makes two records one; the errors say what keeps them apart.
func (h *House) Merge(ctx context.Context, member string, kept, gone int64) error {
	roots, err := h.store.Book.Roots(ctx, h.ID, kept, gone)
	if err != nil {
		return err
	}
	d := &event.BookMerged{Kept: roots[kept], Gone: roots[gone], Member: member}
	switch {
	case kept == gone || d.Kept != 0 && d.Kept == d.Gone:
		return book.ErrSame
	case d.Kept == 0 || d.Gone == 0:
		return pg.ErrNone
	}
	if err := h.tellWhom(ctx, d); err != nil {
		return err
	}
	_, err = h.Desk(ctx, d)
	return err
}

// Link makes a member known in chat by an account of the guest book, or by none: an owner
// is the streamer there, a co-host a co-host, a helper nothing more than the platform
// says. An account is one member's among all.
func (h *House) Link(ctx context.Context, by string, of *tables.Member, all []members.MemberRow, account string) error {
	if account != "" {
		known, err := h.Known(ctx, account)
		if err != nil {
			return err
		}
		if known == nil {
			return &event.FieldError{Field: "account", Remedy: "is in no guest book; let them say a line in chat first"}
		}
		for _, m := range all { // nobody becomes the streamer by their account, nor takes it
			if m.ID != of.ID && m.Account != "" && slices.Contains(known.Accounts, m.Account) {
				return &event.FieldError{Field: "account", Remedy: "is " + m.Name + "'s already; unlink it there first"}
			}
		}
	}
	role := map[string]event.Role{members.RoleOwner: event.Streamer, members.RoleCoHost: event.CoHost}[of.Role]
	_, err := h.Desk(ctx, &event.BookLinked{Of: of.Name, Account: account, Role: role, Member: by})
	return err
}

// tellWhom puts beside the numbers of a change in the guest book what tells a rehearsal
// whom it is about.
func (h *House) tellWhom(ctx context.Context, d event.Data) (err error) {
	switch d := d.(type) {
	case *event.BookEdited:
		if d.Undoes > 0 {
			d.UndoesID, err = h.store.Log.EventID(ctx, h.ID, d.Undoes)
			if errors.Is(err, pg.ErrNone) {
				err = nil // nothing is taken back then
			}
			return err
		}
		d.Accounts, err = h.store.Book.KeysOf(ctx, h.ID, d.Persons...)
	case *event.BookMerged:
		d.Accounts, err = h.store.Book.KeysOf(ctx, h.ID, d.Kept, d.Gone)
	case *event.BookParted:
		var keys []string
		if keys, err = h.store.Book.KeysOf(ctx, h.ID, d.Part); len(keys) == 1 {
			d.Account = keys[0]
		}
	}
	return err
}

// Part makes a record that was merged one of its own again.
func (h *House) Part(ctx context.Context, member string, part int64) error {
	roots, err := h.store.Book.Roots(ctx, h.ID, part)
	if err != nil {
		return err
	}
	if roots[part] == 0 || roots[part] == part {
		return pg.ErrNone
	}
	d := &event.BookParted{Part: part, Member: member}
	if err := h.tellWhom(ctx, d); err != nil {
		return err
	}
	_, err = h.Desk(ctx, d)
	return err
}

// Forget forgets a person, as they or a member want it.
func (h *House) Forget(ctx context.Context, member string, person int64) error {
	k := h.Reckoning()
	sheet, err := h.store.Find.Sheet(ctx, h.ID, person, &k)
	if err != nil {
		return err
	}
	d := &event.BookForgotten{Person: person, Member: member}
	for _, a := range sheet.Accounts {
		d.Keys = append(d.Keys, a.Key)
	}
	if d.Names, err = h.store.Privacy.NamesOf(ctx, h.ID, sheet.Row.ID); err != nil {
		return err
	}
	_, err = h.Desk(ctx, d)
	return err
}

// TakeIn takes an import in, or back, and logs it.
func (h *House) TakeIn(ctx context.Context, id int64, undo bool) (*event.BookImported, error) {
	k := h.Reckoning()
	var d *event.BookImported
	var err error
	if undo {
		d, err = h.store.Imports.TakeBack(ctx, h.ID, id, &k)
	} else {
		d, err = h.store.Imports.Apply(ctx, h.ID, id, &k)
	}
	if err != nil {
		return nil, err
	}
	_, err = h.Desk(ctx, d)
	return d, err
}

// Understand reads a pasted list of accounts; the streamer's own and those never
// greeted as the house's are left out.
func (h *House) Understand(text, platform string) []list.Entry {
	s := h.plan.Load().Settings
	var platforms []string
	own := []string{s.Channel}
	for _, d := range s.Doors {
		if !slices.Contains(platforms, d.Platform) {
			platforms = append(platforms, d.Platform)
		}
		if d.Account != "" {
			own = append(own, d.Account)
		}
	}
	if platform == "" && len(platforms) > 0 {
		platform = platforms[0]
	}
	return list.Read(text, platform, platforms, people.MakeNeverList(own))
}

// StageCrew finds out what putting a list of accounts into a crew would do. Rows are
// named "platform:login".
func (h *House) StageCrew(ctx context.Context, member, crew string, list []list.Entry) (*tables.Import, []tables.ImportRow, error) {
	n := 0
	im, err := h.store.Imports.Stage(ctx, h.ID, member, "a list for "+crew, &imports.Head{}, func() (row.Row, error) {
		for n < len(list) {
			l := list[n]
			n++
			if l.Why != "" {
				continue
			}
			in := row.Row{N: n, Name: l.Platform + ":" + l.Login, Card: card.Card{Accounts: []card.Account{{Person: event.Person{Platform: l.Platform, Login: l.Login}}}, Hand: event.Hand{Crews: []string{crew}}}}
			if err := in.Card.Fill(""); err != nil {
				in.Why = err.Error()
			}
			return in, nil
		}
		return row.Row{}, io.EOF
	})
	if err != nil {
		return nil, nil, err
	}
	var rows []tables.ImportRow
	for _, verdict := range []string{imports.New, imports.Changed, imports.Unchanged, imports.Refused} {
		part, err := h.store.Imports.Rows(ctx, im.ID, verdict, 0, 5000)
		if err != nil {
			return nil, nil, err
		}
		rows = append(rows, part...)
	}
	return im, rows, nil
}

// DropCrew takes a crew away and returns the number that takes that back.
func (h *House) DropCrew(ctx context.Context, member, id string) (int64, error) {
	r, err := h.desk(ctx, &event.BookCrewed{ID: id, Gone: true, Member: member})
	return r.Seq, err
}
