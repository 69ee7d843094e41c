package porch

import (
	"context"
	"slices"
	"strings"

	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/house"
	"vividporch/core/prose"
	"vividporch/core/room"
)

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
