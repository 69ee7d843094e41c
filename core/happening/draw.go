package happening

import (
	"fmt"
	"strings"

	"vividporch/core/event"
	"vividporch/core/plain"
	"vividporch/core/wording"
)

// DrawTold is what every happening of a draw tells of it. The house tells of draws itself; nobody outside does.
type DrawTold struct {
	Draw    string   `json:"draw"`
	Prizes  []string `json:"prizes,omitempty"`  // all of it, or of somebody's what they won
	Word    string   `json:"word,omitempty"`    // enters
	Minutes float64  `json:"minutes,omitempty"` // of lately: who spoke within so many
	Ask     string   `json:"ask,omitempty"`     // the question, or what number is looked for
	Entries int64    `json:"entries"`           // so far
	Commit  string   `json:"commit,omitempty"`  // of the secret
}

// OfDraw is what it tells of a draw.
func (d *DrawTold) OfDraw() *DrawTold { return d }

// Validate refuses one of no draw.
func (d *DrawTold) Validate() error { return event.Filled("draw", d.Draw) }

// Prize is what is to be won, in words.
func (d *DrawTold) Prize() string {
	var said []string
	for i := 0; i < len(d.Prizes); {
		n := 1
		for i+n < len(d.Prizes) && d.Prizes[i+n] == d.Prizes[i] {
			n++
		}
		if p := plain.Text(d.Prizes[i]); n > 1 {
			said = append(said, fmt.Sprintf("%d × %s", n, p))
		} else {
			said = append(said, p)
		}
		i += n
	}
	return plain.List(said, "and")
}

// How is how one enters, in words: "!tide", "speaking within 10 minutes".
func (d *DrawTold) How() string {
	switch {
	case d.Word != "":
		return plain.Text(d.Word)
	case d.Minutes > 0:
		return "by speaking"
	}
	return ""
}

type drawn interface{ OfDraw() *DrawTold }

// drawFillIns are the fill-ins of every happening of a draw.
func drawFillIns(more ...FillIn) []FillIn {
	says := func(name, tells, example string, optional bool, of func(*DrawTold) string) FillIn {
		return FillIn{wording.FillIn{Name: name, Kind: wording.Text, Tells: tells, Example: example, Optional: optional},
			func(d event.Data) wording.Value { return wording.Str(of(d.(drawn).OfDraw())) }}
	}
	return append([]FillIn{
		says("prize", "what is to be won", "a print of the kelp bed", false, (*DrawTold).Prize),
		says("word", "the word that enters", "!tide", true, (*DrawTold).How),
		says("question", "what is asked", "How many arms has a brittle star?", true, func(d *DrawTold) string { return plain.Text(d.Ask) }),
		{wording.FillIn{Name: "entries", Kind: wording.Number, Tells: "how many have entered", Example: "43"}, func(d event.Data) wording.Value { return wording.Num(d.(drawn).OfDraw().Entries) }},
		says("proof", "the SHA-256 of the secret, published before anybody enters", "3f9ad0c1…", true, func(d *DrawTold) string { return d.Commit }),
		Offered(wording.FillIn{Name: "checked", Kind: wording.Text, Tells: "where anyone checks the draw, once people can reach the house", Example: "https://porch.example/draws/kq3mz7wa2hd5xv4c", Optional: true}),
	}, more...)
}

// Draws are the happenings of a draw, in the order in which it goes.
func Draws() (types []string) {
	for _, h := range Catalogue {
		if strings.HasPrefix(h.Type, "porch.draw.") {
			types = append(types, h.Type)
		}
	}
	return types
}

func drawEntry(of func(d event.Data) string) func(event.Data) Entry {
	return func(d event.Data) Entry { return Entry{Kind: "happening", Text: strings.TrimSpace(of(d))} }
}

func aboutDraw(words string) func(event.Data) Entry {
	return drawEntry(func(d event.Data) string { return words + ": " + d.(drawn).OfDraw().Prize() })
}
