package output

import (
	"fmt"
	"strings"

	"vividporch/core/who"
)

// KindLamp is the name of it.
const KindLamp Kind = "lamp"

// Lamp lights a lamp.
type Lamp struct {
	Fitting string  `json:"fitting,omitempty"`                                     // the lamp
	Colour  string  `json:"colour,omitempty"`                                      // "#rrggbb"
	Seconds float64 `json:"seconds,omitempty" jsonschema:"minimum=0,maximum=3600"` // how long
}

var lamp = Spec{New: func() Does { return &Lamp{} }, Way: ToFitting, Done: "lit", Fitting: Lights}

// Kind is the name of it.
func (*Lamp) Kind() Kind { return KindLamp }

// Says tells what it does.
func (l *Lamp) Says(n who.Names) string { return "light " + n.OfFitting(l.Fitting) }

// FittingName is the lamp.
func (l *Lamp) FittingName() string { return l.Fitting }

// Check reports what is no colour.
func (l *Lamp) Check(_ *Output, _ In, fault func(at, what, remedy string)) {
	if len(l.Colour) != 7 || l.Colour[0] != '#' || strings.Trim(strings.ToLower(l.Colour[1:]), "0123456789abcdef") != "" {
		fault("colour", fmt.Sprintf("%q is no colour", l.Colour), `write it as "#rrggbb"`)
	}
	lasts(l.Seconds, fault)
}

// Tell is the colour, and how long.
func (l *Lamp) Tell(Telling) any { return &Lamp{Colour: l.Colour, Seconds: l.Seconds} }

// Gist is the colour.
func (l *Lamp) Gist() string { return l.Colour }

// Coming says what it is while it is coming up.
func (l *Lamp) Coming() string { return "lights " + l.Colour }
