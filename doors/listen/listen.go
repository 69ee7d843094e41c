// Package listen hears another service that is listened to, rather than one that sends: over a
// WebSocket (RFC 6455) or an event stream (text/event-stream, as the HTML standard has it). It
// opens the way, says its greeting, keeps it alive, and opens it anew with growing pauses when it
// is lost.
//
// [Ear.Run] is all of it. What is heard waits in a bounded queue for whoever takes it; what is too
// much for that, or too long, is counted and said so.
package listen

import (
	"bufio"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"net/url"
	"strings"
	"sync"
	"sync/atomic"
	"time"

	"github.com/coder/websocket"

	"vividporch/core/reading"
)

// Limits of one way.
const (
	MostBytes   = 1 << 20 // of one message
	MostWaiting = 5000    // messages heard and not yet taken
	mostHeld    = 32 << 20
	openWithin  = 15 * time.Second
	sayWithin   = 10 * time.Second
	mostPause   = 2 * time.Minute
	mostSkip    = 64 << 20 // of a message that is too long, after which the way is given up
)

// State is how the way is.
type State string

// The states of a way.
const (
	Opening State = "opening"
	Open    State = "open"
	Lost    State = "lost" // it is opened anew after a pause
)

// Health is how the way is, and what was heard.
type Health struct {
	State  State
	Reason string
	LastIn time.Time
	Missed int64  // messages that were too long or too many
	Why    string // the last of them was missed
}

// Config is what an ear needs.
type Config struct {
	Listen  reading.Listen
	Token   string
	Refuse  string       // why the way is not opened at all; "" to open it
	HTTP    *http.Client // the way out: without a time limit of its own, and without redirects
	Hear    func(ctx context.Context, message []byte)
	OnState func(Health)                    // whenever the state changes; may be nil
	Pause   func(attempt int) time.Duration // between attempts; nil for [Pause]
}

// Ear listens to one service.
type Ear struct {
	cfg    Config
	queue  chan []byte
	held   atomic.Int64
	mu     sync.Mutex
	health Health
	lastID string // of an event stream: what was heard last
}

// New makes an ear; Run listens.
func New(cfg Config) *Ear {
	if cfg.Pause == nil {
		cfg.Pause = Pause
	}
	return &Ear{cfg: cfg, queue: make(chan []byte, MostWaiting), health: Health{State: Opening}}
}

// Pause is the wait before an attempt: a second, doubled each time up to two minutes, give or take
// a quarter.
func Pause(attempt int) time.Duration {
	d := min(time.Second<<min(attempt, 10), mostPause)
	return d*3/4 + time.Duration(rand.Int64N(int64(d)/2+1))
}

// Health is how it stands now.
func (e *Ear) Health() Health {
	e.mu.Lock()
	defer e.mu.Unlock()
	return e.health
}

func (e *Ear) change(f func(*Health)) {
	e.mu.Lock()
	was := e.health.State
	whyWas := e.health.Reason
	f(&e.health)
	now := e.health
	e.mu.Unlock()
	if (now.State != was || now.Reason != whyWas) && e.cfg.OnState != nil {
		e.cfg.OnState(now)
	}
}

// Run listens until ctx ends. What was heard by then and not yet taken is taken before it returns,
// unless that takes too long.
func (e *Ear) Run(ctx context.Context) {
	var wg sync.WaitGroup
	defer wg.Wait()
	heard := make(chan struct{})
	defer close(heard)
	wg.Go(func() { e.takeAll(context.WithoutCancel(ctx), heard) })
	if e.cfg.Refuse != "" {
		e.change(func(h *Health) { h.State, h.Reason = Lost, e.cfg.Refuse })
		<-ctx.Done()
		return
	}
	for attempt := 0; ctx.Err() == nil; attempt++ {
		began := time.Now()
		err := e.listen(ctx)
		if ctx.Err() != nil {
			return
		}
		if e.Health().State == Open && time.Since(began) > time.Minute {
			attempt = 0
		}
		e.change(func(h *Health) { h.State, h.Reason = Lost, e.why(err) })
		select {
		case <-ctx.Done():
		case <-time.After(e.cfg.Pause(attempt)):
		}
	}
}

// takeAll hands on what was heard, one after the other.
func (e *Ear) takeAll(ctx context.Context, end <-chan struct{}) {
	take := func(m []byte) {
		e.held.Add(-int64(len(m)))
		e.cfg.Hear(ctx, m)
	}
	for {
		select {
		case m := <-e.queue:
			take(m)
			continue
		case <-end:
		}
		for last := time.Now().Add(sayWithin); time.Now().Before(last); {
			select {
			case m := <-e.queue:
				take(m)
				continue
			default:
			}
			return
		}
		return
	}
}

// hear lets a message wait for whoever takes it.
func (e *Ear) hear(m []byte) {
	e.change(func(h *Health) { h.LastIn = time.Now() })
	if e.held.Load()+int64(len(m)) > mostHeld {
		e.missed("more came at once than could be taken")
		return
	}
	select {
	case e.queue <- m:
		e.held.Add(int64(len(m)))
	default:
		e.missed("more came at once than could be taken")
	}
}

func (e *Ear) missed(why string) {
	e.change(func(h *Health) { h.Missed++; h.Why = why })
}

// why says in a member's words why a way was lost, without the token that may stand in an address.
func (e *Ear) why(err error) string {
	text := err.Error()
	var u *url.Error
	if errors.As(err, &u) {
		text = u.Err.Error()
	}
	switch status := websocket.CloseStatus(err); {
	case status == websocket.StatusNormalClosure, status == websocket.StatusGoingAway, errors.Is(err, io.EOF):
		text = "the service closed the way"
	case status > 0:
		text = fmt.Sprintf("the service closed the way (%d)", status)
	case errors.Is(err, context.DeadlineExceeded):
		text = "the service does not answer"
	}
	if e.cfg.Token != "" {
		for _, t := range []string{e.cfg.Token, url.QueryEscape(e.cfg.Token), url.PathEscape(e.cfg.Token)} {
			text = strings.ReplaceAll(text, t, "••••")
		}
	}
	return text
}

// alive is how often the way is kept alive.
func (e *Ear) alive() time.Duration {
	s := e.cfg.Listen.AliveSeconds
	if s <= 0 {
		s = reading.UsualAlive
	}
	return time.Duration(s * float64(time.Second))
}

var errSilent = errors.New("the service fell silent")

const tokenMark = "{token}"

// listen opens the way once and listens until it is lost.
func (e *Ear) listen(ctx context.Context) error {
	e.change(func(h *Health) {
		if h.State != Lost { // one that is lost is lost until it is open again
			h.State = Opening
		}
	})
	l, head := e.cfg.Listen, http.Header{}
	if e.cfg.Token != "" && !strings.Contains(l.Address, tokenMark) && !strings.Contains(l.Greeting, tokenMark) {
		head.Set("Authorization", "Bearer "+e.cfg.Token)
	}
	head.Set("User-Agent", "vivid-porch")
	at := strings.ReplaceAll(l.Address, tokenMark, url.QueryEscape(e.cfg.Token))
	if strings.HasPrefix(at, "ws") {
		return e.webSocket(ctx, at, head)
	}
	return e.eventStream(ctx, at, head)
}

func (e *Ear) webSocket(ctx context.Context, at string, head http.Header) error {
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	dctx, ready := context.WithTimeout(ctx, openWithin)
	conn, res, err := websocket.Dial(dctx, at, &websocket.DialOptions{HTTPClient: e.cfg.HTTP, HTTPHeader: head})
	ready()
	if err != nil {
		if res != nil && res.StatusCode != http.StatusSwitchingProtocols {
			return fmt.Errorf("the service answered %d", res.StatusCode)
		}
		return err
	}
	defer conn.CloseNow()
	conn.SetReadLimit(-1) // what is too long is skipped here, and the way goes on
	if g := e.cfg.Listen.Greeting; g != "" {
		// As JSON text where the greeting is JSON: whatever the token holds.
		if err := say(ctx, conn, filled(g, e.cfg.Token)); err != nil {
			return err
		}
	}
	e.change(func(h *Health) { h.State, h.Reason = Open, "" })
	var silent atomic.Bool
	go e.keepAlive(ctx, conn, &silent)
	for {
		m, err := e.message(ctx, conn)
		if silent.Load() {
			return errSilent
		}
		if err != nil {
			return err
		}
		if m != nil {
			e.hear(m)
		}
	}
}

// filled puts the token into a greeting: as a JSON string's inside where the greeting is JSON.
func filled(greeting, token string) string {
	if json.Valid([]byte(greeting)) {
		raw, _ := json.Marshal(token)
		token = string(raw[1 : len(raw)-1])
	}
	return strings.ReplaceAll(greeting, tokenMark, token)
}

func say(ctx context.Context, conn *websocket.Conn, text string) error {
	ctx, cancel := context.WithTimeout(ctx, sayWithin)
	defer cancel()
	return conn.Write(ctx, websocket.MessageText, []byte(text))
}

// keepAlive says something now and then, and gives the way up when a ping is not answered.
func (e *Ear) keepAlive(ctx context.Context, conn *websocket.Conn, silent *atomic.Bool) {
	tick := time.NewTicker(e.alive())
	defer tick.Stop()
	for {
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
		}
		var err error
		if text := e.cfg.Listen.Alive; text != "" {
			err = say(ctx, conn, text)
		}
		if err == nil {
			pctx, cancel := context.WithTimeout(ctx, min(e.alive(), sayWithin))
			err = conn.Ping(pctx)
			cancel()
		}
		if err != nil && ctx.Err() == nil {
			silent.Store(true)
			conn.CloseNow()
			return
		}
	}
}

// message reads one message; nil for one that was too long.
func (e *Ear) message(ctx context.Context, conn *websocket.Conn) ([]byte, error) {
	_, r, err := conn.Reader(ctx)
	if err != nil {
		return nil, err
	}
	m, err := io.ReadAll(io.LimitReader(r, MostBytes+1))
	if err != nil || len(m) <= MostBytes {
		return m, err
	}
	e.missed("a message was longer than 1 MiB")
	if n, err := io.Copy(io.Discard, io.LimitReader(r, mostSkip)); err != nil || n == mostSkip {
		return nil, errors.Join(err, errors.New("the service does not end its message"))
	}
	return nil, nil
}

// eventStream listens to an event stream. Each event is a message {"event", "id", "data"}: its type
// stands beside its data, where one can point at both.
func (e *Ear) eventStream(ctx context.Context, at string, head http.Header) error {
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	req, err := http.NewRequestWithContext(ctx, http.MethodGet, at, nil)
	if err != nil {
		return err
	}
	req.Header = head
	req.Header.Set("Accept", "text/event-stream")
	if e.lastID != "" {
		req.Header.Set("Last-Event-ID", e.lastID)
	}
	slow := time.AfterFunc(openWithin, cancel)
	res, err := e.cfg.HTTP.Do(req)
	if !slow.Stop() {
		return context.DeadlineExceeded
	}
	if err != nil {
		return err
	}
	defer res.Body.Close()
	if res.StatusCode != http.StatusOK {
		return fmt.Errorf("the service answered %d", res.StatusCode)
	}
	if kind := res.Header.Get("Content-Type"); !strings.HasPrefix(kind, "text/event-stream") {
		return errors.New("the service answered with no event stream")
	}
	e.change(func(h *Health) { h.State, h.Reason = Open, "" })
	var silent atomic.Bool
	quiet := time.AfterFunc(2*e.alive(), func() { silent.Store(true); cancel() })
	defer quiet.Stop()
	err = e.events(res.Body, func() { quiet.Reset(2 * e.alive()) })
	if silent.Load() {
		return errSilent
	}
	return err
}

func (e *Ear) events(body io.Reader, came func()) error {
	r := bufio.NewReaderSize(body, 64<<10)
	var data strings.Builder
	kind, id, long, any := "", "", false, false
	for {
		line, err := lineOf(r)
		if err != nil && !errors.Is(err, errLong) {
			return err
		}
		came()
		if errors.Is(err, errLong) || data.Len()+len(line) > MostBytes {
			long = true
			continue
		}
		name, value, _ := strings.Cut(line, ":")
		value = strings.TrimPrefix(value, " ")
		switch {
		case line == "": // the event ends
			switch {
			case long:
				e.missed("a message was longer than 1 MiB")
			case any:
				e.hear(asMessage(kind, id, strings.TrimSuffix(data.String(), "\n")))
				if id != "" {
					e.lastID = id
				}
			}
			data.Reset()
			kind, long, any = "", false, false
		case name == "data":
			data.WriteString(value + "\n")
			any = true
		case name == "event":
			kind = value
		case name == "id" && !strings.Contains(value, "\x00"):
			id = value
		}
	}
}

var errLong = errors.New("listen: a line is too long")

// lineOf reads a line of an event stream. Of one that is too long the rest is skipped.
func lineOf(r *bufio.Reader) (string, error) {
	var out []byte
	for {
		part, err := r.ReadSlice('\n')
		if len(out) <= MostBytes {
			out = append(out, part...)
		}
		switch {
		case errors.Is(err, bufio.ErrBufferFull):
			continue
		case err != nil:
			return "", err
		case len(out) > MostBytes:
			return "", errLong
		}
		return strings.TrimRight(string(out), "\r\n"), nil
	}
}

// asMessage is an event of a stream as a message: its data as JSON, or as a text where it is none.
func asMessage(kind, id, data string) []byte {
	if kind == "" {
		kind = "message"
	}
	out := struct {
		Event string          `json:"event"`
		ID    string          `json:"id,omitempty"`
		Data  json.RawMessage `json:"data"`
	}{Event: kind, ID: id, Data: json.RawMessage(data)}
	if !json.Valid(out.Data) {
		out.Data, _ = json.Marshal(data)
	}
	raw, _ := json.Marshal(out)
	return raw
}
