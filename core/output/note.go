package output

import (
	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/who"
)

// KindNote is the name of it.
const KindNote Kind = "note"

// Note leaves what stands behind a command as a note for the streamer.
type Note struct{}

var note = Spec{New: func() Does { return &Note{} }, Way: BackIn}

// Kind is the name of it.
func (*Note) Kind() Kind { return KindNote }

// Says tells what it does.
func (*Note) Says(who.Names) string { return "leave it as a note" }

// Brings is the note.
func (*Note) Brings(b Bringing) (event.Data, string) {
	switch {
	case b.Person.ID == "":
		return nil, "nobody leaves it"
	case b.Rest == "":
		return nil, "the note has no words"
	}
	left := &happening.NoteLeft{Text: event.Cut(b.Rest, happening.MostNote)}
	left.Person = b.Person
	return left, ""
}

// Check reports a when that says nothing.
func (*Note) Check(_ *Output, in In, fault func(at, what, remedy string)) {
	if in.When != happening.Command {
		fault("kind", "nothing is said there", "use it on a command: what stands behind it is its words")
	}
}
