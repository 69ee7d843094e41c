// Package prose is what courtesies are in words: the sentence that says what one does, its
// label, the lane it stands in; and the words that a new one begins with.
package prose

import (
	"cmp"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"vividporch/core/courtesy"
	"vividporch/core/happening"
	"vividporch/core/output"
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

// Whole is the sentence as one text.
func Whole(c courtesy.Courtesy, names who.Names) string {
	var b strings.Builder
	for _, p := range Sentence(c, names) {
		b.WriteString(p.Text)
	}
	return b.String()
}

// Lane is where a courtesy stands along the evening.
func Lane(c courtesy.Courtesy) string { return string(happening.Of(c.When).On()) }

// Sentence says what a courtesy does in words.
func Sentence(c courtesy.Courtesy, names who.Names) []Part {
	c.Who = c.Who.Named(names)
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
	case c.When == happening.StreamOpenedType && slices.ContainsFunc(c.Do, func(o output.Output) bool { return !o.Worded() || o.Way() == output.ToPlatform }):
		say("When the stream opens, ")
		strong(does(c, names))
	case c.When == happening.StreamOpenedType && len(c.Do) > 0:
		say("Tell ")
		var to []string
		for _, o := range c.Do {
			if t := o.Towards(names); !slices.Contains(to, t) {
				to = append(to, t)
			}
		}
		strong(plain.List(to, "and"))
		say(" that we are on")
	case c.When == happening.Command:
		say("Answer ")
		strong(plain.List(askedBy(c), "or"))
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
	case c.When == happening.Timer && c.Timer != nil:
		say("Every ")
		strong(minutes(c.Timer.Minutes))
		switch {
		case c.Timer.Lines == 1:
			say(" after a line")
		case c.Timer.Lines > 1:
			say(fmt.Sprintf(" after %d lines", c.Timer.Lines))
		}
		say(", ")
		strong(cmp.Or(does(c, names), "nothing yet"))
		where(say, c.Who)
	case c.When == happening.Lull && c.Timer != nil:
		say("When nobody spoke for ")
		strong(minutes(c.Timer.Minutes))
		say(", ")
		strong(cmp.Or(does(c, names), "nothing yet"))
		where(say, c.Who)
	case c.When == happening.Hand:
		say("When you say so, ")
		strong(does(c, names))
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

// minutes is a length of time in words: "20 minutes".
func minutes(n float64) string {
	if n == 1 {
		return "minute"
	}
	return strconv.FormatFloat(n, 'f', -1, 64) + " minutes"
}

// where says what a courtesy that is for nobody asks of the evening.
func where(say func(string), w who.Who) {
	if whom := w.Whom(); whom != "anyone" {
		say(strings.TrimPrefix(whom, "anyone"))
	}
}

// does lists what all outputs do.
func does(c courtesy.Courtesy, names who.Names) string {
	var out []string
	for i := range c.Do {
		out = append(out, c.Do[i].Does(names))
	}
	return plain.List(out, "and")
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
func Label(c courtesy.Courtesy) string {
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

// askedBy lists what a command is asked by, as it is told: its names, and its words in quotes.
func askedBy(c courtesy.Courtesy) []string {
	out := slices.Clone(c.Asks)
	if c.Asked != nil {
		for _, w := range c.Asked.Words {
			out = append(out, "“"+w+"”")
		}
	}
	if len(out) == 0 {
		return []string{"nobody: courtesies say it"}
	}
	return out
}
