package prose

import (
	"fmt"
	"slices"
	"strings"

	"vividporch/core/courtesy"
	"vividporch/core/happening"
	"vividporch/core/output"
	"vividporch/core/spoken"
)

// New makes a courtesy to begin with, for a list that has others: switched off, with
// an id of its own, in words that fit its when and slot.
func New(list []courtesy.Courtesy, when string, slot happening.Slot) courtesy.Courtesy {
	c := courtesy.Courtesy{ID: freeID(list, when[strings.LastIndexByte(when, '.')+1:]), When: when, Slot: slot}
	switch when {
	case happening.Command:
		c.Asks = []string{"ask"}
	case happening.Timer:
		c.Timer = &courtesy.Timer{Minutes: usualMinutes, Lines: usualLines}
	case happening.Lull:
		c.Timer = &courtesy.Timer{Minutes: 10}
	}
	c.Do = []output.Output{starter(c, output.Output{ID: "chat", Do: &output.Say{}})}
	return c
}

// Answering makes a command out of what it is asked by and what it answers, on at once: nothing of
// it is made up.
func Answering(list []courtesy.Courtesy, asks []string, says string) courtesy.Courtesy {
	name := "command"
	if len(asks) > 0 {
		if plainly := strings.Map(func(r rune) rune {
			if r >= 'a' && r <= 'z' || r >= '0' && r <= '9' || r == '-' || r == '_' {
				return r
			}
			return -1
		}, spoken.Fold(asks[0])); plainly != "" && len(plainly) < 40 {
			name = plainly
		}
	}
	c := courtesy.Courtesy{ID: name, On: true, When: happening.Command, Asks: asks, Slot: happening.Answer, OffLine: true}
	if slices.ContainsFunc(list, func(o courtesy.Courtesy) bool { return o.ID == name }) {
		c.ID = freeID(list, name)
	}
	c.Do = []output.Output{{ID: "chat", Do: &output.Say{}, Alternatives: []string{says}}}
	return c
}

// The usual time between two sayings of a timer, and how many lines lie between.
const (
	usualMinutes = 20
	usualLines   = 15
)

// NowAndThen makes a timer that says what a command answers, on at once.
func NowAndThen(list []courtesy.Courtesy, of courtesy.Courtesy) courtesy.Courtesy {
	c := courtesy.Courtesy{ID: of.ID + "-now-and-then", On: true, When: happening.Timer, Timer: &courtesy.Timer{Minutes: usualMinutes, Lines: usualLines}}
	if len(c.ID) > 60 || slices.ContainsFunc(list, func(o courtesy.Courtesy) bool { return o.ID == c.ID }) {
		c.ID = freeID(list, "now-and-then")
	}
	c.Do = []output.Output{{ID: "answer", Do: &output.Answer{Of: of.ID}}}
	return c
}

// OwnWords finds the courtesy that is one account's own, of a when and slot; false where there is none.
func OwnWords(list []courtesy.Courtesy, account, when string, slot happening.Slot) (id string, there bool) {
	at := slices.IndexFunc(list, func(c courtesy.Courtesy) bool {
		return c.Who.Account == account && c.When == when && c.Slot == slot && !c.Away
	})
	if at < 0 {
		return "", false
	}
	return list[at].ID, true
}

// AnnouncedAt are courtesies by which the opening of a stream is announced at a place too, in words
// to begin with: by one that speaks of the opening already, one that is on before others, or by a
// new one. Where one posts there already, it is on, and nothing else changes.
func AnnouncedAt(list []courtesy.Courtesy, place string) []courtesy.Courtesy {
	at := -1
	for i := range list {
		c := &list[i]
		if c.When != happening.StreamOpenedType || c.Away {
			continue
		}
		if slices.ContainsFunc(c.Do, func(o output.Output) bool { return o.Place() == place }) {
			c.On = true
			return list
		}
		if at < 0 || c.On && !list[at].On {
			at = i
		}
	}
	if at < 0 {
		made := New(list, happening.StreamOpenedType, happening.Free)
		made.Do = nil
		at, list = len(list), append(list, made)
	}
	list[at].On = true
	list[at].Do = append(list[at].Do, output.Output{ID: "announce-" + place, Do: &output.Relay{Place: place}, Alternatives: []string{
		"{channel} is live{hasTitle, select, yes {: {title}} other {}}{hasLink, select, yes { · {link}} other {}}",
		"We are on! {hasTitle, select, yes {{title}} other {Come and see}}{hasLink, select, yes { · {link}} other {}}",
		"Just started{hasCategory, select, yes { with {category}} other {}}: {channel}{hasLink, select, yes { · {link}} other {}}"}})
	return list
}

// RelayedAt are courtesies by which a happening is posted at a place too, with the id of the one that does:
// the announcement where a stream opens, else one of its own, on at once. One that posts there already goes on.
func RelayedAt(list []courtesy.Courtesy, when, place string) ([]courtesy.Courtesy, string) {
	if when == happening.StreamOpenedType {
		list = AnnouncedAt(list, place)
	}
	for i := range list {
		c := &list[i]
		if c.When != when || c.Away {
			continue
		}
		for k := range c.Do {
			if r, ok := c.Do[k].Do.(*output.Relay); ok && r.Place == place {
				next := *r
				next.Paused, c.On = false, true
				c.Do[k].Do = &next
				return list, c.ID
			}
		}
	}
	made := courtesy.Courtesy{ID: when[strings.LastIndexByte(when, '.')+1:] + "-to-" + place, On: true, When: when, OffLine: true}
	if len(made.ID) > 60 || slices.ContainsFunc(list, func(c courtesy.Courtesy) bool { return c.ID == made.ID }) {
		made.ID = freeID(list, "posts")
	}
	if when == happening.Timer || when == happening.Lull {
		made.Timer = New(list, when, happening.Free).Timer
	}
	made.Do = []output.Output{{ID: "post", Do: &output.Relay{Place: place}, Alternatives: []string{happening.Of(when).Record()}}}
	return append(list, made), made.ID
}

// SpokenOf are courtesies by which each of some happenings is spoken of in chat, in words to begin with, on at once. One that speaks
// of it already stays as it is.
func SpokenOf(list []courtesy.Courtesy, whens ...string) []courtesy.Courtesy {
	for _, when := range whens {
		if slices.ContainsFunc(list, func(c courtesy.Courtesy) bool { return c.When == when && !c.Away && c.On }) {
			continue
		}
		made := New(list, when, happening.Free)
		made.On, made.OffLine = true, true
		if len(happening.Of(when).Together) > 0 {
			made.Burst = &courtesy.Burst{Seconds: gathersFor, At: 2}
			made.Do[0] = starter(made, output.Output{ID: "chat", Do: &output.Say{}})
		}
		if id := strings.ReplaceAll(strings.TrimPrefix(when, "porch."), ".", "-"); !slices.ContainsFunc(list, func(c courtesy.Courtesy) bool { return c.ID == id }) {
			made.ID = id
		}
		list = append(list, made)
	}
	return list
}

// gathersFor is how long those who do the same are gathered, in seconds, to be spoken of at once.
const gathersFor = 10

// Copy makes another of a courtesy, switched off, with an id of its own and every
// fill-in whole.
func Copy(list []courtesy.Courtesy, from courtesy.Courtesy) courtesy.Courtesy {
	c := from
	c.ID, c.On, c.Away, c.Do = freeID(list, from.ID), false, false, slices.Clone(from.Do)
	return c
}

func freeID(list []courtesy.Courtesy, name string) string {
	name = strings.TrimRight(name, "-0123456789")
	for i := 2; ; i++ {
		id := fmt.Sprintf("%s-%d", name, i)
		if !slices.ContainsFunc(list, func(c courtesy.Courtesy) bool { return c.ID == id }) {
			return id
		}
	}
}

// Composed is a courtesy with when, who and do as a rule has them. An output that
// stays keeps its words; a new one gets an id, and words to begin with.
func Composed(c, rule courtesy.Courtesy) courtesy.Courtesy {
	out := rule
	out.ID, out.On = c.ID, c.On
	out.Group, out.Title, out.Tells = strings.TrimSpace(rule.Group), strings.TrimSpace(rule.Title), strings.TrimSpace(rule.Tells)
	out.Do = make([]output.Output, 0, len(rule.Do))
	for _, o := range rule.Do {
		at := slices.IndexFunc(c.Do, func(was output.Output) bool { return o.ID != "" && was.ID == o.ID && was.Kind() == o.Kind() })
		if at >= 0 {
			o = o.WithWords(c.Do[at].Words())
		}
		if o.ID == "" {
			o.ID = freeOutput(c.Do, out.Do, o.Kind())
		}
		if len(o.Alternatives) == 0 || out.Burst != nil && len(o.Joined) == 0 {
			first := starter(out, o)
			if len(o.Alternatives) == 0 {
				o.Alternatives = first.Alternatives
			}
			o.Joined = first.Joined
		}
		out.Do = append(out.Do, o)
	}
	return out
}

func freeOutput(was, now []output.Output, kind output.Kind) string {
	for i := len(now) + 1; ; i++ {
		id := fmt.Sprint(kind, "-", i)
		taken := func(o output.Output) bool { return o.ID == id }
		if !slices.ContainsFunc(was, taken) && !slices.ContainsFunc(now, taken) {
			return id
		}
	}
}

// starter is an output to begin with, in words that fit its courtesy's when; the
// streamer puts their own in their place.
func starter(c courtesy.Courtesy, o output.Output) output.Output {
	joined := []string{"{names}{more, plural, =0 {} other { and # more}}: thank you all!"}
	h := happening.Of(c.When)
	if len(h.Together) > 0 {
		joined = h.Together
	}
	switch {
	case !o.Worded():
		return o
	case o.Way() == output.ToPlatform:
		o.Alternatives = []string{"{channel}"}
		return o
	case len(h.Starters) > 0:
		o.Alternatives = slices.Clone(h.Starters)
	case c.When == happening.Timer || c.When == happening.Lull:
		o.Alternatives = []string{"A word now and then: this is {channel}.", "Glad you are here, all of you.", "Ask anything you like: {channel} answers."}
	case h.Frame == happening.OfStream:
		o.Alternatives = []string{"{channel} is here.", "This is {channel}.", "{channel}: come and look."}
	case c.When == happening.Hand:
		o.Alternatives = []string{"{hasMeant, select, yes {For {meant}, with thanks.} other {For all of you.}}", "{hasMeant, select, yes {Three cheers for {meant}.} other {Three cheers for everybody here.}}",
			"{hasMeant, select, yes {{meant}, this is for you.} other {This is for you all.}}"}
	case c.When == happening.Command:
		o.Alternatives = []string{"Here you are, {name}.", "{name}: here it is.", "For {name}, and whoever else wondered."}
	case c.Slot == happening.ShoutOut:
		o.Alternatives = []string{"Go and see {name}.", "{name} is well worth a visit.", "Do visit {name} one day."}
	case c.When == happening.Hello:
		o.Alternatives = []string{"Hello, {name}.", "And to you, {name}.", "{name}! Good evening."}
	case c.Slot == happening.Thanks:
		o.Alternatives = []string{"Thank you, {name}!", "{name}, that is kind. Thank you!", "We all thank {name}."}
	default:
		o.Alternatives = []string{"Hello, {name}.", "{name} is here!", "Good to see you, {name}."}
	}
	if c.Burst != nil && o.Joins() && len(o.Joined) == 0 {
		o.Joined = joined
	}
	return o
}
