package event

// What members do about trouble in chat.

// HeldDecided: a member decides a line that is held. Held is its id.
type HeldDecided struct {
	Held   string `json:"held"`
	Allow  bool   `json:"allow"`
	Person Person `json:"person,omitzero"` // who said it
	Member string `json:"member,omitempty"`
}

// Who is whoever said it, or nil.
func (d *HeldDecided) Who() *Person {
	if d.Person.ID == "" {
		return nil
	}
	return &d.Person
}

// Permitted: a member lets somebody do for a while what would be stopped; no Seconds takes that back.
type Permitted struct {
	Person  Person  `json:"person"`
	Seconds float64 `json:"seconds"`
	Member  string  `json:"member,omitempty"`
}

// Who is whom it is about.
func (p *Permitted) Who() *Person { return &p.Person }

// FloodKey: the key against a flood of strangers, on or off.
type FloodKey struct {
	On     bool   `json:"on"`
	Member string `json:"member,omitempty"`
}

// PermitMost is for how long somebody may be permitted, in seconds: a day.
const PermitMost = 24 * 3600

// The types of what is logged of it.
const (
	HeldDecidedType = "porch.desk.decided"
	PermittedType   = "porch.desk.permitted"
	FloodKeyType    = "porch.desk.flood"
)

// Type is the type of it.
func (*HeldDecided) Type() string { return HeldDecidedType }

// Type is the type of it.
func (*Permitted) Type() string { return PermittedType }

// Type is the type of it.
func (*FloodKey) Type() string { return FloodKeyType }

func (d *HeldDecided) Validate() error {
	return FirstOf(Filled("held", d.Held), Short("held", d.Held, 400))
}
func (p *Permitted) Validate() error {
	if p.Seconds < 0 || p.Seconds > PermitMost {
		return Wrong("data.seconds", "is out of range; use at most a day, 86400")
	}
	return p.Person.Validate("data.person")
}
func (*FloodKey) Validate() error { return nil }

var guardKinds = []func() Data{
	func() Data { return &HeldDecided{} },
	func() Data { return &Permitted{} },
	func() Data { return &FloodKey{} },
}
