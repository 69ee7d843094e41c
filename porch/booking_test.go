package porch_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/housefile"
	"vividporch/porchtest"
	"vividporch/spec"
	"vividporch/standin"
)

// bookOf reads what the guest book holds about lines, visits and support.
func bookOf(b *porchtest.Boat) string {
	b.T.Helper()
	var out string
	err := b.Store.SQL.QueryRow(`SELECT
		coalesce((SELECT string_agg(a.login || ' ' || a.lines || ' ' || (SELECT coalesce(sum(v.lines), -1) FROM visits v WHERE v.channel = a.channel AND v.key = a.key), ', ' ORDER BY a.login) FROM accounts a), '') ||
		'; people ' || (SELECT count(*) FROM people WHERE listed) || '; supports ' || (SELECT count(*) FROM supports) || '; raids ' || (SELECT count(*) FROM raids) ||
		'; spoken ' || (SELECT count(*) FROM spoken)`).Scan(&out)
	if err != nil {
		b.T.Fatal(err)
	}
	return out
}

func atOnce(s *housefile.Settings) {
	s.Pace.GapSeconds = 0
	for i := range s.Courtesy {
		s.Courtesy[i].OffLine = true
		for k := range s.Courtesy[i].Do {
			s.Courtesy[i].Do[k].DelaySeconds = 0
		}
		s.Courtesy[i].Burst = nil
	}
	s.Courtesy = slices.DeleteFunc(s.Courtesy, func(c courtesy.Courtesy) bool { return strings.HasPrefix(c.When, "porch.stream.") })
}

func TestWhatIsSaidDoesNotWaitForTheBookAndTheNextStartBooksWhatWasLeft(t *testing.T) {
	b := porchtest.Launch(t, atOnce)
	q := b.Street.Platforms["quayside"]
	q.Open("Brittle stars", "", 0)
	b.Until("the stream is on", func() bool { return b.Porch().Live.On })
	for range 3 {
		q.Chat.Say(standin.Viewer{ID: "7", Login: "grebe_watch"}, "evening")
	}
	want := "grebe_watch 3 3; people 1; supports 0; raids 0; spoken 1"
	b.Until("further lines are booked within a moment", func() bool { return bookOf(b) == want })
	// The book cannot be written; the log can.
	if _, err := b.Store.SQL.Exec("ALTER TABLE supports RENAME TO supports_adrift"); err != nil {
		t.Fatal(err)
	}
	person := map[string]any{"platform": "quayside", "id": "9", "login": "saltpan_pip"}
	q.Send("porch.support.tipped", 0, map[string]any{"person": person, "amount": "5.00", "currency": "EUR"})
	b.Until("the thanks are said all the same", func() bool {
		return slices.ContainsFunc(b.Said("quayside"), func(t string) bool { return strings.Contains(t, "saltpan_pip") })
	})
	if _, err := b.Store.SQL.Exec("ALTER TABLE supports_adrift RENAME TO supports"); err != nil {
		t.Fatal(err)
	}
	b.Until("once it can be, it is written, and only once", func() bool {
		return bookOf(b) == "grebe_watch 3 3, saltpan_pip 0 0; people 2; supports 1; raids 0; spoken 2"
	})

	// And now the house goes down in between.
	if _, err := b.Store.SQL.Exec("ALTER TABLE spoken RENAME TO spoken_adrift"); err != nil {
		t.Fatal(err)
	}
	kelp := map[string]any{"platform": "quayside", "id": "9330", "login": "kelpwright"}
	q.Send("porch.raid.came", 0, map[string]any{"person": kelp, "viewers": 37})
	var logged int64
	b.Until("the raid is thanked", func() bool {
		return slices.ContainsFunc(b.Said("quayside"), func(t string) bool { return strings.Contains(t, "kelpwright") })
	})
	if err := b.Store.SQL.QueryRow("SELECT max(seq) FROM decisions WHERE kind = 'say'").Scan(&logged); err != nil {
		t.Fatal(err)
	}
	b.Stop()
	if _, err := b.Store.SQL.Exec("ALTER TABLE spoken_adrift RENAME TO spoken"); err != nil {
		t.Fatal(err)
	}
	if booked, err := b.Store.Book.Booked(t.Context(), b.House.ID); err != nil || booked >= logged {
		t.Fatalf("booked up to %d, the thanks are %d, %v", booked, logged, err)
	}
	b.Another()
	var said int
	if err := b.Store.SQL.QueryRow("SELECT count(*) FROM decisions WHERE kind = 'say'").Scan(&said); err != nil {
		t.Fatal(err)
	}
	if got := bookOf(b); !strings.Contains(got, "kelpwright 0 0") || !strings.Contains(got, "people 3") || !strings.Contains(got, "raids 1") || !strings.Contains(got, fmt.Sprint("spoken ", said)) || !strings.Contains(got, "grebe_watch 3 3") {
		t.Errorf("after the next start: %s", got)
	}
	if booked, err := b.Store.Book.Booked(t.Context(), b.House.ID); err != nil || booked < logged {
		t.Errorf("booked up to %d, the thanks are %d, %v", booked, logged, err)
	}
	first := bookOf(b)
	b.Another()
	if again := bookOf(b); again != first {
		t.Errorf("a further start booked again:\n%s\n%s", first, again)
	}
}

func TestAMembersEditStandsInTheBookWhenItIsAnswered(t *testing.T) {
	b := porchtest.Launch(t, atOnce)
	b.SignIn()
	q := b.Street.Platforms["quayside"]
	q.Open("Brittle stars", "", 0)
	b.Until("the stream is on", func() bool { return b.Porch().Live.On })
	q.Chat.Say(standin.Viewer{ID: "7", Login: "grebe_watch"}, "evening")
	var page spec.BookPage
	b.Until("she is in the book", func() bool { b.Do("GET", "/api/book/people", nil, &page); return len(page.Rows) == 1 })
	for i := range 20 { // while lines wait to be booked
		q.Chat.Say(standin.Viewer{ID: "7", Login: "grebe_watch"}, fmt.Sprint("line ", i))
		tag := fmt.Sprint("tag-", i)
		if _, err := b.House.Desk.Edit(t.Context(), &event.BookEdited{Persons: []int64{page.Rows[0].Person}, Edit: event.Edit{AddTags: []string{tag}}, Member: "Odalys Brine"}); err != nil {
			t.Fatal(err)
		}
		if b.Do("GET", "/api/book/people", nil, &page); !slices.Contains(page.Rows[0].Tags, tag) {
			t.Fatalf("%s is not there: %v", tag, page.Rows[0].Tags)
		}
	}
	b.Until("no line was lost on the way", func() bool { return strings.HasPrefix(bookOf(b), "grebe_watch 21 21;") })
}

func TestWhoIsHereChatsOnWhileTheBookIsWrittenAndWhoComesInWaitsForIt(t *testing.T) {
	b := porchtest.Launch(t, atOnce)
	q := b.Street.Platforms["quayside"]
	q.Open("Brittle stars", "", 0)
	b.Until("the stream is on", func() bool { return b.Porch().Live.On })
	q.Chat.Say(standin.Viewer{ID: "7", Login: "grebe_watch"}, "evening")
	// Her greeting too: while any of it waits to be written, whoever comes in waits.
	b.Until("she is booked", func() bool { return bookOf(b) == "grebe_watch 1 1; people 1; supports 0; raids 0; spoken 1" })
	slow, err := b.Store.SQL.Begin()
	if err != nil {
		t.Fatal(err)
	}
	defer slow.Rollback()
	if _, err := slow.Exec("LOCK TABLE spoken IN ACCESS EXCLUSIVE MODE"); err != nil { // as if writing the book took long
		t.Fatal(err)
	}
	greeted := func(login string) func() bool {
		return func() bool {
			return slices.ContainsFunc(b.Said("quayside"), func(t string) bool { return strings.Contains(t, login) })
		}
	}
	q.Chat.Say(standin.Viewer{ID: "9", Login: "saltpan_pip"}, "hello")
	b.Until("who came in is greeted before the book has them", greeted("saltpan_pip"))
	lines := func(login string) (n int) {
		if err := slow.QueryRow("SELECT count(*) FROM events WHERE type = 'porch.chat.said' AND data->'person'->>'login' = $1", login).Scan(&n); err != nil {
			t.Fatal(err)
		}
		return n
	}
	for range 5 {
		q.Chat.Say(standin.Viewer{ID: "7", Login: "grebe_watch"}, "they are small today")
	}
	b.Until("further lines go on into the log", func() bool { return lines("grebe_watch") == 6 })
	q.Chat.Say(standin.Viewer{ID: "11", Login: "mossy_mare"}, "good evening")
	q.Chat.Say(standin.Viewer{ID: "7", Login: "grebe_watch"}, "look at that one")
	if lines("mossy_mare")+lines("grebe_watch") != 6 {
		t.Error("somebody came in of whom the book was not asked")
	}
	if err := slow.Commit(); err != nil {
		t.Fatal(err)
	}
	b.Until("who came in next is greeted", greeted("mossy_mare"))
	b.Until("and all of it is booked", func() bool {
		return strings.HasPrefix(bookOf(b), "grebe_watch 7 7, mossy_mare 1 1, saltpan_pip 1 1; people 3;") && strings.HasSuffix(bookOf(b), "spoken 3")
	})
}
