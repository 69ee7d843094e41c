package output

import (
	"vividporch/core/box"
	"vividporch/core/who"
)

// KindCard is the name of it.
const KindCard Kind = "card"

// Card is shown on the overlay. Its alternatives are its heading.
type Card struct {
	Second  string  `json:"second,omitempty"`                                      // its second line, a wording
	Media   string  `json:"media,omitempty"`                                       // what it shows, by its name on the shelf
	Seconds float64 `json:"seconds,omitempty" jsonschema:"minimum=0,maximum=3600"` // how long it stays
	OnScreen
	Style *box.Style `json:"style,omitempty"` // where it is to look other than its box has it

	Clip        bool    `json:"clip,omitempty"`                                           // it shows a clip of whoever it is about, where there is one
	ClipSeconds float64 `json:"clipSeconds,omitempty" jsonschema:"minimum=0,maximum=120"` // that is not longer; 0 is 30
}

var card = Spec{New: func() Does { return &Card{} }, Way: ToOverlay, Worded: true, Joins: true}

// Kind is the name of it.
func (*Card) Kind() Kind { return KindCard }

// Says tells what it does.
func (*Card) Says(who.Names) string { return "show a card" }

// Towards says where its words go.
func (*Card) Towards(who.Names) string { return "the overlay" }

// MediaName is what it shows.
func (c *Card) MediaName() string { return c.Media }

// Wordings is its second line.
func (c *Card) Wordings() map[string]string {
	if c.Second == "" {
		return nil
	}
	return map[string]string{"second": c.Second}
}

// Check reports what is out of range.
func (c *Card) Check(_ *Output, _ In, fault func(at, what, remedy string)) {
	if c.ClipSeconds < 0 || c.ClipSeconds > 120 {
		fault("clipSeconds", "is out of range", "use 1 to 120 seconds")
	}
	if lasts(c.Seconds, fault); c.Style != nil {
		c.Style.Check(func(at, what, remedy string) { fault("style."+at, what, remedy) })
	}
}

// Tell is the card with its second line filled in.
func (c *Card) Tell(t Telling) any {
	told := *c
	told.Second = t.Words["second"]
	return &told
}

// Gist is what it shows.
func (c *Card) Gist() string { return c.Media }

// Texts is its second line.
func (c *Card) Texts() []*string { return []*string{&c.Second} }

// Reworded is the card with another second line.
func (c *Card) Reworded(own map[string]string) Does {
	next := *c
	next.Second = own["second"]
	return &next
}
