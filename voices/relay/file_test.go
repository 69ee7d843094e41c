package relay

import (
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"vividporch/core/place"
	"vividporch/core/wording"
	"vividporch/store/jobs"
)

// writes is a delivery to a file, as the house makes it.
func writes(t *testing.T, p *place.Place, line, text string) *jobs.Delivery {
	t.Helper()
	body, err := p.Render(wording.Args{"text": wording.Str(text), "channel": wording.Str("tidepool_hours"), "stream": wording.Num(61)})
	if err != nil {
		t.Fatal(err)
	}
	return &jobs.Delivery{Channel: 1, Line: line, Place: p.Name, Body: body}
}

func TestAFileGrowsByOneLineADeliveryAndIsWrittenOnceThoughTheProcessWentDownBeforeItWasNoted(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "files")
	f := &files{dir: dir}
	p := &place.Place{Name: "log", Kind: "file", File: "evening.jsonl", ByStream: true}
	for i, d := range []*jobs.Delivery{writes(t, p, "1.a", "mossy_mare follows"), writes(t, p, "2.a", "tidewrack follows"), writes(t, p, "1.a", "mossy_mare follows")} {
		if came := f.carry(t.Context(), p, d); came.how != taken {
			t.Fatalf("%d: %+v", i, came)
		}
	}
	raw, err := os.ReadFile(filepath.Join(dir, "evening-61.jsonl"))
	if err != nil {
		t.Fatal(err)
	}
	lines := strings.Split(strings.TrimSuffix(string(raw), "\n"), "\n")
	if len(lines) != 2 {
		t.Fatalf("%q", lines)
	}
	for i, want := range []string{"mossy_mare follows", "tidewrack follows"} {
		var rec struct{ ID, Text, Channel string }
		if err := json.Unmarshal([]byte(lines[i]), &rec); err != nil || rec.Text != want || rec.ID == "" || rec.Channel != "tidepool_hours" {
			t.Errorf("%v %s", err, lines[i])
		}
	}
	if st, _ := os.Stat(filepath.Join(dir, "evening-61.jsonl")); st.Mode().Perm() != 0o600 {
		t.Errorf("others may read it: %v", st.Mode())
	}
}

func TestALineThatWasCutOffStaysOneByItself(t *testing.T) {
	dir := t.TempDir()
	if err := os.WriteFile(filepath.Join(dir, "log.txt"), []byte("half a li"), 0o600); err != nil {
		t.Fatal(err)
	}
	p := &place.Place{Name: "log", Kind: "file", File: "log.txt", Each: "{text}"}
	if came := (&files{dir: dir}).carry(t.Context(), p, writes(t, p, "1.a", "one\nforged")); came.how != taken {
		t.Fatalf("%+v", came)
	}
	if raw, _ := os.ReadFile(filepath.Join(dir, "log.txt")); string(raw) != "half a li\none forged\n" {
		t.Errorf("%q", raw)
	}
}

func TestALinkInTheFolderLeadsNowhereElse(t *testing.T) {
	dir, outside := t.TempDir(), filepath.Join(t.TempDir(), "passwd")
	if err := os.WriteFile(outside, []byte("root\n"), 0o600); err != nil {
		t.Fatal(err)
	}
	if err := os.Symlink(outside, filepath.Join(dir, "log.txt")); err != nil {
		t.Fatal(err)
	}
	p := &place.Place{Name: "log", Kind: "file", File: "log.txt", Each: "{text}"}
	came := (&files{dir: dir}).carry(t.Context(), p, writes(t, p, "1.a", "x"))
	if raw, _ := os.ReadFile(outside); came.how != broken || string(raw) != "root\n" {
		t.Errorf("%+v, and outside stands %q", came, raw)
	}
	if strings.Contains(came.why, dir) {
		t.Errorf("it tells of the machine: %s", came.why)
	}
	if came := (&files{}).carry(t.Context(), p, writes(t, p, "1.a", "x")); came.how != refused {
		t.Errorf("without a folder: %+v", came)
	}
}
