// Package onscreen answers for the overlays: the page of each at its secret address, the socket that tells it what to show,
// and what members set of them.
package onscreen

import (
	"context"
	"crypto/rand"
	"encoding/json"
	"errors"
	"io/fs"
	"net/http"
	"strings"
	"time"

	"github.com/coder/websocket"
	"github.com/labstack/echo/v5"

	"vividporch/api/edge"
	"vividporch/core/box"
	"vividporch/core/event"
	"vividporch/porch"
	"vividporch/porch/onscreen"
	"vividporch/spec"
	"vividporch/store"
	"vividporch/store/keys"
)

// Limits of a page's socket.
const (
	mostHeard   = 16 << 10         // bytes of what a page tells at once
	helloWithin = 10 * time.Second // of its joining
	lookWithin  = 5 * time.Second
)

// How often a page hears that the house is there, and how long it may take to take anything.
var (
	beat        = 15 * time.Second
	writeWithin = 10 * time.Second
)

// OnScreen answers the routes.
type OnScreen struct {
	house  *porch.House
	store  *store.Store
	ui     fs.FS
	public func() string              // where people reach the house
	guess  func(c *echo.Context) bool // whether whoever asks may try a further address that is not there
}

// New makes the handlers.
func New(house *porch.House, st *store.Store, ui fs.FS, public func() string, guess func(c *echo.Context) bool) *OnScreen {
	return &OnScreen{house, st, ui, public, guess}
}

// policy is what the page of an overlay may load: all from the house alone. Nobody may frame it.
const policy = "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self'; media-src 'self'; font-src 'self'; connect-src 'self'; base-uri 'none'; form-action 'none'; frame-ancestors 'none'"

// overlayOf is the overlay whose key stands in the address.
func (x *OnScreen) overlayOf(c *echo.Context) (id string, err error) {
	ctx, cancel := context.WithTimeout(c.Request().Context(), lookWithin)
	defer cancel()
	k, err := x.store.Keys.By(ctx, x.house.ID, keys.Overlay, edge.Hash(c.Param("key"))) // by its digest: how long that takes tells nothing of the key
	switch {
	case err != nil:
		return "", err
	case k != nil && x.named(strings.TrimPrefix(k.Of, keys.Overlay)) != nil:
		return strings.TrimPrefix(k.Of, keys.Overlay), nil
	case k != nil: // its overlay was taken away: another of that name has an address of its own
		if err := x.store.Keys.TakeAway(ctx, x.house.ID, k.Of); err != nil {
			return "", err
		}
	default:
		if err := x.guessed(c); err != nil {
			return "", err
		}
	}
	return "", edge.Problem(http.StatusNotFound, "There is no overlay at this address", "Copy its address anew from On screen, under Places.")
}

// guessed counts a try of an address that is not there, and refuses it when there were too many.
func (x *OnScreen) guessed(c *echo.Context) error {
	if x.guess(c) {
		return nil
	}
	c.Response().Header().Set("Retry-After", "10")
	return edge.Problem(http.StatusTooManyRequests, "Too many tries", "Wait a moment.")
}

func (x *OnScreen) named(id string) *box.Overlay {
	for i := range x.house.Plan().Settings.Overlays {
		if o := &x.house.Plan().Settings.Overlays[i]; o.ID == id {
			return o
		}
	}
	return nil
}

// ShowOverlay answers GET /overlay/{key}.
func (x *OnScreen) ShowOverlay(c *echo.Context) error {
	if _, err := x.overlayOf(c); err != nil {
		return err
	}
	return x.page(c, "overlay.html")
}

// page answers with a page of the interface that lives outside the house's own, under the policy of such pages.
func (x *OnScreen) page(c *echo.Context, name string) error {
	page, err := fs.ReadFile(x.ui, name)
	if err != nil {
		return err
	}
	h := c.Response().Header()
	h.Set("Content-Security-Policy", policy)
	h.Set("Cache-Control", "no-store")
	return c.HTMLBlob(http.StatusOK, page)
}

// heard is what a page tells.
type heard struct {
	Hello   *onscreen.Hello `json:"hello,omitempty"`
	Begun   string          `json:"begun,omitempty"`
	Seconds float64         `json:"seconds,omitempty"`
	Ended   string          `json:"ended,omitempty"`
	Failed  string          `json:"failed,omitempty"`
}

// LiveOverlay answers GET /overlay/{key}/live: a WebSocket (RFC 6455).
func (x *OnScreen) LiveOverlay(c *echo.Context) error {
	id, err := x.overlayOf(c)
	if err != nil {
		return err
	}
	w, err := echo.UnwrapResponse(c.Response())
	if err != nil {
		return err
	}
	conn, err := websocket.Accept(w.ResponseWriter, c.Request(), nil) // of the page's own origin alone
	if err != nil {
		return nil // it has been answered
	}
	defer conn.CloseNow()
	conn.SetReadLimit(mostHeard)
	ctx, cancel := context.WithCancel(c.Request().Context())
	defer cancel()
	hello, err := greet(ctx, conn)
	if err != nil {
		return nil
	}
	page := x.house.Screens.Join(ctx, id, hello)
	if page == nil {
		conn.Close(websocket.StatusTryAgainLater, "not now")
		return nil
	}
	defer page.Leave()
	go func() {
		defer cancel()
		listen(ctx, conn, page)
	}()
	tell(ctx, conn, page.Frames)
	return nil
}

// greet reads what a page knows as it joins.
func greet(ctx context.Context, conn *websocket.Conn) (onscreen.Hello, error) {
	ctx, cancel := context.WithTimeout(ctx, helloWithin)
	defer cancel()
	var in heard
	_, raw, err := conn.Read(ctx)
	if err == nil {
		err = json.Unmarshal(raw, &in)
	}
	if err == nil && in.Hello == nil {
		err = errors.New("no hello")
	}
	if err != nil {
		return onscreen.Hello{}, err
	}
	return *in.Hello, nil
}

// listen hears what became of what is shown, until the page is gone.
func listen(ctx context.Context, conn *websocket.Conn, page *onscreen.Page) {
	for {
		_, raw, err := conn.Read(ctx)
		if err != nil {
			return
		}
		var in heard
		if json.Unmarshal(raw, &in) != nil {
			return
		}
		switch {
		case in.Begun != "":
			page.Begun(in.Begun, in.Seconds)
		case in.Ended != "":
			page.Ended(in.Ended, in.Failed)
		}
	}
}

// tell tells the page what to show, until it is not wanted any more.
func tell(ctx context.Context, conn *websocket.Conn, frames <-chan []byte) {
	tick := time.NewTicker(beat)
	defer tick.Stop()
	for {
		f, ok := []byte(`{"do":"beat"}`), true
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
		case f, ok = <-frames:
		}
		if !ok {
			conn.Close(websocket.StatusNormalClosure, "not wanted")
			return
		}
		wctx, cancel := context.WithTimeout(ctx, writeWithin)
		err := conn.Write(wctx, websocket.MessageText, f)
		cancel()
		if err != nil {
			return
		}
	}
}

// OverlayMedium answers GET /overlay/{key}/media/{name}.
func (x *OnScreen) OverlayMedium(c *echo.Context) error {
	if _, err := x.overlayOf(c); err != nil {
		return err
	}
	return edge.OfShelf(c, x.store, x.house.ID, c.Param("name"))
}

// GetOverlays answers GET /api/overlays.
func (x *OnScreen) GetOverlays(c *echo.Context) error {
	ctx := c.Request().Context()
	all, err := x.house.Overlays(ctx)
	if err != nil {
		return err
	}
	out := spec.Overlays{Overlays: []spec.OverlayStanding{}, Kinds: kinds, Voices: append([]string{}, x.house.Speaker.Voices(ctx)...), Ear: spec.EarStanding{Pages: x.house.Screens.Ears()}}
	if k, err := x.store.Keys.Of(ctx, x.house.ID, keys.Ear); err != nil {
		return err
	} else if k != nil {
		out.Ear.Made = k.Made
	}
	for i := range x.house.Plan().Settings.Overlays {
		o := &x.house.Plan().Settings.Overlays[i]
		v := spec.OverlayStanding{ID: o.ID, Title: o.Title, Pages: x.house.Screens.Pages(o.ID), Line: all.Line[o.ID]}
		s := all.Of[o.ID]
		v.Open, v.Seen = v.Pages > 0, s.Seen
		if s.On != nil {
			v.On = s.On.Name
		}
		k, err := x.store.Keys.Of(ctx, x.house.ID, keys.Overlay+o.ID)
		if err != nil {
			return err
		}
		if k != nil {
			v.Made = k.Made
		}
		out.Overlays = append(out.Overlays, v)
	}
	return c.JSON(http.StatusOK, out)
}

// OverlaySpeech answers GET /overlay/{key}/speech/{id}.
func (x *OnScreen) OverlaySpeech(c *echo.Context) error {
	if _, err := x.overlayOf(c); err != nil {
		return err
	}
	return x.spoken(c)
}

func (x *OnScreen) spoken(c *echo.Context) error {
	s, ok := x.house.Speaker.Kept(c.Param("id"))
	if !ok {
		return edge.Problem(http.StatusNotFound, "These words are not kept any more", "They are spoken once.")
	}
	return edge.File(c, "audio/wav", time.Time{}, s.WAV)
}

// OverlayFetched answers GET /overlay/{key}/fetched/{id}: a picture or clip of somebody's, as it was fetched.
func (x *OnScreen) OverlayFetched(c *echo.Context) error {
	if _, err := x.overlayOf(c); err != nil {
		return err
	}
	f, ok := x.house.Screens.Fetched(c.Param("id"))
	if !ok {
		return edge.Problem(http.StatusNotFound, "This is not kept any more", "It is fetched anew when it is next shown.")
	}
	return edge.File(c, f.Info.Type, time.Time{}, f.Data)
}

// kinds are the kinds of boxes, each with a new one.
var kinds = func() (out []spec.BoxKind) {
	for _, k := range box.Catalogue {
		b := k.Fresh()
		raw, err := json.Marshal(b)
		v := spec.BoxKind{Kind: string(b.Kind()), Title: k.Title}
		if err == nil && json.Unmarshal(raw, &v.Start) == nil {
			out = append(out, v)
		}
	}
	return out
}()

// MakeOverlayAddress answers POST /api/overlays/{overlay}/address.
func (x *OnScreen) MakeOverlayAddress(c *echo.Context, id string) error {
	if x.named(id) == nil {
		return missing()
	}
	token := rand.Text()
	if err := x.store.Keys.Make(c.Request().Context(), keys.Key{Channel: x.house.ID, Of: keys.Overlay + id, Hash: edge.Hash(token), Made: time.Now(), Member: edge.MemberOf(c).Name}); err != nil {
		return err
	}
	x.house.Screens.Shut(id)
	return c.JSON(http.StatusOK, spec.FeedMade{Address: strings.TrimSuffix(x.public(), "/") + "/overlay/" + token})
}

func missing() error {
	return edge.Problem(http.StatusNotFound, "There is no such overlay", "Reload the page.")
}

// SampleBox answers POST /api/overlays/{overlay}/sample.
func (x *OnScreen) SampleBox(c *echo.Context, id string) error {
	var in spec.BoxSample
	if err := edge.Decode(c, &in); err != nil {
		return err
	}
	if x.named(id) == nil {
		return missing()
	}
	x.house.Screens.Sample(id, in.Box, in.On)
	return c.NoContent(http.StatusNoContent)
}

// TryBox answers POST /api/overlays/{overlay}/try.
func (x *OnScreen) TryBox(c *echo.Context, id string) error {
	var in spec.BoxTry
	if err := edge.Decode(c, &in); err != nil {
		return err
	}
	o := x.named(id)
	if o == nil {
		return missing()
	}
	t := onscreen.Trial{Box: in.Box, Medium: in.Medium, Courtesy: in.Courtesy, Words: map[string]onscreen.Words{}, Name: in.Name, Here: in.Here}
	for _, w := range in.Words {
		t.Words[w.Output] = onscreen.Words{Text: w.Text, Second: w.Second}
	}
	show, pages, err := x.house.Screens.Try(c.Request().Context(), o, t)
	if err != nil {
		return err
	}
	out := spec.BoxTried{Done: true, Because: []string{}}
	if in.Here {
		out.Show, err = edge.Recast[map[string]any](show)
	} else if pages == 0 {
		out.Done, out.Because = false, []string{"the overlay is not open anywhere"}
	}
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, out)
}

// TryScreen answers POST /api/desk/screen.
func (x *OnScreen) TryScreen(c *echo.Context) error {
	tried := false
	for i := range x.house.Plan().Settings.Overlays {
		o := &x.house.Plan().Settings.Overlays[i]
		b := o.Box("", "card")
		if b == nil {
			continue
		}
		_, pages, err := x.house.Screens.Try(c.Request().Context(), o, onscreen.Trial{Box: b.ID})
		if err != nil {
			return err
		}
		tried = tried || pages > 0
	}
	if !tried {
		return c.JSON(http.StatusOK, spec.Deed{Because: []string{notOpen}})
	}
	return c.JSON(http.StatusOK, spec.Deed{Done: true, Because: []string{}})
}

// notOpen is why nothing is seen of a try.
const notOpen = "no overlay that shows cards is open anywhere"

// Silence answers POST /api/desk/silence.
func (x *OnScreen) Silence(c *echo.Context) error {
	return x.hand(c, &event.Silenced{Member: edge.MemberOf(c).Name})
}

// SetCountdown answers POST /api/desk/countdown.
func (x *OnScreen) SetCountdown(c *echo.Context) error {
	var in spec.CountdownHand
	if err := edge.Decode(c, &in); err != nil {
		return err
	}
	return x.hand(c, &event.CountdownSet{Box: in.Box, Act: string(in.Act), Seconds: in.Seconds, Member: edge.MemberOf(c).Name})
}

func (x *OnScreen) hand(c *echo.Context, d event.Data) error {
	ds, err := x.house.Hand(c.Request().Context(), d)
	if err != nil {
		return err
	}
	return edge.Deed(c, ds)
}
