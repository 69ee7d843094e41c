// Package company answers what the Porch asks about the people round the channel.
package company

import (
	"cmp"
	"net/http"
	"slices"

	"github.com/labstack/echo/v5"

	"vividporch/core/output"
	"vividporch/porch"
	"vividporch/spec"
)

// Company answers the routes.
type Company struct{ house *porch.House }

// New makes the handlers.
func New(house *porch.House) *Company { return &Company{house} }

// GetThreads answers GET /api/desk/threads.
func (x *Company) GetThreads(c *echo.Context, p spec.GetThreadsParams) error {
	threads, err := x.house.Company.Threads(c.Request().Context(), p.Account, false)
	if err != nil {
		return err
	}
	out := []spec.Thread{}
	for account, th := range threads {
		out = append(out, spec.Thread{Account: account, Text: th.Text, At: th.At})
	}
	slices.SortFunc(out, func(a, b spec.Thread) int { return cmp.Compare(a.Account, b.Account) })
	return c.JSON(http.StatusOK, out)
}

// GetOnward answers GET /api/desk/onward.
func (x *Company) GetOnward(c *echo.Context, p spec.GetOnwardParams) error {
	o, err := x.house.Company.Onward(c.Request().Context(), p.Ask)
	if err != nil {
		return err
	}
	plan := x.house.Plan()
	out := spec.Onward{Live: o.Live, Near: o.Near, Ends: o.Ends, To: []spec.OnwardTo{}}
	for _, to := range o.To {
		out.To = append(out.To, spec.OnwardTo{Person: to.Person, Account: to.Account, Platform: to.Platform, Login: to.Login, Name: to.Name, Why: to.Why,
			Live: to.Live != nil && *to.Live, Link: to.Link, Cannot: plan.Cannot(to.Platform, output.SendRaid)})
	}
	return c.JSON(http.StatusOK, out)
}
