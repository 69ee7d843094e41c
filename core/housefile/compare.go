package housefile

import (
	"bytes"
	"encoding/json"
	"fmt"
	"reflect"
	"slices"
	"strings"
)

// Difference is one field that settings differ in: its path, and both values as
// JSON; empty where there is none.
type Difference struct {
	At     string `json:"at"`
	Before string `json:"before,omitempty"`
	After  string `json:"after,omitempty"`
}

// Compare lists what differs between two settings, field by field.
func Compare(before, after *Settings) ([]Difference, error) {
	var docs [2]any
	for i, s := range []*Settings{before, after} {
		raw, err := json.Marshal(s)
		if err != nil {
			return nil, err
		}
		if err := json.Unmarshal(raw, &docs[i]); err != nil {
			return nil, err
		}
	}
	return differ("", docs[0], docs[1], true, true), nil
}

func differ(at string, b, a any, inB, inA bool) []Difference {
	if inB == inA && reflect.DeepEqual(b, a) {
		return nil
	}
	bm, ok1 := b.(map[string]any)
	am, ok2 := a.(map[string]any)
	if ok1 && ok2 {
		var out []Difference
		keys := unionOf(bm, am)
		names := make([]string, 0, len(keys))
		for k := range keys {
			names = append(names, k)
		}
		slices.Sort(names)
		for _, k := range names {
			bv, hadB := bm[k]
			av, hasA := am[k]
			out = append(out, differ(path(at, k), bv, av, hadB, hasA)...)
		}
		return out
	}
	bl, key := Keyed(b)
	al, akey := Keyed(a)
	if key != "" && key == akey {
		var out []Difference
		for _, x := range bl {
			id := x.(map[string]any)[key]
			y := find(al, key, id)
			out = append(out, differ(path(at, fmt.Sprint(id)), x, y, true, y != nil)...)
		}
		for _, y := range al {
			id := y.(map[string]any)[key]
			if find(bl, key, id) == nil {
				out = append(out, differ(path(at, fmt.Sprint(id)), nil, y, false, true)...)
			}
		}
		if before, after := order(bl, al, key), order(al, bl, key); !reflect.DeepEqual(before, after) {
			out = append(out, Difference{At: path(at, "order"), Before: asJSON(before), After: asJSON(after)})
		}
		return out
	}
	d := Difference{At: at}
	if inB {
		d.Before = asJSON(b)
	}
	if inA {
		d.After = asJSON(a)
	}
	return []Difference{d}
}

// order lists the members of a list that another has too, by their key, as they stand.
func order(l, other []any, key string) []any {
	var out []any
	for _, x := range l {
		if id := x.(map[string]any)[key]; find(other, key, id) != nil {
			out = append(out, id)
		}
	}
	return out
}

func path(at, key string) string {
	if at == "" {
		return key
	}
	return at + "." + key
}

func asJSON(v any) string {
	var b bytes.Buffer
	enc := json.NewEncoder(&b)
	enc.SetEscapeHTML(false)
	if err := enc.Encode(v); err != nil {
		return fmt.Sprint(v)
	}
	return strings.TrimSpace(b.String())
}
