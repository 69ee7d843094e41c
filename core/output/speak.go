package output

import (
	"cmp"
	"time"

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
	Asks bool `json:"asks,omitempty"` // it waits until a member allows it
}

// AllowedWithin is how long what is to be allowed waits for it, unless an output says otherwise.
const AllowedWithin = 10 * time.Minute

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

// ForLeave reports whether it waits until a member allows it.
func (s *Speak) ForLeave() bool { return s.Asks }

// Tell is the voice, and how loud.
func (s *Speak) Tell(Telling) any {
	return &Speak{Loud: cmp.Or(s.Loud, usualLoud), Voice: s.Voice, OnScreen: s.OnScreen}
}
