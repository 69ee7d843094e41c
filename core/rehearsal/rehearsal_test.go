package rehearsal_test

import (
	"bytes"
	"encoding/json"
	"strings"
	"testing"

	"vividporch/core/house"
	"vividporch/core/housefile"
	"vividporch/core/rehearsal"
	"vividporch/demo"
	"vividporch/demo/world"
)

func rehearse(t *testing.T, doc []byte) string {
	t.Helper()
	s, err := housefile.ReadSettings(doc)
	if err != nil {
		t.Fatal(err)
	}
	plan, faults := house.Ready(s, 1)
	if len(faults) > 0 {
		t.Fatal(faults)
	}
	book, err := rehearsal.ReadBook(bytes.NewReader(demo.People))
	if err != nil {
		t.Fatal(err)
	}
	script, err := rehearsal.ReadScript(bytes.NewReader(demo.Evening))
	if err != nil {
		t.Fatal(err)
	}
	var out bytes.Buffer
	if err := rehearsal.Write(&out, "jsonl", plan, book, script); err != nil {
		t.Fatal(err)
	}
	return out.String()
}

func TestTheWrittenEveningComesOutAsAStreamerWouldWantIt(t *testing.T) {
	out := rehearse(t, demo.House)
	if again := rehearse(t, demo.House); again != out {
		t.Fatal("the same evening came out differently")
	}
	greeted := map[string]int{}
	relays, last := 0, ""
	var sum struct{ Summary rehearsal.Summary }
	for _, raw := range strings.Split(strings.TrimSpace(out), "\n") {
		var e rehearsal.Effect
		if err := json.Unmarshal([]byte(raw), &e); err != nil {
			t.Fatal(err)
		}
		if strings.Contains(raw, `"summary"`) {
			json.Unmarshal([]byte(raw), &sum)
			continue
		}
		at := e.At.Format("15:04:05.000")
		if at < last {
			t.Errorf("%s comes after %s", at, last)
		}
		last = at
		if e.Effect == "relay" && e.To == "boathouse-news" {
			relays++
		}
		if e.Effect == "say" && (strings.HasPrefix(e.Courtesy, "greet") || strings.HasPrefix(e.Courtesy, "keep-a-")) {
			if len(e.Joined) == 0 {
				greeted[e.Person]++
			}
			for _, j := range e.Joined {
				greeted[j.Person]++
			}
		}
		if len(e.Because) == 0 {
			t.Errorf("no reason: %s", raw)
		}
	}
	for who, n := range greeted {
		if n > 1 {
			t.Errorf("%s was greeted %d times", who, n)
		}
	}
	// Sixty people, less the streamer and the two whose raids were thanked.
	if len(greeted) != 57 {
		t.Errorf("greeted %d people", len(greeted))
	}
	if relays != 2 { // and followed up when Fernlight went live
		t.Errorf("announced %d times", relays)
	}
	if sum.Summary.Streams != 1 || sum.Summary.Arrivals != 60 {
		t.Errorf("summary: %+v", sum.Summary)
	}
}

func TestAddingACourtesyChangesNoOthersChoice(t *testing.T) {
	var doc map[string]any
	if err := json.Unmarshal(demo.House, &doc); err != nil {
		t.Fatal(err)
	}
	doc["courtesies"] = append(doc["courtesies"].([]any), map[string]any{"id": "mark-follow", "on": true, "when": "porch.person.followed", "slot": "",
		"do": []any{map[string]any{"id": "chat", "kind": "say", "delaySeconds": 50, "alternatives": []string{"Thank you, {name}!"}}}})
	more, _ := json.Marshal(doc)
	texts := func(out string) map[string]string {
		m := map[string]string{}
		for _, raw := range strings.Split(out, "\n") {
			var e rehearsal.Effect
			json.Unmarshal([]byte(raw), &e)
			if e.Effect == "say" && e.Event != "" && e.Courtesy != "mark-follow" {
				m[e.Event+e.Courtesy] = e.Text
			}
		}
		return m
	}
	before, after := texts(rehearse(t, demo.House)), texts(rehearse(t, more))
	if len(before) < 15 {
		t.Fatalf("only %d lines to compare", len(before))
	}
	for k, v := range before {
		if after[k] != "" && after[k] != v {
			t.Errorf("%s was %q and is %q", k, v, after[k])
		}
	}
}

func TestAFaultInAScriptIsNamedByItsLine(t *testing.T) {
	_, err := rehearsal.ReadScript(strings.NewReader("\n{\"specversion\":\"1.0\"}\n"))
	if err == nil || !strings.Contains(err.Error(), "line 2") {
		t.Errorf("got %v", err)
	}
	_, err = rehearsal.ReadBook(strings.NewReader("{\"zone\":\"UTC\"}\n{\"accounts\":[{\"platform\":\"quayside\",\"id\":\"1\"}],\"streams\":[9]}\n"))
	if err == nil || !strings.Contains(err.Error(), "no stream 9") {
		t.Errorf("got %v", err)
	}
}

func TestTheSampleFilesAreWhatTheWorldMakes(t *testing.T) {
	if !bytes.Equal(demo.Evening, world.Evening()) || !bytes.Equal(demo.People, world.People()) {
		t.Error("demo/evening.jsonl or demo/people.jsonl is stale: run ./run types")
	}
}
