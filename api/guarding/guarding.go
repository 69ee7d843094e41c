// Package guarding answers for the guard: what is held, who is permitted, what it did, and what a rule would have done.
package guarding

import (
	"encoding/json"
	"net/http"

	"github.com/labstack/echo/v5"

	"vividporch/api/edge"
	"vividporch/core/event"
	"vividporch/core/guard"
	"vividporch/core/hall"
	"vividporch/core/plain"
	"vividporch/core/trouble"
	"vividporch/porch"
	"vividporch/spec"
	"vividporch/store"
)

// Guarding answers the routes.
type Guarding struct {
	house    *porch.House
	store    *store.Store
	somebody func(c *echo.Context, account string) (event.Person, error)
}

// New makes the handlers; somebody is whose an account is.
func New(house *porch.House, st *store.Store, somebody func(c *echo.Context, account string) (event.Person, error)) *Guarding {
	return &Guarding{house, st, somebody}
}

// DecideHeld answers POST /api/desk/held.
func (g *Guarding) DecideHeld(c *echo.Context) error {
	var in spec.HeldHand
	if err := edge.Decode(c, &in); err != nil {
		return err
	}
	out := spec.Deed{Because: []string{}}
	for _, id := range in.Held {
		held, err := g.house.HeldLine(c.Request().Context(), id)
		if err != nil {
			return err
		}
		ds, err := g.house.Hand(c.Request().Context(), &event.HeldDecided{Held: id, Allow: in.Allow, Person: held.Said.Person, Member: edge.MemberOf(c).Name})
		if err != nil {
			return err
		}
		for _, d := range ds {
			if d.Kind == hall.Refuse && d.Output == "desk" {
				out.Because = append(out.Because, d.Because...)
			} else if d.Kind == guard.Let {
				out.Done = true
			}
		}
	}
	return c.JSON(http.StatusOK, out)
}

// Permit answers POST /api/desk/permit.
func (g *Guarding) Permit(c *echo.Context) error {
	var in spec.PermitHand
	if err := edge.Decode(c, &in); err != nil {
		return err
	}
	who, err := g.somebody(c, in.Account)
	if err != nil {
		return err
	}
	if who.ID == "" {
		return &event.FieldError{Field: "account", Remedy: "is nobody's; take it from the Porch or the guest book"}
	}
	d := &event.Permitted{Person: who, Member: edge.MemberOf(c).Name}
	if in.On {
		d.Seconds = g.house.Plan().Settings.Guard.Permits().Seconds()
	}
	ds, err := g.house.Hand(c.Request().Context(), d)
	if err != nil {
		return err
	}
	return edge.Deed(c, ds)
}

// FloodKey answers POST /api/desk/flood.
func (g *Guarding) FloodKey(c *echo.Context) error {
	var in spec.Switch
	if err := edge.Decode(c, &in); err != nil {
		return err
	}
	ds, err := g.house.Hand(c.Request().Context(), &event.FloodKey{On: in.On, Member: edge.MemberOf(c).Name})
	if err != nil {
		return err
	}
	return edge.Deed(c, ds)
}

// pageOf is how many things the guard did are told at once.
const pageOf = 60

// kinds are what can be looked for, each with a new rule.
var kinds = func() (out []spec.RuleKind) {
	for _, k := range trouble.Catalogue {
		r := trouble.Rule{ID: string(k.New().Kind()), Do: k.New(), Then: trouble.Usual()}
		raw, err := json.Marshal(r)
		v := spec.RuleKind{Kind: string(r.Kind()), Title: k.Title, All: k.All}
		if err == nil && json.Unmarshal(raw, &v.Start) == nil {
			out = append(out, v)
		}
	}
	return out
}()

// GetGuard answers GET /api/guard.
func (g *Guarding) GetGuard(c *echo.Context, p spec.GetGuardParams) error {
	ctx := c.Request().Context()
	list, err := g.store.Log.Touches(ctx, g.house.ID, p.Before, pageOf)
	if err != nil {
		return err
	}
	out := spec.GuardPage{Kinds: kinds, Rules: []spec.RuleView{}, Did: []spec.GuardDid{}, Worth: []spec.WorthRule{}}
	for i := range g.house.Plan().Settings.Guard.Rules {
		r := &g.house.Plan().Settings.Guard.Rules[i]
		if r.Do != nil {
			out.Rules = append(out.Rules, spec.RuleView{ID: r.ID, Kind: string(r.Kind()), Title: r.Spec().Title, On: r.On, Says: r.Do.Says()})
		}
	}
	undo, err := g.house.Undoable(ctx)
	if err != nil {
		return err
	}
	for _, x := range list {
		t := guard.TouchOf(&x.Decision)
		if t == nil {
			continue
		}
		v := spec.GuardDid{Seq: x.Seq, At: x.At, Account: x.Decision.Person, Name: x.Decision.Name, Platform: x.Decision.Platform, Rule: t.Rule, Act: string(t.Act), Seconds: t.Seconds, Found: t.Found, Text: plain.Text(x.Text)}
		if x.Let != nil && len(x.Let.Because) > 0 {
			v.Ended = x.Let.Because[0]
		}
		for _, a := range undo {
			if shuts := t.Shuts(); shuts != "" && a.Act == string(shuts) && len(a.About) > 0 && a.About[0] == x.Decision.Person {
				v.Undo = a.Line
			}
		}
		out.Did = append(out.Did, v)
	}
	if p.Before == 0 {
		worth, err := g.house.Looker.Worth(ctx)
		if err != nil {
			return err
		}
		for _, w := range worth {
			out.Worth = append(out.Worth, spec.WorthRule{Kind: string(w.Kind), Title: trouble.Of(w.Kind).Title, Found: w.Found, Of: w.Of})
		}
	}
	return c.JSON(http.StatusOK, out)
}

// TryRule answers POST /api/guard/try.
func (g *Guarding) TryRule(c *echo.Context) error {
	var in spec.RuleTry
	if err := edge.Decode(c, &in); err != nil {
		return err
	}
	raw, err := json.Marshal(in.Rule)
	if err != nil {
		return err
	}
	var r trouble.Rule
	if err := json.Unmarshal(raw, &r); err != nil {
		return &event.FieldError{Field: "rule", Remedy: "cannot be read; choose what is looked for and its measure"}
	}
	var wrong error
	r.Check(func(at, what, remedy string) {
		if wrong == nil {
			wrong = &event.FieldError{Field: "rule." + at, Remedy: what + "; " + remedy}
		}
	})
	if wrong != nil {
		return wrong
	}
	tried, err := g.house.Looker.Try(c.Request().Context(), r)
	if err != nil {
		return err
	}
	out := spec.RuleTried{Streams: tried.Streams, Looked: tried.Looked, Lines: tried.Lines, People: tried.People, Regulars: tried.Regulars, Some: []spec.TouchedLine{}}
	for _, x := range tried.Some {
		who := &x.Said.Said.Person
		out.Some = append(out.Some, spec.TouchedLine{At: x.At, Account: who.Key(), Name: plain.Name(who.Shown()), Platform: who.Platform, Text: plain.Text(x.Said.Said.Text), Found: x.Found, Regular: x.Regular, Removed: x.Removed})
	}
	return c.JSON(http.StatusOK, out)
}
