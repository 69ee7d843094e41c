package output

import (
	"maps"
	"slices"
	"strings"

	"vividporch/core/who"
)

// KindRaise is the name of it.
const KindRaise Kind = "raise"

// Raise makes an event of the channel's own, which is lived right after.
type Raise struct {
	Event  string            `json:"event,omitempty"`  // its name
	Fields map[string]string `json:"fields,omitempty"` // and its fields, as wordings
}

var raise = Spec{New: func() Does { return &Raise{} }, Way: BackIn}

// Kind is the name of it.
func (*Raise) Kind() Kind { return KindRaise }

// Says tells what it does.
func (r *Raise) Says(who.Names) string { return "raise " + r.Event }

// Wordings are its fields.
func (r *Raise) Wordings() map[string]string {
	out := map[string]string{}
	for _, k := range slices.Sorted(maps.Keys(r.Fields)) {
		out["fields."+k] = r.Fields[k]
	}
	return out
}

// Check reports an event without a name.
func (r *Raise) Check(_ *Output, _ In, fault func(at, what, remedy string)) {
	if r.Event == "" || len(r.Event) > 80 {
		fault("event", "is missing or too long", "name the event in at most 80 letters")
	}
}

// Reworded is the event with other fields.
func (r *Raise) Reworded(own map[string]string) Does {
	next := Raise{Event: r.Event}
	for at, src := range own {
		if name, ok := strings.CutPrefix(at, "fields."); ok {
			if next.Fields == nil {
				next.Fields = map[string]string{}
			}
			next.Fields[name] = src
		}
	}
	return &next
}
