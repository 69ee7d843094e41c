package api

import (
	"crypto/rand"
	"crypto/subtle"
	_ "embed"
	"encoding/json"
	"errors"
	"fmt"
	"html/template"
	"io"
	"net/http"
	"net/url"
	"strings"
	"time"

	"github.com/labstack/echo/v5"
	"golang.org/x/crypto/bcrypt"

	"vividporch/api/edge"
	"vividporch/api/keeping"
	"vividporch/core/event"
	"vividporch/core/plain"
	"vividporch/spec"
	"vividporch/store/pg"
	"vividporch/store/tables"
)

const (
	cookieName  = "porch"
	tokenHeader = "X-Porch-Token"
	sessionFor  = 30 * 24 * time.Hour
	// A password is at least this long; bcrypt takes at most 72 bytes.
	passwordLeast, passwordMost = 10, 72
)

// signedIn lets a request through when its session is good and, for a change,
// when it carries the session's token.
func (s *Server) signedIn(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		r := c.Request()
		if !strings.HasPrefix(r.URL.Path, "/api/") || r.URL.Path == "/api/openapi.json" || r.URL.Path == "/api/session" && r.Method == http.MethodPost {
			return next(c)
		}
		m, err := s.session(c)
		if err != nil {
			return err
		}
		if r.Method != http.MethodGet && r.Method != http.MethodHead &&
			subtle.ConstantTimeCompare([]byte(r.Header.Get(tokenHeader)), []byte(m.Session.CSRF)) != 1 {
			return problem(http.StatusForbidden, "The page is out of date", "Reload it and try again; the request lacked this session's token.")
		}
		if err := s.roles.allow(r.Method, c.Path(), m.Role); err != nil {
			return err
		}
		edge.Known(c, m)
		return next(c)
	}
}

func (s *Server) session(c *echo.Context) (caller, error) {
	out := problem(http.StatusUnauthorized, "Not signed in", "Open the address the start command printed, or sign in with your password.")
	cookie, err := c.Request().Cookie(cookieName)
	if err != nil {
		return caller{}, out
	}
	m, sess, err := s.store.Members.SessionMember(c.Request().Context(), Hash(cookie.Value), sessionFor)
	if errors.Is(err, pg.ErrNone) {
		return caller{}, out
	}
	return caller{Member: m, Session: sess}, err
}

// begin gives a member a session.
func (s *Server) begin(c *echo.Context, m tables.Member) (tables.Session, error) {
	token := rand.Text() + rand.Text()
	sess := tables.Session{Hash: Hash(token), Member: m.ID, Created: time.Now(), Seen: time.Now(), CSRF: rand.Text(), Browser: event.Shortened(plain.Text(c.Request().UserAgent()), 300)}
	if err := s.store.Members.AddSession(c.Request().Context(), sess); err != nil {
		return sess, err
	}
	http.SetCookie(c.Response(), &http.Cookie{Name: cookieName, Value: token, Path: "/", HttpOnly: true, SameSite: http.SameSiteLaxMode, Secure: s.secure(c), MaxAge: int(sessionFor.Seconds())})
	return sess, nil
}

//go:embed enter.html
var enterHTML string

var enterPage = template.Must(template.New("enter").Parse(enterHTML))

// enterView is what the page of a one-time link shows.
type enterView struct {
	Channel, Name string
	Good          bool
}

// enter shows that a one-time link is good; only the button on the page uses it, so that
// a program that looks at links neither uses it up nor is signed in.
func (s *Server) enter(c *echo.Context) error {
	if !s.limits.enter.allow(s.client(c)) {
		return tooMany(c)
	}
	m, err := s.store.Members.SignInGood(c.Request().Context(), Hash(c.Param("token")))
	if err != nil && !errors.Is(err, pg.ErrNone) {
		return err
	}
	h := c.Response().Header()
	h.Set("Content-Type", "text/html; charset=utf-8")
	h.Set("Cache-Control", "no-store")
	if err != nil {
		c.Response().WriteHeader(http.StatusGone)
	}
	return enterPage.Execute(c.Response(), enterView{Channel: s.house.Plan().Settings.Channel, Name: m.Name, Good: err == nil})
}

// useEnter takes a one-time link: it signs in once and then is worth nothing.
func (s *Server) useEnter(c *echo.Context) error {
	if !s.limits.enter.allow(s.client(c)) {
		return tooMany(c)
	}
	m, err := s.store.Members.UseSignIn(c.Request().Context(), Hash(c.Param("token")))
	if errors.Is(err, pg.ErrNone) {
		return c.Redirect(http.StatusSeeOther, "/?link=used")
	}
	if err != nil {
		return err
	}
	if _, err := s.begin(c, m); err != nil {
		return err
	}
	s.house.Entered()
	return c.Redirect(http.StatusSeeOther, "/")
}

func tooMany(c *echo.Context) error {
	c.Response().Header().Set("Retry-After", "30")
	return problem(http.StatusTooManyRequests, "Too many tries", "Wait half a minute and try again.")
}

// SignIn answers POST /api/session.
func (s *Server) SignIn(c *echo.Context) error {
	if !s.limits.signIn.allow(s.client(c)) {
		return tooMany(c)
	}
	var in spec.Credentials
	if err := decode(c, &in); err != nil {
		return err
	}
	m, err := s.store.Members.Named(c.Request().Context(), s.house.ID, in.Name)
	if err != nil && !errors.Is(err, pg.ErrNone) {
		return err
	}
	// The same work whether or not the name exists, so that time tells nothing.
	against := m.Password
	if against == "" {
		against = "$2a$10$7EqJtq98hPqEX7fNZaFWoOHi6VfJ8c6rKqF5y3l1l4Qm1b1n4o2Fa"
	}
	if bcrypt.CompareHashAndPassword([]byte(against), []byte(in.Password)) != nil || m.Password == "" {
		return problem(http.StatusUnauthorized, "Name and password do not fit", "Check both, or use a fresh one-time link from the start command.")
	}
	sess, err := s.begin(c, m)
	if err != nil {
		return err
	}
	s.house.Entered()
	return c.JSON(http.StatusOK, s.sessionView(caller{Member: m, Session: sess}))
}

func (s *Server) sessionView(w caller) spec.Session {
	return spec.Session{Member: w.Name, Role: w.Role, Channel: s.house.Plan().Settings.Channel, Token: w.Session.CSRF, HasPassword: w.Password != "", MovingIn: keeping.IsNew(s.house.Plan().Settings), House: s.house.Plan().Settings.Name}
}

// GetSession answers GET /api/session.
func (s *Server) GetSession(c *echo.Context) error {
	return c.JSON(http.StatusOK, s.sessionView(memberOf(c)))
}

// SignOut answers DELETE /api/session.
func (s *Server) SignOut(c *echo.Context) error {
	here := memberOf(c).Session.Hash
	if err := s.store.Members.EndSession(c.Request().Context(), here); err != nil {
		return err
	}
	s.streams.endIf(func(session string, _ int64) bool { return session == here })
	http.SetCookie(c.Response(), &http.Cookie{Name: cookieName, Path: "/", MaxAge: -1, HttpOnly: true, SameSite: http.SameSiteLaxMode, Secure: s.secure(c)})
	return c.NoContent(http.StatusNoContent)
}

// SetPassword answers PUT /api/session/password.
func (s *Server) SetPassword(c *echo.Context) error {
	var in spec.NewPassword
	if err := decode(c, &in); err != nil {
		return err
	}
	m := memberOf(c)
	if m.Password != "" && !s.limits.current.allow(fmt.Sprint(m.ID)) {
		return tooMany(c)
	}
	switch {
	case len(in.Password) < passwordLeast:
		return &fault{Problem: spec.Problem{Status: 422, Title: "The password is too short", Field: "password", Remedy: "use ten characters or more"}}
	case len(in.Password) > passwordMost:
		return &fault{Problem: spec.Problem{Status: 422, Title: "The password is too long", Field: "password", Remedy: "use at most 72 bytes"}}
	case m.Password != "" && bcrypt.CompareHashAndPassword([]byte(m.Password), []byte(in.Current)) != nil:
		return &fault{Problem: spec.Problem{Status: 422, Title: "The current password does not fit", Field: "current", Remedy: "type the password you have now"}}
	}
	h, err := bcrypt.GenerateFromPassword([]byte(in.Password), bcrypt.DefaultCost)
	if err != nil {
		return err
	}
	if err := s.store.Members.SetPassword(c.Request().Context(), m.ID, m.Session.Hash, string(h)); err != nil {
		return err
	}
	s.streams.endIf(func(session string, member int64) bool { return member == m.ID && session != m.Session.Hash })
	return c.NoContent(http.StatusNoContent)
}

func writeJSON(w io.Writer, v any) { json.NewEncoder(w).Encode(v) }

// signInBack answers GET /signin/back: a member comes back from a platform. Whoever has no session
// here did not begin it.
func (s *Server) signInBack(c *echo.Context) error {
	if !s.limits.enter.allow(s.client(c)) {
		return tooMany(c)
	}
	who, err := s.session(c)
	if err != nil {
		return err
	}
	q := c.QueryParams()
	platform, movesIn, err := s.house.SignIns.Back(c.Request().Context(), who.Session.Hash, q.Get("state"), q.Get("code"), q.Get("error"))
	switch {
	case platform == "":
		return problem(http.StatusBadRequest, "This sign-in is not good", err.Error())
	case movesIn:
		return c.Redirect(http.StatusSeeOther, "/moving/chat")
	}
	return c.Redirect(http.StatusSeeOther, "/house/platforms/"+url.PathEscape(platform))
}
