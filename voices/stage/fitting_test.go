package stage

import (
	"context"
	"encoding/json"
	"io"
	"net/http"
	"net/http/httptest"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/coder/websocket"
	"github.com/coder/websocket/wsjson"

	"vividporch/core/event"
	"vividporch/core/fitting"
	"vividporch/core/output"
)

// bench is a lamp that knows but colours.
type bench struct {
	mu     sync.Mutex
	heard  []string
	glow   string
	broken bool
}

func (b *bench) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	body, _ := io.ReadAll(r.Body)
	var m struct{ C string }
	json.Unmarshal(body, &m)
	b.mu.Lock()
	defer b.mu.Unlock()
	if r.Header.Get("Lamp-Key") != secret {
		w.WriteHeader(http.StatusForbidden)
		return
	}
	if b.broken {
		io.WriteString(w, `{"ok":false,"why":"the bulb is gone"}`)
		return
	}
	was := b.glow
	b.glow = m.C
	b.heard = append(b.heard, m.C)
	json.NewEncoder(w).Encode(map[string]any{"ok": true, "was": was})
}

func (b *bench) said() []string {
	b.mu.Lock()
	defer b.mu.Unlock()
	return slices.Clone(b.heard)
}

var colours = fitting.Profile{Format: 1, Name: "bench", Title: "the bench lamp", Kind: output.Lights, Proof: fitting.Proof{How: fitting.Header, Header: "Lamp-Key"},
	Does:   map[string]fitting.Does{"light": {Body: []byte(`{"c":"{colour}"}`)}, fitting.Back: {Body: []byte(`{"c":"{was}"}`)}},
	Answer: fitting.Answer{Done: &fitting.Test{At: "/ok", Is: true}, Reason: "/why", Was: "/was"}}

func lamp(l output.Lamp) output.Told {
	return output.Told{Effect: output.KindLamp, Do: &l}
}

func until(t *testing.T, what string, so func() bool) {
	t.Helper()
	for end := time.Now().Add(20 * time.Second); !so(); time.Sleep(5 * time.Millisecond) {
		if time.Now().After(end) {
			t.Fatal("never: " + what)
		}
	}
}

func TestALampFlashesStepByStepAndGoesBackToWhatItWas(t *testing.T) {
	b := &bench{glow: "#0000ff"}
	srv := httptest.NewServer(b)
	defer srv.Close()
	s, outcomes := open(t)
	to := To{Address: srv.URL, Name: "bench-lamp", By: &colours}
	s.Do(to, decided("a", lamp(output.Lamp{Colour: "#ff0000", How: output.Flash, Every: 0.7, Seconds: 0.8})))
	done, ok := next(t, outcomes).(*event.ActDone)
	if !ok || done.Line != "a" || done.Text != "#ff0000" || done.Was != "#0000ff" {
		t.Fatalf("%+v", done)
	}
	until(t, "it is as it was", func() bool { return len(b.said()) == 4 })
	if got := strings.Join(b.said(), " "); got != "#ff0000 #000000 #ff0000 #0000ff" {
		t.Errorf("the lamp heard %s", got)
	}
	select {
	case d := <-outcomes:
		t.Errorf("it was done once, and told again: %+v", d)
	default:
	}
}

// What comes before the lamp has gone back takes its place at once, and what was before both comes back.
func TestTheNextThingEndsWhatALampDoes(t *testing.T) {
	b := &bench{glow: "#0000ff"}
	srv := httptest.NewServer(b)
	defer srv.Close()
	s, outcomes := open(t)
	to := To{Address: srv.URL, Name: "bench-lamp", By: &colours}
	s.Do(to, decided("a", lamp(output.Lamp{Colour: "#ff0000", How: output.Pulse, Every: 2, Seconds: 300})))
	next(t, outcomes)
	s.Do(to, decided("b", lamp(output.Lamp{Colour: "#00ff00", Seconds: 0.1})))
	next(t, outcomes)
	until(t, "it is as it was before both", func() bool { said := b.said(); return said[len(said)-1] == "#0000ff" })
	if said := b.said(); said[len(said)-2] != "#00ff00" {
		t.Errorf("the lamp heard %v", said)
	}
	b.mu.Lock()
	b.broken = true
	b.mu.Unlock()
	s.Do(to, decided("c", lamp(output.Lamp{Colour: "#00ff00", Seconds: 0.1})))
	if no, ok := next(t, outcomes).(*event.ActRefused); !ok || no.Reason != "the bulb is gone" {
		t.Errorf("%+v", no)
	}
}

func TestALampThatIsOnGoesBackAsTheHouseStops(t *testing.T) {
	b := &bench{glow: "#0000ff"}
	srv := httptest.NewServer(b)
	defer srv.Close()
	outcomes := make(chan event.Data, 9)
	ctx, stop := context.WithCancel(t.Context())
	s := New(ctx, Config{HTTP: http.DefaultClient, Channel: 1, Outcome: func(d event.Data) { outcomes <- d }, Secret: func(context.Context, string, string) (string, error) { return secret, nil }})
	s.Do(To{Address: srv.URL, Name: "bench-lamp", By: &colours}, decided("a", lamp(output.Lamp{Colour: "#ff0000", Seconds: 3600})))
	next(t, outcomes)
	stop()
	s.Wait()
	if got := strings.Join(b.said(), " "); got != "#ff0000 #0000ff" {
		t.Errorf("the lamp heard %s", got)
	}
}

// Whoever speaks over a WebSocket is asked for the answer to its own thing among all else that is said there.
func TestAPlayerIsGreetedToldAndItsAnswerFound(t *testing.T) {
	var heard []string
	srv := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		c, err := websocket.Accept(w, r, nil)
		if err != nil {
			return
		}
		defer c.CloseNow()
		var m map[string]any
		wsjson.Read(r.Context(), c, &m)
		if m["key"] != secret {
			wsjson.Write(r.Context(), c, map[string]any{"in": false})
			return
		}
		wsjson.Write(r.Context(), c, map[string]any{"in": true})
		wsjson.Read(r.Context(), c, &m)
		raw, _ := json.Marshal(m["do"])
		heard = append(heard, string(raw))
		wsjson.Write(r.Context(), c, map[string]any{"n": "of something else", "ok": false})
		wsjson.Write(r.Context(), c, map[string]any{"n": m["n"], "ok": m["do"] != "pause", "why": "nothing plays"})
	}))
	defer srv.Close()
	p := &fitting.Profile{Title: "the player", Kind: output.Player, Way: fitting.WebSocket, Greeting: &fitting.Greeting{Say: []byte(`{"key":"{secret}"}`), Welcome: &fitting.Test{At: "/in", Is: true}},
		Does:   map[string]fitting.Does{output.Pause: {Body: []byte(`{"n":"{id}","do":"pause"}`)}, output.Softer: {Body: []byte(`{"n":"{id}","do":"{percent}"}`)}},
		Answer: fitting.Answer{Of: &fitting.Test{At: "/n", Is: "{id}"}, Done: &fitting.Test{At: "/ok", Is: true}, Reason: "/why"}}
	s, outcomes := open(t)
	to := To{Address: "ws" + strings.TrimPrefix(srv.URL, "http"), Name: "player", By: p}
	s.Do(to, decided("a", output.Told{Effect: output.KindMusic, Do: &output.Music{Act: output.Softer, Percent: 30}}))
	if done, ok := next(t, outcomes).(*event.ActDone); !ok || done.Text != "softer" {
		t.Errorf("%+v", done)
	}
	s.Do(to, decided("b", output.Told{Effect: output.KindMusic, Do: &output.Music{Act: output.Pause}}))
	if no, ok := next(t, outcomes).(*event.ActRefused); !ok || no.Reason != "nothing plays" {
		t.Errorf("%+v", no)
	}
	s.Do(to, decided("c", output.Told{Effect: output.KindMusic, Do: &output.Music{Act: output.GoOn}}))
	if no, ok := next(t, outcomes).(*event.ActRefused); !ok || no.Reason != "The player cannot go on" {
		t.Errorf("%+v", no)
	}
	if got := strings.Join(heard, " "); got != `30 "pause"` {
		t.Errorf("it heard %s", got)
	}
	s.cfg.Secret = func(context.Context, string, string) (string, error) { return "another", nil }
	s.Do(to, decided("d", output.Told{Effect: output.KindMusic, Do: &output.Music{Act: output.Pause}}))
	if no, ok := next(t, outcomes).(*event.ActRefused); !ok || no.Reason != "it does not let the house in: look at its secret" {
		t.Errorf("%+v", no)
	}
}
