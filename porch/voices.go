package porch

import (
	"vividporch/core/hall"
	"vividporch/core/output"
	"vividporch/store/log"
)

// letOut hands committed effects to the voices. The decision's own commit is the
// mark that the line is about to be said.
func (h *House) letOut(b *log.Batch) {
	for i := range b.Entries {
		for _, d := range b.Entries[i].Decisions {
			if voice := h.voices[d.Way()]; voice != nil {
				voice(d)
			} else if d.Kind == hall.Ask {
				h.asker.Ask(h.plan.Load().Lookup(d.Platform), d)
			}
		}
	}
}

// voicesOf are the voices of a house, by the way that things go out. What goes to a place is
// a job, made in one transaction with its decision; cards are shown from the state, and what
// comes back in is lived by the owner.
func (h *House) voicesOf() map[output.Way]func(hall.Decision) {
	return map[output.Way]func(hall.Decision){
		output.ToChat: h.speak,
		output.ToPlatform: func(d hall.Decision) {
			address, door := h.plan.Load().ActsAt(d.Platform)
			h.stage.Do(address, door, d)
		},
		output.ToFitting: func(d hall.Decision) {
			address := ""
			if f := h.plan.Load().FittingNamed(d.Platform); f != nil {
				address = f.URL
			}
			h.stage.Do(address, d.Platform, d)
		},
	}
}
