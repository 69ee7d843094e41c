package onscreen

import (
	"context"
	"crypto/rand"
	"net/http"
	"strings"
	"time"

	"github.com/coder/websocket"
	"github.com/labstack/echo/v5"

	"vividporch/api/edge"
	"vividporch/spec"
	"vividporch/store/keys"
)

// mayListen reports whether the key in the address is that of the page in the ear.
func (x *OnScreen) mayListen(c *echo.Context) error {
	ctx, cancel := context.WithTimeout(c.Request().Context(), lookWithin)
	defer cancel()
	ok, err := x.store.Keys.Holds(ctx, x.house.ID, keys.Ear, edge.Hash(c.Param("key")))
	switch {
	case err != nil:
		return err
	case ok:
		return nil
	}
	if err := x.guessed(c); err != nil {
		return err
	}
	return edge.Problem(http.StatusNotFound, "There is nothing at this address", "Make the address in the ear anew, under Places, On screen.")
}

// ShowEar answers GET /ear/{key}.
func (x *OnScreen) ShowEar(c *echo.Context) error {
	if err := x.mayListen(c); err != nil {
		return err
	}
	return x.page(c, "ear.html")
}

// LiveEar answers GET /ear/{key}/live: a WebSocket (RFC 6455).
func (x *OnScreen) LiveEar(c *echo.Context) error {
	if err := x.mayListen(c); err != nil {
		return err
	}
	w, err := echo.UnwrapResponse(c.Response())
	if err != nil {
		return err
	}
	conn, err := websocket.Accept(w.ResponseWriter, c.Request(), nil)
	if err != nil {
		return nil // it has been answered
	}
	defer conn.CloseNow()
	frames, stop := x.house.Screens.Listen()
	if frames == nil {
		conn.Close(websocket.StatusTryAgainLater, "not now")
		return nil
	}
	defer stop()
	tell(conn.CloseRead(c.Request().Context()), conn, frames)
	return nil
}

// EarSpeech answers GET /ear/{key}/speech/{id}.
func (x *OnScreen) EarSpeech(c *echo.Context) error {
	if err := x.mayListen(c); err != nil {
		return err
	}
	return x.spoken(c)
}

// MakeEarAddress answers POST /api/ear/address.
func (x *OnScreen) MakeEarAddress(c *echo.Context) error {
	token := rand.Text()
	if err := x.store.Keys.Make(c.Request().Context(), keys.Key{Channel: x.house.ID, Of: keys.Ear, Hash: edge.Hash(token), Made: time.Now(), Member: edge.MemberOf(c).Name}); err != nil {
		return err
	}
	x.house.Screens.Deafen()
	return c.JSON(http.StatusOK, spec.FeedMade{Address: strings.TrimSuffix(x.public(), "/") + "/ear/" + token})
}
