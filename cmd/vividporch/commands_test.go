package main

import (
	"bytes"
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
