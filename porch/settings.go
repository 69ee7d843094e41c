package porch

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"

	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/house"
)

// Faults is an error that lists what keeps settings from coming into force.
type Faults []courtesy.Fault

func (f Faults) Error() string { return f[0].Error() }

// ErrUnchanged says that a change would change nothing.
var ErrUnchanged = errors.New("nothing would change")

// ErrOvertaken says that somebody else changed the settings in the same moment.
var ErrOvertaken = errors.New("somebody else changed the settings in the same moment; look and try again")

// ChangeSettings makes the next version of the settings: change edits a copy of
// the version in force. What has a fault does not come into force.
func (h *House) ChangeSettings(ctx context.Context, member, what string, change func(*house.Settings) error) (int64, error) {
	if h.Stalled() {
		return 0, ErrStalled
	}
	h.settingsMu.Lock() // one change at a time, so that none is built on a version that is gone
	defer h.settingsMu.Unlock()
	now := h.plan.Load()
	before, err := json.Marshal(now.Settings)
	if err != nil {
		return 0, err
	}
	next := &house.Settings{}
	if err := json.Unmarshal(before, next); err != nil {
		return 0, err
	}
	if err := change(next); err != nil {
		return 0, err
	}
	after, err := json.Marshal(next)
	if err != nil {
		return 0, err
	}
	if string(before) == string(after) {
		return now.Version, ErrUnchanged
	}
	version := now.Version + 1
	if _, faults := house.Ready(next, version); len(faults) > 0 {
		return 0, Faults(faults)
	}
	ev := h.ownEvent(&event.SettingsChanged{Version: version, Base: now.Version, Member: member, What: what, Settings: after})
	ev.Door, ev.Source = "desk", "desk"
	rs, err := h.Submit(ctx, []event.Event{ev})
	if err != nil {
		return 0, err
	}
	if rs[0].Aside != "" {
		return 0, &ErrAside{rs[0].Aside}
	}
	return version, nil
}

// Undo takes the changes of one version back, field by field, as a new version.
// What was changed again since stays as it is now.
func (h *House) Undo(ctx context.Context, member string, version int64) (int64, error) {
	then, err := h.store.SettingsAt(ctx, h.ID, version)
	if err != nil {
		return 0, err
	}
	base := h.cfg.Defaults
	if then.Base > 0 {
		b, err := h.store.SettingsAt(ctx, h.ID, then.Base)
		if err != nil {
			return 0, err
		}
		base = b.Doc
	}
	return h.ChangeSettings(ctx, member, fmt.Sprintf("undone: %s", then.What), func(s *house.Settings) error {
		now, err := json.Marshal(s)
		if err != nil {
			return err
		}
		back, err := house.TakeBack(now, base, then.Doc)
		if err != nil {
			return err
		}
		*s = house.Settings{}
		return json.Unmarshal(back, s)
	})
}
