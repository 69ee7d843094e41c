package api

import (
	_ "embed"
	"encoding/json"
	"errors"
	"html/template"
	"net/http"

	"github.com/labstack/echo/v5"

	"vividporch/porch"
	"vividporch/store/forget"
	"vividporch/store/pg"
)

// What a viewer sees who asked in chat what is kept about them. The page is made
// here, without scripts, since it is for people who have no way into the house.

//go:embed kept.html
var keptHTML string

//go:embed kept.css
var keptCSS []byte

var keptPage = template.Must(template.New("kept").Parse(keptHTML))

// keptView is what the page shows. Kept is nil before the link is used.
type keptView struct {
	Channel string
	Gone    bool
	Kept    *forget.Kept
	JSON    string
}

// keptLink shows that a one-time link is good; only the button on the page uses it,
// so that a program that looks at links does not use it up.
func (s *Server) keptLink(c *echo.Context) error {
	if !s.limits.kept.allow(s.client(c)) {
		return tooMany(c)
	}
	good, err := s.store.Privacy.KeptLinkGood(c.Request().Context(), s.house.ID, porch.Digest(c.Param("token")))
	if err != nil {
		return err
	}
	return s.showKept(c, keptView{Gone: !good})
}

// useKeptLink shows what is kept about whose link it is, once.
func (s *Server) useKeptLink(c *echo.Context) error {
	if !s.limits.kept.allow(s.client(c)) {
		return tooMany(c)
	}
	ctx := c.Request().Context()
	person, err := s.store.Privacy.UseKeptLink(ctx, s.house.ID, porch.Digest(c.Param("token")))
	if errors.Is(err, pg.ErrNone) {
		return s.showKept(c, keptView{Gone: true})
	}
	if err != nil {
		return err
	}
	k, err := s.store.Privacy.Everything(ctx, s.house.ID, person)
	if err != nil {
		return nobody(err)
	}
	raw, err := json.MarshalIndent(k, "", "  ")
	if err != nil {
		return err
	}
	return s.showKept(c, keptView{Kept: k, JSON: string(raw)})
}

func (s *Server) showKept(c *echo.Context, v keptView) error {
	v.Channel = s.house.Plan().Settings.Channel
	h := c.Response().Header()
	h.Set("Content-Type", "text/html; charset=utf-8")
	h.Set("Cache-Control", "no-store")
	if v.Gone {
		c.Response().WriteHeader(http.StatusGone)
	}
	return keptPage.Execute(c.Response(), v)
}

func keptStyle(c *echo.Context) error {
	return c.Blob(http.StatusOK, "text/css; charset=utf-8", keptCSS)
}
