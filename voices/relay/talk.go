package relay

import (
	"context"
	"encoding/json"
	"errors"
	"sync"
	"time"

	"vividporch/core/place"
	"vividporch/store/jobs"
	"vividporch/store/safe"
)

// Talk says texts in one room of a chat network, over a connection that stays open.
type Talk interface {
	// Say says a text under the key of its delivery; nil once the network has taken it. A [Fault] says more.
	Say(ctx context.Context, key, text string) error
	Close()
}

// Fault is why a talk did not say a text.
type Fault struct {
	Why    string
	Final  bool // asking again changes nothing until somebody does
	Shut   bool // and it is so for whatever is said there, not for that text alone
	Unsure bool // it may have been said all the same
}

func (f *Fault) Error() string { return f.Why }

// Opener opens a talk with a room; it need not be connected yet.
type Opener func(p *place.Place, password string) Talk

// talks carries to rooms of one kind of chat network: a talk a place.
type talks struct {
	channel int64
	safe    *safe.Safe
	open    Opener

	mu   sync.Mutex
	held map[string]*held // by place
}

// held is a talk, and the settings it was opened with.
type held struct {
	talk  Talk
	with  string
	shut  *Fault // the room lets nobody in
	until time.Time
}

func (x *talks) carry(ctx context.Context, p *place.Place, d *jobs.Delivery) arrival {
	var body struct{ Text string }
	if err := json.Unmarshal(d.Body, &body); err != nil {
		return arrival{how: refused, why: "what is to be said is no text"}
	}
	password, err := x.safe.SecretTo(ctx, x.channel, p.Name, "password", p.URL)
	if err != nil {
		return arrival{how: broken, why: reasonOf(err, 0)}
	}
	h := x.of(p, password)
	if h.shut != nil {
		return arrival{how: refused, why: h.shut.Why}
	}
	err = h.talk.Say(ctx, Key(d), body.Text)
	var f *Fault
	switch {
	case err == nil:
		return arrival{how: taken}
	case !errors.As(err, &f):
		return arrival{how: broken, why: err.Error(), unsure: true}
	case f.Shut:
		x.shut(p.Name, h, f)
		fallthrough
	case f.Final:
		return arrival{how: refused, why: f.Why}
	}
	return arrival{how: broken, why: f.Why, unsure: f.Unsure}
}

// shutFor is how long a room that lets nobody in is not asked again: what else waits for it is told the same.
const shutFor = 10 * time.Second

func (x *talks) shut(place string, h *held, f *Fault) {
	x.mu.Lock()
	defer x.mu.Unlock()
	h.talk.Close()
	x.held[place] = &held{talk: h.talk, with: h.with, shut: f, until: time.Now().Add(shutFor)}
}

// of is the talk with a place, as it is set up now.
func (x *talks) of(p *place.Place, password string) *held {
	x.mu.Lock()
	defer x.mu.Unlock()
	with := p.URL + "\n" + p.Account + "\n" + p.Room + "\n" + password
	h := x.held[p.Name]
	if h == nil || h.with != with || h.shut != nil && time.Now().After(h.until) {
		if h != nil {
			h.talk.Close()
		}
		h = &held{talk: x.open(p, password), with: with}
		x.held[p.Name] = h
	}
	return h
}

// tidy leaves the rooms of places that are there no more; all of them where now is nil.
func (x *talks) tidy(now func(name string) *place.Place) {
	x.mu.Lock()
	defer x.mu.Unlock()
	for name, h := range x.held {
		if now != nil {
			if p := now(name); p != nil && p.URL != "" {
				continue
			}
		}
		h.talk.Close()
		delete(x.held, name)
	}
}
