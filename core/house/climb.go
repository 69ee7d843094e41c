package house

import (
	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/people"
	"vividporch/core/room"
	"vividporch/core/who"
)

// Climbed is who would win for a person and a number, as things stand now.
type Climbed struct {
	Standing people.Standing
	Why      string // they stand so
	Rungs    []courtesy.Rung
	Line     []courtesy.Stretch // of the number line, where the cause has a number
	Does     []Doing            // what the winner, or the courtesy asked about, would do
}

// Climb works out the ladder of a slot for a person as if something happened now,
// while live. quantity is the number that came with it, or nil. With the id of a
// courtesy it tells what that one would do, instead of the winner.
func Climb(s *State, p *room.Plan, when string, slot happening.Slot, person event.Person, known *people.Known, quantity *who.Quantity, id string) Climbed {
	d := s.Asking(p, &event.Event{Type: when}, known)
	c := d.Cause(person)
	var out Climbed
	out.Standing, out.Why = d.Standing()
	if quantity != nil {
		out.Line = p.Set.Line(c, slot, quantity.Of, quantity.Currency)
		c.Quantities = []who.Quantity{*quantity}
	}
	won, rungs := p.Set.Winner(c, slot)
	out.Rungs = rungs
	if id != "" {
		won = d.Find(id)
	}
	if won != nil {
		out.Does = DryRun(s, p, won, person, known, quantity)
	}
	return out
}
