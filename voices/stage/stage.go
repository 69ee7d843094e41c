// Package stage has things done outside chat: platform actions, and the fittings a
// house works (a player, a lamp, scenes). Each is told once, in order, by one
// signed request; what became of it is an event. Nothing is tried again: a lamp
// that lights an hour late is worse than none.
package stage

import (
	"bytes"
	"cmp"
	"context"
	"crypto/rand"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"sync"
	"time"

	webhooks "github.com/standard-webhooks/standard-webhooks/libraries/go"

	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/output"
)

// Limits of the stage.
const (
	DoneWithin  = 5 * time.Second // whoever takes longer has refused
	waitingMost = 100             // told to one fitting or platform and not yet done
)

// Config is what a stage of one channel needs.
type Config struct {
	Channel int64
	Secret  func(ctx context.Context, name, address string) (string, error)          // signs what is sent there; "" for none
	Token   func(ctx context.Context, platform, act, address string) (string, error) // of whoever signed in there; "" for nobody; may be nil
	Refused func(platform string)                                                    // a token was not good; may be nil
	Outcome func(event.Data)                                                         // logs what became of it
	HTTP    *http.Client                                                             // the way out
}

// Stage tells fittings and platforms what to do.
type Stage struct {
	cfg   Config
	ctx   context.Context
	http  *http.Client
	mu    sync.Mutex
	lines map[string]chan task
}

// task is one thing to be done. Name is whose secret signs it.
type task struct {
	url, name string
	d         hall.Decision
	told      output.Told
}

// New makes a stage that works until ctx ends.
func New(ctx context.Context, cfg Config) *Stage {
	return &Stage{cfg: cfg, ctx: ctx, lines: map[string]chan task{}, http: cfg.HTTP}
}

// Do tells the address what was decided, after all that was told to the same
// fitting or platform before. Without an address it is refused at once.
func (s *Stage) Do(url, name string, d hall.Decision) {
	t := task{url: url, name: name, d: d}
	if err := json.Unmarshal(d.Body, &t.told); err != nil {
		s.refused(t, err.Error())
		return
	}
	if url == "" {
		s.refused(t, "there is no address to tell it to")
		return
	}
	s.mu.Lock()
	line := s.lines[d.Platform]
	if line == nil {
		line = make(chan task, waitingMost)
		s.lines[d.Platform] = line
		go s.work(line)
	}
	s.mu.Unlock()
	select {
	case line <- t:
	default:
		s.refused(t, fmt.Sprintf("%d things wait there already", waitingMost))
	}
}

func (s *Stage) work(line chan task) {
	for {
		select {
		case <-s.ctx.Done():
			return
		case t := <-line:
			was, said, err := s.tell(s.ctx, t)
			if err != nil {
				s.refused(t, err.Error())
				continue
			}
			o := t.outcome(said)
			o.Was = was
			s.cfg.Outcome(&event.ActDone{ActOutcome: o})
		}
	}
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

// Try tells a fitting something now, beside what waits for it, and says what it answered.
func (s *Stage) Try(ctx context.Context, url, name string, body json.RawMessage) error {
	if url == "" {
		return errors.New("it has no address yet")
	}
	_, _, err := s.tell(ctx, task{url: url, name: name, d: hall.Decision{Kind: "try", Line: "try-" + rand.Text(), Platform: name, Saying: hall.Saying{Body: body}}})
	return err
}

// reply is what a fitting or platform may answer with.
type reply struct {
	Was    string `json:"was"`    // what it was before, to be able to go back
	Said   string `json:"said"`   // what came of it
	Reason string `json:"reason"` // why not
}

// answerMost is how many bytes are kept of what a fitting or platform answers.
const answerMost = 1000

func short(s string) string { return s[:min(len(s), answerMost)] }

func (s *Stage) tell(ctx context.Context, t task) (was, said string, err error) {
	ctx, cancel := context.WithTimeout(ctx, DoneWithin)
	defer cancel()
	req, err := http.NewRequestWithContext(ctx, http.MethodPost, t.url, bytes.NewReader(t.d.Body))
	if err != nil {
		return "", "", err
	}
	key := fmt.Sprintf("porch-%d-%s-%s", s.cfg.Channel, t.d.Line, t.d.Platform)
	req.Header.Set("Content-Type", "application/json")
	req.Header.Set("User-Agent", "vivid-porch")
	req.Header.Set("Idempotency-Key", key)
	token := ""
	if deed, ok := t.told.Do.(*output.Deed); ok && s.cfg.Token != nil {
		if token, err = s.cfg.Token(ctx, t.d.Platform, string(deed.Act), t.url); err != nil {
			return "", "", err
		}
	}
	secret := ""
	if token != "" {
		req.Header.Set("Authorization", "Bearer "+token)
	} else if secret, err = s.cfg.Secret(ctx, t.name, t.url); err != nil {
		return "", "", err
	}
	if secret != "" {
		wh, err := webhooks.NewWebhook(secret)
		if err != nil {
			return "", "", fmt.Errorf("its secret cannot be used: %w", err)
		}
		now := time.Now()
		sig, err := wh.Sign(key, now, t.d.Body)
		if err != nil {
			return "", "", err
		}
		req.Header.Set(webhooks.HeaderWebhookID, key)
		req.Header.Set(webhooks.HeaderWebhookTimestamp, fmt.Sprint(now.Unix()))
		req.Header.Set(webhooks.HeaderWebhookSignature, sig)
	}
	res, err := s.http.Do(req)
	if err != nil {
		return "", "", fmt.Errorf("it does not answer: %w", err)
	}
	defer res.Body.Close()
	var r reply
	body, _ := io.ReadAll(io.LimitReader(res.Body, 64<<10))
	json.Unmarshal(body, &r) // an answer without JSON says nothing more
	if res.StatusCode == http.StatusUnauthorized && token != "" && s.cfg.Refused != nil {
		s.cfg.Refused(t.d.Platform)
	}
	if res.StatusCode < 200 || res.StatusCode > 299 {
		return "", "", fmt.Errorf("%s", cmp.Or(event.CleanText(short(r.Reason)), fmt.Sprintf("it answered %d", res.StatusCode)))
	}
	return event.CleanText(short(r.Was)), event.CleanText(short(r.Said)), nil
}
