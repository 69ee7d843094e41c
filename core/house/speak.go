package house

import (
	"fmt"
	"slices"
	"strconv"
	"time"

	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/pace"
	"vividporch/core/plain"
	"vividporch/core/wording"
)

// fill runs a courtesy: every output becomes a line that is coming up, or a post.
func (d *decider) fill(r *courtesy.Ready, ladder []courtesy.Rung, person event.Person, args wording.Args, platforms []string) {
	d.relays(r, person, args)
	for i := range r.Outputs {
		o := &r.Outputs[i]
		if o.Kind != courtesy.Say {
			continue
		}
		if d.isLate {
			d.decide(Decision{Kind: Refuse, Courtesy: r.ID, Output: o.ID, Because: []string{"came " + d.late.Round(time.Second).String() + " late; only what is under two minutes old is spoken of by itself"}})
			continue
		}
		alt := wording.Choose(o.Alts, args, d.s.Used[r.ID+"/"+o.ID], d.seed(r.ID, o.ID))
		said := 0
		for _, platform := range platforms {
			if !slices.Contains(d.p.chat, platform) {
				d.decide(Decision{Kind: Refuse, Courtesy: r.ID, Output: o.ID, Platform: platform, Person: personKey(person), Because: []string{"the house has no chat door on " + Titled(platform)}})
				continue
			}
			l := d.line(r, o, person, args, platform, o.Alts[alt])
			if r.Slot == courtesy.Greeting && r.General() && len(o.Joined) > 0 {
				l.Join = true
			}
			d.plan(l, r, o, ladder)
			said++
		}
		if said > 0 && o.Ask {
			d.ask(person, "for the link and the last category")
		}
	}
}

// line makes a line that is coming up.
func (d *decider) line(r *courtesy.Ready, o *courtesy.ReadyOutput, person event.Person, args wording.Args, platform string, w *wording.Wording) pace.Line {
	l := pace.Line{ID: d.lineID(r.ID, o.ID), Platform: platform, Courtesy: r.ID, Output: o.ID,
		Event: d.ev.Seq, EventID: d.ev.ID, Person: personKey(person), Name: args["name"].Text,
		Text: d.fillIn(w, args, platform), Alt: wording.Mark(w.String()), Source: w.String(),
		Made: d.now, Due: d.now.Add(secs(o.DelaySeconds)), Priority: priority(r), Hushed: d.s.Hush}
	wait := secs(o.WaitSeconds)
	if wait == 0 {
		wait = secs(d.p.Settings.Pace.WaitSeconds)
	}
	if wait > 0 {
		l.Expires = l.Due.Add(wait)
	}
	if o.Ask {
		l.Ask, l.AskEnds = d.askID(), d.now.Add(secs(d.p.Settings.Pace.AskSeconds))
		l.Args = args
	}
	return l
}

func (d *decider) plan(l pace.Line, r *courtesy.Ready, o *courtesy.ReadyOutput, ladder []courtesy.Rung) {
	for _, g := range ladder {
		if g.Won {
			l.Because = append(l.Because, g.Why)
		}
	}
	if r.Slot == courtesy.Greeting {
		l.Because = append(l.Because, "first line in this stream")
	}
	if len(l.Because) == 0 {
		l.Because = append(l.Because, because(d.ev.Type))
	}
	if l.Hushed {
		l.Because = append(l.Because, "hush is on: held")
	}
	d.added = append(d.added, l)
	d.decide(Decision{Kind: Planned, Courtesy: r.ID, Output: o.ID, Line: l.ID, Platform: l.Platform, Text: l.Text, Event: d.ev.Seq, EventID: d.ev.ID,
		Person: l.Person, Name: l.Name, Alt: l.Alt, Of: len(o.Alts), Plan: &l, Ladder: ladder, ByHand: l.Priority == pace.ByHand, Because: l.Because})
}

// relays posts to places, at once and whatever the hour: records do not wait.
func (d *decider) relays(r *courtesy.Ready, person event.Person, args wording.Args) {
	for i := range r.Outputs {
		o := &r.Outputs[i]
		if o.Kind != courtesy.Relay {
			continue
		}
		place := d.p.Settings.PlaceNamed(o.Place)
		safe := wording.Args{}
		for k, v := range args {
			v.Text = plain.NoPing(v.Text)
			safe[k] = v
		}
		w := o.Alts[wording.Choose(o.Alts, safe, d.s.Used[r.ID+"/"+o.ID], d.seed(r.ID, o.ID))]
		safe["text"] = wording.Value{Text: w.Render(safe)}
		body, err := place.render(safe)
		if err != nil {
			d.decide(Decision{Kind: Refuse, Courtesy: r.ID, Output: o.ID, Place: o.Place, Because: []string{err.Error()}})
			continue
		}
		d.decide(Decision{Kind: Relay, Courtesy: r.ID, Output: o.ID, Line: d.lineID(r.ID, o.ID), Place: o.Place, Text: safe["text"].Text, Body: body,
			Event: d.ev.Seq, EventID: d.ev.ID, Person: personKey(person), Alt: wording.Mark(w.String()), Of: len(o.Alts), Because: []string{because(d.ev.Type), "once per stream and place"}})
	}
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

func (d *decider) askID() string { return "ask-" + strconv.FormatInt(d.ev.Seq, 10) }

func (d *decider) lineID(courtesyID, output string) string {
	return strconv.FormatInt(d.ev.Seq, 10) + "." + courtesyID + "." + output
}

func (d *decider) seed(courtesyID, output string) uint64 {
	return wording.Seed(d.p.Settings.Seed, d.ev.ID, courtesyID, output)
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
	for _, o := range d.s.Queue.Release(d.added, d.now, hush, d.p.rules) {
		switch {
		case o.Drop != "":
			l := o.Lines[0]
			d.decide(Decision{Kind: Drop, Courtesy: l.Courtesy, Output: l.Output, Line: l.ID, Platform: l.Platform, Text: l.Text, Event: l.Event, EventID: l.EventID,
				Person: l.Person, Name: l.Name, Because: append(slices.Clone(l.Because), o.Drop)})
			d.unthanked(&l, o.Drop)
		case o.Joined:
			d.sayJoined(o)
		default:
			d.say(&o.Lines[0])
		}
	}
}

func (d *decider) say(l *pace.Line) {
	because := slices.Clone(l.Because)
	if l.Ask != "" {
		because = append(because, fmt.Sprintf("the platform did not answer within %s: said without link and category", l.AskEnds.Sub(l.Made)))
	}
	if l.Hurried {
		because = append(because, "hurried at the desk")
	}
	x := Decision{Kind: Say, Courtesy: l.Courtesy, Output: l.Output, Line: l.ID, Platform: l.Platform, Text: l.Text, Event: l.Event, EventID: l.EventID,
		Person: l.Person, Name: l.Name, ByHand: l.Priority == pace.ByHand, Because: because}
	for i := range d.out {
		if p := &d.out[i]; p.Kind == Planned && p.Line == l.ID && p.Platform == l.Platform {
			x.Plan, x.Alt, x.Of, x.Ladder = p.Plan, p.Alt, p.Of, p.Ladder
			d.out = slices.Delete(d.out, i, i+1)
			break
		}
	}
	d.decide(x)
}

// sayJoined turns several waiting greetings into one line. When all are of one
// courtesy its own joined words are used, else the house's.
func (d *decider) sayJoined(o pace.Out) {
	first := o.Lines[0]
	words, key := d.p.joined, "joined"
	same := true
	for _, l := range o.Lines {
		same = same && l.Courtesy == first.Courtesy
	}
	if r := d.find(first.Courtesy); r != nil && (same || len(words) == 0) {
		for i := range r.Outputs {
			if r.Outputs[i].ID == first.Output && len(r.Outputs[i].Joined) > 0 {
				words, key = r.Outputs[i].Joined, first.Courtesy
			}
		}
	}
	if len(words) == 0 { // the courtesy was taken away while they waited
		for i := range o.Lines {
			d.say(&o.Lines[i])
		}
		return
	}
	most := d.p.Settings.Pace.JoinNames
	if most < 1 {
		most = 6
	}
	names, more := pace.Names(o.Lines, most)
	args := d.args()
	args["platform"] = wording.Str(Titled(o.Platform))
	args["names"] = wording.Value{Text: names}
	args["more"] = wording.Num(int64(more))
	args["count"] = wording.Num(int64(len(o.Lines)))
	output := "joined"
	w := words[wording.Choose(words, args, d.s.Used[key+"/"+output], d.seed(key, output+o.Platform))]
	x := Decision{Kind: Say, Courtesy: key, Output: output, Line: d.lineID(key, output), Platform: o.Platform, Text: d.fillIn(w, args, o.Platform),
		Alt: wording.Mark(w.String()), Of: len(words),
		Because: []string{fmt.Sprintf("%d greetings were waiting for %s: joined into one line", len(o.Lines), Titled(o.Platform))}}
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
	if l.Priority != pace.Thanks {
		return
	}
	for _, r := range d.s.Raids {
		if r.Event == l.Event {
			d.waitFor(r.Person, l.Name, "raid", why, r.Viewers)
		}
	}
}

// The desk: a member's hands on what is coming up.

func (d *decider) hurry(data *event.LineHurried) {
	lines := d.s.Queue.Find(data.Line)
	if len(lines) == 0 {
		d.gone(data.Line)
		return
	}
	d.decide(Decision{Kind: Hurry, Line: data.Line, Courtesy: lines[0].Courtesy, Output: lines[0].Output, Because: []string{"said now at the desk"}})
	// Released as if it were already hurried: Evolve marks it after deciding.
	q := pace.Queue{Gates: d.s.Queue.Gates}
	for _, l := range lines {
		h := *l
		h.Hurried = true
		q.Lines = append(q.Lines, h)
	}
	for _, o := range q.Release(nil, d.now, d.s.Hush, d.p.rules) {
		if o.Drop == "" {
			d.say(&o.Lines[0])
		}
	}
}

func (d *decider) drop(data *event.LineDropped) {
	lines := d.s.Queue.Find(data.Line)
	if len(lines) == 0 {
		d.gone(data.Line)
		return
	}
	for _, l := range lines {
		d.decide(Decision{Kind: Drop, Courtesy: l.Courtesy, Output: l.Output, Line: l.ID, Platform: l.Platform, Text: l.Text, Event: l.Event, EventID: l.EventID,
			Person: l.Person, Name: l.Name, Because: []string{"dropped at the desk"}})
	}
}

func (d *decider) reword(data *event.LineReworded) {
	lines := d.s.Queue.Find(data.Line)
	if len(lines) == 0 {
		d.gone(data.Line)
		return
	}
	d.decide(Decision{Kind: Reword, Courtesy: lines[0].Courtesy, Output: lines[0].Output, Line: data.Line,
		Text: plain.Guard(plain.Text(data.Text), d.signs(lines[0].Platform)), Because: []string{"changed at the desk"}})
}

func (d *decider) gone(line string) {
	d.decide(Decision{Kind: Refuse, Line: line, Output: "desk", Because: []string{"already said, dropped or given up"}})
}

// answered fills the answer to an ask into the lines that wait for it.
func (d *decider) answered(data *event.LookupAnswered) {
	var q pace.Queue
	q.Gates = d.s.Queue.Gates
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
			text = d.fillIn(w, args, l.Platform)
		}
		d.decide(Decision{Kind: Reword, Courtesy: l.Courtesy, Output: l.Output, Line: l.ID, Platform: l.Platform, Text: text, Because: []string{why}})
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
			d.say(&o.Lines[0])
		}
	}
}

func (d *decider) deskSaid(data *event.DeskSaid) {
	to := data.To
	if len(to) == 0 {
		to = d.p.chat
	}
	for _, platform := range to {
		if !slices.Contains(d.p.chat, platform) {
			d.decide(Decision{Kind: Refuse, Output: "desk", Platform: platform, Because: []string{"the house has no chat door on " + Titled(platform)}})
			continue
		}
		l := pace.Line{ID: d.lineID("desk", "said"), Platform: platform, Courtesy: "desk", Output: "said", Event: d.ev.Seq, EventID: d.ev.ID,
			Text: plain.Guard(plain.Text(data.Text), d.signs(platform)), Made: d.now, Due: d.now, Priority: pace.ByHand, Hurried: true, Because: []string{"said at the desk"}}
		d.added = append(d.added, l)
		d.decide(Decision{Kind: Planned, Courtesy: "desk", Output: "said", Line: l.ID, Platform: platform, Text: l.Text, Event: d.ev.Seq, EventID: d.ev.ID, Plan: &l, ByHand: true, Because: l.Because})
	}
	d.release(d.s.Hush)
}

// deskDelay is how long a shout-out or greeting asked for with one key stays in
// Coming up, so that a slip can be dropped.
const deskDelay = 5 * time.Second

// deskAsked runs a courtesy a member asked for. Once-only rules and the standing
// of the day do not stop a hand.
func (d *decider) deskAsked(data *event.DeskAsked) {
	c := d.cause(data.Person)
	c.Live = true
	slot, args := courtesy.Greeting, d.about(data.Person)
	c.When = courtesy.Arrival
	switch data.Act {
	case "shoutout":
		c.When, slot = "porch.raid.came", courtesy.ShoutOut
	case "thank":
		c.When, slot = "porch.raid.came", courtesy.Thanks
		for i := range d.s.Waiting {
			if it := &d.s.Waiting[i]; it.Person != nil && it.Person.Key() == data.Person.Key() && (it.Kind == "raid" || it.Kind == "late") {
				c.Quantities = []courtesy.Quantity{{Of: "viewers", N: float64(it.Viewers)}}
				c.When = it.Type
				args["viewers"] = wording.Num(it.Viewers)
				args["raids"] = wording.Num(1)
				d.decide(Decision{Kind: Done, Person: data.Person.Key(), Item: &Item{ID: it.ID}, Because: []string{"thanked at the desk"}})
				break
			}
		}
	}
	name := d.sayName(data.Person)
	won, ladder := d.p.Set.Winner(c, slot)
	if won == nil || len(won.Outputs) == 0 {
		d.refuse(slot, won, data.Person.Key(), name, ladder, "no courtesy is on that could do this; switch one on or write a line by hand")
		return
	}
	asks := false
	for i := range won.Outputs {
		o := &won.Outputs[i]
		if o.Kind != courtesy.Say {
			continue
		}
		w := o.Alts[wording.Choose(o.Alts, args, d.s.Used[won.ID+"/"+o.ID], d.seed(won.ID, o.ID))]
		l := d.line(won, o, data.Person, args, data.Person.Platform, w)
		l.Priority, l.Due, l.Hushed = pace.ByHand, d.now.Add(deskDelay), false
		l.Expires = time.Time{}
		l.Because = []string{"asked for at the desk"}
		d.plan(l, won, o, ladder)
		asks = asks || o.Ask
	}
	if asks {
		d.ask(data.Person, "for the link and the last category")
	}
}

// refusedSpeech: a line that did not get out, or perhaps did, waits for a person.
func (d *decider) refusedSpeech(data *event.SpeechOutcome, how string) {
	why := data.Reason
	if how == "uncertain" {
		why = "perhaps said: the house went down in that moment; it is not said again by itself"
	}
	d.decide(Decision{Kind: Wait, Output: "speech", Line: data.Line, Platform: data.Platform, Because: []string{why}, Item: &Item{
		ID: "line/" + data.Line + "@" + data.Platform, Kind: "line", Place: data.Platform, Line: data.Line, Text: data.Text, Why: why, Count: 1, Since: d.now}})
}

func priority(r *courtesy.Ready) pace.Priority {
	switch r.Slot {
	case courtesy.Thanks:
		return pace.Thanks
	case courtesy.ShoutOut:
		return pace.ShoutOut
	case courtesy.Answer:
		return pace.Answer
	case courtesy.Greeting:
		if r.General() {
			return pace.GeneralGreeting
		}
		return pace.OwnGreeting
	}
	return pace.Announcement
}

// because says in words what kind of event was the cause.
func because(kind string) string {
	switch kind {
	case "porch.stream.opened", "porch.desk.declared":
		return "the stream opened"
	case "porch.raid.came":
		return "a raid came"
	case "porch.chat.said":
		return "said so in chat"
	case "porch.person.followed":
		return "a new follow"
	}
	return "happened: " + kind
}

func personKey(p event.Person) string {
	if p.ID == "" {
		return ""
	}
	return p.Key()
}
