package happening

import "vividporch/core/event"

// StreamOpened: a platform says the stream is on.
type StreamOpened struct{ StreamInfo }

// StreamOpenedType is the type of it.
const StreamOpenedType = "porch.stream.opened"

func (*StreamOpened) Type() string { return StreamOpenedType }

var streamOpened = &Happening{Data: func() event.Data { return &StreamOpened{} }, Within: true, Words: "the opening of the stream", Lane: Opens, Slots: []Slot{Free}, Frame: OfStream,
	Label: "Opening", Reason: "the stream opened", FillIns: streamFillIns}
