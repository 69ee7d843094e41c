package courtesy

import (
	"fmt"
	"slices"
	"strings"

	"vividporch/core/happening"
)

// New makes a courtesy to begin with, for a list that has others: switched off, with
// an id of its own, in words that fit its when and slot.
func New(list []Courtesy, when string, slot happening.Slot) Courtesy {
	c := Courtesy{ID: freeID(list, when[strings.LastIndexByte(when, '.')+1:]), When: when, Slot: slot}
	if when == happening.Command {
		c.Asks = []string{"!tides"}
	}
	c.Do = []Output{starter(c, Output{ID: "chat", Kind: Say})}
	return c
}

// Copy makes another of a courtesy, switched off, with an id of its own and every
// fill-in whole.
func Copy(list []Courtesy, from Courtesy) Courtesy {
	c := from
	c.ID, c.On, c.Away, c.Do = freeID(list, from.ID), false, false, slices.Clone(from.Do)
	return c
}

func freeID(list []Courtesy, name string) string {
	name = strings.TrimRight(name, "-0123456789")
	for i := 2; ; i++ {
		id := fmt.Sprintf("%s-%d", name, i)
		if !slices.ContainsFunc(list, func(c Courtesy) bool { return c.ID == id }) {
			return id
		}
	}
}

// Composed is a courtesy with when, who and do as a rule has them. An output that
// stays keeps its words; a new one gets an id, and words to begin with.
func (c Courtesy) Composed(rule Courtesy) Courtesy {
	out := rule
	out.ID, out.On = c.ID, c.On
	out.Group, out.Title = strings.TrimSpace(rule.Group), strings.TrimSpace(rule.Title)
	out.Do = make([]Output, 0, len(rule.Do))
	for _, o := range rule.Do {
		at := slices.IndexFunc(c.Do, func(was Output) bool { return o.ID != "" && was.ID == o.ID && was.Kind == o.Kind })
		if at >= 0 {
			o = o.worded(c.Do[at].Words())
		}
		if o.ID == "" {
			o.ID = freeOutput(c.Do, out.Do, o.Kind)
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

func freeOutput(was, now []Output, kind OutputKind) string {
	for i := len(now) + 1; ; i++ {
		id := fmt.Sprint(kind, "-", i)
		taken := func(o Output) bool { return o.ID == id }
		if !slices.ContainsFunc(was, taken) && !slices.ContainsFunc(now, taken) {
			return id
		}
	}
}

// Words are the words of one output, as they are being written.
type Words struct {
	Output       string            `json:"id"`
	Alternatives []string          `json:"alternatives"`
	Weights      []int             `json:"weights,omitempty"`
	Joined       []string          `json:"joined,omitempty"`
	Second       string            `json:"second,omitempty"`
	Fields       map[string]string `json:"fields,omitempty"`
}

// Words are the words of an output.
func (o *Output) Words() Words {
	return Words{o.ID, o.Alternatives, o.Weights, o.Joined, o.Second, o.Fields}
}

// worded is an output with other words.
func (o Output) worded(w Words) Output {
	o.Alternatives, o.Weights, o.Joined, o.Second, o.Fields = w.Alternatives, w.Weights, w.Joined, w.Second, w.Fields
	return o
}

// Bare is an output without its words.
func (o Output) Bare() Output { return o.worded(Words{}) }

// Reworded is a courtesy with other words for some of its outputs. Weights that say
// nothing are left out, and so is what an output of its kind does not say.
func (c Courtesy) Reworded(list []Words) Courtesy {
	c.Do = slices.Clone(c.Do)
	for _, w := range list {
		at := slices.IndexFunc(c.Do, func(o Output) bool { return o.ID == w.Output })
		if at < 0 {
			continue
		}
		o := &c.Do[at]
		o.Alternatives, o.Weights = w.Alternatives, plainWeights(w.Weights, len(w.Alternatives))
		if len(o.Alternatives) == 0 {
			o.Alternatives = nil
		}
		if len(w.Joined) > 0 || len(o.Joined) > 0 {
			o.Joined = w.Joined
		}
		if o.Kind == Card {
			o.Second = w.Second
		}
		if o.Kind == Raise {
			o.Fields = w.Fields
		}
	}
	return c
}

// plainWeights leaves out weights that say nothing, and those beyond the alternatives.
func plainWeights(list []int, n int) []int {
	list = list[:min(len(list), n)]
	if slices.ContainsFunc(list, func(w int) bool { return w != 1 }) {
		return list
	}
	return nil
}

// Faults lists what keeps words that are being written from coming into force. Paths
// begin with the output's id: "chat.alternatives.2".
func (w World) Faults(c Courtesy, words []Words) []Fault {
	next := c.Reworded(words)
	_, all := load(next, 0, w)
	var out []Fault
	for _, f := range all {
		for i, o := range next.Do {
			in, mine := strings.CutPrefix(f.At, fmt.Sprintf("do.%d.", i))
			if mine && slices.ContainsFunc(words, func(w Words) bool { return w.Output == o.ID }) {
				f.At = o.ID + "." + in
				out = append(out, f)
			}
		}
	}
	return out
}

// starter is an output to begin with, in words that fit its courtesy's when; the
// streamer puts their own in their place.
func starter(c Courtesy, o Output) Output {
	joined := []string{"{names}{more, plural, =0 {} other { and # more}}: thank you all!"}
	switch {
	case !o.Worded():
		return o
	case o.Kind == Platform:
		o.Alternatives = []string{"{channel}"}
		return o
	case happening.Of(c.When).Frame == happening.OfStream:
		o.Alternatives = []string{"{channel} is here.", "This is {channel}.", "{channel}: come and look."}
	case c.When == happening.Hand:
		o.Alternatives = []string{"{hasMeant, select, yes {For {meant}, with thanks.} other {For everyone on the porch.}}", "{hasMeant, select, yes {Three cheers for {meant}.} other {Three cheers for the porch.}}",
			"{hasMeant, select, yes {{meant}, this is for you.} other {This is for you all.}}"}
	case c.When == happening.Command:
		o.Alternatives = []string{"Here you are, {name}.", "{name}: here it is.", "For {name}, and whoever else wondered."}
	case c.Slot == happening.ShoutOut:
		o.Alternatives = []string{"Go and see {name}.", "{name} is well worth an evening.", "Put {name} on your tide table."}
	case c.When == happening.Hello:
		o.Alternatives = []string{"Hello, {name}.", "And to you, {name}.", "{name}! Good evening."}
	case c.Slot == happening.Thanks:
		o.Alternatives = []string{"Thank you, {name}!", "{name}, that is kind. Thank you!", "The whole boathouse thanks {name}."}
	default:
		o.Alternatives = []string{"Evening, {name}.", "{name} is here!", "Good to see you, {name}."}
	}
	if c.Burst != nil && o.Joins() && len(o.Joined) == 0 {
		o.Joined = joined
	}
	return o
}
