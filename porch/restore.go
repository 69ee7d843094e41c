package porch

import (
	"context"
	"errors"
	"fmt"

	"slices"
	"strings"

	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/house"
	"vividporch/core/housefile"
	"vividporch/core/prose"
	"vividporch/core/room"
	"vividporch/porch/screen"
	"vividporch/store/log"
	"vividporch/store/pg"
	"vividporch/store/tables"
	"vividporch/voices/stage"
)

// restore evolves the state from the last snapshot and the log behind it.
func (h *House) restore(ctx context.Context) error {
	plan, err := h.lastPlan(ctx)
	if err != nil {
		return err
	}
	h.plan.Store(plan)
	var anew []string
	if h.state, anew, err = h.store.Log.LastSnapshot(ctx, h.ID); err != nil {
		return err
	}
	h.lastSnap = h.state.Seq
	evolve := func(with func(*event.Event, []hall.Decision)) func(log.Entry) error {
		return func(en log.Entry) error {
			if err := safely(func() { with(&en.Event, en.Decisions) }); err != nil {
				h.log.Error("an old event moves nothing: the house stumbles over it", "event", en.Event.Seq, "type", en.Event.Type, "error", err)
			}
			return nil
		}
	}
	if len(anew) > 0 && h.state.Seq > 0 { // rooms that are new, or remember in another shape
		h.log.Info("some rooms are evolved from the whole log", "rooms", anew)
		if err := h.store.Log.Until(ctx, h.ID, h.state.Seq, evolve(h.state.CatchUp(anew))); err != nil {
			return err
		}
	}
	if err := h.store.Log.Since(ctx, h.ID, h.state.Seq, 0, evolve(h.state.Evolve)); err != nil {
		return err
	}
	h.clock.begin(h.state.Clock)
	h.entries = screen.Ring{}
	// What the Porch shows of the past is read from the log as well.
	if err := h.store.Log.Since(ctx, h.ID, max(0, h.state.Seq-2*screen.EntriesKept), 0, func(en log.Entry) error {
		h.entries.Add(screen.Entries(&en.Event, en.Decisions))
		return nil
	}); err != nil {
		return err
	}
	h.setTimes()
	h.forgotten, err = h.store.Privacy.Digests(ctx, h.ID)
	return err
}

// planOf makes a plan of settings that were in force once: what does not hold any more
// is left out of it.
func planOf(doc []byte, version int64) (*room.Plan, error) {
	s, err := housefile.ReadStored(doc)
	if err != nil {
		return nil, err
	}
	return house.Loosely(s, version), nil
}

// lastPlan is the plan of the last version of the settings that can be read, under the
// number of the last there is.
func (h *House) lastPlan(ctx context.Context) (*room.Plan, error) {
	now, ok, err := h.store.Log.SettingsNow(ctx, h.ID)
	if err != nil {
		return nil, err
	}
	if !ok {
		return planOf(h.cfg.Defaults, 0)
	}
	plan, err := planOf(now.Doc, now.Version)
	for v := now; err != nil; {
		h.log.Error("a version of the settings cannot be read; the one before stands", "version", v.Version, "error", err)
		unread := courtesy.Fault{At: fmt.Sprintf("version %d", v.Version), What: "cannot be read", Remedy: "the version before it stands; look what was changed, and change it anew"}
		if v, err = h.store.Log.SettingsBefore(ctx, h.ID, v.Version); errors.Is(err, pg.ErrNone) {
			v, err = tables.SettingsVersion{Doc: h.cfg.Defaults}, nil
		}
		if err != nil {
			return nil, err
		}
		if plan, err = planOf(v.Doc, now.Version); err == nil {
			plan.Left = append(plan.Left, unread)
		} else if v.Version == 0 {
			return nil, err
		}
	}
	return plan, nil
}

// cutOff are the events that say, for each line and each thing to be done that a
// crash cut off on its way out, that nobody knows whether it was said or done. They
// are gathered before anything new can leave.
func (h *House) cutOff(ctx context.Context) ([]event.Event, error) {
	lines, err := h.store.Log.Unsaid(ctx, h.ID)
	if err != nil {
		return nil, err
	}
	undone, err := h.store.Log.Undone(ctx, h.ID)
	if err != nil {
		return nil, err
	}
	var evs []event.Event
	for _, l := range lines {
		evs = append(evs, h.ownEvent(&event.SpeechUncertain{SpeechOutcome: event.SpeechOutcome{Line: l.Line, Platform: l.Platform, Text: l.Text, About: l.Whom()}}))
	}
	for _, d := range undone {
		evs = append(evs, h.ownEvent(&event.ActRefused{ActOutcome: stage.OutcomeOf(d, "perhaps done: the house went down in that moment; it is not done again by itself")}))
	}
	return evs, nil
}

// tellLeft brings what is left out of the settings into Waiting for you, and out of it
// what holds again.
func (h *House) tellLeft(ctx context.Context) {
	var evs []event.Event
	if err := h.look(ctx, func(s *house.State) { evs = h.leftEvents(s, h.plan.Load()) }); err != nil || len(evs) == 0 {
		return
	}
	if _, err := h.Submit(ctx, evs); err != nil {
		h.log.Warn("what is left out of the settings cannot be shown", "error", err)
	}
}

// leftOut tells, once for each thing that is left out of a plan, what is wrong with it.
func leftOut(p *room.Plan) []*event.Noticed {
	var out []*event.Noticed
	for _, f := range p.Left {
		what, name := f.Courtesy, f.Courtesy
		if what == "" {
			parts := strings.SplitN(f.At, ".", 3)
			what = strings.Join(parts[:min(2, len(parts))], ".")
			name = what
		}
		for _, c := range p.Whole.Courtesy {
			if c.ID == f.Courtesy {
				name = prose.Label(c)
			}
		}
		why := f.At + " " + f.What + "; " + f.Remedy
		item := event.Shortened("settings/"+what, 300)
		if i := slices.IndexFunc(out, func(n *event.Noticed) bool { return n.Item == item }); i >= 0 {
			if strings.Count(out[i].Why, " · ") < 2 { // three of its faults tell enough
				out[i].Why += " · " + why
			}
			continue
		}
		out = append(out, &event.Noticed{Item: item, Kind: "settings", Name: name, Why: why})
	}
	return out
}

// leftEvents are the events that make the state tell what a plan leaves out.
func (h *House) leftEvents(s *house.State, p *room.Plan) []event.Event {
	var out []event.Event
	wanted := map[string]bool{}
	for _, n := range leftOut(p) {
		wanted[n.Item] = true
		if !slices.ContainsFunc(s.Waiting, func(it hall.Item) bool { return it.ID == n.Item && it.Why == n.Why }) {
			out = append(out, h.ownEvent(n))
		}
	}
	for _, it := range s.Waiting {
		if it.Kind == "settings" && !wanted[it.ID] {
			out = append(out, h.ownEvent(&event.Noticed{Item: it.ID, Kind: "settings", Gone: true}))
		}
	}
	return out
}
