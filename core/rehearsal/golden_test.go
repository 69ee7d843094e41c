package rehearsal_test

import (
	"bytes"
	"encoding/json"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/house"
	"vividporch/core/housefile"
	"vividporch/core/people"
	"vividporch/core/rehearsal"
	"vividporch/core/room"
)

// Evenings that are kept, with what the house made of them: the sample world's own, its
// log as it went out after it was played, and five that between them use every when,
// every output and every hand. What moves one of them changes what viewers or the
// streamer see. GOLDEN=write keeps them anew.
const kept = "testdata/"

// goldenHouse is the sample house with courtesies for whatever it has none for.
func goldenHouse(t *testing.T) *housefile.Settings {
	t.Helper()
	raw, err := os.ReadFile("../../demo/house.json")
	if err != nil {
		t.Fatal(err)
	}
	s, err := housefile.ReadSettings(raw)
	if err != nil {
		t.Fatal(err)
	}
	s.Neighbours = []string{"boathouse_bell"}
	s.Pace.SharePercent = 100 // an evening so short is mostly the house’s
	more, err := os.ReadFile(kept + "more.json")
	if err != nil {
		t.Fatal(err)
	}
	var list []courtesy.Courtesy
	if err := json.Unmarshal(more, &list); err != nil {
		t.Fatal(err)
	}
	for i := range s.Courtesy {
		s.Courtesy[i].On = true
	}
	s.Courtesy = append(s.Courtesy, list...)
	return s
}

func TestKeptEveningsComeOutByteForByte(t *testing.T) {
	scripts, err := filepath.Glob(kept + "*.jsonl")
	if err != nil {
		t.Fatal(err)
	}
	scripts = slices.DeleteFunc(scripts, func(s string) bool { return strings.HasSuffix(s, ".want.jsonl") })
	if len(scripts) < 5 {
		t.Fatalf("only %d evenings are kept", len(scripts))
	}
	whens, outputs, hands := map[string]bool{}, map[string]bool{}, map[string]bool{}
	s := goldenHouse(t)
	when := map[string]string{}
	for _, c := range s.Courtesy {
		when[c.ID] = c.When
	}
	for _, script := range append(scripts, "../../demo/evening.jsonl") {
		t.Run(filepath.Base(script), func(t *testing.T) {
			plan, faults := house.Ready(s, 1)
			if len(faults) > 0 {
				t.Fatal(faults)
			}
			book, err := os.Open("../../demo/people.jsonl")
			if err != nil {
				t.Fatal(err)
			}
			defer book.Close()
			guests, err := rehearsal.ReadBook(book)
			if err != nil {
				t.Fatal(err)
			}
			raw, err := os.ReadFile(script)
			if err != nil {
				t.Fatal(err)
			}
			evs, err := rehearsal.ReadScript(bytes.NewReader(raw))
			if err != nil {
				t.Fatal(err)
			}
			var out bytes.Buffer
			enc := json.NewEncoder(&out)
			enc.SetEscapeHTML(false)
			sum, err := rehearsal.Watched(plan, guests, evs, func(e rehearsal.Effect) error {
				if e.Effect != "drop" {
					whens[when[e.Courtesy]] = true
				}
				outputs[e.Effect] = true
				return enc.Encode(e)
			}, func(_ *house.State, ev *event.Event, _ *people.Known, ds []hall.Decision, _ *room.Plan) {
				if strings.HasPrefix(ev.Type, "porch.desk.") || strings.HasPrefix(ev.Type, "porch.book.") {
					hands[ev.Type] = true
				}
				for i := range ds {
					if ds[i].Kind == hall.Raise {
						outputs["raise"] = true
					}
				}
			})
			if err != nil {
				t.Fatal(err)
			}
			if err := enc.Encode(map[string]rehearsal.Summary{"summary": sum}); err != nil {
				t.Fatal(err)
			}
			file := kept + strings.TrimSuffix(filepath.Base(script), ".jsonl") + ".want.jsonl"
			if os.Getenv("GOLDEN") == "write" {
				if err := os.WriteFile(file, out.Bytes(), 0o644); err != nil {
					t.Fatal(err)
				}
			}
			want, err := os.ReadFile(file)
			if err != nil {
				t.Fatal(err)
			}
			got, wanted := strings.Split(out.String(), "\n"), strings.Split(string(want), "\n")
			for i := range max(len(got), len(wanted)) {
				a, b := "nothing", "nothing"
				if i < len(got) {
					a = got[i]
				}
				if i < len(wanted) {
					b = wanted[i]
				}
				if a != b {
					t.Fatalf("line %d is\n%s\nand was\n%s", i+1, a, b)
				}
			}
		})
	}
	for _, w := range happening.Whens() {
		if !whens[w.Type] && !event.IsOwn(w.Type) { // what the house tells of itself is in no script
			t.Errorf("no kept evening uses the when %s", w.Type)
		}
	}
	for _, kind := range []string{"say", "card", "sound", "film", "speak", "lamp", "scene", "relay", "platform", "raise", "drop"} {
		if !outputs[kind] {
			t.Errorf("no kept evening has a %s", kind)
		}
	}
	for _, hand := range []string{"hushed", "hurried", "dropped", "reworded", "declared", "said", "asked", "acted", "undone", "done"} {
		if !hands["porch.desk."+hand] {
			t.Errorf("no kept evening has a hand that %s", hand)
		}
	}
}
