package output

import "vividporch/core/who"

// KindAlong is the name of it.
const KindAlong Kind = "along"

// Along notes who streams along this evening, as the line that asks for it says.
type Along struct{}

var along = Spec{New: func() Does { return &Along{} }, Way: Within}

// Kind is the name of it.
func (*Along) Kind() Kind { return KindAlong }

// Says tells what it does.
func (*Along) Says(who.Names) string { return "note who streams along" }

// Check reports a when that says nobody.
func (*Along) Check(_ *Output, in In, fault func(at, what, remedy string)) {
	if in.When != "command" {
		fault("kind", "nobody is named there", "use it on a command: what stands behind it is who streams along")
	}
}
