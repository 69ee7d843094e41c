package house

import (
	"encoding/json"
	"reflect"
)

// TakeBack undoes, in the document now, what changed between before and after:
// every field that still stands as after had it goes back to what before had. A
// field that was changed again since keeps its present value. Lists of things
// with an id or name are compared thing by thing, other lists as a whole.
func TakeBack(now, before, after []byte) ([]byte, error) {
	var n, b, a any
	for dst, src := range map[*any][]byte{&n: now, &b: before, &a: after} {
		if err := json.Unmarshal(src, dst); err != nil {
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
			}
		}
		return nm
	}
	nl, key := keyed(now)
	bl, bkey := keyed(before)
	al, akey := keyed(after)
	if key == "" || key != bkey || key != akey {
		return now
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

// keyed returns a list whose members all have an id, a name, or what else tells
// them apart, and which.
func keyed(v any) ([]any, string) {
	l, ok := v.([]any)
	if !ok || len(l) == 0 {
		return nil, ""
	}
	for _, key := range []string{"id", "name", "word", "event"} {
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
