package standin

import (
	"bytes"
	"context"
	"crypto/rand"
	"encoding/json"
	"io"
	"log/slog"
	"net/http"
	"slices"
	"strconv"
	"sync"
	"time"

	webhooks "github.com/standard-webhooks/standard-webhooks/libraries/go"
)

// Platform is a stand-in streaming platform: a chat, a stream that is on or off,
// and a sender of signed events.
type Platform struct {
	Name    string
	Channel string
	Chat    *Chat

	inbox     string
	streamers []Streamer
	log       *slog.Logger
	clock     func() time.Time
	out       sender
	signins   *signins
	told      []toldEvent // lately, oldest first
	faces     string      // where people's pictures are; "" for nowhere
	deaf      bool        // its events reach nobody: they are only told to who asks

	tellMu          sync.Mutex // of what is told
	mu              sync.Mutex
	secret          string // that its events are signed with
	live            bool
	title, category string
	modes, vips     []string
	did             map[string]time.Time // what it does not do again at once, and about whom
	advert          time.Time            // of the last break
	deeds           []Deed               // what the house had it do, newest last
	held            map[string]heldLine  // lines that wait for a moderator, by their ids
}

// person is a viewer as this platform's events name them.
func (p *Platform) person(v Viewer) map[string]any {
	out := map[string]any{"platform": p.Name, "id": v.ID, "login": v.Login, "name": v.Name, "roles": v.Roles}
	if p.faces != "" && v.Login != "tidewrack" { // who keeps none is known by letters
		out["picture"] = p.faces + v.Login + ".png"
	}
	return out
}

// heldLine is a line that the platform holds back.
type heldLine struct {
	viewer Viewer
	text   string
}

// Hold holds a viewer's line back, and tells of it.
func (p *Platform) Hold(v Viewer, text, why string) {
	p.mu.Lock()
	defer p.mu.Unlock()
	if p.held == nil {
		p.held = map[string]heldLine{}
	}
	id := "held-" + strconv.Itoa(len(p.held)+len(p.deeds)+1)
	p.held[id] = heldLine{v, text}
	p.Send("porch.chat.held", 0, map[string]any{"person": p.person(v), "text": text, "messageId": id, "why": why})
}

// SetSecret says what events are signed with from now on, as a streamer would on a platform's own
// page; and where they are sent, unless that is "".
func (p *Platform) SetSecret(secret, inbox string) {
	p.mu.Lock()
	defer p.mu.Unlock()
	p.secret = secret
	if inbox != "" {
		p.inbox = inbox
	}
}

func (p *Platform) sealed() (secret, inbox string) {
	p.mu.Lock()
	defer p.mu.Unlock()
	return p.secret, p.inbox
}

// Send sends an event that happened so long ago.
func (p *Platform) Send(kind string, ago time.Duration, data map[string]any) string {
	id := "st-" + rand.Text()
	body, _ := json.Marshal(map[string]any{"specversion": "1.0", "id": id, "source": "https://" + p.Name + ".example/events", "type": kind,
		"time": p.clock().Add(-ago).UTC().Format(time.RFC3339Nano), "datacontenttype": "application/json", "data": data})
	p.tellMu.Lock()
	p.told = append(p.told[max(0, len(p.told)-500):], toldEvent{p.clock().Add(-ago), body})
	deaf := p.deaf
	p.tellMu.Unlock()
	if !deaf {
		p.enqueue(envelope{id, body})
	}
	return id
}

// toldEvent is an event that happened here, for who asks what was missed.
type toldEvent struct {
	at   time.Time
	body []byte
}

// since are the events that happened since a moment.
func (p *Platform) since(at time.Time) (out []json.RawMessage) {
	p.tellMu.Lock()
	defer p.tellMu.Unlock()
	for _, e := range p.told {
		if !e.at.Before(at) {
			out = append(out, e.body)
		}
	}
	return out
}

// SetDeaf keeps the platform's events from whoever they are sent to.
func (p *Platform) SetDeaf(on bool) {
	p.tellMu.Lock()
	defer p.tellMu.Unlock()
	p.deaf = on
}

// post makes one attempt to hand an event to the house.
func (p *Platform) post(ctx context.Context, e envelope) (status int, said string, wait time.Duration) {
	secret, inbox := p.sealed()
	wh, err := webhooks.NewWebhook(secret)
	if err != nil {
		return 400, err.Error(), 0
	}
	now := time.Now() // of the signature, which is the machine's business
	sig, err := wh.Sign(e.id, now, e.body)
	if err != nil {
		return 400, err.Error(), 0
	}
	req, err := http.NewRequestWithContext(ctx, http.MethodPost, inbox, bytes.NewReader(e.body))
	if err != nil {
		return 400, err.Error(), 0
	}
	req.Header.Set("Content-Type", "application/cloudevents+json")
	req.Header.Set(webhooks.HeaderWebhookID, e.id)
	req.Header.Set(webhooks.HeaderWebhookTimestamp, strconv.FormatInt(now.Unix(), 10))
	req.Header.Set(webhooks.HeaderWebhookSignature, sig)
	res, err := http.DefaultClient.Do(req)
	if err != nil {
		return 0, err.Error(), 0
	}
	defer res.Body.Close()
	b, _ := io.ReadAll(io.LimitReader(res.Body, 4096))
	return res.StatusCode, string(b), retryAfter(res.Header)
}

func (p *Platform) info() map[string]any {
	return map[string]any{"platform": p.Name, "title": p.title, "category": p.category, "url": "https://" + p.Name + ".example/" + p.Channel}
}

// Open puts the stream on.
func (p *Platform) Open(title, category string, ago time.Duration) {
	p.mu.Lock()
	defer p.mu.Unlock()
	p.live, p.title, p.category = true, nonEmpty(title, p.title), nonEmpty(category, p.category)
	p.Send("porch.stream.opened", ago, p.info())
}

// Shut takes it off.
func (p *Platform) Shut(ago time.Duration) {
	p.mu.Lock()
	defer p.mu.Unlock()
	p.live = false
	p.Send("porch.stream.closed", ago, p.info())
}

// Change gives it another title or category.
func (p *Platform) Change(title, category string) {
	p.mu.Lock()
	defer p.mu.Unlock()
	p.title, p.category = nonEmpty(title, p.title), nonEmpty(category, p.category)
	p.Send("porch.stream.changed", 0, p.info())
}

func (p *Platform) find(id, login string) *Streamer {
	for i := range p.streamers {
		if s := &p.streamers[i]; s.ID == id || login != "" && s.Login == login {
			return s
		}
	}
	return nil
}

// Accepted lists the events the house answered with 202, by id.
func (p *Platform) Accepted() []string {
	p.out.mu.Lock()
	defer p.out.mu.Unlock()
	return slices.Clone(p.out.taken)
}

// State is how the platform stands.
func (p *Platform) State() PlatformState {
	p.mu.Lock()
	st := PlatformState{Name: p.Name, Live: p.live, Title: p.title, Category: p.category, Address: p.Chat.Address(), Modes: slices.Clone(p.modes), VIPs: slices.Clone(p.vips), Deeds: slices.Clone(p.deeds)}
	p.mu.Unlock()
	p.out.mu.Lock()
	st.Waiting, st.Refused = len(p.out.queue), p.out.refused
	p.out.mu.Unlock()
	st.Here = p.Chat.Here()
	heard := p.Chat.Heard("", p.clock().Add(-time.Hour))
	st.Heard = heard[max(0, len(heard)-60):]
	private := p.Chat.Privates()
	st.Private = private[max(0, len(private)-10):]
	return st
}
