package porch

import (
	"context"
	"crypto/tls"
	"errors"
	"maps"
	"reflect"
	"slices"
	"strings"
	"sync"
	"time"

	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
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
		if d.Kind != "irc" || old != nil && reflect.DeepEqual(old.door, d) {
			continue
		}
		lines := make(chan hall.Decision, 1000)
		if old != nil {
			old.stop()
			if lines = old.lines; old.door.Platform != d.Platform || old.door.As != d.As {
				lines = make(chan hall.Decision, 1000)
				h.unsaid(old, "the door leads elsewhere now")
			}
		}
		h.openDoor(ctx, d, lines)
	}
}

func (h *House) openDoor(ctx context.Context, d housefile.Door, lines chan hall.Decision) {
	c := &chat{door: d, lines: lines}
	password, err := h.store.Safe.SecretTo(ctx, h.ID, d.Name, "password", d.ChatOrigin())
	refuse := ""
	if err != nil { // the password goes nowhere, and the house does not go there without it
		h.log.Error("the door stays shut", "door", d.Name, "error", err)
		refuse = err.Error()
	}
	p := d.Profile
	cfg := irc.Config{Address: d.Address, Account: d.Account, Password: password, Refuse: refuse, Dial: h.way.DialContext, Room: d.Room,
		Lines: p.Lines, Window: time.Duration(p.WindowSeconds * float64(time.Second)), MaxBytes: p.MaxBytes, CommandSigns: "/.!\\" + p.CommandSigns, Log: h.log,
		OnLine:  func(l irc.Line) { h.heard(c, l) },
		OnRoom:  func(m irc.Moved) { h.moved(c, m) },
		OnNick:  func(n irc.Nicked) { h.renamed(c, n) },
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
func (h *House) unsaid(c *chat, why string) {
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
func (h *House) chatsNow() map[string]*chat {
	h.mu.Lock()
	defer h.mu.Unlock()
	return maps.Clone(h.chats)
}

// heard turns a line of chat into an event. The platform's own id is the identity
// where it gives one; on a plain network it is the account or the nick.
func (h *House) heard(c *chat, l irc.Line) {
	d := c.door
	if l.Own || d.As == output.AsStreamer || h.saidAsStreamer(d.Platform, l) {
		return
	}
	p := d.Profile
	data := &happening.ChatSaid{Text: l.Text}
	data.Person = event.Person{Platform: d.Platform, ID: l.Tags[p.IDTag], Login: l.Nick, Name: l.Tags[p.NameTag]}
	if data.Person.ID == "" {
		data.Person.ID, data.Person.Nick = c.known(l.Nick), true
		if l.Account != "" { // the network knows who signed in
			data.Person.ID, data.Person.Nick = strings.ToLower(l.Account), false
		}
	}
	if p.RolesTag != "" {
		for _, word := range strings.Split(l.Tags[p.RolesTag], ",") {
			if r := p.Roles[word]; r != "" {
				data.Person.Roles = append(data.Person.Roles, event.Role(r))
			}
		}
	}
	ev := h.ownEvent(data)
	ev.Door, ev.Source = d.Name, d.Room
	if p.MessageTag != "" && l.Tags[p.MessageTag] != "" {
		data.MessageID = l.Tags[p.MessageTag]
		ev.ID = data.MessageID
	}
	if p.TimeTag != "" {
		if t, err := time.Parse(time.RFC3339Nano, l.Tags[p.TimeTag]); err == nil {
			ev.Time = t
		}
	}
	ev.Clean() // before it is checked: what is checked is what is kept
	if err := data.Validate(); err != nil {
		h.log.Warn("a chat line cannot be taken", "door", d.Name, "error", err)
		return
	}
	h.SubmitSoon(ev)
}

// moved hands on that somebody came or went; a hint only.
func (h *House) moved(c *chat, m irc.Moved) {
	d := c.door
	if d.As == output.AsStreamer {
		return
	}
	id := m.Tags[d.Profile.IDTag]
	if id == "" {
		id = c.known(m.Nick)
		if !m.Entered {
			c.gone(m.Nick)
		}
	}
	who := event.Person{Platform: d.Platform, ID: id, Login: m.Nick}
	if m.Entered {
		data := &happening.PersonEntered{}
		data.Person = who
		h.SubmitSoon(h.from(d, data))
		return
	}
	data := &happening.PersonLeft{}
	data.Person = who
	h.SubmitSoon(h.from(d, data))
}

// renamed hands on that somebody has another nick on a network that knows people by
// nothing else: they stay who they are.
func (h *House) renamed(c *chat, n irc.Nicked) {
	d := c.door
	if d.As == output.AsStreamer || d.Profile.IDTag != "" && n.Tags[d.Profile.IDTag] != "" {
		return // the platform's own id goes on
	}
	data := &happening.PersonRenamed{Was: n.From}
	data.Person = event.Person{Platform: d.Platform, ID: strings.ToLower(n.Account), Login: n.To}
	if n.Account == "" {
		data.Person.ID, data.Person.Nick = c.renick(n.From, n.To), true
	}
	h.SubmitSoon(h.from(d, data))
}

// known is by which nick somebody was known first on this connection: their id.
func (c *chat) known(nick string) string {
	c.mu.Lock()
	defer c.mu.Unlock()
	return c.idOf(strings.ToLower(nick))
}

func (c *chat) idOf(nick string) string {
	if id := c.first[nick]; id != "" {
		return id
	}
	id := nick
	for slices.Contains(slices.Collect(maps.Values(c.first)), id) { // somebody else was known by it, and is still here
		id += "~"
	}
	return id
}

func (c *chat) renick(from, to string) string {
	c.mu.Lock()
	defer c.mu.Unlock()
	if c.first == nil {
		c.first = map[string]string{}
	}
	from, to = strings.ToLower(from), strings.ToLower(to)
	id := c.idOf(from)
	delete(c.first, from)
	if delete(c.first, to); id != to {
		c.first[to] = id
	}
	return id
}

func (c *chat) gone(nick string) {
	c.mu.Lock()
	defer c.mu.Unlock()
	delete(c.first, strings.ToLower(nick))
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
	var to *chat
	for _, c := range h.chats {
		if c.door.Platform == d.Platform && c.door.As == d.As {
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

// echoFor is how long a line said under the streamer's account is waited for at
// the house's own door, where it comes in like anybody's.
const echoFor = 20 * time.Second

// saidAsStreamer reports whether a line is one that the house itself has just said
// under the streamer's account. It is taken off the list: the streamer may say the
// same again.
func (h *House) saidAsStreamer(platform string, l irc.Line) bool {
	h.mu.Lock()
	defer h.mu.Unlock()
	now := time.Now()
	h.echoes = slices.DeleteFunc(h.echoes, func(e echo) bool { return now.Sub(e.at) > echoFor })
	i := slices.IndexFunc(h.echoes, func(e echo) bool {
		return e.platform == platform && strings.EqualFold(e.account, l.Nick) && (e.text == l.Text || len(l.Text) > 20 && strings.HasPrefix(e.text, l.Text))
	})
	if i < 0 {
		return false
	}
	h.echoes = slices.Delete(h.echoes, i, i+1)
	return true
}

// echo is a line said as the streamer, that will come in at the house's own door.
type echo struct {
	platform, account, text string
	at                      time.Time
}

// speaker says one chat's lines in order, each at most once, and logs what became
// of it.
func (h *House) speaker(ctx context.Context, c *chat) {
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
			if c.door.As == output.AsStreamer {
				h.mu.Lock()
				h.echoes = append(h.echoes, echo{c.door.Platform, c.door.Account, d.Text, time.Now()})
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
