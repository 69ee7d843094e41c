package guard

import (
	"slices"
	"time"

	"vividporch/core/housefile"
	"vividporch/core/trouble"
)

// Past looks at lines of the past under one rule, in the order in which they were said, as the room would have: what broke it then
// counts for nothing more.
type Past struct {
	rules  []trouble.Rule
	lately bool // some of them look at what was said before
	emotes map[string][]string
	m      Memory
}

// NewPast makes a rule ready for the past of a house.
func NewPast(f *housefile.Settings, r trouble.Rule) *Past { return NewAll(f, []trouble.Rule{r}) }

// NewAll makes several ready.
func NewAll(f *housefile.Settings, rules []trouble.Rule) *Past {
	p := &Past{rules: slices.Clone(rules), emotes: emotesOf(f)}
	trouble.Ready(p.rules)
	p.lately = slices.ContainsFunc(p.rules, looksBack)
	return p
}

// looksBack reports whether a rule looks at what was said before a line.
func looksBack(r trouble.Rule) bool {
	switch r.Do.(type) {
	case *trouble.Again, *trouble.Several:
		return true
	}
	return false
}

// Looks tells what of the rules a line has, or "".
func (p *Past) Looks(at time.Time, platform, account, text string) (found string) {
	line := &trouble.Line{Text: text, Emotes: p.emotes[platform]}
	lately, digest := trouble.Lately(nil), uint64(0)
	if p.lately {
		digest = line.Digest()
		lately = &before{m: &p.m, now: at, person: account, digest: digest}
	}
	for i := range p.rules {
		if what := p.rules[i].Do.Finds(line, lately); what != "" && found == "" {
			found = what
		}
	}
	if !p.lately {
		return found
	}
	if p.m.Lately = append(p.m.Lately, spoken{at, account, digest}); len(p.m.Lately) > 2*mostLately {
		p.m.Lately = append([]spoken{}, p.m.Lately[len(p.m.Lately)-mostLately:]...)
	}
	return found
}
