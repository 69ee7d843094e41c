package porch

import (
	"context"
	"sync"
	"time"

	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/house"
)

// PersonHere finds somebody of this stream, or of the time since the last one, by
// account; nil when they have not been seen.
func (h *House) PersonHere(ctx context.Context, account string) (*event.Person, error) {
	var who *event.Person
	err := h.look(ctx, func(s *house.State) {
		for _, gs := range []map[string]*hall.Guest{s.Tonight, s.Between} {
			if g := gs[account]; g != nil {
				p := personOf(account, g)
				who = &p
				return
			}
		}
		for _, r := range s.Raids {
			if r.Person.Key() == account {
				p := r.Person
				who = &p
			}
		}
	})
	return who, err
}

func personOf(account string, g *hall.Guest) event.Person {
	p := event.Person{Login: g.Login, Name: g.Name, Roles: g.Roles}
	for i := range account {
		if account[i] == ':' {
			p.Platform, p.ID = account[:i], account[i+1:]
			break
		}
	}
	return p
}

// WaitingItem finds something in Waiting for you; nil when it waits no longer.
func (h *House) WaitingItem(ctx context.Context, id string) (*hall.Item, error) {
	var found *hall.Item
	err := h.look(ctx, func(s *house.State) {
		for _, it := range s.Waiting {
			if it.ID == id {
				found = &it
			}
		}
	})
	return found, err
}

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
