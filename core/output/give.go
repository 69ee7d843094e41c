package output

import "vividporch/core/who"

// KindGive is the name of it.
const KindGive Kind = "give"

// Give gives points of whoever asks to whoever is named: as many as stand behind the name.
type Give struct {
	Most int64 `json:"most,omitempty" jsonschema:"minimum=0,maximum=1000000000"` // at once; 0 is as many as they have
}

var give = Spec{New: func() Does { return &Give{} }, Way: Within}

// Kind is the name of it.
func (*Give) Kind() Kind { return KindGive }

// Says tells what it does.
func (*Give) Says(who.Names) string { return "give points of theirs to somebody" }

// Concerns whoever is named.
func (*Give) Concerns() bool { return true }

// Check reports what is out of range.
func (g *Give) Check(_ *Output, _ In, fault func(at, what, remedy string)) {
	if g.Most < 0 || g.Most > MostCost {
		fault("most", "is out of range", "use 1 to 1000000000 points, or none for no bound")
	}
}
