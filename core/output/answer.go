package output

import (
	"fmt"

	"vividporch/core/who"
)

// KindAnswer is the name of it.
const KindAnswer Kind = "answer"

// Answer does what a command does, by reference: changed once, it is said everywhere. Whoever
// may ask for the command, and whether it rests, does not matter to the house.
type Answer struct {
	Of string `json:"of,omitempty"` // id of the command
}

var answer = Spec{New: func() Does { return &Answer{} }, Way: Within}

// Kind is the name of it.
func (*Answer) Kind() Kind { return KindAnswer }

// Says tells what it does.
func (a *Answer) Says(who.Names) string { return "do what “" + a.Of + "” does" }

// Check reports a command that is not there.
func (a *Answer) Check(_ *Output, in In, fault func(at, what, remedy string)) {
	if !in.Commands[a.Of] {
		fault("of", fmt.Sprintf("%q is no command", a.Of), "name the id of one of your commands")
	}
}
