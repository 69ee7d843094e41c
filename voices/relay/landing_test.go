package relay

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"vividporch/core/housefile"
	"vividporch/core/place"
	"vividporch/core/profile"
	"vividporch/store/jobs"
	"vividporch/store/storetest"
)

// server is a community server and social site that notes what comes, and is where the house is signed in.
type server struct {
	mu      sync.Mutex
	got     []string // "POST /landings/news/posts {…}"
	refuses string
	at      string
	out     bool // nobody is signed in
}

func (s *server) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	raw, _ := io.ReadAll(r.Body)
	s.mu.Lock()
	defer s.mu.Unlock()
	switch {
	case r.Header.Get("Authorization") != "Bearer sesame":
		w.WriteHeader(http.StatusUnauthorized)
	case s.refuses != "":
		w.Header().Set("Content-Type", "application/problem+json")
		w.WriteHeader(http.StatusForbidden)
		json.NewEncoder(w).Encode(map[string]string{"detail": s.refuses})
	case r.Method == http.MethodPatch && strings.HasSuffix(r.URL.Path, "/gone"):
		w.WriteHeader(http.StatusNotFound)
	default:
		s.got = append(s.got, r.Method+" "+r.URL.Path+" "+string(raw))
		fmt.Fprintf(w, `{"id": "post-%d"}`, len(s.got))
	}
}

func (s *server) Profile(platform string) *profile.Profile {
	p := *profile.Of(nil, platform)
	p.At = s.at
	return &p
}

func (s *server) Token(context.Context, string, string) (string, error) {
	if s.out {
		return "", errors.New("the house is not signed in at The Boathouse")
	}
	return "sesame", nil
}

func (s *server) Medium(_ context.Context, name string) ([]byte, error) {
	if name != "lantern.png" {
		return nil, errors.New("there is no such file")
	}
	return []byte("picture"), nil
}

func (s *server) Picture(context.Context, string) ([]byte, error) { return []byte("drawn"), nil }

// hosts is a shore with a landing and an account at a server.
func hosts(t *testing.T, over func(int) bool) (*shore, *server) {
	s := &shore{t: t, st: storetest.Open(t), places: map[string]*housefile.Place{
		"news":   {Name: "news", Kind: "landing", Platform: "boathouse", Landing: "news"},
		"skerry": {Name: "skerry", Kind: "social", Platform: "skerry"},
	}}
	at := &server{}
	srv := httptest.NewServer(at)
	t.Cleanup(srv.Close)
	at.at = srv.URL
	r, err := New(Config{HTTP: srv.Client(), Channel: 1, Store: s.st, Backoff: func(int) time.Duration { return 20 * time.Millisecond }, Signed: at, Over: over,
		Place: func(name string) *housefile.Place { return s.places[name] }, Outcome: s.note})
	if err != nil {
		t.Fatal(err)
	}
	s.relay = r
	s.start()
	return s, at
}

// post puts one post on its way.
func (s *shore) post(d jobs.Delivery, p place.Post) {
	s.t.Helper()
	d.Channel, d.Text, d.Made = 1, d.Line, time.Now()
	d.Body, _ = json.Marshal(p)
	tx, err := s.st.SQL.BeginTx(s.t.Context(), nil)
	if err != nil {
		s.t.Fatal(err)
	}
	if err := s.relay.Add(s.t.Context(), tx, []jobs.Delivery{d}); err != nil {
		s.t.Fatal(err)
	}
	if err := tx.Commit(); err != nil {
		s.t.Fatal(err)
	}
}

func TestAnAnnouncementAtALandingIsChangedAndFollowed(t *testing.T) {
	s, at := hosts(t, nil)
	s.post(jobs.Delivery{Line: "opens", Place: "news", Stream: 7, Opens: true}, place.Post{Text: "Live", Call: "all"})
	s.state("opens", jobs.Delivered)
	s.post(jobs.Delivery{Line: "changed", Place: "news", Stream: 7, Onto: "edit"}, place.Post{Text: "Live: the anemone"})
	s.post(jobs.Delivery{Line: "over", Place: "news", Stream: 7, Onto: "under"}, place.Post{Text: "It was 2 hours long", Picture: "x"})
	s.state("over", jobs.Delivered)
	want := []string{
		`POST /landings/news/posts {"may-ring":["all"],"message":"@all Live"}`,
		`PATCH /landings/news/posts/post-1 {"message":"Live: the anemone"}`,
		`POST /landings/news/posts {"message":"It was 2 hours long","picture":"ZHJhd24=","under":"post-1"}`,
	}
	if !slices.Equal(at.got, want) {
		t.Errorf("%q", at.got)
	}
	// Of another stream there is nothing to change.
	s.post(jobs.Delivery{Line: "another", Place: "news", Stream: 8, Onto: "edit"}, place.Post{Text: "?"})
	if d := s.state("another", jobs.Dropped); !strings.Contains(d.Reason, "no announcement of the stream stands there") {
		t.Errorf("%q", d.Reason)
	}
}

func TestAnAnnouncementThatWasTakenAwayThereIsNotChangedForEver(t *testing.T) {
	s, _ := hosts(t, nil)
	s.post(jobs.Delivery{Line: "opens", Place: "news", Stream: 7, Opens: true}, place.Post{Text: "Live"})
	s.state("opens", jobs.Delivered)
	if _, err := s.st.SQL.Exec(`UPDATE deliveries SET ref = 'gone' WHERE line = 'opens'`); err != nil {
		t.Fatal(err)
	}
	s.post(jobs.Delivery{Line: "changed", Place: "news", Stream: 7, Onto: "edit"}, place.Post{Text: "?"})
	if d := s.state("changed", jobs.Dropped); !strings.Contains(d.Reason, "stands there no more") {
		t.Errorf("%q", d.Reason)
	}
}

func TestARightThatIsMissingIsToldInTheServersWords(t *testing.T) {
	s, at := hosts(t, nil)
	at.refuses = "the right to call at News is missing"
	s.post(jobs.Delivery{Line: "calls", Place: "news"}, place.Post{Text: "Live", Call: "all"})
	if d := s.state("calls", jobs.Failed); !strings.Contains(d.Reason, "the right to call at News is missing") || d.Status != 403 {
		t.Errorf("%d %q", d.Status, d.Reason)
	}
	at.refuses, at.out = "", true
	s.post(jobs.Delivery{Line: "nobody", Place: "news"}, place.Post{Text: "Live"})
	if d := s.state("nobody", jobs.Failed); !strings.Contains(d.Reason, "not signed in") {
		t.Errorf("%q", d.Reason)
	}
}

func TestAnAnnouncementIsNotSentAsIfLiveOnceItsStreamHasEnded(t *testing.T) {
	var over atomic.Int64
	s, at := hosts(t, func(stream int) bool { return int64(stream) <= over.Load() })
	late, _ := json.Marshal(place.Post{Text: "We were live"})
	over.Store(2)
	s.post(jobs.Delivery{Line: "one", Place: "news", Stream: 1, Opens: true}, place.Post{Text: "Live"})
	s.post(jobs.Delivery{Line: "two", Place: "news", Stream: 2, Opens: true, Late: late}, place.Post{Text: "Live"})
	s.post(jobs.Delivery{Line: "three", Place: "news", Stream: 3, Opens: true, Late: late}, place.Post{Text: "Live now"})
	s.state("three", jobs.Delivered)
	if d := s.state("one", jobs.Dropped); !strings.Contains(d.Reason, "had ended") {
		t.Errorf("%q", d.Reason)
	}
	if want := []string{`POST /landings/news/posts {"message":"We were live"}`, `POST /landings/news/posts {"message":"Live now"}`}; !slices.Equal(at.got, want) {
		t.Errorf("%q", at.got)
	}
}

func TestAnAccountPostsSendsMessagesAndChangesItsPicture(t *testing.T) {
	s, at := hosts(t, nil)
	for i, p := range []place.Post{{Text: "Low water"}, {Text: "Thank you!", Does: "message", To: "limpet_lena"}, {Text: "a picture", Does: "banner", Shelf: "lantern.png"}} {
		s.post(jobs.Delivery{Line: fmt.Sprint("post-", i), Place: "skerry"}, p)
	}
	s.state("post-2", jobs.Delivered)
	want := []string{`POST /posts {"words":"Low water"}`, `POST /messages {"to":"limpet_lena","words":"Thank you!"}`, `PUT /account/banner {"file":"cGljdHVyZQ=="}`}
	if !slices.Equal(at.got, want) {
		t.Errorf("%q", at.got)
	}
	s.post(jobs.Delivery{Line: "off-the-shelf", Place: "skerry"}, place.Post{Text: "?", Does: "picture", Shelf: "sold.png"})
	if d := s.state("off-the-shelf", jobs.Failed); !strings.Contains(d.Reason, "not on the shelf") {
		t.Errorf("%q", d.Reason)
	}
}

func TestACertificateThatDoesNotHoldIsSaidAndNothingWasSent(t *testing.T) {
	var asked atomic.Int64
	srv := httptest.NewTLSServer(http.HandlerFunc(func(http.ResponseWriter, *http.Request) { asked.Add(1) }))
	defer srv.Close()
	open := httptest.NewServer(http.NotFoundHandler())
	defer open.Close()
	r := &Relay{carriers: map[string]carrier{"webhook": &hook{safe: storetest.Open(t).Safe, http: &http.Client{}}}}
	for address, why := range map[string]string{srv.URL: "nobody that this machine trusts", strings.Replace(open.URL, "http:", "https:", 1): ""} {
		came := r.carry(t.Context(), &housefile.Place{Name: "pier", URL: address}, &jobs.Delivery{Line: "a", Place: "pier", Body: json.RawMessage(`{}`)})
		if came.how != broken || !strings.Contains(came.why, why) || why != "" && came.unsure {
			t.Errorf("%s: %+v", address, came)
		}
	}
	if asked.Load() != 0 {
		t.Error("it was posted all the same")
	}
}

func TestAPlaceThatAnswersWithoutEndIsReadNoFurtherThanItMatters(t *testing.T) {
	var sent atomic.Int64
	srv := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
		for range 10 << 10 { // ten megabytes
			n, err := w.Write(make([]byte, 1<<10))
			if sent.Add(int64(n)); err != nil {
				return
			}
		}
	}))
	defer srv.Close()
	r := &Relay{carriers: map[string]carrier{"webhook": &hook{safe: storetest.Open(t).Safe, http: srv.Client()}}}
	came := r.carry(t.Context(), &housefile.Place{Name: "pier", URL: srv.URL}, &jobs.Delivery{Line: "a", Place: "pier", Body: json.RawMessage(`{}`)})
	if came.how != taken || sent.Load() > 9<<20 {
		t.Errorf("%+v after %d bytes", came, sent.Load())
	}
}

func TestHeadersGoAlongAndATokenStaysInTheSafe(t *testing.T) {
	var got http.Header
	srv := httptest.NewServer(http.HandlerFunc(func(_ http.ResponseWriter, r *http.Request) { got = r.Header }))
	defer srv.Close()
	st := storetest.Open(t)
	p := housefile.Place{Name: "pier", URL: srv.URL, Headers: map[string]string{"X-Room": "news", "Authorization": "Bearer {token}"}}
	r := &Relay{carriers: map[string]carrier{"webhook": &hook{channel: 1, safe: st.Safe, http: srv.Client()}}}
	d := &jobs.Delivery{Channel: 1, Line: "a", Place: "pier", Body: json.RawMessage(`{}`)}
	if came := r.carry(t.Context(), &p, d); came.how != broken || came.unsure || !strings.Contains(came.why, "needs the place's token") {
		t.Errorf("without its token: %+v", came)
	}
	if err := st.Safe.SetSecret(t.Context(), 1, &housefile.Settings{Places: []housefile.Place{p}}, "pier", "token", "low tide"); err != nil {
		t.Fatal(err)
	}
	if came := r.carry(t.Context(), &p, d); came.how != taken || got.Get("Authorization") != "Bearer low tide" || got.Get("X-Room") != "news" {
		t.Errorf("%+v %v", came, got)
	}
}
