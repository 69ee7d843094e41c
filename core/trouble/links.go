package trouble

import (
	"fmt"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"
)

// KindLinks is the name of it.
const KindLinks Kind = "links"

// Links looks for links that nobody allowed.
type Links struct {
	Allow []string `json:"allow,omitempty"` // hosts that anybody may link to, with all below them: "quayside.example"
}

var links = Spec{New: func() Does { return &Links{} }, Title: "Links", All: true}

// Kind is the name of it.
func (*Links) Kind() Kind { return KindLinks }

// Says tells what it looks for.
func (s *Links) Says() string {
	if len(s.Allow) > 0 {
		return "a link that nobody allowed"
	}
	return "a link"
}

// mostHosts is how many hosts anybody may link to.
const mostHosts = 500

// Check reports what is no host.
func (s *Links) Check(fault func(at, what, remedy string)) {
	if len(s.Allow) > mostHosts {
		fault("allow", "are too many", fmt.Sprintf("keep at most %d", mostHosts))
	}
	for i, h := range s.Allow {
		if _, ok := hostOf("https://" + h); !ok || strings.ContainsAny(h, "/?#@: ") {
			fault(fmt.Sprintf("allow.%d", i), fmt.Sprintf("%q is no host", h), `write it without scheme and path: "quayside.example"`)
		}
	}
}

// Finds tells the first link of a line that is not allowed.
func (s *Links) Finds(l *Line, _ Lately) string {
	for _, h := range l.Links() {
		if !slices.ContainsFunc(s.Allow, func(a string) bool {
			a = strings.ToLower(a)
			return h == a || strings.HasSuffix(h, "."+a)
		}) {
			return "a link to " + h
		}
	}
	return ""
}

// Links are the hosts that a line links to.
func (l *Line) Links() []string {
	if l.linked {
		return l.links
	}
	l.linked = true
	if !strings.ContainsAny(l.Text, ".。") {
		return nil
	}
	for _, w := range strings.FieldsFunc(l.Text, func(r rune) bool { return unicode.IsSpace(r) || strings.ContainsRune(`<>"“”()[]{}|,;`, r) }) {
		if h, ok := hostOf(w); ok {
			l.links = append(l.links, h)
		}
	}
	return l.links
}

var topLevel = func() map[string]bool {
	out := map[string]bool{"example": true} // RFC 2606
	for _, t := range strings.Fields(tops) {
		out[t] = true
	}
	return out
}()

// isTop reports whether hosts end so.
func isTop(label string) bool { return topLevel[label] }

// words that end hosts, and that nobody has to have written for a link: without scheme or path they are words.
var alsoWords = []string{"am", "as", "at", "be", "by", "do", "in", "is", "it", "me", "my", "no", "so", "to", "us", "la", "de", "es", "et", "ne", "se", "st", "re", "pm"}

// hostOf is the host that a word links to: one with a scheme or "www.", one with a path, or one that ends as hosts do.
func hostOf(w string) (host string, ok bool) {
	w = strings.TrimRight(strings.ToLower(strings.ReplaceAll(w, "。", ".")), ".!?:'*_~")
	scheme, rest, schemed := strings.Cut(w, "://")
	if schemed {
		for _, r := range scheme {
			if r < 'a' || r > 'z' {
				return "", false
			}
		}
		w = rest
	}
	host, path := w, ""
	if i := strings.IndexAny(w, "/?#"); i >= 0 {
		host, path = w[:i], w[i:]
	}
	if i := strings.LastIndexByte(host, '@'); i >= 0 {
		if !schemed { // an address of mail
			return "", false
		}
		host = host[i+1:]
	}
	if i := strings.LastIndexByte(host, ':'); i >= 0 {
		host = host[:i]
	}
	labels := strings.Split(host, ".")
	if len(labels) < 2 || len(host) > 253 {
		return "", false
	}
	for _, x := range labels {
		if x == "" || len(x) > 63 || x[0] == '-' || x[len(x)-1] == '-' || strings.ContainsFunc(x, func(r rune) bool {
			return r != '-' && r != '_' && !unicode.IsLetter(r) && !unicode.IsDigit(r) && !unicode.Is(unicode.M, r)
		}) {
			return "", false
		}
	}
	top := labels[len(labels)-1]
	switch {
	case strings.Trim(top, "0123456789") == "": // an address by number, or a number
		return host, schemed && len(labels) == 4
	case utf8.RuneCountInString(top) < 2:
		return "", false
	case schemed, labels[0] == "www" && len(labels) > 2:
		return host, true
	case !isTop(top):
		return "", false
	case path == "" && slices.Contains(alsoWords, top):
		return "", false
	}
	return host, true
}
