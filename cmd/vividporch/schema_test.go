package main

import (
	"bytes"
	"encoding/json"
	"strings"
	"testing"

	"github.com/santhosh-tekuri/jsonschema/v6"

	"vividporch/core/carry"
	"vividporch/core/event"
	"vividporch/core/house"
	"vividporch/core/housefile"
	"vividporch/demo"
)

// compiled is a schema as anybody outside would use it.
func compiled(t *testing.T, schema any) *jsonschema.Schema {
	t.Helper()
	raw, err := json.Marshal(schema)
	if err != nil {
		t.Fatal(err)
	}
	doc, err := jsonschema.UnmarshalJSON(bytes.NewReader(raw))
	if err != nil {
		t.Fatal(err)
	}
	c := jsonschema.NewCompiler()
	if err := c.AddResource("schema.json", doc); err != nil {
		t.Fatal(err)
	}
	s, err := c.Compile("schema.json")
	if err != nil {
		t.Fatal(err)
	}
	return s
}

func instance(t *testing.T, v any) any {
	t.Helper()
	raw, ok := v.([]byte)
	if !ok {
		var err error
		if raw, err = json.Marshal(v); err != nil {
			t.Fatal(err)
		}
	}
	out, err := jsonschema.UnmarshalJSON(bytes.NewReader(raw))
	if err != nil {
		t.Fatal(err)
	}
	return out
}

func TestHouseFilesThatGoOutHoldToTheirPublishedSchema(t *testing.T) {
	schema := compiled(t, houseSchema())
	s, err := housefile.ReadSettings(demo.House)
	if err != nil {
		t.Fatal(err)
	}
	crews := []carry.Crew{{ID: "lantern-row", Name: "Lantern Row", Emblem: event.Emblems[0], Initials: "LR", People: []string{"quayside:kelpwright"}}}
	part := carry.Part(s, []string{s.Courtesy[0].ID})
	part["crews"] = crews
	for name, doc := range map[string]any{"the sample world's": demo.House, "a whole one": carry.File{Settings: s, Crews: crews}, "a part": part} {
		if err := schema.Validate(instance(t, doc)); err != nil {
			t.Errorf("%s: %v", name, err)
		}
	}
}

// courtesy0 sets a field of the first courtesy.
func courtesy0(field string, v any) func(map[string]any) {
	return func(d map[string]any) { d["courtesies"].([]any)[0].(map[string]any)[field] = v }
}

func TestWhatThePublishedSchemaRefusesTheHouseRefusesToo(t *testing.T) {
	schema := compiled(t, houseSchema())
	for name, change := range map[string]func(map[string]any){
		"an unknown section":    func(d map[string]any) { d["turrets"] = []any{} },
		"another format":        func(d map[string]any) { d["format"] = 4 },
		"a number for the zone": func(d map[string]any) { d["zone"] = 3 },
		"an output of no kind": func(d map[string]any) {
			d["courtesies"].([]any)[0].(map[string]any)["do"].([]any)[0].(map[string]any)["kind"] = "shout"
		},
		"a when that never happens": courtesy0("when", "porch.tide.turned"),
		"a slot of no name":         courtesy0("slot", "welcome"),
		"a role of no platform":     courtesy0("who", map[string]any{"role": "captain"}),
		"a day of no week":          courtesy0("who", map[string]any{"days": []any{"Washday"}}),
		"an hour of no day":         courtesy0("who", map[string]any{"hours": map[string]any{"from": "25:00", "to": "26:00"}}),
		"a delay of two hours":      courtesy0("delaySeconds", 7200),
		"a burst of one":            courtesy0("burst", map[string]any{"seconds": 5, "at": 1}),
		"a gap of a week":           func(d map[string]any) { d["pace"].(map[string]any)["gapSeconds"] = 604800 },
		"a negative grace":          func(d map[string]any) { d["graceSeconds"] = -1 },
		"a crew without a name": func(d map[string]any) {
			d["crews"] = []any{map[string]any{"id": "lantern-row", "emblem": "disc", "initials": "", "people": []any{}}}
		},
	} {
		var doc map[string]any
		if err := json.Unmarshal(demo.House, &doc); err != nil {
			t.Fatal(err)
		}
		change(doc)
		if schema.Validate(instance(t, doc)) == nil {
			t.Errorf("%s: the schema takes it", name)
		}
		raw, _ := json.Marshal(doc)
		in, err := carry.Read(raw)
		if err == nil {
			var next *housefile.Settings
			if next, err = in.Onto(&housefile.Settings{Format: housefile.Format}, in.Holds(), true, false); err == nil {
				if _, faults := house.Ready(next, 1); len(faults) > 0 {
					err = faults[0]
				}
			}
		}
		if err == nil {
			t.Errorf("%s: the house takes it", name)
		}
	}
}

func TestTheSampleEveningHoldsToThePublishedSchemaOfEvents(t *testing.T) {
	schema := eventSchema()
	kinds := map[string]int{}
	for _, line := range strings.Split(strings.TrimSpace(string(demo.Evening)), "\n") {
		var ev struct {
			Type string `json:"type"`
			Data any    `json:"data"`
		}
		if err := json.Unmarshal([]byte(line), &ev); err != nil || ev.Type == "" {
			continue
		}
		def, known := schema["$defs"].(map[string]any)[ev.Type]
		if !known {
			t.Fatalf("%s has no schema", ev.Type)
		}
		if kinds[ev.Type]++; kinds[ev.Type] > 1 {
			continue
		}
		if err := compiled(t, def).Validate(instance(t, ev.Data)); err != nil {
			t.Errorf("%s: %v", ev.Type, err)
		}
	}
	if len(kinds) < 5 {
		t.Errorf("only %v", kinds)
	}
}
