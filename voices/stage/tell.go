package stage

import (
	"bytes"
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"strings"
	"time"

	webhooks "github.com/standard-webhooks/standard-webhooks/libraries/go"

	"vividporch/core/event"
	"vividporch/core/fitting"
	"vividporch/core/output"
	"vividporch/core/pointer"
)

// answer is what came of something: what was before, to be able to go back, and what was said.
type answer struct{ was, said string }

// reply is what a platform may answer with, and a fitting without a profile.
type reply struct {
	Was    string `json:"was"`
	Said   string `json:"said"`
	Reason string `json:"reason"` // why not
}

// Limits of what is answered, in bytes.
const (
	answerMost = 1000 // that is kept
	bodyMost   = 64 << 10
)

func short(s string) string { return event.CleanText(s[:min(len(s), answerMost)]) }

// tell tells one thing.
func (s *Stage) tell(ctx context.Context, t task) (answer, error) {
	if t.By != nil {
		return s.ask(ctx, t, t.told.Manner(), "")
	}
	ctx, cancel := context.WithTimeout(ctx, DoneWithin)
	defer cancel()
	req, err := http.NewRequestWithContext(ctx, http.MethodPost, t.Address, bytes.NewReader(t.d.Body))
	if err != nil {
		return answer{}, err
	}
	key := s.heads(req, t)
	token := ""
	if deed, ok := t.told.Do.(*output.Deed); ok && s.cfg.Token != nil {
		if token, err = s.cfg.Token(ctx, t.d.Platform, string(deed.Act), t.Address); err != nil {
			return answer{}, err
		}
	}
	secret := ""
	if token != "" {
		req.Header.Set("Authorization", "Bearer "+token)
	} else if secret, err = s.cfg.Secret(ctx, t.Name, t.Address); err != nil {
		return answer{}, err
	}
	if err := sign(req.Header, secret, key, t.d.Body); err != nil {
		return answer{}, err
	}
	status, body, err := s.send(req)
	if err != nil {
		return answer{}, err
	}
	var r reply
	json.Unmarshal(body, &r) // an answer without JSON says nothing more
	if status == http.StatusUnauthorized && token != "" && s.cfg.Refused != nil {
		s.cfg.Refused(t.d.Platform)
	}
	if status < 200 || status > 299 {
		return answer{}, fmt.Errorf("%s", cmp.Or(short(r.Reason), fmt.Sprintf("it answered %d", status)))
	}
	return answer{short(r.Was), short(r.Said)}, nil
}

// heads sets what every request has, and tells under which key it goes.
func (s *Stage) heads(req *http.Request, t task) (key string) {
	key = fmt.Sprintf("porch-%d-%s-%s", s.cfg.Channel, t.d.Line, t.d.Platform)
	req.Header.Set("Content-Type", "application/json")
	req.Header.Set("User-Agent", "vivid-porch")
	req.Header.Set("Idempotency-Key", key)
	return key
}

func sign(h http.Header, secret, key string, body []byte) error {
	if secret == "" {
		return nil
	}
	wh, err := webhooks.NewWebhook(secret)
	if err != nil {
		return fmt.Errorf("its secret cannot be used: %w", err)
	}
	now := time.Now()
	sig, err := wh.Sign(key, now, body)
	if err != nil {
		return err
	}
	h.Set(webhooks.HeaderWebhookID, key)
	h.Set(webhooks.HeaderWebhookTimestamp, fmt.Sprint(now.Unix()))
	h.Set(webhooks.HeaderWebhookSignature, sig)
	return nil
}

func (s *Stage) send(req *http.Request) (status int, body []byte, err error) {
	res, err := s.cfg.HTTP.Do(req)
	if err != nil {
		return 0, nil, fmt.Errorf("it does not answer: %w", err)
	}
	defer res.Body.Close()
	body, _ = io.ReadAll(io.LimitReader(res.Body, bodyMost))
	return res.StatusCode, body, nil
}

// ask has a fitting do one of the things that its profile knows.
func (s *Stage) ask(ctx context.Context, t task, manner, was string) (answer, error) {
	does, can := t.By.Does[manner]
	if !can {
		return answer{}, fmt.Errorf("%s", t.By.Cannot(manner))
	}
	ctx, cancel := context.WithTimeout(ctx, DoneWithin)
	defer cancel()
	secret, err := s.cfg.Secret(ctx, t.Name, t.Address)
	if err != nil {
		return answer{}, err
	}
	v := fitting.ValuesOf(t.told, t.d.Line)
	if manner == fitting.Back {
		v["was"] = was
		v["id"] = t.d.Line + ".back"
	}
	body, err := v.Body(does.Body)
	if err != nil {
		return answer{}, err
	}
	if t.By.Way == fitting.WebSocket {
		return s.converse(ctx, t, v, secret, body)
	}
	req, err := http.NewRequestWithContext(ctx, cmp.Or(does.Method, http.MethodPost), strings.TrimRight(t.Address, "/")+v.Path(does.Path), bytes.NewReader(body))
	if err != nil {
		return answer{}, err
	}
	key := s.heads(req, t)
	if err := prove(t.By, req.Header, secret, key, body); err != nil {
		return answer{}, err
	}
	status, said, err := s.send(req)
	if err != nil {
		return answer{}, err
	}
	message, _ := pointer.Read(said) // an answer without JSON says nothing more
	before, reason, refused := v.Judge(&t.By.Answer, message)
	if status < 200 || status > 299 {
		return answer{}, fmt.Errorf("%s", cmp.Or(short(reason), fmt.Sprintf("it answered %d", status)))
	}
	if refused {
		return answer{}, fmt.Errorf("%s", cmp.Or(short(reason), "it answered that it did not"))
	}
	return answer{was: short(before)}, nil
}

// prove shows in the headers who we are.
func prove(p *fitting.Profile, h http.Header, secret, key string, body []byte) error {
	if secret == "" {
		return nil
	}
	switch p.Proof.How {
	case fitting.Signed:
		return sign(h, secret, key, body)
	case fitting.Bearer:
		h.Set("Authorization", "Bearer "+secret)
	case fitting.Header:
		h.Set(p.Proof.Header, secret)
	}
	return nil
}
