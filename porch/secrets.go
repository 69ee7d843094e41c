package porch

import (
	"context"
	"crypto/rand"
	"encoding/base64"
	"errors"
	"sync"
	"time"

	"vividporch/core/event"
	"vividporch/store/safe"
)

// SeenDoor notes that an inbox door was used just now.
func (h *House) SeenDoor(name string) { h.inboxSeen.Store(name, time.Now()) }

// Entered tells that a member signed in.
func (h *House) Entered() {
	if h.cfg.OnEntered != nil {
		h.cfg.OnEntered()
	}
}

// secretsFor is how long a door's secrets are kept in memory: a rotation is in
// force so soon.
const secretsFor = 5 * time.Second

// secretsWithin is how long they are waited for: all that comes in waits with them.
const secretsWithin = 2 * time.Second

type doorSecrets struct {
	mu   sync.Mutex
	all  []string // the house's, of every name
	when time.Time
	at   map[string]time.Time
	list map[string][]string
}

// SetSecret keeps a secret from a member's hand.
func (h *House) SetSecret(ctx context.Context, name, slot, value string) error {
	if err := h.Desk.SetSecret(ctx, name, slot, value); err != nil {
		return err
	}
	return h.changedSecret(name)
}

// changedSecret makes a changed secret hold at once: a chat door is opened anew with it.
func (h *House) changedSecret(name string) error {
	h.secrets.mu.Lock()
	delete(h.secrets.at, name)
	h.secrets.when = time.Time{}
	h.secrets.mu.Unlock()
	if d := h.plan.Load().Whole.DoorNamed(name); d != nil && (d.Kind == "irc" || d.Kind == "listen") {
		return h.Reopen(name)
	}
	return nil
}

// DropSecret forgets a secret.
func (h *House) DropSecret(ctx context.Context, name, slot string) error {
	if err := h.store.Safe.DropSecret(ctx, h.ID, name, slot); err != nil {
		return err
	}
	return h.changedSecret(name)
}

// secretBytes is the length of a signing secret that the house makes: Standard Webhooks asks for
// 24 to 64.
const secretBytes = 32

// allSecrets are all that the house keeps secret, as of a moment ago.
func (h *House) allSecrets(ctx context.Context) ([]string, error) {
	d := &h.secrets
	d.mu.Lock()
	defer d.mu.Unlock()
	if time.Since(d.when) < secretsFor {
		return d.all, nil
	}
	ctx, cancel := context.WithTimeout(ctx, secretsWithin)
	defer cancel()
	all, err := h.store.Safe.Values(ctx, h.ID)
	if err == nil {
		d.all, d.when = all, time.Now()
	}
	return all, err
}

// MakeSecret makes a signing secret for a door for happenings and returns it, this once. The one
// before it stays good until the next is made, so that the sender can be changed meanwhile.
func (h *House) MakeSecret(ctx context.Context, door string) (string, error) {
	d := h.plan.Load().Whole.DoorNamed(door)
	if d == nil || d.Kind != "inbox" && d.Kind != "hook" {
		return "", &event.FieldError{Field: "name", Remedy: "is no door for happenings; reload the page"}
	}
	was, err := h.store.Safe.Secrets(ctx, h.ID, door)
	if err != nil && !errors.Is(err, safe.ErrKey) {
		return "", err
	}
	if was["secret"] != "" {
		if err := h.Desk.SetSecret(ctx, door, "secret-old", was["secret"]); err != nil {
			return "", err
		}
	}
	raw := make([]byte, secretBytes)
	rand.Read(raw)
	secret := "whsec_" + base64.StdEncoding.EncodeToString(raw)
	return secret, h.SetSecret(ctx, door, "secret", secret)
}

// DoorSecrets are the secrets valid for an inbox door: one, or two while they
// are being changed.
func (h *House) DoorSecrets(ctx context.Context, door string) ([]string, error) {
	d := &h.secrets
	d.mu.Lock()
	defer d.mu.Unlock()
	if time.Since(d.at[door]) < secretsFor {
		return d.list[door], nil
	}
	ctx, cancel := context.WithTimeout(ctx, secretsWithin)
	defer cancel()
	m, err := h.store.Safe.Secrets(ctx, h.ID, door)
	if err != nil {
		return nil, err
	}
	var list []string
	for _, slot := range []string{"secret", "secret-old"} {
		if m[slot] != "" {
			list = append(list, m[slot])
		}
	}
	if d.at == nil {
		d.at, d.list = map[string]time.Time{}, map[string][]string{}
	}
	d.at[door], d.list[door] = time.Now(), list
	return list, nil
}
