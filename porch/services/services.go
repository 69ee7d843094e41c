// Package services takes what other services tell: what they send to a hook, and what is heard
// where the house listens. Whatever comes is kept first, with secrets blanked, then understood by
// the readings of its door, and handed on as events; what none understands waits until somebody
// teaches the house to, and can be taken in then.
//
// [Services.Take] is the main path.
package services

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"sync"
	"time"

	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/housefile"
	"vividporch/core/plain"
	"vividporch/core/pointer"
	"vividporch/core/reading"
	"vividporch/doors/listen"
	"vividporch/outside"
	"vividporch/porch/gate"
	"vividporch/store/kept"
)

// MostBytes is how long a message may be.
const MostBytes = listen.MostBytes

// pruneEvery is how often what is kept of a door is looked through while messages come.
const pruneEvery = time.Second

// Config is what the services of a channel need.
type Config struct {
	Channel  int64
	Kept     *kept.Kept
	Settings func() *housefile.Settings
	Submit   func(ctx context.Context, evs []event.Event) (aside []string, err error) // why each was set aside; "" for taken
	Secrets  func(ctx context.Context) ([]string, error)                              // all of the house's, to blank
	SecretTo func(ctx context.Context, name, slot, address string) (string, error)    // to send
	Gate     *gate.Gate
	Clock    func() time.Time
	Way      *outside.Dialer
	Changed  func(d housefile.Door, state, reason string) // how a listening door is
}

// Services takes what other services tell. Its methods may be called from any goroutine.
type Services struct {
	cfg    Config
	mu     sync.Mutex
	pruned map[string]time.Time
	seen   map[string]time.Time
	why    map[string]string // why the last message of a hook was refused
	ears   map[string]*ear
}

// New makes the services of a channel.
func New(cfg Config) *Services {
	return &Services{cfg: cfg, pruned: map[string]time.Time{}, seen: map[string]time.Time{}, why: map[string]string{}, ears: map[string]*ear{}}
}

// Took is what became of a message.
type Took struct {
	Repeat bool   `json:"repeat"`
	Made   int    `json:"made"`            // happenings
	Waits  string `json:"waits,omitempty"` // why it waits at the door
}

// Errors of a message.
var ErrLong = errors.New("a message may have 1 MiB")

// Take keeps a message of a door, and makes happenings of it. When it returns an error the message
// is kept or it is not; sent again, it makes nothing twice.
func (s *Services) Take(ctx context.Context, d *housefile.Door, body []byte) (Took, error) {
	if len(body) > MostBytes {
		return Took{}, ErrLong
	}
	message, err := pointer.Read(body)
	if err != nil {
		return Took{}, err
	}
	secrets, err := s.cfg.Secrets(ctx)
	if err != nil {
		return Took{}, err
	}
	how := reading.Repeat{}
	if d.Service != nil {
		how = d.Service.Repeat
	}
	id := ""
	if how.At != "" {
		v, _ := pointer.Get(message, how.At)
		id, _ = pointer.Text(v)
	}
	within := time.Duration(how.Seconds * float64(time.Second))
	if within <= 0 {
		within = reading.UsualRepeat * time.Second
	}
	message = gate.Blanked(message, secrets)
	raw, err := written(message)
	if err != nil {
		return Took{}, err
	}
	m, repeat, err := s.cfg.Kept.Keep(ctx, kept.Message{Channel: s.cfg.Channel, Door: d.Name, Mark: kept.Mark(id, body), State: kept.New, At: s.cfg.Clock(), Body: raw}, within)
	if err != nil {
		return Took{}, err
	}
	s.saw(d.Name)
	if repeat && m.State != kept.New {
		s.cfg.Gate.Heard(d.Name, string(raw), "a repeat: it came before", s.cfg.Clock())
		return Took{Repeat: true}, nil
	}
	took, err := s.understand(ctx, d, &m, message, time.Time{})
	took.Repeat = repeat
	s.prune(ctx, d.Name)
	return took, err
}

// written is a message as JSON, as it is kept.
func written(message any) ([]byte, error) {
	var b bytes.Buffer
	enc := json.NewEncoder(&b)
	enc.SetEscapeHTML(false)
	if err := enc.Encode(message); err != nil {
		return nil, err
	}
	return bytes.TrimRight(b.Bytes(), "\n"), nil
}

// understand makes happenings of a kept message and says what became of it. Those that tell no
// time happened at when.
func (s *Services) understand(ctx context.Context, d *housefile.Door, m *kept.Message, message any, when time.Time) (Took, error) {
	evs, words, why := s.read(d, m, message, when)
	if len(evs) > 0 {
		aside, err := s.cfg.Submit(ctx, evs)
		if err != nil {
			return Took{}, err
		}
		for i := range aside {
			if aside[i] != "" {
				why = append(why, aside[i])
			}
		}
	}
	state := kept.Understood
	switch {
	case len(why) > 0:
		state = kept.Waiting
	case len(evs) == 0:
		state, why = kept.Waiting, []string{"no reading holds of it"}
	}
	took := Took{Made: len(evs), Waits: strings.Join(why, "; ")}
	if len(evs) == 0 && m.State == state && m.Why == took.Waits { // it waits on
		return took, nil
	}
	raw, _ := written(message)
	s.cfg.Gate.Heard(d.Name, string(raw), strings.Join(append(words, why...), " · "), s.cfg.Clock())
	return took, s.cfg.Kept.Set(ctx, s.cfg.Channel, m.ID, state, took.Waits)
}

// source is the CloudEvents source of what is made of messages.
const source = "service"

// read makes a message's events, with how each was understood, and why not.
func (s *Services) read(d *housefile.Door, m *kept.Message, message any, when time.Time) (evs []event.Event, words, why []string) {
	for _, u := range reading.Understand(s.cfg.Settings().Readings, d.Name, d.Platform, message) {
		if u.Fault != nil {
			why = append(why, fmt.Sprintf("%s: %s %s", u.Reading, strings.TrimPrefix(u.Fault.Field, "data."), u.Fault.Remedy))
			continue
		}
		ev := event.Event{Door: d.Name, Source: source, ID: m.Event() + "/" + u.Reading, Type: u.Data.Type(), Time: u.Time, Data: u.Data, Raw: u.Raw}
		if ev.Time.IsZero() {
			ev.Time = when
		}
		ev.Clean()
		evs, words = append(evs, ev), append(words, gate.Words(&ev))
	}
	return evs, words, why
}

// Shown is a kept message as the door's page shows it.
type Shown struct {
	kept.Message
	Made []Made
}

// Made is what a reading makes of a message, or why it makes nothing.
type Made struct {
	Reading string
	Words   string
	Fault   *event.FieldError
}

// mostShown is how many kept messages of each state are shown.
const mostShown = 100

// List are the messages that are kept of a door, the newest first, each with what its readings make of it
// now.
func (s *Services) List(ctx context.Context, door string) ([]Shown, error) {
	return s.list(ctx, door, nil, mostShown)
}

// Try is what a draft would make of everything that is kept of a door, and of how many messages it would
// make something.
func (s *Services) Try(ctx context.Context, door string, draft *reading.Reading) (all []Shown, makes int, err error) {
	all, err = s.list(ctx, door, draft, kept.MostWaiting)
	for i := range all {
		if slices.ContainsFunc(all[i].Made, func(m Made) bool { return m.Reading == draft.Name && m.Fault == nil }) {
			makes++
		}
	}
	return all, makes, err
}

// list has the draft in the place of the reading of its name, or beside the others.
func (s *Services) list(ctx context.Context, door string, draft *reading.Reading, most int) ([]Shown, error) {
	d := s.cfg.Settings().DoorNamed(door)
	list, err := s.cfg.Kept.List(ctx, s.cfg.Channel, door, most)
	if err != nil || d == nil {
		return nil, err
	}
	readings := s.cfg.Settings().Readings
	if draft != nil {
		mine := *draft
		mine.Doors = []string{door}
		readings = append(slices.DeleteFunc(slices.Clone(readings), func(r reading.Reading) bool { return r.Name == mine.Name }), mine)
	}
	out := make([]Shown, 0, len(list))
	for _, m := range list {
		message, err := pointer.Read(m.Body)
		if err != nil { // it fell out meanwhile
			continue
		}
		x := Shown{Message: m}
		for _, u := range reading.Understand(readings, door, d.Platform, message) {
			made := Made{Reading: u.Reading, Fault: u.Fault}
			if u.Data != nil {
				made.Words = inWords(u.Data)
			}
			x.Made = append(x.Made, made)
		}
		out = append(out, x)
	}
	return out, nil
}

// inWords says what is made of a message as the conversation would tell it.
func inWords(data event.Data) string {
	h, ev := happening.OfData(data), event.Event{Data: data}
	words := []string{h.Words}
	if who := ev.Who(); who != nil {
		words = append(words, plain.Name(who.Shown()))
	}
	if h.Entry != nil {
		if told := h.Entry(data).Text; told != "" {
			words = append(words, told)
		}
	}
	return strings.Join(words, " · ")
}

// Offers are the readings that a door does not use and that hold of something that came in there.
func (s *Services) Offers(door string, list []Shown) []string {
	var out []string
	for _, r := range s.cfg.Settings().Readings {
		if slices.Contains(r.Doors, door) {
			continue
		}
		for i := range list {
			if message, err := pointer.Read(list[i].Body); err == nil && len(r.If) > 0 && r.Fits(message) {
				out = append(out, r.Name)
				break
			}
		}
	}
	return out
}

// TakeIn takes in what waits at a door and is understood by now: as late events, which happened when
// they came. It tells how many happenings were made and how many messages still wait.
func (s *Services) TakeIn(ctx context.Context, door string) (made, waits int, err error) {
	d := s.cfg.Settings().DoorNamed(door)
	if d == nil {
		return 0, 0, nil
	}
	list, err := s.cfg.Kept.Waits(ctx, s.cfg.Channel, door)
	if err != nil {
		return 0, 0, err
	}
	for i := range list {
		m := &list[i]
		message, err := pointer.Read(m.Body)
		if err != nil {
			continue
		}
		took, err := s.understand(ctx, d, m, message, m.At)
		if err != nil {
			return made, waits, err
		}
		if made += took.Made; took.Waits != "" {
			waits++
		}
	}
	return made, waits, nil
}

// Resume takes in what was kept and not yet read when the house went down: who was listened to does
// not say it again.
func (s *Services) Resume(ctx context.Context) error {
	for _, d := range s.cfg.Settings().Doors {
		if !d.IsService() {
			continue
		}
		list, err := s.cfg.Kept.Waits(ctx, s.cfg.Channel, d.Name)
		if err != nil {
			return err
		}
		for i := range list {
			m := &list[i]
			message, err := pointer.Read(m.Body)
			if m.State != kept.New || err != nil {
				continue
			}
			if _, err := s.understand(ctx, &d, m, message, m.At); err != nil {
				return err
			}
		}
		if err := s.cfg.Kept.Prune(ctx, s.cfg.Channel, d.Name, s.cfg.Clock()); err != nil {
			return err
		}
	}
	return s.cfg.Kept.PruneOld(ctx, s.cfg.Channel, s.cfg.Clock())
}

// Refused notes that what was sent to a hook was not taken.
func (s *Services) Refused(door, why string) {
	s.mu.Lock()
	s.why[door] = why
	s.mu.Unlock()
	s.cfg.Gate.Heard(door, "", "refused: "+why, s.cfg.Clock())
}

func (s *Services) saw(door string) {
	s.mu.Lock()
	s.seen[door] = time.Now()
	delete(s.why, door)
	s.mu.Unlock()
}

// Health is how a door of a service is.
type Health struct {
	State  string // "open", "opening", "closed"
	Reason string
	LastIn time.Time
}

// Health tells how a door is.
func (s *Services) Health(door string) Health {
	s.mu.Lock()
	defer s.mu.Unlock()
	h := Health{State: "open", Reason: s.why[door], LastIn: s.seen[door]}
	if e := s.ears[door]; e != nil {
		is := e.ear.Health()
		h.State, h.Reason = stateOf(is.State), is.Reason
		if is.Missed > 0 && h.Reason == "" {
			h.Reason = fmt.Sprintf("%d messages were missed since the house opened this door: %s", is.Missed, is.Why)
		}
	}
	return h
}

func stateOf(s listen.State) string {
	if s == listen.Lost {
		return "closed"
	}
	return string(s)
}

// prune looks through what is kept of a door now and then.
func (s *Services) prune(ctx context.Context, door string) {
	now := time.Now()
	s.mu.Lock()
	due := now.Sub(s.pruned[door]) >= pruneEvery
	if due {
		s.pruned[door] = now
	}
	s.mu.Unlock()
	if due {
		_ = s.cfg.Kept.Prune(ctx, s.cfg.Channel, door, s.cfg.Clock()) // the next message comes by again
	}
}
