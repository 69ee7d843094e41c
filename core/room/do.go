package room

import (
	"cmp"
	"encoding/json"
	"fmt"
	"maps"
	"math"
	"slices"
	"strconv"
	"strings"
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

// haveDone has platforms do something, as far as they can.
func (t *Turn) haveDone(c who.Cause, r *courtesy.Ready, o *courtesy.ReadyOutput, ladder []courtesy.Rung, args wording.Args, platforms []string) {
	if len(platforms) == 0 {
		t.not(c, r, o, "", "they are known on "+plain.Titled(c.Person.Platform)+" only")
	}
	act, _ := o.Do.(*output.Platform)
	for _, p := range platforms {
		if why := t.Plan.Cannot(p, act.Act); why != "" {
			t.not(c, r, o, p, why)
		} else {
			t.stage(c, r, o, ladder, args, p)
		}
	}
}

// onlyOn is the platform somebody is on, as far as an output may go there.
func onlyOn(platforms []string, theirs string, chosen bool) []string {
	if chosen && !slices.Contains(platforms, theirs) {
		return nil
	}
	return []string{theirs}
}

// not says why an output was not made.
func (t *Turn) not(c who.Cause, r *courtesy.Ready, o *courtesy.ReadyOutput, platform, why string) {
	t.Decide(hall.Decision{Kind: hall.Refuse, Courtesy: r.ID, Output: o.ID, Platform: platform, Person: c.Person.KeyOrNone(), Because: []string{why}})
}

// choose picks one of an output's alternatives; none for an output without words.
func (t *Turn) choose(r *courtesy.Ready, o *courtesy.ReadyOutput, args wording.Args) (w *wording.Wording, mark uint64) {
	i, mark := wording.Choose(o.Alts, o.Weights, args, t.State.Used[r.ID+"/"+o.ID], t.Seed(r.ID, o.ID))
	if i < 0 {
		return nil, 0
	}
	return o.Alts[i], mark
}

// sayOn says a line on each platform that has a chat door.
func (t *Turn) sayOn(c who.Cause, r *courtesy.Ready, o *courtesy.ReadyOutput, ladder []courtesy.Rung, args wording.Args, platforms []string) {
	w, mark := t.choose(r, o, args)
	said := 0
	for _, platform := range platforms {
		text := t.fillIn(w, args, platform)
		switch {
		case strings.TrimSpace(text) == "":
			t.not(c, r, o, platform, saysNothing)
			continue
		case !slices.Contains(t.Plan.chat, platform):
			t.not(c, r, o, platform, "the house has no chat door on "+plain.Titled(platform))
			continue
		case o.Voice() == output.AsStreamer && t.Plan.StreamerDoor(platform) == nil:
			t.not(c, r, o, platform, "no door of the streamer's own account is on "+plain.Titled(platform))
			continue
		}
		l := t.line(c, r, o, args, platform, w, mark)
		l.Text = tried(t.Try, text)
		if r.Slot == happening.Greeting && r.General() && r.Burst == nil { // in its own joined words, or the house's
			l.Join = true
		}
		t.plan(l, r, o, ladder)
		said++
	}
	if said > 0 && t.asks(c, o) {
		t.Ask(c.Person, "for the link and the last category")
	}
}

// lacks is what every one of some wordings needs and does not have, or "".
func lacks(alts []*wording.Wording, args wording.Args) (name string) {
	for _, w := range alts {
		if name = w.Lacks(args); name == "" {
			return ""
		}
	}
	return name
}

// saysNothing is why an output whose words come out empty is not made.
const saysNothing = "its wording comes out empty for this one"

// stage makes an effect outside chat come up: a card, a lamp, a platform action.
func (t *Turn) stage(c who.Cause, r *courtesy.Ready, o *courtesy.ReadyOutput, ladder []courtesy.Rung, args wording.Args, to string) {
	w, mark := t.choose(r, o, args)
	text := ""
	if w != nil {
		text = shortened(o, w.Render(args))
	}
	if o.Worded() && strings.TrimSpace(text) == "" && o.Media() == "" {
		t.not(c, r, o, "", saysNothing)
		return
	}
	l := t.line(c, r, o, args, to, w, mark)
	if text != "" {
		l.Text = tried(t.Try, text)
	}
	l.Effect = string(o.Kind())
	if act, ok := o.Do.(*output.Platform); ok {
		l.Act = string(act.Act)
		if gap := t.Plan.rules.Acts[pace.Acting(to, l.Act)].Gap; gap > 0 && !l.Expires.IsZero() { // what the platform limits waits, and is not lost
			l.Expires = l.Expires.Add(gap * time.Duration(1+t.State.Queue.Asked(to, l.Act)))
		}
	}
	telling := output.Telling{Login: c.Person.Login, Words: map[string]string{}}
	for at, w := range o.Own {
		telling.Words[at] = w.Render(args)
	}
	if said, ok := t.Event.Data.(*happening.ChatSaid); ok {
		telling.Message = said.MessageID
	}
	told := o.Tell(telling)
	told.Person, told.Try = l.Person, t.Try
	if o.Kind() == output.KindCard {
		told.Face = c.Person.Picture
	}
	l.Body = told.JSON()
	t.plan(l, r, o, ladder)
	if l.Ask != "" {
		t.Ask(c.Person, "for the link and the last category")
	}
}

// shortened is as much of some words as an output has room for, whole words of it.
func shortened(o *courtesy.ReadyOutput, text string) string {
	x, ok := o.Do.(interface{ Longest() int })
	runes := []rune(text)
	if !ok || x.Longest() == 0 || len(runes) <= x.Longest() {
		return text
	}
	cut := string(runes[:x.Longest()])
	if at := strings.LastIndexByte(cut, ' '); at > len(cut)/2 {
		cut = cut[:at]
	}
	return cut + " …"
}

// shoutOut runs whichever courtesy shouts a person out, once for a cause.
func (t *Turn) shoutOut(c who.Cause, r *courtesy.Ready, o *courtesy.ReadyOutput, args wording.Args, platforms []string) {
	switch {
	case c.Person.ID == "":
		t.not(c, r, o, "", "there is nobody to shout out")
		return
	case r.Slot == happening.ShoutOut:
		t.not(c, r, o, "", "this courtesy is the shout-out itself")
		return
	case t.Shouting[c.Person.Key()]:
		t.not(c, r, o, "", "is shouted out already")
		return
	}
	if !t.Hand && c.When != happening.Command { // whoever asks may have it again
		why := t.Never(c.Person)
		if why == "" {
			why = t.NoShout(c.Person, t.Known)
		}
		if why != "" {
			t.not(c, r, o, "", why)
			return
		}
	}
	won, ladder, c := t.ShoutFor(c, r.ID)
	if won == nil {
		t.not(c, r, o, "", "no shout-out fits")
		return
	}
	t.ShoutsOut(c.Person.Key())
	was := t.After
	t.After = t.delay(r, o) // it waits as long as what had it run
	t.Fill(c, won, ladder, args, platforms)
	t.After = was
}

// mostWithin is how deep courtesies may do what others do. Circles are refused when settings
// come into force; this holds whatever that check overlooks.
const mostWithin = 8

// answer does what a command does, whoever may ask for it and however lately somebody has.
func (t *Turn) answer(c who.Cause, r *courtesy.Ready, o *courtesy.ReadyOutput, args wording.Args, platforms []string) {
	answers, _ := o.Do.(*output.Answer)
	of := t.Find(answers.Of)
	switch {
	case of == nil:
		t.not(c, r, o, "", "the command is put away")
		return
	case !of.On:
		t.not(c, r, o, "", "the command is switched off")
		return
	case t.within >= mostWithin:
		t.not(c, r, o, "", fmt.Sprintf("courtesies have done what others do %d deep; this goes no further", mostWithin))
		return
	}
	c.When, c.Heard = happening.Command, of.AskedFor()
	with := maps.Clone(args)
	t.Askable(with)
	with["times"] = wording.Num(t.times(of.ID))
	was := t.After
	t.After = t.delay(r, o)
	t.within++
	t.Fill(c, of, nil, with, platforms)
	t.within--
	t.After = was
}

// times is how often a command was asked for.
func (t *Turn) times(id string) int64 {
	if c, ok := t.Memory["command"].(interface{ Times(id string) int64 }); ok {
		return c.Times(id)
	}
	return 0
}

// raise makes an event of the channel's own, which is lived right after this one.
func (t *Turn) raise(c who.Cause, r *courtesy.Ready, o *courtesy.ReadyOutput, args wording.Args) {
	if t.Event.Depth >= mostRaised {
		t.not(c, r, o, "", fmt.Sprintf("events have raised each other %d deep; this goes no further", mostRaised))
		return
	}
	if brings, ok := o.Do.(output.Brings); ok {
		t.brings(c, r, o, brings, args)
		return
	}
	raises, _ := o.Do.(*output.Raise)
	made := happening.Other{Name: raises.Event, Fields: map[string]any{}}
	if c.Person.ID != "" {
		made.Person = &c.Person
	}
	for at, w := range o.Own {
		k := strings.TrimPrefix(at, "fields.")
		made.Fields[k] = w.Render(args)
		if v := args[w.Alone()]; v.IsNum { // stays a number for whoever hears it
			made.Fields[k] = v.Num
		} else if n, err := strconv.ParseFloat(w.String(), 64); err == nil && !math.IsInf(n, 0) && !math.IsNaN(n) {
			made.Fields[k] = n
		}
	}
	body, _ := json.Marshal(made)
	t.Decide(hall.Decision{Kind: hall.Raise, Courtesy: r.ID, Output: o.ID, Line: t.LineID(r.ID, o.ID), Text: raises.Event, Saying: hall.Saying{Body: body}, Event: t.Event.Seq, EventID: t.Event.ID, Person: c.Person.KeyOrNone(), Try: t.Try, Because: []string{t.because()}})
}

// brings has something happen, which is lived right after this. A try brings nothing about.
func (t *Turn) brings(c who.Cause, r *courtesy.Ready, o *courtesy.ReadyOutput, brings output.Brings, args wording.Args) {
	b := output.Bringing{Person: c.Person, Rest: args["rest"].Text}
	if t.Hand {
		b.Member = args["asker"].Text
	}
	data, why := brings.Brings(b)
	switch {
	case data == nil:
		t.not(c, r, o, "", why)
	case t.Try:
		t.not(c, r, o, "", "a try changes nothing")
	default:
		t.Happens(r.ID, data, t.because())
	}
}

// mostRaised is how deep events may raise each other. Circles are refused when
// settings come into force; this holds whatever that check overlooks.
const mostRaised = 8

// happens is the kind of a decision by which something of the catalogue happened: what a platform was
// had to do, say.
const happens hall.Kind = "happens"

// happened is what happened, as it stands in such a decision.
type happened struct {
	Type string          `json:"type"`
	Data json.RawMessage `json:"data"`
}

// Happens decides that something happened: it is lived right after the event. courtesy is whose doing it is.
func (t *Turn) Happens(courtesy string, data event.Data, why string) {
	t.HappensAs(courtesy, t.LineID(courtesy, data.Type()), data, why)
}

// HappensAs decides that something happened, under a name of its own: the same however it came about, by an event or by time.
func (t *Turn) HappensAs(courtesy, name string, data event.Data, why string) {
	raw, err := json.Marshal(data)
	if err != nil {
		return
	}
	body, _ := json.Marshal(happened{data.Type(), raw})
	x := hall.Decision{Kind: happens, Courtesy: courtesy, Output: data.Type(), Line: name, Saying: hall.Saying{Body: body}, Event: t.Event.Seq, EventID: t.Event.ID, Because: []string{why}}
	if who := (&event.Event{Data: data}).Who(); who != nil {
		x.Person, x.Name = who.KeyOrNone(), who.Shown()
	}
	t.Decide(x)
}

// Raised are the events that the decisions about one event raise, under the settings it was decided
// by. They are lived right after it, in this order.
func Raised(p *Plan, ev *event.Event, ds []hall.Decision) []event.Event {
	var out []event.Event
	for i := range ds {
		var data event.Data
		switch ds[i].Kind {
		case hall.Raise:
			other := &happening.Other{}
			if json.Unmarshal(ds[i].Body, other) == nil {
				data = other
			}
		case happens:
			var x happened
			if json.Unmarshal(ds[i].Body, &x) != nil {
				break
			}
			if d := happening.Kinds.Fresh(x.Type); d != nil && json.Unmarshal(x.Data, d) == nil {
				data = d
			}
		case Changes:
			var x change
			if json.Unmarshal(ds[i].Body, &x) == nil {
				data = x.of(p)
			}
		}
		if data == nil {
			continue
		}
		out = append(out, event.Event{Door: "house", Source: "house", ID: "raised-" + ds[i].Line, Type: data.Type(), Time: ev.Time, Data: data, Depth: ev.Depth + 1, Cause: cmp.Or(ev.Cause, ev.Seq)})
	}
	return out
}

// Told is what leaves with a line that is no line of chat: its body, with the text
// as it stands by now.
func Told(l *pace.Line, names []string) json.RawMessage {
	if l.Effect == string(hall.Relay) {
		return l.Body
	}
	var t output.Told
	if json.Unmarshal(l.Body, &t) != nil {
		return l.Body
	}
	t.Text, t.Names = l.Text, names
	return t.JSON()
}

// tried marks what a member tries for real, so that nobody takes it for the thing
// itself.
func tried(try bool, text string) string {
	if !try {
		return text
	}
	return "(a try) " + text
}

// asideWithin is how long an aside may wait: after that nobody remembers what it answers.
const asideWithin = time.Minute

// Aside says one line to somebody who asked, ahead of what the house says by itself. of is the
// courtesy, or the part of the house, whose words they are.
func (t *Turn) Aside(of, output string, words []*wording.Wording, args wording.Args, person event.Person) {
	t.AsideFor(of, output, words, args, person, "was asked in chat")
}

// AsideFor says one line to somebody for a reason, ahead of what the house says by itself.
func (t *Turn) AsideFor(of, output string, words []*wording.Wording, args wording.Args, person event.Person, why string) {
	if len(words) == 0 || !slices.Contains(t.Plan.chat, person.Platform) {
		return
	}
	args["platform"] = wording.Str(plain.Titled(person.Platform))
	i, mark := wording.Choose(words, nil, args, t.State.Used[of+"/"+output], t.Seed(of, output))
	w := words[i]
	l := pace.Line{ID: t.LineID(of, output), Platform: person.Platform, Courtesy: of, Output: output, Event: t.Event.Seq, EventID: t.Event.ID,
		Person: person.KeyOrNone(), Text: t.fillIn(w, args, person.Platform), Alt: mark, Made: t.Now, Due: t.Now,
		Expires: t.Now.Add(asideWithin), Priority: pace.Answer, Hushed: t.State.Hush, Because: []string{why}}
	if l.Person != "" {
		l.Name = args["name"].Text
	}
	t.ComesUp(hall.Decision{Kind: hall.Planned, Courtesy: l.Courtesy, Output: output, Line: l.ID, Platform: l.Platform, Text: l.Text, Event: l.Event, EventID: l.EventID, Person: l.Person, Name: l.Name, Saying: hall.Saying{Alt: l.Alt, Of: len(words), Plan: &l}, Because: l.Because})
}
