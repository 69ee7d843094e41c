package happening

import (
	"vividporch/core/event"
	"vividporch/core/plain"
)

// StreamChanged: title or category changed.
type StreamChanged struct{ StreamInfo }

func (*StreamChanged) Type() string { return "porch.stream.changed" }

var streamChanged = &Happening{Data: func() event.Data { return &StreamChanged{} }, Within: true, Words: "a change of title or category", Lane: Opens, Slots: []Slot{Free},
	Told: "{channel}{hasTitle, select, yes {: {title}} other {}}{hasCategory, select, yes { · {category}} other {}}", Frame: OfStream,
	FillIns: streamFillIns,
	Entry: func(d event.Data) Entry {
		s := d.(*StreamChanged)
		e := Entry{Kind: "stream", Platform: s.Platform, Text: "now: " + plain.Text(s.Title)}
		if s.Category != "" {
			e.Text += " · " + plain.Text(s.Category)
		}
		return e
	}}
