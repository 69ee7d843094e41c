package output

import "vividporch/core/who"

// KindSound is the name of it.
const KindSound Kind = "sound"

// Sound is a sound that is played.
type Sound struct {
	Media   string `json:"media,omitempty"`                                   // what is played, by its name on the shelf
	Fitting string `json:"fitting,omitempty"`                                 // that works it; none is the overlays
	Loud    int    `json:"loud,omitempty" jsonschema:"minimum=0,maximum=100"` // 1 to 100; 0 is 60
	OnScreen
}

var sound = Spec{New: func() Does { return &Sound{} }, Way: ToFitting, Done: "played", Fitting: Player}

// Kind is the name of it.
func (*Sound) Kind() Kind { return KindSound }

// Says tells what it does.
func (s *Sound) Says(who.Names) string { return "play " + s.Media }

// FittingName is what works it.
func (s *Sound) FittingName() string { return s.Fitting }

// MediaName is what is played.
func (s *Sound) MediaName() string { return s.Media }

// Check reports what is missing or out of range.
func (s *Sound) Check(_ *Output, in In, fault func(at, what, remedy string)) {
	if s.Media == "" {
		fault("media", "is missing", "choose what is played from the shelf")
	}
	loud(s.Loud, fault)
	in.cannot(s.Fitting, string(KindSound), fault)
}

// Tell is what is played, and how loud.
func (s *Sound) Tell(Telling) any {
	return &Sound{Media: s.Media, Loud: usually(s.Loud), OnScreen: s.OnScreen}
}

// Gist is what is played.
func (s *Sound) Gist() string { return s.Media }

// usualLoud is how loud what is played is, of 100, unless an output says otherwise.
const usualLoud = 60

func usually(loud int) int {
	if loud == 0 {
		return usualLoud
	}
	return loud
}

// Coming says what it is while it is coming up.
func (s *Sound) Coming() string { return "plays " + s.Media }
