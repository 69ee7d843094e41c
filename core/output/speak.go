package output

import (
	"cmp"

	"vividporch/core/who"
)

// KindSpeak is the name of it.
const KindSpeak Kind = "speak"

// Speak has words spoken aloud.
type Speak struct {
	Fitting string `json:"fitting,omitempty"`                                 // that speaks; none is the overlays
	Loud    int    `json:"loud,omitempty" jsonschema:"minimum=0,maximum=100"` // 1 to 100; 0 is 60
	Voice   string `json:"voice,omitempty"`                                   // one of the fitting's, or of the house's own
	OnScreen
}

var speak = Spec{New: func() Does { return &Speak{} }, Way: ToFitting, Done: "spoken", Worded: true, Joins: true, Fitting: Player}

// Kind is the name of it.
func (*Speak) Kind() Kind { return KindSpeak }

// Says tells what it does.
func (*Speak) Says(who.Names) string { return "speak" }

// Towards says where its words go.
func (s *Speak) Towards(n who.Names) string {
	if s.Fitting == "" {
		return "the overlay"
	}
	return n.OfFitting(s.Fitting)
}

// FittingName is what speaks.
func (s *Speak) FittingName() string { return s.Fitting }

// Check reports what is out of range.
func (s *Speak) Check(_ *Output, in In, fault func(at, what, remedy string)) {
	loud(s.Loud, fault)
	in.cannot(s.Fitting, string(KindSpeak), fault)
}

// Tell is the voice, and how loud.
func (s *Speak) Tell(Telling) any {
	return &Speak{Loud: cmp.Or(s.Loud, usualLoud), Voice: s.Voice, OnScreen: s.OnScreen}
}
