package output_test

import (
	"encoding/json"
	"math/rand/v2"
	"slices"
	"testing"
	"time"

	"vividporch/core/output"
)

func TestALampThatKnowsColoursAloneFlashesPulsesAndRunsThroughThem(t *testing.T) {
	for name, c := range map[string]struct {
		lamp output.Lamp
		want []output.Glow
	}{
		"lit for good": {output.Lamp{Colour: "#ff8000"}, []output.Glow{{Colour: "#ff8000"}}},
		"flashing": {output.Lamp{Colour: "#ff8000", How: output.Flash, Every: 1, Seconds: 1.75}, []output.Glow{{"#ff8000", 500 * time.Millisecond}, {"#000000", 500 * time.Millisecond},
			{"#ff8000", 500 * time.Millisecond}, {"#000000", 250 * time.Millisecond}}},
		"pulsing": {output.Lamp{Colour: "#64c800", How: output.Pulse, Every: 2, Seconds: 0.75}, []output.Glow{{"#64c800", 250 * time.Millisecond}, {"#57ae00", 250 * time.Millisecond}, {"#376e00", 250 * time.Millisecond}}},
		"a run":   {output.Lamp{Colours: []string{"#000001", "#000002"}, How: output.Run, Every: 1, Seconds: 2.5}, []output.Glow{{"#000001", time.Second}, {"#000002", time.Second}, {"#000001", 500 * time.Millisecond}}},
	} {
		t.Run(name, func(t *testing.T) {
			if got := c.lamp.Glows(); !slices.Equal(got, c.want) {
				t.Errorf("%v, want %v", got, c.want)
			}
		})
	}
}

// Whatever a lamp is set to: it takes as long as it should, and nothing comes quicker than a lamp over a network takes it, or
// than eyes bear it.
func TestGlowsTakeTheirTimeAndNoMore(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	for range 500 {
		l := output.Lamp{Colour: "#ff8000", How: []string{output.Flash, output.Pulse, output.Run}[r.IntN(3)], Seconds: 0.1 + r.Float64()*20, Every: r.Float64() * 5}
		if l.How == output.Run {
			l.Colours = []string{"#000001", "#000002", "#000003"}[:2+r.IntN(2)]
		}
		var all time.Duration
		glows := l.Glows()
		for i, g := range glows {
			if all += g.For; g.For < 249*time.Millisecond && i < len(glows)-1 {
				t.Fatalf("%+v: one of %v", l, g.For)
			}
			if l.How == output.Flash && g.For < 333*time.Millisecond && i < len(glows)-1 {
				t.Fatalf("%+v flashes within %v", l, g.For)
			}
		}
		if d := all - l.Lasts(); d < -time.Millisecond || d > time.Millisecond {
			t.Fatalf("%+v takes %v", l, all)
		}
	}
}

func TestWhatNoLampAndNoPlayerDoesIsNamed(t *testing.T) {
	in := output.In{When: "arrival", World: here}
	in.FittingCannot = func(fitting, manner string) string {
		if manner == output.Softer {
			return "The player cannot get softer"
		}
		return ""
	}
	for file, want := range map[string][]string{
		`{"id":"a","kind":"lamp","fitting":"bench","colour":"#ff8000","how":"flash"}`:                                {"seconds"},
		`{"id":"a","kind":"lamp","fitting":"bench","colour":"#ff8000","how":"flash","seconds":5,"everySeconds":0.3}`: {"everySeconds"},
		`{"id":"a","kind":"lamp","fitting":"bench","colour":"#ff8000","how":"strobe","seconds":5}`:                   {"how"},
		`{"id":"a","kind":"lamp","fitting":"bench","how":"run","colours":["#ff8000"],"seconds":5}`:                   {"colours"},
		`{"id":"a","kind":"lamp","fitting":"bench","how":"run","colours":["#ff8000","blue"],"seconds":5}`:            {"colours.1"},
		`{"id":"a","kind":"music","fitting":"player","act":"louder"}`:                                                {"act"},
		`{"id":"a","kind":"music","fitting":"player","act":"softer"}`:                                                {"fitting"},
		`{"id":"a","kind":"music","fitting":"player","act":"go on","seconds":3}`:                                     {"seconds"},
		`{"id":"a","kind":"music","fitting":"bench","act":"pause"}`:                                                  {"fitting"},
	} {
		var o output.Output
		if err := json.Unmarshal([]byte(file), &o); err != nil {
			t.Fatal(err)
		}
		var at []string
		o.Check(in, func(field, _, _ string) { at = append(at, field) })
		if !slices.Equal(at, want) {
			t.Errorf("%s: faults at %v, want %v", file, at, want)
		}
	}
}
