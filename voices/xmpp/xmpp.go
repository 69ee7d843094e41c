// Package xmpp speaks in rooms of XMPP servers (RFC 6120, and XEP-0045, Multi-User Chat).
//
// A [Talk] keeps one connection and one room, opens both when something is to be said, and takes a text for said
// only once the room has sent it back to everybody in it, the house included: that is the proof from end to end.
package xmpp

import (
	"context"
	"crypto/rand"
	"crypto/tls"
	"crypto/x509"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"net"
	"sync"

	"mellium.im/sasl"
	"mellium.im/xmlstream"
	"mellium.im/xmpp"
	"mellium.im/xmpp/jid"
	"mellium.im/xmpp/muc"
	"mellium.im/xmpp/stanza"

	"vividporch/voices/relay"
)

// Config says where a room is, and who the house is there.
type Config struct {
	Account  string // "porchlamp@lowtide.example"
	Password string
	Room     string // "lamp-log@rooms.lowtide.example"
	Address  string // host:port of the account's server
	// TLS is what the connection is encrypted with, after STARTTLS (RFC 6120 section 5); nil leaves it open, and then
	// the password is only proven (SCRAM), never sent.
	TLS  *tls.Config
	Dial func(ctx context.Context, network, address string) (net.Conn, error) // nil: any address
}

// Talk says texts in one room. Its methods may be called from any goroutine.
type Talk struct {
	cfg  Config
	mu   sync.Mutex // held while something is said
	conn *conn
}

// Open makes a talk; it connects with the first text.
func Open(cfg Config) *Talk {
	if cfg.Dial == nil {
		cfg.Dial = (&net.Dialer{}).DialContext
	}
	return &Talk{cfg: cfg}
}

// Say says a text under an id of its own; nil once the room has sent it to everybody. Else the error is a [*relay.Fault].
func (t *Talk) Say(ctx context.Context, id, text string) error {
	t.mu.Lock()
	defer t.mu.Unlock()
	if t.conn == nil || t.conn.ended() {
		conn, err := t.open(ctx)
		if err != nil {
			return err
		}
		t.conn = conn
	}
	if err := t.conn.say(ctx, id, text); err != nil {
		if !err.Final {
			t.conn.close()
			t.conn = nil
		}
		return err
	}
	return nil
}

// Close leaves the room.
func (t *Talk) Close() {
	t.mu.Lock()
	defer t.mu.Unlock()
	if t.conn != nil {
		t.conn.close()
		t.conn = nil
	}
}

// mostNicks is how many nicks are tried where the house's own is taken.
const mostNicks = 5

// open connects, signs in and enters the room.
func (t *Talk) open(ctx context.Context) (*conn, error) {
	me, err := jid.Parse(t.cfg.Account)
	if err != nil {
		return nil, &relay.Fault{Why: "the account is no address: " + err.Error(), Final: true, Shut: true}
	}
	room, err := jid.Parse(t.cfg.Room)
	if err != nil {
		return nil, &relay.Fault{Why: "the room is no address: " + err.Error(), Final: true, Shut: true}
	}
	raw, err := t.cfg.Dial(ctx, "tcp", t.cfg.Address)
	if err != nil {
		return nil, &relay.Fault{Why: "the place does not answer: " + err.Error()}
	}
	signIn := xmpp.SASL("", t.cfg.Password, sasl.ScramSha256, sasl.ScramSha1)
	features := []xmpp.StreamFeature{xmpp.BindResource()}
	if t.cfg.TLS != nil {
		conf := t.cfg.TLS.Clone()
		conf.ServerName = me.Domainpart() // RFC 6120 section 13.7.2: of the domain, wherever its server is
		signIn = xmpp.SASL("", t.cfg.Password, sasl.ScramSha256Plus, sasl.ScramSha256, sasl.ScramSha1Plus, sasl.ScramSha1, sasl.Plain)
		features = append(features, xmpp.StartTLS(conf))
	} else {
		signIn.Necessary = 0
	}
	signIn.Negotiate = telling(signIn.Negotiate)
	session, err := xmpp.NewClientSession(ctx, me, raw, append(features, signIn)...)
	if err != nil {
		raw.Close()
		return nil, refusedBy(err, t.cfg.Address)
	}
	c := &conn{session: session, raw: raw, room: room, done: make(chan struct{}), waits: map[string]chan *answer{}}
	go func() {
		defer close(c.done)
		session.Serve(xmpp.HandlerFunc(c.take))
	}()
	nick := me.Localpart()
	for n := range mostNicks {
		if n > 0 {
			nick = fmt.Sprintf("%s_%d", me.Localpart(), n)
		}
		if err = c.join(ctx, nick); !errors.Is(err, errTaken) {
			break
		}
	}
	if err != nil {
		c.close()
		if f := (*relay.Fault)(nil); errors.As(err, &f) {
			return nil, f
		}
		return nil, &relay.Fault{Why: err.Error()}
	}
	return c, nil
}

// denied is a sign-in that the server did not take.
type denied struct{ error }

// telling marks what comes of signing in, so that it is not taken for a connection that broke.
func telling(signIn negotiate) negotiate {
	return func(ctx context.Context, s *xmpp.Session, data any) (xmpp.SessionState, io.ReadWriter, error) {
		state, rw, err := signIn(ctx, s, data)
		var broke net.Error
		if err != nil && !errors.As(err, &broke) && !errors.Is(err, io.EOF) && ctx.Err() == nil {
			err = &denied{err}
		}
		return state, rw, err
	}
}

type negotiate = func(context.Context, *xmpp.Session, any) (xmpp.SessionState, io.ReadWriter, error)

// refusedBy says why there is no session, with what to do.
func refusedBy(err error, address string) *relay.Fault {
	var name x509.HostnameError
	var unknown x509.UnknownAuthorityError
	var invalid x509.CertificateInvalidError
	var not *denied
	switch {
	case errors.As(err, &name):
		return &relay.Fault{Why: fmt.Sprintf("the certificate there is of somebody else: write the server of the account's own domain (%v)", name), Final: true, Shut: true}
	case errors.As(err, &unknown):
		return &relay.Fault{Why: "nobody that this machine trusts vouches for the certificate at " + address + ": check the address, or ask whoever runs the server", Final: true, Shut: true}
	case errors.As(err, &invalid):
		return &relay.Fault{Why: "the certificate there does not hold: " + invalid.Error(), Final: true, Shut: true}
	case errors.As(err, &not):
		return &relay.Fault{Why: "signing in failed: check the account and its password", Final: true, Shut: true}
	}
	return &relay.Fault{Why: "no connection: " + err.Error()}
}

// conn is one session, in one room.
type conn struct {
	session *xmpp.Session
	raw     net.Conn
	room    jid.JID
	me      jid.JID // in the room: its address with the nick
	done    chan struct{}

	mu    sync.Mutex
	waits map[string]chan *answer // by the id of what was sent
	left  string                  // why the house is in the room no more
}

// answer is what came back for something that was sent; fault is nil where it was taken.
type answer struct{ fault *relay.Fault }

var errTaken = errors.New("every nick tried is taken")

// got is any stanza, as far as it matters here.
type got struct {
	XMLName xml.Name
	ID      string `xml:"id,attr"`
	Type    string `xml:"type,attr"`
	From    string `xml:"from,attr"`
	Error   *struct {
		Text string `xml:"text"`
		Any  []struct {
			XMLName xml.Name
		} `xml:",any"`
	} `xml:"error"`
	X []struct {
		XMLName xml.Name
		Status  []struct {
			Code int `xml:"code,attr"`
		} `xml:"status"`
		Item struct {
			Reason string `xml:"reason"`
		} `xml:"item"`
	} `xml:"x"`
}

// why is what keeps something from being done, by the conditions of RFC 6120 section 8.3 as XEP-0045 uses them.
func (g *got) why(room string) error {
	condition, text := "", ""
	for _, e := range g.Error.Any {
		if e.XMLName.Local != "text" && condition == "" {
			condition = e.XMLName.Local
		}
	}
	if g.Error.Text != "" {
		text = " (" + g.Error.Text + ")"
	}
	switch condition {
	case "conflict":
		return errTaken
	case "forbidden":
		return &relay.Fault{Why: "the house may not speak in " + room + text + ": it needs a voice there, or was banned", Final: true, Shut: true}
	case "not-authorized":
		return &relay.Fault{Why: room + " wants a password" + text, Final: true, Shut: true}
	case "registration-required":
		return &relay.Fault{Why: room + " lets members in only" + text + ": make the house one", Final: true, Shut: true}
	case "item-not-found", "not-allowed", "remote-server-not-found":
		return &relay.Fault{Why: "there is no room " + room + text + ": check its address", Final: true, Shut: true}
	case "policy-violation", "not-acceptable":
		return &relay.Fault{Why: room + " does not take it" + text, Final: true}
	}
	return &relay.Fault{Why: fmt.Sprintf("%s answered with %s%s", room, condition, text)}
}

// statusSelf marks the presence that is the house's own (XEP-0045 section 7.2.2).
const statusSelf = 110

// take looks at what comes in.
func (c *conn) take(r xmlstream.TokenReadEncoder, start *xml.StartElement) error {
	var g got
	if err := xml.NewTokenDecoder(xmlstream.MultiReader(xmlstream.Token(*start), r)).Decode(&g); err != nil {
		return nil // one stanza nobody can read ends no conversation
	}
	from, err := jid.Parse(g.From)
	if err != nil || !from.Bare().Equal(c.room) {
		return nil
	}
	c.mu.Lock()
	defer c.mu.Unlock()
	switch {
	case g.Error != nil:
		err := g.why(c.room.String())
		f := &relay.Fault{}
		if !errors.As(err, &f) {
			f = &relay.Fault{Why: errTaken.Error()}
		}
		c.answer(g.ID, f)
	case g.XMLName.Local == "message" && g.Type == "groupchat" && from.Equal(c.me):
		c.answer(g.ID, nil)
	case g.XMLName.Local == "presence" && g.own(from, c.me):
		if g.Type == "unavailable" {
			c.left = "the house was put out of " + c.room.String()
			for _, x := range g.X {
				if x.Item.Reason != "" {
					c.left += ": " + x.Item.Reason
				}
			}
			return nil
		}
		c.answer(joins, nil)
	}
	return nil
}

// own reports whether a presence is the house's own.
func (g *got) own(from, me jid.JID) bool {
	for _, x := range g.X {
		for _, s := range x.Status {
			if s.Code == statusSelf {
				return true
			}
		}
	}
	return from.Equal(me)
}

func (c *conn) answer(id string, f *relay.Fault) {
	if w := c.waits[id]; w != nil {
		select {
		case w <- &answer{f}:
		default:
		}
	}
}

// joins is the id under which the house enters.
const joins = "porch-enters"

// join enters the room under a nick, without its history.
func (c *conn) join(ctx context.Context, nick string) error {
	me, err := c.room.WithResource(nick)
	if err != nil {
		return &relay.Fault{Why: "the nick is none: " + err.Error(), Final: true, Shut: true}
	}
	c.mu.Lock()
	c.me = me
	c.mu.Unlock()
	history := xmlstream.Wrap(nil, xml.StartElement{Name: xml.Name{Local: "history"}, Attr: []xml.Attr{{Name: xml.Name{Local: "maxstanzas"}, Value: "0"}}})
	x := xmlstream.Wrap(history, xml.StartElement{Name: xml.Name{Space: muc.NS, Local: "x"}})
	f := c.await(ctx, joins, stanza.Presence{ID: joins, To: me}.Wrap(x))
	switch {
	case f == nil:
		return nil
	case f.Why == errTaken.Error():
		return errTaken
	}
	return f
}

// say says a text and waits until the room sends it back.
func (c *conn) say(ctx context.Context, id, text string) *relay.Fault {
	c.mu.Lock()
	left := c.left
	c.mu.Unlock()
	if left != "" {
		return &relay.Fault{Why: left}
	}
	// The id is new with each attempt, so that what came back late answers nothing else.
	id += "-" + rand.Text()[:6]
	body := xmlstream.Wrap(xmlstream.Token(xml.CharData(text)), xml.StartElement{Name: xml.Name{Local: "body"}})
	return c.await(ctx, id, stanza.Message{ID: id, To: c.room, Type: stanza.GroupChatMessage}.Wrap(body))
}

// await sends something and waits for what comes back.
func (c *conn) await(ctx context.Context, id string, r xml.TokenReader) *relay.Fault {
	w := make(chan *answer, 1)
	c.mu.Lock()
	c.waits[id] = w
	c.mu.Unlock()
	defer func() {
		c.mu.Lock()
		delete(c.waits, id)
		c.mu.Unlock()
	}()
	if err := c.session.Send(ctx, r); err != nil {
		return &relay.Fault{Why: "the connection to the place broke", Unsure: true}
	}
	select {
	case a := <-w:
		return a.fault
	case <-c.done:
		return &relay.Fault{Why: "the connection to the place broke", Unsure: true}
	case <-ctx.Done():
		return &relay.Fault{Why: "the place did not answer in time", Unsure: true}
	}
}

// ended reports whether the session is over, or the house is in the room no more.
func (c *conn) ended() bool {
	select {
	case <-c.done:
		return true
	default:
	}
	c.mu.Lock()
	defer c.mu.Unlock()
	return c.left != ""
}

func (c *conn) close() { c.raw.Close() }
