package irc

import (
	"context"
	"errors"
	"fmt"
	"net"
	"slices"
	"strings"
	"time"

	"vividporch/core/chat"
)

// talk is the conversation with a server over one connection.
type talk struct {
	c       *Client
	conn    net.Conn
	ctx     context.Context // ends with the connection
	offered []string
	tries   int    // nicks tried
	last    string // what an ERROR line said
	welcome bool
	signed  bool // in, with the password
}

// later does something after a while, unless the connection has ended by then.
func (t *talk) later(after time.Duration, f func()) {
	go func() {
		timer := time.NewTimer(after)
		defer timer.Stop()
		select {
		case <-t.ctx.Done():
		case <-timer.C:
			f()
		}
	}()
}

// unsigned is why a network is not joined as nobody although a password is set.
const unsigned = "the network offers no sign-in, and a password is set: take the password out, or name another network"

// reclaim takes the house's own nick back as soon as it is free.
func (t *talk) reclaim() {
	t.c.mu.Lock()
	nick := t.c.nick
	t.c.mu.Unlock()
	if strings.EqualFold(nick, t.c.cfg.Account) {
		return
	}
	t.c.send("NICK", t.c.cfg.Account)
	t.later(t.c.cfg.Again, t.reclaim)
}

// wanted are the capabilities the house makes use of.
var wanted = []string{"message-tags", "server-time", "account-tag", "echo-message", "sasl", "multi-prefix"}

// rejoinAfter is how long the house waits before it goes back into a room it was
// kicked from: long enough not to look like a quarrel.
const rejoinAfter = 5 * time.Second

// take answers one message of the server. An error ends the connection.
func (t *talk) take(m *Message) error {
	c := t.c
	switch m.Command {
	case "PING":
		return c.send("PONG", m.Last())
	case "ERROR":
		t.last = "the server closed the connection: " + m.Last()
		if strings.Contains(strings.ToLower(m.Last()), "banned") || strings.Contains(m.Last(), "K-line") {
			return &refusal{t.last}
		}
	case "CAP":
		return t.capability(m)
	case "AUTHENTICATE":
		if m.Param(0) == "+" {
			return t.authenticate()
		}
	case "903": // RPL_SASLSUCCESS
		t.signed = true
		return c.send("CAP", "END")
	case "902", "904", "905", "906": // SASL failed, too long, aborted
		return &refusal{"signing in failed: " + m.Last()}
	case "001":
		if c.cfg.Password != "" && !t.signed {
			return &refusal{unsigned}
		}
		t.welcome = true
		c.mu.Lock()
		c.nick = m.Param(0)
		c.mu.Unlock()
		if !strings.EqualFold(m.Param(0), c.cfg.Account) {
			t.later(c.cfg.Again, t.reclaim)
		}
		return c.send("JOIN", c.cfg.Room)
	case "432", "433", "436", "437": // nick not allowed, in use, collision, unavailable
		if t.welcome {
			return nil
		}
		t.tries++
		if t.tries > 5 {
			return errors.New("every nick tried is in use")
		}
		return c.send("NICK", fmt.Sprintf("%.20s_%d", c.cfg.Account, t.tries))
	case "465": // ERR_YOUREBANNEDCREEP
		return &refusal{"banned from the network: " + m.Last()}
	case "403", "405", "471", "473", "474", "475", "476", "477": // cannot join
		return &refusal{"cannot enter " + c.cfg.Room + ": " + m.Last()}
	case "404": // ERR_CANNOTSENDTOCHAN
		c.setState(Open, mayNot+m.Last())
		t.later(c.cfg.Again, func() { // it may have been about that line alone
			if strings.HasPrefix(c.Health().Reason, mayNot) {
				c.setState(Open, "")
			}
		})
	case "353": // RPL_NAMREPLY
		t.names(m)
	case "366": // RPL_ENDOFNAMES
		if t.inRoom(m.Param(1)) {
			c.mu.Lock()
			c.joined = true
			c.mu.Unlock()
			c.setState(Open, "")
			return c.send("MODE", c.cfg.Room)
		}
	case "324": // RPL_CHANNELMODEIS
		if t.inRoom(m.Param(1)) {
			c.mu.Lock()
			c.modered = strings.Contains(m.Param(2), "m")
			c.mu.Unlock()
			c.setState(Open, "")
		}
	case "MODE":
		if t.inRoom(m.Param(0)) {
			t.mode(m)
		}
	case "JOIN", "PART", "QUIT", "KICK", "NICK":
		return t.moved(m)
	case "PRIVMSG":
		t.said(m)
	}
	return nil
}

func (t *talk) capability(m *Message) error {
	c := t.c
	switch strings.ToUpper(m.Param(1)) {
	case "LS":
		t.offered = append(t.offered, strings.Fields(m.Last())...)
		if m.Param(2) == "*" { // more lines follow
			return nil
		}
		var ask []string
		for _, w := range wanted {
			for _, o := range t.offered {
				name, _, _ := strings.Cut(o, "=")
				if name == w && (w != "sasl" || c.cfg.Password != "") {
					ask = append(ask, w)
				}
			}
		}
		if c.cfg.Password != "" && !slices.Contains(ask, "sasl") {
			return &refusal{unsigned}
		}
		if len(ask) == 0 {
			return c.send("CAP", "END")
		}
		return c.send("CAP", "REQ", strings.Join(ask, " "))
	case "ACK":
		sasl := false
		c.mu.Lock()
		for _, name := range strings.Fields(m.Last()) {
			c.caps[name] = true
			sasl = sasl || name == "sasl"
		}
		c.mu.Unlock()
		if sasl && c.cfg.Password != "" {
			return c.send("AUTHENTICATE", "PLAIN")
		}
		return c.send("CAP", "END")
	case "NAK":
		return c.send("CAP", "END")
	}
	return nil
}

// authenticate sends SASL PLAIN (RFC 4616) in pieces of 400 bytes, as IRCv3 wants;
// a full last piece is followed by "+".
func (t *talk) authenticate() error {
	s := saslPlain(t.c.cfg.Account, t.c.cfg.Password)
	for {
		n := min(len(s), 400)
		part := s[:n]
		s = s[n:]
		if part == "" {
			part = "+"
		}
		if err := t.c.send("AUTHENTICATE", part); err != nil || n < 400 {
			return err
		}
	}
}

func (t *talk) inRoom(room string) bool { return strings.EqualFold(room, t.c.cfg.Room) }

func (t *talk) own(nick string) bool {
	t.c.mu.Lock()
	defer t.c.mu.Unlock()
	return strings.EqualFold(nick, t.c.nick)
}

func (t *talk) names(m *Message) {
	if !t.inRoom(m.Param(2)) {
		return
	}
	for _, n := range strings.Fields(m.Last()) {
		signs := n[:len(n)-len(strings.TrimLeft(n, "~&@%+"))]
		if t.own(n[len(signs):]) {
			t.c.mu.Lock()
			t.c.oper = strings.ContainsAny(signs, "~&@%")
			t.c.voiced = strings.Contains(signs, "+")
			t.c.mu.Unlock()
		}
	}
}

// mode follows changes of the room's modes and of the house's own rights.
func (t *talk) mode(m *Message) {
	plus, arg := true, 2
	t.c.mu.Lock()
	for _, r := range m.Param(1) {
		switch r {
		case '+', '-':
			plus = r == '+'
		case 'm':
			t.c.modered = plus
		case 'o', 'h', 'a', 'q', 'v':
			if strings.EqualFold(m.Param(arg), t.c.nick) {
				if r == 'v' {
					t.c.voiced = plus
				} else {
					t.c.oper = plus
				}
			}
			arg++
		case 'b', 'k', 'l', 'e', 'I':
			arg++
		}
	}
	t.c.mu.Unlock()
	t.c.setState(Open, "")
}

func (t *talk) moved(m *Message) error {
	c := t.c
	own := t.own(m.Nick())
	switch m.Command {
	case "NICK":
		switch {
		case own:
			c.mu.Lock()
			c.nick = m.Last()
			c.mu.Unlock()
			c.setState(Open, "")
			return nil
		case strings.EqualFold(m.Nick(), c.cfg.Account): // ours is free
			c.send("NICK", c.cfg.Account)
		}
		if c.cfg.OnNick != nil {
			c.cfg.OnNick(chat.Nicked{From: m.Nick(), To: m.Last(), Account: m.Tags["account"], Tags: m.Tags})
		}
	case "KICK":
		if t.inRoom(m.Param(0)) && t.own(m.Param(1)) {
			c.mu.Lock()
			c.joined = false
			c.mu.Unlock()
			c.setState(Closed, "kicked from the room by "+m.Nick()+": "+m.Last())
			t.later(rejoinAfter, func() { c.send("JOIN", c.cfg.Room) })
		}
	case "JOIN", "PART", "QUIT":
		if m.Command == "QUIT" && !own && strings.EqualFold(m.Nick(), c.cfg.Account) {
			c.send("NICK", c.cfg.Account)
		}
		if own || m.Command == "QUIT" && isNetsplit(m.Last()) {
			return nil
		}
		if m.Command != "QUIT" && !t.inRoom(m.Param(0)) {
			return nil
		}
		if c.cfg.OnRoom != nil {
			c.cfg.OnRoom(chat.Moved{Nick: m.Nick(), Tags: m.Tags, Entered: m.Command == "JOIN"})
		}
	}
	return nil
}

// isNetsplit reports whether a QUIT is two servers losing each other: its reason
// is the names of both, and nobody has really left.
func isNetsplit(reason string) bool {
	a, b, ok := strings.Cut(reason, " ")
	return ok && !strings.Contains(b, " ") && strings.Contains(a, ".") && strings.Contains(b, ".") && !strings.ContainsAny(reason, ":/")
}

func (t *talk) said(m *Message) {
	c := t.c
	text := m.Last()
	if len(m.Params) < 2 {
		return
	}
	if t.own(m.Param(0)) { // said to the house alone
		c.mu.Lock()
		back := c.checks[text]
		c.mu.Unlock()
		if back != nil {
			select {
			case back <- struct{}{}:
			default:
			}
		}
		return
	}
	if !t.inRoom(m.Param(0)) || c.cfg.OnLine == nil {
		return
	}
	if rest, ok := strings.CutPrefix(text, "\x01ACTION "); ok { // CTCP: somebody does something
		text = strings.TrimSuffix(rest, "\x01")
	} else if strings.HasPrefix(text, "\x01") {
		return
	}
	c.cfg.OnLine(chat.Line{Nick: m.Nick(), Account: m.Tags["account"], Text: text, Tags: m.Tags, Own: t.own(m.Nick())})
}
