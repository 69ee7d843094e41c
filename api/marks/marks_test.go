package marks_test

import (
	"fmt"
	"io"
	"net/http"
	"strconv"
	"strings"
	"testing"

	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/formats/vtt"
	"vividporch/porchtest"
	"vividporch/spec"
	"vividporch/standin"
)

func live(t *testing.T) *porchtest.Boat {
	t.Helper()
	b := porchtest.Launch(t)
	b.SignIn()
	return b
}

func open(b *porchtest.Boat) {
	b.Do("POST", "/api/desk/stream", spec.DeclareStream{Act: "opened"}, nil)
	b.Until("the stream is on", func() bool { return b.Porch().Live.On })
}

// fetch asks an address outside as a device does that has no session.
func fetch(t *testing.T, b *porchtest.Boat, method, address string, header ...string) (int, string) {
	t.Helper()
	req, err := http.NewRequestWithContext(t.Context(), method, address, nil)
	if err != nil {
		t.Fatal(err)
	}
	for i := 0; i+1 < len(header); i += 2 {
		req.Header.Set(header[i], header[i+1])
	}
	res, err := http.DefaultClient.Do(req)
	if err != nil {
		t.Fatal(err)
	}
	defer res.Body.Close()
	body, _ := io.ReadAll(res.Body)
	return res.StatusCode, string(body)
}

func bookmarks(t *testing.T, b *porchtest.Boat) spec.Bookmarks {
	t.Helper()
	var v spec.Bookmarks
	if s := b.Do("GET", "/api/bookmarks", nil, &v); s != 200 {
		t.Fatal(s)
	}
	return v
}

func TestABookmarkFromThePorchIsSaidInChatAndStandsInTheChapterFile(t *testing.T) {
	b := live(t)
	var d spec.Deed
	if s := b.Do("POST", "/api/desk/bookmark", spec.NewBookmark{Label: "before"}, &d); s != 200 || d.Done || d.Because[0] != "No stream is on: it was a try." {
		t.Fatalf("%d %+v", s, d)
	}
	open(b)
	if s := b.Do("POST", "/api/desk/bookmark", spec.NewBookmark{Label: "the <anemone> opens"}, &d); s != 200 || !d.Done || !strings.HasPrefix(d.Because[0], "Marked at 0:00:0") {
		t.Fatalf("%d %+v", s, d)
	}
	b.Until("it is said", func() bool { return strings.Contains(strings.Join(b.Said("quayside"), "\n"), "the <anemone> opens") })
	b.Until("the stream is booked", func() bool { return len(bookmarks(t, b).Streams) == 1 })
	v := bookmarks(t, b).Streams[0]
	if len(v.Bookmarks) != 1 || v.Bookmarks[0].Label != "the <anemone> opens" || v.Bookmarks[0].By == "" {
		t.Errorf("%+v", v)
	}
	res, err := b.Client.Get(b.Server.URL + "/api/streams/1/chapters?format=vtt")
	if err != nil {
		t.Fatal(err)
	}
	defer res.Body.Close()
	list, err := vtt.Read(res.Body)
	if err != nil || len(list) == 0 || list[len(list)-1].Title != "the <anemone> opens" {
		t.Errorf("%v %+v", err, list)
	}
	// It is called something else afterwards, in the list, in the file and on the evening line.
	label := fmt.Sprintf("/api/bookmarks/%d/label", v.Bookmarks[0].Event)
	for _, is := range []string{"the anemone", "the anemone opens at last"} {
		if s := b.Do("PUT", label, spec.NewBookmark{Label: is}, nil); s != 204 {
			t.Fatal(s)
		}
	}
	if got := bookmarks(t, b).Streams[0].Bookmarks[0].Label; got != "the anemone opens at last" {
		t.Errorf("it is called %q", got)
	}
	if s := b.Do("PUT", "/api/bookmarks/1/label", spec.NewBookmark{Label: "none"}, nil); s != 404 {
		t.Error(s)
	}
	if s := b.Do("PUT", label, spec.NewBookmark{Label: strings.Repeat("x", 201)}, nil); s < 400 {
		t.Error(s)
	}
	if s := b.Do("GET", "/api/streams/77/chapters", nil, nil); s != 404 {
		t.Error(s)
	}
	if s := b.Do("POST", "/api/desk/bookmark", spec.NewBookmark{Label: strings.Repeat("x", 201)}, nil); s < 400 {
		t.Error(s)
	}
}

func TestAKeySetsOneBookmarkHoweverOftenItIsPressedAndLookingSetsNone(t *testing.T) {
	b := live(t)
	open(b)
	address := func(name, how string) string {
		var made spec.BookmarkKeyMade
		if s := b.Do("POST", "/api/bookmarks/keys", spec.NewBookmarkKey{Name: name, How: spec.NewBookmarkKeyHow(how)}, &made); s != 200 {
			t.Fatal(s)
		}
		return b.Server.URL + made.Address[strings.Index(made.Address, "/bookmarks/"):]
	}
	button, link := address("the red button", "posted"), address("the deck", "opened")
	count := func() (n int) {
		for _, s := range bookmarks(t, b).Streams {
			n += len(s.Bookmarks)
		}
		return n
	}
	for _, c := range []struct {
		method, at, answer string
		status             int
		header             []string
	}{
		{"GET", button, "There is no such key.\n", 404, nil}, // it is for a button that posts
		{"POST", link, "There is no such key.\n", 404, nil},
		{"HEAD", link, "", 204, nil},
		{"GET", link, "", 204, []string{"Sec-Purpose", "prefetch"}},
		{"GET", link, "", 204, []string{"X-Moz", "prefetch"}},
		{"POST", b.Server.URL + "/bookmarks/GUESSED", "There is no such key.\n", 404, nil},
	} {
		if s, body := fetch(t, b, c.method, c.at, c.header...); s != c.status || body != c.answer {
			t.Errorf("%s %s: %d %q", c.method, c.at[len(c.at)-8:], s, body)
		}
	}
	for i := range 3 {
		if s, body := fetch(t, b, "POST", button+"?label=low+water"); s != 200 || i == 0 != strings.HasPrefix(body, "Marked at ") || i > 0 != (body == "Marked already.\n") {
			t.Errorf("press %d: %d %q", i, s, body)
		}
	}
	if s, body := fetch(t, b, "GET", link); s != 200 || !strings.HasPrefix(body, "Marked at ") { // another key, in the same moment
		t.Errorf("%d %q", s, body)
	}
	b.Until("two are marked", func() bool { return count() == 2 })
	if s := b.Do("POST", "/api/bookmarks/keys/take", spec.NewBookmarkKey{Name: "the deck", How: "opened"}, nil); s != 204 {
		t.Fatal(s)
	}
	if s, _ := fetch(t, b, "GET", link); s != 404 {
		t.Errorf("a key that was taken away: %d", s)
	}
	if k := bookmarks(t, b).Keys; len(k) != 1 || k[0].Name != "the red button" {
		t.Errorf("%+v", k)
	}
}

func TestANoteIsFoundAnsweredInChatAndDoneWith(t *testing.T) {
	b := live(t)
	open(b)
	say := func(login, text string) {
		b.Street.Platforms["quayside"].Chat.Say(standin.Viewer{ID: "v-" + login, Login: login}, text)
	}
	say("mossy_mare", "!note the mussels moved since Tuesday")
	say("tidewrack", "!note bring the long lens")
	b.Until("both wait", func() bool {
		n := 0
		for _, w := range b.Porch().Waiting {
			if w.Kind == "note" {
				n++
			}
		}
		return n == 2
	})
	var v spec.Notes
	if s := b.Do("GET", "/api/notes?q=mussels", nil, &v); s != 200 || len(v.Notes) != 1 || v.Notes[0].Text != "the mussels moved since Tuesday" || !v.Notes[0].Done.IsZero() {
		t.Fatalf("%d %+v", s, v)
	}
	var d spec.Deed
	path := "/api/notes/" + strconv.FormatInt(v.Notes[0].Event, 10) + "/answer"
	if s := b.Do("POST", path, spec.NoteAnswer{Text: "I saw, by a whole boat's length!"}, &d); s != 200 || !d.Done {
		t.Fatalf("%d %+v", s, d)
	}
	b.Until("it is said to her", func() bool {
		return strings.Contains(strings.Join(b.Said("quayside"), "\n"), "mossy_mare: I saw, by a whole boat's length!")
	})
	b.Do("GET", "/api/notes?open=true", nil, &v)
	if len(v.Notes) != 1 || v.Notes[0].Name != "tidewrack" {
		t.Errorf("%+v", v.Notes)
	}
	b.Do("GET", "/api/notes?q=mussels", nil, &v)
	if len(v.Notes) != 1 || v.Notes[0].Done.IsZero() || v.Notes[0].By == "" {
		t.Errorf("%+v", v.Notes)
	}
	if s := b.Do("POST", "/api/notes/1/answer", spec.NoteAnswer{Text: "who?"}, nil); s != 404 {
		t.Error(s)
	}
	if s := b.Do("POST", path, spec.NoteAnswer{Text: "  "}, nil); s != 422 {
		t.Error(s)
	}
}

func TestANoteThatCannotBeAnsweredInChatStillWaits(t *testing.T) {
	b := live(t)
	open(b)
	left := &happening.NoteLeft{Text: "see you on Thursday", Place: "Newcomers"}
	left.Person = event.Person{Platform: "boathouse", ID: "7", Login: "fen_orchid"} // where the house is in no chat
	rs, err := b.House.Submit(t.Context(), []event.Event{{Door: "boathouse", Source: "s", ID: "note-7", Type: left.Type(), Data: left}})
	if err != nil {
		t.Fatal(err)
	}
	var d spec.Deed
	if s := b.Do("POST", "/api/notes/"+strconv.FormatInt(rs[0].Seq, 10)+"/answer", spec.NoteAnswer{Text: "yes"}, &d); s != 200 || d.Done || len(d.Because) == 0 {
		t.Errorf("%d %+v", s, d)
	}
	var v spec.Notes
	if b.Do("GET", "/api/notes?open=true", nil, &v); len(v.Notes) != 1 {
		t.Errorf("%+v", v.Notes)
	}
}
