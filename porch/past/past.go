// Package past looks at what was said in the last streams: what a rule of the guard would have touched, before it is switched on.
package past

import (
	"context"
	"slices"
	"sync"
	"time"

	"vividporch/core/attendance"
	"vividporch/core/event"
	"vividporch/core/guard"
	"vividporch/core/happening"
	"vividporch/core/housefile"
	"vividporch/core/trouble"
	"vividporch/store/log"
)

// How far back it is looked.
const (
	Streams   = 10
	mostLines = 200_000
	keptFor   = 5 * time.Minute // a measure is dragged: the lines are read once
	mostSome  = 60              // lines that are shown
	mostKnown = 400             // people who are looked up
)

// Config is what it needs of the house.
type Config struct {
	Settings func() *housefile.Settings
	Past     func() []attendance.Past // the last streams, oldest first
	Said     func(ctx context.Context, since time.Time, most int) ([]log.Said, error)
	Known    func(ctx context.Context, account string) (regular, trusted bool, err error)
	Spared   func(said *happening.ChatSaid) bool // by what its platform and the settings tell of who they are
}

// Looker looks at the past.
type Looker struct {
	cfg Config

	mu    sync.Mutex
	lines []log.Said
	of    int // streams
	read  time.Time
}

// New makes one.
func New(cfg Config) *Looker { return &Looker{cfg: cfg} }

// Tried is whom a rule would have touched.
type Tried struct {
	Streams, Looked, Lines, People, Regulars int
	Some                                     []Line // those of regulars first, then the newest
}

// Line is one that it would have touched.
type Line struct {
	log.Said
	Found   string
	Regular bool
}

// Forget lets go of what was read.
func (l *Looker) Forget() {
	l.mu.Lock()
	defer l.mu.Unlock()
	l.lines = nil
}

func (l *Looker) kept(ctx context.Context) ([]log.Said, int, error) {
	l.mu.Lock()
	defer l.mu.Unlock()
	if l.lines != nil && time.Since(l.read) < keptFor {
		return l.lines, l.of, nil
	}
	past := l.cfg.Past()
	past = past[max(0, len(past)-Streams):]
	since := time.Time{}
	if len(past) > 0 {
		since = past[0].Opened
	}
	lines, err := l.cfg.Said(ctx, since, mostLines)
	if err != nil {
		return nil, 0, err
	}
	if lines == nil {
		lines = []log.Said{}
	}
	l.lines, l.of, l.read = lines, len(past), time.Now()
	return lines, l.of, nil
}

// Try tells whom a rule would have touched.
func (l *Looker) Try(ctx context.Context, r trouble.Rule) (Tried, error) {
	lines, streams, err := l.kept(ctx)
	if err != nil {
		return Tried{}, err
	}
	out := Tried{Streams: streams, Looked: len(lines)}
	p := guard.NewPast(l.cfg.Settings(), r)
	var touched []Line
	for i := range lines {
		x := &lines[i]
		who := &x.Said.Person
		found := p.Looks(x.At, who.Platform, who.Key(), x.Said.Text)
		if found != "" && !l.cfg.Spared(&x.Said) {
			touched = append(touched, Line{Said: *x, Found: found})
		}
	}
	regular, trusted := map[string]bool{}, map[string]bool{}
	var kept []Line
	for i := len(touched) - 1; i >= 0; i-- {
		key := touched[i].Said.Said.Person.Key()
		if _, asked := regular[key]; !asked && len(regular) < mostKnown {
			if regular[key], trusted[key], err = l.cfg.Known(ctx, key); err != nil {
				return Tried{}, err
			}
		}
		vip := touched[i].Said.Said.Person.Is(event.VIP)
		if touched[i].Regular = regular[key]; trusted[key] || touched[i].Regular && r.Spares(trouble.Regulars) || vip && r.Spares(trouble.VIPs) {
			continue
		}
		kept = append(kept, touched[i])
	}
	seen := map[string]bool{}
	for i := range kept {
		if key := kept[i].Said.Said.Person.Key(); !seen[key] {
			if seen[key] = true; kept[i].Regular {
				out.Regulars++
			}
		}
	}
	out.Lines, out.People = len(kept), len(seen)
	slices.SortStableFunc(kept, func(a, b Line) int {
		switch {
		case a.Regular == b.Regular:
			return 0
		case a.Regular:
			return -1
		}
		return 1
	})
	out.Some = kept[:min(len(kept), mostSome)]
	return out, nil
}

// Worth is how many of the lines that moderators took out a new rule of some kind would have found.
type Worth struct {
	Kind      trouble.Kind
	Found, Of int
}

// leastWorth is how many lines a rule has to find to be worth a word.
const leastWorth = 2

// Worth are the kinds of rules that would have found what moderators took out, those that find most first.
func (l *Looker) Worth(ctx context.Context) (out []Worth, err error) {
	lines, _, err := l.kept(ctx)
	if err != nil {
		return nil, err
	}
	for _, s := range trouble.Catalogue {
		w := Worth{Kind: s.New().Kind()}
		p := guard.NewPast(l.cfg.Settings(), trouble.Rule{ID: "worth", Do: s.New()})
		for i := range lines {
			x := &lines[i]
			found := p.Looks(x.At, x.Said.Person.Platform, x.Said.Person.Key(), x.Said.Text)
			if !x.Removed {
				continue
			}
			if w.Of++; found != "" {
				w.Found++
			}
		}
		if w.Found >= leastWorth {
			out = append(out, w)
		}
	}
	slices.SortStableFunc(out, func(a, b Worth) int { return b.Found - a.Found })
	return out, nil
}
