package api

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"

	"github.com/labstack/echo/v5"

	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/house"
	"vividporch/porch"
	"vividporch/spec"
)

// mostFile bounds a request with a house file in it, whose text grows a little as
// a JSON string.
const mostFile = 2 * house.MostFile

// GetHouseFile answers GET /api/settings/file.
func (s *Server) GetHouseFile(c *echo.Context, p spec.GetHouseFileParams) error {
	set := s.house.Plan().Settings
	name, out := set.Channel, any(set)
	ids := p.Courtesies
	if p.Crew != "" {
		ids = append(slices.Clone(ids), house.OfCrew(set, p.Crew)...)
	}
	if len(p.Courtesies) > 0 || p.Crew != "" {
		for _, id := range p.Courtesies {
			if _, err := findCourtesy(set, id); err != nil {
				return err
			}
		}
		name, out = name+"-part", house.Part(set, ids)
	}
	c.Response().Header().Set("Content-Disposition", fmt.Sprintf(`attachment; filename="%s-house.json"`, name))
	return c.JSONPretty(http.StatusOK, out, "  ")
}

// incoming reads a house file and lays it over the settings in force.
func (s *Server) incoming(in spec.HouseFileIn, now *house.Settings) (file *house.Incoming, sections []string, next *house.Settings, err error) {
	if file, err = house.ReadFile([]byte(in.File)); err != nil {
		return nil, nil, nil, &event.FieldError{Field: "file", Remedy: err.Error()}
	}
	sections = in.Sections
	if sections == nil {
		sections = file.Usual(now.Channel)
	}
	if next, err = file.Onto(now, sections, in.Whole, !in.KeepName); err != nil {
		return nil, nil, nil, &event.FieldError{Field: "file", Remedy: err.Error()}
	}
	return file, sections, next, nil
}

// LookAtHouseFile answers POST /api/settings/file.
func (s *Server) LookAtHouseFile(c *echo.Context) error {
	var in spec.HouseFileIn
	if err := decodeMost(c, &in, mostFile); err != nil {
		return err
	}
	now := s.house.Plan().Settings
	file, sections, next, err := s.incoming(in, now)
	if err != nil {
		return err
	}
	diff, err := house.Compare(now, next)
	if err != nil {
		return err
	}
	out := spec.HouseFileLook{Channel: file.Channel(), Other: file.Channel() != "" && !strings.EqualFold(file.Channel(), now.Channel), Holds: file.Holds(), Sections: sections,
		Differences: []spec.Difference{}, Missing: []string{}, Faults: []spec.Fault{}}
	for _, d := range diff {
		out.Differences = append(out.Differences, spec.Difference{At: d.At, Before: d.Before, After: d.After})
	}
	_, faults := house.Ready(next, 1)
	for _, f := range faults {
		out.Faults = append(out.Faults, spec.Fault{At: strings.Trim(f.Courtesy+" "+f.At, " "), What: f.What, Remedy: f.Remedy})
	}
	if out.Missing, err = s.missing(c.Request().Context(), next); err != nil {
		return err
	}
	return c.JSON(http.StatusOK, out)
}

// missing lists the crews and people that courtesies ask for and that are not in
// the guest book.
func (s *Server) missing(ctx context.Context, set *house.Settings) ([]string, error) {
	out := []string{}
	list, err := s.store.CrewList(ctx, s.house.ID)
	if err != nil {
		return nil, err
	}
	crews, accounts := map[string]bool{}, map[string]bool{}
	for _, k := range list {
		crews[k.ID] = true
	}
	var asked []string
	for i := range set.Courtesy {
		set.Courtesy[i].Who.Each(func(w *courtesy.Who) {
			if w.Crews != nil {
				for _, id := range w.Crews.Of {
					if !crews[id] {
						crews[id] = true
						out = append(out, "there is no crew "+id+" in the guest book")
					}
				}
			}
			if w.Account != "" && !accounts[w.Account] {
				accounts[w.Account] = true
				asked = append(asked, w.Account)
			}
		})
	}
	names, err := s.store.AccountNames(ctx, s.house.ID, asked)
	if err != nil {
		return nil, err
	}
	shelf, err := s.store.Shelf(ctx, s.house.ID)
	if err != nil {
		return nil, err
	}
	onShelf := map[string]bool{"": true}
	for _, m := range shelf {
		onShelf[m.Name] = true
	}
	for _, cy := range set.Courtesy {
		for _, o := range cy.Do {
			if !onShelf[o.Media] {
				onShelf[o.Media] = true
				out = append(out, o.Media+" is not on the shelf")
			}
		}
	}
	for _, a := range asked {
		if _, ok := names[a]; !ok {
			out = append(out, "nobody in the guest book has the account "+a)
		}
	}
	return out, nil
}

// TakeHouseFile answers PUT /api/settings/file.
func (s *Server) TakeHouseFile(c *echo.Context) error {
	var in spec.HouseFileIn
	if err := decodeMost(c, &in, mostFile); err != nil {
		return err
	}
	err := s.change(c, "a house file taken in", func(set *house.Settings) error {
		_, _, next, err := s.incoming(in, set)
		if err == nil {
			*set = *next
		}
		return err
	})
	if errors.Is(err, porch.ErrOvertaken) {
		return problem(http.StatusConflict, "Somebody else changed the settings in the same moment", "Look at the file once more.")
	}
	return err
}
