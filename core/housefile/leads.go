package housefile

import (
	"slices"
	"strings"
)

// Leads tells where everything with a name of its own leads: doors, places and
// fittings, each with all of its addresses.
func (s *Settings) Leads() map[string]string {
	out := map[string]string{}
	for _, d := range s.Doors {
		out[d.Name] = strings.Join(slices.DeleteFunc([]string{d.chatAddress(), d.Lookup, d.Acts}, func(a string) bool { return a == "" }), " ")
	}
	for _, p := range s.Places {
		out[p.Name] = p.URL
	}
	for _, f := range s.Fittings {
		out[f.Name] = f.URL
	}
	return out
}

// chatAddress is the address of a chat door, with its scheme.
func (d *Door) chatAddress() string {
	if d.TLS {
		return prefixed("ircs://", d.Address)
	}
	return prefixed("irc://", d.Address)
}

// ChatOrigin is where a chat door leads, as [Origin] writes it.
func (d *Door) ChatOrigin() string { return Origin(d.chatAddress()) }

// Origin is the scheme, host and port of an address, "https://host:443": what a secret is
// bound to (RFC 6454, section 4). "" for what is no address.
func Origin(address string) string {
	scheme, rest, ok := strings.Cut(address, "://")
	if !ok {
		return ""
	}
	scheme = strings.ToLower(scheme)
	host := rest
	if i := strings.IndexAny(rest, "/?#"); i >= 0 {
		host = rest[:i]
	}
	if i := strings.LastIndexByte(host, '@'); i >= 0 {
		host = host[i+1:]
	}
	host = strings.ToLower(host)
	if i := strings.LastIndexByte(host, ':'); i < 0 || strings.HasSuffix(host, "]") {
		port := map[string]string{"http": "80", "https": "443", "irc": "6667", "ircs": "6697"}[scheme]
		host += ":" + port
	}
	if strings.HasPrefix(host, ":") {
		return ""
	}
	return scheme + "://" + host
}

// SecretFor tells what a secret of a name is bound to; "" for one that only what comes
// in is checked against. ok is false where the settings know of no such secret.
func (s *Settings) SecretFor(name, slot string) (origin string, ok bool) {
	for i := range s.Doors {
		switch d := &s.Doors[i]; {
		case d.Name != name:
		case d.Kind == "irc":
			return d.ChatOrigin(), slot == "password"
		default:
			return Origin(d.Acts), slot == "secret" || slot == "secret-old"
		}
	}
	if slot != "secret" {
		return "", false
	}
	if p := s.PlaceNamed(name); p != nil {
		return Origin(p.URL), true
	}
	if f := s.FittingNamed(name); f != nil {
		return Origin(f.URL), true
	}
	return "", false
}

func prefixed(prefix, s string) string {
	if s == "" {
		return ""
	}
	return prefix + s
}
