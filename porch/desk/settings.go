package desk

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"

	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/house"
	"vividporch/core/housefile"
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
func (desk *Desk) ChangeSettings(ctx context.Context, by By, what string, change func(*housefile.Settings) error) (int64, error) {
	if err := desk.house.Ready(); err != nil {
		return 0, err
	}
	desk.changing.Lock()
	defer desk.changing.Unlock()
	for {
		version, err := desk.change(ctx, by, what, change)
		if !errors.Is(err, ErrOvertaken) {
			return version, err
		}
	}
}

// ErrOvertaken says that other settings came into force between looking at those there were and
// putting the next in force: a line of chat can do that.
var ErrOvertaken = errors.New("other settings came into force meanwhile")

// change makes the next version of those in force now.
func (desk *Desk) change(ctx context.Context, by By, what string, change func(*housefile.Settings) error) (int64, error) {
	now := desk.house.Plan()
	before, err := json.Marshal(now.Whole)
	if err != nil {
		return 0, err
	}
	after, err := desk.changed(ctx, by, now, before, change)
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
	if err := desk.mayLead(ctx, by, now.Whole, next); err != nil {
		return 0, err
	}
	if err := desk.oneHouse(ctx, now.Whole, next); err != nil {
		return 0, err
	}
	if _, err := desk.house.Hand(ctx, &event.SettingsChanged{Version: version, Base: now.Version, Member: by.Member, What: what, Settings: after}); err != nil {
		return 0, err
	}
	desk.house.TellLeft(ctx)
	return version, nil
}

// changed is the document after a change.
func (desk *Desk) changed(ctx context.Context, by By, now *room.Plan, before []byte, change func(*housefile.Settings) error) ([]byte, error) {
	base := before
	if by.Base > 0 && by.Base != now.Version {
		then, err := desk.store.Log.SettingsAt(ctx, desk.channel, by.Base)
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

// Undo takes the changes of one version back, field by field, as a new version.
// What was changed again since stays as it is now.
func (desk *Desk) Undo(ctx context.Context, by By, version int64) (int64, error) {
	then, err := desk.store.Log.SettingsAt(ctx, desk.channel, version)
	if err != nil {
		return 0, err
	}
	base := desk.defaults
	if then.Base > 0 {
		b, err := desk.store.Log.SettingsAt(ctx, desk.channel, then.Base)
		if err != nil {
			return 0, err
		}
		base = b.Doc
	}
	by.Base = 0 // taken back in what holds now, field by field
	return desk.ChangeSettings(ctx, by, fmt.Sprintf("undone: %s", then.What), func(s *housefile.Settings) error {
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
