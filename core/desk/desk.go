// Package desk is the room for members' hands: on what is coming up, and on what the house
// does when it is asked.
package desk

import (
	"fmt"
	"slices"

	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/pace"
	"vividporch/core/plain"
	"vividporch/core/raid"
	"vividporch/core/room"
	"vividporch/core/who"
	"vividporch/core/wording"
)

// Room does what members ask for.
var Room = room.Of(room.Spec[struct{}, Memory]{Name: name, Version: 1,
	Hears: []string{"porch.desk.hurried", "porch.desk.dropped", "porch.desk.reworded", "porch.desk.said", "porch.desk.asked", "porch.desk.acted", "porch.desk.undone", "porch.desk.rearmed"},
	Decide: func(t *room.Turn, _ *struct{}, m *Memory) {
		switch data := t.Event.Data.(type) {
		case *event.LineHurried:
			hurryLine(t, data)
		case *event.LineDropped:
			dropLine(t, data)
		case *event.LineReworded:
			rewordLine(t, data)
		case *event.DeskSaid:
			deskSaid(t, data)
		case *event.DeskAsked:
			deskAsked(t, data)
		case *event.DeskActed:
			deskActed(t, data)
		case *event.DeskUndone:
			m.undone(t, data.Line)
		case *event.Rearmed:
			rearmed(t, data)
		}
	},
	Sees:   []string{"porch.act.done"},
	Evolve: func(m *Memory, l room.Lived) { m.acted(l.Event) },
	Forget: func(m *Memory, gone *hall.Gone) {
		m.Acts = slices.DeleteFunc(slices.Clone(m.Acts), func(a event.ActOutcome) bool { return slices.ContainsFunc(a.About, gone.Mine) || theirs(&a, gone) })
	}})

const name = "desk"

func hurryLine(t *room.Turn, data *event.LineHurried) {
	lines := t.State.Queue.Find(data.Line)
	if len(lines) == 0 {
		lineGone(t, data.Line)
		return
	}
	t.Decide(hall.Decision{Kind: hall.Hurry, Line: data.Line, Courtesy: lines[0].Courtesy, Output: lines[0].Output, Because: []string{"said now at the desk"}})
	// Released as if it were already hurried: Evolve marks it after deciding.
	q := pace.Queue{Gates: t.State.Queue.Gates, Spoken: t.State.Queue.Spoken}
	for _, l := range lines {
		h := *l
		h.Hurried = true
		q.Lines = append(q.Lines, h)
	}
	for _, o := range q.Release(nil, t.Now, t.State.Hush, t.Plan.Rules()) {
		if o.Drop == "" {
			t.Leave(&o.Lines[0])
		}
	}
}

func dropLine(t *room.Turn, data *event.LineDropped) {
	lines := t.State.Queue.Find(data.Line)
	if len(lines) == 0 {
		lineGone(t, data.Line)
		return
	}
	for _, l := range lines {
		t.TakeBack(l, "dropped at the desk")
	}
}

func rewordLine(t *room.Turn, data *event.LineReworded) {
	lines := t.State.Queue.Find(data.Line)
	if len(lines) == 0 {
		lineGone(t, data.Line)
		return
	}
	t.Decide(hall.Decision{Kind: hall.Reword, Courtesy: lines[0].Courtesy, Output: lines[0].Output, Line: data.Line, Person: lines[0].Person, Name: lines[0].Name,
		Text: plain.Guard(plain.Line(data.Text), t.Signs(lines[0].Platform)), Because: []string{"changed at the desk"}})
}

// rearmed refuses to make anew what nobody had.
func rearmed(t *room.Turn, data *event.Rearmed) {
	who := data.Who()
	if who == nil {
		return
	}
	had := t.State.Guests()[who.Key()] != nil
	if data.What == event.ShoutOuts {
		had = t.State.WasShouted(who.Key(), t.State.KnownHere(who.Key()))
	}
	if !had {
		why := map[string]string{event.Greetings: "has not spoken yet: their first line is an arrival anyway", event.ShoutOuts: "was not shouted out in this stream"}[data.What]
		t.Decide(hall.Decision{Kind: hall.Refuse, Output: "desk", Person: who.Key(), Because: []string{why}})
	}
}

func lineGone(t *room.Turn, line string) {
	t.Decide(hall.Decision{Kind: hall.Refuse, Line: line, Output: "desk", Because: []string{"already said, dropped or given up"}})
}

func deskSaid(t *room.Turn, data *event.DeskSaid) {
	to := data.To
	if len(to) == 0 {
		to = t.Plan.Chat()
	}
	for _, platform := range to {
		if !slices.Contains(t.Plan.Chat(), platform) {
			t.Decide(hall.Decision{Kind: hall.Refuse, Output: "desk", Platform: platform, Because: []string{"the house has no chat door on " + plain.Titled(platform)}})
			continue
		}
		l := pace.Line{ID: t.LineID("desk", "said"), Platform: platform, Courtesy: "desk", Output: "said", Event: t.Event.Seq, EventID: t.Event.ID,
			Text: plain.Guard(plain.Line(data.Text), t.Signs(platform)), Made: t.Now, Due: t.Now, Priority: pace.ByHand, Hurried: true, Because: []string{"said at the desk"}}
		t.ComesUp(hall.Decision{Kind: hall.Planned, Courtesy: "desk", Output: "said", Line: l.ID, Platform: platform, Text: l.Text, Event: t.Event.Seq, EventID: t.Event.ID, Saying: hall.Saying{Plan: &l}, ByHand: true, Because: l.Because})
	}
	t.Release(t.State.Hush)
}

// deskAsked runs a courtesy a member asked for. Once-only rules and the standing
// of the day do not stop a hand.
func deskAsked(t *room.Turn, data *event.DeskAsked) {
	t.Hand = true
	c := t.Cause(data.Person)
	c.Live = true
	platforms := t.Plan.Chat()
	if data.Person.ID != "" {
		platforms = t.ChatsOf(data.Person)
	}
	if data.Act == "courtesy" || data.Act == "try" {
		askedByName(t, data, c, platforms)
		return
	}
	slot, args := happening.Greeting, t.About(data.Person)
	if data.Act == "celebrate" {
		if why := t.Celebrates(c, t.Known, args, platforms, true); why != "" {
			t.Decide(hall.Decision{Kind: hall.Refuse, Output: "desk", Person: data.Person.KeyOrNone(), Because: []string{why}})
		}
		return
	}
	c.When = happening.Arrival
	var waiting *hall.Item
	switch data.Act {
	case "shoutout":
		c.When, slot = happening.RaidCameType, happening.ShoutOut
	case "thank":
		c.When, slot = happening.RaidCameType, happening.Thanks
		viewers := int64(0)
		if r := t.State.RaidOf(data.Person.Key()); r != nil {
			viewers = r.Viewers
		}
		if waiting = t.State.WaitingThanks(data.Person.Key(), data.Of); waiting != nil {
			c.When, viewers = waiting.Type, waiting.Viewers
		}
		c.Quantities = []who.Quantity{{Of: "viewers", N: float64(viewers)}}
		args["viewers"], args["raids"] = wording.Num(viewers), wording.Num(max(1, raid.By(t, data.Person.Key())))
	}
	name := t.SayName(data.Person)
	won, ladder := t.Plan.Set.Winner(c, slot)
	if slot == happening.ShoutOut {
		if own, rungs, cause := t.ShoutFor(c, ""); own != nil {
			won, ladder, c = own, rungs, cause
		}
	}
	if won == nil || len(won.Outputs) == 0 {
		t.Refuse(slot, won, data.Person.Key(), name, ladder, "no courtesy is on that could do this; switch one on or write a line by hand")
		return
	}
	if waiting != nil {
		t.Decide(hall.Decision{Kind: hall.Done, Person: data.Person.Key(), Item: &hall.Item{ID: waiting.ID}, Because: []string{"thanked at the desk"}})
	}
	t.Fill(c, won, ladder, args, platforms)
}

// askedByName runs the very courtesy a member asked for, or tries it for real on whoever
// they chose.
func askedByName(t *room.Turn, data *event.DeskAsked, c who.Cause, platforms []string) {
	r := t.Find(data.Courtesy)
	key := data.Person.KeyOrNone()
	no := func(why string) {
		t.Decide(hall.Decision{Kind: hall.Refuse, Courtesy: data.Courtesy, Output: "desk", Person: key, Because: []string{why}})
	}
	if r == nil {
		no("there is no such courtesy, or it is put away")
		return
	}
	args := t.Args()
	if key != "" {
		args = t.About(data.Person)
		if r.When == happening.Hand || r.When == happening.Command {
			args.Maybe("meant", args["name"])
		}
	}
	args["asker"] = wording.Name(data.Member)
	c.When = r.When
	if data.Act == "try" {
		t.Try = true
		if key == "" {
			for k, v := range t.About(room.Stranger) {
				args[k] = v
			}
		}
		for k, v := range room.SampleArgs(t.Plan, r.When, room.Sample{Name: args["name"].Text, Streams: 2, Viewers: max(1, data.Number)}) {
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
		t.Fill(c, r, nil, args, platforms)
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
	t.Fill(c, r, nil, args, platforms)
}
