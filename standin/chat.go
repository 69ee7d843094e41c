package standin

import (
	"bufio"
	"encoding/base64"
	"fmt"
	"log/slog"
	"net"
	"slices"
	"strings"
	"sync"
	"time"

	"vividporch/doors/irc"
)

// Viewer is somebody who can speak in a stand-in's chat.
type Viewer struct {
	ID    string   `json:"id"`
	Login string   `json:"login"`
	Name  string   `json:"name"`
	Roles []string `json:"roles,omitempty"` // in the event contract's words
}

// Heard is a line that went through a stand-in's chat.
type Heard struct {
	At   time.Time `json:"at"`
	ID   string    `json:"id"`
	Nick string    `json:"nick"`
	Text string    `json:"text"`
}

// Chat is a small chat server that real IRC clients can join: RFC 2812's basics
// with message tags, capability negotiation, server-time, echo-message and SASL
// PLAIN. Sample viewers speak in it without a connection of their own.
type Chat struct {
	spoke map[string]Viewer // by login

	Tags  ChatTags
	Room  string
	Log   *slog.Logger
	Users map[string]string // SASL account → password
	Clock func() time.Time  // nil for the machine's

	Token func(token string) (login string) // whose password a token is; nil for nobody's

	Private bool // carries messages to one person, whether or not they have a client

	mu      sync.Mutex
	silent  map[string]bool // nicks that may not speak, in lower case
	ln      net.Listener
	clients map[*chatClient]bool
	heard   []Heard
	private []Private
	n       int
}

// Private is a message to one person alone.
type Private struct {
	At   time.Time `json:"at"`
	From string    `json:"from"`
	To   string    `json:"to"`
	Text string    `json:"text"`
}

// Privates lists what was written to people alone.
func (c *Chat) Privates() []Private {
	c.mu.Lock()
	defer c.mu.Unlock()
	return slices.Clone(c.private)
}

// ChatTags are the names under which a stand-in tells who is speaking.
type ChatTags struct {
	ID, Name, Roles string
	Words           map[string]string // role of the event contract → the platform's word
}

// mostHeard bounds what the stand-in remembers.
const mostHeard = 200_000

type chatClient struct {
	chat    *Chat
	conn    net.Conn
	nick    string
	account string
	user    bool
	capping bool
	welcome bool
	caps    map[string]bool
	rooms   map[string]bool
	out     chan string
}

const (
	chatHost = "chat.street"
	chatCaps = "message-tags server-time account-tag echo-message multi-prefix sasl=PLAIN"
)

// Listen opens the server on an address and serves until Close.
func (c *Chat) Listen(addr string) error {
	ln, err := net.Listen("tcp", addr)
	if err != nil {
		return err
	}
	c.ln, c.clients = ln, map[*chatClient]bool{}
	if c.Log == nil {
		c.Log = slog.New(slog.DiscardHandler)
	}
	go func() {
		for {
			conn, err := ln.Accept()
			if err != nil {
				return
			}
			go c.serve(conn)
		}
	}()
	return nil
}

// Address is where the server listens.
func (c *Chat) Address() string { return c.ln.Addr().String() }

// Close ends the server and every connection.
func (c *Chat) Close() {
	c.ln.Close()
	c.Drop()
}

// Drop cuts every connection, as an outage would.
func (c *Chat) Drop() {
	c.mu.Lock()
	defer c.mu.Unlock()
	for cl := range c.clients {
		cl.conn.Close()
	}
}

// Say lets a sample viewer say a line; it returns the line's id.
func (c *Chat) Say(v Viewer, text string) string {
	c.mu.Lock()
	if c.spoke == nil {
		c.spoke = map[string]Viewer{}
	}
	c.spoke[strings.ToLower(v.Login)] = v
	c.mu.Unlock()
	var words []string
	for _, r := range v.Roles {
		if w := c.Tags.Words[r]; w != "" {
			words = append(words, w)
		}
	}
	return c.broadcast(nil, v.Login, v.ID, v.Name, words, text)
}

// Who is whoever spoke under a login.
func (c *Chat) Who(login string) (v Viewer, ok bool) {
	c.mu.Lock()
	defer c.mu.Unlock()
	v, ok = c.spoke[strings.ToLower(login)]
	return v, ok
}

// Heard lists what was said since a moment, by a nick or, with "", by everybody.
func (c *Chat) Heard(nick string, since time.Time) []Heard {
	c.mu.Lock()
	defer c.mu.Unlock()
	out := []Heard{}
	for _, h := range c.heard {
		if (nick == "" || strings.EqualFold(h.Nick, nick)) && !h.At.Before(since) {
			out = append(out, h)
		}
	}
	return out
}

// Remove takes a line off, by its id; false when it was never said.
func (c *Chat) Remove(id string) bool {
	_, ok := c.Take(id)
	return ok
}

// Take takes a line off, by its id, and tells what it was.
func (c *Chat) Take(id string) (line Heard, ok bool) {
	c.mu.Lock()
	defer c.mu.Unlock()
	c.heard = slices.DeleteFunc(c.heard, func(h Heard) bool {
		if h.ID == id {
			line, ok = h, true
		}
		return h.ID == id
	})
	return line, ok
}

// Here lists the nicks connected to the room.
func (c *Chat) Here() []string {
	c.mu.Lock()
	defer c.mu.Unlock()
	out := []string{}
	for cl := range c.clients {
		if cl.rooms[strings.ToLower(c.Room)] {
			out = append(out, cl.nick)
		}
	}
	slices.Sort(out)
	return out
}

func (c *Chat) now() time.Time {
	if c.Clock == nil {
		return time.Now().UTC()
	}
	return c.Clock().UTC()
}

func (c *Chat) broadcast(from *chatClient, nick, id, name string, words []string, text string) string {
	c.mu.Lock()
	defer c.mu.Unlock()
	c.n++
	now := c.now()
	msgid := fmt.Sprintf("%s-%d-%d", strings.TrimPrefix(c.Room, "#"), now.UnixMilli(), c.n)
	if len(c.heard) >= mostHeard {
		c.heard = slices.Delete(c.heard, 0, mostHeard/10)
	}
	c.heard = append(c.heard, Heard{At: now, ID: msgid, Nick: nick, Text: text})
	m := irc.Message{Source: nick + "!" + nick + "@" + chatHost, Command: "PRIVMSG", Params: []string{c.Room, text}}
	if m.Check() != nil {
		return msgid
	}
	bare := m.String()
	m.Tags = map[string]string{"msgid": msgid, "time": now.Format("2006-01-02T15:04:05.000Z")}
	if id != "" {
		m.Tags[c.Tags.ID] = id
	}
	if name != "" {
		m.Tags[c.Tags.Name] = name
	}
	if len(words) > 0 {
		m.Tags[c.Tags.Roles] = strings.Join(words, ",")
	}
	tagged := m.String()
	for cl := range c.clients {
		if !cl.rooms[strings.ToLower(c.Room)] || cl == from && !cl.caps["echo-message"] {
			continue
		}
		if cl.caps["message-tags"] {
			cl.send(tagged)
		} else {
			cl.send(bare)
		}
	}
	return msgid
}

func (c *Chat) serve(conn net.Conn) {
	cl := &chatClient{chat: c, conn: conn, caps: map[string]bool{}, rooms: map[string]bool{}, out: make(chan string, 4096)}
	c.mu.Lock()
	c.clients[cl] = true
	c.mu.Unlock()
	done := make(chan struct{})
	go func() {
		w := bufio.NewWriter(conn)
		for {
			select {
			case s := <-cl.out:
				w.WriteString(s + "\r\n")
				if len(cl.out) == 0 && w.Flush() != nil {
					return
				}
			case <-done:
				return
			}
		}
	}()
	r := bufio.NewReaderSize(conn, irc.MaxTags+irc.MaxMessage)
	for {
		raw, err := r.ReadString('\n')
		if err != nil {
			break
		}
		if m, err := irc.ParseMessage(raw); err == nil {
			if !cl.take(&m) {
				break
			}
		}
	}
	close(done)
	conn.Close()
	c.mu.Lock()
	delete(c.clients, cl)
	c.mu.Unlock()
	if cl.welcome {
		c.tell(fmt.Sprintf(":%s!%s@%s QUIT :gone", cl.nick, cl.nick, chatHost), nil)
	}
}

// send queues a line; a client that does not read is cut off.
func (cl *chatClient) send(s string) {
	select {
	case cl.out <- s:
	default:
		cl.conn.Close()
	}
}

func (cl *chatClient) reply(format string, args ...any) {
	cl.send(":" + chatHost + " " + fmt.Sprintf(format, args...))
}

// tell sends a line to everybody in the room.
func (c *Chat) tell(s string, except *chatClient) {
	c.mu.Lock()
	defer c.mu.Unlock()
	for cl := range c.clients {
		if cl != except && cl.rooms[strings.ToLower(c.Room)] {
			cl.send(s)
		}
	}
}

// Silence takes an account's rights in the room away, as its keeper might, or gives it the right to
// speak: the room is moderated from the first time on.
func (c *Chat) Silence(account string, on bool) {
	c.mu.Lock()
	first := c.silent == nil
	if first {
		c.silent = map[string]bool{}
	}
	c.silent[strings.ToLower(account)] = on
	c.mu.Unlock()
	if first {
		c.tell(fmt.Sprintf(":keeper!keeper@%s MODE %s +m", chatHost, c.Room), nil)
	}
	if on {
		c.tell(fmt.Sprintf(":keeper!keeper@%s MODE %s -ov %s %s", chatHost, c.Room, account, account), nil)
		return
	}
	c.tell(fmt.Sprintf(":keeper!keeper@%s MODE %s +v %s", chatHost, c.Room, account), nil)
}

func (cl *chatClient) take(m *irc.Message) bool {
	c := cl.chat
	switch m.Command {
	case "CAP":
		cl.capability(m)
	case "AUTHENTICATE":
		cl.authenticate(m)
	case "NICK":
		nick := m.Param(0)
		if nick == "" || strings.ContainsAny(nick, " :#&@!,*") {
			cl.reply("432 * %s :that is no nickname", nick)
			return true
		}
		c.mu.Lock()
		taken := false
		for o := range c.clients {
			taken = taken || o != cl && strings.EqualFold(o.nick, nick)
		}
		was := cl.nick
		if !taken {
			cl.nick = nick
		}
		c.mu.Unlock()
		if !taken && cl.welcome && was != nick {
			c.tell(fmt.Sprintf(":%s!%s@%s NICK :%s", was, was, chatHost, nick), nil)
		}
		if taken {
			cl.reply("433 * %s :Nickname is already in use", nick)
			return true
		}
	case "USER":
		cl.user = true
	case "PING":
		cl.reply("PONG %s :%s", chatHost, m.Last())
	case "QUIT":
		cl.send("ERROR :goodbye")
		return false
	case "JOIN":
		cl.join(m.Param(0))
	case "PART":
		if strings.EqualFold(m.Param(0), c.Room) {
			c.tell(fmt.Sprintf(":%s!%s@%s PART %s", cl.nick, cl.nick, chatHost, c.Room), nil)
			delete(cl.rooms, strings.ToLower(c.Room))
		}
	case "MODE":
		if strings.EqualFold(m.Param(0), c.Room) {
			modes := "+nt"
			c.mu.Lock()
			if c.silent != nil {
				modes = "+ntm"
			}
			c.mu.Unlock()
			cl.reply("324 %s %s %s", cl.nick, c.Room, modes)
		}
	case "PRIVMSG":
		cl.privmsg(m)
	case "PONG":
	default: // RFC 2812, section 5.2
		nick := cl.nick
		if nick == "" {
			nick = "*"
		}
		cl.reply("421 %s %s :Unknown command", nick, m.Command)
	}
	if !cl.welcome && cl.nick != "" && cl.user && !cl.capping {
		cl.welcome = true
		cl.reply("001 %s :Welcome to the street, %s", cl.nick, cl.nick)
		cl.reply("002 %s :Your host is %s", cl.nick, chatHost)
		cl.reply("422 %s :no message of the day", cl.nick)
	}
	return true
}

func (cl *chatClient) capability(m *irc.Message) {
	switch strings.ToUpper(m.Param(0)) {
	case "LS":
		cl.capping = true
		cl.reply("CAP * LS :%s", chatCaps)
	case "REQ":
		for _, w := range strings.Fields(m.Last()) {
			if !strings.Contains(" "+strings.ReplaceAll(chatCaps, "=PLAIN", "")+" ", " "+w+" ") {
				cl.reply("CAP * NAK :%s", m.Last())
				return
			}
		}
		for _, w := range strings.Fields(m.Last()) {
			cl.caps[w] = true
		}
		cl.reply("CAP * ACK :%s", m.Last())
	case "END":
		cl.capping = false
	}
}

func (cl *chatClient) authenticate(m *irc.Message) {
	if m.Param(0) == "PLAIN" {
		cl.send("AUTHENTICATE +")
		return
	}
	raw, err := base64.StdEncoding.DecodeString(m.Param(0))
	parts := strings.Split(string(raw), "\x00")
	good := err == nil && len(parts) == 3 && (cl.chat.Users[parts[1]] != "" && cl.chat.Users[parts[1]] == parts[2] || cl.chat.Token != nil && strings.EqualFold(cl.chat.Token(parts[2]), parts[1]))
	if !good {
		cl.reply("904 %s :SASL authentication failed", nonEmpty(cl.nick, "*"))
		return
	}
	cl.account = parts[1]
	cl.reply("900 %s %s!%s@%s %s :You are now logged in as %s", nonEmpty(cl.nick, "*"), cl.nick, cl.nick, chatHost, cl.account, cl.account)
	cl.reply("903 %s :SASL authentication successful", nonEmpty(cl.nick, "*"))
}

func nonEmpty(s, or string) string {
	if s == "" {
		return or
	}
	return s
}

func (cl *chatClient) join(room string) {
	c := cl.chat
	if !cl.welcome || !strings.EqualFold(room, c.Room) {
		cl.reply("403 %s %s :there is only %s here", nonEmpty(cl.nick, "*"), room, c.Room)
		return
	}
	c.mu.Lock()
	cl.rooms[strings.ToLower(c.Room)] = true
	c.mu.Unlock()
	c.tell(fmt.Sprintf(":%s!%s@%s JOIN %s", cl.nick, cl.nick, chatHost, c.Room), nil)
	names := []string{}
	c.mu.Lock()
	for o := range c.clients {
		if o.rooms[strings.ToLower(c.Room)] {
			sign := ""
			if o.account != "" { // whoever signs in moderates here
				sign = "@"
			}
			if silent, ok := c.silent[strings.ToLower(o.nick)]; ok {
				if sign = "+"; silent {
					sign = ""
				}
			}
			names = append(names, sign+o.nick)
		}
	}
	c.mu.Unlock()
	cl.reply("353 %s = %s :%s", cl.nick, c.Room, strings.Join(names, " "))
	cl.reply("366 %s %s :End of /NAMES list", cl.nick, c.Room)
}

func (cl *chatClient) privmsg(m *irc.Message) {
	c := cl.chat
	if len(m.Params) < 2 || !cl.welcome {
		return
	}
	if strings.EqualFold(m.Param(0), c.Room) {
		c.mu.Lock()
		silent := c.silent[strings.ToLower(cl.nick)]
		c.mu.Unlock()
		if silent || !cl.rooms[strings.ToLower(c.Room)] {
			cl.reply("404 %s %s :Cannot send to channel", cl.nick, c.Room)
			return
		}
		c.broadcast(cl, cl.nick, cl.account, cl.nick, nil, m.Last())
		return
	}
	c.mu.Lock()
	defer c.mu.Unlock()
	for o := range c.clients {
		if strings.EqualFold(o.nick, m.Param(0)) {
			o.send(fmt.Sprintf(":%s!%s@%s PRIVMSG %s :%s", cl.nick, cl.nick, chatHost, o.nick, m.Last()))
			return
		}
	}
	if c.Private { // whoever is watching without a client gets it all the same
		c.private = append(c.private, Private{At: c.now(), From: cl.nick, To: m.Param(0), Text: m.Last()})
		return
	}
	cl.reply("401 %s %s :No such nick", cl.nick, m.Param(0))
}
