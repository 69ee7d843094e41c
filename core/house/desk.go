package house

import (
	"fmt"
	"slices"
	"time"

	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/pace"
	"vividporch/core/plain"
	"vividporch/core/who"
	"vividporch/core/wording"
)

// A member's hands: on what is coming up, and on what the house does when asked.

func hurryLine(d *decider, data *event.LineHurried) {
	lines := d.s.Queue.Find(data.Line)
	if len(lines) == 0 {
		lineGone(d, data.Line)
		return
	}
	d.decide(Decision{Kind: Hurry, Line: data.Line, Courtesy: lines[0].Courtesy, Output: lines[0].Output, Because: []string{"said now at the desk"}})
	// Released as if it were already hurried: Evolve marks it after deciding.
	q := pace.Queue{Gates: d.s.Queue.Gates, Spoken: d.s.Queue.Spoken}
	for _, l := range lines {
		h := *l
		h.Hurried = true
		q.Lines = append(q.Lines, h)
	}
	for _, o := range q.Release(nil, d.now, d.s.Hush, d.p.rules) {
		if o.Drop == "" {
			d.leave(&o.Lines[0])
		}
	}
}

func dropLine(d *decider, data *event.LineDropped) {
	lines := d.s.Queue.Find(data.Line)
	if len(lines) == 0 {
		lineGone(d, data.Line)
		return
	}
	for _, l := range lines {
		d.takeBack(l, "dropped at the desk")
	}
}

func rewordLine(d *decider, data *event.LineReworded) {
	lines := d.s.Queue.Find(data.Line)
	if len(lines) == 0 {
		lineGone(d, data.Line)
		return
	}
	d.decide(Decision{Kind: Reword, Courtesy: lines[0].Courtesy, Output: lines[0].Output, Line: data.Line, Person: lines[0].Person, Name: lines[0].Name,
		Text: plain.Guard(plain.Line(data.Text), d.signs(lines[0].Platform)), Because: []string{"changed at the desk"}})
}

func lineGone(d *decider, line string) {
	d.decide(Decision{Kind: Refuse, Line: line, Output: "desk", Because: []string{"already said, dropped or given up"}})
}

func deskSaid(d *decider, data *event.DeskSaid) {
	to := data.To
	if len(to) == 0 {
		to = d.p.chat
	}
	for _, platform := range to {
		if !slices.Contains(d.p.chat, platform) {
			d.decide(Decision{Kind: Refuse, Output: "desk", Platform: platform, Because: []string{"the house has no chat door on " + plain.Titled(platform)}})
			continue
		}
		l := pace.Line{ID: d.lineID("desk", "said"), Platform: platform, Courtesy: "desk", Output: "said", Event: d.ev.Seq, EventID: d.ev.ID,
			Text: plain.Guard(plain.Line(data.Text), d.signs(platform)), Made: d.now, Due: d.now, Priority: pace.ByHand, Hurried: true, Because: []string{"said at the desk"}}
		d.comesUp(Decision{Kind: Planned, Courtesy: "desk", Output: "said", Line: l.ID, Platform: platform, Text: l.Text, Event: d.ev.Seq, EventID: d.ev.ID, Plan: &l, ByHand: true, Because: l.Because})
	}
	d.release(d.s.Hush)
}

// deskDelay is how long a shout-out or greeting asked for with one key stays in
// Coming up, so that a slip can be dropped.
const deskDelay = 5 * time.Second

// deskAsked runs a courtesy a member asked for. Once-only rules and the standing
// of the day do not stop a hand.
func deskAsked(d *decider, data *event.DeskAsked) {
	d.hand = true
	c := d.cause(data.Person)
	c.Live = true
	platforms := d.p.chat
	if data.Person.ID != "" {
		platforms = []string{data.Person.Platform}
	}
	if data.Act == "courtesy" || data.Act == "try" {
		askedByName(d, data, c, platforms)
		return
	}
	slot, args := happening.Greeting, d.about(data.Person)
	c.When = happening.Arrival
	var waiting *Item
	switch data.Act {
	case "shoutout":
		c.When, slot = happening.RaidCameType, happening.ShoutOut
	case "thank":
		c.When, slot = happening.RaidCameType, happening.Thanks
		viewers := int64(0)
		if r := d.s.raidOf(data.Person.Key()); r != nil {
			viewers = r.Viewers
		}
		if waiting = d.s.waitingThanks(data.Person.Key()); waiting != nil {
			c.When, viewers = waiting.Type, waiting.Viewers
		}
		c.Quantities = []who.Quantity{{Of: "viewers", N: float64(viewers)}}
		args["viewers"], args["raids"] = wording.Num(viewers), wording.Num(max(1, raidsBy(d, data.Person.Key())))
	}
	name := d.sayName(data.Person)
	won, ladder := d.p.Set.Winner(c, slot)
	if won == nil || len(won.Outputs) == 0 {
		d.refuse(slot, won, data.Person.Key(), name, ladder, "no courtesy is on that could do this; switch one on or write a line by hand")
		return
	}
	if waiting != nil {
		d.decide(Decision{Kind: Done, Person: data.Person.Key(), Item: &Item{ID: waiting.ID}, Because: []string{"thanked at the desk"}})
	}
	d.fill(c, won, ladder, args, platforms)
}

// waitingThanks is what waits for somebody to be thanked for, or nil.
func (s *State) waitingThanks(key string) *Item {
	for i := range s.Waiting {
		if it := &s.Waiting[i]; it.Person != nil && it.Person.Key() == key && (it.Kind == "raid" || it.Kind == "late") {
			return it
		}
	}
	return nil
}

// askedByName runs the very courtesy a member asked for, or tries it for real on whoever
// they chose.
func askedByName(d *decider, data *event.DeskAsked, c who.Cause, platforms []string) {
	r := d.find(data.Courtesy)
	key := personKey(data.Person)
	no := func(why string) {
		d.decide(Decision{Kind: Refuse, Courtesy: data.Courtesy, Output: "desk", Person: key, Because: []string{why}})
	}
	if r == nil {
		no("there is no such courtesy, or it is put away")
		return
	}
	args := d.args()
	if key != "" {
		args = d.about(data.Person)
		if r.When == happening.Hand || r.When == happening.Command {
			args.Maybe("meant", args["name"])
		}
	}
	args["asker"] = wording.Name(data.Member)
	c.When = r.When
	if data.Act == "try" {
		d.try = true
		if key == "" {
			for k, v := range d.about(Stranger) {
				args[k] = v
			}
		}
		for k, v := range SampleArgs(d.p, r.When, Sample{Name: args["name"].Text, Streams: 2, Viewers: max(1, data.Number)}) {
			if _, has := args[k]; !has {
				args[k] = v
			}
		}
		if main := happening.Of(r.When).Main(); main != "" {
			q := who.Quantity{Of: main, N: float64(data.Number)}
			args[main] = wording.Num(data.Number)
			if main == "amount" {
				q.Currency = r.Measure.CurrencyOr("EUR")
				args[main] = wording.Str(fmt.Sprintf("%d %s", data.Number, q.Currency))
			}
			c.Quantities = []who.Quantity{q}
		}
		d.fill(c, r, nil, args, platforms)
		return
	}
	if r.When != happening.Hand {
		no("is not one that is asked for by hand")
		return
	}
	if ok, why := r.Fits(c); !ok {
		no(why)
		return
	}
	d.fill(c, r, nil, args, platforms)
}
