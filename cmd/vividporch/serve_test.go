package main

import (
	"bytes"
	"context"
	"encoding/base64"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"vividporch/api"
	"vividporch/store/pg"
	"vividporch/store/safe"
	"vividporch/store/storetest"
)

func TestEachStartWithdrawsTheOwnersLinksBeforeIt(t *testing.T) {
	st := storetest.Open(t)
	o := options{owner: "owner", listen: "127.0.0.1:8080", public: "https://porch.example"}
	id, err := st.Channel(t.Context(), "tidepool_hours")
	if err != nil {
		t.Fatal(err)
	}
	var tokens []string
	for range 2 {
		link, err := o.link(t.Context(), st, id, "127.0.0.1:8080")
		if err != nil {
			t.Fatal(err)
		}
		token, ok := strings.CutPrefix(link, "https://porch.example/enter/")
		if !ok {
			t.Fatalf("the link does not follow the public address: %s", link)
		}
		tokens = append(tokens, token)
	}
	for i, want := range []error{pg.ErrNone, nil} {
		if _, err := st.Members.SignInGood(t.Context(), api.Hash(tokens[i])); err != want {
			t.Errorf("link %d: %v", i+1, err)
		}
	}
}

// run runs a command of the program as a person would.
func run(t *testing.T, url, input string, args ...string) (string, error) {
	t.Helper()
	t.Setenv("PORCH_DATABASE", url)
	t.Setenv("PORCH_KEY", base64.StdEncoding.EncodeToString(make([]byte, 32)))
	in := filepath.Join(t.TempDir(), "in")
	if err := os.WriteFile(in, []byte(input), 0o600); err != nil {
		t.Fatal(err)
	}
	f, err := os.Open(in)
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	was := os.Stdin
	os.Stdin = f
	defer func() { os.Stdin = was }()
	c := rootCommand()
	var out bytes.Buffer
	c.SetOut(&out)
	c.SetArgs(args)
	err = c.ExecuteContext(context.Background())
	return out.String(), err
}

func TestHostsAreAllowedAndSecretsKeptOnTheCommandLine(t *testing.T) {
	url := storetest.URL(t)
	t.Setenv("PORCH_HOUSE", "../../demo/house.json")
	for _, bad := range []string{"http://lamp.local", "lamp.local:80", "", "me@lamp.local"} {
		if _, err := run(t, url, "", "allow", bad); err == nil {
			t.Errorf("%q is taken for a host", bad)
		}
	}
	for _, host := range []string{"Lamp.Local.", "192.168.1.20", "[fd12::7]"} {
		if _, err := run(t, url, "", "allow", host); err != nil {
			t.Errorf("%s: %v", host, err)
		}
	}
	if _, err := run(t, url, "", "allow", "--not", "192.168.1.20"); err != nil {
		t.Error(err)
	}
	if out, err := run(t, url, "", "allow"); err != nil || out != "fd12::7\nlamp.local\n" {
		t.Errorf("%q %v", out, err)
	}
	if _, err := run(t, url, "low-water-lamp\n", "secret", "quayside-chat", "password"); err != nil {
		t.Error(err)
	}
	for _, args := range [][]string{{"secret", "no-such-door", "password"}, {"secret", "quayside-chat", "secret"}, {"secret", "quayside", "password"}} {
		if _, err := run(t, url, "x", args...); err == nil {
			t.Errorf("%v: nothing has such a secret", args)
		}
	}
}

func TestTheChannelNeedsNoNameWhereThereIsOne(t *testing.T) {
	st := storetest.Open(t)
	var o options
	first, err := o.channelOf(t.Context(), st)
	if err != nil || o.channel != newHouse {
		t.Fatalf("%q %v", o.channel, err)
	}
	if again, err := (&options{}).channelOf(t.Context(), st); err != nil || again != first {
		t.Errorf("%d, not %d: %v", again, first, err)
	}
	if _, err := (&options{channel: "second_house"}).channelOf(t.Context(), st); err != nil {
		t.Fatal(err)
	}
	if _, err := (&options{}).channelOf(t.Context(), st); err == nil || !strings.Contains(err.Error(), "PORCH_CHANNEL") || !strings.Contains(err.Error(), "second_house") {
		t.Errorf("which of two is meant: %v", err)
	}
}

func TestANewHouseStartsWithTheStarterSet(t *testing.T) {
	t.Setenv("PORCH_HOUSE", "")
	out, err := run(t, storetest.URL(t), "", "export", "house")
	if err != nil || !strings.Contains(out, "greet-newcomer") || strings.Contains(out, "tidepool") {
		t.Errorf("%v\n%.400s", err, out)
	}
}

func TestAKeyIsMadeOnceForItsUserAlone(t *testing.T) {
	file := filepath.Join(t.TempDir(), "deep", "key")
	first, err := safe.Key("", file)
	if err != nil {
		t.Fatal(err)
	}
	if st, err := os.Stat(file); err != nil || st.Mode().Perm() != 0o600 {
		t.Errorf("%v %v", st.Mode(), err)
	}
	if again, err := safe.Key("", file); err != nil || !bytes.Equal(again, first) {
		t.Errorf("another key at the next start: %v", err)
	}
	if err := os.Chmod(file, 0o644); err != nil {
		t.Fatal(err)
	}
	if _, err := safe.Key("", file); err == nil || !strings.Contains(err.Error(), "chmod 600") {
		t.Errorf("a key that others can read: %v", err)
	}
	if _, err := safe.Key("bm90IGxvbmcgZW5vdWdo", file); err == nil {
		t.Error("a key that is too short")
	}
}
