package room

import (
	"slices"
	"time"

	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/output"
	"vividporch/core/who"
	"vividporch/core/wording"
)

// announce runs the courtesies of an event that have no slot.
func (d *Turn) Announce(args wording.Args, platforms []string) {
	c := who.Cause{When: d.Event.Type, Live: d.IsLive(), At: d.Now.In(d.Plan.Zone), Quantities: d.State.Quantities(d.Event.Data), Fields: happening.OfData(d.Event.Data).Asked(d.Event.Data)}
	if len(platforms) == 1 { // where it happened, for those who ask
		c.Person.Platform = platforms[0]
	}
	if who := d.Event.Who(); who != nil {
		c = d.Cause(*who)
	}
	if _, ok := d.Event.Data.(*event.StreamDeclared); ok {
		c.When = happening.StreamOpenedType
	}
	d.Free(d.Plan.Set.Meet(c), args, platforms)
	d.Release(d.State.Hush)
}

// free runs the courtesies without a slot that fit a cause.
func (d *Turn) Free(m *courtesy.Meeting, args wording.Args, platforms []string) {
	c := m.Cause
	for _, r := range m.All() {
		if r.Slot != happening.Free {
			continue
		}
		if ok, why := r.Fits(c); !ok {
			d.Decide(hall.Decision{Kind: hall.Refuse, Courtesy: r.ID, Because: []string{why}})
			continue
		}
		d.Fill(c, r, nil, args, platforms)
	}
}

// beside runs the courtesies that do not mind who fills a slot.
func (d *Turn) Beside(m *courtesy.Meeting, slot happening.Slot, args wording.Args, platforms []string) {
	c := m.Cause
	again := slot == happening.ShoutOut && d.State.WasShouted(c.Person.Key(), d.Known) // of the house's own accord, and this is
	for _, r := range m.Beside(slot) {
		if again {
			d.Refuse(slot, r, hall.PersonKey(c.Person), d.SayName(c.Person), nil, ShoutedBefore)
			continue
		}
		d.Fill(c, r, nil, args, platforms)
	}
}

// onAir are the platforms whose chat hears what concerns the whole channel: where the
// stream is, or was to its end; all of them when none is on or none is known.
func (d *Turn) OnAir() []string {
	if !d.IsLive() {
		return d.Plan.chat
	}
	live := d.State.Stream.OnTo(d.Plan.grace)
	if out := slices.DeleteFunc(slices.Clone(d.Plan.chat), func(p string) bool { return !slices.Contains(live, p) }); len(live) > 0 {
		return out
	}
	return d.Plan.chat
}

// speakOrWait fills a courtesy in, unless the event came too late to speak of by
// itself: then it waits for a person.
func (d *Turn) SpeakOrWait(c who.Cause, r *courtesy.Ready, ladder []courtesy.Rung, args wording.Args, platforms []string, viewers *int64) {
	if !d.IsLate {
		d.Fill(c, r, ladder, args, platforms)
		return
	}
	person := c.Person
	name := d.SayName(person)
	why := "came " + d.Late.Round(time.Second).String() + " late"
	d.Refuse(r.Slot, r, person.Key(), name, ladder, why+"; only what is under two minutes old is spoken of by itself")
	if r.Slot == happening.Thanks {
		n := int64(0)
		if viewers != nil {
			n = *viewers
		}
		d.WaitFor(person, name, "late", why, n)
	}
	d.records(c, r, args)
}

// fill runs a courtesy for a cause: each output whose own condition holds becomes
// something that is coming up, a post, or an event.
func (d *Turn) Fill(c who.Cause, r *courtesy.Ready, ladder []courtesy.Rung, args wording.Args, platforms []string) {
	for i := range r.Outputs {
		o := &r.Outputs[i]
		if ok, why := o.Fits(c); !ok {
			d.not(c, r, o, "", "its own condition: "+why)
			continue
		}
		d.Do(c, r, o, ladder, args, platforms)
	}
}

// records runs the outputs that no viewer sees: they are made however late the
// cause came.
func (d *Turn) records(c who.Cause, r *courtesy.Ready, args wording.Args) {
	for i := range r.Outputs {
		o := &r.Outputs[i]
		if ok, _ := o.Fits(c); ok && o.Way().Recorded() {
			d.Do(c, r, o, nil, args, nil)
		}
	}
}

func (d *Turn) Do(c who.Cause, r *courtesy.Ready, o *courtesy.ReadyOutput, ladder []courtesy.Rung, args wording.Args, platforms []string) {
	if len(o.On) > 0 {
		platforms = o.On
	}
	if o.Concerns() {
		if about, other := d.meantBy(c); other {
			c, args = about, d.AboutMeant(args)
			if o.Way() == output.ToPlatform { // where they are, whoever asked
				platforms = onlyOn(platforms, c.Person.Platform, len(o.On) > 0)
			}
		}
	}
	if lack := lacks(o.Alts, args); lack != "" { // a hole in the sentence is no sentence
		d.not(c, r, o, "", "nothing is known to stand for {"+lack+"}, which all its words need")
		return
	}
	way := o.Way()
	if d.IsLate && !way.Recorded() {
		d.not(c, r, o, "", "came "+d.Late.Round(time.Second).String()+" late; only what is under two minutes old is spoken of by itself")
		return
	}
	switch way {
	case output.ToPlace:
		d.post(c, r, o, args)
	case output.BackIn:
		d.raise(c, r, o, args)
	case output.ToChat:
		d.sayOn(c, r, o, ladder, args, platforms)
	case output.Within:
		d.shoutOut(c, r, o, args, platforms)
	case output.ToPlatform:
		d.haveDone(c, r, o, ladder, args, platforms)
	case output.ToOverlay:
		d.stage(c, r, o, ladder, args, Overlay)
	case output.ToFitting:
		d.stage(c, r, o, ladder, args, o.Fitting())
	}
}

// answer runs whichever courtesy answers a cause, and those beside it. before, if
// any, is decided ahead of an answer.
func (d *Turn) Answer(m *courtesy.Meeting, name string, args wording.Args, platforms []string, none string, before *hall.Decision) {
	c := m.Cause
	won, ladder := m.Winner(happening.Answer)
	switch {
	case won == nil:
		d.Refuse(happening.Answer, nil, c.Person.Key(), name, ladder, none)
	case len(won.Outputs) == 0:
		d.Refuse(happening.Answer, won, c.Person.Key(), name, ladder, "these are passed over in silence")
	default:
		if before != nil {
			d.Decide(*before)
		}
		d.Fill(c, won, ladder, args, platforms)
	}
	d.Beside(m, happening.Answer, args, platforms)
	d.Free(m, args, platforms)
}
