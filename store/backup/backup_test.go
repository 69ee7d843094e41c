package backup_test

import (
	"context"
	"errors"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"vividporch/core/housefile"
	"vividporch/store"
	"vividporch/store/backup"
	"vividporch/store/pg"
	"vividporch/store/storetest"
	"vividporch/store/tables"
)

var key = []byte("thirty-two bytes of low water...")

var night = time.Date(2026, 11, 27, 4, 30, 0, 0, time.UTC)

// lived is a database with a house in it, and its address.
func lived(t *testing.T) (*store.Store, string) {
	t.Helper()
	url := storetest.URL(t)
	st, err := store.Open(t.Context(), url)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { st.Close() })
	if err := st.Safe.UseKey(key); err != nil {
		t.Fatal(err)
	}
	id, err := st.Channel(t.Context(), "tidepool_hours")
	if err != nil {
		t.Fatal(err)
	}
	s := &housefile.Settings{Doors: []housefile.Door{{Name: "quayside-chat", Kind: "irc", Address: "chat.quayside.example:6697"}}}
	if err := st.Safe.SetSecret(t.Context(), id, s, "quayside-chat", "password", "low-water-lamp"); err != nil {
		t.Fatal(err)
	}
	owner, err := st.Members.Owner(t.Context(), id, "Odalys Brine")
	if err != nil {
		t.Fatal(err)
	}
	if err := st.Members.AddSession(t.Context(), tables.Session{Hash: "x", Member: owner.ID, Created: night, Seen: night, CSRF: "y"}); err != nil {
		t.Fatal(err)
	}
	return st, url
}

func source(st *store.Store, url string) backup.Source {
	return backup.Source{Base: pg.Base{DB: st.DB, SQL: st.SQL}, URL: url, Key: key}
}

func TestAHouseIsOneFileAndComesBackFromIt(t *testing.T) {
	for name, passphrase := range map[string]string{"as it is": "", "with a passphrase": "three limpets and a lamp"} {
		t.Run(name, func(t *testing.T) {
			st, url := lived(t)
			file := filepath.Join(t.TempDir(), "deep", "house.backup")
			if err := backup.Make(t.Context(), source(st, url), file, passphrase, night); err != nil {
				t.Fatal(err)
			}
			if info, err := os.Stat(file); err != nil || info.Mode().Perm() != 0o600 {
				t.Errorf("%v %v", info, err)
			}
			raw, _ := os.ReadFile(file)
			if passphrase != "" && (strings.Contains(string(raw), "tidepool_hours") || !strings.HasPrefix(string(raw), "age-encryption.org/v1")) {
				t.Error("it can be read without the passphrase")
			}
			if passphrase != "" {
				if _, err := backup.Open(file, ""); !errors.Is(err, backup.ErrLocked) {
					t.Errorf("without its passphrase: %v", err)
				}
				if _, err := backup.Open(file, "two limpets"); !errors.Is(err, backup.ErrPassphrase) {
					t.Errorf("with a wrong one: %v", err)
				}
			}
			o, err := backup.Open(file, passphrase)
			if err != nil {
				t.Fatal(err)
			}
			defer o.Close()
			if string(o.Key) != string(key) || !o.Head.Made.Equal(night) || len(o.Head.Channels) != 1 || o.Head.Channels[0] != "tidepool_hours" {
				t.Errorf("%+v", o.Head)
			}
			to := storetest.URL(t)
			if err := o.Restore(t.Context(), to, false); err != nil {
				t.Fatal(err)
			}
			back, err := store.Open(t.Context(), to)
			if err != nil {
				t.Fatal(err)
			}
			defer back.Close()
			if err := back.Safe.UseKey(o.Key); err != nil {
				t.Fatal(err)
			}
			id, _ := back.Channel(t.Context(), "tidepool_hours")
			if got, err := back.Safe.Secrets(t.Context(), id, "quayside-chat"); err != nil || got["password"] != "low-water-lamp" {
				t.Errorf("%v %v", got, err)
			}
			// What is there is not overwritten without a second word.
			if err := o.Restore(t.Context(), to, false); !errors.Is(err, backup.ErrNotEmpty) {
				t.Errorf("over a house that is there: %v", err)
			}
			if err := o.Restore(t.Context(), to, true); err != nil {
				t.Errorf("with a second word: %v", err)
			}
		})
	}
}

func TestARestoreThatFailsChangesNothing(t *testing.T) {
	st, url := lived(t)
	file := filepath.Join(t.TempDir(), "house.backup")
	if err := backup.Make(t.Context(), source(st, url), file, "", night); err != nil {
		t.Fatal(err)
	}
	o, err := backup.Open(file, "")
	if err != nil {
		t.Fatal(err)
	}
	defer o.Close()
	ctx, cancel := context.WithCancel(t.Context())
	if _, err := st.SQL.Exec("CREATE ROLE test_reader"); err == nil {
		t.Cleanup(func() { st.SQL.Exec("DROP ROLE test_reader") })
	}
	// Cut off in the middle: the file ends before the database does.
	raw, _ := os.ReadFile(file)
	broken := filepath.Join(t.TempDir(), "broken.backup")
	damaged := []byte(strings.Replace(string(raw), "PGDMP", "PGDMQ", 1))
	if err := os.WriteFile(broken, damaged, 0o600); err != nil {
		t.Fatal(err)
	}
	b, err := backup.Open(broken, "")
	if err != nil {
		t.Fatal(err)
	}
	defer b.Close()
	if err := b.Restore(ctx, url, true); err == nil || !strings.Contains(err.Error(), "nothing was changed") {
		t.Errorf("a damaged backup: %v", err)
	}
	cancel()
	if err := o.Restore(ctx, url, true); err == nil {
		t.Error("given up, and restored")
	}
	id, err := st.Channel(t.Context(), "tidepool_hours")
	if got, serr := st.Safe.Secrets(t.Context(), id, "quayside-chat"); err != nil || serr != nil || got["password"] != "low-water-lamp" {
		t.Errorf("the house that was there: %v %v %v", got, err, serr)
	}
}

func TestADiskThatIsFullLeavesNothingHalfMade(t *testing.T) {
	st, url := lived(t)
	if _, err := os.Stat("/dev/full"); err != nil {
		t.Skip("there is no /dev/full here")
	}
	dir := t.TempDir()
	file := filepath.Join(dir, "house.backup")
	if err := os.WriteFile(file, []byte("the one before"), 0o600); err != nil {
		t.Fatal(err)
	}
	if err := os.Symlink("/dev/full", file+".part"); err != nil { // every write to it finds the disk full
		t.Fatal(err)
	}
	err := backup.Make(t.Context(), source(st, url), file, "", night)
	if err == nil || !strings.Contains(err.Error(), "no space left") || !strings.Contains(err.Error(), "nothing is left of it") {
		t.Errorf("%v", err)
	}
	if raw, _ := os.ReadFile(file); string(raw) != "the one before" {
		t.Error("the backup before it is gone")
	}
	if _, err := os.Lstat(file + ".part"); err == nil {
		t.Error("half of one is left")
	}
}

func TestWhatIsNoBackupIsRefused(t *testing.T) {
	for name, content := range map[string]string{"a text": "hello", "nothing": "", "another zip": "PK\x05\x06" + strings.Repeat("\x00", 18), "a torn age file": "age-encryption.org/v1\n"} {
		file := filepath.Join(t.TempDir(), "x")
		if err := os.WriteFile(file, []byte(content), 0o600); err != nil {
			t.Fatal(err)
		}
		if _, err := backup.Open(file, "three limpets"); err == nil {
			t.Errorf("%s is taken for a backup", name)
		}
	}
}

func TestTheLastSevenOfEachKindAreKept(t *testing.T) {
	f := backup.Folder{Dir: filepath.Join(t.TempDir(), "backups")}
	if list, err := f.List(); err != nil || len(list) != 0 {
		t.Errorf("a folder that is not there: %v %v", list, err)
	}
	if err := os.MkdirAll(f.Dir, 0o700); err != nil {
		t.Fatal(err)
	}
	for n := range 9 {
		for _, k := range []backup.Kind{backup.Night, backup.ByHand} {
			if err := os.WriteFile(f.New(k, night.AddDate(0, 0, n)), []byte("x"), 0o600); err != nil {
				t.Fatal(err)
			}
		}
	}
	if err := os.WriteFile(filepath.Join(f.Dir, "notes.txt"), nil, 0o600); err != nil {
		t.Fatal(err)
	}
	if err := f.Prune(backup.Night); err != nil {
		t.Fatal(err)
	}
	list, err := f.List()
	if err != nil || len(list) != backup.Kept+9 || !list[0].Made.Equal(night.AddDate(0, 0, 8)) {
		t.Errorf("%d: %v %v", len(list), list[0], err)
	}
	for _, name := range []string{"../house.key", "house-night-x.backup", "notes.txt"} {
		if _, ok := f.Path(name); ok {
			t.Errorf("%s is taken for a backup", name)
		}
	}
}

func TestANightlyBackupIsMadeOnceANightAndNeverWhileLive(t *testing.T) {
	lisbon, err := time.LoadLocation("Europe/Lisbon")
	if err != nil {
		t.Fatal(err)
	}
	at := func(day, hour int) time.Time { return time.Date(2026, 7, day, hour, 10, 0, 0, lisbon) }
	last := []backup.File{{Kind: backup.Night, Made: at(10, 4)}, {Kind: backup.ByHand, Made: at(11, 5)}}
	for name, c := range map[string]struct {
		now  time.Time
		live bool
		want bool
	}{
		"the same night":            {at(10, 5), false, false},
		"the next day, before four": {at(11, 3), false, false},
		"the next night":            {at(11, 4), false, true},
		"the next night, live":      {at(11, 4), true, false},
		"it was off all night":      {at(11, 19), false, true},
	} {
		if got := backup.Due(last, c.now.UTC(), lisbon, c.live); got != c.want {
			t.Errorf("%s: %v", name, got)
		}
	}
	if !backup.Due(nil, at(9, 12), lisbon, false) {
		t.Error("the first one")
	}
}

func TestWhoWasForgottenSinceIsKnownByDigestAlone(t *testing.T) {
	f := backup.Folder{Dir: t.TempDir()}
	for i, account := range []string{"quayside:1", "quayside:2", "quayside:3"} {
		if err := f.Forgot("tidepool_hours", []string{account}, night.Add(time.Duration(i)*time.Hour)); err != nil {
			t.Fatal(err)
		}
	}
	if err := f.Forgot("second_house", []string{"quayside:4"}, night.AddDate(0, 0, 1)); err != nil {
		t.Fatal(err)
	}
	got, err := f.ForgottenSince("tidepool_hours", night.Add(time.Hour))
	if err != nil || len(got) != 2 {
		t.Errorf("%v %v", got, err)
	}
	raw, _ := os.ReadFile(filepath.Join(f.Dir, "forgotten.jsonl"))
	if strings.Contains(string(raw), "quayside") {
		t.Error("the file knows who was forgotten")
	}
}
