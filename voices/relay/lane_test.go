package relay

import (
	"context"
	"fmt"
	"net/http/httptest"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"vividporch/core/event"
	"vividporch/core/housefile"
	"vividporch/store"
	"vividporch/store/jobs"
	"vividporch/store/storetest"
)

// shore is a relay with a few places, each a pier of its own.
type shore struct {
	t      *testing.T
	st     *store.Store
	relay  *Relay
	mu     sync.Mutex
	places map[string]*housefile.Place
	told   []event.Data
}

func newShore(t *testing.T, piers map[string]*pier) *shore {
	t.Helper()
	s := &shore{t: t, st: storetest.Open(t), places: map[string]*housefile.Place{}}
	for name, p := range piers {
		srv := httptest.NewServer(p)
		t.Cleanup(srv.Close)
		s.places[name] = &housefile.Place{Name: name, URL: srv.URL, TimeoutSeconds: 5}
	}
	s.relay = s.again()
	return s
}

// again is a relay as a process makes it that starts anew.
func (s *shore) again() *Relay {
	r, err := New(Config{HTTP: httptest.NewServer(nil).Client(), Channel: 1, Store: s.st, Backoff: func(int) time.Duration { return 20 * time.Millisecond },
		Place: func(name string) *housefile.Place {
			s.mu.Lock()
			defer s.mu.Unlock()
			if p := s.places[name]; p != nil {
				is := *p
				return &is
			}
			return nil
		},
		Outcome: s.note})
	if err != nil {
		s.t.Fatal(err)
	}
	return r
}

func (s *shore) note(d event.Data) {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.told = append(s.told, d)
}

func (s *shore) start() {
	s.t.Helper()
	if err := s.relay.Start(context.Background()); err != nil {
		s.t.Fatal(err)
	}
	s.t.Cleanup(func() { s.relay.Stop(context.Background()) })
}

func (s *shore) change(name string, change func(*housefile.Place)) {
	s.mu.Lock()
	defer s.mu.Unlock()
	change(s.places[name])
}

// to puts posts on their way to a place.
func (s *shore) to(place string, lines ...string) {
	s.t.Helper()
	tx, err := s.st.SQL.BeginTx(s.t.Context(), nil)
	if err != nil {
		s.t.Fatal(err)
	}
	var list []jobs.Delivery
	for _, l := range lines {
		list = append(list, jobs.Delivery{Channel: 1, Line: l, Place: place, Text: l, Body: []byte(`"` + l + `"`), Made: time.Now()})
	}
	if err := s.relay.Add(s.t.Context(), tx, list); err != nil {
		s.t.Fatal(err)
	}
	if err := tx.Commit(); err != nil {
		s.t.Fatal(err)
	}
}

// state waits until a delivery stands so.
func (s *shore) state(line string, want jobs.State) jobs.Delivery {
	s.t.Helper()
	var last []jobs.Delivery
	for end := time.Now().Add(20 * time.Second); time.Now().Before(end); time.Sleep(10 * time.Millisecond) {
		var err error
		if last, err = s.st.Jobs.Find(s.t.Context(), 1, jobs.Search{Text: line, Most: 1}); err != nil {
			s.t.Fatal(err)
		}
		if len(last) == 1 && last[0].State == want {
			return last[0]
		}
	}
	s.t.Fatalf("%s is not %s: %+v", line, want, last)
	return jobs.Delivery{}
}

func lines(n int, of string) (out []string) {
	for i := range n {
		out = append(out, fmt.Sprintf("%s-%02d", of, i))
	}
	return out
}

func TestWhatWaitsBehindTheFirstGoesInItsOrderOnceThePlaceTakesIt(t *testing.T) {
	p := &pier{t: t, answers: []int{500, 502, 429, 200}}
	s := newShore(t, map[string]*pier{"pier": p})
	s.start()
	s.to("pier", lines(5, "a")...)
	s.to("pier", lines(5, "b")...)
	s.state("b-04", jobs.Delivered)
	want := []string{`"a-00"`, `"a-00"`, `"a-00"`}
	for _, l := range append(lines(5, "a"), lines(5, "b")...) {
		want = append(want, `"`+l+`"`)
	}
	if !slices.Equal(p.bodies, want) {
		t.Errorf("%q", p.bodies)
	}
}

func TestAPlaceThatIsGoneOrSlowStallsNoOther(t *testing.T) {
	slow, dead, well := &pier{t: t, answers: []int{200}, slow: 3 * time.Second}, &pier{t: t, answers: []int{500}}, &pier{t: t, answers: []int{200}}
	s := newShore(t, map[string]*pier{"slow": slow, "dead": dead, "well": well})
	s.start()
	for i := range 10 {
		for _, at := range []string{"slow", "dead", "well"} {
			s.to(at, fmt.Sprintf("%s-%02d", at, i))
		}
	}
	began := time.Now()
	s.state("well-09", jobs.Delivered)
	if took := time.Since(began); took > 2*time.Second {
		t.Errorf("what went to the place that is well took %s", took)
	}
	if d := s.state("dead-01", jobs.Waiting); d.Attempts != 0 {
		t.Errorf("behind the first of a place that is gone nothing is tried: %+v", d)
	}
}

func TestWhatIsRefusedIsPutAsideAndTheRestGoesOn(t *testing.T) {
	p := &pier{t: t, answers: []int{200, 403, 200}}
	s := newShore(t, map[string]*pier{"pier": p})
	s.start()
	s.to("pier", lines(3, "a")...)
	s.state("a-02", jobs.Delivered)
	if d := s.state("a-01", jobs.Failed); d.Status != 403 || d.Ended == nil {
		t.Errorf("%+v", d)
	}
	if ok, err := s.relay.SendAgain(t.Context(), "a-01", "pier"); !ok || err != nil {
		t.Fatal(ok, err)
	}
	s.state("a-01", jobs.Delivered)
	if ok, _ := s.relay.SendAgain(t.Context(), "a-01", "pier"); ok {
		t.Error("what is there is sent twice")
	}
}

func TestAPausedPlaceKeepsWhatGoesThereUntilItGoesOn(t *testing.T) {
	p := &pier{t: t, answers: []int{200}}
	s := newShore(t, map[string]*pier{"pier": p, "other": {t: t, answers: []int{200}}})
	s.change("pier", func(p *housefile.Place) { p.Paused = true })
	s.start()
	s.to("pier", lines(3, "a")...)
	s.to("other", "b-00")
	s.state("b-00", jobs.Delivered)
	if d := s.state("a-00", jobs.Waiting); d.Attempts != 0 || p.count() != 0 {
		t.Fatalf("%+v", d)
	}
	s.change("pier", func(p *housefile.Place) { p.Paused = false })
	if err := s.relay.LookAll(t.Context()); err != nil {
		t.Fatal(err)
	}
	s.state("a-02", jobs.Delivered)
}

func TestAProcessThatStartsAnewTakesOverWhatIsOnItsWay(t *testing.T) {
	p := &pier{t: t, answers: []int{200}}
	s := newShore(t, map[string]*pier{"pier": p})
	s.to("pier", lines(3, "a")...) // by a process that went down before it began
	if _, err := s.st.SQL.Exec(`UPDATE deliveries SET state = 'trying', attempts = 1 WHERE line = 'a-00'`); err != nil {
		t.Fatal(err)
	}
	s.relay = s.again()
	s.start()
	s.state("a-02", jobs.Delivered)
	s.state("a-00", jobs.Delivered) // under the same key: a place that knows keys takes it once
}

func TestWhatMayHaveArrivedBeforeACrashWaitsForAPersonWhereKeysAreIgnored(t *testing.T) {
	p := &pier{t: t, answers: []int{200}}
	s := newShore(t, map[string]*pier{"pier": p})
	s.change("pier", func(p *housefile.Place) { p.IgnoresKeys = true })
	s.to("pier", lines(2, "a")...)
	if _, err := s.st.SQL.Exec(`UPDATE deliveries SET state = 'trying', attempts = 1 WHERE line = 'a-00'`); err != nil {
		t.Fatal(err)
	}
	s.start()
	s.state("a-01", jobs.Delivered)
	s.state("a-00", jobs.Unclear)
	if p.count() != 1 {
		t.Errorf("%q", p.bodies)
	}
}

func TestALaneThatIsWokenWhileItIsBusyIsLookedAtAgainBeforeItRests(t *testing.T) {
	now := time.Now()
	later := now.Add(time.Hour)
	for _, come := range []struct {
		name string
		does func(*lane)
		ends bool
	}{
		{"nothing came", func(*lane) {}, true},
		{"somebody dropped the post that waits", (*lane).wake, false},
		{"a new one came", func(l *lane) { l.begin(now) }, false},
	} {
		t.Run(come.name, func(t *testing.T) {
			l := &lane{}
			l.begin(now)
			come.does(l) // after it was looked at what waits, and before the lane is given back
			if got := l.end(later); got != come.ends {
				t.Errorf("given back: %v", got)
			}
			if !come.ends && !l.end(later) {
				t.Error("looked at again, it is never given back")
			}
			if l.begin(now) {
				t.Error("it does not rest")
			}
			if l.wake(); !l.begin(now) {
				t.Error("woken, it still rests")
			}
		})
	}
}

func TestADroppedPostLetsTheNextGoAndWhatIsForgottenIsNotSent(t *testing.T) {
	p := &pier{t: t, answers: []int{500}}
	s := newShore(t, map[string]*pier{"pier": p})
	s.relay.cfg.Backoff = func(int) time.Duration { return time.Hour }
	s.start()
	s.to("pier", lines(3, "a")...)
	for end := time.Now().Add(20 * time.Second); p.count() == 0 && time.Now().Before(end); {
		time.Sleep(10 * time.Millisecond)
	}
	p.mu.Lock()
	p.answers = []int{200}
	p.mu.Unlock()
	if _, err := s.st.SQL.Exec(`UPDATE deliveries SET body = NULL WHERE line = 'a-01'`); err != nil {
		t.Fatal(err)
	}
	for range 100 { // not while it is being sent
		ok, err := s.relay.Drop(t.Context(), "a-00", "pier", "odalys")
		if err != nil {
			t.Fatal(err)
		}
		if ok {
			break
		}
		time.Sleep(20 * time.Millisecond)
	}
	s.state("a-02", jobs.Delivered)
	s.state("a-01", jobs.Dropped)
	if got := p.bodies[1:]; !slices.Equal(got, []string{`"a-02"`}) {
		t.Errorf("%q", got)
	}
}

func TestOnePostThatAPlaceChokesOnIsGivenUpAndDoesNotHoldTheRest(t *testing.T) {
	p := &pier{t: t, answers: []int{200}, chokes: "a-01"}
	s := newShore(t, map[string]*pier{"pier": p})
	s.start()
	s.to("pier", lines(4, "a")...)
	s.state("a-03", jobs.Delivered)
	s.state("a-00", jobs.Delivered)
	if d := s.state("a-01", jobs.Failed); d.Attempts < oddAfter || !strings.Contains(d.Reason, "it takes others") {
		t.Errorf("%+v", d)
	}
	if n := strings.Count(strings.Join(p.bodies, " "), "a-02"); n != 1 {
		t.Errorf("the one behind it was posted %d times", n)
	}
}

func TestAPlaceIsPostedToNoOftenerThanItTakes(t *testing.T) {
	l := &lane{}
	now := time.Date(2031, 5, 14, 19, 0, 0, 0, time.UTC)
	for i := range 3 {
		if at := l.waits(3, now); !at.IsZero() {
			t.Fatalf("post %d waits until %s", i+1, at)
		}
	}
	for range 2 { // asked again before its time, it is no later for it
		if at := l.waits(3, now.Add(5*time.Second)); !at.Equal(now.Add(20 * time.Second)) {
			t.Errorf("the fourth goes at %s", at)
		}
	}
	if at := l.waits(3, now.Add(20*time.Second)); !at.IsZero() {
		t.Errorf("and waits on until %s", at)
	}
	if at := l.waits(0, now.Add(20*time.Second)); !at.IsZero() {
		t.Errorf("without a limit it waits until %s", at)
	}
}

func TestWhatIsWrittenWhileAnotherTransactionFailsGoesAllTheSame(t *testing.T) {
	p := &pier{t: t, answers: []int{200}}
	s := newShore(t, map[string]*pier{"pier": p})
	s.start()
	tx, err := s.st.SQL.BeginTx(t.Context(), nil)
	if err != nil {
		t.Fatal(err)
	}
	if err := s.relay.Add(t.Context(), tx, []jobs.Delivery{{Channel: 1, Line: "lost", Place: "pier", Text: "lost", Body: []byte(`"lost"`), Made: time.Now()}}); err != nil {
		t.Fatal(err)
	}
	s.to("pier", "kept") // no job is asked for: one is there, as far as anybody knows
	tx.Rollback()
	s.state("kept", jobs.Delivered)
	if !slices.Equal(p.bodies, []string{`"kept"`}) {
		t.Errorf("%q", p.bodies)
	}
}
