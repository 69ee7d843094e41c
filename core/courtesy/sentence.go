package courtesy

import (
	"strings"

	"vividporch/core/people"
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
	LaneHappens = "When something happens"
	LaneCloses  = "When the stream closes"
)

// Lane is where a courtesy stands along the evening.
func Lane(c Courtesy) string {
	switch c.When {
	case Arrival:
		return LaneArrives
	case "porch.stream.opened", "porch.stream.changed":
		return LaneOpens
	case "porch.stream.closed":
		return LaneCloses
	}
	return LaneHappens
}

// Sentence says what a courtesy does in words; title names a place.
func Sentence(c Courtesy, title func(place string) string) []Part {
	var ps []Part
	say := func(text string) { ps = append(ps, Part{Text: text}) }
	strong := func(text string) { ps = append(ps, Part{Text: text, Strong: true}) }
	switch {
	case c.When == Arrival:
		say("Greet ")
		strong(whom(c.Who))
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
		if len(c.Do) == 0 {
			say(" in silence")
		}
	case c.When == "porch.stream.opened":
		say("Tell ")
		var to []string
		for _, o := range c.Do {
			if o.Kind == Relay {
				to = append(to, title(o.Place))
			} else {
				to = append(to, "chat")
			}
		}
		strong(strings.Join(to, " and "))
		say(" that we are on")
	default:
		say("Answer ")
		strong(strings.TrimPrefix(c.When, "porch."))
	}
	return ps
}

func whom(w Who) string {
	switch {
	case w.Account != "":
		return "one person in their own words"
	case w.Mark != "":
		return "a " + string(w.Mark)
	case w.Role != "":
		return "a " + string(w.Role)
	case w.Standing == people.Newcomer:
		return "a newcomer"
	case w.Standing == people.Returning:
		return "anyone returning"
	case w.Standing == people.Regular:
		return "a regular"
	case w.Standing == people.LongAway:
		return "anyone back after long away"
	}
	return "anyone"
}

func band(ps *[]Part, m *Measure) {
	if m != nil {
		*ps = append(*ps, Part{Text: " of "}, Part{Text: m.String(), Strong: true})
	}
}

// Label is the sentence in two or three words, for a line that is coming up.
func Label(c Courtesy) string {
	switch {
	case c.When == Arrival && c.Who.Standing == people.Newcomer:
		return "Newcomer"
	case c.When == Arrival:
		return "Greeting"
	case c.Slot == ShoutOut:
		return "Shout-out"
	case c.Slot == Thanks && c.When == "porch.raid.came":
		return "Raid"
	case c.Slot == Thanks:
		return "Thanks"
	case c.When == "porch.stream.opened":
		return "Opening"
	}
	return "Courtesy"
}
