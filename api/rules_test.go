package api_test

import (
	"strings"
	"testing"

	"vividporch/porch/porchtest"
	"vividporch/spec"
)

func TestACourtesyIsComposedCopiedAndPutAwayOverHTTP(t *testing.T) {
	b := porchtest.Launch(t)
	b.SignIn()
	var added spec.Added
	if s := b.Do("POST", "/api/courtesies", spec.NewCourtesy{When: "porch.support.tipped", Slot: "thanks"}, &added); s != 200 || added.ID == "" {
		t.Fatalf("%d %+v", s, added)
	}
	rule := spec.CourtesyRule{When: "porch.support.tipped", Slot: "thanks", Who: spec.Who{Any: []spec.Who{{Role: "vip"}, {Tag: "patron"}}},
		Measure: spec.Measure{Of: "amount", Currency: "EUR", AtLeast: 20}, Outputs: []spec.RuleOutput{{ID: "chat", Kind: "say", DelaySeconds: 2}, {Kind: "relay", Place: "boathouse-news"}}}
	var in spec.InForce
	if s := b.Do("PUT", "/api/courtesies/"+added.ID, rule, &in); s != 200 || in.Version != 3 {
		t.Fatalf("%d %+v", s, in)
	}
	var all spec.Courtesies
	b.Do("GET", "/api/courtesies", nil, &all)
	last := all.Courtesies[len(all.Courtesies)-1]
	var words strings.Builder
	for _, p := range last.Sentence {
		words.WriteString(p.Text)
	}
	if words.String() != "Thank for a tip of 20 or more EUR by a vip or anyone tagged patron" || last.On {
		t.Errorf("%q, on: %v", words.String(), last.On)
	}
	if len(last.Outputs) != 2 || len(last.Outputs[0].Alternatives) != 3 || last.Outputs[0].DelaySeconds != 2 || last.Outputs[1].Kind != "relay" {
		t.Errorf("%+v", last.Outputs)
	}
	if s := b.Do("POST", "/api/courtesies", spec.NewCourtesy{From: added.ID}, &added); s != 200 {
		t.Fatal(s)
	}
	b.Do("GET", "/api/courtesies", nil, &all)
	copied := all.Courtesies[len(all.Courtesies)-1]
	if copied.ID == last.ID || copied.Rule.Measure.AtLeast != 20 || len(copied.Rule.Who.Any) != 2 {
		t.Errorf("%+v", copied.Rule)
	}
	for field, bad := range map[string]spec.CourtesyRule{
		"who.days":         {When: "arrival", Slot: "greeting", Who: spec.Who{Days: []string{"Someday"}}},
		"when":             {When: "porch.nothing", Slot: "thanks"},
		"do.0.place":       {When: "arrival", Slot: "greeting", Outputs: []spec.RuleOutput{{Kind: "relay", Place: "nowhere"}}},
		"measure.currency": {When: "porch.support.tipped", Slot: "thanks", Measure: spec.Measure{Of: "amount", AtLeast: 1}},
	} {
		var p spec.Problem
		bad.Outputs = append([]spec.RuleOutput{}, bad.Outputs...)
		if s := b.Do("PUT", "/api/courtesies/"+added.ID, bad, &p); s != 422 || len(p.Faults) == 0 || p.Faults[0].At != field || p.Faults[0].Remedy == "" {
			t.Errorf("%s: %d %+v", field, s, p)
		}
	}
	var p spec.Problem
	if s := b.Do("PUT", "/api/courtesies/none", rule, &p); s != 404 {
		t.Errorf("%d", s)
	}
	var ladder spec.Ladder
	if s := b.Do("POST", "/api/courtesies/ladder", spec.ClimbLadder{When: "porch.raid.came", Slot: "thanks", Of: "viewers", Number: 70}, &ladder); s != 200 || len(ladder.Line) != 3 || ladder.Standing != "newcomer" {
		t.Errorf("%d %+v", s, ladder)
	}
	if s := b.Do("POST", "/api/courtesies/ladder", spec.ClimbLadder{When: "arrival", Slot: "greeting", Account: "quayside:never-seen"}, &p); s != 404 || p.Title == "" {
		t.Errorf("%d %+v", s, p)
	}
}
