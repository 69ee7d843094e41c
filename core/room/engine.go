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

// Announce runs the courtesies of an event that have no slot.
func (t *Turn) Announce(args wording.Args, platforms []string) {
	c := who.Cause{When: t.Event.Type, Live: t.IsLive(), At: t.Now.In(t.Plan.Zone), Quantities: t.State.Quantities(t.Event.Data), Fields: happening.OfData(t.Event.Data).Asked(t.Event.Data)}
	if t.Plan.dated {
		c.Dates = t.channelDays()
	}
	if len(platforms) == 1 { // where it happened, for those who ask
		c.Person.Platform = platforms[0]
	}
	if who := t.Event.Who(); who != nil {
		c = t.Cause(*who)
	}
	if _, ok := t.Event.Data.(*event.StreamDeclared); ok {
		c.When = happening.StreamOpenedType
	}
	t.Free(t.Plan.Set.Meet(c), args, platforms)
	t.Release(t.State.Hush)
}

// Free runs the courtesies without a slot that fit a cause.
func (t *Turn) Free(m *courtesy.Meeting, args wording.Args, platforms []string) {
	c := m.Cause
	for _, r := range m.All() {
		if r.Slot != happening.Free {
			continue
		}
		if why := m.Held(r); why != "" {
			t.Decide(hall.Decision{Kind: hall.Refuse, Courtesy: r.ID, Because: []string{why}})
			continue
		}
		if ok, why := r.Fits(c); !ok {
			t.Decide(hall.Decision{Kind: hall.Refuse, Courtesy: r.ID, Because: []string{why}})
			continue
		}
		t.Fill(c, r, nil, args, platforms)
	}
}

// Beside runs the courtesies that do not mind who fills a slot.
func (t *Turn) Beside(m *courtesy.Meeting, slot happening.Slot, args wording.Args, platforms []string) {
	c := m.Cause
	again := ""
	if slot == happening.ShoutOut { // of the house's own accord, and this is
		again = t.NoShout(c.Person, t.Known)
	}
	for _, r := range m.Beside(slot) {
		if why := m.Held(r); why != "" {
			t.Refuse(slot, r, c.Person.KeyOrNone(), t.SayName(c.Person), nil, why)
			continue
		}
		if again != "" {
			t.Refuse(slot, r, c.Person.KeyOrNone(), t.SayName(c.Person), nil, again)
			continue
		}
		t.Fill(c, r, nil, args, platforms)
	}
}

// OnAir are the platforms whose chat hears what concerns the whole channel: where the
// stream is, or was to its end; all of them when none is on or none is known.
func (t *Turn) OnAir() []string {
	if !t.IsLive() {
		return t.Plan.chat
	}
	live := t.State.Stream.OnTo(t.Plan.grace)
	if out := slices.DeleteFunc(slices.Clone(t.Plan.chat), func(p string) bool { return !slices.Contains(live, p) }); len(live) > 0 {
		return out
	}
	return t.Plan.chat
}

// ChatsOf are the platforms whose chat hears what concerns somebody: their own, or, where that has no
// chat of ours (they gave something on another service), whatever is on air.
func (t *Turn) ChatsOf(person event.Person) []string {
	if slices.Contains(t.Plan.chat, person.Platform) {
		return []string{person.Platform}
	}
	return t.OnAir()
}

// OwedLate is who fills a slot. What came late is not said now but waits for a person, who can thank
// at any time: that nobody was live when it happened is no reason against it.
func (t *Turn) OwedLate(m *courtesy.Meeting, slot happening.Slot) (*courtesy.Ready, []courtesy.Rung) {
	won, ladder := m.Winner(slot)
	if won == nil && t.IsLate {
		live := m.Cause
		live.Live = true
		if late, rungs := t.Plan.Set.Winner(live, slot); late != nil {
			return late, rungs
		}
	}
	return won, ladder
}

// SpeakOrWait fills a courtesy in, unless the event came too late to speak of by
// itself: then it waits for a person.
func (t *Turn) SpeakOrWait(c who.Cause, r *courtesy.Ready, ladder []courtesy.Rung, args wording.Args, platforms []string, viewers *int64) {
	if !t.IsLate {
		t.Fill(c, r, ladder, args, platforms)
		return
	}
	person := c.Person
	name := t.SayName(person)
	why := "came " + t.Late.Round(time.Second).String() + " late"
	t.Refuse(r.Slot, r, person.Key(), name, ladder, why+"; only what is under two minutes old is spoken of by itself")
	if r.Slot == happening.Thanks {
		n := int64(0)
		if viewers != nil {
			n = *viewers
		}
		t.WaitFor(person, name, "late", why, n)
	}
	t.records(c, r, args)
}

// Fill runs a courtesy for a cause: each output whose own condition holds becomes
// something that is coming up, a post, or an event.
func (t *Turn) Fill(c who.Cause, r *courtesy.Ready, ladder []courtesy.Rung, args wording.Args, platforms []string) {
	args = whichDays(r, c, args)
	t.costs(c, Bill{Amount: r.Cost, Courtesy: r.ID}, func(why string) { t.Refuse(r.Slot, r, c.Person.KeyOrNone(), args["name"].Text, ladder, why) }, func() {
		for i := range r.Outputs {
			o := &r.Outputs[i]
			if ok, why := o.Fits(c); !ok {
				t.not(c, r, o, "", "its own condition: "+why)
				continue
			}
			if t.quiet && o.Way() != output.ToChat {
				t.not(c, r, o, "", "was celebrated already: now its line alone")
				continue
			}
			t.costs(c, Bill{Amount: o.Cost, Courtesy: r.ID, Output: o.ID}, func(why string) { t.not(c, r, o, "", why) }, func() { t.Do(c, r, o, ladder, args, platforms) })
		}
	})
}

// records runs the outputs that no viewer sees: they are made however late the
// cause came.
func (t *Turn) records(c who.Cause, r *courtesy.Ready, args wording.Args) {
	for i := range r.Outputs {
		o := &r.Outputs[i]
		if ok, _ := o.Fits(c); ok && o.Way().Recorded() {
			t.Do(c, r, o, nil, args, nil)
		}
	}
}

// Do does one output of a courtesy.
func (t *Turn) Do(c who.Cause, r *courtesy.Ready, o *courtesy.ReadyOutput, ladder []courtesy.Rung, args wording.Args, platforms []string) {
	if len(o.On) > 0 {
		platforms = o.On
	}
	told := args // where what comes of it is told to the outputs after it
	if o.Concerns() {
		if about, other := t.meantBy(c); other {
			c, args = about, t.AboutMeant(args)
		}
		if o.Way() == output.ToPlatform && c.Person.ID != "" { // where they are, whoever asked and wherever it is said
			platforms = onlyOn(platforms, c.Person.Platform, len(o.On) > 0)
		}
	}
	if lack := lacks(o.Alts, args); lack != "" { // a hole in the sentence is no sentence
		t.not(c, r, o, "", "nothing is known to stand for {"+lack+"}, which all its words need")
		return
	}
	way := o.Way()
	if way == output.ToChat && r.Asked != nil && r.Asked.Leaves != "" {
		t.not(c, r, o, "", "a neighbour answers it: "+r.Asked.Leaves)
		return
	}
	if t.IsLate && !way.Recorded() {
		t.not(c, r, o, "", "came "+t.Late.Round(time.Second).String()+" late; only what is under two minutes old is spoken of by itself")
		return
	}
	switch way {
	case output.ToPlace:
		t.post(c, r, o, args)
	case output.BackIn:
		t.raise(c, r, o, args)
	case output.ToChat:
		t.sayOn(c, r, o, ladder, args, platforms)
	case output.Within:
		switch o.Kind() {
		case output.KindAnswer:
			t.answer(c, r, o, args, platforms)
		case output.KindKeep:
			t.keeps(c, r, o, args)
		case output.KindBirthday:
			t.setBirthday(c, r, o, told)
		case output.KindCelebrate:
			t.celebrate(c, r, o, args, told, platforms)
		case output.KindAlong:
			t.along(c, r, o, args)
			t.together(args)
		case output.KindShoutOut:
			t.shoutOut(c, r, o, args, platforms)
		default:
			if !t.byRoom(o.Kind(), &Doing{c, r, o, told, platforms}) {
				t.not(c, r, o, "", "no room does this")
			}
		}
	case output.ToPlatform:
		t.haveDone(c, r, o, ladder, args, platforms)
	case output.ToOverlay:
		t.stage(c, r, o, ladder, args, output.Overlay)
	case output.ToFitting:
		t.stage(c, r, o, ladder, args, o.Fitting())
	}
}

// Answer runs whichever courtesy answers a cause, and those beside it. before, if
// any, is decided ahead of an answer.
func (t *Turn) Answer(m *courtesy.Meeting, name string, args wording.Args, platforms []string, none string, before *hall.Decision) {
	c := m.Cause
	won, ladder := m.Winner(happening.Answer)
	switch {
	case won == nil:
		t.Refuse(happening.Answer, nil, c.Person.Key(), name, ladder, none)
	case len(won.Outputs) == 0:
		t.Refuse(happening.Answer, won, c.Person.Key(), name, ladder, "these are passed over in silence")
	case m.Held(won) != "":
		t.Refuse(happening.Answer, won, c.Person.Key(), name, ladder, m.Held(won))
	default:
		if before != nil {
			t.Decide(*before)
		}
		t.Fill(c, won, ladder, args, platforms)
	}
	t.Beside(m, happening.Answer, args, platforms)
	t.Free(m, args, platforms)
}
