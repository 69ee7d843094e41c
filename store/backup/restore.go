package backup

import (
	"archive/zip"
	"bytes"
	"context"
	"database/sql"
	"encoding/base64"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/url"
	"os"
	"path/filepath"
	"strings"

	"filippo.io/age"
	"github.com/jackc/pgx/v5"
)

// Opened is a backup that was opened and looked at.
type Opened struct {
	Head Head
	Key  []byte
	zip  *zip.Reader
	shut []func() error
}

// Close lets go of the file.
func (o *Opened) Close() error {
	var errs []error
	for _, f := range o.shut {
		errs = append(errs, f())
	}
	return errors.Join(errs...)
}

// Open opens a backup. Its passphrase is needed where it has one.
func Open(file, passphrase string) (*Opened, error) {
	f, err := os.Open(file)
	if err != nil {
		return nil, fmt.Errorf("the backup cannot be read: %w", err)
	}
	o := &Opened{shut: []func() error{f.Close}}
	fail := func(err error) (*Opened, error) { o.Close(); return nil, err }
	start := make([]byte, 21)
	n, _ := io.ReadFull(f, start)
	if _, err := f.Seek(0, io.SeekStart); err != nil {
		return fail(err)
	}
	if bytes.HasPrefix(start[:n], []byte("age-encryption.org/v1")) {
		if f, err = o.unsealed(f, filepath.Dir(file), passphrase); err != nil {
			return fail(err)
		}
	}
	st, err := f.Stat()
	if err != nil {
		return fail(err)
	}
	if o.zip, err = zip.NewReader(f, st.Size()); err != nil {
		return fail(ErrNoBackup)
	}
	raw, err := o.part(headPart)
	if err != nil || json.Unmarshal(raw, &o.Head) != nil || o.Head.Format < 1 {
		return fail(ErrNoBackup)
	}
	if o.Head.Format > Format {
		return fail(fmt.Errorf("this backup is of format %d, and this house reads up to %d: bring the house up to date first", o.Head.Format, Format))
	}
	if raw, err = o.part(keyPart); err != nil {
		return fail(ErrNoBackup)
	}
	if o.Key, err = base64.StdEncoding.DecodeString(string(raw)); err != nil {
		return fail(ErrNoBackup)
	}
	return o, nil
}

// unsealed is the inside of an encrypted backup, in a file without a name beside it.
func (o *Opened) unsealed(f *os.File, dir, passphrase string) (*os.File, error) {
	if passphrase == "" {
		return nil, ErrLocked
	}
	identity, err := age.NewScryptIdentity(passphrase)
	if err != nil {
		return nil, err
	}
	inside, err := age.Decrypt(f, identity)
	if err != nil {
		return nil, ErrPassphrase
	}
	plain, err := os.CreateTemp(dir, ".restore-")
	if err != nil {
		return nil, fmt.Errorf("there is no room to open the backup: %w", err)
	}
	os.Remove(plain.Name()) // nobody finds it, and it is gone with us
	o.shut = append(o.shut, plain.Close)
	if _, err := io.Copy(plain, inside); err != nil {
		return nil, fmt.Errorf("the backup is damaged, or there is no room to open it: %w", err)
	}
	return plain, nil
}

// partMost bounds the small parts.
const partMost = 1 << 20

func (o *Opened) part(name string) ([]byte, error) {
	f, err := o.zip.Open(name)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	return io.ReadAll(io.LimitReader(f, partMost))
}

// Restore puts a backup's database in the place of the one at an address. The one that was there
// stands aside until the new one is whole, and comes back when it cannot be. Unless over is set, one
// that holds a house is not touched (ErrNotEmpty). Nobody else may use the database meanwhile.
func (o *Opened) Restore(ctx context.Context, address string, over bool) (err error) {
	db, err := sql.Open("pgx", address)
	if err != nil {
		return err
	}
	defer db.Close()
	if empty, err := isEmpty(ctx, db); err != nil {
		return err
	} else if !empty && !over {
		return ErrNotEmpty
	}
	if err := each(ctx, db, "DROP SCHEMA IF EXISTS before_restore CASCADE", "ALTER SCHEMA public RENAME TO before_restore", "CREATE SCHEMA public",
		"DO $$ BEGIN IF EXISTS (SELECT 1 FROM pg_extension WHERE extname = 'pg_trgm') THEN ALTER EXTENSION pg_trgm SET SCHEMA public; END IF; END $$",
		"CREATE EXTENSION IF NOT EXISTS pg_trgm SCHEMA public"); err != nil {
		return fmt.Errorf("the house there is cannot be put aside: %w", err)
	}
	defer func() {
		ctx := context.WithoutCancel(ctx)
		if err == nil {
			err = each(ctx, db, "DROP SCHEMA before_restore CASCADE")
			return
		}
		back := each(ctx, db, "DO $$ BEGIN IF EXISTS (SELECT 1 FROM pg_extension WHERE extname = 'pg_trgm') THEN ALTER EXTENSION pg_trgm SET SCHEMA before_restore; END IF; END $$",
			"DROP SCHEMA public CASCADE", "ALTER SCHEMA before_restore RENAME TO public")
		err = errors.Join(fmt.Errorf("nothing was changed: %w", err), back)
	}()
	dump, err := o.zip.Open(databasePart)
	if err != nil {
		return ErrNoBackup
	}
	defer dump.Close()
	// The schema stands already, and may not be ours to comment on.
	return program(ctx, "pg_restore", address, dump, nil, "--dbname", databaseOf(address), "--no-owner", "--no-privileges", "--exit-on-error", "--single-transaction", "--schema=public")
}

// isEmpty reports whether a database holds no house: none at all, or one that nobody ever signed in to.
func isEmpty(ctx context.Context, db *sql.DB) (bool, error) {
	var there bool
	if err := db.QueryRowContext(ctx, "SELECT to_regclass('public.sessions') IS NOT NULL AND to_regclass('public.events') IS NOT NULL").Scan(&there); err != nil {
		return false, fmt.Errorf("the database does not answer: %w", err)
	}
	if !there {
		return true, nil
	}
	var used bool
	err := db.QueryRowContext(ctx, "SELECT EXISTS (SELECT 1 FROM sessions) OR EXISTS (SELECT 1 FROM people)").Scan(&used)
	return !used, err
}

func each(ctx context.Context, db *sql.DB, statements ...string) error {
	for _, s := range statements {
		if _, err := db.ExecContext(ctx, s); err != nil {
			return err
		}
	}
	return nil
}

// environment is how PostgreSQL's programs are told where a database is.
func environment(address string) ([]string, error) {
	conf, err := pgx.ParseConfig(address)
	if err != nil {
		return nil, fmt.Errorf("the database's address cannot be read: %w", err)
	}
	out := []string{"PGHOST=" + conf.Host, fmt.Sprint("PGPORT=", conf.Port), "PGUSER=" + conf.User, "PGPASSWORD=" + conf.Password, "PGDATABASE=" + conf.Database}
	if u, err := url.Parse(address); err == nil && u.Query().Get("sslmode") != "" {
		out = append(out, "PGSSLMODE="+u.Query().Get("sslmode"))
	}
	return out, nil
}

func databaseOf(address string) string {
	conf, err := pgx.ParseConfig(address)
	if err != nil {
		return ""
	}
	return strings.TrimSpace(conf.Database)
}
