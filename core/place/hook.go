package place

import (
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"
	"unicode"

	"vividporch/core/plain"
	"vividporch/core/profile"
	"vividporch/core/wording"
)

// hook is an address that takes a JSON body by HTTP.
var hook = &Kind{Name: "webhook", Addressed: true, Secrets: []string{"secret", "token"}, Safe: postSafe,
	Check: func(p *Place, fault func(at, what, remedy string)) {
		if p.URL != "" && !isAddress(p.URL) {
			fault("url", "a webhook needs an http(s) address, or none yet", "copy it in full: https://…")
		}
		for _, name := range slices.Sorted(maps.Keys(p.Headers)) {
			if what := headerFault(name, p.Headers[name]); what != "" {
				fault("headers."+name, what, "name it as the place does, such as X-Room, or take it out")
			}
		}
		if len(p.Headers) > mostHeaders {
			fault("headers", "are too many", fmt.Sprintf("use at most %d", mostHeaders))
		}
		if _, err := hookBody(p, nil); err != nil {
			fault("body", err.Error(), "write JSON whose texts are wordings")
		}
	},
	Render: hookBody,
	Cannot: func(p *Place, what string, _ func(string) *profile.Profile) string {
		switch {
		case what == "account":
			return usually[what]
		case what != "call":
			return "an address to post to takes new posts alone"
		case !strings.Contains(string(p.Body), "{call}"):
			return "its form does not say whom a post calls: put {call} where the place wants it"
		}
		return ""
	}}

// postSafe keeps other people's text from calling anybody and from being marked up.
func postSafe(s string) string { return plain.NoPing(plain.NoMarkup(s)) }

// hookBody fills the form of a webhook's body.
func hookBody(p *Place, args wording.Args) (json.RawMessage, error) {
	var body any
	if len(p.Body) > 0 {
		if err := json.Unmarshal(p.Body, &body); err != nil {
			return nil, fmt.Errorf("is not JSON: %w", err)
		}
	}
	if body == nil { // none, or null: as a house file has a form that nobody wrote
		body = map[string]any{"text": "{text}"}
	}
	filled, err := filled(body, args)
	if err != nil {
		return nil, err
	}
	return json.Marshal(filled)
}

const mostHeaders = 20

// ownHeaders are those that the post itself has (RFC 9110; Standard Webhooks).
var ownHeaders = []string{"host", "content-length", "content-type", "transfer-encoding", "connection", "user-agent", "idempotency-key", "webhook-id", "webhook-timestamp", "webhook-signature"}

// headerFault says what keeps something from being a header (RFC 9110 section 5).
func headerFault(name, value string) string {
	for _, r := range name {
		if r <= ' ' || r >= 0x7f || strings.ContainsRune("\"(),/:;<=>?@[\\]{}", r) {
			return "is no name of a header"
		}
	}
	switch {
	case name == "" || len(name) > 100:
		return "is no name of a header"
	case slices.Contains(ownHeaders, strings.ToLower(name)):
		return "is set by the house itself"
	case len(value) > 2000 || strings.ContainsFunc(value, unicode.IsControl):
		return "has a value that is no line"
	case strings.EqualFold(name, "authorization") && !strings.Contains(value, Token):
		return "would stand in the house file for all to read: write {token} where the secret goes, and keep it beside"
	}
	return ""
}

// Token stands in a header for the secret that is kept for the place.
const Token = "{token}"

// isAddress reports whether a text is an address of a web server, with its host.
func isAddress(s string) bool {
	for _, scheme := range []string{"http://", "https://"} {
		if host, ok := strings.CutPrefix(s, scheme); ok {
			return host != "" && !strings.ContainsAny(host[:1], "/?#@: ")
		}
	}
	return false
}

// filled fills the texts of a JSON value, which are wordings. What fills them stays a value, whatever is in it.
func filled(v any, args wording.Args) (any, error) {
	switch v := v.(type) {
	case string:
		w, err := wording.Parse(v)
		if err != nil {
			return nil, err
		}
		return w.Render(args), nil
	case []any:
		out := []any{}
		for _, x := range v {
			f, err := filled(x, args)
			if err != nil {
				return nil, err
			}
			if f != "" || x == "" { // nobody is called: there is nobody in the list
				out = append(out, f)
			}
		}
		return out, nil
	case map[string]any:
		for k := range v {
			f, err := filled(v[k], args)
			if err != nil {
				return nil, err
			}
			v[k] = f
		}
		return v, nil
	}
	return v, nil
}
