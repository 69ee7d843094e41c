package store_test

import (
	"context"
	"errors"
	"testing"
	"time"

	"vividporch/core/attendance"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/people"
	"vividporch/store"
	"vividporch/store/log"
	"vividporch/store/pg"
	"vividporch/store/record"
	"vividporch/store/storetest"
	"vividporch/store/tables"
)

var dusk = time.Date(2031, 5, 14, 19, 0, 0, 0, time.UTC)

func said(seq int64, account, login, text string, stream int) log.Entry {
	d := &happening.ChatSaid{Text: text}
	d.Person = event.Person{Platform: "quayside", ID: account, Login: login}
	at := dusk.Add(time.Duration(seq) * time.Second)
	return log.Entry{Stream: stream, Event: event.Event{Seq: seq, Door: "chat", Source: "#r", ID: text, Type: d.Type(), Time: at, Logged: at, Data: d}}
}

// accounts are some on Quayside.
func accounts(ids ...string) (out []event.Person) {
	for _, id := range ids {
		out = append(out, event.Person{Platform: "quayside", ID: id})
	}
	return out
}

// reckoning is as of the evening, with these streams behind it, a week apart.
func reckoning(past int) record.Reckoning {
	k := record.Reckoning{Rules: people.DefaultRules, Now: dusk.Add(time.Hour), Zone: time.UTC}
	for n := 1; n <= past; n++ {
		at := dusk.AddDate(0, 0, -7*(past+1-n))
		k.Past = append(k.Past, attendance.Past{Number: n, Opened: at, Closed: at.Add(2 * time.Hour)})
	}
	return k
}

func commit(t *testing.T, s *store.Store, fresh map[string]int64, entries ...log.Entry) error {
	t.Helper()
	unsettled := map[string]bool{}
	for k := range fresh {
		unsettled[k] = true
	}
	return s.Commit(t.Context(), 1, &log.Batch{Entries: entries, Fresh: fresh, Unsettled: unsettled, Reckoning: reckoning(2)})
}

func TestAPersonsHistoryIsTheUnionOverTheirAccounts(t *testing.T) {
	s := storetest.Open(t)
	if err := commit(t, s, map[string]int64{"quayside:a": 1, "quayside:b": 1, "quayside:c": 2},
		said(1, "a", "lena", "one", 1), said(2, "b", "lena_too", "two", 1), said(3, "b", "lena_too", "three", 2), said(4, "c", "bo", "four", 2), said(5, "a", "lena", "five", 3)); err != nil {
		t.Fatal(err)
	}
	known, _, err := s.Book.Known(t.Context(), 1, accounts("a", "b", "c", "nobody"), 3)
	if err != nil {
		t.Fatal(err)
	}
	a, b := known["quayside:a"], known["quayside:b"]
	if a.Attended != 2 || b.Attended != 2 || len(a.Accounts) != 2 || a.Person != b.Person {
		t.Errorf("a stream attended on both accounts counts once, tonight not yet: %+v %+v", a, b)
	}
	if known["quayside:c"].Attended != 1 || known["quayside:nobody"] != nil {
		t.Errorf("%+v %+v", known["quayside:c"], known["quayside:nobody"])
	}
}

func TestABatchIsWrittenWholeOrNotAtAll(t *testing.T) {
	s := storetest.Open(t)
	if err := commit(t, s, map[string]int64{"quayside:a": 1}, said(1, "a", "lena", "one", 1)); err != nil {
		t.Fatal(err)
	}
	twice := said(3, "a", "lena", "one", 1) // an id that stands already
	if err := commit(t, s, nil, said(2, "a", "lena", "two", 1), twice); err == nil {
		t.Fatal("the same event was logged twice")
	}
	var lines, events int64
	s.DB.Raw("SELECT lines FROM accounts").Scan(&lines)
	s.DB.Raw("SELECT count(*) FROM events").Scan(&events)
	if lines != 1 || events != 1 {
		t.Errorf("half of it was written: %d lines, %d events", lines, events)
	}
	if ok, err := s.Log.Written(t.Context(), 1, &twice.Event); ok || err != nil {
		t.Errorf("written: %v %v", ok, err)
	}
	repeats, err := s.Log.Repeats(t.Context(), 1, []string{"chat", "chat"}, []string{"#r", "#r"}, []string{"new", "one"})
	if err != nil || repeats[0] || !repeats[1] {
		t.Errorf("repeats: %v %v", repeats, err)
	}
}

func TestTheLogIsReadBackAsItWasWritten(t *testing.T) {
	s := storetest.Open(t)
	en := said(1, "a", "lena", "a \"quoted\" line with \\u0000 in it", 1)
	en.Event.ID = "x"
	en.Decisions = []hall.Decision{{Kind: hall.Arrive, Output: "arrival", Person: "quayside:a", Because: []string{"no earlier stream"}},
		{Kind: hall.Say, Courtesy: "greet", Output: "chat", Line: "1.greet.chat", Platform: "quayside", Text: "hello", Because: []string{"is a newcomer"}}}
	if err := commit(t, s, map[string]int64{"quayside:a": 1}, en); err != nil {
		t.Fatal(err)
	}
	n := 0
	if err := s.Log.Since(t.Context(), 1, 0, 0, func(got log.Entry) error {
		n++
		if d := got.Event.Data.(*happening.ChatSaid); d.Text != en.Event.Data.(*happening.ChatSaid).Text || len(got.Decisions) != 2 || got.Decisions[1].Text != "hello" || !got.Event.Time.Equal(en.Event.Time) {
			t.Errorf("%+v", got)
		}
		return nil
	}); err != nil || n != 1 {
		t.Fatal(n, err)
	}
	if u, _ := s.Log.Unsaid(t.Context(), 1); len(u) != 1 || u[0].Text != "hello" {
		t.Errorf("what has no outcome yet: %+v", u)
	}
}

func TestAOneTimeLinkIsTakenByOneOnly(t *testing.T) {
	s := storetest.Open(t)
	m, err := s.Members.Owner(t.Context(), 1, "Odalys Brine")
	if err != nil {
		t.Fatal(err)
	}
	if err := s.Members.AddSignIn(t.Context(), tables.SignIn{Hash: "h", Member: m.ID, Expires: time.Now().Add(time.Hour)}); err != nil {
		t.Fatal(err)
	}
	if err := s.Members.AddSignIn(t.Context(), tables.SignIn{Hash: "old", Member: m.ID, Expires: time.Now().Add(-time.Second)}); err != nil {
		t.Fatal(err)
	}
	won := make(chan error)
	for range 10 {
		go func() { _, err := s.Members.UseSignIn(context.Background(), "h"); won <- err }()
	}
	in := 0
	for range 10 {
		switch err := <-won; {
		case err == nil:
			in++
		case !errors.Is(err, pg.ErrNone):
			t.Error(err)
		}
	}
	if in != 1 {
		t.Errorf("%d came in by one link", in)
	}
	if _, err := s.Members.UseSignIn(t.Context(), "old"); !errors.Is(err, pg.ErrNone) {
		t.Errorf("an old link: %v", err)
	}
}

func TestTablesOfAnOlderShapeAreBroughtUpToDateAndOthersLeftAlone(t *testing.T) {
	url := storetest.URL(t)
	again := func() *store.Store {
		t.Helper()
		s, err := store.Open(t.Context(), url)
		if err != nil {
			t.Fatal(err)
		}
		t.Cleanup(func() { s.Close() })
		return s
	}
	s := again()
	if err := commit(t, s, map[string]int64{"quayside:a": 1, "quayside:b": 1}, said(1, "a", "lena", "one", 1), said(2, "b", "lena_too", "two", 1), said(3, "b", "lena_too", "three", 1)); err != nil {
		t.Fatal(err)
	}
	has := func(index string) (n int) {
		t.Helper()
		if err := s.SQL.QueryRow("SELECT count(*) FROM pg_indexes WHERE schemaname = current_schema() AND indexname = $1", index).Scan(&n); err != nil {
			t.Fatal(err)
		}
		return n
	}
	exec := func(q string) {
		t.Helper()
		if _, err := s.SQL.Exec(q); err != nil {
			t.Fatal(err)
		}
	}
	exec("DROP INDEX people_first")
	again()
	if has("people_first") != 0 {
		t.Error("tables that are up to date were looked through")
	}
	// As it was when lines were counted in the person's row.
	exec("DROP TABLE tallies")
	exec("ALTER TABLE people ADD COLUMN lines bigint NOT NULL DEFAULT 0")
	exec("UPDATE tables_shape SET shape = 'older'")
	again()
	var lines, columns int
	if err := s.SQL.QueryRow("SELECT lines, (SELECT count(*) FROM information_schema.columns WHERE table_schema = current_schema() AND table_name = 'people' AND column_name = 'lines') FROM tallies WHERE person = 1").Scan(&lines, &columns); err != nil {
		t.Fatal(err)
	}
	if lines != 3 || columns != 0 || has("people_first") != 1 {
		t.Errorf("%d lines, %d columns, %d", lines, columns, has("people_first"))
	}
}
