package happening

import "vividporch/core/event"

// StreamClosed: a platform says the stream is off.
type StreamClosed struct{ StreamInfo }

// StreamClosedType is the type of it.
const StreamClosedType = "porch.stream.closed"

func (*StreamClosed) Type() string { return StreamClosedType }

var streamClosed = &Happening{Data: func() event.Data { return &StreamClosed{} }, Within: true, Words: "the end of the stream", Lane: Closes, Slots: []Slot{Free},
	Told: "{channel} has ended for tonight", Frame: OfStream,
	FillIns: streamFillIns}
