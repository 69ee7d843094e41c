package output

import (
	"fmt"

	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/who"
)

// KindSocial is the name of it.
const KindSocial Kind = "social"

// Social asks for what stands behind a command to be posted under the channel's social account.
type Social struct {
	Place    string     `json:"place,omitempty"`                                                                           // the account's place, by its name
	Approval string     `json:"approval,omitempty" jsonschema:"enum=always,enum=role,enum=never"`                          // whether a member looks at it first; none is "always"
	Role     event.Role `json:"approvalRole,omitempty" jsonschema:"enum=subscriber,enum=vip,enum=moderator,enum=streamer"` // of "role": who need not be looked at, with those above
	Links    bool       `json:"links,omitempty"`                                                                           // it may hold links
}

var social = Spec{New: func() Does { return &Social{} }, Way: BackIn}

// Kind is the name of it.
func (*Social) Kind() Kind { return KindSocial }

// Says tells what it does.
func (s *Social) Says(n who.Names) string {
	return "ask for it to be posted by " + n.OfPlace(s.Place)
}

// PlaceName is where it is posted.
func (s *Social) PlaceName() string { return s.Place }

// Brings is what is asked for.
func (s *Social) Brings(b Bringing) (event.Data, string) {
	if b.Rest == "" {
		return nil, "there are no words to post"
	}
	asked := &happening.PostAsked{Place: s.Place, Text: event.Cut(b.Rest, happening.MostPost), Links: s.Links, Member: b.Member}
	switch {
	case b.Member != "":
	case b.Person.ID == "":
		return nil, "nobody asks for it"
	default:
		asked.Person, asked.Approve = &b.Person, s.Approval != "never" && !(s.Approval == "role" && b.Person.IsOrAbove(s.Role))
	}
	return asked, ""
}

// Check reports a when that says nothing, and a place that is no account.
func (s *Social) Check(_ *Output, in In, fault func(at, what, remedy string)) {
	if in.When != happening.Command {
		fault("kind", "nothing is said there", "use it on a command: what stands behind it is its words")
	}
	if !in.Places[s.Place] {
		fault("place", fmt.Sprintf("there is no place %q", s.Place), "use the name of your social account's place")
	} else if in.PlaceCannot != nil {
		if why := in.PlaceCannot(s.Place, "account"); why != "" {
			fault("place", why, "use the name of your social account's place")
		}
	}
	switch s.Approval {
	case "", "always", "never":
	case "role":
		if s.Role == "" {
			fault("approvalRole", "is missing", "say from which role on nobody looks at it first")
		}
	default:
		fault("approval", fmt.Sprintf("%q is not known", s.Approval), "use always, role or never")
	}
}
