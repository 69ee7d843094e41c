package people

import (
	"slices"
	"strings"

	"vividporch/core/event"
	"vividporch/core/plain"
)

// Named is an account of the guest book whom a name may mean, with what is known of
// the person behind it.
type Named struct {
	Person event.Person
	Known  *Known
}

// CalledMost is how many of the guest book a name is looked for among, each by login, by
// name and by words: an own name comes first of those that begin like it.
const CalledMost = 12

// FindText folds what somebody can be found by, each thing once, one a line.
func FindText(finds []string) string {
	var out []string
	for _, f := range finds {
		if f = plain.Fold(f); f != "" && !slices.Contains(out, f) {
			out = append(out, f)
		}
	}
	return strings.Join(out, "\n")
}

// FindWords are the words of such a text; long notes have more than anybody is looked
// for by.
func FindWords(text string) []string { return plain.Words(text, 80) }

// Said is the name as the house says it.
func (n *Named) Said() string {
	if n.Known != nil && n.Known.SayAs != "" {
		return n.Known.SayAs
	}
	for _, s := range []string{n.Person.Shown(), n.Person.Login} {
		if c := plain.Name(s); c != "" {
			return c
		}
	}
	return n.Person.ID
}

// same reports whether two are one person.
func (n *Named) same(o *Named) bool {
	return n.Person.Key() == o.Person.Key() || n.Known != nil && o.Known != nil && n.Known.Person > 0 && n.Known.Person == o.Known.Person
}

// Pick finds whom a name means, of several: by login, else by name or as the house
// says it, whatever the case and however the letters are written; never by what only
// looks alike. Those on the platform where the name was said come first. Two who would
// both do are returned both; of one person with several accounts, the first.
func Pick(name, platform string, of []Named) []Named {
	by := func(fits func(n *Named) bool) []Named {
		var here, there []Named
		for i := range of {
			switch n := &of[i]; {
			case !fits(n):
			case n.Person.Platform == platform:
				here = addOnce(here, n)
			default:
				there = addOnce(there, n)
			}
		}
		if len(here) > 0 {
			return here
		}
		return there
	}
	if found := by(func(n *Named) bool { return plain.Same(n.Person.Login, name) }); len(found) > 0 {
		return found
	}
	return by(func(n *Named) bool {
		return plain.Same(n.Person.Name, name) || n.Known != nil && plain.Same(n.Known.SayAs, name)
	})
}

func addOnce(list []Named, n *Named) []Named {
	for i := range list {
		if list[i].same(n) {
			return list
		}
	}
	return append(list, *n)
}

// Near lists who goes by a name that looks like one or goes on where it ends, at most
// so many, as the house says them.
func Near(name string, most int, of []Named) []string {
	var out []string
	like := func(s string) bool {
		return s != "" && name != "" && (plain.Begins(s, name) || plain.Begins(name, s) && len(s) > 3)
	}
	for i := range of {
		n := &of[i]
		said := n.Said()
		if (like(n.Person.Login) || like(n.Person.Name) || n.Known != nil && like(n.Known.SayAs)) && len(out) < most && !slices.Contains(out, said) {
			out = append(out, said)
		}
	}
	return out
}
