package main

import (
	"bytes"
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"testing"
)

func TestServeRefusesToStartWithAClearLine(t *testing.T) {
	for want, o := range map[string]options{
		"no database":    {listen: "127.0.0.1:1", channel: "c"},
		"is no address":  {database: "postgres://x", listen: "8080", channel: "c"},
		"PORCH_HOME":     {database: "postgres://x", listen: "127.0.0.1:1", home: "8443"},
		"TLS needs both": {database: "postgres://x", listen: "127.0.0.1:1", channel: "c", cert: "cert.pem"},
	} {
		if err := o.check(); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("got %v, want %q", err, want)
		}
	}
}

func rehearse(t *testing.T, args ...string) (string, error) {
	t.Helper()
	c := rehearseCommand()
	var out bytes.Buffer
	c.SetOut(&out)
	c.SetErr(&out)
	c.SetArgs(args)
	c.SilenceUsage = true
	err := c.ExecuteContext(t.Context())
	return out.String(), err
}

// A written evening is kept, goes as it should, and tells each difference once it does not.
func TestAWrittenEveningIsKeptAndHeldToWhatIsExpected(t *testing.T) {
	t.Setenv("PORCH_DATABASE", "")
	dir := t.TempDir()
	kept, changed, wrong := filepath.Join(dir, "kept.json"), filepath.Join(dir, "house.json"), filepath.Join(dir, "wrong.json")
	with := func(house string, args ...string) []string {
		return append([]string{"--house", house, "--people", "../../demo/people.jsonl", "--script", "../../demo/evening.jsonl"}, args...)
	}
	if out, err := rehearse(t, with("../../demo/house.json", "--keep", kept)...); err != nil || !strings.Contains(out, "lines kept in") {
		t.Fatalf("%v %s", err, out)
	}
	if out, err := rehearse(t, with("../../demo/house.json", "--expect", kept)...); err != nil || !strings.HasPrefix(out, "the evening goes as expected") {
		t.Fatalf("%v %s", err, out)
	}
	var house struct {
		Courtesies []map[string]any `json:"courtesies"`
	}
	raw, err := os.ReadFile("../../demo/house.json")
	if err != nil {
		t.Fatal(err)
	}
	whole := map[string]any{}
	if json.Unmarshal(raw, &whole) != nil || json.Unmarshal(raw, &house) != nil {
		t.Fatal("the sample house cannot be read")
	}
	for _, c := range house.Courtesies {
		if c["id"] == "greet-regular" {
			c["on"] = false
		}
	}
	whole["courtesies"] = house.Courtesies
	raw, _ = json.Marshal(whole)
	os.WriteFile(changed, raw, 0o644)
	out, err := rehearse(t, with(changed, "--expect", kept)...)
	if err == nil || !strings.Contains(err.Error(), "from what is expected") || !strings.Contains(out, "was not said: greet-regular say quayside") || !strings.Contains(out, "greeted: ") {
		t.Errorf("%v\n%s", err, out)
	}
	for want, doc := range map[string]string{
		"format: is 7; this house reads format 1":       `{"format": 7}`,
		"said.0: is empty":                              `{"format": 1, "said": [{}]}`,
		"counts.laughs: is nothing that is counted":     `{"format": 1, "counts": {"laughs": {"least": 1}}}`,
		"counts.lines: has a least of 9 above its most": `{"format": 1, "counts": {"lines": {"least": 9, "most": 2}}}`,
		"cannot be read":                                `{"format": 1, "sayd": []}`,
	} {
		os.WriteFile(wrong, []byte(doc), 0o644)
		if _, err := rehearse(t, with("../../demo/house.json", "--expect", wrong)...); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%s: %v", doc, err)
		}
	}
}

func TestRehearseNeedsNoDatabaseAndSaysWhatIsWrong(t *testing.T) {
	t.Setenv("PORCH_DATABASE", "")
	out, err := rehearse(t, "--house", "../../demo/house.json", "--people", "../../demo/people.jsonl", "--script", "../../demo/evening.jsonl")
	if err != nil || !strings.Contains(out, "60 arrivals") || !strings.Contains(out, "because") {
		t.Errorf("%v\n%.300s", err, out)
	}
	broken := filepath.Join(t.TempDir(), "house.json")
	raw, _ := os.ReadFile("../../demo/house.json")
	os.WriteFile(broken, bytes.Replace(raw, []byte(`"zone"`), []byte(`"zoon"`), 1), 0o644)
	for want, args := range map[string][]string{
		"zoon":              {"--house", broken, "--script", "../../demo/evening.jsonl"},
		"use text or jsonl": {"--house", "../../demo/house.json", "--script", "../../demo/evening.jsonl", "--format", "xml"},
		"--script":          {"--house", "../../demo/house.json", "--script", "nowhere.jsonl"},
		"line 1":            {"--house", "../../demo/house.json", "--script", "../../demo/house.json"},
	} {
		if _, err := rehearse(t, args...); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%v: got %v", args, err)
		}
	}
}
