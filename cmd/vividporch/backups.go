package main

import (
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"time"

	"github.com/spf13/cobra"

	"vividporch/api"
	"vividporch/api/keeping"
	"vividporch/porch"
	"vividporch/store"
	"vividporch/store/backup"
	"vividporch/store/forget"
	"vividporch/store/log"
	"vividporch/store/pg"
	"vividporch/store/tables"
)

// folder is where backups are kept: where PORCH_BACKUPS says, else beside the key.
func (o *options) folder() backup.Folder {
	dir := o.backups
	if dir == "" && os.Getenv("PORCH_KEY") == "" {
		if file, err := o.key(); err == nil {
			dir = filepath.Join(filepath.Dir(file), "backups")
		}
	}
	return backup.Folder{Dir: dir}
}

// source is a house that can be written.
func (o *options) source(st *store.Store) (backup.Source, error) {
	key, err := o.readKey()
	return backup.Source{Base: pg.Base{DB: st.DB, SQL: st.SQL}, URL: o.database, Key: key}, err
}

// backingUp has one backup made at a time: two within a second would have the same name.
var backingUp sync.Mutex

// backUp makes a backup into the folder, and takes away those of its kind that are too many.
func (o *options) backUp(ctx context.Context, st *store.Store, kind backup.Kind, passphrase string) (backup.File, error) {
	backingUp.Lock()
	defer backingUp.Unlock()
	src, err := o.source(st)
	if err != nil {
		return backup.File{}, err
	}
	f := o.folder()
	now := time.Now()
	path := f.New(kind, now)
	if err := backup.Make(ctx, src, path, passphrase, now); err != nil {
		return backup.File{}, err
	}
	info, err := os.Stat(path)
	if err != nil {
		return backup.File{}, err
	}
	return backup.File{Name: filepath.Base(path), Kind: kind, Made: now, Bytes: info.Size()}, f.Prune(kind)
}

// nightly makes a backup each night while the house is not live.
func (o *options) nightly(ctx context.Context, h *porch.House, st *store.Store) {
	f := o.folder()
	if f.Dir == "" {
		return
	}
	for {
		select {
		case <-ctx.Done():
			return
		case <-time.After(time.Minute):
		}
		list, err := f.List()
		if err != nil {
			o.log().Error("the backups cannot be looked at", "error", err)
			continue
		}
		live, err := h.Live(ctx)
		if err != nil || !backup.Due(list, time.Now(), h.Plan().Zone, live) {
			continue
		}
		if _, err := o.backUp(ctx, st, backup.Night, ""); err != nil {
			o.log().Error("tonight's backup was not made", "error", err)
		}
	}
}

// restoring is a backup that is to be put in the place of the house.
type restoring struct{ file, passphrase, token string }

// bring puts a backup in the place of the house, which is closed. No other process can open it
// meanwhile.
func (o *options) bring(ctx context.Context, r restoring, over bool) error {
	b, err := backup.Open(r.file, r.passphrase)
	if err != nil {
		return err
	}
	defer b.Close()
	st, err := store.Open(ctx, o.database)
	if err != nil {
		return err
	}
	defer st.Close()
	locks := map[int64]*log.Ownership{}
	defer func() {
		for _, l := range locks {
			l.Release()
		}
	}()
	if err := lockAll(ctx, st, locks); err != nil {
		return err
	}
	for _, name := range b.Head.Channels { // before anything is touched: nobody may come back by a backup
		if _, err := o.folder().ForgottenSince(name, b.Head.Made); err != nil {
			return err
		}
	}
	if err := b.Restore(ctx, o.database, over); err != nil {
		return err
	}
	if err := st.Migrate(ctx); err != nil {
		return err
	}
	if err := lockAll(ctx, st, locks); err != nil {
		return err
	}
	now, err := o.readKey()
	if err != nil {
		return err
	}
	// The secrets are kept under the key there is here from now on.
	if err := st.Safe.Rekey(ctx, b.Key, now); err != nil {
		return err
	}
	if err := st.Members.EndAll(ctx); err != nil {
		return err
	}
	if err := st.Moving.HoldAll(ctx); err != nil {
		return err
	}
	if err := o.forgetAgain(ctx, st, b.Head, locks); err != nil {
		return err
	}
	if r.token == "" {
		return nil
	}
	id, err := o.channelOf(ctx, st)
	if err != nil {
		return err
	}
	owner, err := st.Members.Owner(ctx, id, o.owner)
	if err != nil {
		return err
	}
	return st.Members.AddSignIn(ctx, tables.SignIn{Hash: api.Hash(r.token), Member: owner.ID, Expires: time.Now().Add(time.Hour)})
}

// lockAll locks every channel of a database that is not locked yet.
func lockAll(ctx context.Context, st *store.Store, locks map[int64]*log.Ownership) error {
	names, err := st.Channels(ctx)
	if err != nil {
		return err
	}
	for _, name := range names {
		id, err := st.Channel(ctx, name)
		if err != nil {
			return err
		}
		if locks[id] != nil {
			continue
		}
		l, err := st.Log.Lock(ctx, id)
		if err != nil {
			return fmt.Errorf("the house of %s is running: stop it first, or restore from its House: %w", name, err)
		}
		locks[id] = l
	}
	return nil
}

// forgetAgain forgets whom the house had forgotten since the backup was made.
func (o *options) forgetAgain(ctx context.Context, st *store.Store, head backup.Head, locks map[int64]*log.Ownership) error {
	for _, name := range head.Channels {
		since, err := o.folder().ForgottenSince(name, head.Made)
		if err != nil {
			return err
		}
		if len(since) == 0 {
			continue
		}
		id, err := st.Channel(ctx, name)
		if err != nil {
			return err
		}
		persons, err := st.Privacy.PersonsOf(ctx, id, func(key string) bool { return since[forget.Digest(key)] })
		if err != nil {
			return err
		}
		if len(persons) == 0 {
			continue
		}
		doc, err := o.defaults()
		if err != nil {
			return err
		}
		h, stop, err := porch.Start(ctx, porch.Config{Store: st, Channel: name, Defaults: doc, Owner: locks[id], Shut: true, Log: o.log()})
		delete(locks, id) // it is the house's to give back
		if err != nil {
			return err
		}
		for _, p := range persons {
			err = errors.Join(err, h.Desk.Forget(ctx, "a restore", p))
		}
		stop()
		if err != nil {
			return err
		}
	}
	return nil
}

// keeps are the backups as House makes them and brings them back; nil where there is no folder.
func (o *options) keeps(st *store.Store, restore chan<- restoring) *keeping.Backups {
	f := o.folder()
	if f.Dir == "" {
		return nil
	}
	return &keeping.Backups{Folder: f,
		Make: func(ctx context.Context, kind backup.Kind, passphrase string) (backup.File, error) {
			return o.backUp(ctx, st, kind, passphrase)
		},
		Restore: func(name, passphrase string) (string, error) {
			path, ok := f.Path(name)
			if !ok {
				return "", fmt.Errorf("%q is no backup", name)
			}
			r := restoring{path, passphrase, rand.Text()}
			select {
			case restore <- r:
				return r.token, nil
			default:
				return "", errors.New("a backup is being restored already")
			}
		}}
}

func backupCommand() *cobra.Command {
	var o options
	c := &cobra.Command{Use: "backup [FILE]", Short: "Write the whole house into one file", Args: cobra.MaximumNArgs(1),
		Long: "The house may be running. Without FILE it goes into the folder of backups. PORCH_PASSPHRASE encrypts it. The file holds the key to all\nsecrets: whoever has it, and knows the passphrase, has the house.",
		RunE: func(c *cobra.Command, args []string) error {
			if err := o.check(); err != nil {
				return err
			}
			st, err := o.open(c.Context())
			if err != nil {
				return err
			}
			defer st.Close()
			if len(args) == 0 {
				if o.folder().Dir == "" {
					return errors.New("there is no folder for backups: name a FILE, or set PORCH_BACKUPS")
				}
				f, err := o.backUp(c.Context(), st, backup.ByHand, os.Getenv("PORCH_PASSPHRASE"))
				if err == nil {
					fmt.Fprintf(c.OutOrStdout(), "The house is in %s\n", filepath.Join(o.folder().Dir, f.Name))
				}
				return err
			}
			src, err := o.source(st)
			if err != nil {
				return err
			}
			if err := backup.Make(c.Context(), src, args[0], os.Getenv("PORCH_PASSPHRASE"), time.Now()); err != nil {
				return err
			}
			fmt.Fprintf(c.OutOrStdout(), "The house is in %s\n", args[0])
			return nil
		}}
	o.flags(c)
	return c
}

func restoreCommand() *cobra.Command {
	var o options
	var over bool
	c := &cobra.Command{Use: "restore FILE", Short: "Put a backup in the place of the house", Args: cobra.ExactArgs(1),
		Long: "The house must not be running. Where one is there already, --over puts the backup in its place; a backup of what was there is made first.\nPORCH_PASSPHRASE opens one that has a passphrase. The house then holds still until its owner says go, and everybody signs in anew.",
		RunE: func(c *cobra.Command, args []string) error {
			if err := o.check(); err != nil {
				return err
			}
			ctx := c.Context()
			st, err := o.open(ctx)
			if err != nil {
				return err
			}
			defer st.Close()
			names, err := st.Channels(ctx)
			if err != nil {
				return err
			}
			r := restoring{file: args[0], passphrase: os.Getenv("PORCH_PASSPHRASE")}
			b, err := backup.Open(r.file, r.passphrase) // before anything is touched
			if err != nil {
				return err
			}
			b.Close()
			if over && o.folder().Dir != "" && len(names) > 0 {
				if _, err := o.backUp(ctx, st, backup.Before, ""); err != nil {
					return err
				}
			}
			if err := o.bring(ctx, r, over); err != nil {
				if errors.Is(err, backup.ErrNotEmpty) {
					return fmt.Errorf("%w: --over", err)
				}
				return err
			}
			fmt.Fprintf(c.OutOrStdout(), "The house of %s is back, as of %s. It holds still until its owner says go.\n", strings.Join(b.Head.Channels, ", "), b.Head.Made.Local().Format("2 January 2006, 15:04"))
			return nil
		}}
	o.flags(c)
	c.Flags().BoolVar(&over, "over", false, "put the backup in the place of a house that is there")
	return c
}
