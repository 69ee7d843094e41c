package soak_test

import (
	"encoding/base64"
	"encoding/json"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"syscall"
	"testing"
	"time"

	"vividporch/store/storetest"
)

// restoreWithin is how long a backup of the demo house and its restore on an empty machine may take
// together.
const restoreWithin = 2 * time.Minute

// The demo house plays its evening, goes into one file, and comes back on an empty machine: soon, with
// all its log, which rehearses the same from both.
func TestTheDemoHouseComesBackFromItsBackupOnAnEmptyMachine(t *testing.T) {
	plays := budget(t, 0.1)
	bin := filepath.Join(t.TempDir(), "vividporch")
	if out, err := exec.Command("go", "build", "-o", bin, "../cmd/vividporch").CombinedOutput(); err != nil {
		t.Fatalf("%v\n%s", err, out)
	}
	here, there := storetest.NewCluster(t), storetest.NewCluster(t)
	env := func(url string, key byte) []string {
		return append(os.Environ(), "PORCH_DATABASE="+url, "PORCH_LISTEN="+free(t), "PORCH_BACKUPS="+t.TempDir(), "PORCH_KEY="+base64.StdEncoding.EncodeToString([]byte(strings.Repeat(string(key), 32))))
	}
	from, to := env(here.URL(), 'a'), env(there.URL(), 'b')
	run := func(env []string, args ...string) string {
		t.Helper()
		c := exec.Command(bin, args...)
		c.Env = env
		out, err := c.CombinedOutput()
		if err != nil {
			t.Fatalf("%s: %v\n%.800s", args, err, out)
		}
		return string(out)
	}
	demo := exec.Command(bin, "demo", "--play", "now")
	demo.Env = from
	if err := demo.Start(); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { demo.Process.Kill() })
	listen := from[slices.IndexFunc(from, func(s string) bool { return strings.HasPrefix(s, "PORCH_LISTEN=") })][len("PORCH_LISTEN="):]
	for end := time.Now().Add(time.Minute); ; time.Sleep(100 * time.Millisecond) {
		if res, err := http.Get("http://" + listen + "/readyz"); err == nil {
			res.Body.Close()
			if res.StatusCode == http.StatusOK {
				break
			}
		}
		if time.Now().After(end) {
			t.Fatal("the demo house did not start")
		}
	}
	time.Sleep(plays) // an evening is lived: this is no wait for a condition
	demo.Process.Signal(syscall.SIGINT)
	demo.Wait()

	file := filepath.Join(t.TempDir(), "house.backup")
	start := time.Now()
	run(from, "backup", file)
	made := time.Since(start)
	run(to, "restore", file)
	took := time.Since(start)
	info, err := os.Stat(file)
	if err != nil {
		t.Fatal(err)
	}
	t.Logf("backup %s, restore %s, %d kB", made.Round(time.Millisecond), (took - made).Round(time.Millisecond), info.Size()/1000)
	if took > restoreWithin {
		t.Errorf("it took %s, and may take %s", took, restoreWithin)
	}
	log := run(from, "export", "log")
	if again := run(to, "export", "log"); again != log || strings.Count(log, "\n") < 20 {
		t.Errorf("the log is another one: %d lines, %d came back", strings.Count(log, "\n"), strings.Count(again, "\n"))
	}
	evening := func(env []string, log string) string {
		dir := t.TempDir()
		for name, content := range map[string]string{"house.json": run(env, "export", "house"), "people.jsonl": run(env, "export", "people"), "log.jsonl": log} {
			if name == "house.json" { // crews are no settings
				var doc map[string]json.RawMessage
				if err := json.Unmarshal([]byte(content), &doc); err != nil {
					t.Fatal(err)
				}
				delete(doc, "crews")
				raw, _ := json.Marshal(doc)
				content = string(raw)
			}
			if err := os.WriteFile(filepath.Join(dir, name), []byte(content), 0o600); err != nil {
				t.Fatal(err)
			}
		}
		return run(env, "rehearse", "--house", filepath.Join(dir, "house.json"), "--people", filepath.Join(dir, "people.jsonl"), "--script", filepath.Join(dir, "log.jsonl"), "--format", "jsonl")
	}
	if a, b := evening(from, log), evening(to, log); a != b || !strings.Contains(a, `"effect":"say"`) {
		t.Errorf("it rehearses otherwise: %d and %d lines\n%.600s", strings.Count(a, "\n"), strings.Count(b, "\n"), a)
	}
}
