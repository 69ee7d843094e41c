package porch

import (
	"cmp"
	"context"
	"crypto/tls"
	"errors"
	"maps"
	"reflect"
	"sync"
	"time"

	"vividporch/core/chat"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/doors/irc"
)

// keepDoors opens every chat door of the settings, keeps it open, and goes along with
// every change of them.
func (h *House) keepDoors(ctx context.Context) {
	for {
		select {
		case <-ctx.Done():
			for _, c := range h.chatsNow() {
				c.stop()
			}
			return
		case <-h.tend:
			h.tendDoors(ctx)
		}
	}
}

// tendDoors makes the chat doors what the settings say: new ones are opened, those that
// are no more are closed, and changed ones both. What waits to be said waits on.
func (h *House) tendDoors(ctx context.Context) {
	settings := h.plan.Load().Settings
	was := h.chatsNow()
	for name, c := range was {
		if d := settings.DoorNamed(name); d == nil || d.Kind != "irc" {
			c.stop()
			h.mu.Lock()
			delete(h.chats, name)
			h.mu.Unlock()
			h.unsaid(c, "the door was taken away")
		}
	}
	for _, d := range settings.Doors {
		old := was[d.Name]
		if d.Kind != "irc" || old != nil && reflect.DeepEqual(old.ear.Door, d) {
			continue
		}
		lines := make(chan hall.Decision, 1000)
		if old != nil {
			old.stop()
			if lines = old.lines; old.ear.Door.Platform != d.Platform || old.ear.Door.As != d.As {
				lines = make(chan hall.Decision, 1000)
				h.unsaid(old, "the door leads elsewhere now")
			}
		}
		h.openDoor(ctx, d, lines)
	}
}

func (h *House) openDoor(ctx context.Context, d housefile.Door, lines chan hall.Decision) {
	c := &line{ear: chat.Ear{Door: d}, lines: lines}
	password, err := h.store.Safe.SecretTo(ctx, h.ID, d.Name, "password", d.ChatOrigin())
	refuse := ""
	if err != nil { // the password goes nowhere, and the house does not go there without it
		h.log.Error("the door stays shut", "door", d.Name, "error", err)
		refuse = err.Error()
	}
	p := d.Profile
	cfg := irc.Config{Address: d.Address, Account: d.Account, Password: password, Refuse: refuse, Dial: h.way.DialContext, Room: d.Room,
		Lines: p.Lines, Window: time.Duration(p.WindowSeconds * float64(time.Second)), MaxBytes: p.MaxBytes, CommandSigns: "/.!\\" + p.CommandSigns, Log: h.log,
		OnLine:  func(l chat.Line) { h.heard(c, l) },
		OnRoom:  func(m chat.Moved) { h.hinted(d, c.ear.Moved(m)) },
		OnNick:  func(n chat.Nicked) { h.hinted(d, c.ear.Renamed(n)) },
		OnState: func(s irc.Health) { h.doorState(d, s) }}
	if d.TLS {
		cfg.TLS = &tls.Config{MinVersion: tls.VersionTLS12}
	}
	c.client = irc.New(cfg)
	run, cancel := context.WithCancel(ctx)
	var wg sync.WaitGroup
	c.stop = func() { cancel(); wg.Wait() }
	h.mu.Lock()
	h.chats[d.Name] = c
	h.mu.Unlock()
	wg.Go(func() { c.client.Run(run) })
	wg.Go(func() { h.speaker(run, c) })
}

// unsaid tells of lines that waited for a door that is no more.
func (h *House) unsaid(c *line, why string) {
	for {
		select {
		case d := <-c.lines:
			h.spoken(d, 0, errors.New(why))
		default:
			return
		}
	}
}

// chatsNow are the chat doors as they are.
func (h *House) chatsNow() map[string]*line {
	h.mu.Lock()
	defer h.mu.Unlock()
	return maps.Clone(h.chats)
}

// heard hands on what somebody said in chat.
func (h *House) heard(c *line, l chat.Line) {
	said, id, at := c.ear.Said(l)
	if said == nil || h.isEcho(c.ear.Door.Platform, l) {
		return
	}
	ev := h.from(c.ear.Door, said)
	if ev.ID = cmp.Or(id, ev.ID); !at.IsZero() {
		ev.Time = at
	}
	ev.Clean() // before it is checked: what is checked is what is kept
	if err := said.Validate(); err != nil {
		h.log.Warn("a chat line cannot be taken", "door", c.ear.Door.Name, "error", err)
		return
	}
	h.SubmitSoon(ev)
}

// hinted hands on that somebody came, went or has another nick.
func (h *House) hinted(d housefile.Door, data event.Data) {
	if data != nil {
		h.SubmitSoon(h.from(d, data))
	}
}

func (h *House) from(d housefile.Door, data event.Data) event.Event {
	ev := h.ownEvent(data)
	ev.Door, ev.Source = d.Name, d.Room
	return ev
}

func (h *House) doorState(d housefile.Door, s irc.Health) {
	h.tell(&event.DoorChanged{Name: d.Name, Platform: d.Platform, State: string(s.State), Account: s.Account, MaySpeak: s.MaySpeak, MayModerate: s.MayModerate, Reason: s.Reason})
}

// speak queues a line for the chat of its platform.
func (h *House) speak(d hall.Decision) {
	h.mu.Lock()
	var to *line
	for _, c := range h.chats {
		if c.ear.Door.Platform == d.Platform && c.ear.Door.As == d.As {
			to = c
		}
	}
	h.mu.Unlock()
	if to == nil {
		h.spoken(d, 0, errors.New("the house has no chat door there"))
		return
	}
	select {
	case to.lines <- d:
	default:
		h.spoken(d, 0, errors.New("too many lines wait for this network"))
	}
}

// isEcho reports whether a line is one that the house itself has just said under the
// streamer's account.
func (h *House) isEcho(platform string, l chat.Line) bool {
	h.mu.Lock()
	defer h.mu.Unlock()
	return h.echoes.Heard(platform, l, h.clock.now())
}

// speaker says one chat's lines in order, each at most once, and logs what became
// of it.
func (h *House) speaker(ctx context.Context, c *line) {
	for {
		select {
		case <-ctx.Done():
			return
		case d := <-c.lines:
			if ctx.Err() != nil { // for the door that takes this one's place
				select {
				case c.lines <- d:
				default:
					h.spoken(d, 0, ctx.Err())
				}
				return
			}
			if c.ear.Door.As == output.AsStreamer {
				h.mu.Lock()
				h.echoes.Expect(c.ear.Door.Platform, c.ear.Door.Account, d.Text, h.clock.now())
				h.mu.Unlock()
			}
			sctx, cancel := context.WithTimeout(ctx, speakWithin)
			n, err := c.client.Say(sctx, d.Text)
			cancel()
			h.spoken(d, n, err)
		}
	}
}

func (h *House) spoken(d hall.Decision, n int, err error) {
	o := event.SpeechOutcome{Line: d.Line, Platform: d.Platform, Text: d.Text, About: d.Whom()}
	switch {
	case err == nil:
		h.tell(&event.SpeechSaid{SpeechOutcome: o})
	case n > 0: // part of it was handed to the socket
		o.Reason = err.Error()
		h.tell(&event.SpeechUncertain{SpeechOutcome: o})
	default:
		o.Reason = err.Error()
		h.tell(&event.SpeechRefused{SpeechOutcome: o})
	}
}
