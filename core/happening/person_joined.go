package happening

import "vividporch/core/event"

// PersonJoined: somebody joined the community server called Place.
type PersonJoined struct {
	by
	Place string `json:"place,omitempty"`
}

func (*PersonJoined) Type() string { return "porch.person.joined" }

var personJoined = &Happening{Data: func() event.Data { return &PersonJoined{} }, Words: "a new member of the community server", Slots: []Slot{Thanks, Free},
	Told:    "{name} joined {hasPlace, select, yes {{place}} other {the community server}}",
	Texts:   []Text{TextOf("place", func(d *PersonJoined) string { return d.Place })},
	FillIns: []FillIn{Says("place", "the community server", "The Boathouse", func(d *PersonJoined) string { return d.Place })},
	Entry:   Happened(func(d *PersonJoined) string { return "joined " + d.Place })}
