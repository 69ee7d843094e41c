package irc

import (
	"bufio"
	"context"
	"crypto/rand"
	"crypto/tls"
	"crypto/x509"
	"encoding/base64"
	"errors"
	"fmt"
	"log/slog"
	mrand "math/rand/v2"
	"net"
	"strings"
	"sync"
	"time"

	"golang.org/x/time/rate"

	"vividporch/core/chat"
	"vividporch/core/plain"
)

// Config says how to reach a network and what it allows. Zero times take the
// defaults given.
type Config struct {
	Address  string // host:port
	TLS      *tls.Config
	Account  string        // login, for SASL and as the nick
	Password string        // SASL PLAIN; "" signs in nobody
	Fresh    func() string // the password as it is now, asked before each connection; nil for Password
	Refuse   string        // why the door is not to be opened; "" opens it
	Room     string        // "#tidepool_hours"

	Lines        int // allowed in Window; 0 is no limit
	Window       time.Duration
	MaxBytes     int    // of a line's text; 0 is what RFC 2812 leaves
	CommandSigns string // that may not start a continued line

	Dial        func(ctx context.Context, network, address string) (net.Conn, error) // nil: any address
	DialTimeout time.Duration                                                        // 10 s
	PingEvery   time.Duration                                                        // 60 s without traffic: own PING
	SilentAfter time.Duration                                                        // 20 s without an answer to it: reconnect
	BackoffMin  time.Duration                                                        // 500 ms, doubled at each failure, jittered
	BackoffMax  time.Duration                                                        // 1 min
	Again       time.Duration                                                        // 15 s after a refused line, and between tries for a nick: it is tried anew

	OnRaw   func(string)      // a message of the network, as it came; may be nil
	OnLine  func(chat.Line)   // somebody said something in the room
	OnRoom  func(chat.Moved)  // somebody came or went: a hint
	OnNick  func(chat.Nicked) // somebody has another nick
	OnState func(Health)      // the door's health changed
	Log     *slog.Logger
}

// State is how a door stands.
type State string

// The states of a door.
const (
	Opening State = "opening"
	Open    State = "open"
	Closed  State = "closed"  // being reopened
	Refused State = "refused" // needs somebody: banned, wrong password
)

// Health is what the house knows of a connection.
type Health struct {
	State       State     `json:"state"`
	Account     string    `json:"account"` // the nick it speaks as
	MaySpeak    bool      `json:"maySpeak"`
	MayModerate bool      `json:"mayModerate"`
	Reason      string    `json:"reason,omitempty"`
	LastIn      time.Time `json:"lastIn,omitzero"`
	LastOut     time.Time `json:"lastOut,omitzero"`
	Retry       time.Time `json:"retry,omitzero"` // when it is opened again
}

// Client keeps one connection to a network open. Its methods may be called from
// any goroutine.
type Client struct {
	cfg   Config
	flood *rate.Limiter

	mu      sync.Mutex
	health  Health
	conn    net.Conn
	nick    string
	joined  bool
	modered bool // the room lets only those with a voice speak
	voiced  bool
	oper    bool
	checks  map[string]chan struct{}
	caps    map[string]bool
}

// Errors of speaking.
var (
	ErrNotOpen  = errors.New("the door is not open")
	ErrMayNot   = errors.New("the house may not speak in this room")
	ErrNoAnswer = errors.New("the line did not come back")
)

// New makes a client; Run opens it.
func New(cfg Config) *Client {
	def := func(d *time.Duration, v time.Duration) {
		if *d == 0 {
			*d = v
		}
	}
	def(&cfg.DialTimeout, 10*time.Second)
	def(&cfg.PingEvery, 60*time.Second)
	def(&cfg.SilentAfter, 20*time.Second)
	def(&cfg.BackoffMin, 500*time.Millisecond)
	def(&cfg.BackoffMax, time.Minute)
	def(&cfg.Again, 15*time.Second)
	if cfg.Dial == nil {
		cfg.Dial = (&net.Dialer{}).DialContext
	}
	if cfg.Log == nil {
		cfg.Log = slog.New(slog.DiscardHandler)
	}
	c := &Client{cfg: cfg, flood: rate.NewLimiter(rate.Inf, 0), checks: map[string]chan struct{}{}}
	if cfg.Lines > 0 && cfg.Window > 0 {
		c.flood = rate.NewLimiter(rate.Every(cfg.Window/time.Duration(cfg.Lines)), cfg.Lines)
	}
	c.health = Health{State: Opening, Account: cfg.Account}
	return c
}

// Health tells how the door stands.
func (c *Client) Health() Health {
	c.mu.Lock()
	defer c.mu.Unlock()
	return c.health
}

func (c *Client) setState(s State, reason string) {
	c.mu.Lock()
	was := c.health
	c.health.State, c.health.Reason = s, reason
	c.health.Account = c.nick
	if c.nick == "" {
		c.health.Account = c.cfg.Account
	}
	c.health.MaySpeak = s == Open && (!c.modered || c.voiced || c.oper) && !strings.HasPrefix(reason, mayNot)
	c.health.MayModerate = s == Open && c.oper
	if s == Open {
		c.health.Retry = time.Time{}
	}
	now := c.health
	c.mu.Unlock()
	if c.cfg.OnState != nil && (was.State != now.State || was.MaySpeak != now.MaySpeak || was.MayModerate != now.MayModerate || was.Reason != now.Reason || was.Account != now.Account) {
		c.cfg.OnState(now)
	}
}

const mayNot = "the network refused a line: "

// refusal ends a connection and says why it will not open by trying again soon.
type refusal struct{ reason string }

func (r *refusal) Error() string { return r.reason }

// Run keeps the connection open until ctx ends: it connects, signs in, joins,
// and starts again with jittered backoff whenever that ends.
func (c *Client) Run(ctx context.Context) error {
	if c.cfg.Refuse != "" {
		c.setState(Refused, c.cfg.Refuse)
		<-ctx.Done()
		return ctx.Err()
	}
	wait := c.cfg.BackoffMin
	for {
		c.setState(Opening, "")
		started := time.Now()
		err := c.session(ctx)
		if ctx.Err() != nil {
			c.setState(Closed, "the house was closed")
			return ctx.Err()
		}
		state := Closed
		var r *refusal
		if errors.As(err, &r) {
			state = Refused
			wait = c.cfg.BackoffMax
		} else if time.Since(started) > 2*c.cfg.BackoffMax || c.wasOpen() {
			wait = c.cfg.BackoffMin
		}
		// Half fixed, half by chance: many houses must not return in step.
		pause := wait/2 + time.Duration(mrand.Int64N(int64(wait/2)+1))
		c.mu.Lock()
		c.joined = false
		c.health.Retry = time.Now().Add(pause)
		c.mu.Unlock()
		c.cfg.Log.Info("chat door closed", "address", c.cfg.Address, "reason", err, "retry", pause)
		c.setState(state, err.Error())
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(pause):
		}
		wait = min(wait*2, c.cfg.BackoffMax)
	}
}

func (c *Client) wasOpen() bool {
	c.mu.Lock()
	defer c.mu.Unlock()
	return c.joined
}

// session is one connection from dial to end. The error says why it ended.
func (c *Client) session(ctx context.Context) error {
	dctx, done := context.WithTimeout(ctx, c.cfg.DialTimeout)
	conn, err := c.cfg.Dial(dctx, "tcp", c.cfg.Address)
	done()
	if err != nil {
		return fmt.Errorf("no connection: %w", err)
	}
	if c.cfg.TLS != nil {
		conf := c.cfg.TLS.Clone()
		if conf.ServerName == "" {
			conf.ServerName, _, _ = net.SplitHostPort(c.cfg.Address)
		}
		tc := tls.Client(conn, conf)
		hctx, cancel := context.WithTimeout(ctx, c.cfg.DialTimeout)
		err := tc.HandshakeContext(hctx)
		cancel()
		if err != nil {
			conn.Close()
			return tlsFault(err, conf.ServerName)
		}
		conn = tc
	}
	sctx, cancel := context.WithCancel(ctx)
	defer cancel()
	go func() { <-sctx.Done(); conn.Close() }()
	c.mu.Lock()
	c.conn, c.nick, c.joined, c.modered, c.voiced, c.oper = conn, c.cfg.Account, false, false, false, false
	c.caps = map[string]bool{}
	c.mu.Unlock()
	defer func() {
		c.mu.Lock()
		if c.conn == conn {
			c.conn = nil
		}
		c.mu.Unlock()
	}()

	if c.cfg.Fresh != nil {
		c.cfg.Password = c.cfg.Fresh()
	}
	c.send("CAP", "LS", "302")
	c.send("NICK", c.cfg.Account)
	c.send("USER", c.cfg.Account, "0", "*", "the house of "+strings.TrimLeft(c.cfg.Room, "#&"))

	s := &talk{c: c, conn: conn, ctx: sctx}
	r := bufio.NewReaderSize(conn, MaxTags+MaxMessage)
	pinged := false
	for {
		wait := c.cfg.PingEvery
		if pinged {
			wait = c.cfg.SilentAfter
		}
		conn.SetReadDeadline(time.Now().Add(wait))
		raw, err := r.ReadSlice('\n')
		switch {
		case errors.Is(err, bufio.ErrBufferFull):
			// Longer than any line may be: skip to its end and go on.
			for errors.Is(err, bufio.ErrBufferFull) {
				_, err = r.ReadSlice('\n')
			}
			c.cfg.Log.Warn("chat line too long, skipped", "address", c.cfg.Address)
			if err == nil {
				continue
			}
			return fmt.Errorf("connection lost: %w", err)
		case isTimeout(err) && !pinged:
			pinged = true
			c.send("PING", "porch")
			continue
		case isTimeout(err):
			return errors.New("the server has gone silent")
		case err != nil:
			if s.last != "" {
				return errors.New(s.last)
			}
			return fmt.Errorf("connection lost: %w", err)
		}
		pinged = false
		c.mu.Lock()
		c.health.LastIn = time.Now()
		c.mu.Unlock()
		text := string(raw)
		if strings.HasPrefix(text, "HTTP/") {
			return &refusal{"this is a web server, not a chat network: write the address of its chat, which has a port of its own"}
		}
		m, err := ParseMessage(text)
		if c.cfg.OnRaw != nil && m.Command != "PING" && m.Command != "PONG" {
			c.cfg.OnRaw(strings.TrimRight(text, "\r\n"))
		}
		if err != nil {
			c.cfg.Log.Debug("chat line not understood", "error", err)
			continue
		}
		if err := s.take(&m); err != nil {
			return err
		}
	}
}

// tlsFault says what keeps TLS from being spoken, with what to do; it mends only when somebody does.
func tlsFault(err error, host string) error {
	var name x509.HostnameError
	var unknown x509.UnknownAuthorityError
	var invalid x509.CertificateInvalidError
	var record tls.RecordHeaderError
	switch {
	case errors.As(err, &name):
		return &refusal{fmt.Sprintf("the certificate there is not of %s: write the address it is of, or ask the network (%v)", host, name)}
	case errors.As(err, &unknown):
		return &refusal{"nobody that this machine trusts vouches for the certificate there: check the address, or ask the network"}
	case errors.As(err, &invalid):
		return &refusal{"the certificate there does not hold: " + invalid.Error()}
	case errors.As(err, &record):
		return &refusal{"the port does not speak TLS: take TLS off, or write the port that does (often 6697)"}
	}
	return fmt.Errorf("no TLS: the port does not answer as TLS does; take TLS off, or write the port that does (often 6697): %w", err)
}

func isTimeout(err error) bool {
	var ne net.Error
	return errors.As(err, &ne) && ne.Timeout()
}

// send writes one message; what cannot stand in a line is not sent.
func (c *Client) send(command string, params ...string) error {
	m := Message{Command: command, Params: params}
	if err := m.Check(); err != nil {
		return err
	}
	c.mu.Lock()
	conn := c.conn
	c.health.LastOut = time.Now()
	c.mu.Unlock()
	if conn == nil {
		return ErrNotOpen
	}
	conn.SetWriteDeadline(time.Now().Add(10 * time.Second))
	_, err := conn.Write([]byte(m.String() + "\r\n"))
	return err
}

// textBytes is how many bytes of text fit into one line to a target: 512 less the
// line end, the command, and the source the server puts before it when it passes
// the line on (nick!user@host, at most 63 bytes of host: RFC 2812 section 2.3.1).
func (c *Client) textBytes(target string) int {
	c.mu.Lock()
	nick := c.nick
	c.mu.Unlock()
	n := MaxMessage - 2 - len(":!@ PRIVMSG  :") - 2*len(nick) - 10 - 63 - len(target)
	if c.cfg.MaxBytes > 0 {
		n = min(n, c.cfg.MaxBytes)
	}
	return n
}

// Say says text in the room, cut into lines the network takes, within its flood
// limit. It returns how many lines were handed to the socket; an error with a
// count of zero means that nothing was said.
func (c *Client) Say(ctx context.Context, text string) (int, error) {
	c.mu.Lock()
	open, may, reason := c.joined && c.conn != nil, c.health.MaySpeak, c.health.Reason
	c.mu.Unlock()
	if !open {
		return 0, ErrNotOpen
	}
	if !may {
		if reason != "" {
			return 0, fmt.Errorf("%w: %s", ErrMayNot, reason)
		}
		return 0, ErrMayNot
	}
	parts := plain.Split(oneLine(text), c.textBytes(c.cfg.Room), c.cfg.CommandSigns)
	for i, part := range parts {
		if err := c.flood.Wait(ctx); err != nil {
			return i, err
		}
		if err := c.send("PRIVMSG", c.cfg.Room, part); err != nil {
			return i, err
		}
	}
	return len(parts), nil
}

// Tell says text to one person in private, cut into lines the network takes,
// within its flood limit.
func (c *Client) Tell(ctx context.Context, nick, text string) error {
	c.mu.Lock()
	open := c.joined && c.conn != nil
	c.mu.Unlock()
	if !open {
		return ErrNotOpen
	}
	for _, part := range plain.Split(oneLine(text), c.textBytes(nick), c.cfg.CommandSigns) {
		if err := c.flood.Wait(ctx); err != nil {
			return err
		}
		if err := c.send("PRIVMSG", nick, part); err != nil {
			return err
		}
	}
	return nil
}

// oneLine takes out what would end a line or start a client's command.
func oneLine(text string) string {
	return strings.Map(func(r rune) rune {
		if r == '\r' || r == '\n' || r == 0 || r == 1 {
			return ' '
		}
		return r
	}, text)
}

// Check says a line to the house's own account and waits for it to come back,
// which proves the door from end to end. It returns how long that took.
func (c *Client) Check(ctx context.Context) (time.Duration, error) {
	c.mu.Lock()
	nick, open := c.nick, c.joined
	c.mu.Unlock()
	if !open {
		return 0, ErrNotOpen
	}
	token := "porch check " + rand.Text()[:10]
	back := make(chan struct{}, 1)
	c.mu.Lock()
	c.checks[token] = back
	c.mu.Unlock()
	defer func() {
		c.mu.Lock()
		delete(c.checks, token)
		c.mu.Unlock()
	}()
	start := time.Now()
	if err := c.send("PRIVMSG", nick, token); err != nil {
		return 0, err
	}
	select {
	case <-back:
		return time.Since(start), nil
	case <-ctx.Done():
		return 0, ErrNoAnswer
	}
}

func saslPlain(account, password string) string {
	return base64.StdEncoding.EncodeToString([]byte(account + "\x00" + account + "\x00" + password))
}
