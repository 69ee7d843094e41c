package lookingback

import (
	"bytes"
	"cmp"
	_ "embed"
	"encoding/csv"
	"fmt"
	"html/template"
	"net/http"
	"strings"
	"time"

	"github.com/labstack/echo/v5"

	formats "vividporch/formats/csv"
	"vividporch/spec"
	"vividporch/store/find"
)

//go:embed page.html
var pageHTML string

var pageTemplate = template.Must(template.New("page").Funcs(template.FuncMap{
	"dec": func(v float64) string { return strings.TrimSuffix(fmt.Sprintf("%.1f", v), ".0") },
	"into": func(s int) string {
		return fmt.Sprintf("%d:%02d:%02d", s/3600, s/60%60, s%60)
	},
	"or": func(name, else_ string) string {
		if name == "" {
			return else_
		}
		return name
	},
}).Parse(pageHTML))

// kept is a look back as the page to keep shows it.
type kept struct {
	spec.LookBack
	Channel  string
	Day      string
	Length   string
	Hill     template.HTMLAttr
	Share    template.HTMLAttr
	People   []spec.CameOne
	Whole    string // house share in percent
	Clock    func(time.Time) string
	SaidAt   []float64
	RaidArcs []arc
}

type arc struct {
	X, R  float64
	Label string
}

// wide is how wide the drawing of the page is, in units of its own.
const wide = 1000.0

// GetLookBackFile answers GET /api/lookback/of/{stream}/file.
func (x *LookingBack) GetLookBackFile(c *echo.Context, stream int, params spec.GetLookBackFileParams) error {
	ctx := c.Request().Context()
	of, err := x.of(ctx, stream)
	if err != nil {
		return err
	}
	list, err := x.store.Find.CameTo(ctx, x.house.ID, stream, find.Everybody, 100_000)
	if err != nil {
		return err
	}
	everybody, err := x.came(ctx, stream, list)
	if err != nil {
		return err
	}
	zone := x.house.Plan().Zone
	name := fmt.Sprintf("stream-%d-%s", stream, of.Opened.In(zone).Format("2006-01-02"))
	h := c.Response().Header()
	if params.Format == spec.GetLookBackFileParamsFormatCsv {
		h.Set("Content-Disposition", `attachment; filename="`+name+`.csv"`)
		return c.Blob(http.StatusOK, "text/csv; charset=utf-8", asCSV(of, everybody))
	}
	k := kept{LookBack: of, Channel: x.house.Plan().Settings.Channel, Day: of.Opened.In(zone).Format("Monday 2 January 2006"), Length: length(of.Closed.Sub(of.Opened)), People: everybody,
		Clock: func(t time.Time) string { return t.In(zone).Format("15:04") }}
	k.draw()
	var out bytes.Buffer
	if err := pageTemplate.Execute(&out, k); err != nil {
		return err
	}
	h.Set("Content-Disposition", `attachment; filename="`+name+`.html"`)
	h.Set("Content-Security-Policy", "default-src 'none'; style-src 'unsafe-inline'; sandbox")
	return c.Blob(http.StatusOK, "text/html; charset=utf-8", out.Bytes())
}

func length(d time.Duration) string {
	return fmt.Sprintf("%d h %02d min", int(d.Hours()), int(d.Minutes())%60)
}

// draw works out the hill of chat, the house share and where raids and lines of the house stand.
func (k *kept) draw() {
	long := k.Closed.Sub(k.Opened)
	if long <= 0 {
		return
	}
	at := func(t time.Time) float64 { return wide * float64(t.Sub(k.Opened)) / float64(long) }
	most, people, house := 8, 0, 0
	for _, n := range k.Evening.Minutes {
		most = max(most, n)
		people += n
	}
	for _, n := range k.House {
		house += n
	}
	if people+house > 0 {
		k.Whole = fmt.Sprintf("%.0f%%", 100*float64(house)/float64(people+house))
	}
	var hill, share strings.Builder
	hill.WriteString("M0 120")
	share.WriteString("M0 40")
	step := wide / max(1, long.Minutes())
	const over = 10 // minutes that the share is of
	for i, n := range k.Evening.Minutes {
		fmt.Fprintf(&hill, "L%.1f %.1f", (float64(i)+0.5)*step, 120-90*float64(n)/float64(most))
		p, h := 0, 0
		for j := max(0, i-over/2); j < min(len(k.House), i+over/2); j++ {
			p, h = p+k.Evening.Minutes[j], h+k.House[j]
		}
		if p+h > 0 {
			fmt.Fprintf(&share, "L%.1f %.1f", (float64(i)+0.5)*step, 40-36*float64(h)/float64(p+h))
		}
	}
	fmt.Fprintf(&hill, "L%.1f 120Z", wide)
	fmt.Fprintf(&share, "L%.1f 40Z", wide)
	k.Hill, k.Share = template.HTMLAttr(`d="`+hill.String()+`"`), template.HTMLAttr(`d="`+share.String()+`"`)
	for _, s := range k.Evening.Said {
		k.SaidAt = append(k.SaidAt, at(s.At))
	}
	for _, r := range k.Raids {
		if !r.Went {
			k.RaidArcs = append(k.RaidArcs, arc{at(r.At), min(60, 8+4*float64(r.Viewers)/12), fmt.Sprintf("%s brought %d", cmp.Or(r.Name, "somebody"), r.Viewers)})
		}
	}
}

// asCSV is the figures, then everybody who came, a row each. No cell is run by a
// spreadsheet.
func asCSV(of spec.LookBack, everybody []spec.CameOne) []byte {
	var out bytes.Buffer
	w := csv.NewWriter(&out)
	row := func(cells ...string) {
		for i, s := range cells {
			cells[i] = formats.Escape(s)
		}
		w.Write(cells)
	}
	num := func(v float64) string { return strings.TrimSuffix(fmt.Sprintf("%.1f", v), ".0") }
	row("figure", "value", "usual", "usual on this weekday")
	for _, f := range of.Figures {
		row(f.Name, num(f.Value), num(f.Usual.Middle), num(f.Weekday.Middle))
	}
	row()
	row("name", "lines", "first line", "streams attended", "new", "came with")
	fresh := map[int64]bool{}
	for _, p := range of.New {
		fresh[p.Person] = true
	}
	for _, p := range everybody {
		isNew := ""
		if fresh[p.Person] || p.NewOn.IsZero() {
			isNew = "new"
		}
		row(p.Name, fmt.Sprint(p.Lines), p.First.UTC().Format(time.RFC3339), fmt.Sprint(p.Attended), isNew, p.With)
	}
	w.Flush()
	return out.Bytes()
}
