package happening

import "vividporch/core/event"

// DrawWon: somebody was drawn, or gave the right answer. Within Seconds they have to say something.
type DrawWon struct {
	by
	DrawTold
	Number  int64 `json:"number,omitempty"` // of their entry
	Seconds int64 `json:"seconds,omitempty"`
}

// Validate refuses one of nobody.
func (d *DrawWon) Validate() error { return event.FirstOf(d.by.Validate(), d.DrawTold.Validate()) }

// DrawWonType is the type of it.
const DrawWonType = "porch.draw.won"

func (*DrawWon) Type() string { return DrawWonType }

var drawWon = &Happening{Data: func() event.Data { return &DrawWon{} }, Within: true, Roomed: true, Words: "a win in a draw", Verb: "Tell of ", Slots: []Slot{Free}, Reason: "somebody was drawn",
	Starters: []string{"{name}, {prize} is yours!{seconds, plural, =0 {} other { Say something within # seconds.}}", "The tide brought up {name}: {prize}!{seconds, plural, =0 {} other { Are you here? You have # seconds.}}", "{prize} goes to {name}.{seconds, plural, =0 {} other { Speak up within # seconds!}}"},
	Told:     "{name} was drawn for {prize}",
	FillIns: drawFillIns(Count("number", "the number of their entry", "12", func(d *DrawWon) int64 { return d.Number }),
		Count("seconds", "within how many seconds they have to say something; 0 where they need not", "60", func(d *DrawWon) int64 { return d.Seconds })),
	Entry: Happened(func(d *DrawWon) string { return "was drawn for " + d.Prize() })}
