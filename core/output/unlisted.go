package output

import "vividporch/core/who"

// KindUnlisted is the name of it.
const KindUnlisted Kind = "unlisted"

// Unlisted keeps whoever asks off the list of ranks, or with Off puts them on it again.
type Unlisted struct {
	Off bool `json:"off,omitempty"`
}

var unlisted = Spec{New: func() Does { return &Unlisted{} }, Way: Within}

// Kind is the name of it.
func (*Unlisted) Kind() Kind { return KindUnlisted }

// Says tells what it does.
func (u *Unlisted) Says(who.Names) string {
	if u.Off {
		return "put them on the list of ranks again"
	}
	return "keep them off the list of ranks"
}

// Check reports nothing.
func (*Unlisted) Check(*Output, In, func(at, what, remedy string)) {}
