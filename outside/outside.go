// Package outside is the one way out: everything the house connects to, a chat network,
// a place, a platform or a fitting, it reaches through a [Dialer].
//
// An address that somebody writes into the settings, or that a name leads to, may be
// this machine's, the router's or a cloud's own metadata service. So addresses are
// checked when a connection is made, after the name was looked up, so that a name which
// leads elsewhere the second time gains nothing. Hosts on this machine or on a private
// network are reached only when the owner allowed the host by name; link-local
// addresses, where clouds keep their metadata, never.
package outside

import (
	"context"
	"fmt"
	"net"
	"net/http"
	"net/netip"
	"strings"
	"syscall"
	"time"
)

// dialWithin is how long one connection may take to be made.
const dialWithin = 10 * time.Second

// Dialer makes connections to what may be reached.
type Dialer struct {
	// Allowed tells whether the owner lets the house reach a host of a private network
	// or of this machine, by the name or number it is written as; nil allows none.
	Allowed func(host string) bool
}

// Refused says that a host may not be reached, and how that can be changed.
type Refused struct {
	Host    string
	Address netip.Addr
	Never   bool // whatever the owner allows
}

func (r *Refused) Error() string {
	if r.Never {
		return fmt.Sprintf("%s is at %s, which the house never connects to", r.Host, r.Address)
	}
	return fmt.Sprintf("%s is at %s, on this machine or a private network: the owner allows it in House, or with: vividporch allow %s", r.Host, r.Address, r.Host)
}

// Timeout and Temporary make it a net.Error that is final: trying again changes nothing.
func (r *Refused) Timeout() bool { return false }

// Temporary is part of net.Error.
func (r *Refused) Temporary() bool { return false }

// DialContext connects to host:port.
func (d *Dialer) DialContext(ctx context.Context, network, address string) (net.Conn, error) {
	host, _, err := net.SplitHostPort(address)
	if err != nil {
		return nil, err
	}
	host = Host(host)
	dialer := net.Dialer{Timeout: dialWithin, ControlContext: func(_ context.Context, _, to string, _ syscall.RawConn) error {
		at, err := netip.ParseAddrPort(to)
		if err != nil {
			return err
		}
		return d.check(host, at.Addr())
	}}
	return dialer.DialContext(ctx, network, address)
}

// check refuses an address that a host leads to.
func (d *Dialer) check(host string, at netip.Addr) error {
	at = at.Unmap()
	switch {
	case never(at):
		return &Refused{Host: host, Address: at, Never: true}
	case Private(at) && (d.Allowed == nil || !d.Allowed(host)):
		return &Refused{Host: host, Address: at}
	}
	return nil
}

// Host writes a host as it is compared: in lower case, without a dot at its end or
// brackets round it.
func Host(host string) string {
	return strings.TrimSuffix(strings.ToLower(strings.Trim(host, "[]")), ".")
}

// ReadHost reads a host that somebody writes: a name or a number alone, without scheme and port.
func ReadHost(text string) (string, error) {
	host := Host(strings.TrimSpace(text))
	if host == "" || len(host) > 253 || strings.ContainsAny(host, "/@ ") || strings.Count(host, ":") == 1 {
		return "", fmt.Errorf("%q is no host: write a name or a number alone, such as lamp.local or 192.168.1.20", text)
	}
	return host, nil
}

// never are addresses nobody has a reason to reach: link-local ones (RFC 3927 and RFC
// 4291, section 2.5.6), among them 169.254.169.254 where clouds keep their metadata, what
// one cloud uses instead (fd00:ec2::254), multicast and broadcast.
func never(at netip.Addr) bool {
	return at.IsLinkLocalUnicast() || at.IsMulticast() || at == netip.MustParseAddr("255.255.255.255") || at == netip.MustParseAddr("fd00:ec2::254") || at == netip.MustParseAddr("100.100.100.200")
}

// notGlobal are ranges that are not on the open network (the special-purpose registries
// of RFC 6890), besides those that net/netip knows.
var notGlobal = func() []netip.Prefix {
	var out []netip.Prefix
	for _, p := range []string{"0.0.0.0/8", "100.64.0.0/10", "192.0.0.0/24", "192.0.2.0/24", "192.88.99.0/24", "198.18.0.0/15", "198.51.100.0/24", "203.0.113.0/24", "240.0.0.0/4",
		"::/128", "64:ff9b::/96", "64:ff9b:1::/48", "100::/64", "2001::/23", "2001:db8::/32", "2002::/16", "fec0::/10"} {
		out = append(out, netip.MustParsePrefix(p))
	}
	return out
}()

// Private reports whether an address is on this machine or a private network, or leads
// into one.
func Private(at netip.Addr) bool {
	at = at.Unmap()
	if at.IsLoopback() || at.IsPrivate() || at.IsUnspecified() || never(at) {
		return true
	}
	for _, p := range notGlobal {
		if p.Contains(at) {
			return true
		}
	}
	return false
}

// Streaming makes an HTTP client for what goes on for long, a WebSocket or an event stream: it has no
// time limit of its own and follows no redirect.
func (d *Dialer) Streaming() *http.Client {
	return &http.Client{Transport: &http.Transport{DialContext: d.DialContext, Proxy: nil, TLSHandshakeTimeout: dialWithin, ResponseHeaderTimeout: dialWithin, MaxResponseHeaderBytes: 64 << 10},
		CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
}

// mostHops is how many redirects are followed.
const mostHops = 3

// Client makes an HTTP client that reaches only what may be reached, within a time. A
// request with a body is never sent elsewhere; others follow a few redirects, each to
// what may be reached.
func (d *Dialer) Client(within time.Duration) *http.Client {
	return &http.Client{Timeout: within,
		Transport: &http.Transport{DialContext: d.DialContext, Proxy: nil, ForceAttemptHTTP2: true, TLSHandshakeTimeout: dialWithin,
			ResponseHeaderTimeout: within, MaxIdleConns: 32, IdleConnTimeout: time.Minute, MaxResponseHeaderBytes: 64 << 10},
		CheckRedirect: func(req *http.Request, via []*http.Request) error {
			if via[0].Method != http.MethodGet && via[0].Method != http.MethodHead || len(via) > mostHops {
				return http.ErrUseLastResponse
			}
			return nil
		}}
}
