package event

import "slices"

// What the house logs of its overlays. What is shown is begun and ended once, whatever number of pages is open.

// OverlayOpened: the first page of an overlay is there.
type OverlayOpened struct {
	Overlay string `json:"overlay"` // its id
}

// OverlayClosed: the last one is gone. Show is what was on then, Seconds how long it had been.
type OverlayClosed struct {
	Overlay string  `json:"overlay"`
	Show    string  `json:"show,omitempty"`
	Seconds float64 `json:"seconds,omitempty"`
}

// ShowBegun: a page began to show what was released; it takes so many Seconds.
type ShowBegun struct {
	Overlay string  `json:"overlay"`
	Show    string  `json:"show"`
	Seconds float64 `json:"seconds"`
}

// ShowEnded: what was shown is over. Failed says what of it could not be shown.
type ShowEnded struct {
	Overlay string `json:"overlay"`
	Show    string `json:"show"`
	Failed  string `json:"failed,omitempty"`
}

// Silenced: a member stops what sounds on the overlays, and what of it waits.
type Silenced struct {
	Member string `json:"member,omitempty"`
}

// CountdownSet: a member's hand on a countdown. Act is "go", "pause", "set", "add" or "anew"; Seconds is what is left from now on
// of a set one, and what is added to one, less than nothing to shorten it.
type CountdownSet struct {
	Box     string  `json:"box"` // its id
	Act     string  `json:"act"`
	Seconds float64 `json:"seconds,omitempty"`
	Member  string  `json:"member,omitempty"`
}

// The acts of a hand on a countdown.
const (
	CountdownGo    = "go"
	CountdownPause = "pause"
	CountdownAt    = "set"
	CountdownAdd   = "add"
	CountdownAnew  = "anew"
)

// CountdownMost is how far a countdown can reach, in seconds: a month.
const CountdownMost = 30 * 24 * 3600

// The types of what is logged of overlays.
const (
	OverlayOpenedType = "porch.overlay.opened"
	OverlayClosedType = "porch.overlay.closed"
	ShowBegunType     = "porch.overlay.begun"
	ShowEndedType     = "porch.overlay.ended"
	SilencedType      = "porch.desk.silenced"
	CountdownSetType  = "porch.desk.countdown"
)

// Type is the type of it.
func (*OverlayOpened) Type() string { return OverlayOpenedType }

// Type is the type of it.
func (*OverlayClosed) Type() string { return OverlayClosedType }

// Type is the type of it.
func (*ShowBegun) Type() string { return ShowBegunType }

// Type is the type of it.
func (*ShowEnded) Type() string { return ShowEndedType }

// Type is the type of it.
func (*Silenced) Type() string { return SilencedType }

// Type is the type of it.
func (*CountdownSet) Type() string { return CountdownSetType }

func (o *OverlayOpened) Validate() error { return Filled("overlay", o.Overlay) }
func (o *OverlayClosed) Validate() error { return Filled("overlay", o.Overlay) }
func (s *ShowBegun) Validate() error {
	return FirstOf(Filled("overlay", s.Overlay), Filled("show", s.Show))
}
func (s *ShowEnded) Validate() error {
	return FirstOf(Filled("overlay", s.Overlay), Filled("show", s.Show), Short("failed", s.Failed, 500))
}
func (*Silenced) Validate() error { return nil }
func (c *CountdownSet) Validate() error {
	if !slices.Contains([]string{CountdownGo, CountdownPause, CountdownAt, CountdownAdd, CountdownAnew}, c.Act) {
		return Wrong("data.act", "is %q; use go, pause, set, add or anew", c.Act)
	}
	if c.Seconds < -CountdownMost || c.Seconds > CountdownMost || c.Act == CountdownAt && c.Seconds < 0 {
		return Wrong("data.seconds", "is out of range; use at most a month, 2592000")
	}
	return Filled("box", c.Box)
}

var screenKinds = []func() Data{
	func() Data { return &OverlayOpened{} },
	func() Data { return &OverlayClosed{} },
	func() Data { return &ShowBegun{} },
	func() Data { return &ShowEnded{} },
	func() Data { return &Silenced{} },
	func() Data { return &CountdownSet{} },
}
