package output

import (
	"fmt"

	"vividporch/core/who"
)

// KindRelay is the name of it.
const KindRelay Kind = "relay"

// Relay posts to a place.
type Relay struct {
	Place string `json:"place,omitempty"` // its name
}

var relay = Spec{New: func() Does { return &Relay{} }, Way: ToPlace, Worded: true}

// Kind is the name of it.
func (*Relay) Kind() Kind { return KindRelay }

// Says tells what it does.
func (r *Relay) Says(n who.Names) string { return "post to " + n.OfPlace(r.Place) }

// Towards says where its words go.
func (r *Relay) Towards(n who.Names) string { return n.OfPlace(r.Place) }

// PlaceName is where it is posted.
func (r *Relay) PlaceName() string { return r.Place }

// Check reports a place that is not there.
func (r *Relay) Check(_ *Output, in In, fault func(at, what, remedy string)) {
	if !in.Places[r.Place] {
		fault("place", fmt.Sprintf("there is no place %q", r.Place), "use the name of one of your places")
	}
}
