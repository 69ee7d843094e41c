package services

import (
	"context"
	"errors"
	"reflect"
	"sync"
	"time"

	"vividporch/core/housefile"
	"vividporch/core/pointer"
	"vividporch/doors/listen"
)

// ear is one listening door.
type ear struct {
	door housefile.Door
	ear  *listen.Ear
	stop func()
}

// Tend makes the listening doors what the settings say: new ones are opened, those that are no more
// are closed, and changed ones both; again opens one anew that did not change.
func (s *Services) Tend(ctx context.Context, again map[string]bool) {
	want := map[string]housefile.Door{}
	for _, d := range s.cfg.Settings().Doors {
		if d.Kind == "listen" && !d.Paused && d.Service != nil && d.Service.Listen.Address != "" {
			want[d.Name] = d
		}
	}
	s.mu.Lock()
	var old []*ear
	for name, e := range s.ears {
		if d, ok := want[name]; !ok || again[name] || !reflect.DeepEqual(d, e.door) {
			old = append(old, e)
			delete(s.ears, name)
		} else {
			delete(want, name)
		}
	}
	s.mu.Unlock()
	for _, e := range old {
		e.stop()
	}
	for _, d := range want {
		s.open(ctx, d)
	}
}

func (s *Services) open(ctx context.Context, d housefile.Door) {
	l := d.Service.Listen
	token, err := s.cfg.SecretTo(ctx, d.Name, "token", l.Address)
	refuse := ""
	if err != nil { // the token goes nowhere, and the house does not go there without it
		refuse = err.Error()
	}
	s.cfg.Gate.Hide(d.Name, token)
	run, cancel := context.WithCancel(ctx)
	var wg sync.WaitGroup
	e := &ear{door: d, stop: func() { cancel(); wg.Wait() }}
	e.ear = listen.New(listen.Config{Listen: l, Token: token, Refuse: refuse, HTTP: s.cfg.Way.Streaming(),
		Hear: func(ctx context.Context, message []byte) { s.hear(ctx, run, d.Name, message) }, OnState: func(now listen.Health) { s.cfg.Changed(d, stateOf(now.State), now.Reason) }})
	s.mu.Lock()
	s.ears[d.Name] = e
	s.mu.Unlock()
	wg.Go(func() { e.ear.Run(run) })
}

// hear takes a message that was heard. While the database is gone it is tried again until the
// door is closed: nobody sends it a second time.
func (s *Services) hear(ctx, open context.Context, door string, message []byte) {
	for pause := 50 * time.Millisecond; ; pause = min(2*pause, 2*time.Second) {
		d := s.cfg.Settings().DoorNamed(door)
		if d == nil {
			return
		}
		_, err := s.Take(ctx, d, message)
		switch {
		case err == nil:
			return
		case errors.Is(err, pointer.ErrNotJSON), errors.Is(err, pointer.ErrDeep), errors.Is(err, ErrLong):
			s.cfg.Gate.Heard(door, string(message), "not taken: "+err.Error(), s.cfg.Clock())
			return
		case open.Err() != nil:
			return
		}
		select {
		case <-open.Done():
		case <-time.After(pause):
		}
	}
}

// Close closes every listening door.
func (s *Services) Close() {
	s.mu.Lock()
	ears := s.ears
	s.ears = map[string]*ear{}
	s.mu.Unlock()
	for _, e := range ears {
		e.stop()
	}
}
