package wording_test

import (
	"encoding/json"
	"os"
	"testing"
	"time"

	"vividporch/core/wording"
)

// The corpus holds what an independent implementation of ICU MessageFormat made of
// each wording, in English.
func TestRenderingEqualsAnIndependentImplementation(t *testing.T) {
	raw, err := os.ReadFile("testdata/corpus.json")
	if err != nil {
		t.Fatal(err)
	}
	var corpus []struct {
		Wording string
		Args    map[string]any
		Zone    string
		Want    string
	}
	if err := json.Unmarshal(raw, &corpus); err != nil {
		t.Fatal(err)
	}
	if len(corpus) < 300 {
		t.Fatalf("only %d wordings", len(corpus))
	}
	for _, c := range corpus {
		zone, err := time.LoadLocation(c.Zone)
		if err != nil {
			t.Fatal(err)
		}
		args := wording.Args{}
		for k, v := range c.Args {
			switch v := v.(type) {
			case float64:
				args[k] = wording.Value{Num: v, IsNum: true}
			case string:
				args[k] = wording.Value{Text: v}
			case map[string]any:
				at, err := time.Parse(time.RFC3339, v["moment"].(string))
				if err != nil {
					t.Fatal(err)
				}
				args[k] = wording.At(at.In(zone))
			}
		}
		w, err := wording.Parse(c.Wording)
		if err != nil {
			t.Errorf("%q: %v", c.Wording, err)
			continue
		}
		if got := w.Render(args); got != c.Want {
			t.Errorf("%q with %v in %s:\n got %q\nwant %q", c.Wording, c.Args, zone, got, c.Want)
		}
	}
}
