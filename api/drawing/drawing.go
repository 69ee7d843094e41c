// Package drawing answers for draws: what members ask of one, and the pages on which anyone checks it.
package drawing

import (
	"encoding/json"
	"io/fs"
	"net/http"
	"slices"
	"strings"

	"github.com/labstack/echo/v5"

	"vividporch/api/edge"
	"vividporch/core/draw"
	"vividporch/core/event"
	"vividporch/core/giveaway"
	"vividporch/core/happening"
	"vividporch/core/housefile"
	"vividporch/core/prose"
	"vividporch/porch"
	"vividporch/porch/screen"
	"vividporch/spec"
)

// Drawing answers the routes.
type Drawing struct {
	house    *porch.House
	ui       fs.FS
	somebody func(c *echo.Context, account string) (event.Person, error)
}

// New makes the handlers; ui is the built interface, and somebody is whose an account is.
func New(house *porch.House, ui fs.FS, somebody func(c *echo.Context, account string) (event.Person, error)) *Drawing {
	return &Drawing{house, ui, somebody}
}

// CallDraw answers POST /api/desk/draw.
func (x *Drawing) CallDraw(c *echo.Context) error {
	var in spec.DrawHand
	if err := edge.Decode(c, &in); err != nil {
		return err
	}
	d := &event.DrawCalled{Act: in.Act, Ready: in.Ready, Account: in.Account, Reason: in.Reason, Member: edge.MemberOf(c).Name}
	if in.Act == event.DrawOpen && in.Ready == "" {
		terms, err := termsOf(in.Terms)
		if err != nil {
			return err
		}
		if d.Terms, err = json.Marshal(terms); err != nil {
			return err
		}
	}
	ds, err := x.house.Hand(c.Request().Context(), d)
	if err != nil {
		return err
	}
	return edge.Deed(c, ds)
}

// termsOf are terms as a form sends them, checked.
func termsOf(in spec.DrawTerms) (t giveaway.Terms, err error) {
	raw, err := json.Marshal(in)
	if err != nil {
		return t, err
	}
	return giveaway.TermsOf(raw)
}

// BarFromDraws answers POST /api/desk/draw/bar.
func (x *Drawing) BarFromDraws(c *echo.Context) error {
	var in spec.DrawBarHand
	if err := edge.Decode(c, &in); err != nil {
		return err
	}
	who, err := x.somebody(c, in.Account)
	if err != nil {
		return err
	}
	ds, err := x.house.Hand(c.Request().Context(), &event.DrawBarred{Person: who, On: in.On, Reason: in.Reason, Member: edge.MemberOf(c).Name})
	if err != nil {
		return err
	}
	return edge.Deed(c, ds)
}

// GetDraws answers GET /api/draws.
func (x *Drawing) GetDraws(c *echo.Context) error {
	m, err := x.house.Draws.Memory(c.Request().Context())
	if err != nil {
		return err
	}
	plan := x.house.Plan()
	out := spec.DrawsView{Past: []spec.DrawPast{}, Barred: []spec.DrawBar{}, Ready: []spec.DrawReady{}, Told: plan.Set.Has(happening.DrawOpenedType) || plan.Set.Has(happening.DrawWonType)}
	if d := m.Now; d != nil {
		if out.Now, err = edge.Recast[spec.DrawPage](d.Page(plan.Settings.Channel)); err != nil {
			return err
		}
		out.Now.Picks = []spec.DrawPick{} // with whose they are, and until when
		for i := range d.Picks {
			out.Now.Picks = append(out.Now.Picks, screen.PickView(&d.Picks[i]))
		}
		if out.Terms, err = edge.Recast[spec.DrawTerms](d.Terms); err != nil {
			return err
		}
	}
	out.Past = append(out.Past, pastOf(m)...)
	for account, b := range m.Barred {
		out.Barred = append(out.Barred, spec.DrawBar{Account: account, Name: b.Name, Reason: b.Reason, By: b.By, At: b.At})
	}
	slices.SortFunc(out.Barred, func(a, b spec.DrawBar) int { return strings.Compare(a.Name+a.Account, b.Name+b.Account) })
	for _, r := range draw.SectionOf(plan).Ready {
		terms, err := edge.Recast[spec.DrawTerms](r.Terms)
		if err != nil {
			return err
		}
		out.Ready = append(out.Ready, spec.DrawReady{Name: r.Name, Terms: terms})
	}
	return c.JSON(http.StatusOK, out)
}

// pastOf are the draws that are over, the newest first.
func pastOf(m draw.Memory) []spec.DrawPast {
	out := []spec.DrawPast{}
	for _, p := range slices.Backward(m.Past) {
		out = append(out, spec.DrawPast{ID: p.ID, Number: p.Number, Prizes: p.Prizes, Opened: p.Opened, State: string(p.State), Winners: len(p.Winners)})
	}
	return out
}

// SpeakOfDraws answers POST /api/draws/words.
func (x *Drawing) SpeakOfDraws(c *echo.Context) error {
	v, err := x.house.Desk.ChangeSettings(c.Request().Context(), edge.By(c), "what is said of draws", func(s *housefile.Settings) error {
		s.Courtesy = prose.SpokenOf(s.Courtesy, happening.Draws()...)
		return nil
	})
	return edge.InForce(c, x.house, v, err)
}

// KeepDrawReady answers PUT /api/draws/ready.
func (x *Drawing) KeepDrawReady(c *echo.Context) error {
	var in spec.DrawReadyHand
	if err := edge.Decode(c, &in); err != nil {
		return err
	}
	name := strings.TrimSpace(in.Name)
	kept := draw.Ready{Name: name}
	if in.Terms.Way != "" {
		var err error
		if kept.Terms, err = termsOf(in.Terms); err != nil {
			return err
		}
	}
	v, err := x.house.Desk.ChangeSettings(c.Request().Context(), edge.By(c), "the draw "+name, func(s *housefile.Settings) error {
		return draw.Keep(s, kept)
	})
	return edge.InForce(c, x.house, v, err)
}
