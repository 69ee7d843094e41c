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
	Asks    bool `json:"asks,omitempty"`                                        // it waits until a member allows it
	Letters int  `json:"letters,omitempty" jsonschema:"minimum=0,maximum=2000"` // the most that is read; 0 is all
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
	if s.Letters < 0 || s.Letters > 2000 {
		fault("letters", "is out of range", "read up to 2000 letters, or 0 for all")
	}
	in.cannot(s.Fitting, string(KindSpeak), fault)
}

// Longest is how many letters are read, or 0 for all.
func (s *Speak) Longest() int { return s.Letters }

// ForLeave reports whether it waits until a member allows it.
func (s *Speak) ForLeave() bool { return s.Asks }

// Tell is the voice, and how loud.
func (s *Speak) Tell(Telling) any {
	return &Speak{Loud: cmp.Or(s.Loud, usualLoud), Voice: s.Voice, OnScreen: s.OnScreen}
}
