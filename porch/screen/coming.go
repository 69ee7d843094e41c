package screen

import (
	"encoding/json"
	"slices"

	"vividporch/core/happening"
	"vividporch/core/house"
	"vividporch/core/output"
	"vividporch/core/overlay"
	"vividporch/core/pace"
	"vividporch/core/prose"
	"vividporch/core/room"
	"vividporch/spec"
)

func held(s *house.State) int {
	if !s.Hush {
		return 0
	}
	n := 0
	for i := range s.Queue.Lines {
		if s.Queue.Lines[i].Hushes(true) {
			n++
		}
	}
	return n
}

func coming(s *house.State, plan *room.Plan) []spec.Coming {
	out := []spec.Coming{}
	leaves := s.Queue.LeavesAt(s.Hush, plan.Rules())
	joins := s.Queue.Joins(s.Hush, plan.Rules())
	at := map[string]int{}
	for i := range s.Queue.Lines {
		l := &s.Queue.Lines[i]
		if l.Unallowed() { // it waits for a member, among what does
			continue
		}
		if k, ok := at[l.ID]; ok {
			out[k].Platforms = append(out[k].Platforms, l.Platform)
			continue
		}
		at[l.ID] = len(out)
		due, ok := leaves[l.Key()]
		if !ok {
			due = l.Due
		}
		out = append(out, spec.Coming{Line: l.ID, Platforms: []string{l.Platform}, Courtesy: l.Courtesy, Label: label(l, plan), Name: l.Name, Text: l.Text,
			Made: l.Made, Due: due, Expires: l.Expires, ByHand: l.Priority == pace.ByHand, Hushed: l.Hushes(s.Hush),
			Asking: l.Ask != "", Joins: joins[l.Key()], Effect: l.Effect, Burst: l.Burst, Streamer: l.As == output.AsStreamer, Try: l.Try})
		if l.Text == "" {
			out[len(out)-1].Text = effectText(l.Effect, l.Body, plan)
		}
	}
	slices.SortStableFunc(out, func(a, b spec.Coming) int { return a.Due.Compare(b.Due) })
	return out
}

// cards are the last ones shown, oldest first.
func cards(s *house.State, plan *room.Plan) []spec.CardView {
	out := []spec.CardView{}
	for _, c := range overlay.Cards(s.Rooms) {
		v := spec.CardView{Line: c.Line, At: c.At, Courtesy: c.Courtesy, Heading: c.Told.Text, Names: c.Told.Names, Try: c.Told.Try}
		if card, ok := c.Told.Do.(*output.Card); ok {
			v.Second, v.Media, v.Seconds = card.Second, card.Media, card.Seconds
		}
		for _, cy := range plan.Settings.Courtesy {
			if cy.ID == c.Courtesy {
				v.Label = prose.Label(cy)
			}
		}
		out = append(out, v)
	}
	return out
}

// hands are the courtesies that are asked for by hand.
func hands(plan *room.Plan) []spec.HandView {
	out := []spec.HandView{}
	for _, r := range plan.Set.All() {
		if r.When != happening.Hand || !r.On {
			continue
		}
		v := spec.HandView{ID: r.ID, Label: prose.Label(r.Courtesy)}
		for _, o := range r.Outputs {
			for _, w := range o.Alts {
				v.Meant = v.Meant || w.Uses("meant")
			}
		}
		v.Meant = v.Meant && r.Who.Account == ""
		out = append(out, v)
	}
	return out
}

// Acts lists the platform actions, with what keeps each platform from them.
func Acts(p *room.Plan) []spec.ActView {
	out := []spec.ActView{}
	for _, a := range output.Acts() {
		v := spec.ActView{Act: string(a), Undoable: a.Undoable(), OfPerson: a.OfPerson(), Cannot: map[string]string{}}
		for _, platform := range p.Chat() {
			if why := p.Cannot(platform, a); why != "" {
				v.Cannot[platform] = why
			}
		}
		out = append(out, v)
	}
	return out
}

// effectText says what an effect without words is.
func effectText(effect string, body []byte, plan *room.Plan) string {
	var t output.Told
	if json.Unmarshal(body, &t) != nil {
		return effect
	}
	return t.Coming()
}

// label says in a few words what a line is.
func label(l *pace.Line, plan *room.Plan) string {
	if l.Courtesy == "desk" {
		return "By hand"
	}
	for _, c := range plan.Settings.Courtesy {
		if c.ID == l.Courtesy {
			return prose.Label(c)
		}
	}
	return l.Courtesy
}
