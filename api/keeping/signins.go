package keeping

import (
	"net/http"
	"slices"
	"strings"

	"github.com/labstack/echo/v5"

	"vividporch/api/edge"
	"vividporch/core/profile"
	"vividporch/core/prose"
	"vividporch/porch/signins"
	"vividporch/spec"
)

// GetSignIns answers GET /api/signins.
func (k *Keeping) GetSignIns(c *echo.Context) error {
	ctx := c.Request().Context()
	p := k.house.Plan()
	list, err := k.house.SignIns.List(ctx)
	if err != nil {
		return err
	}
	slots, err := k.store.Safe.AllSlots(ctx, k.house.ID)
	if err != nil {
		return err
	}
	out := spec.SignIns{Redirect: k.house.SignInBack(), Platforms: []spec.PlatformSignIn{}}
	names := k.cfg.Names(c)
	for _, known := range profile.All(p.Whole.Profiles) {
		s := known.SignIn
		if s == nil {
			continue
		}
		x := spec.PlatformSignIn{Platform: known.Platform, Title: known.Title, Known: slices.Contains(slots[signins.Name(known.Platform, "")], "client"), Register: known.Where(s.Register),
			Scopes: []spec.Permission{}, Accounts: []spec.SignedIn{}}
		said, another := k.house.SignIns.Told(known.Platform)
		if x.Said = said; another != nil {
			x.Another = spec.AnotherAccount{Key: another.Key, Who: another.Who, Login: another.Login, Was: another.Was}
		}
		least := signins.Least(known.Profile)
		for _, scope := range s.Scopes {
			y := spec.Permission{Name: scope.Name, Allows: scope.Allows, Least: slices.Contains(least, scope.Name), By: []string{}}
			for _, a := range p.Whole.ActingAt(known.Platform) {
				if says := prose.Whole(a.Courtesy, names); slices.Contains(scope.For, string(a.Act)) && !slices.Contains(y.By, says) {
					y.By = append(y.By, says)
				}
			}
			x.Scopes = append(x.Scopes, y)
		}
		for _, a := range list {
			if a.Platform != known.Platform {
				continue
			}
			y := spec.SignedIn{Who: a.Who, Login: a.Login, Since: a.Since, Renews: a.Renews, Scopes: strings.Fields(a.Scopes), Trouble: a.Trouble}
			if a.Expires != nil {
				y.Expires = *a.Expires
			}
			x.Accounts = append(x.Accounts, y)
		}
		out.Platforms = append(out.Platforms, x)
	}
	return c.JSON(http.StatusOK, out)
}

// BeginSignIn answers POST /api/signins/{platform}/begin.
func (k *Keeping) BeginSignIn(c *echo.Context, platform string) error {
	var in spec.BeginSignIn
	if err := edge.Decode(c, &in); err != nil {
		return err
	}
	m := edge.MemberOf(c)
	at, err := k.house.SignIns.Begin(c.Request().Context(), m.Session.Hash, m.Member.ID, platform, string(in.Who), in.Scopes, in.MovesIn)
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, spec.SignInBegun{Address: at})
}

// ConfirmSignIn answers POST /api/signins/{platform}/confirm.
func (k *Keeping) ConfirmSignIn(c *echo.Context, _ string) error {
	var in spec.ConfirmSignIn
	if err := edge.Decode(c, &in); err != nil {
		return err
	}
	if err := k.house.SignIns.Confirm(c.Request().Context(), in.Key, in.Yes); err != nil {
		return edge.Problem(http.StatusConflict, "The sign-in is not taken in", err.Error())
	}
	return c.NoContent(http.StatusNoContent)
}

// CheckSignIn answers POST /api/signins/{platform}/check.
func (k *Keeping) CheckSignIn(c *echo.Context, platform string) error {
	if err := k.house.SignIns.Check(c.Request().Context(), platform); err != nil {
		return err
	}
	return c.NoContent(http.StatusNoContent)
}

// LeaveSignIn answers DELETE /api/signins/{platform}/{who}.
func (k *Keeping) LeaveSignIn(c *echo.Context, platform, who string) error {
	if err := k.house.SignIns.Leave(c.Request().Context(), platform, who); err != nil {
		return err
	}
	return c.NoContent(http.StatusNoContent)
}
