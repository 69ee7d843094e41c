package box

// KindFilm is the name of it.
const KindFilm Kind = "film"

// Film shows films.
type Film struct {
	Key      *Key   `json:"key,omitempty"`      // the colour that is taken out of films here
	Fallback string `json:"fallback,omitempty"` // picture for a film that does not load, on the shelf
}

// Key is a colour that is taken out of a film, with how near to it counts.
type Key struct {
	Colour    string  `json:"colour"`                                               // "#rrggbb"
	Tolerance float64 `json:"tolerance,omitempty" jsonschema:"minimum=0,maximum=1"` // distance in chroma that is taken out whole, of 1; 0 is 0.18
	Edge      float64 `json:"edge,omitempty" jsonschema:"minimum=0,maximum=1"`      // and over which it fades; 0 is 0.08
	Spill     float64 `json:"spill,omitempty" jsonschema:"minimum=0,maximum=1"`     // how much of its tint is taken from what stays; 0 is 0.9
}

var film = Spec{New: func() Does { return &Film{} }, Title: "Film", At: At{66, 5, 31, 31}, Takes: "film"}

// Kind is the name of it.
func (*Film) Kind() Kind { return KindFilm }

// Check reports what cannot stand.
func (f *Film) Check(fault func(at, what, remedy string)) {
	if f.Key != nil {
		f.Key.Check(func(at, what, remedy string) { fault("key."+at, what, remedy) })
	}
}

// Check reports what cannot be.
func (k *Key) Check(fault func(at, what, remedy string)) {
	if k.Colour == "" {
		fault("colour", "is missing", "choose the colour that is taken out")
	}
	colour("colour", k.Colour, fault)
	within("tolerance", k.Tolerance, 0.01, 1, "", fault)
	within("edge", k.Edge, 0.01, 1, "", fault)
	within("spill", k.Spill, 0.01, 1, "", fault)
}

// Shows is nothing: films are released one by one.
func (*Film) Shows(string, Facts) any { return nil }

// Media is the picture for a film that does not load.
func (f *Film) Media() []string { return []string{f.Fallback} }
