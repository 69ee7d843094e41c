package onemore_test

import (
	"vividporch/core/event"
	"vividporch/core/happening"
)

// TideTurned: somebody at the sluice saw the tide turn, at a height in centimetres.
type TideTurned struct {
	Person event.Person `json:"person"`
	Height int64        `json:"height"`
}

func (t *TideTurned) Who() *event.Person { return &t.Person }
func (*TideTurned) Type() string         { return "porch.tide.turned" }
func (t *TideTurned) Validate() error {
	return event.FirstOf(t.Person.Validate("data.person"), event.AtLeast("height", t.Height, 0))
}

var tideTurned = &happening.Happening{Data: func() event.Data { return &TideTurned{} }, Words: "a turn of the tide", Reason: "the tide turned",
	Slots:   []happening.Slot{happening.Thanks, happening.Free},
	Numbers: []happening.Number{happening.Whole("height", func(t *TideTurned) int64 { return t.Height })},
	FillIns: []happening.FillIn{happening.Count("height", "how high, in centimetres", "310", func(t *TideTurned) int64 { return t.Height })},
	Entry:   happening.Happened(func(t *TideTurned) string { return "saw the tide turn" }),
	Book:    happening.Book{Visit: true}}
