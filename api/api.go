// Package api is the house's HTTP edge: the interface's routes, sign-in, the
// inbox, health and metrics, and the built interface itself. Handlers decode,
// call and encode; no rule of the job lives here.
package api

import (
	"bytes"
	"context"
	"crypto/rand"
	"errors"
	"io/fs"
	"log/slog"
	"net/http"
	"net/netip"
	"slices"
	"strings"
	"time"

	"github.com/jackc/pgx/v5/pgconn"
	"github.com/labstack/echo/v5"
	"github.com/labstack/echo/v5/middleware"
	"github.com/prometheus/client_golang/prometheus/promhttp"

	"vividporch/api/calendar"
	"vividporch/api/company"
	"vividporch/api/drawing"
	"vividporch/api/edge"
	"vividporch/api/guarding"
	"vividporch/api/keeping"
	"vividporch/api/lookingback"
	"vividporch/api/marks"
	"vividporch/api/onscreen"
	"vividporch/api/places"
	"vividporch/api/rehearsing"
	"vividporch/api/rewarding"
	"vividporch/core/event"
	"vividporch/core/housefile"
	"vividporch/core/who"
	"vividporch/porch"
	"vividporch/spec"
	"vividporch/store"
	"vividporch/store/log"
)

// Config is what the edge needs.
type Config struct {
	House *porch.House
	Store *store.Store
	UI    fs.FS // the built interface
	// Public is where people reach the house from outside, "https://porch.example":
	// links start with it, and cookies are marked secure when it is over TLS.
	Public string
	// Proxies are the reverse proxies whose word about a request's client counts.
	Proxies []netip.Prefix
	// Backups makes backups and brings them back; nil for a house that keeps none.
	Backups *keeping.Backups
	Log     *slog.Logger
}

// Server answers requests.
type Server struct {
	*keeping.Keeping
	*company.Company
	*calendar.Calendar
	*places.Places
	*marks.Marks
	*onscreen.OnScreen
	*guarding.Guarding
	*drawing.Drawing
	*rewarding.Rewarding
	*rehearsing.Rehearsing
	*lookingback.LookingBack
	cfg     Config
	house   *porch.House
	store   *store.Store
	echo    *echo.Echo
	limits  *limits
	streams streams
	roles   roles
}

// New builds the routes.
func New(cfg Config) *Server {
	if cfg.Log == nil {
		cfg.Log = slog.New(slog.DiscardHandler)
	}
	s := &Server{cfg: cfg, house: cfg.House, store: cfg.Store, echo: echo.New(),
		limits: newLimits(), roles: rolesOf(spec.OpenAPI)}
	s.Company = company.New(cfg.House)
	s.Places = places.New(cfg.House, cfg.Store, s.public)
	s.Marks = marks.New(cfg.House, cfg.Store, s.public)
	s.Drawing = drawing.New(cfg.House, cfg.UI, s.somebody)
	s.Rewarding = rewarding.New(cfg.House, cfg.Store, s.somebody)
	s.LookingBack = lookingback.New(cfg.House, cfg.Store)
	s.Rehearsing = rehearsing.New(cfg.House, cfg.Store, words, s.names)
	s.Guarding = guarding.New(cfg.House, cfg.Store, s.somebody)
	s.OnScreen = onscreen.New(cfg.House, cfg.Store, cfg.UI, s.public, func(c *echo.Context) bool { return s.limits.kept.allow("overlay " + s.client(c)) })
	s.Calendar = calendar.New(cfg.House, cfg.Store, s.public)
	s.Keeping = keeping.New(keeping.Config{House: cfg.House, Store: cfg.Store, Backups: cfg.Backups, Members: s.publicly,
		Names: func(c *echo.Context) who.Names { return s.names(c.Request().Context()) }})
	e := s.echo
	e.Logger = cfg.Log
	e.HTTPErrorHandler = s.problem
	e.Use(middleware.Recover(), s.security, noNUL, timely)
	e.GET("/healthz", s.healthy)
	e.GET("/readyz", s.ready)
	e.GET("/metrics", s.loopbackOnly(echo.WrapHandler(promhttp.Handler())))
	e.POST("/inbox/:door", s.inbox)
	e.GET("/signin/back", s.signInBack)
	e.GET("/enter/:token", s.enter)
	e.POST("/enter/:token", s.useEnter)
	e.GET("/asks", s.ShowAsks)
	e.GET("/asks/:channel", s.ShowAsks)
	e.GET("/ranks", s.ShowRanks)
	e.GET("/draws", s.ShowDraws)
	e.GET("/draws/list", s.ListDraws)
	e.GET("/draws/:id", s.ShowDraw)
	e.GET("/draws/:id/list", s.ListDraw)
	e.GET("/dates.ics", s.Feed)
	e.HEAD("/dates.ics", s.Feed)
	e.GET("/happenings.atom", s.ReadFeed)
	e.HEAD("/happenings.atom", s.ReadFeed)
	e.POST("/bookmarks/:key", s.Press)
	e.GET("/bookmarks/:key", s.Press)
	e.HEAD("/bookmarks/:key", s.Press)
	e.GET("/overlay/:key", s.ShowOverlay)
	e.GET("/overlay/:key/live", s.LiveOverlay)
	e.GET("/overlay/:key/media/:name", s.OverlayMedium)
	e.GET("/overlay/:key/speech/:id", s.OverlaySpeech)
	e.GET("/overlay/:key/fetched/:id", s.OverlayFetched)
	e.GET("/ear/:key", s.ShowEar)
	e.GET("/ear/:key/live", s.LiveEar)
	e.GET("/ear/:key/speech/:id", s.EarSpeech)
	e.GET("/kept/:token", s.keptLink)
	e.POST("/kept/:token", s.useKeptLink)
	e.GET("/kept.css", keptStyle)
	e.GET("/api/openapi.json", openAPI)
	e.Use(s.signedIn, described.hold)
	spec.RegisterHandlers(e, s)
	e.GET("/*", s.page)
	return s
}

// public is where people reach the house: as the settings say, else as it was started.
func (s *Server) public() string {
	if s.house.Plan().Settings.Reach.How == "" {
		return s.cfg.Public
	}
	return s.house.Links()
}

// secure reports whether a request came over TLS: to the house itself, or to a proxy before it at
// its public address.
func (s *Server) secure(c *echo.Context) bool {
	return c.Request().TLS != nil || s.house.Plan().Settings.Reach.How != housefile.Home && strings.HasPrefix(s.public(), "https://")
}

// ServeHTTP answers one request.
func (s *Server) ServeHTTP(w http.ResponseWriter, r *http.Request) { s.echo.ServeHTTP(w, r) }

// noNUL refuses addresses with a NUL character in them, which no database takes.
func noNUL(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		if u := c.Request().URL; strings.Contains(u.Path, "\x00") || strings.Contains(u.RawQuery, "%00") {
			return problem(http.StatusBadRequest, "The address holds a NUL character", "Leave it out.")
		}
		return next(c)
	}
}

// security sets the headers every answer carries. Scripts and styles come from
// the house alone.
func (s *Server) security(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		h := c.Response().Header()
		h.Set("Content-Security-Policy", policy(""))
		h.Set("X-Content-Type-Options", "nosniff")
		h.Set("Referrer-Policy", "no-referrer")
		h.Set("Cross-Origin-Opener-Policy", "same-origin")
		// Not for the house's own certificate in the home network: whoever could not reach the house
		// any more because of it would have no way back.
		if s.secure(c) && s.house.Plan().Settings.Reach.How != housefile.Home {
			h.Set("Strict-Transport-Security", "max-age=31536000")
		}
		return next(c)
	}
}

// What all handlers share, under the names it has here.
type (
	fault  = edge.Fault
	caller = edge.Caller
)

var (
	problem  = edge.Problem
	decode   = edge.Decode
	memberOf = edge.MemberOf
	by       = edge.By
	deed     = edge.Deed
)

// Hash is how a token is kept.
func Hash(token string) string { return edge.Hash(token) }

// problem writes any error as problem details (RFC 9457).
func (s *Server) problem(c *echo.Context, err error) {
	if r, _ := echo.UnwrapResponse(c.Response()); r != nil && r.Committed {
		return
	}
	p := spec.Problem{Status: http.StatusInternalServerError, Title: "The house stumbled", Detail: "It was noted in the log; try again."}
	var f *fault
	var field *event.FieldError
	var coder echo.HTTPStatusCoder
	var aside *porch.ErrAside
	var pg *pgconn.PgError
	switch {
	case errors.As(err, &f):
		p = f.Problem
	case errors.As(err, &field):
		p = spec.Problem{Status: http.StatusUnprocessableEntity, Title: "A field cannot stand", Detail: field.Error(), Field: strings.TrimPrefix(field.Field, "data."), Remedy: field.Remedy}
	case errors.As(err, &aside):
		p = spec.Problem{Status: http.StatusUnprocessableEntity, Title: "This could not be kept, and was set aside", Detail: aside.Cause + ". It stands in Waiting for you."}
	case errors.Is(err, porch.ErrStalled), errors.Is(err, porch.ErrClosed), log.Waits(err):
		c.Response().Header().Set("Retry-After", "2")
		p = spec.Problem{Status: http.StatusServiceUnavailable, Title: "The database is gone", Detail: "Nothing was changed; try again in a moment."}
	case errors.As(err, &pg) && strings.HasPrefix(pg.Code, "22"): // SQLSTATE class 22: what was asked for is no number, no date…
		p = spec.Problem{Status: http.StatusBadRequest, Title: "Something in the request cannot be read", Detail: "Leave out after= and at=, or send what the page before gave."}
	case errors.As(err, &coder):
		p = spec.Problem{Status: coder.StatusCode(), Title: http.StatusText(coder.StatusCode())}
	default:
		s.cfg.Log.Error("request failed", "method", c.Request().Method, "route", c.Path(), "error", err) // never the address: it may hold a token
	}
	c.Response().Header().Set("Content-Type", "application/problem+json")
	c.Response().WriteHeader(p.Status)
	if c.Request().Method != http.MethodHead {
		writeJSON(c.Response(), p)
	}
}

// healthy tells whether the process does its work: not when the owner has made no
// progress for a minute.
func (s *Server) healthy(c *echo.Context) error {
	if s.house.Stuck() {
		return c.String(http.StatusServiceUnavailable, "no progress for a minute\n")
	}
	return c.String(http.StatusOK, "ok\n")
}

// ready tells how each part stands.
func (s *Server) ready(c *echo.Context) error {
	ctx, cancel := context.WithTimeout(c.Request().Context(), 2*time.Second)
	defer cancel()
	parts := map[string]any{"database": "ok", "house": "ok"}
	status := http.StatusOK
	if s.house.Stuck() {
		parts["house"], status = "no progress", http.StatusServiceUnavailable
	}
	if err := s.store.Ping(ctx); err != nil || s.house.Stalled() {
		parts["database"], status = "gone", http.StatusServiceUnavailable
		return c.JSON(status, parts)
	}
	doors := s.house.Doors()
	if _, err := s.session(c); err == nil {
		parts["doors"] = doors
		return c.JSON(status, parts)
	}
	states := map[string]int{} // which door it is, and what it was told, is for members
	for _, d := range doors {
		states[d.State]++
	}
	parts["doors"] = states
	return c.JSON(status, parts)
}

func (s *Server) loopbackOnly(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		if !onLoopback(c) {
			return problem(http.StatusForbidden, "Only from this machine", "Ask for the metrics on loopback.")
		}
		return next(c)
	}
}

// views are the addresses that the interface has views for.
var views = []string{"index.html", "book", "dates", "courtesies", "places", "rehearsal", "lookback", "house", "moving"}

// page serves the built interface; every path that is no file is the page itself.
func (s *Server) page(c *echo.Context) error {
	path := strings.TrimPrefix(c.Request().URL.Path, "/")
	if strings.HasPrefix(path, "api/") {
		return problem(http.StatusNotFound, "No such route", "See /api/openapi.json.")
	}
	if path == "" || !fs.ValidPath(path) {
		path = "index.html"
	}
	if st, err := fs.Stat(s.cfg.UI, path); err != nil || st.IsDir() {
		if !slices.Contains(views, strings.SplitN(path, "/", 2)[0]) {
			return problem(http.StatusNotFound, "There is nothing at this address", "Begin at /, the Porch.")
		}
		path = "index.html"
	}
	if path == "index.html" {
		return s.index(c)
	}
	if strings.HasPrefix(path, "assets/") {
		c.Response().Header().Set("Cache-Control", "public, max-age=31536000, immutable")
	} else {
		c.Response().Header().Set("Cache-Control", "no-cache")
	}
	http.ServeFileFS(c.Response(), c.Request(), s.cfg.UI, path)
	return nil
}

// nonceMark stands in the page where its nonce goes.
const nonceMark = "%NONCE%"

// index serves the page with a nonce of its own: the composer of wordings adds its
// styles by script, and only with this nonce may it.
func (s *Server) index(c *echo.Context) error {
	page, err := fs.ReadFile(s.cfg.UI, "index.html")
	if err != nil {
		return err
	}
	nonce := rand.Text()
	h := c.Response().Header()
	h.Set("Content-Security-Policy", policy("'nonce-"+nonce+"'"))
	h.Set("Cache-Control", "no-store")
	return c.HTMLBlob(http.StatusOK, bytes.ReplaceAll(page, []byte(nonceMark), []byte(nonce)))
}

// policy is what a page may load: all from the house alone.
func policy(styles string) string {
	return strings.TrimSpace("default-src 'none'; script-src 'self'; style-src 'self' "+styles) +
		"; img-src 'self' data:; media-src 'self'; font-src 'self'; connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'"
}
