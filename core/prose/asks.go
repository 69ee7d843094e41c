package prose

import (
	"cmp"
	"slices"
	"strings"

	"vividporch/core/courtesy"
	"vividporch/core/happening"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/core/plain"
	"vividporch/core/spoken"
	"vividporch/core/who"
)

// Ask is a thing that viewers can ask: by which words, and what comes of it.
type Ask struct{ Words, Says string }

// AskGroup is several of them that the streamer keeps together.
type AskGroup struct {
	Title string
	Asks  []Ask
}

// Asks lists what viewers can ask, by group, in the order in which it stands in the house file;
// what is left off the list, off, or for courtesies alone, is not on it.
func Asks(s *housefile.Settings) []AskGroup {
	var out []AskGroup
	add := func(group string, a Ask) {
		at := slices.IndexFunc(out, func(g AskGroup) bool { return g.Title == group })
		if at < 0 {
			at, out = len(out), append(out, AskGroup{Title: group})
		}
		out[at].Asks = append(out[at].Asks, a)
	}
	for i := range s.Courtesy {
		c := &s.Courtesy[i]
		if !c.On || c.Away {
			continue
		}
		switch words := Askable(s, c); {
		case len(words) > 0:
			group := c.Group
			if group == "" {
				group = "In chat"
			}
			add(group, Ask{strings.Join(words, "  "), told(c)})
		case c.When != happening.Command && c.Measure != nil && c.Tells != "":
			add("Special amounts", Ask{amount(c), c.Tells})
		}
	}
	for _, x := range []struct {
		words []string
		says  string
	}{{s.Privacy.Ask, "Ask what is kept about you"}, {s.Privacy.Forget, "Ask to be forgotten"}} {
		if len(x.words) > 0 {
			add("About you", Ask{x.words[0], x.says})
		}
	}
	return out
}

// written is a command's name as viewers write it on a platform: with its own sign, else the platform's.
func written(s *housefile.Settings, platform, name string) string {
	if spoken.IsSigned(name) {
		return name
	}
	return string([]rune(s.Commands.SignsOn(platform))[0]) + name
}

// Askable lists the names of a command as viewers write them, with the signs of the platforms that
// the house is on; none of one that is not on the list.
func Askable(s *housefile.Settings, c *courtesy.Courtesy) []string {
	if c.When != happening.Command || c.Who.Nobody || c.Asked != nil && c.Asked.Unlisted {
		return nil
	}
	var out []string
	add := func(w string) {
		if !slices.Contains(out, w) {
			out = append(out, w)
		}
	}
	for _, name := range c.Asks {
		some := false
		for _, d := range s.Doors {
			if d.Kind == "irc" && d.As == "" {
				add(written(s, d.Platform, name))
				some = true
			}
		}
		if !some {
			add(written(s, "", name))
		}
	}
	if c.Asked != nil {
		for _, w := range c.Asked.Words {
			add("“" + w + "”")
		}
	}
	return out
}

// told is what viewers are told of a command: as the streamer wrote it, else its answer, where that
// is the same for everybody.
func told(c *courtesy.Courtesy) string {
	if c.Tells != "" {
		return c.Tells
	}
	for _, o := range c.Do {
		if o.Kind() == output.KindSay && len(o.Alternatives) > 0 && !strings.ContainsAny(o.Alternatives[0], "{}'") {
			return o.Alternatives[0]
		}
	}
	return ""
}

// amount is the number that a courtesy answers to, with what is counted: "5 EUR or more".
func amount(c *courtesy.Courtesy) string {
	m := c.Measure
	unit := " " + cmp.Or(m.Currency, m.Of, happening.Of(c.When).Main())
	if m.Exactly == nil && m.AtLeast != nil && m.UpTo == nil && m.Largest == "" {
		return who.Number(*m.AtLeast) + unit + " or more"
	}
	bare := *m
	bare.Of, bare.Currency = "", ""
	return bare.String() + unit
}

// AskList are the names of what viewers can ask, one each, and what is told of special amounts, as
// the fill-ins have them.
func AskList(s *housefile.Settings) (commands, amounts string) {
	var names, told []string
	for i := range s.Courtesy {
		c := &s.Courtesy[i]
		if !c.On || c.Away {
			continue
		}
		if words := Askable(s, c); len(words) > 0 {
			names = append(names, words[0])
		} else if c.When != happening.Command && c.Measure != nil && c.Tells != "" {
			told = append(told, amount(c)+": "+c.Tells)
		}
	}
	return plain.List(names, "and"), strings.Join(told, "; ")
}
