package output

import (
	"fmt"

	"vividporch/core/who"
)

// KindAnemone is the name of it.
const KindAnemone Kind = "anemone"

// Anemone answers a question: it opens or stays shut, with an answer of its list.
type Anemone struct {
	Opens   int      `json:"opens,omitempty" jsonschema:"minimum=0,maximum=100"` // of a hundred times; 0 is 50
	Answers []string `json:"answers,omitempty"`                                  // when it opens; none are the usual ones
	Shut    []string `json:"shut,omitempty"`                                     // when it stays shut
}

var (
	usualOpen = []string{"The current says yes", "As sure as the tide", "I taste good things", "Come closer, and yes"}
	usualShut = []string{"Not before the tide turns", "Ask a crab", "The water is too warm for that", "I felt a shadow: no"}
)

const mostAnswers = 100

var anemone = Spec{New: func() Does { return &Anemone{} }, Way: Within}

// Kind is the name of it.
func (*Anemone) Kind() Kind { return KindAnemone }

// Says tells what it does.
func (*Anemone) Says(who.Names) string { return "ask the anemone" }

// Lists are its answers, open and shut.
func (a *Anemone) Lists() (open, shut []string) {
	if open = a.Answers; len(open) == 0 {
		open = usualOpen
	}
	if shut = a.Shut; len(shut) == 0 {
		shut = usualShut
	}
	return open, shut
}

// Check reports answers that say nothing.
func (a *Anemone) Check(_ *Output, _ In, fault func(at, what, remedy string)) {
	if a.Opens < 0 || a.Opens > 100 {
		fault("opens", "is out of range", "let it open 1 to 100 of a hundred times")
	}
	for field, list := range map[string][]string{"answers": a.Answers, "shut": a.Shut} {
		if len(list) > mostAnswers {
			fault(field, "are too many", fmt.Sprintf("keep to %d", mostAnswers))
		}
		for i, s := range list {
			if s == "" || len(s) > 200 {
				fault(fmt.Sprintf("%s.%d", field, i), "is missing or too long", "answer in at most 200 letters")
			}
		}
	}
}
