package house_test

import (
	"slices"
	"strconv"
	"strings"

	"vividporch/core/draw"
	"vividporch/core/event"
	"vividporch/core/giveaway"
	"vividporch/core/happening"
	"vividporch/core/housefile"
)

// draw is the draw as it was before this.
func (a *reading) draw() *draw.Draw { return draw.Now(a.before.Rooms) }

func (a *reading) said(i int) int {
	n, _ := strconv.Atoi(a.m[i])
	return n
}

// step reports whether the decision is a step of a draw in one of some states.
func (a *reading) step(name string, in ...draw.State) verdict {
	d := a.draw()
	return iff(a.d.Room == draw.Name && a.d.Output == name && (len(in) == 0 || d != nil && slices.Contains(in, d.State)))
}

// hand reports whether a hand asks for one of some things.
func (a *reading) hand(acts ...string) bool {
	c, ok := a.ev.Data.(*event.DrawCalled)
	return ok && slices.Contains(acts, c.Act)
}

// drawReasons are those that the room of draws gives.
var drawReasons = []reason{
	{`a draw was asked for`, func(a *reading) verdict { return iff(a.hand(event.DrawOpen)) }},
	{`a draw needs it`, func(a *reading) verdict { return iff(a.d.Kind == draw.Seal || a.d.Kind == draw.Unseal) }},
	{`a draw`, func(a *reading) verdict {
		return iff(a.d.Room == draw.Name && strings.HasPrefix(a.d.Output, "porch.draw."))
	}},
	{`its secret is committed to`, func(a *reading) verdict { return a.step("opened", draw.Sealing) }},
	{`its secret is asked for once more`, func(a *reading) verdict { return a.step("awaits", draw.Sealing, draw.Closed) }},
	{`its secret is opened`, func(a *reading) verdict { return a.step("unsealed", draw.Closed) }},
	{`it has been open for a while`, func(a *reading) verdict { return a.step("reminded", draw.Open) }},
	{`they were not told under hush`, func(a *reading) verdict {
		h, lifts := a.ev.Data.(*event.Hushed)
		return iff(a.d.Output == "extended" && (a.before.Hush || lifts && !h.On))
	}},
	{`it is to be drawn`, func(a *reading) verdict { return iff(a.hand(event.DrawDraw)) }},
	{`is kept out of draws: (?s:(.*))`, func(a *reading) verdict {
		if bar, ok := a.ev.Data.(*event.DrawBarred); ok {
			return iff(bar.On && bar.Reason == a.m[1])
		}
		for _, b := range draw.Of(a.before.Rooms).Barred {
			if b.Reason == a.m[1] {
				return holds
			}
		}
		return fails
	}},
	{`is let into draws again`, func(a *reading) verdict {
		bar, ok := a.ev.Data.(*event.DrawBarred)
		return iff(ok && !bar.On)
	}},
	{`has entered already, under number (\d+)`, func(a *reading) verdict {
		n := a.said(1)
		return iff(n <= len(a.draw().Entries) && a.draw().Entries[n-1].Void == "")
	}},
	{`has guessed (\d+) times already`, func(a *reading) verdict { return iff(a.draw().Most() == a.said(1)) }},
	{`won draw number (\d+); whoever won one of the last (\d+) cannot win`, func(a *reading) verdict {
		return iff(a.draw().Rest == a.said(2) && slices.ContainsFunc(draw.Of(a.before.Rooms).Past, func(p draw.Past) bool { return p.Number == a.said(1) && len(p.Winners) > 0 }))
	}},
	{`the draw is for (.*)`, func(a *reading) verdict { return iff(a.draw().Who != nil) }},
	{`is an account of the house's own`, func(a *reading) verdict {
		who := a.ev.Who()
		return iff(slices.ContainsFunc(a.plan.Settings.Doors, func(d housefile.Door) bool { return strings.EqualFold(d.Account, who.Login) }))
	}},
	{`entered under number (\d+)`, func(a *reading) verdict { return iff(a.said(1) == len(a.draw().Entries)+1) }},
	{`spoke lately`, func(a *reading) verdict {
		g := a.guest(a.d.Person)
		return iff(a.draw().Way == giveaway.Lately && g != nil && g.Lines > 0)
	}},
	{`gave the right answer`, func(a *reading) verdict {
		return iff(a.draw().Right(a.ev.Data.(*happening.ChatSaid).Text))
	}},
	{`guessed (-?\d+)(?:; it is (-?\d+))?`, func(a *reading) verdict { return iff(a.draw().Way == giveaway.ByNumber) }},
	{`was drawn`, func(a *reading) verdict { return iff(a.draw().ByChance() && a.d.Output == "drawn") }},
	{`closed by hand`, func(a *reading) verdict { return iff(a.hand(event.DrawClose, event.DrawDraw)) }},
	{`its time is over`, func(a *reading) verdict { return iff(!a.draw().Closes.IsZero()) }},
	{`it was answered|it was guessed`, func(a *reading) verdict { return a.step("closed", draw.Open) }},
	{`said nothing in time`, func(a *reading) verdict { return a.step("passed", draw.Drawing) }},
	{`said something in time`, func(a *reading) verdict {
		_, line := a.ev.Data.(*happening.ChatSaid)
		return iff(line && a.d.Output == "claimed")
	}},
	{`a member says so`, func(a *reading) verdict { return iff(a.hand(event.DrawClaimed)) }},
	{`nobody is left`, func(a *reading) verdict { return a.step("unwon") }},
	{`all of it is settled`, func(a *reading) verdict { return a.step("over") }},
	{`passed over by hand(?s:.*)`, func(a *reading) verdict { return iff(a.hand(event.DrawAgain)) }},
	{`taken out by hand(?s:.*)`, func(a *reading) verdict { return iff(a.hand(event.DrawVoid)) }},
	{`was banned`, func(a *reading) verdict { return iff(a.ev.Type == "porch.person.banned") }},
	{`has asked to be forgotten|has won in this draw already`, func(a *reading) verdict { return iff(a.d.Output == "drawn" || a.d.Output == "passed") }},
	{`is the same person as number (\d+)`, func(a *reading) verdict { return iff(a.said(1) <= len(a.draw().Entries)) }},
	{`called off: (?s:.*)`, func(a *reading) verdict {
		return a.step("cancelled", draw.Sealing, draw.Open, draw.Closed, draw.Drawing)
	}},
	{`there is no draw`, func(a *reading) verdict { return iff(a.draw() == nil) }},
	{`a draw is going on: end it or call it off first`, func(a *reading) verdict { return iff(a.draw().State.Running()) }},
	{`the draw is over`, func(a *reading) verdict { return iff(!a.draw().State.Running()) }},
	{`entries are closed already`, func(a *reading) verdict { return iff(a.draw().State == draw.Closed || a.draw().State == draw.Drawing) }},
	{`the draw is not open yet: its secret is being made`, func(a *reading) verdict { return iff(a.draw().State == draw.Sealing) }},
	{`nothing was drawn for them`, func(a *reading) verdict { return iff(a.hand(event.DrawAgain, event.DrawClaimed)) }},
	{`it cannot be drawn again any more`, func(a *reading) verdict { return iff(a.hand(event.DrawAgain)) }},
	{`there is no such entry that could still be taken out`, func(a *reading) verdict { return iff(a.hand(event.DrawVoid)) }},
}
