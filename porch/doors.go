package porch

import (
	"cmp"
	"context"
	"crypto/tls"
	"errors"
	"fmt"
	"maps"
	"reflect"
	"sync"
	"time"

	"vividporch/core/chat"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/core/pace"
	"vividporch/core/room"
	"vividporch/doors/irc"
	"vividporch/porch/gate"
	"vividporch/porch/services"
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
			h.Services.Close()
			return
		case <-h.tend:
			h.tendDoors(ctx)
		}
	}
}

// tendDoors makes the chat doors what the settings say: new ones are opened, those that
// are no more are closed, and changed ones both. What waits to be said waits on.
func (h *House) tendDoors(ctx context.Context) {
	if h.held.Load() {
		return
	}
	settings := h.plan.Load().Settings
	was := h.chatsNow()
	h.mu.Lock()
	again := h.again
	h.again = nil
	h.mu.Unlock()
	h.Services.Tend(ctx, again)
	for name, c := range was {
		if d := settings.DoorNamed(name); d == nil || d.Kind != "irc" || d.Paused {
			c.stop()
			h.mu.Lock()
			delete(h.chats, name)
			h.mu.Unlock()
			why := "the door was taken away"
			if d != nil && d.Paused {
				why = pausedWhy
				h.tell(&event.DoorChanged{Name: d.Name, Platform: d.Platform, State: string(paused), Account: d.Account, Reason: pausedWhy})
			}
			h.unsaid(c, why)
		}
	}
	for _, d := range settings.Doors {
		old := was[d.Name]
		if d.Kind != "irc" || d.Paused || old != nil && reflect.DeepEqual(old.ear.Door, d) && reflect.DeepEqual(old.ear.Chat, settings.Profile(d.Platform).Chat) && !again[d.Name] {
			continue
		}
		out := newOutgoing()
		if old != nil {
			old.stop()
			if old.ear.Door.Platform == d.Platform && old.ear.Door.As == d.As {
				out = old.out
			} else {
				h.unsaid(old, "the door leads elsewhere now")
			}
		}
		h.openDoor(ctx, d, out)
	}
}

// paused is the state of a door that a member keeps shut.
const (
	paused    irc.State = "paused"
	pausedWhy           = "the door is paused"
)

// Reopen opens a door that the house opens itself anew, whatever state it is in.
func (h *House) Reopen(door string) error {
	if d := h.plan.Load().DoorNamed(door); d == nil || d.Kind != "irc" && d.Kind != "listen" {
		return fmt.Errorf("there is no door %q that the house opens", door)
	}
	h.mu.Lock()
	if h.again == nil {
		h.again = map[string]bool{}
	}
	h.again[door] = true
	h.mu.Unlock()
	select {
	case h.tend <- struct{}{}:
	default: // the doors are to be looked at anyway
	}
	return nil
}

func (h *House) openDoor(ctx context.Context, d housefile.Door, out *outgoing) {
	p := &h.plan.Load().Profile(d.Platform).Chat
	c := &line{ear: chat.Ear{Door: d, Chat: *p}, out: out}
	password, err := h.store.Safe.SecretTo(ctx, h.ID, d.Name, "password", d.ChatOrigin())
	refuse := ""
	if err != nil { // the password goes nowhere, and the house does not go there without it
		h.log.Error("the door stays shut", "door", d.Name, "error", err)
		refuse = err.Error()
	}
	h.Gate.Hide(d.Name, password)
	fresh := func() string { return password }
	if p.TokenLogin {
		fresh = func() string {
			token, err := h.SignIns.ChatToken(ctx, &d)
			if err != nil {
				h.log.Warn("the chat is entered without its token", "door", d.Name, "error", err)
			}
			if token == "" {
				return password
			}
			h.Gate.Hide(d.Name, password, token)
			return token
		}
	}
	cfg := irc.Config{Fresh: fresh, Address: d.Address, Account: d.Account, Password: password, Refuse: refuse, Dial: h.way.DialContext, Room: d.Room,
		Lines: p.Lines, Window: room.Seconds(p.WindowSeconds), MaxBytes: p.MaxBytes, CommandSigns: "/.!\\" + p.CommandSigns, Log: h.log,
		OnRaw:   func(raw string) { h.Gate.Heard(d.Name, raw, "", h.clock.now()) },
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
	gone, cancel := context.WithCancel(context.Background())
	cancel()
	for d, ok := c.out.take(gone); ok; d, ok = c.out.take(gone) {
		h.spoken(d.Decision, 0, errors.New(why))
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
		h.Gate.Understood(c.ear.Door.Name, "the house's own line, come back")
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
	h.Gate.Understood(c.ear.Door.Name, gate.Words(&ev))
	if h.Claims.Wants(said.Text) { // whoever says a phrase is to be in the book before they are looked for there
		go h.claimed(c.ear.Door, ev)
		return
	}
	h.SubmitSoon(ev)
}

// claimed takes in a line that may be the phrase of a member who says whose account is theirs.
func (h *House) claimed(d housefile.Door, ev event.Event) {
	ctx, cancel := context.WithTimeout(context.Background(), speakWithin)
	defer cancel()
	if rs, err := h.Submit(ctx, []event.Event{ev}); err != nil || rs[0].Aside != "" {
		return
	}
	if said, ok := ev.Data.(*happening.ChatSaid); ok {
		h.Claims.Heard(ctx, &h.plan.Load().Profile(d.Platform).Chat, said, h.clock.now())
	}
}

// hinted hands on that somebody came, went or has another nick.
func (h *House) hinted(d housefile.Door, data event.Data) {
	if data != nil {
		ev := h.from(d, data)
		h.Gate.Understood(d.Name, gate.Words(&ev))
		h.SubmitSoon(ev)
	}
}

func (h *House) from(d housefile.Door, data event.Data) event.Event {
	ev := h.ownEvent(data)
	ev.Door, ev.Source = d.Name, d.Room
	return ev
}

func (h *House) doorState(d housefile.Door, s irc.Health) {
	if s.State == irc.Open { // after an outage, too: what happened meanwhile is asked for
		go h.SignIns.Check(h.running, d.Platform)
	}
	h.tell(&event.DoorChanged{Name: d.Name, Platform: d.Platform, State: string(s.State), Account: s.Account, MaySpeak: s.MaySpeak, MayModerate: s.MayModerate, Reason: s.Reason})
}

// outgoing are the lines on their way out by one door. The door that takes its place goes on with them.
type outgoing struct {
	lines chan leaving
	first *leaving // was taken by a speaker that ended before it said it
	last  pace.Spacing
}

// mostOutgoing is how many lines wait for one door.
const mostOutgoing = 1000

func newOutgoing() *outgoing { return &outgoing{lines: make(chan leaving, mostOutgoing)} }

// leaving is a line, and when it was decided that it leaves.
type leaving struct {
	hall.Decision
	decided time.Time
}

// take is the next line, waited for; once ctx is done only one that is there.
func (o *outgoing) take(ctx context.Context) (d leaving, ok bool) {
	if o.first != nil {
		d, o.first = *o.first, nil
		return d, true
	}
	select {
	case d = <-o.lines:
		return d, true
	default:
	}
	select {
	case d = <-o.lines:
		return d, true
	case <-ctx.Done():
		return d, false
	}
}

// speak queues a line for the chat of its platform.
func (h *House) speak(d hall.Decision, decided time.Time) {
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
	case to.out.lines <- leaving{d, decided}:
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
	for ctx.Err() == nil {
		d, ok := c.out.take(ctx)
		if !ok {
			return
		}
		gap := room.Seconds(h.plan.Load().Settings.Pace.GapSeconds)
		select {
		case <-time.After(c.out.last.Next(d.decided, gap).Sub(h.clock.now())):
		case <-ctx.Done():
		}
		if ctx.Err() != nil { // for the door that takes this one's place
			c.out.first = &d
			return
		}
		if c.ear.Door.As == output.AsStreamer || c.ear.Door.Shared { // what comes back is not the streamer's
			h.mu.Lock()
			h.echoes.Expect(c.ear.Door.Platform, c.ear.Door.Account, d.Text, h.clock.now())
			h.mu.Unlock()
		}
		sctx, cancel := context.WithTimeout(ctx, speakWithin)
		n, err := c.client.Say(sctx, d.Text)
		cancel()
		if n > 0 {
			c.out.last = pace.Spacing{Decided: d.decided, Left: h.clock.now()}
		}
		h.spoken(d.Decision, n, err)
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

// servicesOf are the doors of other services.
func (h *House) servicesOf() *services.Services {
	return services.New(services.Config{Channel: h.ID, Kept: h.store.Kept, Gate: &h.Gate, Clock: h.clock.now, Way: &h.way,
		Settings: func() *housefile.Settings { return h.plan.Load().Settings },
		Submit: func(ctx context.Context, evs []event.Event) ([]string, error) {
			rs, err := h.Submit(ctx, evs)
			aside := make([]string, len(rs))
			for i := range rs {
				aside[i] = rs[i].Aside
			}
			return aside, err
		},
		Secrets: h.allSecrets,
		SecretTo: func(ctx context.Context, name, slot, address string) (string, error) {
			return h.store.Safe.SecretTo(ctx, h.ID, name, slot, address)
		},
		Changed: func(d housefile.Door, state, reason string) {
			h.tell(&event.DoorChanged{Name: d.Name, Platform: d.Platform, State: state, Reason: reason})
		}})
}
