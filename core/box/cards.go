package box

// KindCards is the name of it.
const KindCards Kind = "cards"

// Cards shows cards, one at a time.
type Cards struct {
	Style
	Seconds float64 `json:"seconds,omitempty" jsonschema:"minimum=0,maximum=60"` // how long a card stays that does not say; 0 is 8
	Without string  `json:"without,omitempty" jsonschema:"enum=theirs,enum=picture,enum=film,enum=lantern"`
	Picture string  `json:"picture,omitempty"` // the channel's, on the shelf
	Film    string  `json:"film,omitempty"`    // likewise
}

var cards = Spec{New: func() Does { return &Cards{} }, Title: "Cards", At: At{3, 5, 46, 35}, Takes: "card"}

// UsualSeconds is how long a card stays that nothing else is said of.
const UsualSeconds = 8

// What a card shows of somebody who has no media of their own: the picture their platform has of them, the channel's
// picture or film, or their lantern.
var withouts = []string{"theirs", "picture", "film", "lantern"}

// Style is how a card looks and moves. What is left out is as the box has it, and there as is usual.
type Style struct {
	Look  string  `json:"look,omitempty" jsonschema:"enum=hung lantern,enum=glass slide,enum=tide line"`
	Size  float64 `json:"size,omitempty" jsonschema:"minimum=0,maximum=200"` // of the heading, in pixels of the overlay; 0 is 60
	Board string  `json:"board,omitempty"`                                   // colours, "#rrggbb": what words stand on
	Words string  `json:"words,omitempty"`
	Light string  `json:"light,omitempty"` // what stands out
	Comes string  `json:"comes,omitempty" jsonschema:"enum=is hung,enum=drifts in,enum=is there,enum=rises with the tide,enum=swings round,enum=is lit"`
	Goes  string  `json:"goes,omitempty" jsonschema:"enum=is dimmed,enum=drifts off,enum=is gone"`
}

// The looks of a card and its motions, the usual one first.
var (
	Looks = []string{"hung lantern", "glass slide", "tide line"}
	Comes = []string{"is hung", "drifts in", "is there", "rises with the tide", "swings round", "is lit"}
	Goes  = []string{"is dimmed", "drifts off", "is gone"}
)

// Check reports what cannot be.
func (s *Style) Check(fault func(at, what, remedy string)) {
	one("look", s.Look, Looks, fault)
	one("comes", s.Comes, Comes, fault)
	one("goes", s.Goes, Goes, fault)
	within("size", s.Size, 12, 200, "pixels", fault)
	colour("board", s.Board, fault)
	colour("words", s.Words, fault)
	colour("light", s.Light, fault)
}

// Kind is the name of it.
func (*Cards) Kind() Kind { return KindCards }

// Check reports what cannot stand.
func (c *Cards) Check(fault func(at, what, remedy string)) {
	c.Style.Check(fault)
	one("without", c.Without, withouts, fault)
	within("seconds", c.Seconds, 1, 60, "seconds", fault)
	if c.Without == "picture" && c.Picture == "" {
		fault("picture", "is missing", "choose the channel's picture from the shelf")
	}
	if c.Without == "film" && c.Film == "" {
		fault("film", "is missing", "choose the channel's film from the shelf")
	}
}

// Shows is nothing: cards are released one by one.
func (*Cards) Shows(string, Facts) any { return nil }

// Media are the files that stand beside the words of people without any of their own.
func (c *Cards) Media() []string { return []string{c.Picture, c.Film} }
