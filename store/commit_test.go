package store_test

import (
	"errors"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/store"
	"vividporch/store/log"
	"vividporch/store/members"
	"vividporch/store/pg"
	"vividporch/store/storetest"
	"vividporch/store/tables"
)

// batch makes a batch of entries as the owner does, for accounts seen for the first
// time with the numbers given.
func batch(fresh map[string]int64, entries ...log.Entry) *log.Batch {
	b := &log.Batch{Entries: entries, Fresh: fresh, Claims: map[string]string{}, Unsettled: map[string]bool{}, Reckoning: reckoning(2), Later: true}
	for k := range fresh {
		b.Unsettled[k] = true
	}
	if b.Fresh == nil {
		b.Fresh = map[string]int64{}
	}
	return b
}

// in makes a channel of its own in a store.
func in(t *testing.T, s *store.Store, name string) (*book, int64) {
	t.Helper()
	b := open(t, s, name)
	return b, b.channel
}

func TestABatchIsBookedOnceHoweverOftenItIsTried(t *testing.T) {
	s := storetest.Open(t)
	_, ch := in(t, s, "tried")
	b := batch(map[string]int64{"quayside:a": 1}, said(1, "a", "lena", "one", 1), said(2, "a", "lena", "two", 1))
	if err := s.Commit(t.Context(), ch, b); err != nil {
		t.Fatal(err)
	}
	if n, err := s.Book.Booked(t.Context(), ch); err != nil || n != 0 {
		t.Fatalf("booked up to %d by the log alone, %v", n, err)
	}
	for range 3 { // the answer was lost, twice
		if err := s.Book.Write(t.Context(), ch, b); err != nil {
			t.Fatal(err)
		}
	}
	var lines, visits int
	if err := s.SQL.QueryRow("SELECT lines, (SELECT count(*) FROM visits v WHERE v.channel = a.channel) FROM accounts a WHERE channel = $1", ch).Scan(&lines, &visits); err != nil || lines != 2 || visits != 1 {
		t.Errorf("%d lines, %d visits, %v", lines, visits, err)
	}
	if n, _ := s.Book.Booked(t.Context(), ch); n != 2 {
		t.Errorf("booked up to %d", n)
	}
}

func TestBookingLaterAndTogetherComesToTheSameAsBookingAtOnce(t *testing.T) {
	s := storetest.Open(t)
	for seed := range uint64(4) {
		r := rand.New(rand.NewPCG(seed, 5))
		evening := someEvening(r)
		for i := range evening {
			evening[i].Event.ID = fmt.Sprint("same-", i)
			evening[i].Event.Seq = int64(i + 1)
			evening[i].Event.Logged = dusk
		}
		var chs []int64
		for _, way := range []string{"at-once", "later"} {
			_, ch := in(t, s, fmt.Sprint(way, seed))
			chs = append(chs, ch)
			known := map[string]bool{}
			pending := batch(nil)
			number := int64(0)
			for part := range slices.Chunk(slices.Clone(evening), 3) {
				b := batch(map[string]int64{}, part...)
				for i := range part {
					key := part[i].Event.Who().Key()
					b.Unsettled[key] = true
					if !known[key] {
						number++
						known[key], b.Fresh[key] = true, number
					}
				}
				b.Later = way == "later"
				if err := s.Commit(t.Context(), ch, b); err != nil {
					t.Fatal(err)
				}
				if b.Later {
					pending.Add(b)
				}
				if len(pending.Entries) > 10 {
					if err := s.Book.Write(t.Context(), ch, pending); err != nil {
						t.Fatal(err)
					}
					pending = batch(nil)
				}
			}
			if len(pending.Entries) > 0 {
				if err := s.Book.Write(t.Context(), ch, pending); err != nil {
					t.Fatal(err)
				}
			}
			s.SQL.Exec("UPDATE people SET with_raid = CASE WHEN with_raid > 0 THEN 1 ELSE 0 END WHERE channel = $1", ch)
		}
		once, later := &book{t: t, s: s, channel: chs[0]}, &book{t: t, s: s, channel: chs[1]}
		if a, b := once.everything(), later.everything(); a != b {
			t.Fatalf("seed %d: at once\n%s\nlater\n%s", seed, a, b)
		}
	}
}

func TestLinesAloneAreWrittenWholeOrNotAtAll(t *testing.T) {
	s := storetest.Open(t)
	_, ch := in(t, s, "lines")
	if err := s.Commit(t.Context(), ch, batch(nil, said(1, "a", "lena", "one", 1))); err != nil {
		t.Fatal(err)
	}
	// The second of these stands in the log already.
	if err := s.Commit(t.Context(), ch, batch(nil, said(2, "a", "lena", "two", 1), said(1, "a", "lena", "one", 1))); err == nil {
		t.Fatal("a number was given twice")
	}
	n := 0
	if err := s.Log.Since(t.Context(), ch, 0, 0, func(log.Entry) error { n++; return nil }); err != nil || n != 1 {
		t.Errorf("%d in the log, %v", n, err)
	}
}

func TestABatchTellsWhetherTheBookMustKeepUp(t *testing.T) {
	line := said(1, "a", "lena", "one", 1)
	decided := line
	decided.Decisions = []hall.Decision{{Kind: hall.Arrive}}
	tip := log.Entry{Event: event.Event{Seq: 2, Data: &happening.Tipped{}}}
	for name, c := range map[string]struct {
		b    *log.Batch
		asks bool
	}{
		"a further line of somebody here": {batch(nil, line), false},
		"somebody new":                    {batch(map[string]int64{"quayside:a": 1}, line), true},
		"a line that was decided about":   {batch(nil, decided), true},
		"a tip":                           {batch(nil, line, tip), true},
	} {
		if c.b.Asks() != c.asks {
			t.Errorf("%s: %v", name, c.b.Asks())
		}
	}
}

func TestAnOlderDatabaseCountsItsWholeLogAsBooked(t *testing.T) {
	url := storetest.URL(t)
	s, err := store.Open(t.Context(), url)
	if err != nil {
		t.Fatal(err)
	}
	_, ch := in(t, s, "older")
	if err := commitTo(t, s, ch, said(1, "a", "lena", "one", 1), said(2, "a", "lena", "two", 1)); err != nil {
		t.Fatal(err)
	}
	if _, err := s.SQL.Exec("ALTER TABLE channels DROP COLUMN booked; DROP TABLE tables_shape"); err != nil {
		t.Fatal(err)
	}
	s.Close()
	for range 2 {
		if s, err = store.Open(t.Context(), url); err != nil {
			t.Fatal(err)
		}
		if n, err := s.Book.Booked(t.Context(), ch); err != nil || n != 2 {
			t.Errorf("booked up to %d, %v", n, err)
		}
		s.Close()
	}
}

func commitTo(t *testing.T, s *store.Store, ch int64, entries ...log.Entry) error {
	t.Helper()
	b := batch(map[string]int64{"quayside:a": 1}, entries...)
	b.Later = false
	return s.Commit(t.Context(), ch, b)
}

func TestMembersKeepTheirPlaceAndAreEndedWhole(t *testing.T) {
	s := storetest.Open(t)
	ctx := t.Context()
	_, ch := in(t, s, "members")
	_, other := in(t, s, "another channel")
	owner, err := s.Members.Owner(ctx, ch, "Odalys Brine")
	if err != nil {
		t.Fatal(err)
	}
	if m, err := s.Members.Invite(ctx, ch, "odalys brine", members.RoleHelper); err != nil || m.ID != owner.ID || m.Role != members.RoleOwner {
		t.Errorf("the owner was made %s, %v", m.Role, err)
	}
	fen, err := s.Members.Invite(ctx, ch, "Fen Osier", members.RoleHelper)
	if err != nil {
		t.Fatal(err)
	}
	if again, err := s.Members.Invite(ctx, ch, "FEN OSIER", members.RoleCoHost); err != nil || again.ID != fen.ID || again.Role != members.RoleCoHost {
		t.Errorf("%+v %v", again, err)
	}
	if err := s.Members.AddSignIn(ctx, tables.SignIn{Hash: "h1", Member: fen.ID, Expires: time.Now().Add(time.Hour)}); err != nil {
		t.Fatal(err)
	}
	for _, wrong := range []struct{ ch, id int64 }{{ch, owner.ID}, {other, fen.ID}, {ch, 999}} {
		if err := s.Members.EndWaysIn(ctx, wrong.ch, wrong.id, true); !errors.Is(err, pg.ErrNone) {
			t.Errorf("%+v: %v", wrong, err)
		}
	}
	list, err := s.Members.List(ctx, ch, time.Hour)
	if err != nil || len(list) != 2 || list[0].Role != members.RoleOwner || list[1].Links != 1 {
		t.Fatalf("%+v %v", list, err)
	}
	if err := s.Members.EndWaysIn(ctx, ch, fen.ID, true); err != nil {
		t.Fatal(err)
	}
	if list, _ := s.Members.List(ctx, ch, time.Hour); len(list) != 1 {
		t.Errorf("%+v", list)
	}
}

func TestTheShelfHoldsOneFileOfANameAndTellsItsSum(t *testing.T) {
	s := storetest.Open(t)
	ctx := t.Context()
	_, ch := in(t, s, "shelf")
	_, other := in(t, s, "another shelf")
	put := func(ch int64, name, data string) {
		t.Helper()
		if err := s.Shelf.Put(ctx, []tables.Medium{{Channel: ch, Name: name, Type: "image/png", Kind: "picture", Bytes: int64(len(data)), Data: []byte(data), At: dusk}}); err != nil {
			t.Fatal(err)
		}
	}
	put(ch, "limpet.png", "one")
	before, err := s.Shelf.Sums(ctx, ch)
	if err != nil {
		t.Fatal(err)
	}
	put(ch, "limpet.png", "two")
	put(other, "limpet.png", "one")
	after, _ := s.Shelf.Sums(ctx, ch)
	theirs, _ := s.Shelf.Sums(ctx, other)
	if len(after) != 1 || after["limpet.png"] == before["limpet.png"] || theirs["limpet.png"] != before["limpet.png"] {
		t.Errorf("%x, %x, %x", before, after, theirs)
	}
	list, err := s.Shelf.List(ctx, ch)
	if err != nil || len(list) != 1 || len(list[0].Data) != 0 || list[0].Bytes != 3 {
		t.Errorf("%+v %v", list, err)
	}
	if err := s.Shelf.Drop(ctx, ch, "limpet.png", time.Now()); err != nil {
		t.Fatal(err)
	}
	if _, err := s.Shelf.Named(ctx, ch, "limpet.png"); !errors.Is(err, pg.ErrNone) {
		t.Errorf("%v", err)
	}
	if m, err := s.Shelf.Named(ctx, other, "limpet.png"); err != nil || string(m.Data) != "one" {
		t.Errorf("another channel's went too: %v", err)
	}
}

func TestTheLedgerPutsThoseWeOweFirst(t *testing.T) {
	b, ch := in(t, storetest.Open(t), "ledger")
	raid := func(id string, way string, viewers int64, day int) log.Entry {
		p := event.Person{Platform: "quayside", ID: id, Login: id}
		at := dusk.AddDate(0, 0, day)
		if way == "came" {
			d := &happening.RaidCame{Viewers: viewers}
			d.Person = p
			return entry(d, at, 0)
		}
		d := &happening.RaidWent{Viewers: viewers}
		d.Person = p
		return entry(d, at, 0)
	}
	b.happens(raid("even", "came", 10, -9), raid("even", "went", 12, -8), raid("owed", "came", 30, -7), raid("owed", "came", 5, -2), raid("ours", "went", 40, -1))
	list, err := b.s.Find.Ledger(t.Context(), ch, 10)
	if err != nil || len(list) != 3 {
		t.Fatalf("%+v %v", list, err)
	}
	if f := list[0]; f.Name != "owed" || f.Came != 2 || f.Went != 0 || f.Unthanked != 2 || !slices.Equal(f.CameSizes, []int64{30, 5}) || !f.LastCame.Equal(dusk.AddDate(0, 0, -2)) {
		t.Errorf("%+v", f)
	}
	for _, name := range []string{"owed", "even"} { // seen for the first time with their own raid
		var with int64
		if err := b.s.SQL.QueryRow("SELECT with_raid FROM people WHERE channel = $1 AND name = $2", ch, name).Scan(&with); err != nil || with != 0 {
			t.Errorf("%s came with raid %d, %v", name, with, err)
		}
	}
	if list[1].Name != "even" || list[2].Name != "ours" || list[2].LastCame != nil || list[2].Unthanked != 0 {
		t.Errorf("%+v", list[1:])
	}
}

func TestSnapshotsArePrunedAndNoneComesInBehindAForgetting(t *testing.T) {
	s := storetest.Open(t)
	b := open(t, s, "snapshots")
	save := func(seq int64, stream int) {
		t.Helper()
		if err := s.Log.SaveSnapshot(t.Context(), tables.Snapshot{Channel: b.channel, Seq: seq, State: []byte(`{"of":"limpet_lena"}`), Stream: stream}); err != nil {
			t.Fatal(err)
		}
	}
	kept := func() (seqs []int64) {
		t.Helper()
		rows, err := s.SQL.Query("SELECT seq FROM snapshots WHERE channel = $1 ORDER BY seq", b.channel)
		if err != nil {
			t.Fatal(err)
		}
		defer rows.Close()
		for rows.Next() {
			var n int64
			if err := rows.Scan(&n); err != nil {
				t.Fatal(err)
			}
			seqs = append(seqs, n)
		}
		return seqs
	}
	for i := range int64(12) { // three in each of four streams
		save(100*(i+1), int(i/3)+1)
		if i == 2 { // the first stream was long ago
			if _, err := s.SQL.Exec("UPDATE snapshots SET taken = now() - interval '31 days' WHERE channel = $1", b.channel); err != nil {
				t.Fatal(err)
			}
		}
	}
	if got := kept(); !slices.Equal(got, []int64{400, 700, 1000, 1100, 1200}) {
		t.Errorf("kept are %v: the last three, and the first of each stream of a month", got)
	}
	save(1150, 4) // slower on its way than one that came after it
	if got := kept(); slices.Contains(got, 1150) {
		t.Errorf("an older state came in behind a newer one: %v", got)
	}
}

func TestWhatSomebodyElseHasBookedIsNotBookedAgain(t *testing.T) {
	s := storetest.Open(t)
	b, ch := in(t, s, "both")
	var all []log.Entry
	for n := range int64(60) {
		all = append(all, said(n+1, "a", "lena", fmt.Sprint("line ", n), 1))
	}
	fresh := map[string]int64{"quayside:a": 1}
	first := batch(fresh, all...)
	first.Later = true
	if err := s.Commit(t.Context(), ch, first); err != nil {
		t.Fatal(err)
	}
	// Whoever had the channel and whoever has it now book what overlaps, at the same time.
	var wg sync.WaitGroup
	errs := make([]error, 6)
	for n, part := range [][]log.Entry{all[:20], all[:60], all[:35], all[:60], all[:50], all[:10]} {
		wg.Go(func() { errs[n] = s.Book.Write(t.Context(), ch, batch(fresh, part...)) })
	}
	wg.Wait()
	if err := errors.Join(errs...); err != nil {
		t.Fatal(err)
	}
	var lines int64
	if err := s.SQL.QueryRow("SELECT lines FROM accounts WHERE channel = $1 AND key = 'quayside:a'", ch).Scan(&lines); err != nil || lines != 60 {
		t.Errorf("%d lines, %v", lines, err)
	}
	if n, err := s.Book.Booked(t.Context(), ch); err != nil || n != 60 {
		t.Errorf("booked up to %d, %v", n, err)
	}
	if sum := b.everything(); !strings.Contains(sum, `"lines": 60`) {
		t.Error(sum)
	}
}

func TestABatchInOneStatementIsWrittenWholeOrNotAtAll(t *testing.T) {
	s := storetest.Open(t)
	_, ch := in(t, s, "one statement")
	owner, err := s.Log.Hold(t.Context(), ch)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(owner.Release)
	counts := func() (out string) {
		t.Helper()
		if err := s.SQL.QueryRow(`SELECT concat_ws(' ', (SELECT count(*) FROM events WHERE channel = $1), (SELECT count(*) FROM decisions WHERE channel = $1),
			(SELECT string_agg(line || '@' || platform, ',' ORDER BY line) FROM speech WHERE channel = $1))`, ch).Scan(&out); err != nil {
			t.Fatal(err)
		}
		return out
	}
	arrives := func(seq int64, who string, lines ...string) log.Entry {
		en := said(seq, who, who, "evening", 1)
		en.Event.ID = fmt.Sprint(seq)
		en.Decisions = []hall.Decision{{Kind: hall.Arrive, Person: "quayside:" + who, Room: "arrive", Output: "arrival"}}
		for i, l := range lines {
			en.Decisions = append(en.Decisions, hall.Decision{Kind: hall.Say, Line: l, Platform: "quayside", Text: "Welcome!", Courtesy: fmt.Sprint("c", i), Output: "chat"})
		}
		return en
	}
	ends := func(seq int64, line string) log.Entry {
		d := &event.SpeechSaid{SpeechOutcome: event.SpeechOutcome{Line: line, Platform: "quayside"}}
		return log.Entry{Event: event.Event{Seq: seq, Door: "house", Source: "house", ID: fmt.Sprint(seq), Type: d.Type(), Time: dusk, Logged: dusk, Data: d}}
	}
	commit := func(entries ...log.Entry) error {
		b := batch(nil, entries...)
		b.Epoch = owner.Epoch
		return s.Commit(t.Context(), ch, b)
	}
	if err := commit(arrives(1, "a", "l1", "l2"), arrives(2, "b", "l3")); err != nil || counts() != "2 5 l1@quayside,l2@quayside,l3@quayside" {
		t.Fatalf("%s, %v", counts(), err)
	}
	if err := commit(ends(3, "l1"), arrives(4, "c", "l4"), ends(5, "l4")); err != nil || counts() != "5 7 l2@quayside,l3@quayside" {
		t.Fatalf("said, and said and heard of in one batch: %s, %v", counts(), err)
	}
	if err := commit(arrives(6, "d", "l6"), arrives(2, "b", "l7"), ends(7, "l2")); err == nil || counts() != "5 7 l2@quayside,l3@quayside" {
		t.Fatalf("a number given twice: %s, %v", counts(), err)
	}
	if _, err := s.SQL.Exec("UPDATE owners SET epoch = epoch + 1 WHERE channel = $1", ch); err != nil {
		t.Fatal(err)
	}
	if err := commit(arrives(8, "e", "l8"), ends(9, "l3")); !errors.Is(err, log.ErrHeld) || counts() != "5 7 l2@quayside,l3@quayside" {
		t.Errorf("by whoever has the channel no more: %s, %v", counts(), err)
	}
}
