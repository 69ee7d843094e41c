package api_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"maps"
	"math/rand/v2"
	"net/http"
	"net/url"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/getkin/kin-openapi/openapi3"

	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/porchtest"
	"vividporch/spec"
	"vividporch/store/members"
)

// noise is text that no database compresses.
func noise(r *rand.Rand, n uint64) string {
	out := make([]rune, n)
	for i := range out {
		out[i] = rune(0x4e00 + r.IntN(0x5000))
	}
	return string(out)
}

// sample is a document of a schema, with every field there is.
func sample(s *openapi3.Schema, depth int) any {
	switch {
	case s.Type.Is("string") && len(s.Enum) > 0:
		return s.Enum[0]
	case s.Type.Is("string") && s.Format == "date-time":
		return "2031-05-14T19:00:00Z"
	case s.Type.Is("string"):
		return "lena"
	case s.Type.Is("boolean"):
		return true
	case s.Type.Is("integer"), s.Type.Is("number"):
		return 1
	case s.Type.Is("array"):
		if depth > 3 {
			return []any{}
		}
		return []any{sample(s.Items.Value, depth+1)}
	}
	out := map[string]any{}
	if depth > 3 {
		return out
	}
	for name, p := range s.Properties {
		out[name] = sample(p.Value, depth+1)
	}
	if more := s.AdditionalProperties.Schema; more != nil {
		out["k"] = sample(more.Value, depth+1)
	}
	return out
}

// each visits every text and list of a document with its schema, and puts it back after.
func each(s *openapi3.Schema, v any, set func(any), visit func(s *openapi3.Schema, set func(any))) {
	if s.Type.Is("string") && s.MaxLength != nil || s.Type.Is("array") && s.MaxItems != nil {
		visit(s, set)
		set(v)
	}
	switch v := v.(type) {
	case []any:
		for i := range v {
			each(s.Items.Value, v[i], func(x any) { v[i] = x }, visit)
		}
	case map[string]any:
		for _, k := range slices.Sorted(maps.Keys(v)) {
			inner := s.AdditionalProperties.Schema
			if p := s.Properties[k]; p != nil {
				inner = p
			}
			if inner != nil {
				each(inner.Value, v[k], func(x any) { v[k] = x }, visit)
			}
		}
	}
}

var braces = regexp.MustCompile(`\{(\w+)\}`)

// Every route, with texts and lists at, over and far over each of their bounds, as
// everybody: what is over is refused, nothing is answered with a server error, and the
// house lives on.
func TestEveryRouteHoldsItsBoundsAsEverybody(t *testing.T) {
	b := porchtest.Launch(t)
	b.SignIn()
	b.Do("POST", "/api/desk/stream", spec.DeclareStream{Act: "opened"}, nil)
	says(b, "8841", "limpet_lena", "evening")
	b.Until("she is here", func() bool { return len(b.Porch().Guests) == 1 })
	everybody := map[string]*porchtest.Boat{"owner": b, "co-host": as(t, b, "Fen Osier", members.RoleCoHost).Boat, "helper": as(t, b, "Rill Marsh", members.RoleHelper).Boat}
	nobody := *b
	nobody.Client, nobody.Token = &http.Client{}, ""
	everybody["nobody"] = &nobody

	doc, err := openapi3.NewLoader().LoadFromData(spec.OpenAPI)
	if err != nil {
		t.Fatal(err)
	}
	r := rand.New(rand.NewPCG(1, 2))
	asked, refused := 0, 0
	ask := func(who, method, path string, body []byte, over bool) {
		as := everybody[who]
		req, err := http.NewRequest(method, b.Server.URL+path, bytes.NewReader(body))
		if err != nil {
			t.Fatal(err)
		}
		req.Header.Set("X-Porch-Token", as.Token)
		req.Header.Set("Content-Type", "application/json")
		res, err := as.Client.Do(req)
		if err != nil {
			t.Fatal(method, path, err)
		}
		answer, _ := io.ReadAll(io.LimitReader(res.Body, 2000))
		res.Body.Close()
		asked++
		if res.StatusCode >= 500 {
			t.Errorf("%s %.90s as %s: %d %s", method, path, who, res.StatusCode, answer)
		}
		if over && res.StatusCode < 400 {
			t.Errorf("%s %.90s as %s takes what is over its bounds: %d", method, path, who, res.StatusCode)
		}
		if res.StatusCode == 422 {
			refused++
		}
	}
	calm := map[string]bool{"DELETE /api/session": true, "DELETE /api/members/{id}": true, "DELETE /api/members/{id}/sessions": true, "PUT /api/session/password": true, "GET /api/porch/live": true,
		"POST /api/session": true, "DELETE /api/members/{id}/sessions/{session}": true} // they would end the walk
	for path, item := range doc.Paths.Map() {
		for method, op := range item.Operations() {
			if calm[method+" "+path] {
				continue
			}
			plain := braces.ReplaceAllStringFunc(path, func(m string) string {
				for _, p := range op.Parameters {
					if p.Value.Name == m[1:len(m)-1] && p.Value.Schema.Value.Type.Is("integer") {
						return "1"
					}
				}
				return "lena"
			})
			for _, p := range op.Parameters {
				s := p.Value.Schema.Value
				if !s.Type.Is("string") || len(s.Enum) > 0 || s.Format == "date-time" {
					continue
				}
				for _, n := range []uint64{*s.MaxLength, *s.MaxLength + 1, 3 * *s.MaxLength} {
					at, text := plain, url.QueryEscape(noise(r, n))
					if p.Value.In == "path" {
						at = strings.Replace(path, "{"+p.Value.Name+"}", url.PathEscape(noise(r, n)), 1)
						at = braces.ReplaceAllString(at, "1")
					} else {
						at += "?" + p.Value.Name + "=" + text
					}
					ask("owner", method, at, []byte("{}"), n > *s.MaxLength)
				}
			}
			if op.RequestBody == nil || op.RequestBody.Value.Content["application/json"] == nil {
				for who := range everybody {
					ask(who, method, plain, nil, false)
				}
				continue
			}
			schema := op.RequestBody.Value.Content["application/json"].Schema.Value
			v := sample(schema, 0)
			for who := range everybody {
				raw, _ := json.Marshal(v)
				ask(who, method, plain, raw, false)
			}
			each(schema, v, func(x any) { v = x }, func(s *openapi3.Schema, set func(any)) {
				if s.Type.Is("array") {
					for _, n := range []uint64{*s.MaxItems, *s.MaxItems + 1} {
						list := make([]any, n)
						for i := range list {
							list[i] = sample(s.Items.Value, 3)
							if s.Items.Value.Type.Is("string") {
								list[i] = fmt.Sprint("x", i)
							}
						}
						set(list)
						raw, _ := json.Marshal(v)
						ask("owner", method, plain, raw, n > *s.MaxItems)
					}
					return
				}
				for _, n := range []uint64{*s.MaxLength, *s.MaxLength + 1, min(10**s.MaxLength, 100_000)} {
					if n > 200_000 {
						continue // the house file has a test of its own
					}
					set(noise(r, n))
					raw, _ := json.Marshal(v)
					ask("owner", method, plain, raw, n > *s.MaxLength)
					if n == *s.MaxLength+1 {
						ask("co-host", method, plain, raw, true)
						ask("helper", method, plain, raw, true)
					}
				}
			})
		}
	}
	t.Logf("%d requests, %d of them refused for a field", asked, refused)
	if asked < 800 || refused < 200 {
		t.Errorf("only %d requests were made, %d refused", asked, refused)
	}
	d := &happening.ChatSaid{Text: "and on"}
	d.Person = event.Person{Platform: "quayside", ID: "77", Login: "tidewrack"}
	if rs, err := b.House.Submit(t.Context(), []event.Event{{Door: "quayside", Source: "s", ID: "after", Type: d.Type(), Data: d}}); err != nil || rs[0].Seq == 0 {
		t.Errorf("the house does not live on: %+v %v", rs, err)
	}
	for _, w := range b.Porch().Waiting {
		if w.Kind == "aside" || w.Kind == "book" {
			t.Errorf("something was set aside on the way: %+v", w)
		}
	}
}
