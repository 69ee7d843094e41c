package relay

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"

	"vividporch/core/place"
	"vividporch/store/jobs"
)

// files writes to files in a folder of the house's own.
type files struct{ dir string }

// tailRead is how far back it is looked whether a line stands there already, in bytes: the process may have gone down
// between writing it and noting that.
const tailRead = 64 << 10

func (f *files) carry(_ context.Context, _ *place.Place, d *jobs.Delivery) arrival {
	var line place.Line
	if err := json.Unmarshal(d.Body, &line); err != nil {
		return arrival{how: refused, why: "what is to be written cannot be read"}
	}
	if f.dir == "" {
		return arrival{how: refused, why: "this house has no folder for files"}
	}
	out := []byte(line.Text)
	if line.Record != nil {
		id, _ := json.Marshal(Key(d))
		out = append([]byte(`{"id":`), id...)
		out = append(append(out, ','), bytes.TrimPrefix(line.Record, []byte("{"))...)
	}
	if err := f.write(line.Name, out, line.Record != nil); err != nil {
		return arrival{how: broken, why: "the file cannot be written: " + plainFault(err)}
	}
	return arrival{how: taken}
}

// write adds a line to a file, and a line that is known by its id once only.
func (f *files) write(name string, line []byte, once bool) error {
	if err := os.MkdirAll(f.dir, 0o700); err != nil {
		return err
	}
	root, err := os.OpenRoot(f.dir) // a link in the folder leads nowhere else
	if err != nil {
		return err
	}
	defer root.Close()
	file, err := root.OpenFile(name, os.O_CREATE|os.O_RDWR|os.O_APPEND, 0o600)
	if err != nil {
		return err
	}
	defer file.Close()
	tail, err := tailOf(file)
	if err != nil {
		return err
	}
	if once && bytes.Contains(tail, line) {
		return nil
	}
	if len(tail) > 0 && tail[len(tail)-1] != '\n' { // a line that was cut off stays one by itself
		line = append([]byte("\n"), line...)
	}
	if _, err := file.Write(append(line, '\n')); err != nil {
		return err
	}
	return file.Sync()
}

func tailOf(f *os.File) ([]byte, error) {
	at, err := f.Seek(0, io.SeekEnd)
	if err != nil {
		return nil, err
	}
	tail := make([]byte, min(at, tailRead))
	_, err = f.ReadAt(tail, at-int64(len(tail)))
	if err == io.EOF {
		err = nil
	}
	return tail, err
}

// plainFault is why a file cannot be written, without the folder it is in.
func plainFault(err error) string {
	var path *os.PathError
	if errors.As(err, &path) {
		return fmt.Sprintf("%s: %v", filepath.Base(path.Path), path.Err)
	}
	return err.Error()
}
