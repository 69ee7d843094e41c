package trouble

import (
	"cmp"
	"fmt"
	"time"
)

// Guard is what keeps chat well: the rules, and what they have in common.
type Guard struct {
	Rules         []Rule   `json:"rules,omitempty"`
	HeldMinutes   float64  `json:"heldMinutes,omitempty" jsonschema:"minimum=0,maximum=120"`   // a held line waits for a member; 0 is [UsualHeld]
	PermitMinutes float64  `json:"permitMinutes,omitempty" jsonschema:"minimum=0,maximum=720"` // somebody is permitted; 0 is [UsualPermit]
	FloodMinutes  float64  `json:"floodMinutes,omitempty" jsonschema:"minimum=0,maximum=120"`  // the key against a flood holds; 0 is [UsualFlood]
	Modes         []string `json:"modes,omitempty"`                                            // platform actions that the key brings; none is slow chat
	Warnings      []string `json:"warnings,omitempty"`                                         // how somebody is told: {name}, {what}
}

// What holds where the settings do not say, in minutes.
const (
	UsualHeld   = 10.0
	UsualPermit = 5.0
	UsualFlood  = 15.0
)

// Permits is for how long somebody is permitted.
func (g *Guard) Permits() time.Duration {
	return time.Duration(cmp.Or(g.PermitMinutes, UsualPermit) * float64(time.Minute))
}

// Check reports what keeps the guard from standing.
func (g *Guard) Check(fault func(at, what, remedy string)) {
	if len(g.Rules) > MostRules {
		fault("rules", "are too many", fmt.Sprintf("keep at most %d", MostRules))
	}
	seen := map[string]bool{}
	for i := range g.Rules {
		r, at := &g.Rules[i], fmt.Sprintf("rules.%d.", i)
		if r.Check(func(in, what, remedy string) { fault(at+in, what, remedy) }); seen[r.ID] {
			fault(at+"id", "stands twice", "give each rule a name of its own")
		}
		seen[r.ID] = true
	}
	number("heldMinutes", g.HeldMinutes, 0, 120, "minutes", fault)
	number("permitMinutes", g.PermitMinutes, 0, 720, "minutes", fault)
	number("floodMinutes", g.FloodMinutes, 0, 120, "minutes", fault)
}

// Rule is the rule of a name, or nil.
func (g *Guard) Rule(id string) *Rule {
	for i := range g.Rules {
		if g.Rules[i].ID == id {
			return &g.Rules[i]
		}
	}
	return nil
}
