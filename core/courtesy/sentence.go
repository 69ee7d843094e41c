package courtesy

import (
	"slices"
	"strings"

	"vividporch/core/people"
	"vividporch/core/plain"
	"vividporch/core/who"
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
func (n Names) named(w who.Who) who.Who {
	if w.Account != "" && n.Account != nil {
		w.Account = n.Account(w.Account)
	}
	if w.Crews != nil {
		k := &who.Crews{In: w.Crews.In}
		for _, id := range w.Crews.Of {
			k.Of = append(k.Of, name(n.Crew, id))
		}
		w.Crews = k
	}
	for _, inner := range []*[]who.Who{&w.All, &w.Any, &w.Not} {
		var out []who.Who
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
			strong(strings.TrimSuffix(c.Who.Whom(), who.OwnWords))
			say(" in silence")
		} else {
			strong(c.Who.Whom())
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
		if whom := c.Who.Whom(); whom != "anyone" {
			say(" led by ")
			strong(whom)
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
		whom := c.Who.Whom()
		if whom != "anyone" {
			say(" asked by ")
			strong(whom)
		}
		switch {
		case whom == "anyone" || !c.Who.AboutPeople():
		case c.Only && !c.Who.Nobody:
			say(" only")
		case c.Who.Nobody && !c.Only:
			say(" but moderators and above")
		}
	case c.When == Hand:
		say("When you say so, ")
		strong(c.does(names))
		if whom := c.Who.Whom(); whom != "anyone" {
			say(" for ")
			strong(whom)
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
		if whom := c.Who.Whom(); whom != "anyone" {
			say(" by ")
			strong(whom)
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

func band(ps *[]Part, m *who.Measure) {
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
