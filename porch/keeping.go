package porch

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"vividporch/core/event"
	"vividporch/core/house"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/doors/inbox"
	"vividporch/doors/irc"
	"vividporch/doors/signin"
	"vividporch/porch/desk"
	"vividporch/porch/gate"
	"vividporch/porch/movein"
	"vividporch/porch/signins"
	"vividporch/spec"
	"vividporch/store/members"
	"vividporch/store/tables"
	"vividporch/voices/stage"
)

// AtHome is how the house is reached in the home network: its addresses there, and what its own
// certificate is recognised by. Trouble says why it is not.
type AtHome struct {
	Addresses   []string // "https://192.168.1.20:8443"
	Fingerprint string   // SHA-256 of the certificate, in hexadecimal with colons
	Trouble     string
}

// SetHome says how the house is reached in the home network; nil for not at all.
func (h *House) SetHome(at *AtHome) { h.home.Store(at) }

// Home tells how the house is reached in the home network; nil for not at all.
func (h *House) Home() *AtHome { return h.home.Load() }

// Fixed reports whether how the house is reached was said at its start.
func (h *House) Fixed() bool { return h.cfg.Fixed }

// Links is what links to the house start with, for viewers; where the house is not reached
// publicly, for members.
func (h *House) Links() string {
	switch r := h.plan.Load().Settings.Reach; {
	case r.How == housefile.Public:
		return strings.TrimRight(r.Address, "/")
	case r.How == housefile.Home:
		if at := h.home.Load(); at != nil && len(at.Addresses) > 0 {
			return at.Addresses[0]
		}
	}
	return h.cfg.Public
}

// reach tells how the house is to be reached now.
func (h *House) reach() {
	if h.cfg.OnReach != nil {
		h.cfg.OnReach(h.plan.Load().Whole.Reach)
	}
}

// Held reports whether the house holds still after it was brought back from a backup: its doors
// are shut, and nothing is carried to places.
func (h *House) Held() bool { return h.held.Load() }

// heldWhy is why a house that holds still opens no door.
const heldWhy = "the house was brought back from a backup; it opens its doors when the owner says go"

// heldEvents tell of a house that holds still that its chat doors are shut, so that whatever
// cannot be said says why.
func (h *House) heldEvents() []event.Event {
	if !h.held.Load() {
		return nil
	}
	var out []event.Event
	for _, d := range h.plan.Load().Settings.Doors {
		if d.Kind == "irc" {
			out = append(out, h.ownEvent(&event.DoorChanged{Name: d.Name, Platform: d.Platform, State: string(paused), Account: d.Account, Reason: heldWhy}))
		}
	}
	return out
}

// Go lets a house that holds still go on: its doors are opened, and what waits is carried.
func (h *House) Go(ctx context.Context) error {
	if !h.held.Load() {
		return nil
	}
	if err := h.store.Moving.Go(ctx, h.ID); err != nil {
		return err
	}
	if h.held.CompareAndSwap(true, false) {
		if err := h.relay.Start(h.running); err != nil {
			return err
		}
	}
	select {
	case h.tend <- struct{}{}:
	default:
	}
	return nil
}

// Live reports whether a stream is on.
func (h *House) Live(ctx context.Context) (live bool, err error) {
	err = h.look(ctx, func(s *house.State) { live = s.Stream.Live() })
	return live, err
}

// Clock is the house's own time.
func (h *House) Clock() time.Time { return h.clock.now() }

// facts are what moving in is told by.
func (h *House) facts(ctx context.Context) (movein.Facts, error) {
	f := movein.Facts{Settings: h.plan.Load().Whole, Doors: h.Doors()}
	var err error
	if f.Said, err = h.store.Moving.Steps(ctx, h.ID); err != nil {
		return f, err
	}
	list, err := h.store.Members.List(ctx, h.ID, time.Hour)
	if err != nil {
		return f, err
	}
	for _, m := range list {
		if m.Role == members.RoleOwner && m.Account != "" {
			f.Streamer = cmp.Or(m.Called, m.Account)
		}
	}
	if f.People, err = h.store.Book.Count(ctx, h.ID); err != nil {
		return f, err
	}
	var inboxes []string
	for _, d := range f.Settings.Doors {
		if d.Kind == "inbox" {
			inboxes = append(inboxes, d.Name)
		}
	}
	if f.Heard, err = h.store.Log.HeardFrom(ctx, h.ID, inboxes); err != nil {
		return f, err
	}
	files, err := h.store.Imports.List(ctx, h.ID, 20)
	f.Brought = slices.ContainsFunc(files, func(im tables.Import) bool { return im.Applied != nil })
	return f, err
}

// Moving tells how far the house has moved in.
func (h *House) Moving(ctx context.Context) (spec.Moving, error) {
	f, err := h.facts(ctx)
	if err != nil {
		return spec.Moving{}, err
	}
	out := spec.Moving{Begun: f.Said[movein.Begun] != "", Steps: []spec.Step{}, Left: movein.Left(f)}
	for _, s := range movein.Steps(f) {
		out.Steps = append(out.Steps, spec.Step{Name: s.Name, State: spec.StepState(s.State), Proof: s.Proof})
	}
	return out, nil
}

// SayStep says of a step of moving in that it is done, skipped, or open again.
func (h *House) SayStep(ctx context.Context, step, state string) error {
	if !slices.Contains(movein.Order, step) {
		return &event.FieldError{Field: "step", Remedy: "is none; use one of " + strings.Join(movein.Order, ", ")}
	}
	if state == movein.Open {
		state = ""
	}
	return h.store.Moving.Say(ctx, h.ID, step, state)
}

// MadeUpEvening is a minute of an evening as the Porch would show it, under the settings in force.
func (h *House) MadeUpEvening() (spec.ShownEvening, error) {
	return movein.Evening(h.plan.Load().Whole, h.clock.now())
}

// TryPlace posts to a place once and at once, marked as a try.
func (h *House) TryPlace(ctx context.Context, name string) error {
	if err := h.Places.Try(ctx, name); err != nil {
		return err
	}
	return h.store.Moving.Say(ctx, h.ID, movein.Place, movein.Done)
}

// TryFitting has a fitting do something small at once, marked as a try, and says what it answered.
func (h *House) TryFitting(ctx context.Context, name string) error {
	f := h.plan.Load().FittingNamed(name)
	if f == nil {
		return fmt.Errorf("there is no fitting %q", name)
	}
	told, by := output.Told{Try: true}, f.Spoken()
	can := func(manner string) bool { return by == nil || by.Cannot(manner) == "" }
	switch {
	case f.Kind == output.Lights:
		told.Effect, told.Do = output.KindLamp, &output.Lamp{Colour: "#f2b53c", Seconds: 2}
	case f.Kind == output.Player && can(string(output.KindSpeak)):
		told.Effect, told.Text, told.Do = output.KindSpeak, "This is a try.", &output.Speak{Loud: 30}
	case f.Kind == output.Player && can(output.Softer):
		told.Effect, told.Do = output.KindMusic, &output.Music{Act: output.Softer, Percent: 30, Seconds: 2}
	case f.Kind == output.Player:
		told.Effect, told.Do = output.KindMusic, &output.Music{Act: output.GoOn}
	case len(f.Scenes) == 0:
		return errors.New("it has no scenes yet: write what they are called")
	default:
		told.Effect, told.Do = output.KindScene, &output.Scene{Scene: f.Scenes[0]}
	}
	return h.stage.Try(ctx, stage.To{Address: f.URL, Name: name, By: by}, told)
}

// signWithin is how long one request of a sign-in may take.
const signWithin = 10 * time.Second

// signInsOf are the sign-ins at platforms.
func (h *House) signInsOf() *signins.Keeper {
	return signins.New(signins.Config{Channel: h.ID, Store: h.store.SignIns, HTTP: h.way.Client(signWithin), Now: time.Now,
		Settings: func() *housefile.Settings { return h.plan.Load().Settings },
		Keep: func(ctx context.Context, name, slot, value string) error {
			if err := h.store.Safe.SetSecret(ctx, h.ID, h.plan.Load().Whole, name, slot, value); err != nil {
				return err
			}
			return h.changedSecret(name)
		},
		Secret: func(ctx context.Context, name, slot, to string) (string, error) {
			return h.store.Safe.SecretTo(ctx, h.ID, name, slot, to)
		},
		Drop: func(ctx context.Context, name, slot string) error {
			return h.store.Safe.DropSecret(ctx, h.ID, name, slot)
		},
		Redirect: h.SignInBack,
		Notice:   func(n *event.Noticed) { h.tell(n) },
		Changed:  h.signedIn,
		MoveIn:   h.moveInBy, Clock: h.clock.now, Missed: h.missed, Still: h.held.Load,
		Heard: func(ctx context.Context, platform string) (time.Time, error) {
			return h.store.Log.LastFrom(ctx, h.ID, h.inboxOf(platform))
		}})
}

// inboxOf is the door by which a platform's happenings come in: what is fetched comes in there too, so that
// what was sent already is a repeat.
func (h *House) inboxOf(platform string) string {
	for _, d := range h.plan.Load().Settings.Doors {
		if d.Kind == "inbox" && d.Platform == platform {
			return d.Name
		}
	}
	return platform
}

// missed takes in what a platform tells of the time when the house did not listen.
func (h *House) missed(ctx context.Context, platform string, events []byte) error {
	door := h.inboxOf(platform)
	if d := h.plan.Load().Settings.DoorNamed(door); h.held.Load() || d != nil && d.Paused {
		return nil
	}
	_, err := inbox.Take(ctx, door, platform, events, func(ctx context.Context, evs []event.Event) ([]inbox.Outcome, error) {
		rs, err := h.Submit(ctx, evs)
		became := make([]inbox.Outcome, len(rs))
		for i := range rs {
			became[i] = inbox.Outcome{Repeat: rs[i].Repeat, Aside: rs[i].Aside}
			if !rs[i].Repeat {
				h.Gate.Heard(door, "", "fetched: "+gate.Words(&evs[i]), h.clock.now())
			}
		}
		return became, err
	})
	if errors.Is(err, inbox.ErrUnread) {
		return errors.New("the platform answered what cannot be read")
	}
	return err
}

// SignInBack is where platforms send a member back to: the house's public address, else the one on
// its own machine; never what a request says it was sent to.
func (h *House) SignInBack() string {
	base := h.cfg.Public
	if r := h.plan.Load().Settings.Reach; r.How == housefile.Public {
		base = r.Address
	}
	return strings.TrimRight(base, "/") + "/signin/back"
}

// signedIn opens a platform's chat doors anew that are not open: whoever signed in may be let in now.
func (h *House) signedIn(platform string) {
	for _, d := range h.Doors() {
		if d.Kind == "irc" && d.Platform == platform && d.State != string(irc.Open) && d.State != string(paused) {
			if err := h.Reopen(d.Door); err != nil {
				h.log.Warn("a door is not opened anew", "door", d.Door, "error", err)
			}
		}
	}
}

// moveInBy sets the house up by a sign-in: the channel's name, its chat, and whose account the member's is.
func (h *House) moveInBy(ctx context.Context, member int64, platform string, a signin.Account) error {
	by := desk.By{Member: a.Login, Role: members.RoleOwner}
	_, err := h.Desk.ChangeSettings(ctx, by, "moved in at "+platform, func(s *housefile.Settings) error {
		s.MoveInAt(platform, a.Login)
		return nil
	})
	if err != nil && !errors.Is(err, desk.ErrUnchanged) {
		return err
	}
	return h.Desk.LinkMember(ctx, a.Login, member, platform+":"+a.ID, true)
}
