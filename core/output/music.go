package output

import (
	"fmt"
	"slices"
	"time"

	"vividporch/core/who"
)

// KindMusic is the name of it.
const KindMusic Kind = "music"

// Music works the player on the streaming computer: it pauses, goes on or gets softer, and after so long is as it was.
type Music struct {
	Fitting string  `json:"fitting,omitempty"` // the player
	Act     string  `json:"act,omitempty" jsonschema:"enum=pause,enum=go on,enum=softer"`
	Percent int     `json:"percent,omitempty" jsonschema:"minimum=0,maximum=100"`  // softer: how loud it still is, of what it was; 0 is 40
	Seconds float64 `json:"seconds,omitempty" jsonschema:"minimum=0,maximum=3600"` // of a pause, and of getting softer; 0 is until somebody says otherwise
}

// What a player can be had to do with its music.
const (
	Pause  = "pause"
	GoOn   = "go on"
	Softer = "softer"
)

// MusicActs are what a player can be had to do with its music.
var MusicActs = []string{Pause, GoOn, Softer}

const usualSofter = 40 // percent

var music = Spec{New: func() Does { return &Music{} }, Way: ToFitting, Done: "done", Fitting: Player}

// Kind is the name of it.
func (*Music) Kind() Kind { return KindMusic }

// Says tells what it does.
func (m *Music) Says(n who.Names) string {
	switch m.Act {
	case Pause:
		return "pause " + n.OfFitting(m.Fitting)
	case Softer:
		return "make " + n.OfFitting(m.Fitting) + " softer"
	}
	return "let " + n.OfFitting(m.Fitting) + " go on"
}

// FittingName is the player.
func (m *Music) FittingName() string { return m.Fitting }

// Manner is what of the things that players do it is.
func (m *Music) Manner() string { return m.Act }

// Lasts is after how long it is as it was; 0 is never.
func (m *Music) Lasts() time.Duration { return time.Duration(m.Seconds * float64(time.Second)) }

// Check reports what no player does.
func (m *Music) Check(_ *Output, in In, fault func(at, what, remedy string)) {
	if !slices.Contains(MusicActs, m.Act) {
		fault("act", fmt.Sprintf("%q is nothing a player does", m.Act), "use pause, go on or softer")
		return
	}
	if m.Percent < 0 || m.Percent > 100 {
		fault("percent", "is out of range", "use 1 to 100")
	}
	lasts(m.Seconds, fault)
	if m.Act == GoOn && m.Seconds != 0 {
		fault("seconds", "says when it stops again, which going on does not", "leave it out")
	}
	in.cannot(m.Fitting, m.Act, fault)
}

// Tell is what it does, how soft and how long.
func (m *Music) Tell(Telling) any {
	told := &Music{Act: m.Act, Seconds: m.Seconds}
	if m.Act == Softer {
		if told.Percent = m.Percent; told.Percent == 0 {
			told.Percent = usualSofter
		}
	}
	return told
}

// Gist is what it does.
func (m *Music) Gist() string { return m.Act }

// Coming says what it is while it is coming up.
func (m *Music) Coming() string {
	return map[string]string{Pause: "pauses the music", GoOn: "lets the music go on", Softer: "makes the music softer"}[m.Act]
}
