package happening

import "vividporch/core/event"

// PersonEntered: somebody is in the room and has not spoken.
type PersonEntered struct{ by }

func (*PersonEntered) Type() string { return "porch.person.entered" }

var personEntered = &Happening{Roomed: true, Data: func() event.Data { return &PersonEntered{} }, Within: true, Words: "somebody coming in without a word", Slots: []Slot{Thanks, Free}}
