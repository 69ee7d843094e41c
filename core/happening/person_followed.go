package happening

import "vividporch/core/event"

// PersonFollowed: somebody follows the channel from now on.
type PersonFollowed struct{ by }

func (*PersonFollowed) Type() string { return "porch.person.followed" }

var personFollowed = &Happening{Data: func() event.Data { return &PersonFollowed{} }, Words: "a new follow", Slots: []Slot{Thanks, Free},
	Told: "{name} follows now", Reason: "a new follow",
	Entry: func(event.Data) Entry { return Entry{Kind: "follow"} },
	Book:  Book{Visit: true, Follow: true}, Latest: "followers"}
