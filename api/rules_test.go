package api_test

import (
	"strings"
	"testing"
	"time"

	"vividporch/porchtest"
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
	if words.String() != "Thank for a tip of 20 or more EUR by a VIP or anyone tagged patron" || last.On {
		t.Errorf("%q, on: %v", words.String(), last.On)
	}
	if len(last.Outputs) != 2 || len(last.Outputs[0].Alternatives) != 3 || last.Rule.Outputs[0].DelaySeconds != 2 || last.Outputs[1].Kind != "relay" {
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

func TestAHouseFileGoesOutIsLookedAtAndComesInAsOneVersion(t *testing.T) {
	b := porchtest.Launch(t)
	b.SignIn()
	var out map[string]any
	if s := b.Do("GET", "/api/settings/file?courtesies=greet-newcomer,announce-opening", nil, &out); s != 200 || out["madeOn"] != "tidepool_hours" || len(out["courtesies"].([]any)) != 2 || len(out["places"].([]any)) != 1 {
		t.Fatalf("%d %v", s, out)
	}
	var p spec.Problem
	if s := b.Do("GET", "/api/settings/file?courtesies=none", nil, &p); s != 404 {
		t.Errorf("%d", s)
	}
	theirs := `{"format": 1, "madeOn": "pine_marten_hours", "zone": "Europe/Oslo", "courtesies": [
		{"id": "greet-newcomer", "on": true, "when": "arrival", "who": {"standing": "newcomer", "crews": {"of": ["night-owls"]}}, "slot": "greeting", "do": [{"id": "chat", "kind": "say", "alternatives": ["Welcome to pine_marten_hours, {name}"]}]},
		{"id": "hoot", "on": true, "when": "arrival", "who": {"account": "quayside:owl"}, "slot": "greeting", "do": []}]}`
	var look spec.HouseFileLook
	if s := b.Do("POST", "/api/settings/file", spec.HouseFileIn{File: theirs}, &look); s != 200 || !look.Other || len(look.Faults) > 0 {
		t.Fatalf("%d %+v", s, look)
	}
	at := map[string]string{}
	for _, d := range look.Differences {
		at[d.At] = d.After
	}
	if !strings.Contains(at["courtesies.greet-newcomer.do.chat.alternatives"], "Welcome to tidepool_hours") || at["courtesies.hoot"] == "" || at["zone"] != "" || len(look.Missing) != 2 {
		t.Errorf("%v, missing %v", at, look.Missing)
	}
	if v := b.House.Plan().Version; v != 1 {
		t.Errorf("looking changed something: version %d", v)
	}
	bad := strings.Replace(theirs, `"standing": "newcomer"`, `"standing": "friend"`, 1)
	if s := b.Do("POST", "/api/settings/file", spec.HouseFileIn{File: bad}, &look); s != 200 || len(look.Faults) != 1 || look.Faults[0].At != "greet-newcomer who.standing" {
		t.Errorf("%d %+v", s, look.Faults)
	}
	if s := b.Do("PUT", "/api/settings/file", spec.HouseFileIn{File: bad}, &p); s != 422 || b.House.Plan().Version != 1 {
		t.Errorf("%d %+v", s, p)
	}
	if s := b.Do("PUT", "/api/settings/file", spec.HouseFileIn{File: `{"format": 1, "colours": {}}`}, &p); s != 422 || p.Field != "file" || !strings.Contains(p.Remedy, "colours") {
		t.Errorf("%d %+v", s, p)
	}
	var in spec.InForce
	if s := b.Do("PUT", "/api/settings/file", spec.HouseFileIn{File: theirs}, &in); s != 200 || in.Version != 2 {
		t.Fatalf("%d %+v", s, in)
	}
	if s := b.Do("POST", "/api/settings/undo", spec.Undo{Version: 2}, &in); s != 200 {
		t.Fatal(s)
	}
	set := b.House.Plan().Settings
	if len(set.Courtesy[1].Do[0].Alternatives) != 4 || set.Courtesy[len(set.Courtesy)-1].ID == "hoot" {
		t.Error("the undo left something of the file")
	}
}

func TestTheHourAheadIsToldWithWhatIsBeingWritten(t *testing.T) {
	b := porchtest.Launch(t)
	b.SignIn()
	var added spec.Added
	if s := b.Do("POST", "/api/courtesies", spec.NewCourtesy{When: "timer", Of: "boots"}, &added); s != 200 {
		t.Fatal(s)
	}
	c := view(t, b, added.ID)
	if !c.On || c.Rule.Timer.Minutes != 20 || c.Rule.Timer.Lines != 15 || c.Rule.Outputs[0].Of != "boots" {
		t.Fatalf("%+v", c.Rule)
	}
	if s := b.Do("POST", "/api/courtesies", spec.NewCourtesy{When: "timer", Of: "no-such-command"}, nil); s != 404 {
		t.Errorf("a command that is none: %d", s)
	}
	ahead := func(in spec.LookAhead) (f spec.Forecast) {
		t.Helper()
		if s := b.Do("POST", "/api/courtesies/forecast", in, &f); s != 200 {
			t.Fatal(s)
		}
		return f
	}
	if f := ahead(spec.LookAhead{Speed: 3}); !strings.HasPrefix(f.Says, "At 3 lines a minute") || !strings.HasPrefix(f.Beside, "At a calm 4") {
		t.Errorf("what is asked for beside how chat goes by itself: %q %q", f.Says, f.Beside)
	}
	if f := ahead(spec.LookAhead{}); f.Beside != "" {
		t.Errorf("nothing else was asked for: %q", f.Beside)
	}
	said := func(f spec.Forecast) (n int) {
		for _, m := range f.Marks {
			if m.Courtesy == added.ID && m.How != "held" {
				n++
			}
		}
		return n
	}
	now := ahead(spec.LookAhead{})
	if now.Speed == 0 || !now.Opens || now.Usual != 0 || now.Weekday == "" || said(now) == 0 || !strings.Contains(now.Says, "lines a minute") {
		t.Errorf("%+v", now)
	}
	c.Rule.Timer.Lines = 5000
	if tried := ahead(spec.LookAhead{Speed: 4, ID: added.ID, Rule: c.Rule}); said(tried) != 0 || said(ahead(spec.LookAhead{Speed: 4})) == 0 {
		t.Errorf("with a rule that is not in force: %+v", tried)
	}
	c.Rule.Timer.Minutes = 0
	var p spec.Problem
	if s := b.Do("POST", "/api/courtesies/forecast", spec.LookAhead{ID: added.ID, Rule: c.Rule}, &p); s != 422 || len(p.Faults) == 0 {
		t.Errorf("a timer of no minutes: %d %+v", s, p)
	}
	// How fast chat usually is on this weekday, of the streams there were.
	zone := b.House.Plan().Zone
	opened := time.Now().In(zone).AddDate(0, 0, -7)
	if _, err := b.Store.SQL.Exec(`INSERT INTO streams (channel, number, opened, closed) VALUES ($1, 900, $2, $3)`, b.House.ID, opened, opened.Add(time.Hour)); err != nil {
		t.Fatal(err)
	}
	if _, err := b.Store.SQL.Exec(`INSERT INTO visits (channel, key, stream, lines, first, last) VALUES ($1, 'quayside:1', 900, 180, $2, $2), ($1, 'quayside:2', 900, 60, $2, $2)`, b.House.ID, opened); err != nil {
		t.Fatal(err)
	}
	if f := ahead(spec.LookAhead{}); f.Usual != 4 {
		t.Errorf("usually %g lines a minute", f.Usual)
	}
}
