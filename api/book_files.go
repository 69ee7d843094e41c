package api

import (
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/labstack/echo/v5"

	"vividporch/core/card"
	"vividporch/core/event"
	"vividporch/core/people"
	"vividporch/formats"
	"vividporch/porch/desk"
	"vividporch/spec"
	"vividporch/store/book"
	"vividporch/store/imports"
	"vividporch/store/pg"
	"vividporch/store/tables"
)

// GetCrews answers GET /api/book/crews.
func (s *Server) GetCrews(c *echo.Context) error {
	ctx := c.Request().Context()
	crews, err := s.store.Book.CrewList(ctx, s.house.ID)
	if err != nil {
		return err
	}
	members, err := s.store.Book.CrewMembers(ctx, s.house.ID)
	if err != nil {
		return err
	}
	out := spec.Crews{Crews: []spec.Crew{}, Combinations: []spec.Combination{}, Emblems: event.Emblems}
	for _, k := range crews {
		out.Crews = append(out.Crews, crewView(k))
	}
	const shown = 200
	combos := people.Combine(members)
	var ids []int64
	for _, k := range combos {
		ids = append(ids, k.People[:min(shown, len(k.People))]...)
	}
	names, err := s.store.Find.Names(ctx, s.house.ID, ids)
	if err != nil {
		return err
	}
	for _, k := range combos {
		v := spec.Combination{Crews: k.Crews, Count: len(k.People), People: []spec.NamedPerson{}}
		for _, p := range k.People[:min(shown, len(k.People))] {
			v.People = append(v.People, spec.NamedPerson{Person: p, Name: names[p]})
		}
		out.Combinations = append(out.Combinations, v)
	}
	return c.JSON(http.StatusOK, out)
}

// SetCrew answers PUT /api/book/crews.
func (s *Server) SetCrew(c *echo.Context) error {
	var in spec.Crew
	if err := decode(c, &in); err != nil {
		return err
	}
	d := &event.BookCrewed{ID: in.ID, Name: strings.TrimSpace(in.Name), Emblem: in.Emblem, Initials: in.Initials, Member: memberOf(c).Name}
	if err := s.house.Desk.PutCrew(c.Request().Context(), d); err != nil {
		return crewProblem(err)
	}
	return c.JSON(http.StatusOK, spec.Crew{ID: d.ID, Name: d.Name, Emblem: d.Emblem, Initials: d.Initials, People: in.People})
}

// ChangeCrew answers PATCH /api/book/crews/{id}.
func (s *Server) ChangeCrew(c *echo.Context, id string) error {
	var in spec.CrewChange
	if err := decode(c, &in); err != nil {
		return err
	}
	k, err := s.house.Desk.ChangeCrew(c.Request().Context(), &event.BookCrewed{ID: id, Name: strings.TrimSpace(in.Name), Emblem: in.Emblem, Initials: strings.TrimSpace(in.Initials), Member: memberOf(c).Name})
	if err != nil {
		return crewProblem(err)
	}
	if k == nil {
		return problem(http.StatusNotFound, "That crew is no more", "Somebody took it away; make it anew.")
	}
	return c.JSON(http.StatusOK, crewView(*k))
}

// crewProblem says whose a name is.
func crewProblem(err error) error {
	if taken := new(desk.CrewTakenError); errors.As(err, &taken) {
		return problem(http.StatusConflict, "There is a crew "+taken.Crew+" already", "Open it in the list; or give this one another name.")
	}
	return err
}

func crewView(k book.CrewCount) spec.Crew {
	return spec.Crew{ID: k.ID, Name: k.Name, Emblem: k.Emblem, Initials: k.Initials, People: k.People}
}

// DropCrew answers DELETE /api/book/crews/{id}.
func (s *Server) DropCrew(c *echo.Context, id string) error {
	seq, err := s.house.Desk.DropCrew(c.Request().Context(), memberOf(c).Name, id)
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, spec.BookEdited{Seq: seq, What: "crew taken away"})
}

// GetCrewList answers GET /api/book/crews/{id}/list.
func (s *Server) GetCrewList(c *echo.Context, id string) error {
	logins, err := s.store.Book.CrewLogins(c.Request().Context(), s.house.ID, id)
	if err != nil {
		return err
	}
	c.Response().Header().Set("Content-Disposition", fmt.Sprintf(`attachment; filename="%s.txt"`, id))
	return c.String(http.StatusOK, strings.Join(logins, "\n")+"\n")
}

// ReadCrewList answers POST /api/book/crews/{id}/list.
func (s *Server) ReadCrewList(c *echo.Context, id string) error {
	var in spec.PastedList
	if err := decode(c, &in); err != nil {
		return err
	}
	ctx := c.Request().Context()
	listed := s.house.Desk.Understand(in.Text, in.Platform)
	im, rows, err := s.house.Desk.StageCrew(ctx, memberOf(c).Name, id, listed)
	if err != nil {
		return err
	}
	out := spec.Understood{Lines: []spec.UnderstoodLine{}}
	for _, l := range listed {
		v := spec.UnderstoodLine{Line: l.Line, Said: l.Said, Platform: l.Platform, Login: l.Login, Why: l.Why}
		if i := slices.IndexFunc(rows, func(r tables.ImportRow) bool { return l.Why == "" && r.Name == l.Platform+":"+l.Login }); i >= 0 {
			if v.Person, v.Why = rows[i].Person, rows[i].Why; v.Person > 0 {
				out.Known++
			} else if v.Why == "" {
				out.Fresh++
			}
		}
		if v.Why != "" {
			out.Left++
		}
		out.Lines = append(out.Lines, v)
	}
	if !in.Take { // nothing of it is kept
		if err := s.store.Imports.Drop(ctx, s.house.ID, im.ID); err != nil {
			return err
		}
		return c.JSON(http.StatusOK, out)
	}
	if _, err := s.house.Desk.TakeIn(ctx, im.ID, false); err != nil {
		return err
	}
	out.Taken, out.Import = true, im.ID
	return c.JSON(http.StatusOK, out)
}

// importView draws an import with some of its rows.
func importView(im tables.Import, rows []tables.ImportRow, notes []string) spec.Import {
	var n imports.Counts
	_ = json.Unmarshal(im.Counts, &n) // as Stage wrote it
	out := spec.Import{ID: im.ID, File: im.File, State: spec.ImportState(im.State), At: im.Created, Member: im.Member, New: n.New, Changed: n.Changed, Unchanged: n.Unchanged, Refused: n.Refused,
		Streams: n.Streams, Crews: n.Crews, Rows: []spec.ImportRow{}, Notes: notes}
	if notes == nil {
		out.Notes = []string{}
	}
	for _, r := range rows {
		v := spec.ImportRow{Row: r.Row, Verdict: r.Verdict, Name: r.Name, Why: r.Why, Person: r.Person}
		var changes []card.Change
		if json.Unmarshal(r.Changes, &changes) == nil {
			for _, ch := range changes {
				v.Changes = append(v.Changes, spec.FieldChange{Field: ch.Field, Was: ch.Was, Now: ch.Now})
			}
		}
		out.Rows = append(out.Rows, v)
	}
	return out
}

// GetImports answers GET /api/book/imports.
func (s *Server) GetImports(c *echo.Context) error {
	ctx := c.Request().Context()
	list, err := s.store.Imports.List(ctx, s.house.ID, 20)
	if err != nil {
		return err
	}
	tags, err := s.store.Find.Tags(ctx, s.house.ID)
	if err != nil {
		return err
	}
	out := spec.Imports{Imports: []spec.Import{}, Tags: tags}
	for _, im := range list {
		out.Imports = append(out.Imports, importView(im, nil, nil))
	}
	return c.JSON(http.StatusOK, out)
}

// ReadImport answers POST /api/book/imports.
func (s *Server) ReadImport(c *echo.Context, p spec.ReadImportParams) error {
	im, notes, err := s.house.Desk.ReadFile(c.Request().Context(), memberOf(c).Name, p.File, string(p.Format), c.Request().Body,
		formats.Options{Platform: strings.ToLower(strings.TrimSpace(p.Platform)), MonthFirst: p.MonthFirst})
	var unreadable *desk.Unreadable
	if errors.As(err, &unreadable) {
		return &fault{Problem: spec.Problem{Status: http.StatusUnprocessableEntity, Title: "The file cannot be read", Field: "file", Remedy: err.Error()}}
	}
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, importView(*im, nil, notes))
}

// GetImport answers GET /api/book/imports/{id}.
func (s *Server) GetImport(c *echo.Context, id int64, p spec.GetImportParams) error {
	ctx := c.Request().Context()
	im, err := s.store.Imports.ByID(ctx, s.house.ID, id)
	if errors.Is(err, pg.ErrNone) {
		return problem(http.StatusNotFound, "There is no such import", "It may have been dropped; bring the file in again.")
	}
	if err != nil {
		return err
	}
	var rows []tables.ImportRow
	if p.Verdict != "" {
		if rows, err = s.store.Imports.Rows(ctx, id, p.Verdict, p.After, 100); err != nil {
			return err
		}
	}
	return c.JSON(http.StatusOK, importView(im, rows, nil))
}

// HandleImport answers POST /api/book/imports/{id}.
func (s *Server) HandleImport(c *echo.Context, id int64) error {
	var in spec.ImportAct
	if err := decode(c, &in); err != nil {
		return err
	}
	ctx := c.Request().Context()
	var err error
	switch in.Act {
	case spec.ImportActActApply, spec.ImportActActUndo:
		_, err = s.house.Desk.TakeIn(ctx, id, in.Act == spec.ImportActActUndo)
	case spec.ImportActActDrop:
		err = s.store.Imports.Drop(ctx, s.house.ID, id)
	default:
		return &event.FieldError{Field: "act", Remedy: "must be apply, undo or drop"}
	}
	switch {
	case errors.Is(err, imports.ErrDone):
		return problem(http.StatusConflict, "This cannot be done any more", err.Error())
	case err != nil:
		return nobody(err)
	}
	im, err := s.store.Imports.ByID(ctx, s.house.ID, id)
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, importView(im, nil, nil))
}

// ExportPeople answers GET /api/book/export.
func (s *Server) ExportPeople(c *echo.Context, p spec.ExportPeopleParams) error {
	ctx := c.Request().Context()
	w := c.Response()
	kind, ok := map[string]string{"csv": "text/csv; charset=utf-8", "vcf": "text/vcard; charset=utf-8", "jsonl": "application/jsonl"}[string(p.Format)]
	if !ok {
		return &event.FieldError{Field: "format", Remedy: "must be csv, vcf or jsonl"}
	}
	w.Header().Set("Content-Type", kind)
	w.Header().Set("Content-Disposition", fmt.Sprintf(`attachment; filename="guest-book-%s.%s"`, time.Now().Format("2006-01-02"), p.Format))
	return s.house.Desk.Export(ctx, w, string(p.Format), p.Persons)
}

// GetKept answers GET /api/book/people/{person}/kept.
func (s *Server) GetKept(c *echo.Context, person int64) error {
	k, err := s.store.Privacy.Everything(c.Request().Context(), s.house.ID, person)
	if err != nil {
		return nobody(err)
	}
	c.Response().Header().Set("Content-Disposition", fmt.Sprintf(`attachment; filename="kept-%d.json"`, person))
	return c.JSONPretty(http.StatusOK, k, "  ")
}

// ForgetPerson answers POST /api/book/people/{person}/forget.
func (s *Server) ForgetPerson(c *echo.Context, person int64) error {
	if err := s.house.Desk.Forget(c.Request().Context(), memberOf(c).Name, person); err != nil {
		return nobody(err)
	}
	return deed(c, nil)
}
