package keeping

import (
	"context"
	"errors"
	"io"
	"net/http"
	"os"
	"strings"
	"time"

	"github.com/labstack/echo/v5"

	"vividporch/api/edge"
	"vividporch/core/event"
	"vividporch/spec"
	"vividporch/store/backup"
)

// Backups is how backups are made and brought back.
type Backups struct {
	Folder backup.Folder
	Make   func(ctx context.Context, kind backup.Kind, passphrase string) (backup.File, error)
	// Restore begins to put a backup that was opened in the place of the house, and returns the
	// token of a one-time link that signs the owner in afterwards.
	Restore func(name, passphrase string) (token string, err error)
}

var errNoBackups = errors.New("no backups are kept: the house was started without a folder for them; set PORCH_BACKUPS")

// mostBackup is how large a file may be that is brought in.
const mostBackup = 8 << 30

func (k *Keeping) backups() (*Backups, error) {
	if k.cfg.Backups == nil {
		return nil, edge.Problem(http.StatusConflict, "No backups are kept", errNoBackups.Error())
	}
	return k.cfg.Backups, nil
}

func backupView(f backup.File) spec.Backup {
	return spec.Backup{Name: f.Name, Kind: string(f.Kind), Made: f.Made, Bytes: f.Bytes}
}

// ListBackups answers GET /api/backups.
func (k *Keeping) ListBackups(c *echo.Context) error {
	out := spec.Backups{List: []spec.Backup{}}
	if k.cfg.Backups == nil {
		out.None = errNoBackups.Error()
		return c.JSON(http.StatusOK, out)
	}
	out.Folder = k.cfg.Backups.Folder.Dir
	list, err := k.cfg.Backups.Folder.List()
	if err != nil {
		return err
	}
	for _, f := range list {
		out.List = append(out.List, backupView(f))
	}
	return c.JSON(http.StatusOK, out)
}

// MakeBackup answers POST /api/backups.
func (k *Keeping) MakeBackup(c *echo.Context) error {
	var in spec.BackupIn
	if err := edge.Decode(c, &in); err != nil {
		return err
	}
	b, err := k.backups()
	if err != nil {
		return err
	}
	f, err := b.Make(c.Request().Context(), backup.ByHand, in.Passphrase)
	if err != nil {
		return edge.Problem(http.StatusInsufficientStorage, "The backup was not made", err.Error())
	}
	return c.JSON(http.StatusOK, backupView(f))
}

// GetBackup answers GET /api/backups/file.
func (k *Keeping) GetBackup(c *echo.Context, p spec.GetBackupParams) error {
	b, err := k.backups()
	if err != nil {
		return err
	}
	path, ok := b.Folder.Path(p.Name)
	if _, err := os.Stat(path); !ok || err != nil {
		return edge.Problem(http.StatusNotFound, "There is no such backup", "The last seven of each kind are kept; reload the page.")
	}
	c.Response().Header().Set("Content-Disposition", `attachment; filename="`+p.Name+`"`)
	c.Response().Header().Set("Cache-Control", "no-store")
	http.ServeFile(c.Response(), c.Request(), path)
	return nil
}

// BringBackup answers PUT /api/backups/file.
func (k *Keeping) BringBackup(c *echo.Context) error {
	b, err := k.backups()
	if err != nil {
		return err
	}
	if err := os.MkdirAll(b.Folder.Dir, 0o700); err != nil {
		return err
	}
	path := b.Folder.New(backup.Brought, time.Now())
	f, err := os.OpenFile(path+".part", os.O_WRONLY|os.O_CREATE|os.O_TRUNC, 0o600)
	if err != nil {
		return err
	}
	n, err := io.Copy(f, io.LimitReader(c.Request().Body, mostBackup))
	if err := errors.Join(err, f.Sync(), f.Close()); err != nil {
		os.Remove(path + ".part")
		return edge.Problem(http.StatusInsufficientStorage, "The file did not come in whole", err.Error())
	}
	// One with a passphrase is looked into when it is restored.
	if o, err := backup.Open(path+".part", ""); err == nil {
		o.Close()
	} else if !errors.Is(err, backup.ErrLocked) {
		os.Remove(path + ".part")
		return edge.Problem(http.StatusUnprocessableEntity, "This is no backup", err.Error())
	}
	if err := os.Rename(path+".part", path); err != nil {
		return err
	}
	if err := b.Folder.Prune(backup.Brought); err != nil {
		return err
	}
	at := strings.LastIndexByte(path, os.PathSeparator)
	return c.JSON(http.StatusOK, spec.Backup{Name: path[at+1:], Kind: string(backup.Brought), Made: time.Now(), Bytes: n})
}

// RestoreBackup answers POST /api/backups/restore.
func (k *Keeping) RestoreBackup(c *echo.Context) error {
	var in spec.RestoreIn
	if err := edge.Decode(c, &in); err != nil {
		return err
	}
	b, err := k.backups()
	if err != nil {
		return err
	}
	if channel := k.house.Plan().Whole.Channel; !strings.EqualFold(strings.TrimSpace(in.Word), channel) {
		return &event.FieldError{Field: "word", Remedy: "write the channel's name, " + channel + ": the house there is now goes, and a backup of it is kept"}
	}
	path, ok := b.Folder.Path(in.Name)
	if !ok {
		return edge.Problem(http.StatusNotFound, "There is no such backup", "Reload the page.")
	}
	o, err := backup.Open(path, in.Passphrase)
	switch {
	case errors.Is(err, backup.ErrLocked), errors.Is(err, backup.ErrPassphrase):
		return &event.FieldError{Field: "passphrase", Remedy: err.Error()}
	case err != nil:
		return edge.Problem(http.StatusUnprocessableEntity, "This backup cannot be restored", err.Error())
	}
	o.Close()
	token, err := b.Restore(in.Name, in.Passphrase)
	if err != nil {
		return err
	}
	return c.JSON(http.StatusOK, spec.Restoring{Enter: "/enter/" + token})
}
