package happening

import "vividporch/core/event"

// DrawClosed: nobody can enter a draw any more; its list and its secret are published.
type DrawClosed struct{ DrawTold }

// DrawClosedType is the type of it.
const DrawClosedType = "porch.draw.closed"

func (*DrawClosed) Type() string { return DrawClosedType }

var drawClosed = &Happening{Data: func() event.Data { return &DrawClosed{} }, Within: true, Words: "the closing of a draw", Verb: "Tell of ", Slots: []Slot{Free}, Frame: OfStream, Reason: "a draw was closed",
	Starters: []string{"The draw for {prize} is closed, with {entries, plural, one {one} other {#}} in it.{hasChecked, select, yes { Anyone can check it: {checked}} other {}}", "That is the list: {entries, plural, one {one entry} other {# entries}} for {prize}.{hasChecked, select, yes { Anyone can check it: {checked}} other {}}", "No more entries for {prize}: {entries, plural, one {one is} other {# are}} in.{hasChecked, select, yes { Anyone can check it: {checked}} other {}}"},
	Told:     "{channel}: the draw for {prize} is closed, with {entries, plural, one {# entry} other {# entries}}", FillIns: drawFillIns(), Entry: aboutDraw("The draw is closed")}
