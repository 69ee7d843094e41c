package porch

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
func (h *House) Climb(ctx context.Context, when string, slot happening.Slot, account string, q *who.Quantity, id string) (out house.Climbed, err error) {
	person := room.Stranger
	if chat := h.Plan().Chat(); len(chat) > 0 {
		person.Platform = chat[0]
	}
	var known *people.Known
	if account != "" {
		who, err := h.Somebody(ctx, account)
		if err != nil {
			return out, err
		}
		person = *who
		if known, err = h.Known(ctx, account); err != nil {
			return out, err
		}
	}
	plan := h.Plan()
	err = h.look(ctx, func(s *house.State) { out = house.Climb(s, plan, when, slot, person, known, q, id) })
	return out, err
}

// Somebody finds the person behind an account, here or in the guest book;
// store.ErrNone when nobody has it.
func (h *House) Somebody(ctx context.Context, account string) (*event.Person, error) {
	who, err := h.PersonHere(ctx, account)
	if err != nil || who != nil {
		return who, err
	}
	return h.store.Book.Account(ctx, h.ID, account)
}

// Review looks at the whole set of courtesies as things stand.
func (h *House) Review(ctx context.Context) (out []courtesy.Finding, err error) {
	shelf, err := h.store.Shelf.List(ctx, h.ID)
	if err != nil {
		return nil, err
	}
	crews, err := h.store.Book.CrewList(ctx, h.ID)
	if err != nil {
		return nil, err
	}
	plan := h.Plan()
	known := house.Shelf{
		Media: func(name string) bool {
			return slices.ContainsFunc(shelf, func(m tables.Medium) bool { return m.Name == name })
		},
		Crew: func(id string) bool {
			return slices.ContainsFunc(crews, func(c book.CrewCount) bool { return c.ID == id })
		},
	}
	err = h.look(ctx, func(s *house.State) { out = house.Review(s, plan, known) })
	return out, err
}
