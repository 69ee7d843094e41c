package happening

// StreamBack is the when of a stream that goes on after a drop shorter than the grace time: it is no opening.
const StreamBack = "back"

var streamBack = &Happening{Type: StreamBack, Words: "the stream being back after a drop", Lane: Opens, Slots: []Slot{Free}, Frame: OfStream,
	Label: "Back", Reason: "the stream was back after a drop", FillIns: streamFillIns}
