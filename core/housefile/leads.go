package housefile

import (
	"slices"
	"strings"

	"vividporch/core/fitting"
	"vividporch/core/reading"
)

// Leads tells where everything with a name of its own leads: doors, places and
// fittings, each with all of its addresses.
func (s *Settings) Leads() map[string]string {
	out := map[string]string{}
	for i := range s.Doors {
		d := &s.Doors[i]
		leads := []string{d.chatAddress()}
		if d.Service != nil {
			leads = append(leads, d.Service.Listen.Address)
		}
		if d.Kind == "inbox" {
			acts, _ := s.ActsAt(d.Platform)
			leads = append(leads, acts)
			if p := s.Profile(d.Platform); p.Lookup != nil {
				leads = append(leads, p.Where(p.Lookup.Address))
			}
		}
		out[d.Name] = strings.Join(slices.DeleteFunc(leads, func(a string) bool { return a == "" }), " ")
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
		port := map[string]string{"http": "80", "https": "443", "ws": "80", "wss": "443", "irc": "6667", "ircs": "6697", "xmpp": "5222", "xmpps": "5222"}[scheme]
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
		case d.Kind == "listen":
			if d.Service == nil {
				return "", false
			}
			return Origin(d.Service.Listen.Address), slot == "token"
		case d.Kind == "hook":
			return "", slot == "secret" || slot == "secret-old"
		default:
			acts, _ := s.ActsAt(d.Platform)
			return Origin(acts), slot == "secret" || slot == "secret-old"
		}
	}
	if rest, ok := strings.CutPrefix(name, "signin:"); ok { // of a platform's sign-in; tokens are kept by whose they are
		platform, who, token := strings.Cut(rest, ":")
		p := s.Profile(platform)
		if p.SignIn == nil || token && who == "" {
			return "", false
		}
		return Origin(p.Where(p.SignIn.Token)), token && (slot == "access" || slot == "refresh") || !token && (slot == "client" || slot == "client-secret")
	}
	if p := s.PlaceNamed(name); p != nil {
		return Origin(p.URL), slices.Contains(p.Secrets(), slot)
	}
	if slot != "secret" {
		return "", false
	}
	if f := s.FittingNamed(name); f != nil {
		return Origin(f.URL), true
	}
	return "", false
}

// FreeSecret reports whether a secret may be any text: another service's own, which is compared or
// sent as it is. Others sign as Standard Webhooks has it.
func (s *Settings) FreeSecret(name, slot string) bool {
	if strings.HasPrefix(name, "signin:") {
		return true
	}
	if p := s.PlaceNamed(name); p != nil {
		return slot != "secret" && slices.Contains(p.Secrets(), slot)
	}
	if f := s.FittingNamed(name); f != nil && f.Spoken() != nil { // only what signs must be fit to sign
		return slot == "secret" && f.Spoken().Proof.How != fitting.Signed
	}
	d := s.DoorNamed(name)
	if d == nil || !d.IsService() {
		return false
	}
	return slot == "token" || d.Service != nil && (d.Service.Proof.How == reading.HMAC || d.Service.Proof.How == reading.Token)
}

func prefixed(prefix, s string) string {
	if s == "" {
		return ""
	}
	return prefix + s
}
