package house

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/output"
	"vividporch/core/pace"
	"vividporch/core/plain"
	"vividporch/core/who"
	"vividporch/core/wording"
)

// line makes a line that is coming up.
func (d *decider) line(c who.Cause, r *courtesy.Ready, o *courtesy.ReadyOutput, args wording.Args, to string, w *wording.Wording, mark uint64) pace.Line {
	l := pace.Line{ID: d.lineID(r.ID, o.ID), Platform: to, Courtesy: r.ID, Output: o.ID, Event: d.ev.Seq, EventID: d.ev.ID, Person: personKey(c.Person), Name: args["name"].Text,
		Alt: mark, Made: d.now, Due: d.due(r, o), Priority: priority(r), Hushed: d.s.Hush, As: o.Voice(),
		Shouts: r.Slot == happening.ShoutOut, Whose: d.whose(c), Waits: r.Slot == happening.Thanks && happening.Of(c.When).Owed, Cause: d.ev.Cause}
	if w != nil {
		l.Source = w.String()
	}
	wait := secs(o.WaitSeconds)
	if wait == 0 {
		wait = secs(d.p.Pace.WaitSeconds)
	}
	if b := r.Burst; b != nil && !d.hand && (o.Joins() || len(o.Alts) == 0 && o.Way() != output.ToPlatform) {
		l.Burst, l.BurstAt = r.ID+"/"+o.ID, b.At
		l.Due = d.s.Queue.Window(d.added, l.Burst, to, l.Due.Add(secs(b.Seconds)))
		if len(c.Quantities) > 0 {
			l.Number, l.Currency = c.Quantities[0].N, c.Quantities[0].Currency
		}
	}
	if wait > 0 {
		l.Expires = l.Due.Add(wait)
	}
	if d.asks(c, o) {
		l.Ask, l.AskEnds = d.askID(), d.now.Add(secs(d.p.Pace.AskSeconds))
		l.Args = args
	}
	if d.hand {
		l.Priority, l.Due, l.Hushed, l.Expires = pace.ByHand, d.now.Add(deskDelay), false, time.Time{}
		l.Because = []string{"asked for at the desk"}
	}
	l.Try = d.try
	return l
}

// due is when an output may go out: its delay counts from what caused it, also where
// that waited for an answer.
func (d *decider) due(r *courtesy.Ready, o *courtesy.ReadyOutput) time.Time {
	if at := d.since.Add(d.delay(r, o)); at.After(d.now) {
		return at
	}
	if d.since.IsZero() {
		return d.now.Add(d.delay(r, o))
	}
	return d.now
}

// delay is how long an output waits: its courtesy's own delay, its own, and that of
// whatever had it run.
func (d *decider) delay(r *courtesy.Ready, o *courtesy.ReadyOutput) time.Duration {
	return secs(r.Delay+o.DelaySeconds) + d.after
}

// whose stands for the person behind a cause, whichever account they use.
func (d *decider) whose(c who.Cause) string {
	if c.Person.ID == "" {
		return ""
	}
	return slices.Min(accountsOf(c.Person.Key(), c.Known))
}

func (d *decider) plan(l pace.Line, r *courtesy.Ready, o *courtesy.ReadyOutput, ladder []courtesy.Rung) {
	for _, g := range ladder {
		if g.Won && !d.hand {
			l.Because = append(l.Because, g.Why)
		}
	}
	if r.Slot == happening.Greeting && !d.hand {
		l.Because = append(l.Because, d.firstLine())
	}
	if len(l.Because) == 0 {
		l.Because = append(l.Because, d.because())
	}
	if l.Hushed {
		l.Because = append(l.Because, "hush is on: held")
	}
	if !d.comesUp(Decision{Kind: Planned, Courtesy: r.ID, Output: o.ID, Line: l.ID, Platform: l.Platform, Text: l.Text, Event: d.ev.Seq, EventID: d.ev.ID,
		Person: l.Person, Name: l.Name, Alt: l.Alt, Of: wording.Of(o.Alts, o.Weights), Plan: &l, Ladder: ladder, ByHand: l.Priority == pace.ByHand, Try: l.Try, Because: l.Because}) {
		d.decide(Decision{Kind: Refuse, Courtesy: r.ID, Output: o.ID, Platform: l.Platform, Person: l.Person, Because: []string{"was decided already for this very happening"}})
	}
}

// comesUp decides that a line is coming up.
func (d *decider) comesUp(x Decision) bool {
	if !d.decide(x) {
		return false
	}
	d.added = append(d.added, *x.Plan)
	return true
}

// ask looks a person up on their platform; several lines may wait for one answer.
func (d *decider) ask(person event.Person, why string) {
	id := d.askID()
	for i := range d.out {
		if d.out[i].Kind == Ask && d.out[i].Line == id {
			return
		}
	}
	d.decide(Decision{Kind: Ask, Output: "lookup", Line: id, Platform: person.Platform, Person: person.Key(), About: &person,
		Because: []string{why}})
}

// asks reports whether an output's person can be asked about before it is said.
func (d *decider) asks(c who.Cause, o *courtesy.ReadyOutput) bool {
	return o.Ask && d.heard == nil && c.Person.ID != "" && d.p.Lookup(c.Person.Platform) != ""
}

func (d *decider) askID() string { return "ask-" + d.origin() }

// origin names what is decided about, the same in a rehearsal as in the living house: an
// event by itself, and what time brings by what it is of, since wakes are not told from
// outside. A line that waited for an answer keeps the origin it began with.
func (d *decider) origin() string {
	switch {
	case d.begun != "":
		return d.begun
	case d.closing:
		return "end-" + strconv.Itoa(d.s.Stream.Number)
	case IsWake(d.ev.ID):
		return d.ev.ID
	}
	d.begun = d.ev.Digest()
	return d.begun
}

func (d *decider) lineID(courtesyID, output string) string {
	id := d.origin() + "." + courtesyID + "." + output
	if d.meant != nil { // the same may be done to whoever asks, who arrives with it
		id += ".meant"
	}
	return id
}

func (d *decider) seed(courtesyID, output string) uint64 {
	return wording.Seed(d.p.Seed, d.chanceOf(), courtesyID, output)
}

// chanceOf is what chance hangs on: the event's id, or the origin of what time brings.
func (d *decider) chanceOf() string {
	if IsWake(d.ev.ID) {
		return d.origin()
	}
	return d.ev.ID
}

// fillIn renders a wording for a platform. A line that begins with what somebody
// else wrote is kept from being read as a command; one that begins with the
// streamer's own words stays as they wrote it.
func (d *decider) fillIn(w *wording.Wording, args wording.Args, platform string) string {
	t := w.Render(args)
	src := w.String()
	if t != "" && src != "" && t[0] == src[0] && src[0] != '{' {
		return t
	}
	return plain.Guard(t, d.signs(platform))
}

func (d *decider) signs(platform string) string {
	signs := plain.CommandSigns
	if door := d.p.DoorFor(platform); door != nil {
		signs += door.Profile.CommandSigns
	}
	return signs
}

// releaseIfDue lets leave at once what this event made and need not wait; what
// was waiting before has its own wake.
func (d *decider) releaseIfDue() {
	for i := range d.added {
		if l := &d.added[i]; l.Ask == "" && d.s.Queue.MayLeave(l, d.now, d.p.rules) {
			d.release(d.s.Hush)
			return
		}
	}
}

// release lets leave what may leave now.
func (d *decider) release(hush bool) {
	q := d.s.Queue
	q.Lines = slices.DeleteFunc(slices.Clone(q.Lines), func(l pace.Line) bool { return d.dropped[l.Key()] })
	for _, o := range q.Release(d.added, d.now, hush, d.p.rules) {
		switch {
		case o.Drop != "":
			l := o.Lines[0]
			d.takeBack(&l, o.Drop)
			d.unthanked(&l, o.Drop)
		case o.Joined:
			d.leaveJoined(o)
		default:
			d.leave(&o.Lines[0])
		}
	}
}

// takeBack drops a line that was coming up.
func (d *decider) takeBack(l *pace.Line, why string) {
	if d.dropped == nil {
		d.dropped = map[string]bool{}
	}
	d.dropped[l.Key()] = true
	d.decide(Decision{Kind: Drop, Courtesy: l.Courtesy, Output: l.Output, Line: l.ID, Platform: l.Platform, Text: l.Text, Event: l.Event, EventID: l.EventID,
		Person: l.Person, Name: l.Name, Because: append(slices.Clone(l.Because), why)})
}

// leave lets one line leave: it is said, or done.
func (d *decider) leave(l *pace.Line) {
	because := slices.Clone(l.Because)
	if l.Ask != "" {
		why := "was said before the platform answered: without link and category"
		if !d.now.Before(l.AskEnds) {
			why = fmt.Sprintf("the platform did not answer within %s: said without link and category", l.AskEnds.Sub(l.Made))
		}
		because = append(because, why)
	}
	if l.Hurried && l.Courtesy != "desk" { // what is written there never waits
		because = append(because, "hurried at the desk")
	}
	x := Decision{Kind: Say, Courtesy: l.Courtesy, Output: l.Output, Line: l.ID, Platform: l.Platform, Text: l.Text, As: l.As, Event: l.Event, EventID: l.EventID,
		Person: l.Person, Name: l.Name, ByHand: l.Priority == pace.ByHand, Try: l.Try, Because: because}
	x.effect(l, nil)
	for i := range d.out {
		if p := &d.out[i]; p.Kind == Planned && p.Line == l.ID && p.Platform == l.Platform {
			x.Plan, x.Alt, x.Of, x.Ladder = p.Plan, p.Alt, p.Of, p.Ladder
			d.out = slices.Delete(d.out, i, i+1)
			break
		}
	}
	d.decide(x)
}

// effect makes a decision about a line that is no line of chat what it is.
func (d *Decision) effect(l *pace.Line, names []string) {
	if l.Effect == "" {
		return
	}
	d.Kind, d.Body = Kind(l.Effect), told(l, names)
	if d.Kind == Relay {
		d.Place, d.Platform = l.Platform, ""
	}
}

// leaveJoined turns several that wait into one. When all are of one courtesy its
// own joined words are used, else the house's; what has no words is done once.
func (d *decider) leaveJoined(o pace.Out) {
	first := o.Lines[0]
	words, key, output := d.p.joined, "joined", "joined"
	same := first.Burst != "" || first.Effect == ""
	for _, l := range o.Lines {
		same = same && l.Courtesy == first.Courtesy
	}
	if r := d.find(first.Courtesy); r != nil && (same || len(words) == 0) {
		for i := range r.Outputs {
			if r.Outputs[i].ID == first.Output && len(r.Outputs[i].Joined) > 0 {
				words, key = r.Outputs[i].Joined, first.Courtesy
				if first.Burst != "" {
					output = first.Output + " joined"
				}
			}
		}
	}
	wordless := first.Effect != "" && first.Text == ""
	if len(words) == 0 && !wordless { // the courtesy was taken away while they waited
		for i := range o.Lines {
			d.leave(&o.Lines[i])
		}
		return
	}
	most := d.p.Pace.JoinNames
	if most < 1 {
		most = 6
	}
	names, more := pace.Names(o.Lines, most)
	args := d.args()
	args["platform"] = wording.Str(plain.Titled(o.Platform))
	args["names"] = wording.Value{Text: names}
	args["more"] = wording.Num(int64(more))
	args["count"] = wording.Num(int64(len(o.Lines)))
	what := "greetings were waiting for " + plain.Titled(o.Platform) + ": joined into one line"
	if first.Burst != "" {
		key, what = first.Courtesy, "came in quick succession: joined into one"
		if first.Currency != "" {
			args["total"] = wording.Str(amounts(o.Lines))
		} else {
			sum := 0.0
			for _, l := range o.Lines {
				sum += l.Number
			}
			args["total"] = wording.Value{Num: sum, IsNum: true}
		}
	}
	x := Decision{Kind: Say, Courtesy: key, Output: output, Line: first.ID + ".joined", Platform: o.Platform, As: first.As,
		Because: []string{fmt.Sprintf("%d %s", len(o.Lines), what)}}
	if !wordless {
		i, mark := wording.Choose(words, nil, args, d.s.Used[key+"/"+output], wording.Seed(d.p.Seed, first.ID, key, output+o.Platform))
		x.Alt, x.Of = mark, len(words)
		if x.Text = words[i].Render(args); first.Effect == "" {
			x.Text = d.fillIn(words[i], args, o.Platform)
		}
		if strings.TrimSpace(x.Text) == "" { // these words say nothing of so many
			for i := range o.Lines {
				d.leave(&o.Lines[i])
			}
			return
		}
	}
	first.Text = x.Text
	var all []string
	for _, l := range o.Lines {
		if !slices.Contains(all, l.Name) {
			all = append(all, l.Name)
		}
	}
	x.effect(&first, all)
	for _, l := range o.Lines {
		x.Joined = append(x.Joined, JoinedOne{Event: l.Event, EventID: l.EventID, Person: l.Person, Name: l.Name, Line: l.ID})
	}
	d.decide(x)
}

func (d *decider) find(id string) *courtesy.Ready {
	for _, r := range d.p.Set.All() {
		if r.ID == id {
			return r
		}
	}
	return nil
}

// unthanked puts a raid whose thanks came to nothing before the streamer.
func (d *decider) unthanked(l *pace.Line, why string) {
	if l.Priority != pace.Thanks || l.Try {
		return
	}
	for _, r := range d.s.Raids {
		if r.Event == l.Event {
			d.waits(r.Person, l.Name, "raid", happening.RaidCameType, why, r.Viewers)
		}
	}
}

// answered fills the answer to an ask into the lines that wait for it.
func (d *decider) answered(data *event.LookupAnswered) {
	if q := d.s.question(data.Ask); q != nil {
		d.resume(q, data)
		d.releaseIfDue()
	}
	var q pace.Queue
	q.Gates, q.Spoken = d.s.Queue.Gates, d.s.Queue.Spoken
	for _, l := range d.s.Queue.Lines {
		if l.Ask != data.Ask {
			continue
		}
		why := "the platform knew nothing more"
		args := wording.Args{}
		for k, v := range l.Args {
			args[k] = v
		}
		if data.Found {
			why = "the platform told link and last category"
			args.Maybe("link", wording.Str(data.Link))
			args.Maybe("category", wording.Str(data.Category))
		}
		text := l.Text
		if w, err := wording.Parse(l.Source); err == nil && data.Found {
			if t := d.fillIn(w, args, l.Platform); strings.TrimSpace(t) != "" {
				text = tried(l.Try, t)
			}
		}
		d.decide(Decision{Kind: Reword, Courtesy: l.Courtesy, Output: l.Output, Line: l.ID, Platform: l.Platform, Person: l.Person, Name: l.Name, Text: text, Because: []string{why}})
	}
	// What was waiting for nothing else leaves with this event.
	q.Lines = slices.Clone(d.s.Queue.Lines)
	for i := range q.Lines {
		if l := &q.Lines[i]; l.Ask == data.Ask {
			for _, x := range d.out {
				if x.Kind == Reword && x.Line == l.ID {
					l.Text, l.Ask, l.Because = x.Text, "", append(slices.Clone(l.Because), x.Because...)
				}
			}
		}
	}
	for _, o := range q.Release(nil, d.now, d.s.Hush, d.p.rules) {
		if o.Drop == "" && !o.Joined && slices.ContainsFunc(d.out, func(x Decision) bool { return x.Kind == Reword && x.Line == o.Lines[0].ID }) {
			d.leave(&o.Lines[0])
		}
	}
}

// refusedSpeech: a line that did not get out, or perhaps did, waits for a person.
func refusedSpeech(d *decider, data *event.SpeechOutcome, how string) {
	why := data.Reason
	if how == "uncertain" {
		why = "perhaps said: the house went down in that moment; it is not said again by itself"
	}
	d.decide(Decision{Kind: Wait, Output: "speech", Line: data.Line, Platform: data.Platform, Because: []string{why}, Item: &Item{
		ID: "line/" + data.Line + "@" + data.Platform, Kind: "line", Place: data.Platform, Line: data.Line, Text: data.Text, Why: why, About: data.About, Count: 1, Since: d.now}})
}

func priority(r *courtesy.Ready) pace.Priority {
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

// because says in words what was the cause.
func (d *decider) because() string {
	if d.closing {
		return "the stream ended"
	}
	if _, ok := d.ev.Data.(*event.StreamDeclared); ok {
		return happening.Why(happening.StreamOpenedType)
	}
	return happening.Why(d.ev.Type)
}

func personKey(p event.Person) string {
	if p.ID == "" {
		return ""
	}
	return p.Key()
}
