package desk

import (
	"context"
	"slices"

	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/house"
	"vividporch/core/people"
	"vividporch/core/room"
	"vividporch/core/who"
	"vividporch/store/book"
	"vividporch/store/tables"
)

// Climb works out who would win a slot if something happened to a person now:
// what beat what, and why, and what the winner, or the courtesy of that id, would
// do. Without an account it is a stranger.
func (desk *Desk) Climb(ctx context.Context, when string, slot happening.Slot, account string, q *who.Quantity, id string) (out house.Climbed, err error) {
	person := room.Stranger
	if chat := desk.house.Plan().Chat(); len(chat) > 0 {
		person.Platform = chat[0]
	}
	var known *people.Known
	if account != "" {
		who, err := desk.Somebody(ctx, account)
		if err != nil {
			return out, err
		}
		person = *who
		if known, err = desk.house.Known(ctx, account); err != nil {
			return out, err
		}
	}
	plan := desk.house.Plan()
	err = desk.house.Look(ctx, func(s *house.State) { out = house.Climb(s, plan, when, slot, person, known, q, id) })
	return out, err
}

// Somebody finds the person behind an account, here or in the guest book;
// store.ErrNone when nobody has it.
func (desk *Desk) Somebody(ctx context.Context, account string) (*event.Person, error) {
	who, err := desk.PersonHere(ctx, account)
	if err != nil || who != nil {
		return who, err
	}
	return desk.store.Book.Account(ctx, desk.channel, account)
}

// Review looks at the whole set of courtesies as things stand.
func (desk *Desk) Review(ctx context.Context) (out []courtesy.Finding, err error) {
	shelf, err := desk.store.Shelf.List(ctx, desk.channel)
	if err != nil {
		return nil, err
	}
	crews, err := desk.store.Book.CrewList(ctx, desk.channel)
	if err != nil {
		return nil, err
	}
	plan := desk.house.Plan()
	known := house.Shelf{
		Media: func(name string) bool {
			return slices.ContainsFunc(shelf, func(m tables.Medium) bool { return m.Name == name })
		},
		Crew: func(id string) bool {
			return slices.ContainsFunc(crews, func(c book.CrewCount) bool { return c.ID == id })
		},
	}
	err = desk.house.Look(ctx, func(s *house.State) { out = house.Review(s, plan, known) })
	return out, err
}
