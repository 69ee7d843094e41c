package porch

import (
	"context"
	"sync"
	"time"
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
	at   map[string]time.Time
	list map[string][]string
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
