// Package gate keeps what came in at each door lately: as it came, with secrets blanked, and
// as it was understood. It is for looking at a door that does not do what was expected, is kept
// in memory alone, and is gone with a restart and with every forgetting.
package gate

import (
	"encoding/json"
	"strings"
	"sync"
	"time"

	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/plain"
)

// Limits of what is kept of a door.
const (
	Kept    = 50   // things
	rawMost = 2000 // bytes of one
)

// Came is one thing that came in at a door.
type Came struct {
	At         time.Time
	Raw        string // as it came, secrets blanked
	Understood string // as it was understood; "" for what is nobody's business
}

// Gate keeps what came in at every door. Its methods may be called from any goroutine; the zero
// Gate is ready.
type Gate struct {
	mu     sync.Mutex
	came   map[string][]Came // by door, the newest last
	hidden map[string][]string
}

// Hide says which secrets of a door are blanked from now on.
func (g *Gate) Hide(door string, secrets ...string) {
	g.mu.Lock()
	defer g.mu.Unlock()
	if g.hidden == nil {
		g.hidden = map[string][]string{}
	}
	g.hidden[door] = secrets
}

const blank = "••••"

// Heard notes what came in at a door.
func (g *Gate) Heard(door, raw, understood string, at time.Time) {
	g.mu.Lock()
	defer g.mu.Unlock()
	for _, secret := range g.hidden[door] {
		if secret != "" {
			raw = strings.ReplaceAll(raw, secret, blank)
		}
	}
	if g.came == nil {
		g.came = map[string][]Came{}
	}
	list := append(g.came[door], Came{At: at, Raw: event.Shortened(strings.ToValidUTF8(raw, "�"), rawMost), Understood: understood})
	if len(list) >= 2*Kept { // moved together once in a while only
		list = append(make([]Came, 0, 2*Kept), list[len(list)-Kept:]...)
	}
	g.came[door] = list
}

// Understood says how the last thing that came in at a door was understood.
func (g *Gate) Understood(door, words string) {
	g.mu.Lock()
	defer g.mu.Unlock()
	if list := g.came[door]; len(list) > 0 {
		list[len(list)-1].Understood = words
	}
}

// Last are the last things that came in at a door, the newest first.
func (g *Gate) Last(door string) []Came {
	g.mu.Lock()
	defer g.mu.Unlock()
	list := g.came[door]
	out := make([]Came, 0, Kept)
	for i := len(list) - 1; i >= 0 && len(out) < Kept; i-- {
		out = append(out, list[i])
	}
	return out
}

// Forget drops all that was kept: somebody who is in it was forgotten.
func (g *Gate) Forget() {
	g.mu.Lock()
	defer g.mu.Unlock()
	g.came = nil
}

// Words say how an event was understood: what it is, of whom, and its data.
func Words(ev *event.Event) string {
	words := []string{happening.Of(ev.Type).Words}
	if words[0] == "" {
		words[0] = ev.Type
	}
	if who := ev.Who(); who != nil {
		words = append(words, plain.Name(who.Shown()))
	}
	if raw, err := json.Marshal(ev.Data); err == nil {
		words = append(words, event.Shortened(string(raw), rawMost))
	}
	return strings.Join(words, " · ")
}
