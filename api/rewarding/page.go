package rewarding

import (
	"bytes"
	_ "embed"
	"html/template"
	"net/http"

	"github.com/labstack/echo/v5"

	"vividporch/api/edge"
	"vividporch/spec"
)

//go:embed ranks.html
var ranksHTML string

var ranksPage = template.Must(template.New("ranks").Funcs(template.FuncMap{"place": func(i int) int { return i + 1 }}).Parse(ranksHTML))

// ShowRanks answers GET /ranks, to whoever comes, where the channel shows it.
func (x *Rewarding) ShowRanks(c *echo.Context) error {
	plan := x.house.Plan()
	s := section(plan)
	if !s.On || !s.Ranks {
		return edge.Problem(http.StatusNotFound, "This channel shows no list of ranks", "Whoever keeps the house can show it, under Courtesies, Small rewards.")
	}
	top, err := x.ranks(c, s, false)
	if err != nil {
		return err
	}
	season, err := x.ranks(c, s, true)
	if err != nil {
		return err
	}
	type list struct {
		Title  string
		Rows   []spec.RankRow
		Season bool
	}
	var page bytes.Buffer
	if err := ranksPage.Execute(&page, map[string]any{"Channel": plan.Settings.Channel, "Many": s.Counted(2)[2:], "Lists": []list{{"Ever", top, false}, {"This season", season, true}}}); err != nil {
		return err
	}
	h := c.Response().Header()
	h.Set("Cache-Control", "public, max-age=30")
	h.Set("Content-Security-Policy", "default-src 'none'; style-src 'unsafe-inline'; frame-ancestors 'none'; base-uri 'none'; form-action 'none'")
	return c.HTMLBlob(http.StatusOK, page.Bytes())
}
