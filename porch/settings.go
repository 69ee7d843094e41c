package porch

import (
	"context"
	"encoding/json"
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
	"vividporch/store/pg"
)

// Faults is an error that lists what keeps settings from coming into force.
type Faults []courtesy.Fault

func (f Faults) Error() string { return f[0].Error() }

// ErrUnchanged says that a change would change nothing.
var ErrUnchanged = errors.New("nothing would change")

// By is who changes something: a member in a role, who looked at the version Base. With
// a Base of 0 they did not look at any.
type By struct {
	Member string
	Role   string // one of the store's; only an owner leads doors with secrets elsewhere
	Base   int64
}

// Clashes is an error that lists what somebody else changed meanwhile, in another way.
type Clashes []housefile.Clash

func (c Clashes) Error() string { return c[0].At + ": somebody else changed this meanwhile" }

// ChangeSettings makes the next version of the settings: change edits a copy of the
// version that the member looked at, and what others changed since is merged with it
// field by field; a *[Clashes] says where that cannot be. What has a fault does not come
// into force.
func (h *House) ChangeSettings(ctx context.Context, by By, what string, change func(*housefile.Settings) error) (int64, error) {
	if h.Stalled() {
		return 0, ErrStalled
	}
	h.settingsMu.Lock() // one change at a time, so that none is built on a version that is gone
	defer h.settingsMu.Unlock()
	now := h.plan.Load()
	before, err := json.Marshal(now.Whole)
	if err != nil {
		return 0, err
	}
	after, err := h.changed(ctx, by, now, before, change)
	if err != nil {
		return 0, err
	}
	if string(before) == string(after) {
		return now.Version, ErrUnchanged
	}
	next, err := housefile.ReadStored(after)
	if err != nil {
		return 0, err
	}
	version := now.Version + 1
	if _, faults := house.Ready(next, version); len(now.NewFaults(faults)) > 0 {
		return 0, Faults(now.NewFaults(faults))
	}
	if err := h.mayLead(ctx, by, now.Whole, next); err != nil {
		return 0, err
	}
	ev := h.ownEvent(&event.SettingsChanged{Version: version, Base: now.Version, Member: by.Member, What: what, Settings: after})
	ev.Door, ev.Source = "desk", "desk"
	rs, err := h.Submit(ctx, []event.Event{ev})
	if err != nil {
		return 0, err
	}
	if rs[0].Aside != "" {
		return 0, &ErrAside{rs[0].Aside}
	}
	h.tellLeft(ctx)
	return version, nil
}

// changed is the document after a change.
func (h *House) changed(ctx context.Context, by By, now *room.Plan, before []byte, change func(*housefile.Settings) error) ([]byte, error) {
	base := before
	if by.Base > 0 && by.Base != now.Version {
		then, err := h.store.Log.SettingsAt(ctx, h.ID, by.Base)
		if errors.Is(err, pg.ErrNone) {
			return nil, &event.FieldError{Field: "base", Remedy: "is no version of the settings; reload the page"}
		}
		if err != nil {
			return nil, err
		}
		s, err := housefile.ReadStored(then.Doc)
		if err != nil {
			return nil, err
		}
		if base, err = json.Marshal(s); err != nil {
			return nil, err
		}
	}
	mine, err := housefile.ReadStored(base)
	if err != nil {
		return nil, err
	}
	if err := change(mine); err != nil {
		return nil, err
	}
	after, err := json.Marshal(mine)
	if err != nil || string(base) == string(before) {
		return after, err
	}
	merged, clashes, err := housefile.Merge(base, before, after)
	if err != nil {
		return nil, err
	}
	if len(clashes) > 0 {
		return nil, Clashes(clashes)
	}
	s, err := housefile.ReadStored(merged)
	if err != nil {
		return nil, err
	}
	return json.Marshal(s) // in the order of the fields, as all versions stand
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

// Undo takes the changes of one version back, field by field, as a new version.
// What was changed again since stays as it is now.
func (h *House) Undo(ctx context.Context, by By, version int64) (int64, error) {
	then, err := h.store.Log.SettingsAt(ctx, h.ID, version)
	if err != nil {
		return 0, err
	}
	base := h.cfg.Defaults
	if then.Base > 0 {
		b, err := h.store.Log.SettingsAt(ctx, h.ID, then.Base)
		if err != nil {
			return 0, err
		}
		base = b.Doc
	}
	by.Base = 0 // taken back in what holds now, field by field
	return h.ChangeSettings(ctx, by, fmt.Sprintf("undone: %s", then.What), func(s *housefile.Settings) error {
		now, err := json.Marshal(s)
		if err != nil {
			return err
		}
		back, err := housefile.TakeBack(now, base, then.Doc)
		if err != nil {
			return err
		}
		*s = housefile.Settings{}
		return json.Unmarshal(back, s)
	})
}
