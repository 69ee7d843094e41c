package store

import (
	"bytes"
	"encoding/json"
	"slices"
	"strings"

	"vividporch/core/plain"
)

// scrub takes people out of the JSON of the log: their accounts get ids that tell
// nothing, and what they wrote, what was written to them and what they are called
// goes. That something happened stays, so that the log evolves as it did.
type scrub struct {
	anon  map[string]string // account key → what stands in its place
	keys  *strings.Replacer // the same, within a text
	names []string          // logins and names they had, the longest first
	look  []string          // the very lines to look for, instead of accounts and names
}

func newScrub(keys, anon, names []string) *scrub {
	s := &scrub{anon: map[string]string{}}
	pairs := make([]string, 0, 2*len(keys))
	order := make([]int, len(keys))
	for i := range keys {
		order[i] = i
		s.anon[keys[i]] = anon[i]
	}
	slices.SortFunc(order, func(a, b int) int { return len(keys[b]) - len(keys[a]) }) // quayside:88 is not quayside:8
	for _, i := range order {
		pairs = append(pairs, keys[i], anon[i])
	}
	s.keys = strings.NewReplacer(pairs...)
	for _, n := range names {
		if n != "" && !slices.Contains(s.names, n) {
			s.names = append(s.names, n)
		}
	}
	slices.SortFunc(s.names, func(a, b string) int { return len(b) - len(a) })
	return s
}

// person is what stands for an account, and whether it is one of theirs.
func (s *scrub) person(v any) (map[string]any, bool) {
	m, ok := v.(map[string]any)
	if !ok {
		return nil, false
	}
	platform, ok1 := m["platform"].(string)
	id, ok2 := m["id"].(string)
	if !ok1 || !ok2 {
		return nil, false
	}
	anon, mine := s.anon[platform+":"+id]
	if !mine {
		return nil, false
	}
	platform, id, _ = strings.Cut(anon, ":")
	return map[string]any{"platform": platform, "id": id}, true
}

// walk takes them out of any JSON. With words, their names go out of sentences too.
func (s *scrub) walk(v any, words bool) any {
	switch v := v.(type) {
	case string:
		return s.text(v, words)
	case []any:
		for i := range v {
			v[i] = s.walk(v[i], words)
		}
	case map[string]any:
		if p, mine := s.person(v); mine {
			return p
		}
		for k, x := range v {
			v[k] = s.walk(x, words)
			if k2 := s.keys.Replace(k); k2 != k {
				v[k2] = v[k]
				delete(v, k)
			}
		}
	}
	return v
}

func (s *scrub) text(t string, words bool) string {
	if slices.ContainsFunc(s.names, func(n string) bool { return strings.EqualFold(n, t) }) {
		return ""
	}
	t = s.keys.Replace(t)
	if words {
		t = plain.Without(t, s.names)
	}
	return t
}

// What stays of an event that somebody forgotten caused: what happened, and how much
// of it. Texts that are not named here go, whoever sent them under whatever name.
var staysOfTheirs = []string{"platform", "currency", "amount", "tier", "reward", "item", "act", "effect", "line", "ask", "place", "event", "courtesy", "to"}

// theirs is what stays of the data of an event that they caused.
func (s *scrub) theirs(kind string, data map[string]any) map[string]any {
	for field, v := range data {
		switch v.(type) {
		case string:
			if !slices.Contains(staysOfTheirs, field) && !(kind == "porch.other" && field == "name") {
				delete(data, field)
			}
		case map[string]any:
			if field != "person" {
				delete(data, field)
			}
		case []any:
			if !slices.Contains([]string{"to", "keys", "persons", "about"}, field) {
				delete(data, field)
			}
		}
	}
	s.walk(data, true)
	return data
}

// decided takes them out of a decision. Of one about them stays what moves the house's
// state, as far as it tells nothing.
func (s *scrub) decided(body map[string]any, about bool) map[string]any {
	if about {
		for _, field := range []string{"name", "text", "about", "body"} {
			delete(body, field)
		}
		if plan, ok := body["plan"].(map[string]any); ok {
			for _, field := range []string{"name", "args", "source", "body"} {
				delete(plan, field)
			}
			plan["text"] = ""
		}
		if known, ok := body["known"].(map[string]any); ok {
			body["known"] = map[string]any{"person": known["person"], "accounts": known["accounts"], "attended": known["attended"]}
		}
		if joined, ok := body["joined"].([]any); ok {
			for _, j := range joined {
				if m, ok := j.(map[string]any); ok {
					m["name"] = ""
				}
			}
		}
		if it, ok := body["item"].(map[string]any); ok {
			it["name"], it["text"], it["why"] = "", "", ""
		}
	}
	s.walk(body, true)
	return body
}

// readObject decodes a JSON object with its numbers as they stand: one of them may be
// beyond what this machine can count.
func readObject(raw []byte) (map[string]any, error) {
	dec := json.NewDecoder(bytes.NewReader(raw))
	dec.UseNumber()
	data := map[string]any{}
	err := dec.Decode(&data)
	return data, err
}
