package output

import (
	"vividporch/core/box"
	"vividporch/core/who"
)

// KindFilm is the name of it.
const KindFilm Kind = "film"

// Film is a film that is shown.
type Film struct {
	Media   string `json:"media,omitempty"`                                   // what is shown, by its name on the shelf
	Fitting string `json:"fitting,omitempty"`                                 // that works it; none is the overlays
	Loud    int    `json:"loud,omitempty" jsonschema:"minimum=0,maximum=100"` // 1 to 100; 0 is 60
	OnScreen
	Whole bool     `json:"whole,omitempty"` // over the whole overlay, whatever the box
	Key   *box.Key `json:"key,omitempty"`   // the colour that is taken out of it, where its box has another or none
}

var film = Spec{New: func() Does { return &Film{} }, Way: ToFitting, Done: "shown", Fitting: Player}

// Kind is the name of it.
func (*Film) Kind() Kind { return KindFilm }

// Says tells what it does.
func (s *Film) Says(who.Names) string { return "show the film " + s.Media }

// FittingName is what works it.
func (s *Film) FittingName() string { return s.Fitting }

// MediaName is what is shown.
func (s *Film) MediaName() string { return s.Media }

// Check reports what is missing or out of range.
func (s *Film) Check(_ *Output, in In, fault func(at, what, remedy string)) {
	if s.Media == "" {
		fault("media", "is missing", "choose what is played from the shelf")
	}
	if loud(s.Loud, fault); s.Key != nil {
		s.Key.Check(func(at, what, remedy string) { fault("key."+at, what, remedy) })
	}
	in.cannot(s.Fitting, string(KindFilm), fault)
}

// Tell is what is shown, and how loud.
func (s *Film) Tell(Telling) any {
	return &Film{Media: s.Media, Loud: usually(s.Loud), OnScreen: s.OnScreen, Whole: s.Whole, Key: s.Key}
}

// Gist is what is shown.
func (s *Film) Gist() string { return s.Media }

// Coming says what it is while it is coming up.
func (s *Film) Coming() string { return "shows the film " + s.Media }
