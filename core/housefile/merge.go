package housefile

import (
	"encoding/json"
	"maps"
	"reflect"
	"slices"
)

// Clash is a field that two members changed, each in their own way: its path, and what
// it was, what it is now and what the second wants, as JSON; "" for nothing.
type Clash struct {
	At   string `json:"at"`
	Was  string `json:"was,omitempty"`
	Now  string `json:"now,omitempty"`
	Mine string `json:"mine,omitempty"`
}

// Merge brings what a member made of one version, mine of base, into the version that
// holds now: field by field, things in lists by id or name, and lists of names by what
// was added to them and taken out. What only one side changed is taken as changed; what
// both changed to different things is a clash, and stands in the result as it is now.
func Merge(base, now, mine []byte) (merged []byte, clashes []Clash, err error) {
	var b, n, m any
	for dst, src := range map[*any][]byte{&b: base, &n: now, &m: mine} {
		if err := json.Unmarshal(src, dst); err != nil {
			return nil, nil, err
		}
	}
	x := merger{}
	out := x.merge("", b, n, m)
	merged, err = json.Marshal(out)
	return merged, x.clashes, err
}

// nothing stands for a field that is not there.
type nothing struct{}

type merger struct{ clashes []Clash }

func (x *merger) merge(at string, b, n, m any) any {
	switch {
	case reflect.DeepEqual(b, m), reflect.DeepEqual(n, m):
		return n
	case reflect.DeepEqual(b, n):
		return m
	}
	bm, ok1 := b.(map[string]any)
	nm, ok2 := n.(map[string]any)
	mm, ok3 := m.(map[string]any)
	if ok1 && ok2 && ok3 {
		return x.fields(at, bm, nm, mm)
	}
	if out, ok := x.things(at, b, n, m); ok {
		return out
	}
	if out, ok := names(b, n, m); ok {
		return out
	}
	x.clash(at, b, n, m)
	return n
}

func (x *merger) clash(at string, b, n, m any) {
	text := func(v any) string {
		if v == (nothing{}) {
			return ""
		}
		return asJSON(v)
	}
	x.clashes = append(x.clashes, Clash{at, text(b), text(n), text(m)})
}

func (x *merger) fields(at string, b, n, m map[string]any) any {
	out := map[string]any{}
	field := func(of map[string]any, k string) any {
		if v, ok := of[k]; ok {
			return v
		}
		return nothing{}
	}
	// Alternatives stand beside their weights: with these, one list is no use without the other.
	paired := b["weights"] != nil || n["weights"] != nil || m["weights"] != nil
	for _, k := range slices.Sorted(maps.Keys(unionOf(b, n, m))) {
		bv, nv, mv := field(b, k), field(n, k), field(m, k)
		var v any
		if paired && k == "alternatives" && !reflect.DeepEqual(bv, nv) && !reflect.DeepEqual(bv, mv) && !reflect.DeepEqual(nv, mv) {
			x.clash(path(at, k), bv, nv, mv)
			v = nv
		} else {
			v = x.merge(path(at, k), bv, nv, mv)
		}
		if v != (nothing{}) {
			out[k] = v
		}
	}
	return out
}

// things merges lists of things with an id or a name.
func (x *merger) things(at string, b, n, m any) (any, bool) {
	key := ""
	lists := [3][]any{}
	for i, v := range []any{b, n, m} {
		l, ok := v.([]any)
		if v == nil || v == (nothing{}) {
			ok = true
		}
		if !ok {
			return nil, false
		}
		if len(l) == 0 {
			continue
		}
		_, k := Keyed(l)
		if k == "" || key != "" && k != key {
			return nil, false
		}
		key, lists[i] = k, l
	}
	if key == "" {
		return nil, false
	}
	in := func(l []any, id any) any {
		if v := find(l, key, id); v != nil {
			return v
		}
		return nothing{}
	}
	out, seen := []any{}, []any{}
	for _, l := range [][]any{lists[1], lists[2], lists[0]} { // as they stand now, then what was added
		for _, v := range l {
			id := v.(map[string]any)[key]
			if slices.Contains(seen, id) {
				continue
			}
			seen = append(seen, id)
			name, _ := id.(string)
			if v := x.merge(path(at, name), in(lists[0], id), in(lists[1], id), in(lists[2], id)); v != (nothing{}) {
				out = append(out, v)
			}
		}
	}
	return out, true
}

// names merges lists of texts, none of which stands twice, by what each side added and
// took out.
func names(b, n, m any) (any, bool) {
	lists := [3][]any{}
	for i, v := range []any{b, n, m} {
		l, ok := v.([]any)
		if !ok && v != nil && v != (nothing{}) {
			return nil, false
		}
		for k, s := range l {
			if _, ok := s.(string); !ok || slices.Contains(l[:k], s) {
				return nil, false
			}
		}
		lists[i] = l
	}
	// Both put something else in the place of the same: each rewrote it in their own way.
	rewrote := func(l, other []any) bool {
		return slices.ContainsFunc(l, func(s any) bool { return !slices.Contains(lists[0], s) && !slices.Contains(other, s) })
	}
	if rewrote(lists[1], lists[2]) && rewrote(lists[2], lists[1]) && slices.ContainsFunc(lists[0], func(s any) bool { return !slices.Contains(lists[1], s) && !slices.Contains(lists[2], s) }) {
		return nil, false
	}
	out := []any{}
	for _, s := range lists[1] {
		if slices.Contains(lists[2], s) || !slices.Contains(lists[0], s) {
			out = append(out, s)
		}
	}
	for _, s := range lists[2] {
		if !slices.Contains(lists[0], s) && !slices.Contains(out, s) {
			out = append(out, s)
		}
	}
	return out, true
}
