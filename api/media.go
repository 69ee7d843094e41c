package api

import (
	"crypto/sha256"
	"errors"
	"fmt"
	"io"
	"net/http"
	"slices"

	"github.com/labstack/echo/v5"

	"vividporch/api/edge"
	"vividporch/core/event"
	"vividporch/formats/bundle"
	"vividporch/formats/media"
	"vividporch/porch/desk"
	"vividporch/spec"
	"vividporch/store/pg"
	"vividporch/store/tables"
)

// GetMedia answers GET /api/media.
func (s *Server) GetMedia(c *echo.Context) error {
	list, err := s.store.Shelf.List(c.Request().Context(), s.house.ID)
	if err != nil {
		return err
	}
	out := spec.Shelf{Items: []spec.Medium{}, Most: media.Most}
	for _, m := range list {
		out.Items = append(out.Items, mediumView(m))
		out.Bytes += m.Bytes
	}
	return c.JSON(http.StatusOK, out)
}

func mediumView(m tables.Medium) spec.Medium {
	return spec.Medium{Name: m.Name, Type: m.Type, Kind: spec.MediumKind(m.Kind), Bytes: m.Bytes, Width: m.Width, Height: m.Height, Seconds: m.Seconds, Lufs: m.LUFS}
}

// AddMedia answers POST /api/media.
func (s *Server) AddMedia(c *echo.Context, p spec.AddMediaParams) error {
	if c.Request().ContentLength > media.Most {
		return tooBig(p.Name, c.Request().ContentLength)
	}
	data, err := io.ReadAll(io.LimitReader(c.Request().Body, media.Most+1))
	if err != nil {
		return err
	}
	m, err := s.medium(p.Name, data)
	if err != nil {
		return err
	}
	if err := s.store.Shelf.Put(c.Request().Context(), []tables.Medium{m}); err != nil {
		return err
	}
	return c.JSON(http.StatusCreated, mediumView(m))
}

func tooBig(name string, n int64) error {
	return problem(http.StatusRequestEntityTooLarge, "This file is too big", fmt.Sprintf("%s has %d MB or more; a file on the shelf has at most %d.", name, n>>20, media.Most>>20))
}

// medium reads what a file is; its name says nothing about that.
func (s *Server) medium(name string, data []byte) (tables.Medium, error) {
	if err := media.CheckName(name); err != nil {
		return tables.Medium{}, &event.FieldError{Field: "name", Remedy: err.Error()}
	}
	if len(data) > media.Most {
		return tables.Medium{}, tooBig(name, int64(len(data)))
	}
	info, err := media.Read(data)
	if err != nil {
		return tables.Medium{}, &event.FieldError{Field: "media." + name, Remedy: err.Error()}
	}
	return desk.NewMedium(s.house.ID, name, info, data), nil
}

// GetMedium answers GET /api/media/{name}. A drawing is shut in, so that it could
// do nothing even if it held more than it seems.
func (s *Server) GetMedium(c *echo.Context, name string) error {
	return edge.OfShelf(c, s.store, s.house.ID, name)
}

// DropMedium answers DELETE /api/media/{name}.
func (s *Server) DropMedium(c *echo.Context, name string) error {
	for _, cy := range s.house.Plan().Settings.Courtesy {
		for _, o := range cy.Do {
			if o.Media() == name {
				return problem(http.StatusConflict, name+" is in use", "The courtesy "+cy.ID+" shows or plays it; choose another there first.")
			}
		}
	}
	for i := range s.house.Plan().Settings.Overlays {
		o := &s.house.Plan().Settings.Overlays[i]
		for k := range o.Boxes {
			if slices.Contains(o.Boxes[k].Media(), name) {
				return problem(http.StatusConflict, name+" is in use", "The box "+o.Boxes[k].Called()+" on the overlay "+o.Title+" shows it; choose another there first.")
			}
		}
	}
	if err := s.store.Shelf.Drop(c.Request().Context(), s.house.ID, name, s.house.Clock()); err != nil {
		return err
	}
	return c.NoContent(http.StatusNoContent)
}

// PutMediumBack answers POST /api/media/{name}/back.
func (s *Server) PutMediumBack(c *echo.Context, name string) error {
	err := s.store.Shelf.Back(c.Request().Context(), s.house.ID, name)
	if errors.Is(err, pg.ErrNone) {
		return problem(http.StatusNotFound, name+" cannot be put back", "It was taken off more than a day ago, or another file has its name now; bring it in again.")
	}
	if err != nil {
		return err
	}
	return c.NoContent(http.StatusNoContent)
}

// GetBundle answers GET /api/settings/bundle.
func (s *Server) GetBundle(c *echo.Context, p spec.GetBundleParams) error {
	name, doc, only, err := s.outgoing(c.Request().Context(), p.Courtesies, p.Crew)
	if err != nil {
		return err
	}
	h := c.Response().Header()
	h.Set("Content-Type", "application/zip")
	h.Set("Content-Disposition", fmt.Sprintf(`attachment; filename="%s-house.zip"`, name))
	return desk.Bundle(c.Request().Context(), s.store, s.house.ID, doc, only, c.Response())
}

// bundled reads a bundle from a request: its house file, and its media for the shelf.
func (s *Server) bundled(c *echo.Context) (file string, media []tables.Medium, err error) {
	raw, err := io.ReadAll(io.LimitReader(c.Request().Body, bundle.Most+1))
	if err != nil {
		return "", nil, err
	}
	if len(raw) > bundle.Most {
		return "", nil, problem(http.StatusRequestEntityTooLarge, "This file is too big", fmt.Sprintf("A house file with its media has at most %d MB.", bundle.Most>>20))
	}
	house, files, err := bundle.Read(raw)
	var fault *bundle.Fault
	if errors.As(err, &fault) {
		return "", nil, &event.FieldError{Field: fault.At, Remedy: fault.Remedy}
	}
	for _, f := range files {
		media = append(media, desk.NewMedium(s.house.ID, f.Name, f.Info, f.Data))
	}
	return string(house), media, err
}

// LookAtBundle answers POST /api/settings/bundle.
func (s *Server) LookAtBundle(c *echo.Context) error {
	file, list, err := s.bundled(c)
	if err != nil {
		return err
	}
	sums, err := s.store.Shelf.Sums(c.Request().Context(), s.house.ID)
	if err != nil {
		return err
	}
	out := spec.Bundle{File: file, Media: []spec.BundledMedium{}}
	for _, m := range list {
		v := spec.BundledMedium{Name: m.Name, Kind: spec.BundledMediumKind(m.Kind), Bytes: m.Bytes, Shelf: spec.BundledMediumShelfLacking}
		if sum, there := sums[m.Name]; there {
			v.Shelf = spec.BundledMediumShelfOther
			if sum == sha256.Sum256(m.Data) {
				v.Shelf = spec.BundledMediumShelfSame
			}
		}
		out.Media = append(out.Media, v)
	}
	return c.JSON(http.StatusOK, out)
}

// TakeBundle answers PUT /api/settings/bundle.
func (s *Server) TakeBundle(c *echo.Context, p spec.TakeBundleParams) error {
	file, list, err := s.bundled(c)
	if err != nil {
		return err
	}
	t, _, err := s.taking(spec.HouseFileIn{File: file, Sections: p.Sections, Whole: p.Whole, KeepName: p.KeepName})
	if err != nil {
		return err
	}
	t.Media = list
	return s.takeIn(c, t)
}
