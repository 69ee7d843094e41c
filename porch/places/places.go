// Package places tells members how what goes to places stands, and has it sent again, given up or tried. What
// carries it is package relay; what is decided is the core's.
package places

import (
	"cmp"
	"context"
	"fmt"
	"io"
	"net/url"
	"time"

	"vividporch/core/hall"
	"vividporch/core/housefile"
	"vividporch/core/room"
	"vividporch/core/wording"
	"vividporch/formats/atom"
	"vividporch/store"
	"vividporch/store/jobs"
	"vividporch/voices/relay"
)

// Config is what the places of a channel need.
type Config struct {
	Channel int64
	Store   *store.Store
	Plan    func() *room.Plan
	Relay   *relay.Relay
	Signed  relay.Signed
	Ask     func(ctx context.Context, token, address string) ([]byte, error) // of where the house is signed in
	Opened  func() time.Time                                                 // when the stream that is on opened, or the last one closed; zero before the first
}

// Places answers. Its methods may be called from any goroutine.
type Places struct{ cfg Config }

// New makes the places of a channel.
func New(cfg Config) *Places { return &Places{cfg} }

// Delivery is what is written of a decision that posts to a place.
func Delivery(channel int64, plan *room.Plan, now time.Time, d *hall.Decision) jobs.Delivery {
	out := jobs.Delivery{Channel: channel, Place: d.Place, Line: d.Line, Seq: d.Event, Courtesy: d.Courtesy, Output: d.Output,
		About: d.Whom(), Text: d.Text, Body: d.Body, Why: d.Because, Made: now}
	for _, r := range plan.Set.All() {
		if r.ID == d.Courtesy {
			out.Happened = r.When
		}
	}
	if out.Stream = d.Stream; d.Stream > 0 {
		out.Onto, out.Opens, out.Late = d.Onto, d.Onto == "", d.Late
	}
	return out
}

// Health is how a place stands.
type Health string

// The healths of a place.
const (
	Well    Health = "well"
	Waits   Health = "waits"   // it mends by itself
	Trouble Health = "trouble" // a person is needed
	Paused  Health = "paused"
	Unset   Health = "unset" // it has no address yet
)

// Standing is a place and how it stands.
type Standing struct {
	*housefile.Place
	Health Health
	Says   string // why it does not stand well
	jobs.Standing
}

// All are the channel's places and how they stand, in their order.
func (p *Places) All(ctx context.Context) ([]Standing, error) {
	of, err := p.cfg.Store.Jobs.Standings(ctx, p.cfg.Channel, p.since())
	if err != nil {
		return nil, err
	}
	s := p.cfg.Plan().Settings
	out := make([]Standing, 0, len(s.Places))
	for i := range s.Places {
		x := Standing{Place: &s.Places[i], Standing: of[s.Places[i].Name], Health: Well}
		switch {
		case x.Paused:
			x.Health = Paused
		case !x.Ready():
			x.Health, x.Says = Unset, "has no address yet"
		case x.Bad > 0:
			x.Health, x.Says = Trouble, x.FailedWhy
		case x.Waiting > 0 && x.Attempts > 0:
			x.Health, x.Says = Waits, x.Reason
		}
		out = append(out, x)
	}
	return out, nil
}

// Happened is how often what can happen has happened since the stream opened, or the last one closed.
func (p *Places) Happened(ctx context.Context) (map[string]int64, error) {
	return p.cfg.Store.Log.Counts(ctx, p.cfg.Channel, p.since())
}

// since is from when on it is counted.
func (p *Places) since() time.Time {
	if t := p.cfg.Opened(); !t.IsZero() {
		return t
	}
	return time.Now().Add(-24 * time.Hour)
}

// Find finds deliveries, the newest first.
func (p *Places) Find(ctx context.Context, q jobs.Search) ([]jobs.Delivery, error) {
	return p.cfg.Store.Jobs.Find(ctx, p.cfg.Channel, q)
}

// Again has a delivery sent once more. ok is false where nothing of that line is left to send.
func (p *Places) Again(ctx context.Context, line, place string) (ok bool, err error) {
	return p.cfg.Relay.SendAgain(ctx, line, place)
}

// Drop gives up a delivery. ok is false where it is there, or just being sent.
func (p *Places) Drop(ctx context.Context, line, place, member string) (ok bool, err error) {
	return p.cfg.Relay.Drop(ctx, line, place, member)
}

// Try posts to a place once and at once, marked as a try. What waits for the place need not wait longer when it
// arrives.
func (p *Places) Try(ctx context.Context, name string) error {
	plan := p.cfg.Plan()
	place := plan.PlaceNamed(name)
	if place == nil {
		return fmt.Errorf("there is no place %q", name)
	}
	if err := p.lacks(ctx, place); err != nil {
		return err
	}
	body, err := place.Render(wording.Args{"text": wording.Str("Try: this is where " + plan.Settings.Channel + " will be announced."), "title": wording.Str("Try"),
		"category": wording.Str(""), "link": wording.Str(""), "channel": wording.Str(plan.Settings.Channel), "now": wording.At(time.Now().In(plan.Zone)), "stream": wording.Num(0)})
	if err != nil {
		return err
	}
	if err := p.cfg.Relay.Try(ctx, place, body); err != nil {
		return err
	}
	return p.cfg.Relay.Look(ctx, name)
}

// How long deliveries are kept, where the settings do not say.
const (
	DeliveredDays = 30
	FailedDays    = 90
)

// Prune takes out what is kept long enough.
func (p *Places) Prune(ctx context.Context, now time.Time) error {
	k := p.cfg.Plan().Settings.Privacy
	days := func(n, usual int) time.Time {
		if n <= 0 {
			n = usual
		}
		return now.AddDate(0, 0, -n)
	}
	_, err := p.cfg.Store.Jobs.Prune(ctx, p.cfg.Channel, days(k.DeliveredDays, DeliveredDays), days(k.FailedDays, FailedDays))
	return err
}

// inFeed is how many entries a feed has at most.
const inFeed = 100

// Feed writes a place that is a feed: what went there last, the newest first. Its ids are those of an address made
// then.
func (p *Places) Feed(ctx context.Context, w io.Writer, place *housefile.Place, made time.Time) error {
	list, err := p.Find(ctx, jobs.Search{Place: place.Name, States: []jobs.State{jobs.Delivered}, Most: inFeed})
	if err != nil {
		return err
	}
	f := atom.Feed{ID: tag(made, fmt.Sprintf("feed-%d-%s", p.cfg.Channel, place.Name)), Title: p.cfg.Plan().Settings.Channel + " · " + cmp.Or(place.Title, place.Name), Made: made}
	var entries []atom.Entry
	for _, d := range list {
		if d.Text != "" { // whom it was about was not forgotten
			entries = append(entries, atom.Entry{ID: tag(made, relay.Key(&d)), At: d.Made, Text: d.Text})
		}
	}
	if len(entries) > 0 {
		f.Made = entries[0].At
	}
	return atom.Write(w, f, entries)
}

// tag is a name that is nobody else's for ever: a tag URI (RFC 4151) of a house that may have no name of its own.
func tag(since time.Time, what string) string {
	return "tag:porch.invalid," + since.UTC().Format("2006") + ":" + url.PathEscape(what)
}
