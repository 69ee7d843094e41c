// Package rewarding answers for points: how they are gathered, who has how many, and the games.
package rewarding

import (
	"net/http"
	"slices"

	"github.com/labstack/echo/v5"

	"vividporch/api/edge"
	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/core/points"
	"vividporch/core/prose"
	"vividporch/core/room"
	"vividporch/porch"
	"vividporch/spec"
	"vividporch/store"
	"vividporch/store/find"
)

// Rewarding answers the routes.
type Rewarding struct {
	house    *porch.House
	store    *store.Store
	somebody func(c *echo.Context, account string) (event.Person, error)
}

// New makes the handlers; somebody is whose an account is.
func New(house *porch.House, st *store.Store, somebody func(c *echo.Context, account string) (event.Person, error)) *Rewarding {
	return &Rewarding{house, st, somebody}
}

const (
	shownRanks  = 50
	shownLevels = 30
	pageOf      = 60
)

func section(p *room.Plan) *points.Section { return room.Section[points.Section](p, points.Name) }

// GetPoints answers GET /api/points.
func (x *Rewarding) GetPoints(c *echo.Context) error {
	ctx, plan := c.Request().Context(), x.house.Plan()
	s := section(plan)
	out := spec.PointsView{Needs: []int64{}, Supports: []spec.NamedWhen{}, Games: []spec.GameView{}, Version: plan.Version}
	var err error
	if out.Settings, err = edge.Recast[spec.PointsSettings](s); err != nil {
		return err
	}
	if out.Top, err = x.ranks(c, s, false); err != nil {
		return err
	}
	if out.Season, err = x.ranks(c, s, true); err != nil {
		return err
	}
	for level := 1; level <= shownLevels && s.Levels.First > 0; level++ {
		out.Needs = append(out.Needs, s.Levels.Needs(level))
	}
	for _, h := range happening.Catalogue {
		if h.Book.Support != nil {
			out.Supports = append(out.Supports, spec.NamedWhen{Type: h.Type, Words: h.Words, Number: h.Main()})
		}
	}
	for _, g := range prose.Games {
		if !g.Asked() {
			continue
		}
		v := spec.GameView{Game: g.Name, Title: g.Title, Tells: g.Tells}
		for _, cy := range plan.Whole.Courtesy {
			for i := range cy.Do {
				if cy.Away || !g.Is(&cy, &cy.Do[i]) {
					continue
				}
				v.Courtesy = cy.ID
				if len(cy.Asks) > 0 {
					v.Asks = cy.Asks[0]
				}
				if stone, ok := cy.Do[i].Do.(*output.Stone); ok {
					v.Odds = odds(stone)
				}
			}
		}
		out.Games = append(out.Games, v)
	}
	if out.UndoAll, out.UndoSeason, err = x.house.CanUndoReset(ctx); err != nil {
		return err
	}
	return c.JSON(http.StatusOK, out)
}

// odds are how often each find lies under a stone, and what it is worth.
func odds(s *output.Stone) []spec.Odd {
	finds, in := s.Under()
	out := []spec.Odd{}
	for _, f := range finds {
		out = append(out, spec.Odd{Name: f.Name, Once: f.Weight, In: in, Worth: s.Worth(f)})
	}
	return out
}

func (x *Rewarding) ranks(c *echo.Context, s *points.Section, season bool) ([]spec.RankRow, error) {
	list, err := x.store.Find.Ranks(c.Request().Context(), x.house.ID, season, shownRanks)
	out := []spec.RankRow{}
	for _, r := range list {
		level := s.Levels.Of(r.Gathered)
		out = append(out, spec.RankRow{Person: r.Person, Name: r.Name, Has: r.Has, Gathered: r.Gathered, Season: r.Season, Level: level, LevelName: s.Levels.Name(level)})
	}
	return out, err
}

// SetUpGame answers POST /api/points/games.
func (x *Rewarding) SetUpGame(c *echo.Context) error {
	var in spec.GameHand
	if err := edge.Decode(c, &in); err != nil {
		return err
	}
	at := slices.IndexFunc(prose.Games, func(g prose.Game) bool { return g.Name == in.Game })
	if at < 0 {
		return &event.FieldError{Field: "game", Remedy: "is none of ours; choose one of the list"}
	}
	v, err := x.house.Desk.ChangeSettings(c.Request().Context(), edge.By(c), prose.Games[at].Title, func(f *housefile.Settings) error {
		f.Courtesy = prose.Playing(f.Courtesy, prose.Games[at])
		return nil
	})
	return edge.InForce(c, x.house, v, err)
}

// GrantPoints answers POST /api/desk/points.
func (x *Rewarding) GrantPoints(c *echo.Context) error {
	var in spec.PointsHand
	if err := edge.Decode(c, &in); err != nil {
		return err
	}
	who, err := x.somebody(c, in.Account)
	if err != nil {
		return err
	}
	if who.ID == "" {
		return &event.FieldError{Field: "account", Remedy: "is nobody's; take it from the Porch or the guest book"}
	}
	ds, err := x.house.Hand(c.Request().Context(), &event.PointsGranted{Person: who, Amount: in.Amount, Reason: in.Reason, Member: edge.MemberOf(c).Name})
	if err != nil {
		return err
	}
	return edge.Deed(c, ds)
}

// ResetPoints answers POST /api/desk/points/reset.
func (x *Rewarding) ResetPoints(c *echo.Context) error {
	var in spec.PointsReset
	if err := edge.Decode(c, &in); err != nil {
		return err
	}
	ds, err := x.house.Hand(c.Request().Context(), &event.PointsReset{Season: in.Season, Undo: in.Undo, Member: edge.MemberOf(c).Name})
	if err != nil {
		return err
	}
	return edge.Deed(c, ds)
}

// GetPointsOf answers GET /api/points/of/{person}.
func (x *Rewarding) GetPointsOf(c *echo.Context, person int64, p spec.GetPointsOfParams) error {
	ctx := c.Request().Context()
	r, err := x.store.Find.Purse(ctx, x.house.ID, person)
	if err != nil {
		return err
	}
	s := section(x.house.Plan())
	level := s.Levels.Of(r.Gathered)
	out := spec.PointsOf{Has: r.Has, Gathered: r.Gathered, Season: r.Season, Level: level, LevelName: s.Levels.Name(level), Says: s.Counted(r.Has), Lines: []spec.PointsLine{}}
	var list []find.LedgerLine
	if list, err = x.store.Find.PointsOf(ctx, x.house.ID, person, p.Before, pageOf); err != nil {
		return err
	}
	for _, l := range list {
		out.Lines = append(out.Lines, spec.PointsLine{Seq: l.Seq, At: l.At, Amount: l.Amount, Why: l.Says})
	}
	return c.JSON(http.StatusOK, out)
}
