// Package stage has things done outside chat: platform actions, and the fittings a house works (a player, a lamp, scenes).
// Each is told once, in order; what became of it is an event. Nothing is tried again: a lamp that lights an hour late is
// worse than none. What is done for a while goes back to what was, by whoever does it or by the house.
package stage

import (
	"context"
	"crypto/rand"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"sync"
	"time"

	"vividporch/core/event"
	"vividporch/core/fitting"
	"vividporch/core/hall"
	"vividporch/core/output"
)

// Limits of the stage.
const (
	DoneWithin  = 5 * time.Second // whoever takes longer has refused
	backWithin  = 2 * time.Second // to go back as the house stops
	waitingMost = 100             // told to one fitting or platform and not yet done
)

// Config is what a stage of one channel needs.
type Config struct {
	Channel int64
	Secret  func(ctx context.Context, name, address string) (string, error)          // proves to what is there who we are; "" for none
	Token   func(ctx context.Context, platform, act, address string) (string, error) // of whoever signed in there; "" for nobody; may be nil
	Refused func(platform string)                                                    // a token was not good; may be nil
	Outcome func(event.Data)                                                         // logs what became of it
	HTTP    *http.Client                                                             // the way out
}

// Stage tells fittings and platforms what to do.
type Stage struct {
	cfg   Config
	ctx   context.Context
	mu    sync.Mutex
	lines map[string]chan task
	work  sync.WaitGroup
}

// To is where something is told, and how: by a profile of a fitting, or as docs/fittings.md says. Name is whose secret goes with it.
type To struct {
	Address string
	Name    string
	By      *fitting.Profile
}

// task is one thing to be done.
type task struct {
	To
	d    hall.Decision
	told output.Told
}

// New makes a stage that works until ctx ends.
func New(ctx context.Context, cfg Config) *Stage {
	return &Stage{cfg: cfg, ctx: ctx, lines: map[string]chan task{}}
}

// Do tells what was decided, after all that was told to the same fitting or platform before. Without an address it is
// refused at once.
func (s *Stage) Do(to To, d hall.Decision) {
	t := task{To: to, d: d}
	if err := json.Unmarshal(d.Body, &t.told); err != nil {
		s.refused(t, err.Error())
		return
	}
	if to.Address == "" {
		s.refused(t, "there is no address to tell it to")
		return
	}
	s.mu.Lock()
	line := s.lines[d.Platform]
	if line == nil {
		line = make(chan task, waitingMost)
		s.lines[d.Platform] = line
		s.work.Go(func() { (&hand{s: s, line: line}).work() })
	}
	s.mu.Unlock()
	select {
	case line <- t:
	default:
		s.refused(t, fmt.Sprintf("%d things wait there already", waitingMost))
	}
}

// Wait waits until all has gone back that is to go back as ctx has ended.
func (s *Stage) Wait() { s.work.Wait() }

// Try tells a fitting something now, beside what waits for it, and says what it answered.
func (s *Stage) Try(ctx context.Context, to To, told output.Told) error {
	if to.Address == "" {
		return errors.New("it has no address yet")
	}
	t := task{To: to, told: told, d: hall.Decision{Kind: "try", Line: "try-" + rand.Text(), Platform: to.Name, Saying: hall.Saying{Body: told.JSON()}}}
	a, err := s.tell(ctx, t)
	if err == nil && to.By != nil && told.Lasts() > 0 {
		s.work.Go(func() { s.back(t, a.was, told.Lasts()) })
	}
	return err
}

// back takes what was tried back to what was, a while later.
func (s *Stage) back(t task, was string, after time.Duration) {
	if _, goes := t.By.Does[fitting.Back]; !goes {
		return
	}
	select {
	case <-time.After(after):
	case <-s.ctx.Done():
	}
	s.goBack(t, was)
}

// goBack takes a fitting back to what was, as the house stops too.
func (s *Stage) goBack(t task, was string) {
	ctx, cancel := context.WithTimeout(context.WithoutCancel(s.ctx), backWithin)
	defer cancel()
	_, _ = s.ask(ctx, t, fitting.Back, was) // nothing is tried again
}

func (s *Stage) refused(t task, why string) {
	s.cfg.Outcome(&event.ActRefused{ActOutcome: t.outcome(why)})
}

func (t task) outcome(reason string) event.ActOutcome { return outcome(t.d, t.told, reason) }

// OutcomeOf is what is logged of something decided, with a reason.
func OutcomeOf(d hall.Decision, reason string) event.ActOutcome {
	var told output.Told
	json.Unmarshal(d.Body, &told) // without it the outcome names the line alone
	return outcome(d, told, reason)
}

func outcome(d hall.Decision, told output.Told, reason string) event.ActOutcome {
	o := event.ActOutcome{Line: d.Line, To: d.Platform, Effect: string(d.Kind), Text: told.Text, About: d.Whom(), Reason: reason}
	if deed, ok := told.Do.(*output.Deed); ok {
		o.Act, o.Off, o.Login = string(deed.Act), deed.Off, deed.Login
	} else {
		o.Text = told.Gist()
	}
	return o
}
