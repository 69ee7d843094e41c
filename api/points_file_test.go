package api_test

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"vividporch/spec"
)

// A file that broke off, or is brought in once more with a row mended, gives nobody theirs twice unless that is asked for.
func TestARowThatAFileGaveBeforeIsLeftOutUntilItIsAskedFor(t *testing.T) {
	b, lena := known(t)
	for range 2 { // a row that is refused was not given
		var look spec.PointsLook
		if s := b.Do("POST", "/api/points/import", spec.PointsFile{Csv: "login,points\nlimpet_lena,60\n", Take: true}, &look); s != 200 || len(look.Refused) != 1 || !strings.Contains(look.Refused[0].Why, "switched off") {
			t.Errorf("%d %+v", s, look)
		}
	}
	if s := b.Do("PUT", "/api/house/sections/rooms", map[string]any{"value": json.RawMessage(`{"points": {"on": true}}`)}, nil); s != 200 {
		t.Fatal(s)
	}
	bring := func(csv string, take, again bool, wantTaken, wantBefore int, wantHas int64) {
		t.Helper()
		var look spec.PointsLook
		if s := b.Do("POST", "/api/points/import", spec.PointsFile{Csv: csv, Take: take, Again: again}, &look); s != 200 || look.Taken != wantTaken || len(look.Before) != wantBefore || len(look.Refused) > 0 {
			t.Errorf("%d %+v", s, look)
		}
		var has spec.PointsOf
		if b.Do("GET", fmt.Sprint("/api/points/of/", lena), nil, &has); has.Has != wantHas {
			t.Errorf("she has %d, not %d", has.Has, wantHas)
		}
	}
	twice := "login,points\nlimpet_lena,60\nlimpet_lena,60\n"
	bring("login,points\nlimpet_lena,60\n", false, false, 0, 0, 0)
	bring("login,points\nlimpet_lena,60\n", true, false, 1, 0, 60)
	bring("login,points\nlimpet_lena,60\n", true, false, 0, 1, 60)
	bring(twice, true, false, 1, 1, 120) // the second is another
	bring(twice, false, true, 0, 2, 120) // only looked at
	bring(twice, true, true, 2, 2, 240)
	bring("login,points\nlimpet_lena,5\n", true, false, 1, 0, 245)

	reset := func(undo bool) {
		t.Helper()
		if s := b.Do("POST", "/api/desk/points/reset", spec.PointsReset{Undo: undo}, nil); s != 200 {
			t.Fatal(s)
		}
	}
	reset(false) // what it gave counts no longer
	bring("login,points\nlimpet_lena,60\n", true, false, 1, 0, 60)
	reset(true)
	bring("login,points\nlimpet_lena,5\n", true, false, 0, 1, 305)
}
