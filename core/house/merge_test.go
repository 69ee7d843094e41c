package house_test

import (
	"encoding/json"
	"math/rand/v2"
	"reflect"
	"slices"
	"strings"
	"testing"

	"vividporch/core/courtesy"
	"vividporch/core/house"
	"vividporch/core/house/housetest"
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
			got, clashes, err := house.Merge([]byte(c.base), []byte(c.now), []byte(c.mine))
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
		doc := func(s *house.Settings) []byte { raw, _ := json.Marshal(s); return raw }
		base := doc(housetest.Random(r))
		change := func() []byte {
			s, _ := house.ReadSettings(base)
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
		if got, clashes, _ := house.Merge(base, base, a); !same(got, a) || len(clashes) > 0 {
			t.Fatalf("evening %d: a change merged into its own base is another", seed)
		}
		if got, clashes, _ := house.Merge(base, a, base); !same(got, a) || len(clashes) > 0 {
			t.Fatalf("evening %d: no change changes something", seed)
		}
		first, ca, _ := house.Merge(base, a, b)
		second, cb, _ := house.Merge(base, b, a)
		if len(ca) != len(cb) {
			t.Fatalf("evening %d: %d clashes one way, %d the other", seed, len(ca), len(cb))
		}
		if sorted := func(x []byte) string { s, _ := house.ReadSettings(x); slices.Sort(s.Never); return string(doc(s)) }; len(ca) == 0 && sorted(first) != sorted(second) {
			t.Fatalf("evening %d: it matters who comes second\n%s\n%s", seed, first, second)
		}
	}
}

func TestSettingsThatANewerVersionChecksMoreStrictlyKeepTheRestGoing(t *testing.T) {
	for name, c := range map[string]struct {
		spoil func(*house.Settings)
		left  string // what is told to be left out
		stays func(*house.Plan) bool
	}{
		"a courtesy": {func(s *house.Settings) { s.Courtesy[0].When = "porch.of.tomorrow" }, "announce-opening when", func(p *house.Plan) bool { return len(p.Set.All()) == 11 }},
		"an output of two": {func(s *house.Settings) { s.Courtesy[0].Do[0].Place = "gone" }, "announce-opening do.0.place",
			func(p *house.Plan) bool {
				return len(p.Set.All()[0].Outputs) == 1 && p.Set.All()[0].ID == "announce-opening"
			}},
		"the only output": {func(s *house.Settings) {
			s.Courtesy[1].Do = s.Courtesy[1].Do[:1]
			s.Courtesy[1].Do[0].Alternatives = []string{"{nobody}"}
		}, "greet-newcomer do.0.alternatives.0",
			func(p *house.Plan) bool { return len(p.Set.All()) == 11 }}, // it would pass newcomers over in silence
		"a place, and who posts there": {func(s *house.Settings) { s.Places[0].URL = "nowhere" }, "places.0.url", func(p *house.Plan) bool { return len(p.Settings.Places) == 0 && len(p.Set.All()[0].Outputs) == 1 }},
		"a door":                       {func(s *house.Settings) { s.Doors[0].Address = "" }, "doors.0", func(p *house.Plan) bool { return len(p.Settings.Doors) == len(settings(t).Doors)-1 }},
		"the zone":                     {func(s *house.Settings) { s.Zone = "Nowhere/At_all" }, "zone", func(p *house.Plan) bool { return p.Zone.String() == "UTC" && len(p.Set.All()) == 12 }},
		"a fill-in that is used":       {func(s *house.Settings) { s.FillIns[0].To = 0 }, "fillIns.0", func(p *house.Plan) bool { return len(p.Settings.FillIns) == 3 }},
		"an id that stands twice":      {func(s *house.Settings) { s.Courtesy[1].ID = s.Courtesy[0].ID }, "announce-opening id", func(p *house.Plan) bool { return len(p.Set.All()) == 11 }},
		"the pace and privacy":         {func(s *house.Settings) { s.Pace.GapSeconds = -1; s.Privacy.KeepDays = -1 }, "privacy.keepDays", func(p *house.Plan) bool { return len(p.Set.All()) == 12 }},
		"nearly everything": {func(s *house.Settings) {
			for i := range s.Courtesy {
				s.Courtesy[i].When = "x"
			}
			s.Doors = append(s.Doors, house.Door{})
		}, "doors.5.name", func(p *house.Plan) bool { return len(p.Set.All()) == 0 }},
	} {
		t.Run(name, func(t *testing.T) {
			s := settings(t)
			s.Courtesy = s.Courtesy[:12]
			c.spoil(s)
			if _, faults := house.Ready(s, 7); len(faults) == 0 {
				t.Fatal("there is nothing wrong with it")
			}
			p := house.Loosely(s, 7)
			told := []string{}
			for _, f := range p.Left {
				told = append(told, strings.TrimSpace(f.Courtesy+" "+f.At))
			}
			if !slices.Contains(told, c.left) || !c.stays(p) || p.Version != 7 || p.Whole != s {
				t.Errorf("left out: %q; %d courtesies stay", told, len(p.Set.All()))
			}
			if _, faults := house.Ready(s, 8); len(p.NewFaults(faults)) > 0 {
				t.Errorf("what is broken already keeps others from changing something: %v", p.NewFaults(faults))
			}
			more := settings(t)
			more.Courtesy = append(s.Courtesy[:len(s.Courtesy):len(s.Courtesy)], courtesy.Courtesy{ID: "fresh", When: "porch.of.tomorrow"})
			if _, faults := house.Ready(more, 8); name != "nearly everything" && len(p.NewFaults(faults)) == 0 {
				t.Error("a new fault is let through")
			}
		})
	}
}

func TestWordsOfTheHouseThatDoNotHoldAreLeftOutAlone(t *testing.T) {
	s := settings(t)
	s.Unclear = []string{"Whom, {name}?", "Whom, {nobody}?"}
	s.AlsoOn = house.AlsoOn{How: "each", Words: []string{"{nothing}"}}
	plan := house.Loosely(s, 3)
	if got := plan.Settings; len(got.Unclear) != 1 || got.AlsoOn.How != "" || len(got.Courtesy) != len(s.Courtesy) {
		t.Errorf("%q, %+v, %d of %d courtesies", got.Unclear, got.AlsoOn, len(got.Courtesy), len(s.Courtesy))
	}
	if len(plan.Left) != 2 {
		t.Errorf("%v", plan.Left)
	}
}
