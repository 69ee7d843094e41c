package standin

import (
	"bufio"
	"bytes"
	"encoding/json"
	"math/rand/v2"
	"sync"
	"time"
)

// Player plays a written evening through the stand-ins: its chat lines are said
// in chat, everything else is sent as signed events, with fresh ids and the
// present time. Afterwards a quiet trickle keeps the place alive.
type Player struct {
	OnPlay func() // called as an evening begins; may be nil

	street *Street
	script []step

	mu      sync.Mutex
	cond    *sync.Cond
	speed   float64
	paused  bool
	playing bool
	at      int
	round   int
	stopped bool
}

type step struct {
	after time.Duration
	kind  string
	data  map[string]any
}

// PlayerState is how far the evening has got.
type PlayerState struct {
	Playing bool    `json:"playing"`
	Paused  bool    `json:"paused"`
	Speed   float64 `json:"speed"`
	At      int     `json:"at"`
	Of      int     `json:"of"`
	Minute  float64 `json:"minute"`
}

// demoSpeed is how much faster than life the evening plays.
const demoSpeed = 10

// NewPlayer reads a script.
func NewPlayer(s *Street, script []byte) (*Player, error) {
	p := &Player{street: s, speed: demoSpeed}
	p.cond = sync.NewCond(&p.mu)
	var first time.Time
	sc := bufio.NewScanner(bytes.NewReader(script))
	sc.Buffer(nil, 2<<20)
	for sc.Scan() {
		var e struct {
			Type string
			Time time.Time
			Data map[string]any
		}
		if len(bytes.TrimSpace(sc.Bytes())) == 0 {
			continue
		}
		if err := json.Unmarshal(sc.Bytes(), &e); err != nil {
			return nil, err
		}
		if first.IsZero() {
			first = e.Time
		}
		p.script = append(p.script, step{e.Time.Sub(first), e.Type, e.Data})
	}
	return p, sc.Err()
}

// Play starts the evening from its beginning; playing it again ends the one that
// is on.
func (p *Player) Play() {
	p.mu.Lock()
	p.round++
	round := p.round
	p.playing, p.paused, p.at = true, false, 0
	p.cond.Broadcast()
	p.mu.Unlock()
	go p.run(round)
}

// PlayOnce starts the evening unless it was started before.
func (p *Player) PlayOnce() {
	p.mu.Lock()
	begun := p.round > 0
	p.mu.Unlock()
	if !begun {
		p.Play()
	}
}

// Pause holds the evening, or lets it go on.
func (p *Player) Pause(on bool) {
	p.mu.Lock()
	defer p.mu.Unlock()
	p.paused = on
	p.cond.Broadcast()
}

// SetSpeed says how much faster than life it plays, from 0.1 to 10,000.
func (p *Player) SetSpeed(speed float64) {
	p.mu.Lock()
	defer p.mu.Unlock()
	p.speed = max(0.1, min(speed, 10_000))
}

// Stop ends the player.
func (p *Player) Stop() {
	p.mu.Lock()
	defer p.mu.Unlock()
	p.stopped = true
	p.round++
	p.cond.Broadcast()
}

// State tells how far the evening has got.
func (p *Player) State() PlayerState {
	p.mu.Lock()
	defer p.mu.Unlock()
	st := PlayerState{Playing: p.playing, Paused: p.paused, Speed: p.speed, At: p.at, Of: len(p.script)}
	if p.at > 0 && p.at <= len(p.script) {
		st.Minute = p.script[p.at-1].after.Minutes()
	}
	return st
}

// wait lets script time pass; false when this round is over.
func (p *Player) wait(d time.Duration, round int) bool {
	const slice = 20 * time.Millisecond
	for d > 0 {
		p.mu.Lock()
		for p.paused && p.round == round {
			p.cond.Wait()
		}
		speed, mine := p.speed, p.round == round
		p.mu.Unlock()
		if !mine {
			return false
		}
		part := min(d, time.Duration(float64(slice)*speed))
		time.Sleep(time.Duration(float64(part) / speed))
		d -= part
	}
	p.mu.Lock()
	defer p.mu.Unlock()
	return p.round == round
}

func (p *Player) run(round int) {
	// A play is a new stream, whatever was on before.
	if p.OnPlay != nil {
		p.OnPlay()
	}
	for _, pl := range p.street.Platforms {
		if pl.State().Live {
			pl.Shut(0)
		}
	}
	var at time.Duration
	for i, s := range p.script {
		if !p.wait(s.after-at, round) {
			return
		}
		at = s.after
		p.act(s)
		p.mu.Lock()
		p.at = i + 1
		p.mu.Unlock()
	}
	p.mu.Lock()
	if p.round == round {
		p.playing = false
	}
	p.mu.Unlock()
	p.trickle(round)
}

// act does one step of the script on the platform it belongs to.
func (p *Player) act(s step) {
	person, _ := s.data["person"].(map[string]any)
	name, _ := s.data["platform"].(string)
	if person != nil {
		name, _ = person["platform"].(string)
	}
	pl := p.street.Platforms[name]
	if pl == nil {
		return
	}
	str := func(k string) string { v, _ := s.data[k].(string); return v }
	switch s.kind {
	case "porch.chat.said":
		v := Viewer{}
		v.ID, _ = person["id"].(string)
		v.Login, _ = person["login"].(string)
		v.Name, _ = person["name"].(string)
		rs, _ := person["roles"].([]any)
		for _, r := range rs {
			if r, ok := r.(string); ok {
				v.Roles = append(v.Roles, r)
			}
		}
		pl.Chat.Say(v, str("text"))
	case "porch.stream.opened":
		pl.Open(str("title"), str("category"), 0)
	case "porch.stream.closed":
		pl.Shut(0)
	case "porch.stream.changed":
		pl.Change(str("title"), str("category"))
	default:
		pl.Send(s.kind, 0, s.data)
	}
}

// trickle says something every so often, at the speed of life.
func (p *Player) trickle(round int) {
	var lines []step
	for _, s := range p.script {
		if s.kind == "porch.chat.said" {
			lines = append(lines, s)
		}
	}
	for len(lines) > 0 {
		time.Sleep(time.Duration(6+rand.IntN(14)) * time.Second)
		p.mu.Lock()
		mine, paused := p.round == round, p.paused
		p.mu.Unlock()
		if !mine {
			return
		}
		if !paused {
			p.act(lines[rand.IntN(len(lines))])
		}
	}
}
