package places_test

import (
	"context"
	"crypto/tls"
	"errors"
	"fmt"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"vividporch/core/chat"
	"vividporch/core/place"
	"vividporch/doors/irc"
	"vividporch/outside"
	"vividporch/porch/places"
	"vividporch/stocktest"
	"vividporch/voices/relay"
)

// say says a text at a place, within ten seconds, and answers with what kept it from being said.
func say(t *testing.T, conf *tls.Config, p *place.Place, password, text string) *relay.Fault {
	t.Helper()
	p.Check(func(at, what, remedy string) { t.Fatalf("%s %s: %s", at, what, remedy) })
	way := &outside.Dialer{Allowed: func(string) bool { return true }}
	talk := places.Talks(way, conf, nil)[p.Kind](p, password)
	defer talk.Close()
	ctx, cancel := context.WithTimeout(t.Context(), 10*time.Second)
	defer cancel()
	err := talk.Say(ctx, "porch-1-line-"+p.Name, text)
	var f *relay.Fault
	if err != nil && !errors.As(err, &f) {
		t.Fatalf("a fault that says nothing: %v", err)
	}
	return f
}

func refused(t *testing.T, f *relay.Fault, why string) {
	t.Helper()
	if f == nil || !f.Final || !f.Shut || !strings.Contains(f.Why, why) {
		t.Errorf("want a refusal that says %q, got %+v", why, f)
	}
}

func TestAChannelOfAStockServer(t *testing.T) {
	s := stocktest.IRC(t)
	var mu sync.Mutex
	var heard []string
	open := make(chan struct{}, 10)
	keeper := irc.New(irc.Config{Address: s.Plain, Account: "odalys", Room: "#lamp-log",
		OnLine: func(l chat.Line) { mu.Lock(); heard = append(heard, l.Nick+": "+l.Text); mu.Unlock() },
		OnState: func(h irc.Health) {
			if h.State == irc.Open {
				open <- struct{}{}
			}
		}})
	go keeper.Run(t.Context())
	<-open
	at := func(room string) *place.Place {
		return &place.Place{Name: "log", Kind: "irc", URL: "irc://" + s.Plain, Room: room, Account: "porchlamp"}
	}
	hears := func(text string) bool { mu.Lock(); defer mu.Unlock(); return slices.Contains(heard, text) }

	t.Run("what is posted stands in the channel once it is taken for said", func(t *testing.T) {
		if f := say(t, nil, at("#lamp-log"), "", "The night-heron is back."); f != nil {
			t.Fatal(f)
		}
		for i := 0; !hears("porchlamp: The night-heron is back."); i++ {
			if time.Sleep(10 * time.Millisecond); i > 500 {
				t.Fatalf("heard %q", heard)
			}
		}
	})
	t.Run("over TLS, with a certificate that somebody vouches for", func(t *testing.T) {
		p := at("#lamp-log")
		p.URL = "ircs://" + s.Secure
		if f := say(t, &tls.Config{RootCAs: s.Roots}, p, "", "Encrypted."); f != nil {
			t.Fatal(f)
		}
		refused(t, say(t, nil, p, "", "To whom?"), "nobody that this machine trusts")
	})
	t.Run("the right that is missing is named", func(t *testing.T) {
		raw(t, s.Plain, "gully", "JOIN #quiet", "MODE #quiet +m")
		refused(t, say(t, nil, at("#quiet"), "", "May I?"), "it needs a voice there")
		raw(t, s.Plain, "greta", "JOIN #closed", "MODE #closed +i")
		refused(t, say(t, nil, at("#closed"), "", "May I?"), "cannot enter #closed")
	})
	t.Run("a server that is gone is waited for", func(t *testing.T) {
		p := at("#lamp-log")
		p.URL = "irc://127.0.0.1:1"
		if f := say(t, nil, p, "", "Anybody?"); f == nil || f.Final || f.Unsure {
			t.Errorf("%+v", f)
		}
	})
}

// raw says lines to a server of IRC as somebody, who stays there.
func raw(t *testing.T, address, nick string, lines ...string) {
	t.Helper()
	conn, err := (&outside.Dialer{Allowed: func(string) bool { return true }}).DialContext(t.Context(), "tcp", address)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { conn.Close() })
	fmt.Fprintf(conn, "NICK %s\r\nUSER %s 0 * :%s\r\n%s\r\nPING :all\r\n", nick, nick, nick, strings.Join(lines, "\r\n"))
	buf := make([]byte, 4096)
	for got := ""; !strings.Contains(got, "PONG"); {
		n, err := conn.Read(buf)
		if err != nil {
			t.Fatal(err)
		}
		got += string(buf[:n])
	}
}

func TestARoomOfAStockServer(t *testing.T) {
	s := stocktest.XMPP(t, "porchlamp", "odalys")
	trusted := &tls.Config{RootCAs: s.Roots}
	as := func(account, room string) *place.Place {
		return &place.Place{Name: "log", Kind: "xmpp", URL: "xmpps://" + s.Secure, Room: room + "." + stocktest.Domain, Account: account + "@" + stocktest.Domain}
	}
	const password = "low water"

	t.Run("the room sends back what is posted, encrypted or on this machine alone", func(t *testing.T) {
		if f := say(t, trusted, as("porchlamp", "lamp-log@rooms"), password, "The night-heron is back."); f != nil {
			t.Fatal(f)
		}
		p := as("porchlamp", "lamp-log@rooms")
		p.URL = "xmpp://" + s.Plain
		if f := say(t, nil, p, password, "<b>It stays</b> & sings."); f != nil {
			t.Fatal(f)
		}
	})
	t.Run("one connection says one text after another, and goes on after it is lost", func(t *testing.T) {
		talk := places.Talks(&outside.Dialer{Allowed: func(string) bool { return true }}, trusted, nil)["xmpp"](as("porchlamp", "lamp-log@rooms"), password)
		defer talk.Close()
		for i := range 5 {
			if err := talk.Say(t.Context(), fmt.Sprint("line-", i), "The tide turns."); err != nil {
				t.Fatal(err)
			}
			if i == 2 {
				talk.Close() // as if it had been cut
			}
		}
	})
	t.Run("what is missing is named", func(t *testing.T) {
		refused(t, say(t, trusted, as("porchlamp", "lamp-log@rooms"), "high water", "?"), "signing in failed")
		refused(t, say(t, nil, as("porchlamp", "lamp-log@rooms"), password, "?"), "nobody that this machine trusts")
		refused(t, say(t, trusted, as("porchlamp", "lamp-log@nowhere"), password, "?"), "there is no room")
		for room, why := range map[string]string{"lamp-log@quiet": "it needs a voice there", "lamp-log@closed": "lets members in only"} {
			if f := say(t, trusted, as("odalys", room), password, "Mine."); f != nil { // who comes first owns it
				t.Fatal(f)
			}
			refused(t, say(t, trusted, as("porchlamp", room), password, "May I?"), why)
		}
	})
	t.Run("a server that is gone is waited for", func(t *testing.T) {
		s.Process.Kill()
		s.Process.Wait()
		if f := say(t, trusted, as("porchlamp", "lamp-log@rooms"), password, "Anybody?"); f == nil || f.Final || f.Unsure {
			t.Errorf("%+v", f)
		}
	})
}
