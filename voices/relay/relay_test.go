package relay

import (
	"context"
	"database/sql"
	"encoding/json"
	"io"
	"net/http"
	"net/http/httptest"
	"strings"
	"sync"
	"testing"
	"time"

	webhooks "github.com/standard-webhooks/standard-webhooks/libraries/go"

	"vividporch/core/event"
	"vividporch/core/housefile"
	"vividporch/store"
	"vividporch/store/jobs"
	"vividporch/store/storetest"
)

const secret = "whsec_dGhlIGhvdXNlIHNpZ25zIHRvIHRoZSBib2F0aG91c2U="

// pier is a place under test: it answers as it is told and remembers what came.
type pier struct {
	t       *testing.T
	mu      sync.Mutex
	answers []int // the last one is repeated
	slow    time.Duration
	chokes  string // on a body in which this stands
	bodies  []string
	headers []http.Header
	told    []event.Data
}

func (p *pier) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	body, _ := io.ReadAll(r.Body)
	p.mu.Lock()
	p.bodies, p.headers = append(p.bodies, string(body)), append(p.headers, r.Header.Clone())
	status, slow := p.answers[min(len(p.bodies), len(p.answers))-1], p.slow
	p.mu.Unlock()
	if slow > 0 {
		select {
		case <-time.After(slow):
		case <-r.Context().Done():
		}
	}
	if p.chokes != "" && strings.Contains(string(body), p.chokes) {
		status = http.StatusInternalServerError
	}
	if status == http.StatusTooManyRequests {
		w.Header().Set("Retry-After", "1")
	}
	w.WriteHeader(status)
}

// send puts one post on its way and waits for its last outcome.
func (p *pier) send(change func(*housefile.Place)) event.Data {
	p.t.Helper()
	st := storetest.Open(p.t)
	srv := httptest.NewServer(p)
	defer srv.Close()
	place := &housefile.Place{Name: "pier", URL: srv.URL, TimeoutSeconds: 0.3}
	if change != nil {
		change(place)
	}
	if err := st.Safe.SetSecret(p.t.Context(), 1, &housefile.Settings{Places: []housefile.Place{*place}}, "pier", "secret", secret); err != nil {
		p.t.Fatal(err)
	}
	done := make(chan event.Data, 10)
	r, err := New(Config{HTTP: &http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}, Channel: 1, Store: st, Backoff: func(int) time.Duration { return 20 * time.Millisecond },
		Place: func(string) *housefile.Place { return place },
		Outcome: func(d event.Data) {
			p.mu.Lock()
			p.told = append(p.told, d)
			p.mu.Unlock()
			if _, later := d.(*event.RelayDelayed); !later {
				done <- d
			}
		}})
	if err != nil {
		p.t.Fatal(err)
	}
	if err := r.Start(context.Background()); err != nil {
		p.t.Fatal(err)
	}
	defer r.Stop(context.Background())
	add(p.t, st, r, "4.announce.post")
	select {
	case d := <-done:
		return d
	case <-time.After(20 * time.Second):
		p.t.Fatalf("no outcome; told so far: %+v", p.told)
		return nil
	}
}

// add puts posts on their way to the pier, as a batch of the house does.
func add(t *testing.T, st *store.Store, r *Relay, lines ...string) {
	t.Helper()
	tx, err := st.SQL.BeginTx(t.Context(), &sql.TxOptions{})
	if err != nil {
		t.Fatal(err)
	}
	var list []jobs.Delivery
	for _, l := range lines {
		list = append(list, jobs.Delivery{Channel: 1, Line: l, Place: "pier", Text: "the lamp is lit", Body: json.RawMessage(`{"message": "the lamp is lit"}`), Made: time.Now()})
	}
	if err := r.Add(t.Context(), tx, list); err != nil {
		t.Fatal(err)
	}
	if err := tx.Commit(); err != nil {
		t.Fatal(err)
	}
}

func TestAPostIsSignedAndCarriesTheSameKeyAtEveryAttempt(t *testing.T) {
	p := &pier{t: t, answers: []int{502, 500, 201}}
	if _, ok := p.send(nil).(*event.RelayDelivered); !ok || len(p.bodies) != 3 {
		t.Fatalf("%d attempts, told %+v", len(p.bodies), p.told)
	}
	wh, _ := webhooks.NewWebhook(secret)
	for i, h := range p.headers {
		if err := wh.Verify([]byte(p.bodies[i]), h); err != nil {
			t.Errorf("attempt %d: %v", i+1, err)
		}
		if k := h.Get("Idempotency-Key"); k != "porch-1-4.announce.post-pier" {
			t.Errorf("attempt %d has the key %q", i+1, k)
		}
	}
}

func TestRetryAfterIsHonoured(t *testing.T) {
	p := &pier{t: t, answers: []int{429, 200}}
	start := time.Now()
	if _, ok := p.send(nil).(*event.RelayDelivered); !ok {
		t.Fatalf("told %+v", p.told)
	}
	if took := time.Since(start); took < 900*time.Millisecond {
		t.Errorf("it came back after %s; a second was asked for", took)
	}
}

func TestARefusalIsFinal(t *testing.T) {
	p := &pier{t: t, answers: []int{422}}
	d, ok := p.send(nil).(*event.RelayFailed)
	if !ok || d.Status != 422 || len(p.bodies) != 1 {
		t.Errorf("%d attempts, told %+v", len(p.bodies), p.told)
	}
}

func TestAPlaceThatIsSlowIsTriedAgainUnlessItIgnoresKeys(t *testing.T) {
	p := &pier{t: t, answers: []int{200}, slow: 2 * time.Second}
	go func() { // it gets quick again after the first try
		for p.count() < 1 {
			time.Sleep(10 * time.Millisecond)
		}
		p.mu.Lock()
		p.slow = 0
		p.mu.Unlock()
	}()
	if _, ok := p.send(nil).(*event.RelayDelivered); !ok || p.count() < 2 {
		t.Errorf("%d attempts, told %+v", p.count(), p.told)
	}
	q := &pier{t: t, answers: []int{200}, slow: 2 * time.Second}
	if d, ok := q.send(func(pl *housefile.Place) { pl.IgnoresKeys = true }).(*event.RelayUnclear); !ok || q.count() != 1 {
		t.Errorf("%d attempts, told %+v %+v", q.count(), d, q.told)
	}
}

func (p *pier) count() int {
	p.mu.Lock()
	defer p.mu.Unlock()
	return len(p.bodies)
}

func TestBackoffGrowsIsJitteredAndBounded(t *testing.T) {
	seen := map[time.Duration]bool{}
	for attempt := 1; attempt < 40; attempt++ {
		d := Backoff(attempt)
		base := min(2*time.Second<<min(attempt-1, 20), 2*time.Hour)
		if d < base*4/5 || d > base*6/5+time.Nanosecond {
			t.Errorf("attempt %d waits %s", attempt, d)
		}
		seen[Backoff(3)] = true
	}
	if len(seen) < 10 {
		t.Error("there is no jitter")
	}
}

func TestRetryAfterIsReadAsSecondsOrDateAndBounded(t *testing.T) {
	now := time.Date(2031, 5, 14, 19, 0, 0, 0, time.UTC)
	for h, want := range map[string]time.Duration{"": 0, "5": 5 * time.Second, "-5": 0, "soon": 0, "999999999": 6 * time.Hour, "Wed, 14 May 2031 19:00:30 GMT": 30 * time.Second, "Wed, 14 May 2031 18:00:00 GMT": 0} {
		if got := retryAfter(h, now); got != want {
			t.Errorf("%q: %s, want %s", h, got, want)
		}
	}
}
