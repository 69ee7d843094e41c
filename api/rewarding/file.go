package rewarding

import (
	"fmt"
	"net/http"
	"strings"

	"github.com/labstack/echo/v5"

	"vividporch/api/edge"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/people"
	"vividporch/core/points"
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
	out := spec.PointsLook{Rows: []spec.PointsRow{}, Before: []spec.PointsRow{}, Refused: []spec.RefusedRow{}}
	for _, r := range refused {
		out.Refused = append(out.Refused, spec.RefusedRow{Row: r.N, Text: r.Text, Why: r.Why})
	}
	no := func(r pearls.Row, why string) {
		out.Refused = append(out.Refused, spec.RefusedRow{Row: r.N, Text: strings.TrimSpace(r.Account + " " + r.Login), Why: why})
	}
	ctx := c.Request().Context()
	grants, before, err := x.granted(c, rows, no)
	if err != nil {
		return err
	}
	for i, g := range grants {
		row := spec.PointsRow{Row: g.N, Account: g.who.Key(), Name: g.who.Shown(), Points: g.Points}
		if before[i] {
			out.Before = append(out.Before, row)
			if !in.Again {
				continue
			}
			g.id = "" // done anew, as by hand
		}
		if in.Take {
			ds, done, err := x.house.HandOnce(ctx, g.id, &event.PointsGranted{Person: *g.who, Amount: g.Points, Reason: "brought in from a file", Member: edge.MemberOf(c).Name})
			if err != nil {
				return err
			}
			if why := refusedFor(ds); why != "" {
				no(g.Row, why)
				continue
			}
			if done { // by somebody else, in this moment
				out.Before = append(out.Before, row)
				continue
			}
			out.Taken++
		}
		out.Rows = append(out.Rows, row)
	}
	return c.JSON(http.StatusOK, out)
}

// grant is a row that means somebody.
type grant struct {
	pearls.Row
	who *event.Person
	id  string // of its event, so that what broke off is brought to its end without giving anybody theirs twice
}

// granted are the rows that mean somebody, and which of them a file gave just as many before.
func (x *Rewarding) granted(c *echo.Context, rows []pearls.Row, no func(pearls.Row, string)) (grants []grant, before map[int]bool, err error) {
	var ids []string
	var of []int // whose grant each id is
	times := map[string]int{}
	for _, r := range rows {
		who, why, err := x.whose(c, r)
		if err != nil {
			return nil, nil, err
		}
		if why == "" {
			why = points.Refusal(x.house.Plan(), *who) // before anything has the row's id
		}
		if why != "" {
			no(r, why)
			continue
		}
		same := fmt.Sprint(who.Key(), " ", r.Points) // a file may give the same twice
		times[same]++
		for _, id := range x.house.Reckoning().Points.GrantIDs(who.Key(), r.Points, times[same]) {
			ids, of = append(ids, id), append(of, len(grants))
		}
		grants = append(grants, grant{r, who, ids[len(ids)-1]})
	}
	handed, err := x.house.HandedBefore(c.Request().Context(), ids)
	before = map[int]bool{}
	for i := range handed {
		before[of[i]] = true
	}
	return grants, before, err
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
