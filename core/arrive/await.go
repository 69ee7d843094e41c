package arrive

import (
	"slices"

	"vividporch/core/command"
	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/hello"
	"vividporch/core/people"
	"vividporch/core/room"
	"vividporch/core/wording"
)

// An arrival whose welcome hangs on whether they stream, and on what, waits for the
// platform's answer; everybody else is welcomed at once while it is asked.

// unsureOf reports whether a platform could tell about somebody and has not lately.
func unsureOf(t *room.Turn, p event.Person) bool {
	return t.Plan.Looks(p.Platform) && !(t.Known != nil && t.Known.Fetched != nil && t.Now.Sub(t.Known.Fetched.At) < people.FetchedFor)
}

// hangsOn reports whether an arrival would be welcomed otherwise if they turned out to
// stream: by other courtesies, or in words that tell where or what.
func hangsOn(t *room.Turn, m *courtesy.Meeting) bool {
	c, as := m.Cause, m.Cause
	if !slices.Contains(c.Marks, people.Fellow) {
		as.Marks = append(slices.Clone(c.Marks), people.Fellow)
	}
	other := t.Plan.Set.Meet(as)
	var does []*courtesy.Ready
	for _, slot := range []happening.Slot{happening.Greeting, happening.ShoutOut} {
		won, _ := m.Winner(slot)
		if then, _ := other.Winner(slot); then != won {
			return true
		}
		if won != nil {
			does = append(does, won)
		}
	}
	for _, r := range m.All() {
		if r.Slot != happening.Free && !r.Also {
			continue
		}
		now, _ := r.Fits(c)
		then, _ := r.Fits(as)
		if now != then {
			return true
		}
		if now {
			does = append(does, r)
		}
	}
	for _, r := range does {
		for i := range r.Outputs {
			o := &r.Outputs[i]
			here, _ := o.Fits(c)
			there, _ := o.Fits(as)
			if here != there || here && slices.ContainsFunc(o.Alts, tellsWhere) {
				return true
			}
		}
	}
	return false
}

func tellsWhere(w *wording.Wording) bool { return w.Uses("link") || w.Uses("category") }

// await asks the platform about an arrival, whose welcome goes on with its answer.
func await(t *room.Turn, data *happening.ChatSaid) {
	t.Decide(hall.Decision{Kind: hall.Ask, Output: "arrival", Line: t.AskID(), Platform: data.Person.Platform, Person: data.Person.Key(), Asked: hall.Asked{About: &data.Person}, At: t.Now.Add(room.Seconds(t.Plan.Pace.AskSeconds)), Because: []string{"their welcome hangs on whether they stream, and what"}})
}

// welcomeAfter goes on with an arrival once the platform told about them, or did not in
// time: then data is nil, and what it tells later counts from the next stream on.
func welcomeAfter(t *room.Turn, q *hall.Question, data *event.LookupAnswered) {
	was, known, heard := t.Event, t.Known, t.Heard
	defer func() { t.Event, t.Known, t.Heard = was, known, heard }()
	t.Event = q.AsEvent(t.Event.Logged)
	k := people.Known{Accounts: []string{q.Said.Person.Key()}}
	if data == nil {
		t.Decide(hall.Decision{Kind: hall.Refuse, Output: "lookup", Person: q.Said.Person.Key(), Line: q.Ask,
			Because: []string{"the platform did not tell in time whether they stream; it counts from the next stream on"}})
	}
	if g := t.State.Guests()[q.Said.Person.Key()]; g == nil {
		return // the period they arrived in is over
	} else if g.Known != nil {
		k = *g.Known
	}
	if t.Heard = data; data == nil {
		t.Heard = &event.LookupAnswered{} // was asked, and is not asked again
	} else if data.Failed == "" {
		k.Fetched = &people.Fetched{At: t.Now, Link: data.Link, Category: data.Category, Title: data.Title, Streams: data.Streams}
	}
	t.Known = &k
	welcome(t, &q.Said)
	if !command.Begins(t.Plan, &q.Said) && !t.Greets(q.Said.Person.Key()) {
		hello.Said(t, &q.Said)
	}
}
