package who

import (
	"fmt"
	"strings"

	"vividporch/core/people"
	"vividporch/core/plain"
)

// aStanding puts a standing into a sentence.
func aStanding(s people.Standing) string {
	switch s {
	case people.Newcomer, people.Regular:
		return "is a " + string(s)
	case people.LongAway:
		return "was long away"
	case "":
		return "has no standing"
	}
	return "is " + string(s)
}

// OwnWords follows one person, in [Who.Whom].
const OwnWords = " in their own words"

// Whom is a who in words, to stand after "greet": "a regular in quiet-moths".
func (w Who) Whom() string {
	if w.Account != "" {
		return w.Account + OwnWords
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
	if w.Date != nil {
		parts = append(parts, "who "+w.Date.String())
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
		parts = append(parts, "who is also "+w.All[i].Whom())
	}
	if len(w.Any) > 0 {
		var any []string
		for i := range w.Any {
			any = append(any, w.Any[i].Whom())
		}
		if base == "anyone" && len(parts) == 0 {
			base = plain.List(any, "or")
		} else {
			parts = append(parts, "who is "+plain.List(any, "or"))
		}
	}
	for i := range w.Not {
		parts = append(parts, "but not "+w.Not[i].Whom())
	}
	return strings.Join(append([]string{base}, parts...), " ")
}

// Names tells what places, crews, accounts and fittings are called; a nil function leaves
// them as they stand in the file.
type Names struct {
	Place, Crew, Account, Fitting func(string) string
}

// OfPlace is what a place is called.
func (n Names) OfPlace(id string) string { return name(n.Place, id) }

// OfFitting is what a fitting is called.
func (n Names) OfFitting(id string) string { return name(n.Fitting, id) }

func name(f func(string) string, s string) string {
	if f == nil {
		return s
	}
	return f(s)
}

// Named puts the names of crews and people in the place of their ids.
func (w Who) Named(n Names) Who {
	if w.Account != "" {
		w.Account = name(n.Account, w.Account)
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
			out = append(out, o.Named(n))
		}
		*inner = out
	}
	return w
}
