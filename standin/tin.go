package standin

import (
	"bytes"
	"context"
	"crypto/hmac"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"strings"
	"sync"
	"time"

	"github.com/coder/websocket"
)

// TinToken lets somebody listen to the stand-in Tin.
const TinToken = "lid-of-the-tin-7"

// Tin is a stand-in tip-and-raffle service with a JSON of its own: it sends its messages signed to a
// hook, and can be listened to over a WebSocket and an event stream.
type Tin struct {
	clock func() time.Time

	mu           sync.Mutex
	n            int
	hook, secret string
	said         string // what the hook last answered
	ears         map[chan []byte]bool
	told         []string // its messages, newest last
}

// tinKept is how many messages a listener may be behind, and how many are shown.
const tinKept = 256

// TinState is how The Tin stands.
type TinState struct {
	Hook string   `json:"hook"`
	Said string   `json:"said"`
	Ears int      `json:"ears"`
	Told []string `json:"told"`
}

// State is how it stands.
func (t *Tin) State() TinState {
	t.mu.Lock()
	defer t.mu.Unlock()
	return TinState{t.hook, t.said, len(t.ears), append([]string{}, t.told[max(0, len(t.told)-10):]...)}
}

// SetHook says where its messages are sent from now on, and what they are signed with.
func (t *Tin) SetHook(hook, secret string) {
	t.mu.Lock()
	defer t.mu.Unlock()
	t.hook, t.secret = hook, secret
}

// Coin is a tip of so many pence.
func (t *Tin) Coin(v Viewer, pence int64, says string) {
	t.tell("coin", map[string]any{"from": map[string]any{"id": v.ID, "called": v.Name}, "coin": map[string]any{"pence": pence, "of": "gbp"}, "says": says})
}

// Raffle is that somebody won something.
func (t *Tin) Raffle(v Viewer, prize string) {
	t.tell("raffle", map[string]any{"winner": map[string]any{"id": v.ID, "called": v.Name}, "prize": prize, "tickets": 4})
}

// Lid is a message that nobody has a use for.
func (t *Tin) Lid(open bool) { t.tell("lid", map[string]any{"open": open}) }

func (t *Tin) tell(kind string, data map[string]any) {
	t.mu.Lock()
	t.n++
	data["kind"], data["no"], data["at"] = kind, fmt.Sprintf("%c-%d", kind[0], t.n), t.clock().Unix()
	raw, _ := json.Marshal(data)
	t.told = append(t.told, string(raw))
	hook, secret := t.hook, t.secret
	for ear := range t.ears {
		select {
		case ear <- raw:
		default: // whoever is so far behind has lost it
		}
	}
	t.mu.Unlock()
	if hook != "" {
		go t.send(hook, secret, raw)
	}
}

// send hands a message to the hook, and again until it is taken or refused.
func (t *Tin) send(hook, secret string, raw []byte) {
	mac := hmac.New(sha256.New, []byte(secret))
	mac.Write(raw)
	for range 20 {
		ctx, cancel := context.WithTimeout(context.Background(), 10*time.Second)
		req, err := http.NewRequestWithContext(ctx, http.MethodPost, hook, bytes.NewReader(raw))
		if err != nil {
			cancel()
			return
		}
		req.Header.Set("Content-Type", "application/json")
		req.Header.Set("X-Tin-Signature", "sha256="+hex.EncodeToString(mac.Sum(nil)))
		status, said := 0, ""
		if res, err := http.DefaultClient.Do(req); err != nil {
			said = err.Error()
		} else {
			body, _ := io.ReadAll(io.LimitReader(res.Body, 2000))
			res.Body.Close()
			status, said = res.StatusCode, fmt.Sprintf("%d %s", res.StatusCode, body)
		}
		cancel()
		t.mu.Lock()
		t.said = said
		t.mu.Unlock()
		if status != 0 && status != http.StatusServiceUnavailable && status != http.StatusTooManyRequests {
			return
		}
		time.Sleep(500 * time.Millisecond)
	}
}

func (t *Tin) listen() (ear chan []byte, done func()) {
	ear = make(chan []byte, tinKept)
	t.mu.Lock()
	defer t.mu.Unlock()
	if t.ears == nil {
		t.ears = map[chan []byte]bool{}
	}
	t.ears[ear] = true
	return ear, func() {
		t.mu.Lock()
		defer t.mu.Unlock()
		delete(t.ears, ear)
	}
}

// hear is the WebSocket: it wants to be greeted with {"open":"the tin","token":"…"}, and welcomes
// whoever knows the token.
func (t *Tin) hear(w http.ResponseWriter, r *http.Request) {
	c, err := websocket.Accept(w, r, nil)
	if err != nil {
		return
	}
	defer c.CloseNow()
	var greeting struct{ Open, Token string }
	_, raw, err := c.Read(r.Context())
	if err != nil || json.Unmarshal(raw, &greeting) != nil || greeting.Token != TinToken {
		c.Close(websocket.StatusPolicyViolation, "greet with the token")
		return
	}
	ear, done := t.listen()
	defer done()
	welcome, _ := json.Marshal(map[string]any{"kind": "welcome", "you": greeting.Token, "session": map[string]any{"token": "s-" + greeting.Token}})
	ctx := c.CloseRead(r.Context())
	if c.Write(ctx, websocket.MessageText, welcome) != nil {
		return
	}
	for {
		select {
		case <-ctx.Done():
			return
		case m := <-ear:
			if c.Write(ctx, websocket.MessageText, m) != nil {
				return
			}
		}
	}
}

// stream is the event stream, for whoever has the token.
func (t *Tin) stream(w http.ResponseWriter, r *http.Request) {
	if strings.TrimPrefix(r.Header.Get("Authorization"), "Bearer ") != TinToken {
		http.Error(w, "who is it?", http.StatusUnauthorized)
		return
	}
	ear, done := t.listen()
	defer done()
	w.Header().Set("Content-Type", "text/event-stream")
	flush := func() { http.NewResponseController(w).Flush() }
	fmt.Fprint(w, ": the lid is off\n\n")
	flush()
	still := time.NewTicker(15 * time.Second)
	defer still.Stop()
	for {
		select {
		case <-r.Context().Done():
			return
		case <-still.C:
			fmt.Fprint(w, ": still here\n\n")
		case m := <-ear:
			var head struct{ Kind, No string }
			json.Unmarshal(m, &head)
			fmt.Fprintf(w, "event: %s\nid: %s\ndata: %s\n\n", head.Kind, head.No, m)
		}
		flush()
	}
}
