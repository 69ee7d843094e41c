package output

import (
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"vividporch/core/who"
)

// KindLamp is the name of it.
const KindLamp Kind = "lamp"

// Lamp lights a lamp for so long, in one of several ways; then it goes back to what it was.
type Lamp struct {
	Fitting string   `json:"fitting,omitempty"`                                           // the lamp
	How     string   `json:"how,omitempty" jsonschema:"enum=flash,enum=pulse,enum=run"`   // none: it is lit and stays
	Colour  string   `json:"colour,omitempty"`                                            // "#rrggbb"
	Colours []string `json:"colours,omitempty"`                                           // of a run, one after the other
	Seconds float64  `json:"seconds,omitempty" jsonschema:"minimum=0,maximum=3600"`       // how long in all; 0 is for good
	Every   float64  `json:"everySeconds,omitempty" jsonschema:"minimum=0.25,maximum=60"` // a flash, a pulse or a colour of a run takes; 0 is [UsualEvery]
}

// The ways in which a lamp is lit, besides staying so.
const (
	Flash = "flash" // on and off
	Pulse = "pulse" // brighter and darker
	Run   = "run"   // through colours
)

// How a lamp moves. Flashes are no quicker than three in two seconds: more than three in one may harm people (WCAG 2.2,
// success criterion 2.3.1), and lamps are told over a network.
const (
	UsualEvery = 1.0 // seconds
	LeastFlash = 2.0 / 3
	leastEvery = 0.25
	mostEvery  = 60.0
	mostMoving = 300.0 // seconds that a lamp flashes, pulses or runs
	mostRun    = 12    // colours of a run
)

var lamp = Spec{New: func() Does { return &Lamp{} }, Way: ToFitting, Done: "lit", Fitting: Lights}

// Kind is the name of it.
func (*Lamp) Kind() Kind { return KindLamp }

// Says tells what it does.
func (l *Lamp) Says(n who.Names) string {
	verb := map[string]string{Flash: "flash ", Pulse: "pulse ", Run: "run colours over "}[l.How]
	if verb == "" {
		verb = "light "
	}
	return verb + n.OfFitting(l.Fitting)
}

// FittingName is the lamp.
func (l *Lamp) FittingName() string { return l.Fitting }

// Manner is what of the things that lamps do it is.
func (l *Lamp) Manner() string {
	if l.How == "" {
		return "light"
	}
	return l.How
}

// Lasts is after how long it goes back; 0 is never.
func (l *Lamp) Lasts() time.Duration { return time.Duration(l.Seconds * float64(time.Second)) }

// Check reports what is no colour, and what moves too quickly or for ever.
func (l *Lamp) Check(_ *Output, in In, fault func(at, what, remedy string)) {
	colour := func(at, c string) {
		if len(c) != 7 || c[0] != '#' || strings.Trim(strings.ToLower(c[1:]), "0123456789abcdef") != "" {
			fault(at, fmt.Sprintf("%q is no colour", c), `write it as "#rrggbb"`)
		}
	}
	switch l.How {
	case Run:
		if len(l.Colours) < 2 || len(l.Colours) > mostRun {
			fault("colours", "are too few or too many for a run", fmt.Sprintf("name 2 to %d", mostRun))
		}
		for i, c := range l.Colours {
			colour(fmt.Sprintf("colours.%d", i), c)
		}
	case "", Flash, Pulse:
		colour("colour", l.Colour)
	default:
		fault("how", fmt.Sprintf("%q is nothing a lamp does", l.How), "use flash, pulse or run, or leave it out")
	}
	lasts(l.Seconds, fault)
	if l.How == "" {
		return
	}
	if l.Seconds <= 0 || l.Seconds > mostMoving {
		fault("seconds", "is nothing for a lamp that moves", fmt.Sprintf("say for how long, up to %g seconds", mostMoving))
	}
	least := leastEvery
	if l.How == Flash {
		least = LeastFlash
	}
	if l.Every != 0 && (l.Every < least-0.01 || l.Every > mostEvery) {
		fault("everySeconds", "is out of range", fmt.Sprintf("use %.2g to %g seconds: quicker is hard on the eyes", least, mostEvery))
	}
	in.cannot(l.Fitting, l.How, fault)
}

// Tell is how it is lit, and how long.
func (l *Lamp) Tell(Telling) any {
	told := *l
	told.Fitting = ""
	if told.How != "" && told.Every == 0 {
		told.Every = UsualEvery
	}
	if told.How == Run && told.Colour == "" && len(told.Colours) > 0 { // for a lamp that has no more than one
		told.Colour = told.Colours[0]
	}
	return &told
}

// Gist is the colour.
func (l *Lamp) Gist() string {
	if l.How == Run {
		return strings.Join(l.Colours, " ")
	}
	return l.Colour
}

// Coming says what it is while it is coming up.
func (l *Lamp) Coming() string {
	return map[string]string{"": "lights ", Flash: "flashes ", Pulse: "pulses ", Run: "runs "}[l.How] + l.Gist()
}

// Glow is one colour of a lamp, for so long; the last one of a lamp that is lit for good has no end.
type Glow struct {
	Colour string
	For    time.Duration
}

// pulseSteps are how many brightnesses one pulse has; a lamp over a network takes about four a second.
const pulseSteps = 4

// Glows are the colours one after the other by which any lamp that knows but colours does the same.
func (l *Lamp) Glows() (out []Glow) {
	if l.How == "" {
		return []Glow{{l.Colour, l.Lasts()}}
	}
	every := l.Every
	if every == 0 {
		every = UsualEvery
	}
	step, colours := every, slices.Clone(l.Colours)
	switch l.How {
	case Flash:
		step, colours = max(every, LeastFlash)/2, []string{l.Colour, "#000000"}
	case Pulse:
		n := max(2, min(pulseSteps*int(math.Ceil(every)), int(every/leastEvery)))
		step, colours = every/float64(n), nil
		for i := range n {
			colours = append(colours, dimmed(l.Colour, 0.1+0.9*(1+math.Cos(2*math.Pi*float64(i)/float64(n)))/2))
		}
	}
	if len(colours) == 0 || step < leastEvery-0.01 {
		return []Glow{{l.Colour, l.Lasts()}}
	}
	one := time.Duration(step * float64(time.Second))
	for i, left := 0, l.Lasts(); left > 0; i++ {
		out = append(out, Glow{colours[i%len(colours)], min(one, left)})
		left -= one
	}
	return out
}

// dimmed is a colour at part of its brightness, 0 to 1.
func dimmed(colour string, part float64) string {
	var r, g, b int
	if n, _ := fmt.Sscanf(colour, "#%02x%02x%02x", &r, &g, &b); n != 3 {
		return colour
	}
	at := func(v int) int { return int(math.Round(float64(v) * part)) }
	return fmt.Sprintf("#%02x%02x%02x", at(r), at(g), at(b))
}
