package drawing

import (
	"io/fs"
	"net/http"

	"github.com/labstack/echo/v5"

	"vividporch/api/edge"
)

// ShowDraws answers GET /draws, to whoever comes.
func (x *Drawing) ShowDraws(c *echo.Context) error { return x.page(c) }

// ShowDraw answers GET /draws/{id}, to whoever comes.
func (x *Drawing) ShowDraw(c *echo.Context) error { return x.page(c) }

func (x *Drawing) page(c *echo.Context) error {
	page, err := fs.ReadFile(x.ui, "draw.html")
	if err != nil {
		return err
	}
	c.Response().Header().Set("Cache-Control", "no-cache")
	return c.HTMLBlob(http.StatusOK, page)
}

// ListDraws answers GET /draws/list: the draws of this channel, the newest first.
func (x *Drawing) ListDraws(c *echo.Context) error {
	m, err := x.house.Draws.Memory(c.Request().Context())
	if err != nil {
		return err
	}
	list := pastOf(m)
	out := map[string]any{"channel": x.house.Plan().Settings.Channel, "past": list}
	if m.Now != nil && m.Now.State.Running() {
		out["now"] = m.Now.ID
	}
	return c.JSON(http.StatusOK, out)
}

// ListDraw answers GET /draws/{id}/list: all that everybody may see of a draw, in the shape that docs/draws.md tells.
func (x *Drawing) ListDraw(c *echo.Context) error {
	d, err := x.house.Draws.Draw(c.Request().Context(), c.Param("id"))
	if err != nil {
		return err
	}
	if d == nil {
		return edge.Problem(http.StatusNotFound, "There is no such draw", "Look at all draws of this channel, at /draws.")
	}
	c.Response().Header().Set("Cache-Control", "no-cache")
	return c.JSON(http.StatusOK, d.Page(x.house.Plan().Settings.Channel))
}
