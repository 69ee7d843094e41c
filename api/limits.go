package api

import (
	"context"
	"net"
	"net/netip"
	"strings"
	"sync"
	"time"

	"github.com/labstack/echo/v5"
	"golang.org/x/time/rate"
)

// limiters hold one token bucket for each key, so that one sender cannot use up
// another's share. They are bounded without forgetting everybody: when there are many,
// those that were not asked for since the last time go.
type limiters struct {
	perSecond rate.Limit
	burst     int

	mu           sync.Mutex
	young, older map[string]*rate.Limiter
}

// generation is how many keys one generation of limiters holds.
const generation = 10_000

func (l *limiters) allow(key string) bool {
	l.mu.Lock()
	defer l.mu.Unlock()
	b := l.young[key]
	if b == nil {
		if b = l.older[key]; b == nil {
			b = rate.NewLimiter(l.perSecond, l.burst)
		}
		if l.young == nil || len(l.young) >= generation {
			l.older, l.young = l.young, map[string]*rate.Limiter{}
		}
		l.young[key] = b
	}
	return b.Allow()
}

// limits are what may be tried how often, each for its own purpose.
type limits struct {
	doors    limiters // signed posts of a door
	unsigned limiters // posts to a door, by client, whose signature is not good
	enter    limiters // one-time links, by client
	signIn   limiters // names with passwords, by client
	current  limiters // the current password, by member
	kept     limiters // links to what is kept, by client
}

func newLimits() *limits {
	few := func() limiters { return limiters{perSecond: 0.2, burst: 8} }
	return &limits{doors: limiters{perSecond: 200, burst: 400}, unsigned: limiters{perSecond: 5, burst: 50}, enter: few(), signIn: few(), current: few(), kept: few()}
}

// forwarded reports whether a request says that it came through a proxy, whoever says so.
func forwarded(c *echo.Context) bool {
	h := c.Request().Header
	for _, name := range []string{"Forwarded", "X-Forwarded-For", "X-Forwarded-Host", "X-Forwarded-Proto", "X-Real-Ip", "Via"} {
		if h.Get(name) != "" {
			return true
		}
	}
	return false
}

// remote is the address at the other end of the connection.
func remote(c *echo.Context) netip.Addr {
	host, _, err := net.SplitHostPort(c.Request().RemoteAddr)
	if err != nil {
		host = c.Request().RemoteAddr
	}
	at, _ := netip.ParseAddr(host)
	return at.Unmap()
}

// onLoopback reports whether a request comes from this very machine, not through a proxy.
func onLoopback(c *echo.Context) bool { return remote(c).IsLoopback() && !forwarded(c) }

// client names whom a limit counts: the client's address, behind the proxies that are
// named. A whole /64 is one client (RFC 4291, section 2.5.4): nobody has less.
func (s *Server) client(c *echo.Context) string {
	at := remote(c)
	hops := strings.Split(strings.Join(c.Request().Header.Values("X-Forwarded-For"), ","), ",")
	for i := len(hops) - 1; i >= 0 && s.proxied(at); i-- {
		next, err := netip.ParseAddr(strings.TrimSpace(hops[i]))
		if err != nil {
			break
		}
		at = next.Unmap()
	}
	if at.Is6() {
		p, _ := at.Prefix(64)
		return p.String()
	}
	return at.String()
}

func (s *Server) proxied(at netip.Addr) bool {
	for _, p := range s.cfg.Proxies {
		if p.Contains(at) {
			return true
		}
	}
	return false
}

// answerWithin is how long a route may work with the database; those that take in or give
// out whole files have minutes, the live stream as long as it lasts.
const (
	answerWithin = 5 * time.Second
	filesWithin  = 10 * time.Minute
)

// timely bounds how long a request may take.
func timely(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		r := c.Request()
		within := answerWithin
		switch path := r.URL.Path; {
		case !strings.HasPrefix(path, "/api/") && !strings.HasPrefix(path, "/kept/") && !strings.HasPrefix(path, "/enter/"), path == "/api/porch/live":
			return next(c)
		case strings.HasPrefix(path, "/api/book/imports"), path == "/api/book/export", strings.HasPrefix(path, "/api/settings/bundle"), strings.HasPrefix(path, "/api/media"), strings.HasPrefix(path, "/api/backups"),
			strings.HasSuffix(path, "/forget"), strings.HasSuffix(path, "/kept"), strings.HasSuffix(path, "/list"), path == "/api/settings/file", strings.HasPrefix(path, "/api/book/newcomers"), strings.HasPrefix(path, "/api/lookback"), strings.HasSuffix(path, "/check"):
			within = filesWithin
		}
		ctx, cancel := context.WithTimeout(r.Context(), within)
		defer cancel()
		c.SetRequest(r.WithContext(ctx))
		return next(c)
	}
}
