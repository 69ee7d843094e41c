package onemore_test

import (
	"vividporch/core/output"
	"vividporch/core/who"
)

// Bell rings a bell so many times.
type Bell struct {
	Fitting string `json:"fitting,omitempty"`
	Times   int    `json:"times,omitempty"`
}

var bell = output.Spec{New: func() output.Does { return &Bell{} }, Way: output.ToFitting, Fitting: output.Player, Done: "rung"}

func (*Bell) Kind() output.Kind         { return "bell" }
func (*Bell) Says(who.Names) string     { return "ring the bell" }
func (b *Bell) FittingName() string     { return b.Fitting }
func (b *Bell) Tell(output.Telling) any { return &Bell{Times: b.Times} }
func (b *Bell) Coming() string          { return "rings the bell" }
func (b *Bell) Check(_ *output.Output, _ output.In, fault func(at, what, remedy string)) {
	if b.Times < 1 || b.Times > 12 {
		fault("times", "is out of range", "ring 1 to 12 times")
	}
}
