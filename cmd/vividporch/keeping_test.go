package main

import (
	"context"
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/tls"
	"crypto/x509"
	"fmt"
	"io"
	"net"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/housefile"
	"vividporch/core/rehearsal"
	"vividporch/porch"
	"vividporch/store"
	"vividporch/store/backup"
	"vividporch/store/storetest"
)

// own is a house of one's own on an empty database, with a folder for its key and backups.
func own(t *testing.T) *options {
	t.Helper()
	dir := t.TempDir()
	return &options{database: storetest.URL(t), listen: "127.0.0.1:8080", owner: "owner", keyFile: filepath.Join(dir, "house.key"), backups: filepath.Join(dir, "backups")}
}

// lives opens the house with its doors shut, has it live some events, and closes it.
func (o *options) lives(t *testing.T, f func(*porch.House, *store.Store)) {
	t.Helper()
	if err := o.withHouse(t.Context(), func(_ context.Context, h *porch.House, st *store.Store) error { f(h, st); return nil }); err != nil {
		t.Fatal(err)
	}
}

func said(id, login, text string) event.Event { return on("harbour", id, login, text) }

func on(platform, id, login, text string) event.Event {
	d := &happening.ChatSaid{Text: text}
	d.Person = event.Person{Platform: platform, ID: id, Login: login}
	return event.Event{Door: "harbour-chat", Source: "#room", ID: "m" + id + text, Type: d.Type(), Data: d}
}

func TestARestoredHouseHoldsStillAndForgetsAgainWhomItForgotSince(t *testing.T) {
	o := own(t)
	o.lives(t, func(h *porch.House, st *store.Store) {
		if _, err := h.Submit(t.Context(), []event.Event{said("1", "limpet_lena", "here"), said("2", "moss_mare", "me too")}); err != nil {
			t.Fatal(err)
		}
	})
	file := filepath.Join(t.TempDir(), "house.backup")
	run := func(args ...string) (string, error) {
		c := rootCommand()
		var out strings.Builder
		c.SetOut(&out)
		c.SetErr(io.Discard)
		c.SetArgs(append(args, "--database", o.database, "--key-file", o.keyFile, "--backups", o.backups))
		err := c.ExecuteContext(t.Context())
		return out.String(), err
	}
	if out, err := run("backup", file); err != nil || !strings.Contains(out, file) {
		t.Fatalf("%q %v", out, err)
	}
	// Forgotten after the backup was made, as House would have it.
	if err := o.folder().Forgot(newHouse, []string{"harbour:1"}, time.Now()); err != nil {
		t.Fatal(err)
	}
	if _, err := run("restore", file); err == nil || !strings.Contains(err.Error(), "--over") {
		t.Errorf("over a house that is there: %v", err)
	}
	if out, err := run("restore", file, "--over"); err != nil || !strings.Contains(out, "holds still") {
		t.Fatalf("%q %v", out, err)
	}
	if list, err := o.folder().List(); err != nil || len(list) != 1 || list[0].Kind != backup.Before {
		t.Errorf("what was there is kept: %+v %v", list, err)
	}
	o.lives(t, func(h *porch.House, _ *store.Store) {
		if !h.Held() {
			t.Error("it does not hold still")
		}
		for key, there := range map[string]bool{"harbour:1": false, "harbour:2": true} {
			if k, err := h.Known(t.Context(), key); err != nil || (k != nil) != there {
				t.Errorf("%s: %v %v", key, k, err)
			}
		}
	})
	t.Setenv("PORCH_PASSPHRASE", "three limpets")
	if _, err := run("backup", file); err != nil {
		t.Fatal(err)
	}
	t.Setenv("PORCH_PASSPHRASE", "two limpets")
	if _, err := run("restore", file, "--over"); err == nil || !strings.Contains(err.Error(), "passphrase") {
		t.Errorf("a wrong passphrase: %v", err)
	}
}

// The last evening's log rehearses the same from a house and from what came back of it.
func TestWhatCameBackRehearsesTheSame(t *testing.T) {
	o := own(t)
	o.houseFile = "../../demo/house.json"
	secret := "low-water-lamp"
	o.lives(t, func(h *porch.House, st *store.Store) {
		doc, err := o.defaults()
		if err != nil {
			t.Fatal(err)
		}
		if err := st.Log.FirstSettings(t.Context(), h.ID, doc); err != nil {
			t.Fatal(err)
		}
		opened := &happening.StreamOpened{StreamInfo: happening.StreamInfo{Platform: "quayside", Title: "Low water"}}
		evs := []event.Event{{Door: "quayside", Source: "x", ID: "o", Type: opened.Type(), Data: opened}}
		for i := range 40 {
			evs = append(evs, on("quayside", fmt.Sprint(i%9), fmt.Sprint("gull_", i%9), fmt.Sprint("line ", i)))
		}
		if _, err := h.Submit(t.Context(), evs); err != nil {
			t.Fatal(err)
		}
		if err := st.Safe.SetSecret(t.Context(), h.ID, h.Plan().Whole, "quayside-chat", "password", secret); err != nil {
			t.Fatal(err)
		}
	})
	file := filepath.Join(t.TempDir(), "house.backup")
	st, err := o.open(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	src, err := o.source(st)
	if err != nil {
		t.Fatal(err)
	}
	if err := backup.Make(t.Context(), src, file, "", time.Now()); err != nil {
		t.Fatal(err)
	}
	st.Close()
	other := own(t) // an empty machine, with a key of its own
	if err := other.bring(t.Context(), restoring{file: file}, false); err != nil {
		t.Fatal(err)
	}
	if a, b := evening(t, o), evening(t, other); a != b || !strings.Contains(a, "gull_") {
		t.Errorf("it rehearses otherwise:\n%.400s\n%.400s", a, b)
	}
	back, err := other.open(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	defer back.Close()
	id, _ := other.channelOf(t.Context(), back)
	if got, err := back.Safe.Secrets(t.Context(), id, "quayside-chat"); err != nil || got["password"] != secret {
		t.Errorf("its secrets are good under the key there: %v", err)
	}
}

// evening is the rehearsal of a house's whole log, as lines.
func evening(t *testing.T, o *options) string {
	t.Helper()
	c := rootCommand()
	var log strings.Builder
	c.SetOut(&log)
	c.SetArgs([]string{"export", "log", "--database", o.database, "--key-file", o.keyFile, "--backups", o.backups})
	if err := c.ExecuteContext(t.Context()); err != nil {
		t.Fatal(err)
	}
	script, err := rehearsal.ReadScript(strings.NewReader(log.String()))
	if err != nil {
		t.Fatal(err)
	}
	var out strings.Builder
	o.lives(t, func(h *porch.House, _ *store.Store) {
		if err := rehearsal.Write(&out, "jsonl", h.Plan(), rehearsal.NewBook(), script); err != nil {
			t.Fatal(err)
		}
	})
	return out.String()
}

func TestABackupIsMadeBeforeTheTablesAreBroughtUpToDate(t *testing.T) {
	o := own(t)
	o.lives(t, func(*porch.House, *store.Store) {})
	if list, _ := o.folder().List(); len(list) != 0 {
		t.Fatalf("a new database is backed up: %v", list)
	}
	st, err := store.Open(t.Context(), o.database)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := st.SQL.Exec("UPDATE tables_shape SET shape = 'an older one'"); err != nil {
		t.Fatal(err)
	}
	st.Close()
	o.lives(t, func(*porch.House, *store.Store) {})
	list, err := o.folder().List()
	if err != nil || len(list) != 1 || list[0].Kind != backup.Update {
		t.Fatalf("%+v %v", list, err)
	}
	// Where none can be made, nothing is changed.
	st, err = store.Open(t.Context(), o.database)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := st.SQL.Exec("UPDATE tables_shape SET shape = 'an older one'"); err != nil {
		t.Fatal(err)
	}
	st.Close()
	o.backups = filepath.Join(o.keyFile, "no-folder")
	if _, err := o.open(t.Context()); err == nil || !strings.Contains(err.Error(), "no backup of it can be made first") {
		t.Errorf("%v", err)
	}
}

func TestTheSettingsFollowHowTheHouseWasStarted(t *testing.T) {
	o := own(t)
	reach := func() (r housefile.Reach) {
		o.lives(t, func(h *porch.House, _ *store.Store) {
			if err := o.follow(t.Context(), h); err != nil {
				t.Fatal(err)
			}
			r = h.Plan().Whole.Reach
		})
		return r
	}
	if r := reach(); r.How != housefile.Here {
		t.Errorf("on loopback: %+v", r)
	}
	o.public = "https://porch.example/"
	if r := reach(); r.How != housefile.Public || r.Address != "https://porch.example" {
		t.Errorf("with an address: %+v", r)
	}
	o.public = ""
	if r := reach(); r.How != housefile.Public {
		t.Errorf("what was chosen stays: %+v", r)
	}
}

func TestInTheHomeNetworkTheHouseHasACertificateOfItsOwn(t *testing.T) {
	file := filepath.Join(t.TempDir(), "deep", "house.home.pem")
	ips := []net.IP{net.IPv4(192, 168, 7, 20)}
	first, err := certificate(file, ips)
	if err != nil {
		t.Fatal(err)
	}
	if st, err := os.Stat(file); err != nil || st.Mode().Perm() != 0o600 {
		t.Errorf("%v %v", st, err)
	}
	again, err := certificate(file, ips)
	if err != nil || fingerprint(again.Certificate[0]) != fingerprint(first.Certificate[0]) {
		t.Errorf("another one at the next start: %v", err)
	}
	moved, err := certificate(file, []net.IP{net.IPv4(10, 0, 0, 5)})
	if err != nil || fingerprint(moved.Certificate[0]) == fingerprint(first.Certificate[0]) {
		t.Errorf("the address changed, and the certificate did not: %v", err)
	}
	if a, b := first.PrivateKey.(*ecdsa.PrivateKey), moved.PrivateKey.(*ecdsa.PrivateKey); !a.Equal(b) {
		t.Error("its key changed with it")
	}
	// One that does not match its key says so.
	key, _ := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	if _, err := makeCertificate(file+".other", key, ips); err != nil {
		t.Fatal(err)
	}
	mine, _ := os.ReadFile(file)
	theirs, _ := os.ReadFile(file + ".other")
	head := func(pem []byte) string { s := string(pem); return s[:strings.Index(s, "-----BEGIN PRIVATE")] }
	if err := os.WriteFile(file, []byte(head(theirs)+strings.TrimPrefix(string(mine), head(mine))), 0o600); err != nil {
		t.Fatal(err)
	}
	if _, err := certificate(file, ips); err == nil || !strings.Contains(err.Error(), "does not match its key") {
		t.Errorf("%v", err)
	}
}

func TestTheHomeNetworksWayInIsOpenedAndShutByTheSettings(t *testing.T) {
	o := own(t)
	o.lives(t, func(h *porch.House, _ *store.Store) {
		at := &home{listen: "127.0.0.1:0", file: filepath.Join(t.TempDir(), "home.pem"), serve: http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) { fmt.Fprint(w, r.TLS != nil) })}
		at.reach(h, housefile.Reach{How: housefile.Home})
		now := h.Home()
		if now == nil || now.Trouble != "" || len(now.Addresses) == 0 || !strings.HasPrefix(now.Addresses[0], "https://") {
			t.Fatalf("%+v", now)
		}
		port := now.Addresses[0][strings.LastIndexByte(now.Addresses[0], ':')+1:]
		client := &http.Client{Timeout: 5 * time.Second, Transport: &http.Transport{TLSClientConfig: &tls.Config{InsecureSkipVerify: true, VerifyPeerCertificate: func(raw [][]byte, _ [][]*x509.Certificate) error {
			if fingerprint(raw[0]) != now.Fingerprint {
				return fmt.Errorf("%s is not %s", fingerprint(raw[0]), now.Fingerprint)
			}
			return nil
		}}}}
		res, err := client.Get("https://127.0.0.1:" + port + "/")
		if err != nil {
			t.Fatal(err)
		}
		raw, _ := io.ReadAll(res.Body)
		res.Body.Close()
		if string(raw) != "true" {
			t.Errorf("%s", raw)
		}
		at.reach(h, housefile.Reach{How: housefile.Here})
		if h.Home() != nil {
			t.Error("House still shows it")
		}
		client.CloseIdleConnections()
		if _, err := client.Get("https://127.0.0.1:" + port + "/"); err == nil {
			t.Error("it is still open")
		}
	})
}
