package backup

import (
	"bufio"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"time"

	"vividporch/store/forget"
)

// Kind is why a backup was made.
type Kind string

// The kinds of backups. Of each the last seven are kept.
const (
	Night   Kind = "night"   // each night
	Update  Kind = "update"  // before the tables are brought up to date
	ByHand  Kind = "by-hand" // asked for
	Before  Kind = "before"  // of what a restore puts aside
	Brought Kind = "brought" // a file from elsewhere
)

// Kept is how many backups of each kind are kept.
const Kept = 7

// nightFrom is the hour of the night from which on a nightly backup is made, in the channel's
// zone: when most streams have ended.
const nightFrom = 4

// Folder is where backups are kept.
type Folder struct{ Dir string }

// File is a backup in a folder.
type File struct {
	Name  string
	Kind  Kind
	Made  time.Time
	Bytes int64
}

const stamp = "2006-01-02T15-04-05Z"

var nameOf = regexp.MustCompile(`^house-(night|update|by-hand|before|brought)-(\d{4}-\d\d-\d\dT\d\d-\d\d-\d\dZ)\.backup$`)

// New is the path of a new backup.
func (f Folder) New(kind Kind, now time.Time) string {
	return filepath.Join(f.Dir, fmt.Sprintf("house-%s-%s.backup", kind, now.UTC().Format(stamp)))
}

// Path is the path of a backup by its name; false for what is no name of one.
func (f Folder) Path(name string) (string, bool) {
	return filepath.Join(f.Dir, name), nameOf.MatchString(name)
}

// List lists the backups, the newest first. A folder that is not there holds none.
func (f Folder) List() ([]File, error) {
	entries, err := os.ReadDir(f.Dir)
	if errors.Is(err, fs.ErrNotExist) {
		return []File{}, nil
	}
	if err != nil {
		return nil, fmt.Errorf("the folder of backups cannot be read: %w", err)
	}
	out := []File{}
	for _, e := range entries {
		m := nameOf.FindStringSubmatch(e.Name())
		if m == nil {
			continue
		}
		made, err := time.Parse(stamp, m[2])
		info, ierr := e.Info()
		if err != nil || ierr != nil {
			continue
		}
		out = append(out, File{Name: e.Name(), Kind: Kind(m[1]), Made: made, Bytes: info.Size()})
	}
	slices.SortFunc(out, func(a, b File) int { return b.Made.Compare(a.Made) })
	return out, nil
}

// Prune takes away the backups of a kind that are older than the last seven.
func (f Folder) Prune(kind Kind) error {
	list, err := f.List()
	if err != nil {
		return err
	}
	n := 0
	for _, b := range list {
		if b.Kind != kind {
			continue
		}
		if n++; n > Kept {
			if err := os.Remove(filepath.Join(f.Dir, b.Name)); err != nil {
				return err
			}
		}
	}
	return nil
}

// Due reports whether a nightly backup is to be made now, in the channel's zone: once each night
// from four o'clock on, and later that day where the house was not running then or was live.
func Due(list []File, now time.Time, zone *time.Location, live bool) bool {
	local := now.In(zone)
	if live || local.Hour() < nightFrom {
		return false
	}
	night := time.Date(local.Year(), local.Month(), local.Day(), nightFrom, 0, 0, 0, zone)
	return !slices.ContainsFunc(list, func(b File) bool { return b.Kind == Night && !b.Made.Before(night) })
}

// forgottenFile lies beside the backups: a backup still knows whom the house has forgotten since.
const forgottenFile = "forgotten.jsonl"

// forgotten is a line of it: an account, by its digest, so that the file itself knows nobody.
type forgotten struct {
	At      time.Time `json:"at"`
	Channel string    `json:"channel"`
	Account string    `json:"account"` // its digest, as forget.Digest writes it
}

// Forgot notes that accounts of a channel were forgotten.
func (f Folder) Forgot(channel string, accounts []string, now time.Time) error {
	if err := os.MkdirAll(f.Dir, 0o700); err != nil {
		return err
	}
	file, err := os.OpenFile(filepath.Join(f.Dir, forgottenFile), os.O_WRONLY|os.O_CREATE|os.O_APPEND, 0o600)
	if err != nil {
		return err
	}
	enc := json.NewEncoder(file)
	for _, a := range accounts {
		err = errors.Join(err, enc.Encode(forgotten{now.UTC(), channel, forget.Digest(a)}))
	}
	return errors.Join(err, file.Sync(), file.Close())
}

// ForgottenSince are the digests of the accounts that were forgotten on a channel since a time.
func (f Folder) ForgottenSince(channel string, since time.Time) (map[string]bool, error) {
	file, err := os.Open(filepath.Join(f.Dir, forgottenFile))
	if errors.Is(err, fs.ErrNotExist) {
		return map[string]bool{}, nil
	}
	if err != nil {
		return nil, fmt.Errorf("who was forgotten since cannot be read, and nobody may come back by a backup: %w", err)
	}
	defer file.Close()
	out := map[string]bool{}
	for sc := bufio.NewScanner(file); sc.Scan(); {
		var x forgotten
		// A line that was cut off by a crash says nothing.
		if json.Unmarshal(sc.Bytes(), &x) == nil && x.Channel == channel && !x.At.Before(since) {
			out[x.Account] = true
		}
	}
	return out, nil
}
