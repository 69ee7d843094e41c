// Package inbox is the door for signed webhooks: CloudEvents 1.0 in structured
// JSON, one or a batch, signed as Standard Webhooks
// (https://github.com/standard-webhooks/standard-webhooks, spec version 1.0.0).
package inbox

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"

	webhooks "github.com/standard-webhooks/standard-webhooks/libraries/go"

	"vividporch/core/event"
	"vividporch/core/happening"
)

// Limits of one request.
const (
	MaxBytes  = 1 << 20
	MaxEvents = 2000
)

// Refusal is one event that was not taken, by its place in the batch.
type Refusal struct {
	Index  int    `json:"index"`
	Field  string `json:"field"`
	Remedy string `json:"remedy"`
}

// Answer is what the sender is told of a request that could be read.
type Answer struct {
	Taken   int       `json:"taken"`
	Repeats int       `json:"repeats"`
	Aside   int       `json:"setAside,omitempty"` // could not be kept for what they are; they wait for a member
	Refused []Refusal `json:"refused"`
}

// Errors of a request as a whole.
var (
	ErrSignature = errors.New("the signature does not fit, or the timestamp is more than five minutes off; sign id.timestamp.body with the door's secret")
	ErrNoSecret  = errors.New("this door has no secret yet, so nothing can be checked; set one first")
	ErrUnread    = errors.New("the body is no JSON object or list of CloudEvents")
)

// Verify checks a request's signature against the secrets that are valid; during
// a rotation there are two. The library allows five minutes either way.
func Verify(secrets []string, body []byte, h http.Header) error {
	if len(secrets) == 0 {
		return ErrNoSecret
	}
	for _, s := range secrets {
		wh, err := webhooks.NewWebhook(s)
		if err != nil {
			continue
		}
		if wh.Verify(body, h) == nil {
			return nil
		}
	}
	return ErrSignature
}

// Read parses a body into events of a door, which speaks for one platform. Those that cannot stand are listed in
// the answer; the error is ErrUnread when nothing can be read at all.
func Read(door, platform string, body []byte) (evs []event.Event, answer Answer, err error) {
	answer.Refused = []Refusal{}
	var raws []json.RawMessage
	switch b := bytes.TrimSpace(body); {
	case len(b) == 0:
		return nil, answer, ErrUnread
	case b[0] == '[':
		if json.Unmarshal(b, &raws) != nil {
			return nil, answer, ErrUnread
		}
	case b[0] == '{' && json.Valid(b):
		raws = []json.RawMessage{b}
	default:
		return nil, answer, ErrUnread
	}
	for i, raw := range raws {
		ev, err := happening.Kinds.Parse(raw)
		if err == nil && event.IsOwn(ev.Type) {
			err = &event.FieldError{Field: "type", Remedy: ev.Type + " is the house's own; send what happened outside"}
		}
		if err == nil {
			err = speaksFor(platform, &ev)
		}
		if err == nil && i >= MaxEvents {
			err = &event.FieldError{Field: "batch", Remedy: "holds more than 2000 events; send them in several"}
		}
		if err != nil {
			var f *event.FieldError
			errors.As(err, &f)
			answer.Refused = append(answer.Refused, Refusal{i, f.Field, f.Remedy})
			continue
		}
		ev.Door = door
		ev.Clean()
		evs = append(evs, ev)
	}
	return evs, answer, nil
}

// speaksFor refuses what a door says of another platform than its own: whoever holds
// the one's secret is not asked about the other's people.
func speaksFor(platform string, ev *event.Event) error {
	for field, of := range ev.Of() {
		if of != platform {
			return &event.FieldError{Field: field, Remedy: fmt.Sprintf("is %q; this door speaks for %s alone", of, platform)}
		}
	}
	return nil
}

// Outcome is what became of one event.
type Outcome struct {
	Repeat bool
	Aside  string // why it was set aside; "" for one that is in the log
}

// Submitter logs events and tells what became of each.
type Submitter func(ctx context.Context, evs []event.Event) ([]Outcome, error)

// Take reads, logs and answers one request that was verified.
func Take(ctx context.Context, door, platform string, body []byte, submit Submitter) (Answer, error) {
	evs, answer, err := Read(door, platform, body)
	if err != nil || len(evs) == 0 {
		return answer, err
	}
	became, err := submit(ctx, evs)
	if err != nil {
		return answer, err
	}
	for _, o := range became {
		switch {
		case o.Aside != "":
			answer.Aside++
		case o.Repeat:
			answer.Repeats++
		default:
			answer.Taken++
		}
	}
	return answer, nil
}
