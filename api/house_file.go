package api

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"

	"github.com/labstack/echo/v5"

	"vividporch/core/carry"
	"vividporch/core/event"
	"vividporch/core/house"
	"vividporch/core/housefile"
	"vividporch/porch/desk"
	"vividporch/spec"
	"vividporch/store/book"
	"vividporch/store/tables"
)

// mostFile bounds a request with a house file in it, whose text grows a little as
// a JSON string.
const mostFile = 2 * carry.Most

// outgoing is the whole house file, or the part of it that was asked for: some
// courtesies by id, and those of a crew. media are what a part uses; nil is all.
func (s *Server) outgoing(ctx context.Context, courtesies []string, crew string) (name string, doc any, media []string, err error) {
	set := s.house.Plan().Whole
	name = set.Channel
	for _, id := range courtesies {
		if _, err := findCourtesy(set, id); err != nil {
			return "", nil, nil, err
		}
	}
	if len(courtesies) == 0 && crew == "" {
		doc, media, err = desk.HouseFile(ctx, s.store, s.house.ID, set, nil)
		return name, doc, media, err
	}
	ids := append([]string{}, courtesies...) // a part, even of a crew that nothing is for yet
	if crew != "" {
		ids = append(ids, carry.OfCrew(set, crew)...)
	}
	doc, media, err = desk.HouseFile(ctx, s.store, s.house.ID, set, ids, crew)
	return name + "-part", doc, media, err
}

// GetHouseFile answers GET /api/settings/file.
func (s *Server) GetHouseFile(c *echo.Context, p spec.GetHouseFileParams) error {
	name, out, _, err := s.outgoing(c.Request().Context(), p.Courtesies, p.Crew)
	if err != nil {
		return err
	}
	c.Response().Header().Set("Content-Disposition", fmt.Sprintf(`attachment; filename="%s-house.json"`, name))
	return c.JSONPretty(http.StatusOK, out, "  ")
}

// taking reads a house file that is to be taken in.
func (s *Server) taking(in spec.HouseFileIn) (t desk.Taking, next *housefile.Settings, err error) {
	wrong := func(err error) error { return &event.FieldError{Field: "file", Remedy: err.Error()} }
	now := s.house.Plan().Whole
	t = desk.Taking{Sections: in.Sections, Whole: in.Whole, KeepName: in.KeepName}
	if t.File, err = carry.Read([]byte(in.File)); err != nil {
		return t, nil, wrong(err)
	}
	if t.Sections == nil {
		t.Sections = t.File.Usual(now.Channel)
	}
	if next, err = t.Onto(now); err != nil {
		return t, nil, wrong(err)
	}
	return t, next, nil
}

// LookAtHouseFile answers POST /api/settings/file.
func (s *Server) LookAtHouseFile(c *echo.Context) error {
	var in spec.HouseFileIn
	if err := decode(c, &in); err != nil {
		return err
	}
	t, next, err := s.taking(in)
	if err != nil {
		return err
	}
	now := s.house.Plan().Whole
	diff, err := housefile.Compare(now, next)
	if err != nil {
		return err
	}
	crews := t.File.Crews(t.Sections)
	leads := []spec.Leading{}
	for _, l := range t.File.Leads() {
		leads = append(leads, spec.Leading{Section: l.Section, Name: l.Name, Address: l.Address})
	}
	more, err := s.house.Desk.CrewChanges(c.Request().Context(), crews)
	if err != nil {
		return err
	}
	from := t.File.Channel()
	out := spec.HouseFileLook{Channel: from, Other: from != "" && !strings.EqualFold(from, now.Channel), Holds: t.File.Holds(), Sections: t.Sections,
		Differences: []spec.Difference{}, Faults: []spec.Fault{}, Leads: leads}
	for _, d := range append(diff, more...) {
		out.Differences = append(out.Differences, spec.Difference{At: d.At, Before: d.Before, After: d.After})
	}
	_, faults := house.Ready(next, 1)
	for _, f := range faults {
		out.Faults = append(out.Faults, spec.Fault{At: strings.Trim(f.Courtesy+" "+f.At, " "), What: f.What, Remedy: f.Remedy})
	}
	if out.Missing, err = s.missing(c.Request().Context(), next, in.Along, crews); err != nil {
		return err
	}
	return c.JSON(http.StatusOK, out)
}

// missing lists what courtesies and overlays ask for and is neither in the guest book nor on
// the shelf; media and crews that come along count as there.
func (s *Server) missing(ctx context.Context, set *housefile.Settings, along []string, crews []carry.Crew) ([]string, error) {
	needed := carry.Needs(set.Courtesy, set.Overlays)
	list, err := s.store.Book.CrewList(ctx, s.house.ID)
	if err != nil {
		return nil, err
	}
	names, err := s.store.Book.AccountNames(ctx, s.house.ID, needed.Accounts)
	if err != nil {
		return nil, err
	}
	shelf, err := s.store.Shelf.List(ctx, s.house.ID)
	if err != nil {
		return nil, err
	}
	out := []string{}
	for _, id := range needed.Crews {
		if !slices.ContainsFunc(crews, func(k carry.Crew) bool { return k.ID == id }) && !slices.ContainsFunc(list, func(k book.CrewCount) bool { return k.ID == id }) {
			out = append(out, "there is no crew "+id+" in the guest book")
		}
	}
	for _, name := range needed.Media {
		if !slices.Contains(along, name) && !slices.ContainsFunc(shelf, func(m tables.Medium) bool { return m.Name == name }) {
			out = append(out, name+" is not on the shelf")
		}
	}
	for _, a := range needed.Accounts {
		if _, ok := names[a]; !ok {
			out = append(out, "nobody in the guest book has the account "+a)
		}
	}
	return out, nil
}

// TakeHouseFile answers PUT /api/settings/file.
func (s *Server) TakeHouseFile(c *echo.Context) error {
	var in spec.HouseFileIn
	if err := decode(c, &in); err != nil {
		return err
	}
	t, _, err := s.taking(in)
	if err != nil {
		return err
	}
	return s.takeIn(c, t)
}

func (s *Server) takeIn(c *echo.Context, t desk.Taking) error {
	v, err := s.house.Desk.TakeFile(c.Request().Context(), by(c), t)
	if errors.Is(err, desk.ErrUnchanged) { // crews or media alone
		v = s.house.Plan().Version
	}
	return s.inForce(c, v, err)
}
