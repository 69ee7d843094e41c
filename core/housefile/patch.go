package housefile

import (
	"encoding/json"
	"reflect"
	"slices"
)

// TakeBack undoes, in the document now, what changed between before and after:
// every field that still stands as after had it goes back to what before had. A
// field that was changed again since keeps its present value. Lists of things
// with an id or name are compared thing by thing, other lists as a whole.
func TakeBack(now, before, after []byte) ([]byte, error) {
	var n, b, a any
	for dst, src := range map[*any][]byte{&n: now, &b: before, &a: after} {
		if err := json.Unmarshal(Lift(src), dst); err != nil {
			return nil, err
		}
	}
	return json.Marshal(takeBack(n, b, a))
}

func takeBack(now, before, after any) any {
	if reflect.DeepEqual(before, after) {
		return now
	}
	if reflect.DeepEqual(now, after) {
		return before
	}
	nm, ok1 := now.(map[string]any)
	bm, ok2 := before.(map[string]any)
	am, ok3 := after.(map[string]any)
	if ok1 && ok2 && ok3 {
		for k := range unionOf(bm, am) {
			bv, inB := bm[k]
			av, inA := am[k]
			nv, inN := nm[k]
			switch {
			case inB && inA && inN:
				nm[k] = takeBack(nv, bv, av)
			case inB && !inA && !inN:
				nm[k] = bv
			case !inB && inA && inN && reflect.DeepEqual(nv, av):
				delete(nm, k)
			case !inB && inA && inN && isList(av) && isList(nv): // the first ones, and it has grown since
				if l := takeBack(nv, []any{}, av); len(l.([]any)) > 0 {
					nm[k] = l
				} else {
					delete(nm, k)
				}
			case inB && !inA && inN && isList(bv) && isList(nv): // all were taken out, and others put in since
				nm[k] = takeBack(nv, bv, []any{})
			}
		}
		return nm
	}
	nl, bl, al, key := keyedAlike(now, before, after)
	if key == "" {
		return takeBackTexts(now, before, after)
	}
	out := []any{}
	for _, x := range nl {
		id := x.(map[string]any)[key]
		bx, ax := find(bl, key, id), find(al, key, id)
		switch {
		case bx != nil && ax != nil:
			out = append(out, takeBack(x, bx, ax))
		case bx == nil && ax != nil && reflect.DeepEqual(x, ax): // was added
		default:
			out = append(out, x)
		}
	}
	for i, x := range bl { // was taken away
		id := x.(map[string]any)[key]
		if find(al, key, id) == nil && find(nl, key, id) == nil {
			at := min(i, len(out))
			out = append(out[:at], append([]any{x}, out[at:]...)...)
		}
	}
	return out
}

func isList(v any) bool {
	_, ok := v.([]any)
	return ok
}

// takeBackTexts undoes what was put into or taken out of a list of plain values, tags
// or words, that was changed again since. Whatever else differs keeps its present value.
func takeBackTexts(now, before, after any) any {
	nl, ok1 := texts(now)
	bl, ok2 := texts(before)
	al, ok3 := texts(after)
	if !ok1 || !ok2 || !ok3 {
		return now
	}
	out := []any{}
	for _, x := range nl {
		if slices.Contains(bl, x) || !slices.Contains(al, x) {
			out = append(out, x)
		}
	}
	for i, x := range bl {
		if !slices.Contains(al, x) && !slices.Contains(nl, x) {
			out = slices.Insert(out, min(i, len(out)), x)
		}
	}
	return out
}

// texts is a list of nothing but texts.
func texts(v any) ([]any, bool) {
	l, ok := v.([]any)
	return l, ok && !slices.ContainsFunc(l, func(x any) bool { _, text := x.(string); return !text })
}

// keyedAlike are three lists whose members are told apart in the same way, and how. An
// empty list is like any other.
func keyedAlike(now, before, after any) (n, b, a []any, key string) {
	for i, v := range []any{now, before, after} {
		l, k := Keyed(v)
		if k == "" {
			if e, ok := v.([]any); !ok || len(e) > 0 {
				return nil, nil, nil, ""
			}
		} else if key == "" {
			key = k
		} else if key != k {
			return nil, nil, nil, ""
		}
		*[]*[]any{&n, &b, &a}[i] = l
	}
	return n, b, a, key
}

// unionOf are the names that stand in any of some objects.
func unionOf(objects ...map[string]any) map[string]bool {
	out := map[string]bool{}
	for _, o := range objects {
		for k := range o {
			out[k] = true
		}
	}
	return out
}

// Keyed returns a list whose members all have an id, a name, or what else tells
// them apart, and which.
func Keyed(v any) ([]any, string) {
	l, ok := v.([]any)
	if !ok || len(l) == 0 {
		return nil, ""
	}
	for _, key := range []string{"id", "name", "word", "event", "platform"} {
		all := true
		for _, x := range l {
			m, ok := x.(map[string]any)
			all = all && ok && m[key] != nil
		}
		if all {
			return l, key
		}
	}
	return nil, ""
}

func find(l []any, key string, id any) any {
	for _, x := range l {
		if m := x.(map[string]any); m[key] == id {
			return m
		}
	}
	return nil
}
