package output

import (
	"slices"

	"vividporch/core/event"
	"vividporch/core/who"
)

// KindDraw is the name of it.
const KindDraw Kind = "draw"

// Draw asks for something of a draw: it is opened under terms that are kept ready, closed, drawn or called off.
type Draw struct {
	Act   string `json:"act,omitempty" jsonschema:"enum=open,enum=close,enum=draw,enum=cancel"`
	Ready string `json:"ready,omitempty"` // the name of the terms; what stands behind a command is the prize then
}

var draw = Spec{New: func() Does { return &Draw{} }, Way: BackIn}

// drawActs is what an output can ask of a draw.
var drawActs = []string{event.DrawOpen, event.DrawClose, event.DrawDraw, event.DrawCancel}

// Kind is the name of it.
func (*Draw) Kind() Kind { return KindDraw }

// Says tells what it does.
func (d *Draw) Says(who.Names) string {
	switch d.Act {
	case event.DrawOpen:
		return "open the draw " + d.Ready
	case event.DrawClose:
		return "close the draw"
	case event.DrawCancel:
		return "call the draw off"
	}
	return "draw"
}

// Brings is what is asked of a draw.
func (d *Draw) Brings(b Bringing) (event.Data, string) {
	c := &event.DrawCalled{Act: d.Act, Ready: d.Ready, Member: b.Member}
	if b.Person.ID != "" && b.Member == "" {
		c.Person = &b.Person
	}
	switch d.Act {
	case event.DrawOpen:
		c.Prize = event.Cut(b.Rest, 120)
	case event.DrawCancel:
		if c.Reason = event.Cut(b.Rest, 200); c.Reason == "" {
			c.Reason = "called off in chat"
		}
	}
	return c, ""
}

// Check reports what is missing.
func (d *Draw) Check(_ *Output, _ In, fault func(at, what, remedy string)) {
	if !slices.Contains(drawActs, d.Act) {
		fault("act", "is not said", "use open, close, draw or cancel")
	}
	if d.Act == event.DrawOpen && d.Ready == "" {
		fault("ready", "is missing", "choose which of the draws that are kept ready it opens")
	}
}
