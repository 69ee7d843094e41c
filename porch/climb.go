package porch

import (
	"context"

	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/house"
	"vividporch/core/people"
)

// Climb works out who would win a slot if something happened to a person now:
// what beat what, and why. Without an account it is a newcomer nobody knows.
func (h *House) Climb(ctx context.Context, when string, slot courtesy.Slot, account string, q *courtesy.Quantity) (out house.Climbed, err error) {
	person := event.Person{ID: "nobody-yet", Name: "somebody new"}
	if chat := h.Plan().Chat(); len(chat) > 0 {
		person.Platform = chat[0]
	}
	var known *people.Known
	if account != "" {
		here, err := h.PersonHere(ctx, account)
		if err != nil {
			return out, err
		}
		if here == nil {
			if here, err = h.store.Account(ctx, h.ID, account); err != nil {
				return out, err
			}
		}
		person = *here
		if known, err = h.Known(ctx, account); err != nil {
			return out, err
		}
	}
	plan := h.Plan()
	err = h.look(ctx, func(s *house.State) { out = house.Climb(s, plan, when, slot, person, known, q) })
	return out, err
}
