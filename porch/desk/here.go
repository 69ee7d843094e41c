package desk

import (
	"context"

	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/house"
)

// PersonHere finds somebody of this stream, or of the time since the last one, by
// account; nil when they have not been seen.
func (desk *Desk) PersonHere(ctx context.Context, account string) (*event.Person, error) {
	var who *event.Person
	err := desk.house.Look(ctx, func(s *house.State) {
		for _, gs := range []map[string]*hall.Guest{s.Tonight, s.Between} {
			if g := gs[account]; g != nil {
				p := g.Person(account)
				who = &p
				return
			}
		}
		for _, r := range s.Raids {
			if r.Person.Key() == account {
				p := r.Person
				who = &p
			}
		}
	})
	return who, err
}

// WaitingItem finds something in Waiting for you; nil when it waits no longer.
func (desk *Desk) WaitingItem(ctx context.Context, id string) (*hall.Item, error) {
	var found *hall.Item
	err := desk.house.Look(ctx, func(s *house.State) {
		for _, it := range s.Waiting {
			if it.ID == id {
				found = &it
			}
		}
	})
	return found, err
}
