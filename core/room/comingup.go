package room

import (
	"slices"
	"time"

	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/output"
	"vividporch/core/pace"
	"vividporch/core/plain"
	"vividporch/core/who"
	"vividporch/core/wording"
)

// deskDelay is how long a shout-out or greeting asked for with one key stays in
// Coming up, so that a slip can be dropped.
const deskDelay = 5 * time.Second

// line makes a line that is coming up.
func (t *Turn) line(c who.Cause, r *courtesy.Ready, o *courtesy.ReadyOutput, args wording.Args, to string, w *wording.Wording, mark uint64) pace.Line {
	l := pace.Line{ID: t.LineID(r.ID, o.ID), Platform: to, Courtesy: r.ID, Output: o.ID, Event: t.Event.Seq, EventID: t.Event.ID, Person: c.Person.KeyOrNone(), Name: args["name"].Text, Alt: mark, Made: t.Now, Due: t.due(r, o), Priority: priority(r), Hushed: t.State.Hush, As: o.Voice(), Towards: pace.Towards{Shouts: r.Slot == happening.ShoutOut, Whose: t.whose(c), Asker: t.askerOf(c), Waits: r.Slot == happening.Thanks && happening.Of(c.When).Owed, Cause: t.Event.Cause, Stirs: t.Stirred}}
	if w != nil {
		l.Source = w.String()
	}
	if listed := args[happening.Of(c.When).Listed].Text; listed != "" {
		l.Name = listed
	}
	if !t.quiet {
		l.Days = keysOf(r, &c)
	}
	wait := Seconds(o.WaitSeconds)
	if wait == 0 {
		wait = Seconds(t.Plan.Pace.WaitSeconds)
	}
	if b := t.gathers(r, o); b != nil && !t.Hand && (o.Joins() || len(o.Alts) == 0 && o.Way() != output.ToPlatform) {
		l.Burst, l.BurstAt = r.ID+"/"+o.ID, b.At
		l.Due = t.State.Queue.Window(t.added, l.Burst, to, l.Due.Add(Seconds(b.Seconds)))
		if len(c.Quantities) > 0 {
			l.Number, l.Currency = c.Quantities[0].N, c.Quantities[0].Currency
		}
	}
	if l.Shouts { // what has to keep a gap is not lost for it
		wait += t.waitsLonger(to)
	}
	if o.ForLeave() && !t.Hand {
		l.Asks = true
		if o.WaitSeconds == 0 {
			wait = output.AllowedWithin
		}
	}
	if wait > 0 {
		l.Expires = l.Due.Add(wait)
	}
	if t.asks(c, o) {
		l.Ask, l.AskEnds = t.AskID(), t.Now.Add(Seconds(t.Plan.Pace.AskSeconds))
		l.Args = args
	}
	if t.asked { // it answers somebody, who may just have been spoken to
		l.Priority = pace.Answer
	}
	if t.Hand {
		l.Priority, l.Due, l.Hushed, l.Expires = pace.ByHand, t.Now.Add(deskDelay), false, time.Time{}
		l.Because = []string{"asked for at the desk"}
	}
	l.Try = t.Try
	return l
}

// gathers is how many of one kind become one: as the courtesy has it, and in a flood of strangers whoever follows.
func (t *Turn) gathers(r *courtesy.Ready, o *courtesy.ReadyOutput) *courtesy.Burst {
	if r.Burst == nil && r.When == "porch.person.followed" && t.Flooded() && (len(o.Alts) == 0 || o.Joins() && len(o.Joined) > 0) {
		return &courtesy.Burst{At: 2, Seconds: floodGathers}
	}
	return r.Burst
}

// floodGathers is how long follows gather in a flood, in seconds.
const floodGathers = 30

// due is when an output may go out: its delay counts from what caused it, also where
// that waited for an answer.
func (t *Turn) due(r *courtesy.Ready, o *courtesy.ReadyOutput) time.Time {
	if at := t.Since.Add(t.delay(r, o)); at.After(t.Now) {
		return at
	}
	if t.Since.IsZero() {
		return t.Now.Add(t.delay(r, o))
	}
	return t.Now
}

// delay is how long an output waits: its courtesy's own delay, its own, and that of
// whatever had it run.
func (t *Turn) delay(r *courtesy.Ready, o *courtesy.ReadyOutput) time.Duration {
	return Seconds(r.Delay+o.DelaySeconds) + t.After
}

// askerOf is who asked for what is done to somebody else; "" where nobody did.
func (t *Turn) askerOf(c who.Cause) string {
	if t.Asker == c.Person.KeyOrNone() {
		return ""
	}
	return t.Asker
}

// whose stands for the person behind a cause, whichever account they use.
func (t *Turn) whose(c who.Cause) string {
	if c.Person.ID == "" {
		return ""
	}
	return slices.Min(c.Known.AccountsWith(c.Person.Key()))
}

func (t *Turn) plan(l pace.Line, r *courtesy.Ready, o *courtesy.ReadyOutput, ladder []courtesy.Rung) {
	for _, g := range ladder {
		if g.Won && !t.Hand {
			l.Because = append(l.Because, g.Why)
		}
	}
	switch {
	case r.Slot != happening.Greeting || t.Hand:
	case t.asked:
		l.Because = append(l.Because, "their day was set or asked for")
	default:
		l.Because = append(l.Because, t.FirstLine())
	}
	if len(l.Because) == 0 {
		l.Because = append(l.Because, t.because())
	}
	if l.Hushed {
		l.Because = append(l.Because, "hush is on: held")
	}
	if l.Asks {
		l.Because = append(l.Because, "waits until a member allows it")
	}
	if !t.ComesUp(hall.Decision{Kind: hall.Planned, Courtesy: r.ID, Output: o.ID, Line: l.ID, Platform: l.Platform, Text: l.Text, Event: t.Event.Seq, EventID: t.Event.ID, Person: l.Person, Name: l.Name, Saying: hall.Saying{Alt: l.Alt, Of: wording.Of(o.Alts, o.Weights), Plan: &l, Asker: l.Asker}, Ladder: ladder, ByHand: l.Priority == pace.ByHand, Try: l.Try, Because: l.Because}) {
		t.Decide(hall.Decision{Kind: hall.Refuse, Courtesy: r.ID, Output: o.ID, Platform: l.Platform, Person: l.Person, Because: []string{"was decided already for this very happening"}})
	}
}

// ComesUp decides that a line is coming up.
func (t *Turn) ComesUp(x hall.Decision) bool {
	if !t.Decide(x) {
		return false
	}
	t.added = append(t.added, *x.Plan)
	return true
}

// Ask looks a person up on their platform; several lines may wait for one answer.
func (t *Turn) Ask(person event.Person, why string) {
	id := t.AskID()
	for i := range t.Decided {
		if t.Decided[i].Kind == hall.Ask && t.Decided[i].Line == id {
			return
		}
	}
	t.Decide(hall.Decision{Kind: hall.Ask, Output: "lookup", Line: id, Platform: person.Platform, Person: person.Key(), Asked: hall.Asked{About: &person}, Because: []string{why}})
}

// asks reports whether an output's person can be asked about before it is said.
func (t *Turn) asks(c who.Cause, o *courtesy.ReadyOutput) bool {
	return o.Ask && t.Heard == nil && c.Person.ID != "" && t.Plan.Looks(c.Person.Platform)
}

// fillIn renders a wording for a platform. A line that begins with what somebody
// else wrote is kept from being read as a command; one that begins with the
// streamer's own words stays as they wrote it.
func (t *Turn) fillIn(w *wording.Wording, args wording.Args, platform string) string {
	text := w.Render(args)
	src := w.String()
	if text != "" && src != "" && text[0] == src[0] && src[0] != '{' {
		return text
	}
	return plain.Guard(text, t.Signs(platform))
}

// Signs are the signs that begin a command on a platform.
func (t *Turn) Signs(platform string) string {
	signs := plain.CommandSigns
	if t.Plan.DoorFor(platform) != nil {
		signs += t.Plan.Profile(platform).Chat.CommandSigns
	}
	return signs
}

func priority(r *courtesy.Ready) pace.Priority {
	if r.When == happening.Timer || r.When == happening.Lull {
		return pace.Timer
	}
	switch r.Slot {
	case happening.Thanks:
		return pace.Thanks
	case happening.ShoutOut:
		return pace.ShoutOut
	case happening.Answer:
		return pace.Answer
	case happening.Greeting:
		if r.General() {
			return pace.GeneralGreeting
		}
		return pace.OwnGreeting
	}
	return pace.Announcement
}
