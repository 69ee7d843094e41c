package house_test

import (
	"encoding/json"
	"maps"
	"math/rand/v2"
	"os"
	"slices"
	"strings"
	"testing"
	"time"

	"vividporch/core/carry"
	"vividporch/core/house"
	"vividporch/core/housefile"
)

// spoil changes one value somewhere in a document into something else.
func spoil(r *rand.Rand, v any) any {
	odd := []any{nil, true, -1.0, 1e308, "", " ", "{name", "{streams, plural, one {#} other {#}}", "24:61", "2031-02-30", []any{}, map[string]any{}, "porch.raid.came", "quayside", "\u202e@all"}
	switch v := v.(type) {
	case map[string]any:
		if len(v) > 0 && r.IntN(6) > 0 {
			keys := slices.Sorted(maps.Keys(v))
			k := keys[r.IntN(len(keys))]
			v[k] = spoil(r, v[k])
			return v
		}
	case []any:
		if len(v) > 0 && r.IntN(6) > 0 {
			i := r.IntN(len(v))
			switch r.IntN(8) {
			case 0:
				return append(v, v[i]) // one stands twice
			case 1:
				return slices.Delete(v, i, i+1)
			}
			v[i] = spoil(r, v[i])
			return v
		}
	}
	return odd[r.IntN(len(odd))]
}

func TestASpoiledHouseFileIsRefusedWithItsPlaceOrWorks(t *testing.T) {
	raw, err := os.ReadFile("../../demo/house.json")
	if err != nil {
		t.Fatal(err)
	}
	now, err := housefile.ReadSettings(raw)
	if err != nil {
		t.Fatal(err)
	}
	refused, faulty, fine := 0, 0, 0
	for seed := range uint64(1500) {
		r := rand.New(rand.NewPCG(seed, 2))
		var doc any
		if err := json.Unmarshal(raw, &doc); err != nil {
			t.Fatal(err)
		}
		for range 1 + r.IntN(3) {
			doc = spoil(r, doc)
		}
		spoiled, _ := json.Marshal(doc)
		in, err := carry.Read(spoiled)
		if err != nil {
			refused++
			if !strings.Contains(err.Error(), ":") && !strings.Contains(err.Error(), "house file") {
				t.Errorf("seed %d: %q names no place", seed, err)
			}
			continue
		}
		next, err := in.Onto(now, in.Holds(), true, false)
		if err != nil {
			refused++
			continue
		}
		plan, faults := house.Ready(next, 1)
		if len(faults) > 0 {
			faulty++
			for _, f := range faults {
				if f.What == "" || f.Remedy == "" {
					t.Errorf("seed %d: %+v", seed, f)
				}
			}
			continue
		}
		fine++
		if fine%10 == 0 { // those that come into force can be lived
			e := &evening{t: t, s: house.NewState(), plan: plan, now: dusk}
			e.happens(on("quayside"))
			e.happens(line("limpet_lena", "hello"))
			e.happens(raid("kelpwright", 37))
			e.after(time.Minute).happens(off("quayside"))
			e.after(time.Hour)
		}
	}
	if refused < 100 || faulty < 100 || fine < 100 {
		t.Errorf("%d refused, %d with faults, %d fine: the spoiling spoils too much or too little", refused, faulty, fine)
	}
}
