package porch_test

import (
	"context"
	"io"
	"net/http"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"vividporch/core/event"
	"vividporch/core/housefile"
	"vividporch/porchtest"
	"vividporch/standin"
	"vividporch/store/book"
	"vividporch/store/pg"
)

var link = regexp.MustCompile(`http://\S+/kept/\S+`)

func TestAViewerReadsWhatIsKeptByAOneTimeLink(t *testing.T) {
	b := porchtest.Launch(t, quick)
	goLive(b)
	chat := b.Street.Platforms["quayside"].Chat
	chat.Say(lena, "what a gully")
	b.Until("she is greeted", func() bool { return len(b.Said("quayside")) > 0 })
	chat.Say(lena, "what do you know of me")
	b.Until("the link comes in private", func() bool { return len(chat.Privates()) == 1 })
	private := chat.Privates()[0]
	at := link.FindString(private.Text)
	if private.To != "limpet_lena" || at == "" {
		t.Fatalf("%+v", private)
	}
	for _, said := range b.Said("quayside") {
		if strings.Contains(said, "/kept/") {
			t.Errorf("the link was said in open chat: %s", said)
		}
	}
	path := at[strings.Index(at, "/kept/"):]
	page := func(method string) (int, string) {
		req, err := http.NewRequest(method, b.Server.URL+path, nil)
		if err != nil {
			t.Fatal(err)
		}
		res, err := http.DefaultClient.Do(req)
		if err != nil {
			t.Fatal(err)
		}
		defer res.Body.Close()
		body, _ := io.ReadAll(res.Body)
		return res.StatusCode, string(body)
	}
	if status, body := page("GET"); status != 200 || strings.Contains(body, "what a gully") {
		t.Errorf("looking at the link shows nothing yet: %d", status)
	}
	if status, body := page("POST"); status != 200 || !strings.Contains(body, "what a gully") || !strings.Contains(body, "Limpet Lena") {
		t.Errorf("%d %s", status, body)
	}
	for _, method := range []string{"GET", "POST"} {
		if status, body := page(method); status != 410 || strings.Contains(body, "gully") {
			t.Errorf("%s a second time: %d", method, status)
		}
	}
}

func TestWhoIsForgottenIsNotRecordedUntilTheyAsk(t *testing.T) {
	b := porchtest.Launch(t, quick)
	goLive(b)
	chat := b.Street.Platforms["quayside"].Chat
	chat.Say(lena, "hello porch")
	b.Until("she is here", func() bool { return len(b.Porch().Guests) == 1 })
	chat.Say(lena, "!forget-me")
	b.Until("she is asked for the second word", func() bool {
		return slices.ContainsFunc(b.Said("quayside"), func(s string) bool { return strings.Contains(s, "within a minute") })
	})
	chat.Say(lena, "!yes-forget-me")
	b.Until("she is gone from the Porch", func() bool { return len(b.Porch().Guests) == 0 })
	for _, e := range b.Porch().Entries {
		if e.Account == "quayside:8841" || strings.Contains(e.Text, "hello porch") {
			t.Errorf("the conversation still shows %+v", e)
		}
	}
	chat.Say(lena, "do you hear me")
	chat.Say(standin.Viewer{ID: "9330", Login: "kelpwright", Name: "kelpwright"}, "I do")
	b.Until("the other is heard", func() bool { return len(b.Porch().Guests) == 1 })
	var n int64
	b.Store.DB.Raw("SELECT count(*) FROM events WHERE data::text LIKE '%hear me%' OR data::text ILIKE '%lena%'").Scan(&n)
	if n != 0 {
		t.Errorf("%d events in the log tell of her", n)
	}
	h := b.Another() // also after a restart
	p, err := h.Porch(t.Context())
	if err != nil || len(p.Guests) != 1 {
		t.Errorf("after a restart: %+v %v", p.Guests, err)
	}
	b.Until("the house is back in chat", func() bool { return len(chat.Here()) > 0 })
	chat.Say(lena, "!remember-me")
	b.Until("she is recorded again", func() bool {
		p, err := h.Porch(context.Background())
		return err == nil && len(p.Guests) == 2
	})
}

func TestAStreamThatEndsSettlesStandings(t *testing.T) {
	b := porchtest.Launch(t, quick, func(s *housefile.Settings) { s.Standings.RegularAttended, s.Standings.RegularOf = 2, 3 })
	chat := b.Street.Platforms["quayside"].Chat
	for n := range 2 {
		if _, err := b.House.Hand(t.Context(), &event.StreamDeclared{Act: "opened"}); err != nil {
			t.Fatal(err)
		}
		chat.Say(lena, "hello")
		b.Until("she is here", func() bool { return len(b.Porch().Guests) == 1 })
		if _, err := b.House.Hand(t.Context(), &event.StreamDeclared{Act: "closed"}); err != nil {
			t.Fatal(err)
		}
		b.Until("the stream is over", func() bool { return !b.Porch().Live.On })
		if n == 0 && len(b.Porch().Waiting) != 0 {
			t.Errorf("one stream makes no regular: %+v", b.Porch().Waiting)
		}
	}
	b.Until("the streamer is told", func() bool { return len(b.Porch().Waiting) == 1 })
	if w := b.Porch().Waiting[0]; w.Title != "Limpet Lena is a regular now" {
		t.Errorf("%+v", w)
	}
}

func TestALateEventBelongsToTheStreamItHappenedIn(t *testing.T) {
	b := porchtest.Launch(t, quick)
	goLive(b)
	b.Street.Platforms["quayside"].Chat.Say(lena, "hello")
	b.Until("she is here", func() bool { return len(b.Porch().Guests) == 1 })
	here := time.Now()
	b.Until("a moment has passed, so that the follow lies within the stream", func() bool { return time.Since(here) > 20*time.Millisecond })
	followed := time.Now()
	if _, err := b.House.Hand(t.Context(), &event.StreamDeclared{Act: "closed"}); err != nil {
		t.Fatal(err)
	}
	b.Until("the stream is over", func() bool { return !b.Porch().Live.On })
	b.Street.Platforms["quayside"].Send("porch.person.followed", time.Since(followed)+10*time.Millisecond, map[string]any{"person": map[string]any{"platform": "quayside", "id": "77", "login": "late_follow"}})
	b.Until("it is filed", func() bool {
		id, err := b.Store.Book.PersonOf(t.Context(), b.House.ID, "quayside:77")
		if err != nil {
			return false
		}
		k := b.House.Reckoning()
		sheet, err := b.Store.Find.Sheet(t.Context(), b.House.ID, id, &k)
		return err == nil && sheet.Row.Attended == 1 && sheet.Row.Followed != nil
	})
}

func TestARecordCannotBeMergedWithItself(t *testing.T) {
	b := porchtest.Launch(t, quick)
	goLive(b)
	b.Street.Platforms["quayside"].Chat.Say(lena, "hello")
	b.Until("she is here", func() bool { return len(b.Porch().Guests) == 1 })
	id, err := b.Store.Book.PersonOf(t.Context(), b.House.ID, "quayside:8841")
	if err != nil {
		t.Fatal(err)
	}
	if err := b.House.Desk.Merge(t.Context(), "", id, id); err != book.ErrSame {
		t.Errorf("with herself: %v", err)
	}
	if err := b.House.Desk.Merge(t.Context(), "", id, 999_999); err != pg.ErrNone {
		t.Errorf("with nobody: %v", err)
	}
	if err := b.House.Desk.Part(t.Context(), "", id); err != pg.ErrNone {
		t.Errorf("parting what was never merged: %v", err)
	}
}
