// Package places answers for what goes where: the places and how they stand, what of all that happens is posted
// at them, and what became of it.
package places

import (
	"bytes"
	"cmp"
	"context"
	"crypto/rand"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/labstack/echo/v5"

	"vividporch/api/edge"
	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/core/place"
	"vividporch/core/plain"
	"vividporch/core/profile"
	relays "vividporch/core/relay"
	"vividporch/porch"
	"vividporch/spec"
	"vividporch/store"
	"vividporch/store/jobs"
	"vividporch/store/keys"
)

// Places answers the routes.
type Places struct {
	house  *porch.House
	store  *store.Store
	public func() string // where people reach the house
}

// New makes the handlers.
func New(house *porch.House, st *store.Store, public func() string) *Places {
	return &Places{house, st, public}
}

// GetPlaces answers GET /api/places.
func (x *Places) GetPlaces(c *echo.Context) error {
	ctx := c.Request().Context()
	all, err := x.house.Places.All(ctx)
	if err != nil {
		return err
	}
	counts, err := x.house.Places.Happened(ctx)
	if err != nil {
		return err
	}
	gathered, err := x.house.Gathered(ctx)
	if err != nil {
		return err
	}
	out := spec.PlacesView{Places: []spec.PlaceStanding{}, Happenings: []spec.HappeningRow{}, Relays: []spec.RelayView{}}
	for _, p := range all {
		v := spec.PlaceStanding{Name: p.Name, Title: cmp.Or(p.Title, p.Name), Kind: cmp.Or(p.Kind, "webhook"), Health: spec.PlaceStandingHealth(p.Health), Says: p.Says,
			Waiting: p.Waiting, Bad: p.Bad, Tonight: p.Tonight, Attempts: p.Attempts}
		if p.Last != nil {
			v.Last = *p.Last
		}
		if p.Next != nil && p.Attempts > 0 {
			v.Next = *p.Next
		}
		out.Places = append(out.Places, v)
	}
	for _, h := range happening.Whens() {
		out.Happenings = append(out.Happenings, spec.HappeningRow{When: h.Type, Words: h.Words, Lane: string(h.On()), Tonight: counts[h.Type]})
	}
	for _, cy := range x.house.Plan().Whole.Courtesy {
		if !cy.Away {
			out.Relays = append(out.Relays, relaysOf(&cy, gathered, x.cannot)...)
		}
	}
	return c.JSON(http.StatusOK, out)
}

// relaysOf are what a courtesy posts.
func relaysOf(c *courtesy.Courtesy, gathered []relays.Waits, cannot func(when, place string) map[string]string) (out []spec.RelayView) {
	for _, o := range c.Do {
		r, ok := o.Do.(*output.Relay)
		if !ok {
			continue
		}
		v := spec.RelayView{When: c.When, Place: r.Place, Courtesy: c.ID, Output: o.ID, On: c.On, Paused: r.Paused, Alone: len(c.Do) == 1, Note: note(c, r)}
		if d := r.Drawing; d != nil {
			v.Drawing = spec.Drawing{Wording: d.Wording, Ground: cmp.Or(d.Ground, "dusk"), Picture: d.Picture, Frame: cmp.Or(d.Frame, "cord"), At: cmp.Or(d.At, "left")}
		}
		v.Onto, v.Call, v.Does, v.Media, v.Cannot = r.Onto, r.Call, r.Does, r.Media, cannot(c.When, r.Place)
		if len(o.Alternatives) > 0 {
			v.Words = o.Alternatives[0]
		}
		if g := r.Gather; g != nil {
			v.Gather = spec.Gather{Minutes: g.Minutes, Count: g.Count}
		}
		if q := r.Quiet; q != nil {
			v.Quiet = spec.Quiet{From: q.From, To: q.To, Drop: q.Drop}
		}
		if at := slices.IndexFunc(gathered, func(w relays.Waits) bool { return w.Courtesy == c.ID && w.Output == o.ID }); at >= 0 {
			v.Waits, v.Due = gathered[at].Count, gathered[at].Due
		}
		out = append(out, v)
	}
	return out
}

// cannot is what a place cannot do for a happening, and why.
func (x *Places) cannot(when, place string) map[string]string {
	s := x.house.Plan().Settings
	out := map[string]string{}
	p := s.PlaceNamed(place)
	if p == nil {
		return out
	}
	for _, what := range output.Wishes {
		if why := output.CannotAt(when, what, func(what string) string { return p.Cannot(what, s.Profile) }); why != "" {
			out[what] = why
		}
	}
	return out
}

// GetDrawing answers GET /api/drawing.
func (x *Places) GetDrawing(c *echo.Context, in spec.GetDrawingParams) error {
	d := place.Drawn{Name: in.Name, Ground: in.Ground, Shelf: in.Picture, Frame: in.Frame, At: in.At}
	png, err := x.house.Places.Sample(c.Request().Context(), d, in.When, in.Wording)
	if err != nil {
		return err
	}
	c.Response().Header().Set("Cache-Control", "no-store")
	return c.Blob(http.StatusOK, "image/png", png)
}

// GetLandings answers GET /api/communities/{platform}/landings.
func (x *Places) GetLandings(c *echo.Context, platform string) error {
	ctx, cancel := context.WithTimeout(c.Request().Context(), asks)
	defer cancel()
	out := spec.Landings{Landings: []spec.Landing{}}
	list, err := x.house.Places.Landings(ctx, platform)
	if err != nil {
		out.Why = err.Error()
	}
	for _, l := range list {
		v := spec.Landing{ID: l.ID, Title: plain.Name(l.Title), May: []string{}, MayNot: []string{}}
		for _, r := range profile.Rights {
			if l.May[r.Name] {
				v.May = append(v.May, r.Words)
			} else {
				v.MayNot = append(v.MayNot, r.Words)
			}
		}
		out.Landings = append(out.Landings, v)
	}
	return c.JSON(http.StatusOK, out)
}

// asks is how long a community server has to tell of its landings.
const asks = 10 * time.Second

// note is what is to be known of a relay at a glance.
func note(c *courtesy.Courtesy, r *output.Relay) string {
	var parts []string
	if m := c.Measure; m != nil && m.AtLeast != nil {
		parts = append(parts, fmt.Sprintf("%g+", *m.AtLeast))
	}
	switch g := r.Gather; {
	case g == nil:
	case g.Minutes >= 1440:
		parts = append(parts, "daily")
	default:
		parts = append(parts, fmt.Sprintf("%g min", g.Minutes))
	}
	return strings.Join(parts, " ")
}

// SetRelay answers POST /api/places/{place}/relays.
func (x *Places) SetRelay(c *echo.Context, place string) error {
	var in spec.NewRelay
	if err := edge.Decode(c, &in); err != nil {
		return err
	}
	version, id, err := x.house.Desk.RelayAt(c.Request().Context(), edge.By(c), in.When, place)
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, spec.RelaySet{Version: version, Courtesy: id})
}

// MakeFeed answers POST /api/places/{place}/feed.
func (x *Places) MakeFeed(c *echo.Context, name string) error {
	if p := x.house.Plan().Settings.PlaceNamed(name); p == nil || p.Kind != "feed" {
		return &event.FieldError{Field: "place", Remedy: "is no feed; reload the page"}
	}
	token := rand.Text()
	if err := x.store.Keys.Make(c.Request().Context(), keys.Key{Channel: x.house.ID, Of: keys.Feed + name, Hash: edge.Hash(token), Made: time.Now(), Member: edge.MemberOf(c).Name}); err != nil {
		return err
	}
	return c.JSON(http.StatusOK, spec.FeedMade{Address: strings.TrimSuffix(x.public(), "/") + "/happenings.atom?key=" + token})
}

// ReadFeed answers GET /happenings.atom: whoever has the key reads what went to that place last.
func (x *Places) ReadFeed(c *echo.Context) error {
	ctx := c.Request().Context()
	k, err := x.store.Keys.By(ctx, x.house.ID, keys.Feed, edge.Hash(c.Request().URL.Query().Get("key")))
	if err != nil {
		return err
	}
	var place *housefile.Place
	if k != nil {
		place = x.house.Plan().Settings.PlaceNamed(strings.TrimPrefix(k.Of, keys.Feed))
	}
	if place == nil || place.Kind != "feed" {
		return edge.Problem(http.StatusNotFound, "There is no feed at this address", "Ask for a new address: it may have been taken away.")
	}
	var out bytes.Buffer
	if err := x.house.Places.Feed(ctx, &out, place, k.Made); err != nil {
		return err
	}
	h := c.Response().Header()
	etag := `"` + edge.Hash(out.String())[:32] + `"`
	h.Set("ETag", etag)
	h.Set("Cache-Control", "private, no-cache")
	if c.Request().Header.Get("If-None-Match") == etag {
		return c.NoContent(http.StatusNotModified)
	}
	return c.Blob(http.StatusOK, "application/atom+xml; charset=utf-8", out.Bytes())
}

// usually is how many deliveries are shown where it is not said.
const usually = 50

// FindDeliveries answers GET /api/deliveries.
func (x *Places) FindDeliveries(c *echo.Context, p spec.FindDeliveriesParams) error {
	most := cmp.Or(p.Most, usually)
	q := jobs.Search{Place: p.Place, Text: strings.TrimSpace(p.Q), Before: p.Before, Most: most + 1}
	if p.Bad {
		q.States = []jobs.State{jobs.Failed, jobs.Unclear}
	}
	list, err := x.house.Places.Find(c.Request().Context(), q)
	if err != nil {
		return err
	}
	out := spec.Deliveries{Deliveries: []spec.Delivery{}, More: len(list) > most}
	for _, d := range list[:min(most, len(list))] {
		v := spec.Delivery{ID: d.ID, Place: d.Place, Line: d.Line, At: d.Made, When: d.Happened, Courtesy: d.Courtesy, Text: d.Text, State: spec.DeliveryState(d.State), Attempts: d.Attempts, Status: d.Status, Reason: d.Reason, Why: append([]string{}, d.Why...)}
		if d.State == jobs.Waiting {
			v.Next = d.Next
		}
		if d.Ended != nil {
			v.Ended = *d.Ended
		}
		out.Deliveries = append(out.Deliveries, v)
	}
	return c.JSON(http.StatusOK, out)
}

// SendAgain answers POST /api/deliveries/again.
func (x *Places) SendAgain(c *echo.Context) error {
	var in spec.DeliveryNamed
	if err := edge.Decode(c, &in); err != nil {
		return err
	}
	return done(c, func() (bool, error) { return x.house.Places.Again(c.Request().Context(), in.Line, in.Place) }, "There is nothing to send again", "It is there by now, or too old to be kept.")
}

// DropDelivery answers POST /api/deliveries/drop.
func (x *Places) DropDelivery(c *echo.Context) error {
	var in spec.DeliveryNamed
	if err := edge.Decode(c, &in); err != nil {
		return err
	}
	return done(c, func() (bool, error) {
		return x.house.Places.Drop(c.Request().Context(), in.Line, in.Place, edge.MemberOf(c).Name)
	}, "There is nothing to drop", "It is there by now, or just being sent.")
}

func done(c *echo.Context, do func() (bool, error), title, detail string) error {
	ok, err := do()
	switch {
	case err != nil:
		return err
	case !ok:
		return edge.Problem(http.StatusNotFound, title, detail)
	}
	return c.NoContent(http.StatusNoContent)
}
