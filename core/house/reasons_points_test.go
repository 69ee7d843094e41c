package house_test

import (
	"regexp"
	"slices"
	"strings"

	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/points"
)

// entry is the decision as an entry of the ledger.
func (a *reading) entry(why ...string) verdict {
	_, ok := points.EntryOf(a.d)
	return iff(ok && slices.Contains(why, a.d.Output))
}

// cost is what the decision's courtesy, or its output, costs.
func (a *reading) cost() int64 {
	c := a.rule()
	if c == nil {
		return 0
	}
	for i := range c.Do {
		if a.d.Output == c.Do[i].ID && c.Do[i].Cost > 0 {
			return c.Do[i].Cost
		}
	}
	return c.Cost
}

// plays reports whether the decision is of a game, or of something else round points.
func (a *reading) plays() bool {
	c := a.rule()
	return c != nil && slices.ContainsFunc([]string{"stone", "race", "tidein", "anemone", "give", "offlist"}, func(id string) bool { return c.ID == id }) || a.d.Courtesy == points.Name
}

// whys are the reasons of all happenings of draws and rewards.
func whys() string {
	var out []string
	for _, kind := range append(happening.Draws(), happening.Rewards()...) {
		out = append(out, regexp.QuoteMeta(happening.Why(kind)))
	}
	return strings.Join(out, "|")
}

// pointsReasons are those that the room of points gives.
var pointsReasons = []reason{
	{whys(), func(a *reading) verdict {
		return iff(happening.Why(a.ev.Type) == a.m[0] || hall.IsWake(a.ev.ID) || strings.HasPrefix(a.ev.Type, "porch.desk.") || a.ev.Type == happening.ChatSaidType || a.ev.Type == "porch.lookup.answered")
	}},
	{`for being here: \d+ of them`, func(a *reading) verdict { return a.entry(points.ForHere) }},
	{`for gifts?.*|for a gift.*|for (?:a|an) .*`, func(a *reading) verdict { return a.entry(points.ForSupport) }},
	{`given by hand(?s:.*)|taken back by hand(?s:.*)`, func(a *reading) verdict {
		_, ok := a.ev.Data.(*event.PointsGranted)
		return iff(ok)
	}},
	{`paid for .*`, func(a *reading) verdict { return a.entry(points.Paid) }},
	{`given back: (?s:.*)`, func(a *reading) verdict { return a.entry(points.Refunded) }},
	{`gave them away`, func(a *reading) verdict { return a.entry(points.Gave) }},
	{`was given them`, func(a *reading) verdict { return a.entry(points.Got) }},
	{`turned a stone|called a race|took up a race`, func(a *reading) verdict { return a.entry(points.Staked) }},
	{`found .*`, func(a *reading) verdict { return a.entry(points.Won, points.Regained) }},
	{`won a race|brought the tide in`, func(a *reading) verdict { return a.entry(points.Won) }},
	{`played|a challenge waits|the race is run|nobody took it up|the tide turns|lifted the tide|the tide is in|the tide ebbed`, func(a *reading) verdict { return iff(a.d.Room == points.Name) }},
	{`a game|reached a level`, func(a *reading) verdict {
		return iff(strings.HasPrefix(a.d.Output, "porch.game.") || strings.HasPrefix(a.d.Output, "porch.points."))
	}},
	{`asked for what costs points`, func(a *reading) verdict { return iff(a.d.Courtesy == points.Name) }},
	{`costs \d+ pearls?; they have \d+ pearls?`, func(a *reading) verdict { return iff(a.cost() > 0) }},
	{`it costs something, and nobody asked for it who could pay`, func(a *reading) verdict { return iff(a.cost() > 0) }},
	{`everybody begins anew|a season begins|what was there before counts again|there is nothing to take back`, func(a *reading) verdict {
		_, ok := a.ev.Data.(*event.PointsReset)
		return iff(ok)
	}},
	{`points are switched off; switch them on first`, func(a *reading) verdict { return iff(a.ev.Type == event.PointsGrantedType) }},
	{`they have nothing that could be taken back`, func(a *reading) verdict {
		g, ok := a.ev.Data.(*event.PointsGranted)
		return iff(ok && g.Amount < 0)
	}},
	{`(?:a neighbour|an account of the house's own) has no use for them`, func(a *reading) verdict { return iff(a.plays() || a.ev.Type == event.PointsGrantedType) }},
	{`is kept off the list of ranks|is on the list of ranks`, func(a *reading) verdict { return iff(a.d.Kind == points.Kind && a.d.Output == points.Hidden) }},
	{`that was enough for one evening: \d+ times|that is no number of points|it takes one at least|the most that can be .*|that is \d+ pearls?, and you have \d+ pearls?|it is for \d+ pearls?, and you have \d+ pearls?|say whom you mean, and how many|say how many|nobody gives to themselves|nobody challenged you: say whom you challenge|a snail does not race itself|your snail waits at the pool already|.* has a challenge to answer first|too many snails wait already|the tide is turning already|nobody asked for it|a try changes nothing|points are switched off`, func(a *reading) verdict {
		return iff(a.plays() || a.d.Courtesy == "" || a.ev.Type == happening.ChatSaidType || strings.HasPrefix(a.ev.Type, "porch.desk."))
	}},
}
