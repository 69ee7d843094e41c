package rewarding

import (
	"net/http"
	"strings"

	"github.com/labstack/echo/v5"

	"vividporch/api/edge"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/people"
	"vividporch/formats/pearls"
	"vividporch/spec"
)

// ImportPoints answers POST /api/points/import: first a look, then, with take, in.
func (x *Rewarding) ImportPoints(c *echo.Context) error {
	var in spec.PointsFile
	if err := edge.Decode(c, &in); err != nil {
		return err
	}
	rows, refused, err := pearls.Read([]byte(in.Csv))
	if err != nil {
		return err
	}
	out := spec.PointsLook{Rows: []spec.PointsRow{}, Refused: []spec.RefusedRow{}}
	for _, r := range refused {
		out.Refused = append(out.Refused, spec.RefusedRow{Row: r.N, Text: r.Text, Why: r.Why})
	}
	no := func(r pearls.Row, why string) {
		out.Refused = append(out.Refused, spec.RefusedRow{Row: r.N, Text: strings.TrimSpace(r.Account + " " + r.Login), Why: why})
	}
	for _, r := range rows {
		who, why, err := x.whose(c, r)
		switch {
		case err != nil:
			return err
		case why != "":
			no(r, why)
			continue
		}
		if in.Take {
			ds, err := x.house.Hand(c.Request().Context(), &event.PointsGranted{Person: *who, Amount: r.Points, Reason: "brought in from a file", Member: edge.MemberOf(c).Name})
			if err != nil {
				return err
			}
			if why := refusedFor(ds); why != "" {
				no(r, why)
				continue
			}
			out.Taken++
		}
		out.Rows = append(out.Rows, spec.PointsRow{Row: r.N, Account: who.Key(), Name: who.Shown(), Points: r.Points})
	}
	return c.JSON(http.StatusOK, out)
}

// refusedFor is why nothing was given, or "".
func refusedFor(ds []hall.Decision) string {
	for _, d := range ds {
		if d.Kind == hall.Refuse && len(d.Because) > 0 {
			return d.Because[0]
		}
	}
	return ""
}

// whose is who a row means, or why it is not told.
func (x *Rewarding) whose(c *echo.Context, r pearls.Row) (*event.Person, string, error) {
	if r.Account != "" {
		who, err := x.somebody(c, r.Account)
		if err != nil || who.ID == "" {
			return nil, "nobody in the guest book has this account", nil
		}
		return &who, "", nil
	}
	named, err := x.store.Book.Called(c.Request().Context(), x.house.ID, r.Login, 0)
	if err != nil {
		return nil, "", err
	}
	found := people.Pick(r.Login, r.Platform, named)
	switch {
	case len(found) == 0:
		return nil, "nobody in the guest book goes by this name: bring the people in first", nil
	case len(found) > 1:
		return nil, "several go by this name: say the platform, or the account", nil
	case r.Platform != "" && found[0].Person.Platform != r.Platform:
		return nil, "goes by this name on another platform", nil
	}
	return &found[0].Person, "", nil
}
