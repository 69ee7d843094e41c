package api

import (
	"archive/zip"
	"bytes"
	"errors"
	"fmt"
	"io"
	"net/http"
	"path"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/labstack/echo/v5"

	"vividporch/core/event"
	"vividporch/core/house"
	"vividporch/formats/media"
	"vividporch/spec"
	"vividporch/store"
)

// Limits of the shelf.
const (
	mostMedium = 20 << 20  // bytes of one file
	mostBundle = 150 << 20 // bytes of a house file with its media, packed and unpacked alike
	mostOnIt   = 500       // files
)

// GetMedia answers GET /api/media.
func (s *Server) GetMedia(c *echo.Context) error {
	list, err := s.store.Shelf(c.Request().Context(), s.house.ID)
	if err != nil {
		return err
	}
	out := spec.Shelf{Items: []spec.Medium{}, Most: mostMedium}
	for _, m := range list {
		out.Items = append(out.Items, mediumView(m))
		out.Bytes += m.Bytes
	}
	return c.JSON(http.StatusOK, out)
}

func mediumView(m store.Medium) spec.Medium {
	return spec.Medium{Name: m.Name, Type: m.Type, Kind: spec.MediumKind(m.Kind), Bytes: m.Bytes, Width: m.Width, Height: m.Height, Seconds: m.Seconds}
}

// AddMedia answers POST /api/media.
func (s *Server) AddMedia(c *echo.Context, p spec.AddMediaParams) error {
	if c.Request().ContentLength > mostMedium {
		return tooBig(p.Name, c.Request().ContentLength)
	}
	data, err := io.ReadAll(io.LimitReader(c.Request().Body, mostMedium+1))
	if err != nil {
		return err
	}
	m, err := s.medium(p.Name, data)
	if err != nil {
		return err
	}
	if err := s.store.PutMedia(c.Request().Context(), []store.Medium{m}); err != nil {
		return err
	}
	return c.JSON(http.StatusCreated, mediumView(m))
}

func tooBig(name string, n int64) error {
	return problem(http.StatusRequestEntityTooLarge, "This file is too big", fmt.Sprintf("%s has %d MB or more; a file on the shelf has at most %d.", name, n>>20, mostMedium>>20))
}

// medium reads what a file is; its name says nothing about that.
func (s *Server) medium(name string, data []byte) (store.Medium, error) {
	if name == "" || len(name) > 80 || !utf8.ValidString(name) || strings.ContainsAny(name, "/\\<>:\"|?*") || strings.HasPrefix(name, ".") || strings.ContainsFunc(name, func(r rune) bool { return r < 32 }) {
		return store.Medium{}, &event.FieldError{Field: "name", Remedy: fmt.Sprintf("%q is no name for a file; use letters, digits, dashes and dots, at most 80", name)}
	}
	if len(data) > mostMedium {
		return store.Medium{}, tooBig(name, int64(len(data)))
	}
	info, err := media.Read(data)
	if err != nil {
		return store.Medium{}, &event.FieldError{Field: "media." + name, Remedy: err.Error()}
	}
	return store.Medium{Channel: s.house.ID, Name: name, Type: info.Type, Kind: string(info.Kind), Bytes: int64(len(data)), Width: info.Width, Height: info.Height, Seconds: info.Seconds, At: time.Now(), Data: data}, nil
}

// GetMedium answers GET /api/media/{name}. A drawing is shut in, so that it could
// do nothing even if it held more than it seems.
func (s *Server) GetMedium(c *echo.Context, name string) error {
	m, err := s.store.MediumNamed(c.Request().Context(), s.house.ID, name)
	if errors.Is(err, store.ErrNone) {
		return problem(http.StatusNotFound, "There is no such file on the shelf", "It may have been taken off.")
	}
	if err != nil {
		return err
	}
	h := c.Response().Header()
	h.Set("Content-Type", m.Type)
	h.Set("Content-Security-Policy", "default-src 'none'; style-src 'unsafe-inline'; sandbox")
	h.Set("Cache-Control", "private, max-age=60")
	http.ServeContent(c.Response(), c.Request(), "", m.At, bytes.NewReader(m.Data))
	return nil
}

// DropMedium answers DELETE /api/media/{name}.
func (s *Server) DropMedium(c *echo.Context, name string) error {
	for _, cy := range s.house.Plan().Settings.Courtesy {
		for _, o := range cy.Do {
			if o.Media == name {
				return problem(http.StatusConflict, name+" is in use", "The courtesy "+cy.ID+" shows or plays it; choose another there first.")
			}
		}
	}
	if err := s.store.DropMedium(c.Request().Context(), s.house.ID, name); err != nil {
		return err
	}
	return c.NoContent(http.StatusNoContent)
}

// GetBundle answers GET /api/settings/bundle.
func (s *Server) GetBundle(c *echo.Context) error {
	set := s.house.Plan().Settings
	h := c.Response().Header()
	h.Set("Content-Type", "application/zip")
	h.Set("Content-Disposition", fmt.Sprintf(`attachment; filename="%s-house.zip"`, set.Channel))
	return s.store.Bundle(c.Request().Context(), s.house.ID, set, c.Response())
}

// ReadBundle answers POST /api/settings/bundle.
func (s *Server) ReadBundle(c *echo.Context) error {
	raw, err := io.ReadAll(io.LimitReader(c.Request().Body, mostBundle+1))
	if err != nil {
		return err
	}
	if len(raw) > mostBundle {
		return problem(http.StatusRequestEntityTooLarge, "This file is too big", fmt.Sprintf("A house file with its media has at most %d MB.", mostBundle>>20))
	}
	file, list, err := s.unpack(raw)
	if err != nil {
		return err
	}
	if err := s.store.PutMedia(c.Request().Context(), list); err != nil {
		return err
	}
	out := spec.Bundle{File: string(file), Media: []string{}}
	for _, m := range list {
		out.Media = append(out.Media, m.Name)
	}
	return c.JSON(http.StatusOK, out)
}

// unpack reads a bundle whole before anything of it is used.
func (s *Server) unpack(raw []byte) (file []byte, list []store.Medium, err error) {
	no := func(at, remedy string) error { return &event.FieldError{Field: at, Remedy: remedy} }
	z, err := zip.NewReader(bytes.NewReader(raw), int64(len(raw)))
	if err != nil {
		return nil, nil, no("file", "is no ZIP: "+err.Error())
	}
	left := int64(mostBundle)
	for _, f := range z.File {
		if f.FileInfo().IsDir() {
			continue
		}
		dir, name := path.Split(f.Name)
		if f.Name != "house.json" && dir != "media/" {
			return nil, nil, no(f.Name, "does not belong in a bundle; it holds house.json and media/")
		}
		most := int64(mostMedium)
		if f.Name == "house.json" {
			most = house.MostFile
		}
		in, err := f.Open()
		if err != nil {
			return nil, nil, no(f.Name, err.Error())
		}
		data, err := io.ReadAll(io.LimitReader(in, min(most, left)+1)) // what the archive says of sizes is not believed
		in.Close()
		if err != nil {
			return nil, nil, no(f.Name, "cannot be unpacked: "+err.Error())
		}
		if int64(len(data)) > min(most, left) {
			return nil, nil, no(f.Name, fmt.Sprintf("is too big; a file has at most %d MB, all together %d", most>>20, mostBundle>>20))
		}
		left -= int64(len(data))
		if f.Name == "house.json" {
			file = data
			continue
		}
		m, err := s.medium(name, data)
		if err != nil {
			return nil, nil, err
		}
		if slices.ContainsFunc(list, func(o store.Medium) bool { return o.Name == name }) {
			return nil, nil, no(f.Name, "stands twice in the bundle")
		}
		if list = append(list, m); len(list) > mostOnIt {
			return nil, nil, no("media", fmt.Sprintf("holds more than %d files", mostOnIt))
		}
	}
	if file == nil {
		return nil, nil, no("house.json", "is missing")
	}
	if _, err := house.ReadFile(file); err != nil {
		return nil, nil, no("house.json", err.Error())
	}
	return file, list, nil
}
