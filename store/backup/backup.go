// Package backup writes the whole house into one file, and brings it back.
//
// A backup is a ZIP of three parts: "backup.json" says what it is of, "key" holds the key that
// secrets are kept under, and "database" is what PostgreSQL's own pg_dump writes, with the guest
// book, the log and the shelf. With a passphrase the ZIP is encrypted as an age file (the age
// format, version 1, with a scrypt recipient). Either is written under another name first, for its
// user alone, and takes its own name when it is whole ([Make]). [Restore] puts the database of a file in
// the place of the one there is, or changes nothing.
package backup

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/base64"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"filippo.io/age"

	"vividporch/store/pg"
)

// Format is the format of the backups that this house writes.
const Format = 1

// Head says what a backup is of.
type Head struct {
	Format   int       `json:"format"`
	Made     time.Time `json:"made"`
	Channels []string  `json:"channels"`
}

// The parts of a backup.
const (
	headPart     = "backup.json"
	keyPart      = "key"
	databasePart = "database"
)

// Errors of backups, which name the remedy.
var (
	ErrNoBackup   = errors.New("this is no backup of a house; choose a file that ./run backup or House made")
	ErrLocked     = errors.New("this backup has a passphrase; write it")
	ErrPassphrase = errors.New("the passphrase does not open this backup; check it, letter by letter")
	ErrNotEmpty   = errors.New("there is a house already, which would be gone; say so twice to put the backup in its place")
)

// Source is a house to be written.
type Source struct {
	pg.Base
	URL string // of its database
	Key []byte // that its secrets are kept under
}

// Make writes a backup to a file, in whose folder nobody else can read it. With a passphrase it
// is encrypted. A file of that name is replaced, and only once the new one is whole.
func Make(ctx context.Context, src Source, file, passphrase string, now time.Time) (err error) {
	if err := os.MkdirAll(filepath.Dir(file), 0o700); err != nil {
		return fmt.Errorf("the backup cannot be written: %w", err)
	}
	part := file + ".part"
	f, err := os.OpenFile(part, os.O_WRONLY|os.O_CREATE|os.O_TRUNC, 0o600)
	if err != nil {
		return fmt.Errorf("the backup cannot be written: %w", err)
	}
	defer func() {
		if err != nil {
			f.Close()
			os.Remove(part)
			err = fmt.Errorf("the backup was not made, and nothing is left of it: %w", err)
		}
	}()
	if err := write(ctx, src, f, passphrase, now); err != nil {
		return err
	}
	if err := errors.Join(f.Sync(), f.Close()); err != nil {
		return err
	}
	return os.Rename(part, file)
}

// write writes a backup.
func write(ctx context.Context, src Source, to io.Writer, passphrase string, now time.Time) error {
	if passphrase != "" {
		recipient, err := age.NewScryptRecipient(passphrase)
		if err != nil {
			return err
		}
		sealed, err := age.Encrypt(to, recipient)
		if err != nil {
			return err
		}
		if err := write(ctx, src, sealed, "", now); err != nil {
			return err
		}
		return sealed.Close()
	}
	head := Head{Format: Format, Made: now.UTC()}
	if err := src.DB.WithContext(ctx).Table("channels").Order("name").Pluck("name", &head.Channels).Error; err != nil {
		return err
	}
	z := zip.NewWriter(to)
	w, err := z.Create(headPart)
	if err != nil {
		return err
	}
	if err := json.NewEncoder(w).Encode(head); err != nil {
		return err
	}
	if w, err = z.Create(keyPart); err != nil {
		return err
	}
	if _, err := io.WriteString(w, base64.StdEncoding.EncodeToString(src.Key)); err != nil {
		return err
	}
	// What pg_dump writes is compressed already.
	if w, err = z.CreateHeader(&zip.FileHeader{Name: databasePart, Method: zip.Store}); err != nil {
		return err
	}
	if err := program(ctx, "pg_dump", src.URL, nil, w, "--format=custom", "--no-owner", "--no-privileges", "--schema=public"); err != nil {
		return err
	}
	return z.Close()
}

// program runs one of PostgreSQL's programs on a database.
func program(ctx context.Context, name, url string, in io.Reader, out io.Writer, args ...string) error {
	path, err := find(name)
	if err != nil {
		return err
	}
	cmd := exec.CommandContext(ctx, path, args...)
	// Not among the arguments: everybody on the machine can read those.
	env, err := environment(url)
	if err != nil {
		return err
	}
	cmd.Env = append(os.Environ(), env...)
	var said bytes.Buffer
	failed := &failing{to: out}
	cmd.Stdin, cmd.Stdout, cmd.Stderr = in, failed, &said
	if out == nil {
		cmd.Stdout = nil
	}
	err = cmd.Run()
	switch {
	case failed.err != nil:
		return failed.err
	case ctx.Err() != nil:
		return ctx.Err()
	case err != nil:
		lines := strings.Split(strings.TrimSpace(said.String()), "\n")
		return fmt.Errorf("%s: %s", name, lines[len(lines)-1])
	}
	return nil
}

// failing keeps why writing failed: the program only sees that it did.
type failing struct {
	to  io.Writer
	err error
}

func (f *failing) Write(p []byte) (int, error) {
	n, err := f.to.Write(p)
	if err != nil {
		f.err = err
	}
	return n, err
}

// find finds one of PostgreSQL's programs: the newest that Debian installed, or on the path.
func find(name string) (string, error) {
	list, _ := filepath.Glob("/usr/lib/postgresql/*/bin/" + name)
	slices.SortFunc(list, func(a, b string) int { return len(a) - len(b) })
	if len(list) > 0 {
		return list[len(list)-1], nil
	}
	path, err := exec.LookPath(name)
	if err != nil {
		return "", fmt.Errorf("%s is missing: install PostgreSQL's programs (Debian: postgresql-client)", name)
	}
	return path, nil
}
