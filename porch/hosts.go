package porch

import (
	"context"
	"net"
	"net/netip"
	"net/url"
	"slices"
	"strings"
	"sync"
	"time"

	"vividporch/core/event"
	"vividporch/core/housefile"
	"vividporch/outside"
)

// hostsFor is how long the list of allowed hosts is kept at hand; a host that was
// allowed on the command line is reached after that.
const hostsFor = 3 * time.Second

// allowed are the hosts of this machine and of private networks that may be reached.
type allowed struct {
	mu    sync.Mutex
	at    time.Time
	hosts map[string]bool
}

// mayReach reports whether the owner lets the house reach a host that is not on the
// open network. While the database is gone, what was known holds.
func (h *House) mayReach(host string) bool {
	a := &h.hosts
	a.mu.Lock()
	defer a.mu.Unlock()
	if time.Since(a.at) > hostsFor {
		ctx, cancel := context.WithTimeout(context.Background(), quickly)
		defer cancel()
		if list, err := h.store.Safe.Allowed(ctx, h.ID); err == nil {
			a.at, a.hosts = time.Now(), map[string]bool{}
			for _, x := range list {
				a.hosts[x.Host] = true
			}
		}
	}
	return a.hosts[host]
}

// AllowHost lets the house reach a host that is not on the open network, or not any more. It
// holds at once: doors that were refused there are opened anew.
func (h *House) AllowHost(ctx context.Context, host string, allow bool) error {
	change := h.store.Safe.Disallow
	if allow {
		change = func(ctx context.Context, channel int64, host string) error {
			return h.store.Safe.Allow(ctx, channel, host, false)
		}
	}
	if err := change(ctx, h.ID, host); err != nil {
		return err
	}
	h.hosts.mu.Lock()
	h.hosts.at = time.Time{}
	h.hosts.mu.Unlock()
	for name, c := range h.chatsNow() {
		if at, _, err := net.SplitHostPort(c.ear.Door.Address); err == nil && outside.Host(at) == host {
			if err := h.Reopen(name); err != nil {
				return err
			}
		}
	}
	return nil
}

// guard makes the list of hosts hold. On a channel that is older than the list, hosts in
// use that are not on the open network are put on it, and shown.
func (h *House) guard(ctx context.Context) ([]event.Event, error) {
	was, err := h.store.Safe.Guarded(ctx, h.ID)
	if err != nil || was {
		return nil, err
	}
	var out []event.Event
	for _, host := range hostsOf(h.plan.Load().Whole) {
		if !private(ctx, host) {
			continue
		}
		if err := h.store.Safe.Allow(ctx, h.ID, host, true); err != nil {
			return nil, err
		}
		out = append(out, h.ownEvent(&event.Noticed{Item: event.Shortened("host/"+host, 300), Kind: "host", Name: host,
			Why: "it is on this machine or a private network, and was in use before such hosts had to be allowed; it stays allowed"}))
	}
	return out, nil
}

// hostsOf are the hosts that settings lead to.
func hostsOf(s *housefile.Settings) []string {
	var out []string
	for _, addresses := range s.Leads() {
		for _, a := range strings.Fields(addresses) {
			u, err := url.Parse(a)
			if err != nil || u.Hostname() == "" {
				continue
			}
			if host := outside.Host(u.Hostname()); !slices.Contains(out, host) {
				out = append(out, host)
			}
		}
	}
	slices.Sort(out)
	return out
}

// private reports whether a host leads to this machine or a private network.
func private(ctx context.Context, host string) bool {
	if at, err := netip.ParseAddr(host); err == nil {
		return outside.Private(at)
	}
	ctx, cancel := context.WithTimeout(ctx, 2*time.Second)
	defer cancel()
	list, err := net.DefaultResolver.LookupNetIP(ctx, "ip", host)
	return err == nil && slices.ContainsFunc(list, outside.Private)
}
