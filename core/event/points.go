package event

// What members do about points by hand.

// PointsGranted: a member gives somebody points, or with less than nothing takes some back.
type PointsGranted struct {
	Person Person `json:"person"`
	Amount int64  `json:"amount"`
	Reason string `json:"reason,omitempty"`
	Member string `json:"member,omitempty"`
	Import int64  `json:"import,omitempty"` // number of the import it came with
}

// Who is whom it is about.
func (p *PointsGranted) Who() *Person { return &p.Person }

// PointsReset: everybody begins anew: of Season, with what was gathered in it; else with all. With Undo the last reset is taken back,
// and what was gathered since is added.
type PointsReset struct {
	Season bool   `json:"season,omitempty"`
	Undo   bool   `json:"undo,omitempty"`
	Member string `json:"member,omitempty"`
}

// The types of what is logged of points.
const (
	PointsGrantedType = "porch.desk.granted"
	PointsResetType   = "porch.desk.reset"
)

// MostPoints is the most that is given at once, and that anybody has.
const MostPoints = 1_000_000_000_000

// Type is the type of it.
func (*PointsGranted) Type() string { return PointsGrantedType }

// Type is the type of it.
func (*PointsReset) Type() string { return PointsResetType }

func (p *PointsGranted) Validate() error {
	if p.Amount == 0 || p.Amount > MostPoints || p.Amount < -MostPoints {
		return Wrong("data.amount", "is nothing, or more than anybody has; use 1 to %d, or less than nothing to take some back", int64(MostPoints))
	}
	return FirstOf(p.Person.Validate("data.person"), Short("reason", p.Reason, 200))
}
func (*PointsReset) Validate() error { return nil }

var pointsKinds = []func() Data{
	func() Data { return &PointsGranted{} },
	func() Data { return &PointsReset{} },
}
