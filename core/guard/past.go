package guard

import (
	"time"

	"vividporch/core/housefile"
	"vividporch/core/trouble"
)

// Past looks at lines of the past under one rule, in the order in which they were said, as the room would have: what broke it then
// counts for nothing more.
type Past struct {
	rule   trouble.Rule
	emotes map[string][]string
	m      Memory
}

// NewPast makes a rule ready for the past of a house.
func NewPast(f *housefile.Settings, r trouble.Rule) *Past {
	rules := []trouble.Rule{r}
	trouble.Ready(rules)
	p := &Past{rule: rules[0], emotes: map[string][]string{}}
	for _, e := range f.Emotes {
		for _, on := range e.Platforms {
			p.emotes[on] = append(p.emotes[on], e.Word)
		}
	}
	return p
}

// asksLately reports whether a rule looks at what was said before a line.
func (p *Past) asksLately() bool {
	switch p.rule.Do.(type) {
	case *trouble.Again, *trouble.Several:
		return true
	}
	return false
}

// Looks tells what of the rule a line has, or "".
func (p *Past) Looks(at time.Time, platform, account, text string) string {
	line := &trouble.Line{Text: text, Emotes: p.emotes[platform]}
	if !p.asksLately() {
		return p.rule.Do.Finds(line, nil)
	}
	digest := line.Digest()
	found := p.rule.Do.Finds(line, &before{m: &p.m, now: at, person: account, digest: digest})
	if p.m.Lately = append(p.m.Lately, spoken{at, account, digest}); len(p.m.Lately) > 2*mostLately {
		p.m.Lately = append([]spoken{}, p.m.Lately[len(p.m.Lately)-mostLately:]...)
	}
	return found
}
