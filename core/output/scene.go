package output

import (
	"fmt"
	"slices"
	"strings"

	"vividporch/core/who"
)

// KindScene is the name of it.
const KindScene Kind = "scene"

// Scene goes to a scene of the streaming software.
type Scene struct {
	Fitting string `json:"fitting,omitempty"` // that has the scenes
	Scene   string `json:"scene,omitempty"`
}

var scene = Spec{New: func() Does { return &Scene{} }, Way: ToFitting, Done: "gone to", Fitting: Scenes}

// Kind is the name of it.
func (*Scene) Kind() Kind { return KindScene }

// Says tells what it does.
func (s *Scene) Says(who.Names) string { return "go to " + s.Scene }

// FittingName is what has the scenes.
func (s *Scene) FittingName() string { return s.Fitting }

// Check reports a scene that is not there.
func (s *Scene) Check(_ *Output, in In, fault func(at, what, remedy string)) {
	if !slices.Contains(in.Scenes[s.Fitting], s.Scene) {
		fault("scene", fmt.Sprintf("there is no scene %q", s.Scene), "use one of: "+strings.Join(in.Scenes[s.Fitting], ", "))
	}
}

// Tell is the scene.
func (s *Scene) Tell(Telling) any { return &Scene{Scene: s.Scene} }

// Gist is the scene.
func (s *Scene) Gist() string { return s.Scene }

// Coming says what it is while it is coming up.
func (s *Scene) Coming() string { return "goes to " + s.Scene }
