package happening

import "vividporch/core/event"

// PersonRenamed: an account has a new login or name; Was is the old login.
type PersonRenamed struct {
	by
	Was string `json:"was,omitempty"`
}

func (*PersonRenamed) Type() string { return "porch.person.renamed" }

var personRenamed = &Happening{Data: func() event.Data { return &PersonRenamed{} }, Within: true, Words: "a new name",
	Book: Book{Was: func(d event.Data) string { return d.(*PersonRenamed).Was }}}
