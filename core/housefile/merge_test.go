package housefile_test

import (
	"encoding/json"
	"math/rand/v2"
	"reflect"
	"slices"
	"testing"

	"vividporch/core/house/housetest"
	"vividporch/core/housefile"
)

func TestWhatTwoMembersChangedIsMergedFieldByField(t *testing.T) {
	for name, c := range map[string]struct{ base, now, mine, want, clash string }{
		"two fields":                  {`{"a":1,"b":1}`, `{"a":2,"b":1}`, `{"a":1,"b":2}`, `{"a":2,"b":2}`, ""},
		"the same change":             {`{"a":1}`, `{"a":2}`, `{"a":2}`, `{"a":2}`, ""},
		"one field, two ways":         {`{"a":1}`, `{"a":2}`, `{"a":3}`, `{"a":2}`, "a"},
		"names added by both":         {`{"never":["x"]}`, `{"never":["x","y"]}`, `{"never":["x","z"]}`, `{"never":["x","y","z"]}`, ""},
		"one takes out, one adds":     {`{"never":["x","y"]}`, `{"never":["y"]}`, `{"never":["x","y","z"]}`, `{"never":["y","z"]}`, ""},
		"one word, reworded by both":  {`{"alternatives":["a","b"]}`, `{"alternatives":["a","B"]}`, `{"alternatives":["a","bb"]}`, `{"alternatives":["a","B"]}`, "alternatives"},
		"two words, reworded":         {`{"alternatives":["a","b"]}`, `{"alternatives":["A","b"]}`, `{"alternatives":["a","B"]}`, `{"alternatives":["A","B"]}`, ""},
		"two things of a list":        {`{"l":[{"id":"a","n":1},{"id":"b","n":1}]}`, `{"l":[{"id":"a","n":2},{"id":"b","n":1}]}`, `{"l":[{"id":"a","n":1},{"id":"b","n":2}]}`, `{"l":[{"id":"a","n":2},{"id":"b","n":2}]}`, ""},
		"one thing, two fields":       {`{"l":[{"id":"a","n":1,"m":1}]}`, `{"l":[{"id":"a","n":2,"m":1}]}`, `{"l":[{"id":"a","n":1,"m":2}]}`, `{"l":[{"id":"a","n":2,"m":2}]}`, ""},
		"one thing, one field":        {`{"l":[{"id":"a","n":1}]}`, `{"l":[{"id":"a","n":2}]}`, `{"l":[{"id":"a","n":3}]}`, `{"l":[{"id":"a","n":2}]}`, "l.a.n"},
		"things added by both":        {`{"l":[]}`, `{"l":[{"id":"a"}]}`, `{"l":[{"id":"b"}]}`, `{"l":[{"id":"a"},{"id":"b"}]}`, ""},
		"taken away, and changed":     {`{"l":[{"id":"a","n":1},{"id":"b"}]}`, `{"l":[{"id":"a","n":2},{"id":"b"}]}`, `{"l":[{"id":"b"}]}`, `{"l":[{"id":"a","n":2},{"id":"b"}]}`, "l.a"},
		"taken away by one":           {`{"l":[{"id":"a"},{"id":"b"}]}`, `{"l":[{"id":"a"},{"id":"b"},{"id":"c"}]}`, `{"l":[{"id":"b"}]}`, `{"l":[{"id":"b"},{"id":"c"}]}`, ""},
		"words beside their weights":  {`{"alternatives":["a","b"],"weights":[1,2]}`, `{"alternatives":["a","c"],"weights":[1,2]}`, `{"alternatives":["a","b","d"],"weights":[1,2]}`, `{"alternatives":["a","c"],"weights":[1,2]}`, "alternatives"},
		"a field that comes and goes": {`{"a":1}`, `{}`, `{"a":1,"b":2}`, `{"b":2}`, ""},
	} {
		t.Run(name, func(t *testing.T) {
			got, clashes, err := housefile.Merge([]byte(c.base), []byte(c.now), []byte(c.mine))
			if err != nil {
				t.Fatal(err)
			}
			var g, w any
			json.Unmarshal(got, &g)
			json.Unmarshal([]byte(c.want), &w)
			if !reflect.DeepEqual(g, w) {
				t.Errorf("%s, want %s", got, c.want)
			}
			at := ""
			for _, x := range clashes {
				if at += x.At; x.Was == x.Now || x.Now == x.Mine {
					t.Errorf("both sides of a clash are shown: %+v", x)
				}
			}
			if at != c.clash {
				t.Errorf("clashes at %q, want %q", at, c.clash)
			}
		})
	}
}

// Merging a change into what it was made of is the change; merging nothing is nothing;
// whoever comes second, what did not clash is the same.
func TestMergingLosesNothing(t *testing.T) {
	for seed := range uint64(60) {
		r := rand.New(rand.NewPCG(seed, 3))
		doc := func(s *housefile.Settings) []byte { raw, _ := json.Marshal(s); return raw }
		base := doc(housetest.Random(r))
		change := func() []byte {
			s, _ := housefile.ReadSettings(base)
			for range 1 + r.IntN(3) {
				switch i := r.IntN(len(s.Courtesy) + 3); {
				case i < len(s.Courtesy):
					s.Courtesy[i].On = !s.Courtesy[i].On
				case i == len(s.Courtesy):
					s.Never = append(s.Never, housetest.Somebody(r).Login)
				case i == len(s.Courtesy)+1 && len(s.Courtesy) > 1:
					s.Courtesy = s.Courtesy[1:]
				default:
					s.Pace.WaitSeconds = float64(r.IntN(50))
				}
			}
			s.Never = slices.Compact(slices.Sorted(slices.Values(s.Never)))
			return doc(s)
		}
		a, b := change(), change()
		same := func(x, y []byte) bool {
			var v, w any
			json.Unmarshal(x, &v)
			json.Unmarshal(y, &w)
			return reflect.DeepEqual(v, w)
		}
		if got, clashes, _ := housefile.Merge(base, base, a); !same(got, a) || len(clashes) > 0 {
			t.Fatalf("evening %d: a change merged into its own base is another", seed)
		}
		if got, clashes, _ := housefile.Merge(base, a, base); !same(got, a) || len(clashes) > 0 {
			t.Fatalf("evening %d: no change changes something", seed)
		}
		first, ca, _ := housefile.Merge(base, a, b)
		second, cb, _ := housefile.Merge(base, b, a)
		if len(ca) != len(cb) {
			t.Fatalf("evening %d: %d clashes one way, %d the other", seed, len(ca), len(cb))
		}
		if sorted := func(x []byte) string { s, _ := housefile.ReadSettings(x); slices.Sort(s.Never); return string(doc(s)) }; len(ca) == 0 && sorted(first) != sorted(second) {
			t.Fatalf("evening %d: it matters who comes second\n%s\n%s", seed, first, second)
		}
	}
}
