package keeping

import (
	"bytes"
	_ "embed"
	"html/template"
	"net/http"
	"strings"

	"github.com/labstack/echo/v5"

	"vividporch/core/prose"
	"vividporch/core/room"
)

//go:embed asks.html
var asksHTML string

var asksPage = template.Must(template.New("asks").Parse(asksHTML))

// asked is the list as it was made for one version of the settings: many may look at once.
type asked struct {
	plan *room.Plan
	page []byte
}

// asks is the list of what viewers can ask: a page that stands by itself wherever it is put.
func (k *Keeping) asks() ([]byte, error) {
	plan := k.house.Plan()
	if a := k.asked.Load(); a != nil && a.plan == plan {
		return a.page, nil
	}
	var page bytes.Buffer
	if err := asksPage.Execute(&page, map[string]any{"Channel": plan.Settings.Channel, "Groups": prose.Asks(plan.Settings)}); err != nil {
		return nil, err
	}
	k.asked.Store(&asked{plan, page.Bytes()})
	return page.Bytes(), nil
}

// GetAsks answers GET /api/house/asks: the list as one file, for a house that viewers cannot reach.
func (k *Keeping) GetAsks(c *echo.Context) error {
	page, err := k.asks()
	if err != nil {
		return err
	}
	c.Response().Header().Set("Content-Disposition", `attachment; filename="what-you-can-ask.html"`)
	return c.HTMLBlob(http.StatusOK, page)
}

// ShowAsks answers GET /asks and /asks/{channel}, to whoever comes.
func (k *Keeping) ShowAsks(c *echo.Context) error {
	if of := c.Param("channel"); of != "" && !strings.EqualFold(of, k.house.Plan().Settings.Channel) {
		return echo.ErrNotFound
	}
	page, err := k.asks()
	if err != nil {
		return err
	}
	h := c.Response().Header()
	h.Set("Cache-Control", "public, max-age=60")
	h.Set("Content-Security-Policy", "default-src 'none'; style-src 'unsafe-inline'; frame-ancestors 'none'; base-uri 'none'; form-action 'none'")
	return c.HTMLBlob(http.StatusOK, page)
}
