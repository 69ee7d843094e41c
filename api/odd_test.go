package api_test

import (
	"encoding/json"
	"fmt"
	"maps"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"vividporch/porchtest"
	"vividporch/spec"
)

// odder changes one value somewhere in a document into something else.
func odder(r *rand.Rand, v any) any {
	odd := []any{nil, true, false, -1.0, 0.5, 1e300, "", " ", "{name", "{a, plural, other {", strings.Repeat("x", 5000), []any{}, []any{map[string]any{}}, map[string]any{}, "quayside:8841", "porch.raid.came", "\u202e\x00@all"}
	switch v := v.(type) {
	case map[string]any:
		if len(v) > 0 && r.IntN(5) > 0 {
			keys := slices.Sorted(maps.Keys(v))
			k := keys[r.IntN(len(keys))]
			if r.IntN(8) == 0 {
				delete(v, k)
			} else {
				v[k] = odder(r, v[k])
			}
			return v
		}
	case []any:
		if len(v) > 0 && r.IntN(5) > 0 {
			i := r.IntN(len(v))
			v[i] = odder(r, v[i])
			return v
		}
	}
	return odd[r.IntN(len(odd))]
}

func TestNothingHoweverOddIsAnsweredWithAServerError(t *testing.T) {
	b := porchtest.Launch(t)
	b.SignIn()
	b.Do("POST", "/api/desk/stream", spec.DeclareStream{Act: "opened"}, nil)
	says(b, "8841", "limpet_lena", "evening")
	b.Until("she is here", func() bool { return len(b.Porch().Guests) == 1 })
	tip := view(t, b, "thank-tip")
	file, _ := fetched(t, b, "/api/settings/file?courtesies=thank-tip")
	var all spec.Courtesies
	b.Do("GET", "/api/courtesies", nil, &all)
	refused := map[string]int{}
	for _, c := range []struct {
		method, path string
		doc          any
	}{
		{"PUT", "/api/courtesies/thank-tip", tip.Rule},
		{"PUT", "/api/courtesies/thank-tip/draft", spec.Draft{Outputs: []spec.DraftOutput{{ID: "chat", Alternatives: []string{"{name}"}, Weights: []int{1}, Joined: []string{"{names}"}, Fields: map[string]string{"a": "b"}}}}},
		{"POST", "/api/courtesies/thank-tip/try", spec.TryWordings{Outputs: []spec.DraftOutput{{ID: "chat", Alternatives: []string{"{name}"}}}, Person: all.People[0]}},
		{"POST", "/api/courtesies/thank-tip/street", spec.TryForReal{Account: "quayside:8841", Number: 5}},
		{"POST", "/api/courtesies/ladder", spec.ClimbLadder{When: "porch.support.tipped", Slot: "thanks", Account: "quayside:8841", Of: "amount", Currency: "EUR", Number: 5}},
		{"POST", "/api/courtesies/whom", spec.Who{Tag: "owl", Crews: spec.InCrews{Of: []string{"row"}, In: "one"}, Any: []spec.Who{{Trusted: true}}, Attended: 3}},
		{"POST", "/api/courtesies", spec.NewCourtesy{When: "arrival", Slot: "greeting"}},
		{"PUT", "/api/settings/own", all.Own},
		{"PUT", "/api/settings/never", spec.NeverList{Never: []string{"a_bot"}}},
		{"POST", "/api/settings/undo", spec.Undo{Version: 1}},
		{"POST", "/api/settings/file", spec.HouseFileIn{File: string(file), Sections: []string{"courtesies"}}},
		{"POST", "/api/desk/ask", spec.AskCourtesy{Act: "greet", Account: "quayside:8841"}},
		{"POST", "/api/desk/act", spec.PlatformAct{Act: "title", Platform: "quayside", Text: "Low water"}},
		{"POST", "/api/desk/say", spec.SayLine{Text: "hello", To: []string{"quayside"}}},
		{"POST", "/api/desk/waiting", spec.WaitingAct{Item: "raid/x", Act: "done"}},
		{"PUT", "/api/book/crews", spec.Crew{Name: "Lantern Row", Emblem: "bell", Initials: "LR"}},
		{"POST", "/api/book/edit", spec.BookEdit{Persons: []int64{1}, Set: map[string]any{"sayAs": "Lena"}, AddTags: []string{"tea"}}},
		{"POST", "/api/book/merge", spec.BookMerge{Kept: 1, Gone: 2}},
		{"POST", "/api/members", map[string]any{"name": "Fen Osier", "role": "helper"}},
	} {
		raw, err := json.Marshal(c.doc)
		if err != nil {
			t.Fatal(err)
		}
		for seed := range uint64(25) {
			r := rand.New(rand.NewPCG(seed, 4))
			var doc any
			if err := json.Unmarshal(raw, &doc); err != nil {
				t.Fatal(err)
			}
			doc = odder(r, doc)
			var p spec.Problem
			status := b.Do(c.method, c.path, doc, nil)
			sent, _ := json.Marshal(doc)
			switch {
			case status >= 500:
				t.Errorf("%s %s, seed %d: %d for %.300s", c.method, c.path, seed, status, sent)
			case status >= 400:
				refused[c.path]++
				if b.Do(c.method, c.path, doc, &p); p.Title == "" {
					t.Errorf("%s %s, seed %d: %d without a word for %.300s", c.method, c.path, seed, status, sent)
				}
			}
		}
	}
	if len(refused) < 15 {
		t.Errorf("only these refused anything: %v", refused)
	}
	// And the house is still well.
	says(b, "6", "mossy_mare", "evening")
	b.Until("it goes on greeting", func() bool { return said(b, "mossy_mare") })
	if p := b.Porch(); p.DatabaseGone || !p.Live.On {
		t.Error(fmt.Sprint(p.Live))
	}
}
