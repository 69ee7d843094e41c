package courtesy

import (
	"cmp"
	"slices"
	"strings"

	"vividporch/core/happening"
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

// Lane is where a courtesy stands along the evening.
func Lane(c Courtesy) string { return string(happening.Of(c.When).On()) }

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
	h := happening.Of(c.When)
	var ps []Part
	say := func(text string) { ps = append(ps, Part{Text: text}) }
	strong := func(text string) { ps = append(ps, Part{Text: text, Strong: true}) }
	switch {
	case c.When == happening.Arrival:
		switch {
		case len(c.Do) == 0:
			say("Pass over ")
		case c.Slot == happening.ShoutOut:
			say("Shout out ")
		case c.Slot == happening.Free:
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
	case c.Slot == happening.ShoutOut:
		say("Shout out ")
		strong(cmp.Or(h.Leader, h.Words))
		band(&ps, c.Measure)
	case c.When == happening.StreamOpenedType && slices.ContainsFunc(c.Do, func(o Output) bool { return !o.Worded() || o.Kind == Platform }):
		say("When the stream opens, ")
		strong(c.does(names))
	case c.When == happening.StreamOpenedType && len(c.Do) > 0:
		say("Tell ")
		var to []string
		for _, o := range c.Do {
			if t := o.towards(names); !slices.Contains(to, t) {
				to = append(to, t)
			}
		}
		strong(plain.List(to, "and"))
		say(" that we are on")
	case c.When == happening.Command:
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
	case c.When == happening.Hand:
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
		case h.Verb != "":
			say(h.Verb)
		case c.Slot == happening.Thanks:
			say("Thank for ")
		case c.When == happening.Hello:
			say("Answer ")
		default:
			say("Mark ")
		}
		strong(h.Words)
		band(&ps, c.Measure)
		if whom := c.Who.Whom(); whom != "anyone" {
			say(cmp.Or(h.By, " by "))
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
	case c.When == happening.Arrival && c.Who.Standing == people.Newcomer:
		return "Welcome"
	case c.When == happening.Arrival:
		return "Greeting"
	case c.When == happening.Hand:
		return Named(c.ID)
	case c.Slot == happening.Answer:
		return "Answer"
	case c.Slot == happening.ShoutOut:
		return "Shout-out"
	case c.Slot == happening.Thanks:
		return cmp.Or(happening.Of(c.When).Label, "Thanks")
	case happening.Of(c.When).Frame == happening.OfStream:
		return cmp.Or(happening.Of(c.When).Label, "Courtesy")
	}
	return "Courtesy"
}
