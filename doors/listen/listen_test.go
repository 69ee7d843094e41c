package listen_test

import (
	"context"
	"fmt"
	"net/http"
	"net/http/httptest"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/coder/websocket"

	"vividporch/core/reading"
	"vividporch/doors/listen"
)

// heard gathers what an ear hears.
type heard struct {
	mu   sync.Mutex
	list []string
}

func (h *heard) take(_ context.Context, m []byte) {
	h.mu.Lock()
	defer h.mu.Unlock()
	h.list = append(h.list, string(m))
}

func (h *heard) all() []string {
	h.mu.Lock()
	defer h.mu.Unlock()
	return append([]string(nil), h.list...)
}

func until(t *testing.T, what string, so func() bool) {
	t.Helper()
	for end := time.Now().Add(20 * time.Second); !so(); time.Sleep(2 * time.Millisecond) {
		if time.Now().After(end) {
			t.Fatalf("never: %s", what)
		}
	}
}

// listens starts an ear to a stand-in service.
func listens(t *testing.T, l reading.Listen, token string, h *heard) *listen.Ear {
	t.Helper()
	ctx, cancel := context.WithCancel(t.Context())
	ear := listen.New(listen.Config{Listen: l, Token: token, HTTP: &http.Client{}, Hear: h.take, Pause: func(int) time.Duration { return 5 * time.Millisecond }})
	done := make(chan struct{})
	go func() { ear.Run(ctx); close(done) }()
	t.Cleanup(func() { cancel(); <-done })
	return ear
}

// service is a WebSocket's other side; a connection's number begins at 1.
func service(t *testing.T, serve func(n int, r *http.Request, c *websocket.Conn)) string {
	t.Helper()
	var n atomic.Int64
	srv := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		c, err := websocket.Accept(w, r, nil)
		if err != nil {
			return
		}
		defer c.CloseNow()
		serve(int(n.Add(1)), r, c)
	}))
	t.Cleanup(srv.Close)
	return "ws" + strings.TrimPrefix(srv.URL, "http")
}

func write(r *http.Request, c *websocket.Conn, text string) error {
	return c.Write(r.Context(), websocket.MessageText, []byte(text))
}

func TestAGreetingIsSaidWithItsTokenAndWhatComesIsHeard(t *testing.T) {
	greeted := make(chan string, 9)
	at := service(t, func(_ int, r *http.Request, c *websocket.Conn) {
		_, m, err := c.Read(r.Context())
		if err != nil {
			return
		}
		greeted <- string(m) + r.Header.Get("Authorization")
		write(r, c, `{"kind":"coin"}`)
		c.Read(r.Context())
	})
	var h heard
	ear := listens(t, reading.Listen{Address: at + "/hear", Greeting: `{"token":"{token}"}`}, `a "b`, &h)
	if got := <-greeted; got != `{"token":"a \"b"}` {
		t.Errorf("greeted with %s", got)
	}
	until(t, "it is heard", func() bool { return len(h.all()) == 1 && h.all()[0] == `{"kind":"coin"}` })
	if s := ear.Health(); s.State != listen.Open || s.LastIn.IsZero() {
		t.Errorf("%+v", s)
	}
}

func TestATokenGoesWhereItIsAskedForAndNowhereElse(t *testing.T) {
	got := make(chan string, 9)
	at := service(t, func(_ int, r *http.Request, c *websocket.Conn) {
		got <- r.Header.Get("Authorization") + "|" + r.URL.RawQuery
		c.Read(r.Context())
	})
	listens(t, reading.Listen{Address: at}, "low-water", &heard{})
	if x := <-got; x != "Bearer low-water|" {
		t.Errorf("got %s", x)
	}
	listens(t, reading.Listen{Address: at + "/?t={token}"}, "low water", &heard{})
	if x := <-got; x != "|t=low+water" {
		t.Errorf("got %s", x)
	}
}

func TestAWayThatIsLostIsOpenedAnewAndSaysWhy(t *testing.T) {
	at := service(t, func(n int, r *http.Request, c *websocket.Conn) {
		write(r, c, fmt.Sprint(n))
		if n < 3 {
			c.Close(websocket.StatusNormalClosure, "good night")
			return
		}
		c.Read(r.Context())
	})
	var h heard
	var mu sync.Mutex
	var why []string
	ctx, cancel := context.WithCancel(t.Context())
	defer cancel()
	go listen.New(listen.Config{Listen: reading.Listen{Address: at}, HTTP: &http.Client{}, Hear: h.take, Pause: func(int) time.Duration { return time.Millisecond },
		OnState: func(s listen.Health) {
			if s.State == listen.Lost {
				mu.Lock()
				why = append(why, s.Reason)
				mu.Unlock()
			}
		}}).Run(ctx)
	until(t, "three ways", func() bool { return strings.Join(h.all(), "") == "123" })
	mu.Lock()
	defer mu.Unlock()
	if len(why) != 2 || why[0] != "the service closed the way" {
		t.Errorf("%v", why)
	}
}

func TestASilentServiceIsGivenUp(t *testing.T) {
	var ways atomic.Int64
	hang := make(chan struct{})
	srv := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		c, err := websocket.Accept(w, r, nil)
		if err != nil {
			return
		}
		ways.Add(1)
		defer c.CloseNow()
		<-hang // nothing is read: no ping is answered
	}))
	t.Cleanup(srv.Close)
	t.Cleanup(func() { close(hang) })
	said := make(chan string, 100)
	ctx, cancel := context.WithCancel(t.Context())
	defer cancel()
	go listen.New(listen.Config{Listen: reading.Listen{Address: "ws" + strings.TrimPrefix(srv.URL, "http"), AliveSeconds: 0.05}, HTTP: &http.Client{}, Hear: (&heard{}).take,
		Pause: func(int) time.Duration { return time.Millisecond }, OnState: func(s listen.Health) {
			if s.State == listen.Lost {
				said <- s.Reason
			}
		}}).Run(ctx)
	if why := <-said; why != "the service fell silent" {
		t.Errorf("it says %q", why)
	}
	until(t, "it is tried again", func() bool { return ways.Load() >= 2 })
}

func TestWhatIsTooLongIsSkippedAndCountedAndTheRestIsHeard(t *testing.T) {
	at := service(t, func(_ int, r *http.Request, c *websocket.Conn) {
		write(r, c, `"before"`)
		write(r, c, `"`+strings.Repeat("x", 5<<20)+`"`)
		write(r, c, "no JSON at all \x01")
		write(r, c, `"after"`)
		c.Read(r.Context())
	})
	var h heard
	ear := listens(t, reading.Listen{Address: at}, "", &h)
	until(t, "what came after it is heard", func() bool { return len(h.all()) == 3 })
	if got := h.all(); got[0] != `"before"` || got[2] != `"after"` {
		t.Errorf("heard %q", got)
	}
	if s := ear.Health(); s.Missed != 1 || !strings.Contains(s.Why, "1 MiB") || s.State != listen.Open {
		t.Errorf("%+v", s)
	}
}

func TestTwoThousandMessagesInASecondAreAllHeardAndAFloodIsBoundedAndCounted(t *testing.T) {
	const many, flood = 2000, 30_000
	hold := make(chan struct{})
	at := service(t, func(_ int, r *http.Request, c *websocket.Conn) {
		for i := range many {
			write(r, c, fmt.Sprint(i))
		}
		<-hold
		for i := range flood {
			write(r, c, fmt.Sprint("f", i))
		}
		c.Read(r.Context())
	})
	var h heard
	slow := make(chan struct{})
	ctx, cancel := context.WithCancel(t.Context())
	defer cancel()
	ear := listen.New(listen.Config{Listen: reading.Listen{Address: at}, HTTP: &http.Client{}, Hear: func(ctx context.Context, m []byte) {
		if m[0] == 'f' {
			<-slow // the house is slow to take it
		}
		h.take(ctx, m)
	}})
	go ear.Run(ctx)
	until(t, "all are heard", func() bool { return len(h.all()) == many })
	for i, m := range h.all() {
		if m != fmt.Sprint(i) {
			t.Fatalf("the %d. is %s", i, m)
		}
	}
	close(hold)
	until(t, "what is too much is counted", func() bool { return ear.Health().Missed >= flood-listen.MostWaiting-1 })
	close(slow)
	until(t, "what was held is heard", func() bool { return int64(len(h.all()))+ear.Health().Missed == many+flood })
	if ear.Health().Why == "" {
		t.Error("it does not say why")
	}
}

func TestAnEventStreamIsHeardWithItsEventsNames(t *testing.T) {
	last := make(chan string, 9)
	var n atomic.Int64
	srv := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		last <- r.Header.Get("Last-Event-ID") + "|" + r.Header.Get("Authorization")
		w.Header().Set("Content-Type", "text/event-stream")
		if n.Add(1) == 1 {
			fmt.Fprint(w, ": good evening\n\nid: 7\nevent: coin\ndata: {\"pence\":\ndata: 1250}\n\ndata: no JSON\r\n\r\ndata: "+strings.Repeat("y", 2<<20)+"\n\nevent: unended\ndata: 1\n")
			return
		}
		fmt.Fprint(w, "data: true\n\n")
		w.(http.Flusher).Flush()
		<-r.Context().Done()
	}))
	t.Cleanup(srv.Close) // after the ear's end
	var h heard
	ear := listens(t, reading.Listen{Address: srv.URL + "/hear"}, "low-water", &h)
	until(t, "three are heard", func() bool { return len(h.all()) == 3 })
	for i, want := range []string{`{"event":"coin","id":"7","data":{"pence":1250}}`, `{"event":"message","id":"7","data":"no JSON"}`, `{"event":"message","data":true}`} {
		if got := strings.ReplaceAll(h.all()[i], "\n", ""); got != want {
			t.Errorf("heard %s", got)
		}
	}
	if a, b := <-last, <-last; a != "|Bearer low-water" || b != "7|Bearer low-water" {
		t.Errorf("it went on from %s, %s", a, b)
	}
	if s := ear.Health(); s.Missed != 1 {
		t.Errorf("%+v", s)
	}
}

func TestAnEventStreamThatFallsSilentOrIsNoneIsSaidSo(t *testing.T) {
	var n atomic.Int64
	srv := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		switch r.URL.Path {
		case "/silent":
			n.Add(1)
			w.Header().Set("Content-Type", "text/event-stream")
			w.(http.Flusher).Flush()
			<-r.Context().Done()
		case "/away":
			http.Error(w, "no", http.StatusForbidden)
		case "/page":
			fmt.Fprint(w, "<p>hello")
		}
	}))
	t.Cleanup(srv.Close)
	for path, want := range map[string]string{"/silent": "fell silent", "/away": "answered 403", "/page": "no event stream"} {
		ear := listens(t, reading.Listen{Address: srv.URL + path, AliveSeconds: 0.02}, "", &heard{})
		until(t, path, func() bool { return strings.Contains(ear.Health().Reason, want) })
	}
	until(t, "it is tried again", func() bool { return n.Load() >= 2 })
}

func TestATokenStandsInNoReason(t *testing.T) {
	ear := listens(t, reading.Listen{Address: "ws://127.0.0.1:1/?t={token}"}, "low-water-lamp", &heard{})
	until(t, "it fails", func() bool { return ear.Health().State == listen.Lost })
	if r := ear.Health().Reason; r == "" || strings.Contains(r, "low-water-lamp") {
		t.Errorf("it says %q", r)
	}
}
