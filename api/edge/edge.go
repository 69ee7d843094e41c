// Package edge is what all handlers share: who asks, how a body is read, how an error is told
// (RFC 9457), and how a change of the settings is answered.
package edge

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"net/http"
	"strconv"
	"time"

	"github.com/labstack/echo/v5"

	"vividporch/core/courtesy"
	"vividporch/core/hall"
	"vividporch/core/wording"
	"vividporch/porch"
	"vividporch/porch/desk"
	"vividporch/spec"
	"vividporch/store"
	"vividporch/store/pg"
	"vividporch/store/tables"
)

// Fault is an error with what a problem detail needs.
type Fault struct {
	spec.Problem
}

func (f *Fault) Error() string { return f.Title + ": " + f.Detail }

// Problem is an error with a status, a title and what to do.
func Problem(status int, title, detail string) error {
	return &Fault{spec.Problem{Status: status, Title: title, Detail: detail}}
}

// Decode reads a JSON body into v; it was bounded before.
func Decode(c *echo.Context, v any) error {
	if err := json.NewDecoder(c.Request().Body).Decode(v); err != nil {
		return Problem(http.StatusBadRequest, "The body cannot be read", err.Error())
	}
	return nil
}

// Hash is how a token is kept: whoever reads the database cannot use it.
func Hash(token string) string {
	sum := sha256.Sum256([]byte(token))
	return hex.EncodeToString(sum[:])
}

// Caller is the member of a request.
type Caller struct {
	tables.Member
	Session tables.Session
}

const memberKey = "member"

// MemberOf is who asks; nobody before they are known.
func MemberOf(c *echo.Context) Caller { w, _ := c.Get(memberKey).(Caller); return w }

// Known says who asks.
func Known(c *echo.Context, who Caller) { c.Set(memberKey, who) }

// baseHeader names the version of the settings that a change was made on.
const baseHeader = "X-Porch-Base"

// By is who makes a change, and on which version.
func By(c *echo.Context) desk.By {
	m := MemberOf(c)
	base, _ := strconv.ParseInt(c.Request().Header.Get(baseHeader), 10, 64)
	return desk.By{Member: m.Name, Role: m.Role, Base: base}
}

// InForce answers a change of the settings: with its version, or with what keeps it from coming
// into force.
func InForce(c *echo.Context, h *porch.House, v int64, err error) error {
	var faults desk.Faults
	var clashes desk.Clashes
	switch {
	case errors.Is(err, desk.ErrUnchanged):
	case errors.As(err, &faults):
		return &Fault{spec.Problem{Status: http.StatusUnprocessableEntity, Title: "This cannot come into force", Detail: faults.Error(), Faults: Faults(faults)}}
	case errors.As(err, &clashes):
		p := spec.Problem{Status: http.StatusConflict, Title: "Somebody else changed this meanwhile", Detail: "Look at both, and keep one."}
		for _, x := range clashes {
			p.Clashes = append(p.Clashes, spec.Clash{At: x.At, Was: x.Was, Now: x.Now, Mine: x.Mine})
		}
		p.Version = h.Plan().Version
		return &Fault{p}
	case err != nil:
		return err
	}
	return c.JSON(http.StatusOK, spec.InForce{Version: v, Changed: err == nil})
}

// Faults are faults as they are told.
func Faults(list []courtesy.Fault) []spec.Fault {
	out := []spec.Fault{}
	for _, f := range list {
		v := spec.Fault{At: f.At, What: f.What, Remedy: f.Remedy}
		if f.Problem != nil {
			v.From, v.To = wording.UTF16(f.Source, f.Problem.From), wording.UTF16(f.Source, f.Problem.To)
		}
		out = append(out, v)
	}
	return out
}

// Deed answers an action with what was decided about it. It was done unless nothing
// was decided but refusals; which of its parts were refused is told either way.
func Deed(c *echo.Context, ds []hall.Decision) error {
	out := spec.Deed{Done: len(ds) == 0, Because: []string{}}
	for _, d := range ds {
		if d.Kind != hall.Refuse {
			out.Done = true
		} else if d.Output != "" {
			out.Because = append(out.Because, d.Because...)
		}
	}
	return c.JSON(http.StatusOK, out)
}

// Recast carries a value over to a type of the same JSON shape. What that has no field for is left out.
func Recast[T any](v any) (out T, err error) {
	raw, err := json.Marshal(v)
	if err == nil {
		err = json.Unmarshal(raw, &out)
	}
	return out, err
}

// Strictly carries a value over likewise, and refuses what the type has no field for.
func Strictly[T any](v any) (out T, err error) {
	raw, err := json.Marshal(v)
	if err != nil {
		return out, err
	}
	dec := json.NewDecoder(bytes.NewReader(raw))
	dec.DisallowUnknownFields()
	return out, dec.Decode(&out)
}

// File answers with a file that is somebody else's: a browser takes it for what it is, and does nothing that it says. at is when
// it was put there; the zero time is not known.
func File(c *echo.Context, contentType string, at time.Time, data []byte) error {
	h := c.Response().Header()
	h.Set("Content-Type", contentType)
	h.Set("Content-Security-Policy", "default-src 'none'; style-src 'unsafe-inline'; sandbox")
	h.Set("Cache-Control", "private, max-age=60")
	http.ServeContent(c.Response(), c.Request(), "", at, bytes.NewReader(data))
	return nil
}

// OfShelf answers with a file of the shelf.
func OfShelf(c *echo.Context, st *store.Store, channel int64, name string) error {
	m, err := st.Shelf.Named(c.Request().Context(), channel, name)
	if errors.Is(err, pg.ErrNone) {
		return Problem(http.StatusNotFound, "There is no such file on the shelf", "It may have been taken off.")
	}
	if err != nil {
		return err
	}
	return File(c, m.Type, m.At, m.Data)
}
