package places

import (
	"context"
	"crypto/tls"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"strings"
	"time"

	"vividporch/core/place"
	"vividporch/doors/irc"
	"vividporch/outside"
	"vividporch/voices/relay"
	"vividporch/voices/xmpp"
)

// Talks open talks with the rooms of chat networks, each over the one way out. conf is what TLS is spoken with; nil for what this
// machine trusts.
func Talks(way *outside.Dialer, conf *tls.Config, log *slog.Logger) map[string]relay.Opener {
	if conf == nil {
		conf = &tls.Config{}
	}
	encrypted := func(p *place.Place, scheme string) (string, *tls.Config) {
		s, address, _ := strings.Cut(p.URL, "://")
		if s != scheme {
			return address, nil
		}
		return address, conf
	}
	return map[string]relay.Opener{
		"irc": func(p *place.Place, password string) relay.Talk {
			cfg := irc.Config{Account: p.Account, Password: password, Room: p.Room, Lines: ircLines, Window: ircWindow, Dial: way.DialContext, Log: log}
			cfg.Address, cfg.TLS = encrypted(p, "ircs")
			cfg.Address = withPort(cfg.Address, map[bool]string{true: "6697", false: "6667"}[cfg.TLS != nil])
			return newIRC(cfg)
		},
		"xmpp": func(p *place.Place, password string) relay.Talk {
			cfg := xmpp.Config{Account: p.Account, Password: password, Room: p.Room, Dial: way.DialContext}
			cfg.Address, cfg.TLS = encrypted(p, "xmpps")
			cfg.Address = withPort(cfg.Address, "5222")
			return xmpp.Open(cfg)
		},
	}
}

// What a network of IRC commonly lets somebody say who is nobody in particular.
const (
	ircLines  = 4
	ircWindow = 8 * time.Second
)

// withPort puts the usual port behind an address that names none.
func withPort(address, port string) string {
	if _, _, err := net.SplitHostPort(address); err == nil {
		return address
	}
	return net.JoinHostPort(strings.Trim(address, "[]"), port)
}

// overIRC is a talk in a channel.
type overIRC struct {
	client *irc.Client
	room   string
	end    context.CancelFunc
	states chan struct{} // the connection changed
}

func newIRC(cfg irc.Config) *overIRC {
	ctx, end := context.WithCancel(context.Background())
	x := &overIRC{room: cfg.Room, end: end, states: make(chan struct{}, 1)}
	cfg.OnState = func(irc.Health) {
		select {
		case x.states <- struct{}{}:
		default:
		}
	}
	x.client = irc.New(cfg)
	go x.client.Run(ctx)
	return x
}

// Say says a text in the channel. A network answers no line, so a line to oneself is sent behind it: once that is back,
// the one before it was taken, and a refusal of it would have been heard.
func (x *overIRC) Say(ctx context.Context, _, text string) error {
	if err := x.open(ctx); err != nil {
		return err
	}
	n, err := x.client.Say(ctx, text)
	switch {
	case errors.Is(err, irc.ErrMayNot):
		return &relay.Fault{Why: fmt.Sprintf("the house may not speak in %s: it needs a voice there, or was banned", x.room), Final: true, Shut: true}
	case err != nil:
		return &relay.Fault{Why: "the connection to the place broke", Unsure: n > 0}
	}
	if _, err := x.client.Check(ctx); err != nil {
		return &relay.Fault{Why: "the place did not answer in time", Unsure: true}
	}
	if h := x.client.Health(); h.State == irc.Open && (!h.MaySpeak || h.Reason != "") {
		return &relay.Fault{Why: fmt.Sprintf("the house may not speak in %s: it needs a voice there (%s)", x.room, h.Reason), Final: true, Shut: true}
	}
	return nil
}

// open waits until the channel is entered, or cannot be.
func (x *overIRC) open(ctx context.Context) error {
	for {
		switch h := x.client.Health(); {
		case h.State == irc.Open:
			return nil
		case h.State == irc.Refused:
			return &relay.Fault{Why: h.Reason, Final: true, Shut: true}
		}
		select {
		case <-x.states:
		case <-ctx.Done():
			why := "the place does not answer"
			if h := x.client.Health(); h.Reason != "" {
				why = h.Reason
			}
			return &relay.Fault{Why: why}
		}
	}
}

// Close leaves the channel.
func (x *overIRC) Close() { x.end() }
