package output

import "vividporch/core/who"

// KindKeep is the name of it.
const KindKeep Kind = "keep"

// Keep has a command answer what stands behind its name in the line that asks for it: by a change of
// the settings, as any other is.
type Keep struct{}

var keep = Spec{New: func() Does { return &Keep{} }, Way: Within}

// Kind is the name of it.
func (*Keep) Kind() Kind { return KindKeep }

// Says tells what it does.
func (*Keep) Says(who.Names) string { return "have a command answer what they write" }

// Check reports a when that says nothing.
func (*Keep) Check(_ *Output, in In, fault func(at, what, remedy string)) {
	if in.When != "command" {
		fault("kind", "nobody writes an answer there", "use it on a command: the name and the answer stand behind it")
	}
}
