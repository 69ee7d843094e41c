package courtesy

import (
	"maps"
	"slices"
	"strings"

	"vividporch/core/happening"
	"vividporch/core/output"
	"vividporch/core/who"
	"vividporch/core/wording"
)

// Concerns reports whether a courtesy does something to a person.
func (r *Ready) Concerns() bool {
	return slices.ContainsFunc(r.Outputs, func(o ReadyOutput) bool { return o.Concerns() })
}

// World is what a channel's courtesies can reach and offer, as far as it bounds them. Nil
// functions and empty maps know of nothing.
type World struct {
	output.World
	FillIns []wording.FillIn            // the channel's own, offered everywhere
	Events  map[string][]wording.FillIn // what other services' events bring, by the event's name
}

// Offers lists every fill-in that the wordings of a courtesy can use.
func (w World) Offers(c Courtesy) []wording.FillIn {
	out := happening.Of(c.When).Offers()
	if c.When == happening.OtherType {
		names := map[string]bool{}
		c.Who.Each(func(k *who.Who) {
			if e := k.Fields["event"]; e != "" {
				names[strings.ToLower(e)] = true
			}
		})
		for name, brings := range w.Events {
			if names[strings.ToLower(name)] {
				out = append(out, fresh(out, brings)...)
			}
		}
	}
	return append(out, fresh(out, w.FillIns)...)
}

// fresh leaves out the fill-ins whose names are taken.
func fresh(taken, more []wording.FillIn) []wording.FillIn {
	var out []wording.FillIn
	for _, f := range more {
		if !slices.ContainsFunc(taken, func(t wording.FillIn) bool { return t.Name == f.Name }) {
			out = append(out, f)
		}
	}
	return out
}

// ReadyOutput is an output with its wordings parsed.
type ReadyOutput struct {
	output.Output
	Alts   []*wording.Wording
	Joined []*wording.Wording
	Own    map[string]*wording.Wording // of its kind, by the field they stand in
}

// Fits reports whether an output's own condition holds for a cause, and if not why.
func (o *ReadyOutput) Fits(c who.Cause) (bool, string) {
	if o.Only != nil {
		if _, why := o.Only.Match(&c); why != "" {
			return false, why
		}
	}
	if o.Measure != nil {
		if why := o.Measure.Misfit(c.Quantities); why != "" {
			return false, why
		}
	}
	return true, ""
}

// ready checks an output and parses its wordings. fault takes paths within it.
func ready(o output.Output, c Courtesy, w World, fault func(at, what, remedy string), words func(at string, srcs []string, offered []wording.FillIn) []*wording.Wording) ReadyOutput {
	o.Check(output.In{When: c.When, Slot: c.Slot, Burst: c.Burst != nil, World: w.World}, fault)
	offered := w.Offers(c)
	out := ReadyOutput{Output: o, Alts: words("alternatives", o.Alternatives, offered), Joined: words("joined", o.Joined, happening.Of(c.When).JoinedOffers())}
	own := o.Wordings()
	for _, at := range slices.Sorted(maps.Keys(own)) {
		if out.Own == nil {
			out.Own = map[string]*wording.Wording{}
		}
		out.Own[at] = words(at, []string{own[at]}, offered)[0]
	}
	return out
}

// circles finds courtesies whose raised events come back to them, directly or
// through others.
func circles(list []Courtesy) []Fault {
	hears := func(c *Courtesy, event string) bool {
		if c.When != happening.OtherType || c.Away {
			return false
		}
		want := c.Who.Fields["event"]
		return want == "" || strings.EqualFold(want, event)
	}
	shouts := func(i, j int) bool { // whichever courtesy may shout out for another, as the house chooses it
		c := &list[j]
		return list[i].Slot != happening.ShoutOut && c.Slot == happening.ShoutOut && !c.Away && (c.When == list[i].When || c.When == happening.RaidCameType || c.When == happening.Arrival)
	}
	next := func(i int) []int {
		var out []int
		for _, o := range list[i].Do {
			if list[i].Away {
				continue
			}
			raises, _ := o.Do.(*output.Raise)
			answers, _ := o.Do.(*output.Answer)
			for j := range list {
				if (raises != nil && hears(&list[j], raises.Event) || answers != nil && answers.Of == list[j].ID || o.Kind() == output.KindShoutOut && shouts(i, j)) && !slices.Contains(out, j) {
					out = append(out, j)
				}
			}
		}
		return out
	}
	var faults []Fault
	const white, grey, black = 0, 1, 2
	colour := make([]int, len(list))
	var walk func(i int, path []string)
	walk = func(i int, path []string) {
		colour[i] = grey
		path = append(path, list[i].ID)
		for _, j := range next(i) {
			switch colour[j] {
			case grey:
				from := slices.Index(path, list[j].ID)
				faults = append(faults, Fault{Courtesy: list[i].ID, At: "do", What: "goes in a circle: " + strings.Join(append(slices.Clone(path[max(0, from):]), list[j].ID), " brings on "),
					Remedy: "take one of these steps out, or let one that hears an event ask for it by name"})
			case white:
				walk(j, path)
			}
		}
		colour[i] = black
	}
	for i := range list {
		if colour[i] == white {
			walk(i, nil)
		}
	}
	return faults
}
