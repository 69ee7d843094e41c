package keeping

import (
	"net/http"

	"github.com/labstack/echo/v5"

	"vividporch/api/edge"
	"vividporch/core/event"
	"vividporch/core/housefile"
	"vividporch/core/plain"
	"vividporch/spec"
	"vividporch/store/members"
)

// IsNew reports whether nobody has set the house up yet.
func IsNew(s *housefile.Settings) bool { return s.Channel == housefile.Unnamed }

// GetMoving answers GET /api/moving.
func (k *Keeping) GetMoving(c *echo.Context) error {
	m, err := k.house.Moving(c.Request().Context())
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, m)
}

// SayStep answers PUT /api/moving.
func (k *Keeping) SayStep(c *echo.Context) error {
	var in spec.StepIn
	if err := edge.Decode(c, &in); err != nil {
		return err
	}
	if err := k.house.SayStep(c.Request().Context(), in.Step, string(in.State)); err != nil {
		return err
	}
	return k.GetMoving(c)
}

// GetEvening answers GET /api/moving/evening.
func (k *Keeping) GetEvening(c *echo.Context) error {
	out, err := k.house.MadeUpEvening()
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, out)
}

// GetClaim answers GET /api/moving/claim.
func (k *Keeping) GetClaim(c *echo.Context) error {
	x, ok := k.house.Claims.Of(edge.MemberOf(c).ID, k.house.Clock())
	out := spec.Claim{State: spec.ClaimStateNone}
	if ok {
		out = spec.Claim{State: spec.ClaimState(x.State), Platform: x.Platform, Login: x.Login, Phrase: x.Phrase, Until: x.Until, Told: x.Told, Account: x.Account}
	}
	return c.JSON(http.StatusOK, out)
}

// MakeClaim answers POST /api/moving/claim.
func (k *Keeping) MakeClaim(c *echo.Context) error {
	var in spec.ClaimIn
	if err := edge.Decode(c, &in); err != nil {
		return err
	}
	if d := k.house.Plan().Settings.DoorFor(in.Platform); d == nil {
		return &event.FieldError{Field: "platform", Remedy: plain.Titled(in.Platform) + " has no chat door here; connect its chat first"}
	}
	m := edge.MemberOf(c)
	if _, err := k.house.Claims.Begin(m.ID, m.Name, in.Platform, in.Login, m.Role == members.RoleOwner, k.house.Clock()); err != nil {
		return err
	}
	return k.GetClaim(c)
}

// DropClaim answers DELETE /api/moving/claim.
func (k *Keeping) DropClaim(c *echo.Context) error {
	k.house.Claims.Drop(edge.MemberOf(c).ID)
	return c.NoContent(http.StatusNoContent)
}
