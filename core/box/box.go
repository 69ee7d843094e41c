// Package box is the catalogue of everything that can be shown on an overlay: one file a kind. An [Overlay] is a page
// of its own that the streaming software lays over the picture; on it stand boxes, each with a place in per cent
// of the page and, in Do, the settings of its kind, which know how to check themselves and what they show of
// what is known of the channel.
//
// Whoever adds a kind writes its file and its line in [Catalogue], and what draws it on the page. In a house file
// a box is one flat object, its "kind" beside the settings of that kind.
package box

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"vividporch/core/flat"
)

// Catalogue is everything that can stand on an overlay, in the order in which it is offered.
var Catalogue = []Spec{cards, film, lines, goal, count, last, rail, countdown, emotes}

// Kind is the name of a sort of box.
type Kind string

// Spec is what is known of a kind whatever its settings.
type Spec struct {
	New   func() Does // its settings, empty
	Title string      // what a new one is called
	At    At          // where a new one stands
	Off   bool        // and is switched off until somebody wants it
	Takes string      // the output that is shown in it: "card", "film"; "" for none
}

// At is where a box stands, in per cent of its overlay from its upper left corner.
type At struct {
	Left float64 `json:"left" jsonschema:"minimum=0,maximum=100"`
	Top  float64 `json:"top" jsonschema:"minimum=0,maximum=100"`
	Wide float64 `json:"wide" jsonschema:"minimum=1,maximum=100"`
	High float64 `json:"high" jsonschema:"minimum=1,maximum=100"`
}

// Least is how small a box may be, in per cent of its overlay.
const Least = 1

// Box is one thing shown on an overlay, and where. Later ones stand in front.
type Box struct {
	ID     string `json:"id" jsonschema:"minLength=1"` // what outputs name it by; those of one id on several overlays show the same
	Title  string `json:"title,omitempty" jsonschema:"maxLength=60"`
	Do     Does   `json:"-"` // the settings of its kind
	Locked bool   `json:"locked,omitempty"`
	Off    bool   `json:"off,omitempty"` // it is not shown
	At

	unknown Kind // of a newer house
}

// Does is the settings of a box of one kind.
type Does interface {
	Kind() Kind
	// Check reports what cannot stand; at is a field of the box.
	Check(fault func(at, what, remedy string))
	// Shows is what stands in it now, as it goes to the page; nil where that is told as it comes.
	Shows(id string, f Facts) any
}

// Facts is what is known of the channel, as boxes ask for it.
type Facts interface {
	// Reached is how far something has come that is counted, of a box's own start.
	Reached(c Counted) float64
	// Last is who did something last, and how much it was.
	Last(kind string) (name, much string)
	// Lit are tonight's people in the order in which they came, the earliest left out when they are too many.
	Lit(most int) (lights []Light, more int)
	// Clock is how a countdown stands.
	Clock(id string) Clock
}

// Light is somebody who is here tonight.
type Light struct {
	Name  string `json:"name"`
	Shape string `json:"shape"` // beside their hook: seed, leaf, ring, moon, sail, wave
}

// Clock is how a countdown stands: it runs until Ends, or is stopped with Left to go.
type Clock struct {
	Ends time.Time
	Left time.Duration
	Runs bool
}

// Fresh is a new box of a kind, called by the kind until somebody calls it something else.
func (s *Spec) Fresh() Box {
	does := s.New()
	return Box{ID: strings.ReplaceAll(string(does.Kind()), " ", "-"), Do: does, At: s.At, Off: s.Off}
}

// Kind is the name of its kind; "" where it has none.
func (b *Box) Kind() Kind {
	if b.Do == nil {
		return b.unknown
	}
	return b.Do.Kind()
}

// Media are the files on the shelf that a box shows.
func (b *Box) Media() []string {
	if x, ok := b.Do.(interface{ Media() []string }); ok {
		return slices.DeleteFunc(x.Media(), func(name string) bool { return name == "" })
	}
	return nil
}

// Called is what a box is called on the screen.
func (b *Box) Called() string {
	if b.Title != "" {
		return b.Title
	}
	return Of(b.Kind()).Title
}

// Check reports what keeps a box from standing.
func (b *Box) Check(fault func(at, what, remedy string)) {
	switch at := b.At; {
	case b.ID == "" || len(b.ID) > mostID || strings.ContainsFunc(b.ID, func(r rune) bool { return r != '-' && (r < '0' || r > '9') && (r < 'a' || r > 'z') }):
		fault("id", fmt.Sprintf("%q is no id of a box", b.ID), fmt.Sprintf("use at most %d small letters, digits and dashes", mostID))
	case Of(b.Kind()).New == nil:
		fault("kind", fmt.Sprintf("%q is no kind of box", b.Kind()), "use "+strings.Join(kinds(), ", "))
	case at.Left < 0 || at.Top < 0 || at.Wide < Least || at.High < Least || at.Left+at.Wide > 100+rounding || at.Top+at.High > 100+rounding:
		fault("left", "reaches over the edge", "keep the box within 0 and 100 per cent of its overlay, at least 1 wide and high")
	case len([]rune(b.Title)) > mostTitle:
		fault("title", "is too long", fmt.Sprintf("use at most %d letters", mostTitle))
	default:
		b.Do.Check(fault)
	}
}

// Limits of what a box is called, in bytes and letters.
const (
	mostID    = 40
	mostTitle = 60
)

// rounding is by how many per cent a box may reach over the edge for having been moved in steps.
const rounding = 0.01

var index = map[Kind]Spec{}

func init() {
	for _, s := range Catalogue {
		index[s.New().Kind()] = s
	}
}

// Of is what is known of a kind; nothing of one that is in no catalogue.
func Of(kind Kind) Spec { return index[kind] }

func kinds() []string {
	var out []string
	for _, s := range Catalogue {
		out = append(out, string(s.New().Kind()))
	}
	return out
}

// plain is a box without its own ways to be written and read.
type plain Box

// written is a box in a house file, but for the settings of its kind.
type written struct {
	Kind Kind `json:"kind"`
	*plain
}

// MarshalJSON writes a box as one flat object.
func (b Box) MarshalJSON() ([]byte, error) {
	all, err := json.Marshal(written{b.Kind(), (*plain)(&b)})
	if err != nil || b.Do == nil {
		return all, err
	}
	mine, err := json.Marshal(b.Do)
	return flat.Join(all, mine), err
}

// UnmarshalJSON reads a box.
func (b *Box) UnmarshalJSON(raw []byte) error {
	*b = Box{}
	in := written{plain: (*plain)(b)}
	if err := json.Unmarshal(raw, &in); err != nil {
		return err
	}
	spec := Of(in.Kind)
	if spec.New == nil {
		b.unknown = in.Kind
		return nil
	}
	b.Do = spec.New()
	return json.Unmarshal(raw, b.Do)
}

// one checks that a word is one of a few; none is the first.
func one(at, word string, of []string, fault func(at, what, remedy string)) {
	if word != "" && !slices.Contains(of, word) {
		fault(at, fmt.Sprintf("%q cannot be chosen", word), "use "+strings.Join(of, ", "))
	}
}

// within checks that a number is within bounds; 0 is the usual one.
func within(at string, n, least, most float64, unit string, fault func(at, what, remedy string)) {
	if n != 0 && (n < least || n > most) {
		fault(at, "is out of range", fmt.Sprintf("use %g to %g %s", least, most, unit))
	}
}

// colour checks a colour; none is the usual one.
func colour(at, c string, fault func(at, what, remedy string)) {
	ok := len(c) == len("#rrggbb") && c[0] == '#' && strings.Trim(c[1:], "0123456789abcdefABCDEF") == ""
	if c != "" && !ok {
		fault(at, fmt.Sprintf("%q is no colour", c), "use one like #f8a81c")
	}
}
