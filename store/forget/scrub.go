package forget

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

// signs are what a row is found by that names any of some accounts, as patterns of LIKE.
func (s *scrub) signs(keys []string) []string {
	look := []string{}
	if s != nil && s.look != nil {
		look = s.look
	} else if s != nil {
		for _, t := range append(slices.Clone(keys), s.names...) {
			look = append(look, like(t, ""))
		}
		for _, k := range keys { // an account named by platform and id, as persons are
			_, id, _ := strings.Cut(k, ":")
			look = append(look, like(id, `"`))
		}
	}
	return look
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
		for _, n := range []string{n, plain.Name(n)} { // as it came, and as the house says it
			if n != "" && !slices.Contains(s.names, n) {
				s.names = append(s.names, n)
			}
		}
	}
	slices.SortFunc(s.names, func(a, b string) int { return len(b) - len(a) })
	return s
}

// person is what stands for an account, and whether it is one of theirs; some tells that
// it is anybody's at all.
func (s *scrub) person(v any) (p map[string]any, theirs, some bool) {
	m, ok := v.(map[string]any)
	if !ok {
		return nil, false, false
	}
	platform, ok1 := m["platform"].(string)
	id, ok2 := m["id"].(string)
	if _, line := m["priority"]; !ok1 || !ok2 || line { // a line coming up has both as well
		return nil, false, false
	}
	anon, theirs := s.anon[platform+":"+id]
	if !theirs {
		return nil, false, true
	}
	platform, id, _ = strings.Cut(anon, ":")
	return map[string]any{"platform": platform, "id": id}, true, true
}

// done reports whether what was done, or was to be, about somebody of a login of theirs was about them: by account, or because the platform
// has one of theirs. A login is somebody's on one platform.
func (s *scrub) done(data map[string]any) bool {
	about, _ := data["about"].([]any)
	if slices.ContainsFunc(about, func(x any) bool { key, _ := x.(string); return s.anon[key] != "" }) {
		return true
	}
	platform, of := data["to"].(string)
	if !of {
		platform, _ = data["platform"].(string)
	}
	for key := range s.anon {
		if p, _, _ := strings.Cut(key, ":"); p == platform {
			return true
		}
	}
	return false
}

// sparing leaves some names alone: somebody else is called so.
func (s *scrub) sparing(names []string) *scrub {
	if len(names) == 0 {
		return s
	}
	out := *s
	out.names = slices.DeleteFunc(slices.Clone(s.names), func(n string) bool {
		return slices.ContainsFunc(names, func(o string) bool { return strings.EqualFold(o, n) })
	})
	return &out
}

// others are the names of those whom a decision is about and who are not forgotten.
func (s *scrub) others(body map[string]any) []string {
	var out []string
	add := func(m map[string]any) {
		key, _ := m["person"].(string)
		name, _ := m["name"].(string)
		if _, theirs := s.anon[key]; theirs {
			return
		}
		if name != "" {
			out = append(out, name)
		}
		noted, _ := m["body"].(map[string]any) // what a room notes of them
		if login, _ := noted["login"].(string); login != "" && key != "" {
			out = append(out, login)
		}
	}
	add(body)
	for _, field := range []string{"plan", "item"} {
		if m, ok := body[field].(map[string]any); ok {
			add(m)
		}
	}
	joined, _ := body["joined"].([]any)
	for _, j := range joined {
		if m, ok := j.(map[string]any); ok {
			add(m)
		}
	}
	return out
}

// callings are the fields in which somebody is named and nothing else is said.
var callings = []string{"name", "login", "by", "was", "asker"}

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
		if p, theirs, some := s.person(v); theirs {
			return p
		} else if some { // somebody else, whatever they are called
			return v
		}
		of, others := v["person"].(string) // whose action it is, by login
		if _, theirs := s.anon[of]; theirs {
			others = false
		}
		for k, x := range v {
			if k == "source" || k == "eventId" || k == "login" && others { // a wording of the streamer's with its blanks; what a sender calls an event; somebody else's login
				continue
			}
			if t, ok := x.(string); ok && !slices.Contains(callings, k) { // a sentence, were it of a name alone
				v[k] = s.sentence(t, words)
			} else {
				v[k] = s.walk(x, words)
			}
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
	return s.sentence(t, words)
}

func (s *scrub) sentence(t string, words bool) string {
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
	s = s.sparing(s.others(body))
	if about {
		fields := []string{"name", "text", "about", "body", "kept"}
		if s.keepsOfOthers(body) {
			fields = []string{"text", "about"}
		}
		for _, field := range fields {
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
				m, _ := j.(map[string]any)
				key, _ := m["person"].(string)
				if _, theirs := s.anon[key]; theirs {
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

// keepsOfOthers reports whether a decision tells what is kept of somebody who is not forgotten: it was
// asked for by who is, or is about both. That is the others' and stays, as what was written down with it does.
func (s *scrub) keepsOfOthers(body map[string]any) bool {
	person, _ := body["person"].(string)
	_, theirs := s.anon[person]
	return !theirs && (body["kept"] != nil || body["keeps"] != nil)
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
