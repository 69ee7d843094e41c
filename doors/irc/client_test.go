package irc_test

import (
	"bufio"
	"context"
	"crypto/tls"
	"errors"
	"fmt"
	"net"
	"net/http"
	"net/http/httptest"
	"slices"
	"strings"
	"sync"
	"syscall"
	"testing"
	"time"

	"vividporch/core/chat"
	"vividporch/doors/irc"
	"vividporch/standin"
	"vividporch/stocktest"
)

// door is a client under test with all it saw.
type door struct {
	*irc.Client
	mu    sync.Mutex
	lines []chat.Line
	moved []chat.Moved
}

func open(t *testing.T, cfg irc.Config) *door {
	t.Helper()
	d := &door{}
	cfg.OnLine = func(l chat.Line) { d.mu.Lock(); d.lines = append(d.lines, l); d.mu.Unlock() }
	cfg.OnRoom = func(m chat.Moved) { d.mu.Lock(); d.moved = append(d.moved, m); d.mu.Unlock() }
	cfg.BackoffMin = 100 * time.Millisecond
	d.Client = irc.New(cfg)
	ctx, cancel := context.WithCancel(context.Background())
	done := make(chan struct{})
	go func() { d.Run(ctx); close(done) }()
	t.Cleanup(func() { cancel(); <-done })
	return d
}

func eventually(t *testing.T, what string, ok func() bool) {
	t.Helper()
	for end := time.Now().Add(20 * time.Second); time.Now().Before(end); time.Sleep(10 * time.Millisecond) {
		if ok() {
			return
		}
	}
	t.Fatalf("never: %s", what)
}

func (d *door) is(s irc.State, reason string) func() bool {
	return func() bool { h := d.Health(); return h.State == s && strings.Contains(h.Reason, reason) }
}

func (d *door) heard(text string) func() bool {
	return func() bool {
		d.mu.Lock()
		defer d.mu.Unlock()
		for _, l := range d.lines {
			if l.Text == text {
				return true
			}
		}
		return false
	}
}

// hand is a bare connection, as a person with an IRC client would have.
type hand struct {
	t    *testing.T
	conn net.Conn
	mu   sync.Mutex
	seen []string
}

func connect(t *testing.T, addr, nick string) *hand {
	t.Helper()
	conn, err := net.Dial("tcp", addr)
	if err != nil {
		t.Fatal(err)
	}
	h := &hand{t: t, conn: conn}
	t.Cleanup(func() { conn.Close() })
	go func() {
		sc := bufio.NewScanner(conn)
		for sc.Scan() {
			if rest, ok := strings.CutPrefix(sc.Text(), "PING "); ok {
				fmt.Fprintf(conn, "PONG %s\r\n", rest)
			}
			h.mu.Lock()
			h.seen = append(h.seen, sc.Text())
			h.mu.Unlock()
		}
	}()
	h.do("NICK %s", nick)
	h.do("USER %s 0 * :%s", nick, nick)
	eventually(t, nick+" is welcome", h.saw(" 001 "))
	return h
}

func (h *hand) do(format string, args ...any) { fmt.Fprintf(h.conn, format+"\r\n", args...) }

func (h *hand) saw(part string) func() bool { return func() bool { return h.count(part) > 0 } }

func (h *hand) count(part string) int {
	h.mu.Lock()
	defer h.mu.Unlock()
	n := 0
	for _, s := range h.seen {
		if strings.Contains(s, part) {
			n++
		}
	}
	return n
}

func TestAgainstAStockServer(t *testing.T) {
	stock := stocktest.IRC(t)
	addr, secure, roots, server := stock.Plain, stock.Secure, stock.Roots, stock.Process
	const room = "#tidepool"
	ada := connect(t, addr, "ada")
	ada.do("JOIN %s", room)
	eventually(t, "ada is in the room", ada.saw(" 366 "))

	t.Run("it registers, joins, hears and is heard", func(t *testing.T) {
		d := open(t, irc.Config{Address: addr, Account: "lamp", Room: room})
		eventually(t, "open", d.is(irc.Open, ""))
		ada.do("PRIVMSG %s :hello house", room)
		eventually(t, "the line is heard", d.heard("hello house"))
		if n, err := d.Say(t.Context(), "hello ada"); err != nil || n != 1 {
			t.Fatal(n, err)
		}
		eventually(t, "ada hears it", ada.saw("PRIVMSG #tidepool :hello ada"))
		if took, err := d.Check(t.Context()); err != nil || took <= 0 {
			t.Errorf("the check did not come back: %v", err)
		}
		if h := d.Health(); !h.MaySpeak || h.MayModerate || h.Account != "lamp" || h.LastIn.IsZero() || h.LastOut.IsZero() {
			t.Errorf("health: %+v", h)
		}
	})
	t.Run("it speaks TLS and checks the certificate", func(t *testing.T) {
		d := open(t, irc.Config{Address: secure, TLS: &tls.Config{RootCAs: roots}, Account: "securelamp", Room: room})
		eventually(t, "open", d.is(irc.Open, ""))
		bad := open(t, irc.Config{Address: secure, TLS: &tls.Config{}, Account: "fooled", Room: room})
		eventually(t, "an unknown certificate is refused", bad.is(irc.Refused, "nobody that this machine trusts vouches for the certificate"))
		_, port, _ := net.SplitHostPort(secure)
		other := open(t, irc.Config{Address: "localhost:" + port, TLS: &tls.Config{RootCAs: roots}, Account: "elsewhere", Room: room})
		eventually(t, "a certificate of another address is refused", other.is(irc.Refused, "is not of localhost"))
		late := open(t, irc.Config{Address: secure, TLS: &tls.Config{RootCAs: roots, Time: func() time.Time { return time.Now().AddDate(1, 0, 0) }}, Account: "late", Room: room})
		eventually(t, "a certificate that has ended is refused", late.is(irc.Refused, "does not hold"))
		plain := open(t, irc.Config{Address: addr, TLS: &tls.Config{RootCAs: roots}, Account: "plainly", Room: room, DialTimeout: time.Second})
		eventually(t, "a port without TLS is named", plain.is(irc.Closed, "take TLS off"))
	})
	t.Run("a nick in use is given a number", func(t *testing.T) {
		d := open(t, irc.Config{Address: addr, Account: "ada", Room: room})
		eventually(t, "open", d.is(irc.Open, ""))
		if a := d.Health().Account; a != "ada_1" {
			t.Errorf("it speaks as %q", a)
		}
	})
	t.Run("kicked, it says by whom and comes back", func(t *testing.T) {
		d := open(t, irc.Config{Address: addr, Account: "kicked", Room: room})
		eventually(t, "open", d.is(irc.Open, ""))
		ada.do("KICK %s kicked :mind the step", room)
		eventually(t, "the kick shows", d.is(irc.Closed, "kicked from the room by ada: mind the step"))
		if _, err := d.Say(t.Context(), "still here?"); !errors.Is(err, irc.ErrNotOpen) {
			t.Errorf("it spoke after the kick: %v", err)
		}
		eventually(t, "it is back", d.is(irc.Open, ""))
	})
	t.Run("banned, it is refused with the reason", func(t *testing.T) {
		ada.do("MODE %s +b banned!*@*", room)
		d := open(t, irc.Config{Address: addr, Account: "banned", Room: room})
		eventually(t, "the ban shows", d.is(irc.Refused, "cannot enter #tidepool"))
	})
	t.Run("a moderated room shows that it may not speak, until it may", func(t *testing.T) {
		d := open(t, irc.Config{Address: addr, Account: "muted", Room: room})
		eventually(t, "open", d.is(irc.Open, ""))
		ada.do("MODE %s +m", room)
		eventually(t, "it may not speak", func() bool { return !d.Health().MaySpeak })
		if _, err := d.Say(t.Context(), "hm"); !errors.Is(err, irc.ErrMayNot) {
			t.Errorf("got %v", err)
		}
		ada.do("MODE %s +v muted", room)
		eventually(t, "it may again", func() bool { return d.Health().MaySpeak })
		ada.do("MODE %s +o muted", room)
		eventually(t, "it may moderate", func() bool { return d.Health().MayModerate })
		ada.do("MODE %s -m", room)
	})
	t.Run("a long line is cut to what the network takes", func(t *testing.T) {
		d := open(t, irc.Config{Address: addr, Account: "longlamp", Room: room})
		eventually(t, "open", d.is(irc.Open, ""))
		long := strings.Repeat("👩‍🔬 limpets ", 60)
		if _, err := d.Say(t.Context(), long); err != nil {
			t.Fatal(err)
		}
		pieces := func() string {
			ada.mu.Lock()
			defer ada.mu.Unlock()
			var got []string
			for _, s := range ada.seen {
				if _, text, ok := strings.Cut(s, "PRIVMSG "+room+" :"); ok && strings.HasPrefix(s, ":longlamp!") {
					got = append(got, text)
				}
			}
			return strings.Join(got, " ")
		}
		eventually(t, "the pieces are the whole", func() bool { return pieces() == strings.TrimSpace(long) })
	})
	t.Run("it keeps to the door's flood limit", func(t *testing.T) {
		d := open(t, irc.Config{Address: addr, Account: "calm", Room: room, Lines: 3, Window: 600 * time.Millisecond})
		eventually(t, "open", d.is(irc.Open, ""))
		start := time.Now()
		for i := range 6 {
			if _, err := d.Say(t.Context(), fmt.Sprint("calm line ", i)); err != nil {
				t.Fatal(err)
			}
		}
		if took := time.Since(start); took < 550*time.Millisecond {
			t.Errorf("six lines left in %s", took)
		}
		eventually(t, "the server took them all", func() bool { return ada.count("calm line ") == 6 })
	})
	t.Run("a server that falls silent is noticed, left, and found again", func(t *testing.T) {
		d := open(t, irc.Config{Address: addr, Account: "patient", Room: room, PingEvery: time.Second, SilentAfter: time.Second}) // a sign-on on a busy machine takes most of one
		eventually(t, "open", d.is(irc.Open, ""))
		server.Signal(syscall.SIGSTOP)
		eventually(t, "the silence is named", d.is(irc.Closed, "gone silent"))
		server.Signal(syscall.SIGCONT)
		eventually(t, "open again", d.is(irc.Open, ""))
	})
}

// mute is a server that takes connections and says nothing.
func TestASilentServerIsNoticedAndLeft(t *testing.T) {
	ln, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	defer ln.Close()
	d := open(t, irc.Config{Address: ln.Addr().String(), Account: "lamp", Room: "#r", PingEvery: 100 * time.Millisecond, SilentAfter: 100 * time.Millisecond})
	eventually(t, "the silence is named", d.is(irc.Closed, "gone silent"))
}

func network(t *testing.T) *standin.Chat {
	t.Helper()
	c := &standin.Chat{Room: "#tidepool_hours", Users: map[string]string{"lamp": "oil"},
		Tags: standin.ChatTags{ID: "street/id", Name: "street/name", Roles: "street/roles", Words: map[string]string{"moderator": "mate"}}}
	if err := c.Listen("127.0.0.1:0"); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(c.Close)
	return c
}

func TestTagsCapabilitiesAndSignInAgainstTheStandIn(t *testing.T) {
	c := network(t)
	d := open(t, irc.Config{Address: c.Address(), Account: "lamp", Password: "oil", Room: c.Room})
	eventually(t, "open", d.is(irc.Open, ""))
	if h := d.Health(); !h.MayModerate {
		t.Errorf("whoever signs in moderates there: %+v", h)
	}
	c.Say(standin.Viewer{ID: "8841", Login: "limpet_lena", Name: "Limpet; Lena\r\n", Roles: []string{"moderator"}}, "hello")
	eventually(t, "the line is heard", d.heard("hello"))
	if l := d.lines[0]; l.Tags["street/id"] != "8841" || l.Tags["street/name"] != "Limpet; Lena\r\n" || l.Tags["street/roles"] != "mate" || l.Tags["msgid"] == "" {
		t.Errorf("tags: %+v", l.Tags)
	}
	d.Say(t.Context(), "hello Lena")
	eventually(t, "its own line is known as its own", func() bool {
		d.mu.Lock()
		defer d.mu.Unlock()
		return len(d.lines) == 2 && d.lines[1].Own
	})
	wrong := open(t, irc.Config{Address: c.Address(), Account: "lamp2", Password: "water", Room: c.Room})
	eventually(t, "a wrong password is named", wrong.is(irc.Refused, "signing in failed"))
}

func TestACutConnectionIsOpenedAgain(t *testing.T) {
	c := network(t)
	d := open(t, irc.Config{Address: c.Address(), Account: "lamp", Room: c.Room})
	eventually(t, "open", d.is(irc.Open, ""))
	c.Drop()
	eventually(t, "the loss shows", func() bool { return d.Health().State != irc.Open })
	eventually(t, "open again", d.is(irc.Open, ""))
	c.Say(standin.Viewer{ID: "1", Login: "ada"}, "welcome back")
	eventually(t, "heard again", d.heard("welcome back"))
}

func TestANetsplitIsNotTakenForPeopleLeaving(t *testing.T) {
	ln, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	defer ln.Close()
	go func() {
		conn, err := ln.Accept()
		if err != nil {
			return
		}
		fmt.Fprint(conn, ":s 001 lamp :hi\r\n:s 353 lamp = #r :lamp ada bo\r\n:s 366 lamp #r :end\r\n:ada!a@h QUIT :east.net.example west.net.example\r\n:bo!b@h QUIT :gone to bed\r\n")
		<-t.Context().Done()
	}()
	d := open(t, irc.Config{Address: ln.Addr().String(), Account: "lamp", Room: "#r"})
	eventually(t, "bo left", func() bool { d.mu.Lock(); defer d.mu.Unlock(); return len(d.moved) > 0 })
	if len(d.moved) != 1 || d.moved[0].Nick != "bo" || d.moved[0].Entered {
		t.Errorf("moved: %+v", d.moved)
	}
}

// plainServer answers as a network that knows of nothing but nicks; say is called with
// every line of the client and writes what it answers.
func plainServer(t *testing.T, say func(line string, w func(format string, args ...any))) string {
	t.Helper()
	ln, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { ln.Close() })
	go func() {
		for {
			conn, err := ln.Accept()
			if err != nil {
				return
			}
			go func() {
				defer conn.Close()
				for sc := bufio.NewScanner(conn); sc.Scan(); {
					say(sc.Text(), func(format string, args ...any) { fmt.Fprintf(conn, format+"\r\n", args...) })
				}
			}()
		}
	}()
	return ln.Addr().String()
}

func TestANetworkWithoutSignInIsNotJoinedAsNobody(t *testing.T) {
	joined := make(chan bool, 10)
	for name, caps := range map[string]string{"it offers other things": ":s CAP * LS :multi-prefix", "it knows no capabilities": ":s 421 * CAP :Unknown command\r\n:s 001 lamp :hi"} {
		addr := plainServer(t, func(line string, w func(string, ...any)) {
			switch {
			case strings.HasPrefix(line, "CAP LS"):
				w("%s", caps)
			case strings.HasPrefix(line, "CAP REQ"):
				w(":s CAP * ACK :multi-prefix")
			case strings.HasPrefix(line, "CAP END"):
				w(":s 001 lamp :hi")
			case strings.HasPrefix(line, "JOIN"):
				joined <- true
			}
		})
		d := open(t, irc.Config{Address: addr, Account: "lamp", Password: "oil", Room: "#r"})
		eventually(t, name+": the state says so", d.is(irc.Refused, "no sign-in, and a password is set"))
	}
	if len(joined) > 0 {
		t.Error("it joined as nobody")
	}
}

func TestAWebServerIsNoChat(t *testing.T) {
	srv := httptest.NewServer(http.NotFoundHandler())
	t.Cleanup(srv.Close)
	d := open(t, irc.Config{Address: strings.TrimPrefix(srv.URL, "http://"), Account: "lamp", Room: "#tidepool"})
	eventually(t, "it says so", d.is(irc.Refused, "this is a web server, not a chat network"))
}

func TestOneRefusedLineDoesNotMuteTheHouse(t *testing.T) {
	var mu sync.Mutex
	var said []string
	addr := plainServer(t, func(line string, w func(string, ...any)) {
		switch {
		case strings.HasPrefix(line, "CAP LS"):
			w(":s 421 * CAP :Unknown command\r\n:s 001 lamp :hi")
		case strings.HasPrefix(line, "JOIN"):
			w(":s 366 lamp #r :end")
		case strings.HasPrefix(line, "PRIVMSG"):
			mu.Lock()
			if said = append(said, line); len(said) == 1 {
				w(":s 404 lamp #r :no such words here")
			}
			mu.Unlock()
		}
	})
	d := open(t, irc.Config{Address: addr, Account: "lamp", Room: "#r", Again: 200 * time.Millisecond})
	eventually(t, "open", d.is(irc.Open, ""))
	d.Say(t.Context(), "a word they do not like")
	eventually(t, "the refusal shows", func() bool { h := d.Health(); return !h.MaySpeak && strings.Contains(h.Reason, "no such words") })
	eventually(t, "it may speak again", func() bool { return d.Health().MaySpeak })
	if _, err := d.Say(t.Context(), "another"); err != nil {
		t.Error(err)
	}
}

func TestTheHouseTakesItsNickBackAndKnowsWhoHasAnother(t *testing.T) {
	c := network(t)
	squatter := connect(t, c.Address(), "lamp")
	var mu sync.Mutex
	var nicked []chat.Nicked
	d := open(t, irc.Config{Address: c.Address(), Account: "lamp", Room: c.Room, Again: time.Hour, OnNick: func(n chat.Nicked) { mu.Lock(); nicked = append(nicked, n); mu.Unlock() }})
	eventually(t, "open under another", func() bool { h := d.Health(); return h.State == irc.Open && h.Account == "lamp_1" })
	h := connect(t, c.Address(), "ada")
	h.do("JOIN %s", c.Room)
	squatter.do("JOIN %s", c.Room)
	eventually(t, "ada is there", func() bool {
		d.mu.Lock()
		defer d.mu.Unlock()
		return slices.ContainsFunc(d.moved, func(m chat.Moved) bool { return m.Nick == "ada" && m.Entered })
	})
	h.do("NICK ada_away")
	eventually(t, "the change is told", func() bool {
		mu.Lock()
		defer mu.Unlock()
		return len(nicked) == 1 && nicked[0].From == "ada" && nicked[0].To == "ada_away"
	})
	h.do("DANCE")
	eventually(t, "an unknown command is answered", h.saw("421 ada_away DANCE"))
	squatter.do("QUIT")
	eventually(t, "its own nick again", func() bool { return d.Health().Account == "lamp" })
}
