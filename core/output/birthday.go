package output

import (
	"slices"

	"vividporch/core/who"
)

// KindBirthday is the name of it.
const KindBirthday Kind = "birthday"

// What can be done to a birthday.
const (
	SetBirthday    = "set"    // whoever asks says when theirs is
	ForgetBirthday = "forget" // theirs is kept no more
	HideBirthday   = "hide"   // nobody is told of theirs any more
	ShowBirthday   = "show"   // they are again
	ClearBirthday  = "clear"  // by a moderator: that of whoever is meant is kept no more
)

var birthdayActs = []string{SetBirthday, ForgetBirthday, HideBirthday, ShowBirthday, ClearBirthday}

// Birthday keeps, clears, hides or shows a birthday in the guest book, as a line asks for it.
type Birthday struct {
	Act string `json:"birthday" jsonschema:"enum=set,enum=forget,enum=hide,enum=show,enum=clear"`
}

var birthday = Spec{New: func() Does { return &Birthday{} }, Way: Within}

// Kind is the name of it.
func (*Birthday) Kind() Kind { return KindBirthday }

// Says tells what it does.
func (b *Birthday) Says(who.Names) string {
	switch b.Act {
	case ForgetBirthday:
		return "forget their birthday"
	case ClearBirthday:
		return "clear the birthday of whoever is named"
	case HideBirthday:
		return "hide their birthday"
	case ShowBirthday:
		return "tell their birthday again"
	}
	return "keep the birthday they write"
}

// Concerns whoever is meant only where a moderator clears it: everybody else sees to their own.
func (b *Birthday) Concerns() bool { return b.Act == ClearBirthday }

// Check reports a when in which nobody writes one.
func (b *Birthday) Check(_ *Output, in In, fault func(at, what, remedy string)) {
	if !slices.Contains(birthdayActs, b.Act) {
		fault("birthday", "is nothing that is done to a birthday", "use set, forget, hide, show or clear")
	}
	if in.When != "command" {
		fault("kind", "nobody asks for it there", "use it on a command: the day stands behind it")
	}
}
