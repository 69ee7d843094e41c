package happening

import (
	"vividporch/core/event"
	"vividporch/core/plain"
)

// DrawReminded: a draw has been open for a while, and is told of again; with a hint where one is due.
type DrawReminded struct {
	DrawTold
	Hint    string `json:"hint,omitempty"`
	Minutes int64  `json:"left,omitempty"` // until it closes by itself
}

// DrawRemindedType is the type of it.
const DrawRemindedType = "porch.draw.reminded"

func (*DrawReminded) Type() string { return DrawRemindedType }

var drawReminded = &Happening{Data: func() event.Data { return &DrawReminded{} }, Within: true, Words: "a reminder of a draw", Verb: "Tell of ", Slots: []Slot{Free}, Frame: OfStream, Reason: "a draw is open",
	Starters: []string{"{entries, plural, =0 {Nobody is in yet} one {One is in} other {# are in}} for {prize}.{hasHint, select, yes { A hint: {hint}} other {}}{hasWord, select, yes { Say {word} to be in.} other {}}{hasQuestion, select, yes { {question}} other {}}", "Still open: {prize}.{hasHint, select, yes { A hint: {hint}} other {}}{hasWord, select, yes { Say {word} to be in.} other {}}{hasQuestion, select, yes { {question}} other {}}", "{hasHint, select, yes {A hint: {hint}} other {The draw for {prize} is still open.}}{hasWord, select, yes { Say {word} to be in.} other {}}{hasQuestion, select, yes { {question}} other {}}"},
	Told:     "{channel}: the draw for {prize} is still open",
	FillIns: drawFillIns(Says("hint", "the hint, when it is due", "It has more of them than a hand", func(d *DrawReminded) string { return plain.Text(d.Hint) }),
		Count("minutesLeft", "in how many minutes it closes by itself; 0 where it is closed by hand", "3", func(d *DrawReminded) int64 { return d.Minutes }))}
