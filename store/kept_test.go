package store_test

import (
	"encoding/json"
	"testing"

	"vividporch/core/hall"
	"vividporch/core/points"
	"vividporch/store/storetest"
)

func TestWhatWasKeptOfManyInOneBreathIsKnownAsOfAnyStream(t *testing.T) {
	b := open(t, storetest.Open(t), "kept-before")
	b.k.Points = &points.Counting{}
	breath := func(stream int, amounts map[string]int64, has map[string]string) {
		body, _ := json.Marshal(points.Entry{Amounts: amounts})
		d := hall.Decision{Kind: points.Kind, Room: points.Name, Output: "here", Keeps: map[string]json.RawMessage{}, Saying: hall.Saying{Body: body}}
		for key, doc := range has {
			d.Keeps[key] = json.RawMessage(doc)
		}
		e := line("8841", "limpet_lena", opened(stream), stream)
		e.Decisions = []hall.Decision{d}
		b.happens(e)
	}
	breath(1, map[string]int64{"quayside:8841": 5, "quayside:12": 5}, map[string]string{"quayside:8841": `{"has":5}`, "quayside:12": `{"has":5}`})
	one := line("8841", "limpet_lena", opened(2), 2)
	body, _ := json.Marshal(points.Entry{Amount: 2})
	one.Decisions = []hall.Decision{{Kind: points.Kind, Room: points.Name, Output: "by hand", Person: "quayside:8841", Kept: json.RawMessage(`{"has":7}`), Saying: hall.Saying{Body: body}}}
	b.happens(one)
	second := b.seq
	breath(3, map[string]int64{"quayside:8841": 5}, map[string]string{"quayside:8841": `{"has":12}`})
	third := b.seq
	for _, x := range []struct {
		before     int64
		lena, kelp string
	}{{second, `{"has":5}`, `{"has":5}`}, {third, `{"has":7}`, `{"has":5}`}, {third + 1, `{"has":12}`, `{"has":5}`}} {
		kept, err := b.s.Log.KeptBefore(t.Context(), b.channel, x.before, []string{"quayside:8841", "quayside:12"})
		if err != nil {
			t.Fatal(err)
		}
		if got := string(kept["quayside:8841"][points.Name]); got != x.lena {
			t.Errorf("before event %d one has %s, not %s", x.before, got, x.lena)
		}
		if got := string(kept["quayside:12"][points.Name]); got != x.kelp {
			t.Errorf("before event %d another has %s, not %s", x.before, got, x.kelp)
		}
	}
}
