package happening

import "vividporch/core/event"

// PersonLeft: somebody seems to have left the room; a hint only.
type PersonLeft struct{ by }

func (*PersonLeft) Type() string { return "porch.person.left" }

var personLeft = &Happening{Data: func() event.Data { return &PersonLeft{} }, Within: true, Words: "somebody leaving"}
