package box

import (
	"fmt"
	"slices"
	"strings"
)

// Overlay is a page that the streaming software lays over the picture, at a secret address of its own.
type Overlay struct {
	ID    string `json:"id" jsonschema:"minLength=1"`
	Title string `json:"title" jsonschema:"maxLength=60"`
	Wide  int    `json:"wide"` // in pixels, as the streaming software has it
	High  int    `json:"high"`
	Boxes []Box  `json:"boxes,omitempty"` // back to front

	Most        int      `json:"most,omitempty" jsonschema:"minimum=0,maximum=100"`        // so many wait in line; 0 is 20
	WaitSeconds float64  `json:"waitSeconds,omitempty" jsonschema:"minimum=0,maximum=600"` // and so long; 0 is 90
	Order       []string `json:"order,omitempty"`                                          // the whens that go first; none is [UsualOrder]
	Loudest     float64  `json:"loudest,omitempty" jsonschema:"minimum=-40,maximum=0"`     // what all sound is levelled to, in LUFS; 0 is -16
	Silent      bool     `json:"silent,omitempty"`                                         // it plays no sound
	Calm        bool     `json:"calm,omitempty"`                                           // nothing moves on it
}

// What holds where an overlay does not say.
const (
	UsualMost    = 20
	UsualWait    = 90  // seconds
	UsualLoudest = -16 // LUFS: what EBU R 128 s2 recommends for streamed speech and music
)

// UsualOrder is what goes first in line where an overlay does not say: what is rare before what is not.
var UsualOrder = []string{"porch.raid.came", "porch.support.tipped", "day", "porch.support.gifted", "porch.support.subscribed", "porch.person.followed"}

// Most overlays and boxes.
const (
	MostOverlays = 20
	MostBoxes    = 40
)

// Sizes that an overlay may have, in pixels.
const (
	leastSide = 100
	mostSide  = 8192
)

// Check reports what keeps an overlay from being shown.
func (o *Overlay) Check(fault func(at, what, remedy string)) {
	(&Box{ID: o.ID, Title: o.Title, Do: &Rail{}, At: At{0, 0, 1, 1}}).Check(fault) // is called as boxes are
	if strings.TrimSpace(o.Title) == "" {
		fault("title", "is empty", "give the overlay a name")
	}
	if o.Wide < leastSide || o.High < leastSide || o.Wide > mostSide || o.High > mostSide {
		fault("wide", fmt.Sprintf("%d × %d is no size of an overlay", o.Wide, o.High), "use 100 to 8192 pixels each way, as in your streaming software")
	}
	if len(o.Boxes) > MostBoxes {
		fault("boxes", "are too many", fmt.Sprintf("keep at most %d", MostBoxes))
	}
	within("most", float64(o.Most), 1, 100, "cards", fault)
	within("waitSeconds", o.WaitSeconds, 5, 600, "seconds", fault)
	within("loudest", o.Loudest, -40, -5, "LUFS", fault)
	seen := map[string]bool{}
	for i := range o.Boxes {
		b, at := &o.Boxes[i], fmt.Sprintf("boxes.%d.", i)
		b.Check(func(in, what, remedy string) { fault(at+in, what, remedy) })
		if seen[b.ID] {
			fault(at+"id", "stands twice", "give each box of an overlay an id of its own")
		}
		seen[b.ID] = true
	}
}

// Box finds the box that an output is shown in: the one it names, else the first that takes it. What is switched
// off takes nothing.
func (o *Overlay) Box(named, effect string) *Box {
	i := slices.IndexFunc(o.Boxes, func(b Box) bool {
		return !b.Off && Of(b.Kind()).Takes == effect && (named == "" || named == b.ID)
	})
	if i < 0 {
		return nil
	}
	return &o.Boxes[i]
}
