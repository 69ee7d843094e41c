package happening

import "vividporch/core/event"

// by is the part most happenings share: the person they are about.
type by struct {
	Person event.Person `json:"person"`
}

func (b *by) Who() *event.Person { return &b.Person }

func (b *by) Validate() error { return b.Person.Validate("data.person") }
