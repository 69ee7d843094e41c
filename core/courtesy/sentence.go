package courtesy

import (
	"fmt"
	"slices"
	"strings"

	"vividporch/core/people"
	"vividporch/core/plain"
)

// Part is a piece of a sentence; strong pieces are what tells it from its
// neighbours.
type Part struct {
	Text   string
	Strong bool
}

// Lanes of an evening, in the order in which they matter.
const (
	LaneOpens   = "When the stream opens"
	LaneArrives = "When someone arrives"
	LaneAsks    = "When someone asks"
	LaneHappens = "When something happens"
	LaneCloses  = "When the stream closes"
)

// Lane is where a courtesy stands along the evening.
func Lane(c Courtesy) string {
	switch c.When {
	case Arrival:
		return LaneArrives
	case Hello, Command, Hand:
		return LaneAsks
	case "porch.stream.opened", "porch.stream.changed":
		return LaneOpens
	case "porch.stream.closed":
		return LaneCloses
	}
	return LaneHappens
}

// Names tells what places, crews and accounts are called; a nil function leaves
// them as they stand in the file.
type Names struct {
	Place, Crew, Account, Fitting func(string) string
}

func name(f func(string) string, s string) string {
	if f == nil {
		return s
	}
	return f(s)
}

// named puts the names of crews and people in the place of their ids.
func (n Names) named(w Who) Who {
	if w.Account != "" && n.Account != nil {
		w.Account = n.Account(w.Account)
	}
	if w.Crews != nil {
		k := &Crews{In: w.Crews.In}
		for _, id := range w.Crews.Of {
			k.Of = append(k.Of, name(n.Crew, id))
		}
		w.Crews = k
	}
	for _, inner := range []*[]Who{&w.All, &w.Any, &w.Not} {
		var out []Who
		for _, o := range *inner {
			out = append(out, n.named(o))
		}
		*inner = out
	}
	return w
}

// Sentence says what a courtesy does in words.
func Sentence(c Courtesy, names Names) []Part {
	c.Who = names.named(c.Who)
	var ps []Part
	say := func(text string) { ps = append(ps, Part{Text: text}) }
	strong := func(text string) { ps = append(ps, Part{Text: text, Strong: true}) }
	switch {
	case c.When == Arrival:
		switch {
		case len(c.Do) == 0:
			say("Pass over ")
		case c.Slot == ShoutOut:
			say("Shout out ")
		case c.Slot == Free:
			say("Mark the arrival of ")
		default:
			say("Greet ")
		}
		if len(c.Do) == 0 {
			strong(strings.TrimSuffix(whom(c.Who), ownWords))
			say(" in silence")
		} else {
			strong(whom(c.Who))
		}
	case c.When == "porch.raid.came" && c.Slot == ShoutOut:
		say("Shout out ")
		strong("the leader of a raid")
		band(&ps, c.Measure)
	case c.When == "porch.raid.came":
		if len(c.Do) == 0 {
			say("Pass over ")
		} else {
			say("Thank ")
		}
		strong("a raid")
		band(&ps, c.Measure)
		if who := whom(c.Who); who != "anyone" {
			say(" led by ")
			strong(who)
		}
		if len(c.Do) == 0 {
			say(" in silence")
		}
	case c.When == "porch.stream.opened" && slices.ContainsFunc(c.Do, func(o Output) bool { return !o.Worded() || o.Kind == Platform }):
		say("When the stream opens, ")
		strong(c.does(names))
	case c.When == "porch.stream.opened" && len(c.Do) > 0:
		say("Tell ")
		var to []string
		for _, o := range c.Do {
			if t := o.towards(names); !slices.Contains(to, t) {
				to = append(to, t)
			}
		}
		strong(plain.List(to, "and"))
		say(" that we are on")
	case c.When == Command:
		say("Answer ")
		strong(plain.List(c.Asks, "or"))
		who := whom(c.Who)
		if who != "anyone" {
			say(" asked by ")
			strong(who)
		}
		switch {
		case who == "anyone" || !c.Who.AboutPeople():
		case c.Only && !c.Who.Nobody:
			say(" only")
		case c.Who.Nobody && !c.Only:
			say(" but moderators and above")
		}
	case c.When == Hand:
		say("When you say so, ")
		strong(c.does(names))
		if who := whom(c.Who); who != "anyone" {
			say(" for ")
			strong(who)
		}
	default:
		switch {
		case len(c.Do) == 0:
			say("Pass over ")
		case c.Slot == Thanks:
			say("Thank for ")
		case c.When == Hello:
			say("Answer ")
		default:
			say("Mark ")
		}
		strong(happenings[c.When])
		band(&ps, c.Measure)
		if who := whom(c.Who); who != "anyone" {
			say(" by ")
			strong(who)
		}
		if len(c.Do) == 0 {
			say(" in silence")
		}
	}
	return ps
}

// does lists what all outputs do.
func (c *Courtesy) does(names Names) string {
	var out []string
	for i := range c.Do {
		out = append(out, c.Do[i].Does(names))
	}
	return plain.List(out, "and")
}

// towards says where words go.
func (o *Output) towards(names Names) string {
	switch o.Kind {
	case Relay:
		return name(names.Place, o.Place)
	case Card:
		return "the overlay"
	case Speak:
		return name(names.Fitting, o.Fitting)
	}
	return "chat"
}

// Does says in a few words what an output does.
func (o *Output) Does(names Names) string {
	switch o.Kind {
	case Say:
		if o.As == "streamer" {
			return "say in chat as the streamer"
		}
		return "say in chat"
	case DoShout:
		return "shout them out"
	case Card:
		return "show a card"
	case Sound:
		return "play " + o.Media
	case Film:
		return "show the film " + o.Media
	case Speak:
		return "speak"
	case Lamp:
		return "light " + name(names.Fitting, o.Fitting)
	case Scene:
		return "go to " + o.Scene
	case Relay:
		return "post to " + name(names.Place, o.Place)
	case Platform:
		return string(o.Act)
	case Raise:
		return "raise " + o.Event
	}
	return string(o.Kind)
}

// happenings are the whens in words, to stand after "thank for" or "mark".
var happenings = map[string]string{
	Hello: "a hello said to the room", Command: "a command in chat", Hand: "your hand on the Porch", "porch.stream.changed": "a change of title or category", "porch.stream.closed": "the end of the stream", "porch.raid.went": "our raid on somebody",
	"porch.channel.shown": "being shown on another channel", "porch.person.followed": "a new follow", "porch.person.banned": "a ban", "porch.chat.removed": "a line taken out of chat",
	"porch.person.timedout": "a time-out", "porch.person.joined": "a new member of the community server", "porch.person.entered": "somebody coming in without a word",
	"porch.support.subscribed": "a subscription", "porch.support.gifted": "gifts", "porch.support.tipped": "a tip", "porch.support.credits": "credits",
	"porch.reward.claimed": "a claimed reward", "porch.shop.sold": "a sale in the shop", "porch.shop.gifted": "a gift from the shop",
	"porch.shop.used": "an item used", "porch.social.followed": "a follow of the social account", "porch.social.liked": "a like of a post",
	"porch.social.reposted": "a post passed on", "porch.other": "another service's event",
}

const ownWords = " in their own words"

func whom(w Who) string {
	if w.Account != "" {
		return w.Account + ownWords
	}
	if w.Nobody {
		return "nobody"
	}
	var parts []string
	base := "anyone"
	switch {
	case w.Standing == people.Newcomer, w.Standing == people.Regular:
		base = "a " + string(w.Standing)
	case w.Standing == people.Returning:
		base = "anyone returning"
	case w.Standing == people.LongAway:
		base = "anyone back after long away"
	}
	switch {
	case w.Role != "" && w.Standing == "":
		base = "a " + w.roleWords()
	case w.Role != "":
		parts = append(parts, "who is a "+w.roleWords())
	}
	switch {
	case w.Mark != "" && base == "anyone":
		base = "a " + string(w.Mark)
	case w.Mark != "":
		parts = append(parts, "who is a "+string(w.Mark))
	}
	if w.Crews != nil {
		parts = append(parts, w.Crews.String())
	}
	if w.Tag != "" {
		parts = append(parts, "tagged "+w.Tag)
	}
	if w.Trusted {
		parts = append(parts, "who is trusted")
	}
	if w.Platform != "" {
		parts = append(parts, "on "+strings.ToUpper(w.Platform[:1])+w.Platform[1:])
	}
	if w.Attended > 0 {
		parts = append(parts, fmt.Sprintf("with %d streams or more", w.Attended))
	}
	if len(w.Days) > 0 {
		parts = append(parts, "on "+plain.List(w.Days, "or"))
	}
	if w.Hours != nil {
		parts = append(parts, w.Hours.String())
	}
	if w.Since != "" || w.Until != "" {
		parts = append(parts, w.season())
	}
	for _, k := range sortedKeys(w.Fields) {
		parts = append(parts, fmt.Sprintf("with %s “%s”", k, w.Fields[k]))
	}
	for i := range w.All {
		parts = append(parts, "who is also "+whom(w.All[i]))
	}
	if len(w.Any) > 0 {
		var any []string
		for i := range w.Any {
			any = append(any, whom(w.Any[i]))
		}
		if base == "anyone" && len(parts) == 0 {
			base = plain.List(any, "or")
		} else {
			parts = append(parts, "who is "+plain.List(any, "or"))
		}
	}
	for i := range w.Not {
		parts = append(parts, "but not "+whom(w.Not[i]))
	}
	return strings.Join(append([]string{base}, parts...), " ")
}

func band(ps *[]Part, m *Measure) {
	if m != nil {
		*ps = append(*ps, Part{Text: " of "}, Part{Text: m.String(), Strong: true})
	}
}

// Named reads an id as a name: "for-the-prints" is "For the prints".
func Named(id string) string {
	words := strings.ReplaceAll(id, "-", " ")
	if words == "" {
		return id
	}
	return strings.ToUpper(words[:1]) + words[1:]
}

// Label is the sentence in two or three words, for a line that is coming up.
func Label(c Courtesy) string {
	switch {
	case c.Title != "":
		return c.Title
	case c.When == Arrival && c.Who.Standing == people.Newcomer:
		return "Welcome"
	case c.When == Arrival:
		return "Greeting"
	case c.When == Hand:
		return Named(c.ID)
	case c.Slot == Answer:
		return "Answer"
	case c.Slot == ShoutOut:
		return "Shout-out"
	case c.Slot == Thanks && c.When == "porch.raid.came":
		return "Raid thanks"
	case c.Slot == Thanks:
		return "Thanks"
	case c.When == "porch.stream.opened":
		return "Opening"
	}
	return "Courtesy"
}
