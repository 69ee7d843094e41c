package output

import (
	"vividporch/core/happening"
	"vividporch/core/who"
)

// KindShoutOut is the name of it.
const KindShoutOut Kind = "shout-out"

// ShoutOut runs whichever courtesy shouts this person out.
type ShoutOut struct{}

var shoutOut = Spec{New: func() Does { return &ShoutOut{} }, Way: Within}

// Kind is the name of it.
func (*ShoutOut) Kind() Kind { return KindShoutOut }

// Says tells what it does.
func (*ShoutOut) Says(who.Names) string { return "shout them out" }

// Concerns whoever is meant.
func (*ShoutOut) Concerns() bool { return true }

// Check reports a shout-out within a shout-out.
func (*ShoutOut) Check(_ *Output, in In, fault func(at, what, remedy string)) {
	if in.Slot == happening.ShoutOut {
		fault("kind", "this courtesy is a shout-out itself, and cannot have another one run", "say it here in a line of chat, or take the slot out")
	}
}
