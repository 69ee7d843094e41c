package event

import (
	"encoding/json"
	"slices"
)

// What is logged of draws: what members and permitted people ask for, and what the house's own edge tells, which alone can make a
// secret and keep it.

// DrawCalled asks for something of a draw. Act is "open", "close", "draw", "again", "cancel", "claimed" or "void". Of "open", Terms are
// what is drawn and how, or Ready names terms that the settings keep; of "void", Account is whose entry goes; of "again" and "claimed" it is
// whose win; Reason is why one is cancelled, passed over or taken out.
type DrawCalled struct {
	Act     string          `json:"act"`
	Terms   json.RawMessage `json:"terms,omitempty"`
	Ready   string          `json:"ready,omitempty"`
	Prize   string          `json:"prize,omitempty"` // of "open": in place of what the terms say
	Account string          `json:"account,omitempty"`
	Reason  string          `json:"reason,omitempty"`
	Person  *Person         `json:"person,omitempty"` // who asked in chat
	Member  string          `json:"member,omitempty"`
}

// Who is who asked in chat, or nil.
func (d *DrawCalled) Who() *Person { return d.Person }

// DrawSealed: a secret was made for a draw. Commit is published; Sealed is the secret under the house's key, which nobody opens before
// the end. Kept stands for what has to be guessed.
type DrawSealed struct {
	Draw   string `json:"draw"`
	Commit string `json:"commit,omitempty"`
	Sealed []byte `json:"sealed,omitempty"`
	Kept   string `json:"kept,omitempty"`
	Failed string `json:"failed,omitempty"` // why none could be made
}

// DrawUnsealed: entries are closed, and the secret is opened for all to see.
type DrawUnsealed struct {
	Draw   string `json:"draw"`
	Secret []byte `json:"secret,omitempty"`
	Failed string `json:"failed,omitempty"` // why it could not be opened
}

// DrawBarred: somebody is kept out of draws from now on, for a reason, or with On false let in again.
type DrawBarred struct {
	Person Person `json:"person"`
	On     bool   `json:"on"`
	Reason string `json:"reason,omitempty"`
	Member string `json:"member,omitempty"`
}

// Who is whom it is about.
func (d *DrawBarred) Who() *Person { return &d.Person }

// What can be asked of a draw.
const (
	DrawOpen    = "open"
	DrawClose   = "close"   // entries are closed, and nothing drawn yet
	DrawDraw    = "draw"    // closed if need be, and drawn
	DrawAgain   = "again"   // a win is passed over, and drawn again
	DrawCancel  = "cancel"  //
	DrawClaimed = "claimed" // by hand, of a winner who was heard elsewhere
	DrawVoid    = "void"    // an entry is taken out
)

// DrawActs are all that can be asked of a draw.
var DrawActs = []string{DrawOpen, DrawClose, DrawDraw, DrawAgain, DrawCancel, DrawClaimed, DrawVoid}

// The types of what is logged of draws.
const (
	DrawCalledType   = "porch.desk.draw"
	DrawBarredType   = "porch.desk.barred"
	DrawSealedType   = "porch.draw.sealed"
	DrawUnsealedType = "porch.draw.unsealed"
)

// Type is the type of it.
func (*DrawCalled) Type() string { return DrawCalledType }

// Type is the type of it.
func (*DrawBarred) Type() string { return DrawBarredType }

// Type is the type of it.
func (*DrawSealed) Type() string { return DrawSealedType }

// Type is the type of it.
func (*DrawUnsealed) Type() string { return DrawUnsealedType }

func (d *DrawCalled) Validate() error {
	switch {
	case !slices.Contains(DrawActs, d.Act):
		return Wrong("data.act", "is %q; use open, close, draw, again, cancel, claimed or void", d.Act)
	case d.Act == DrawOpen && len(d.Terms) == 0 && d.Ready == "":
		return Wrong("data.terms", "are missing; say what is drawn and how")
	case (d.Act == DrawAgain || d.Act == DrawVoid || d.Act == DrawClaimed) && d.Account == "":
		return Wrong("data.account", "is missing; say whose it is")
	case d.Act == DrawCancel && d.Reason == "":
		return Wrong("data.reason", "is missing; say in a few words why, everybody reads it")
	}
	if d.Person != nil {
		if err := d.Person.Validate("data.person"); err != nil {
			return err
		}
	}
	return FirstOf(Short("reason", d.Reason, 200), Short("account", d.Account, 300), Short("ready", d.Ready, 60), Short("prize", d.Prize, 480))
}
func (d *DrawBarred) Validate() error {
	if d.On && d.Reason == "" {
		return Wrong("data.reason", "is missing; say in a few words why")
	}
	return FirstOf(d.Person.Validate("data.person"), Short("reason", d.Reason, 200))
}
func (d *DrawSealed) Validate() error   { return Filled("draw", d.Draw) }
func (d *DrawUnsealed) Validate() error { return Filled("draw", d.Draw) }

var drawKinds = []func() Data{
	func() Data { return &DrawCalled{} },
	func() Data { return &DrawBarred{} },
	func() Data { return &DrawSealed{} },
	func() Data { return &DrawUnsealed{} },
}
