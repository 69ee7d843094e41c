package output

import (
	"fmt"

	"vividporch/core/who"
)

// KindStone is the name of it.
const KindStone Kind = "stone"

// Stone is a game of luck: whoever asks turns a stone, and what lives under it decides.
type Stone struct {
	Stakes
	Edge  float64 `json:"edge,omitempty" jsonschema:"minimum=0,maximum=50"` // of a hundred staked, the house keeps so many in the long run
	Finds []Find  `json:"finds,omitempty"`                                  // none are the usual ones
}

// Find is what may live under a stone: how often beside the others, and how many times the stake it is worth before the house's edge.
type Find struct {
	Name   string  `json:"name" jsonschema:"minLength=1,maxLength=100"`
	Weight int64   `json:"weight" jsonschema:"minimum=1,maximum=1000000"`
	Pays   float64 `json:"pays,omitempty" jsonschema:"minimum=0,maximum=1000"`
}

// usualFinds live under stones where the settings name none.
var usualFinds = []Find{{"bare sand", 5, 0}, {"a winkle shell, empty", 4, 0.5}, {"a periwinkle", 4, 1}, {"a shore crab, both claws up", 2, 2}, {"a brittle star", 1, 5}}

const mostFinds = 40

var stone = Spec{New: func() Does { return &Stone{} }, Way: Within}

// Kind is the name of it.
func (*Stone) Kind() Kind { return KindStone }

// Says tells what it does.
func (*Stone) Says(who.Names) string { return "turn a stone" }

// Under is what may live there, and how often altogether.
func (s *Stone) Under() (finds []Find, weights int64) {
	if finds = s.Finds; len(finds) == 0 {
		finds = usualFinds
	}
	for _, f := range finds {
		weights += f.Weight
	}
	return finds, weights
}

// Worth is how many times the stake a find is worth: in the long run all finds together are worth the stake less the house's edge.
func (s *Stone) Worth(f Find) float64 {
	finds, weights := s.Under()
	mean := 0.0
	for _, o := range finds {
		mean += o.Pays * float64(o.Weight) / float64(weights)
	}
	if mean <= 0 {
		return 0
	}
	return f.Pays / mean * (1 - s.Edge/100)
}

// Check reports finds that cannot be.
func (s *Stone) Check(_ *Output, _ In, fault func(at, what, remedy string)) {
	s.check(fault)
	if !(s.Edge >= 0 && s.Edge <= 50) {
		fault("edge", "is out of range", "let the house keep 0 to 50 of a hundred")
	}
	if len(s.Finds) > mostFinds {
		fault("finds", "are too many", fmt.Sprintf("name at most %d", mostFinds))
	}
	pays := len(s.Finds) == 0
	for i, f := range s.Finds {
		if f.Name == "" || len(f.Name) > 100 || f.Weight < 1 || f.Weight > 1_000_000 || !(f.Pays >= 0 && f.Pays <= 1000) {
			fault(fmt.Sprintf("finds.%d", i), "cannot be", "name it, say how often beside the others (1 or more), and how many times the stake it is worth (0 to 1000)")
		}
		pays = pays || f.Pays > 0
	}
	if !pays {
		fault("finds", "are worth nothing", "let one of them be worth something")
	}
}
