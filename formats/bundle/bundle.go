// Package bundle reads and writes a house file with the shelf beside it: a ZIP that
// holds house.json, and media/ with one file each. A bundle is read whole before
// anything of it is used, and what it says of its own sizes is not believed.
package bundle

import (
	"archive/zip"
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"path"
	"slices"
	"time"

	"vividporch/core/carry"
	"vividporch/formats/media"
)

// Limits of a bundle.
const (
	Most      = 150 << 20 // bytes, packed and unpacked alike
	mostFiles = 500
)

// File is one of the shelf's.
type File struct {
	Name string
	media.Info
	Data []byte
}

// Fault says which file of a bundle cannot be taken, and what to do.
type Fault struct{ At, Remedy string }

func (f *Fault) Error() string { return f.At + " " + f.Remedy }

// Read reads a bundle: its house file as it stands, and its media. The error is a
// *Fault.
func Read(raw []byte) (houseFile []byte, files []File, err error) {
	no := func(at, remedy string, args ...any) ([]byte, []File, error) {
		return nil, nil, &Fault{at, fmt.Sprintf(remedy, args...)}
	}
	z, err := zip.NewReader(bytes.NewReader(raw), int64(len(raw)))
	if err != nil {
		return no("file", "is no ZIP: %v", err)
	}
	left := Most
	for _, f := range z.File {
		if f.FileInfo().IsDir() {
			continue
		}
		dir, name := path.Split(f.Name)
		most := media.Most
		switch {
		case f.Name == "house.json":
			most = carry.Most
		case dir != "media/":
			return no(f.Name, "does not belong in a bundle; it holds house.json and media/")
		}
		most = min(most, left)
		data, err := unpacked(f, most)
		if err != nil {
			return no(f.Name, "cannot be unpacked: %v", err)
		}
		if len(data) > most {
			return no(f.Name, "is too big; a file has at most %d MB, all together %d", media.Most>>20, Most>>20)
		}
		left -= len(data)
		if f.Name == "house.json" {
			houseFile = data
			continue
		}
		if err := media.CheckName(name); err != nil {
			return no(f.Name, "%v", err)
		}
		if slices.ContainsFunc(files, func(o File) bool { return o.Name == name }) {
			return no(f.Name, "stands twice in the bundle")
		}
		info, err := media.Read(data)
		if err != nil {
			return no("media."+name, "%v", err)
		}
		if files = append(files, File{name, info, data}); len(files) > mostFiles {
			return no("media", "holds more than %d files", mostFiles)
		}
	}
	if houseFile == nil {
		return no("house.json", "is missing")
	}
	if _, err := carry.Read(houseFile); err != nil {
		return no("house.json", "%v", err)
	}
	return houseFile, files, nil
}

// unpacked reads at most one byte more than a file may have.
func unpacked(f *zip.File, most int) ([]byte, error) {
	in, err := f.Open()
	if err != nil {
		return nil, err
	}
	defer in.Close()
	return io.ReadAll(io.LimitReader(in, int64(most)+1))
}

// Writer writes a bundle.
type Writer struct{ z *zip.Writer }

// NewWriter begins a bundle with its house file, or a part of one.
func NewWriter(out io.Writer, houseFile any) (*Writer, error) {
	w := &Writer{zip.NewWriter(out)}
	f, err := w.z.Create("house.json")
	if err != nil {
		return nil, err
	}
	enc := json.NewEncoder(f)
	enc.SetEscapeHTML(false)
	enc.SetIndent("", "  ")
	return w, enc.Encode(houseFile)
}

// Add puts a file of the shelf in. Media are packed already, and are stored as they are.
func (w *Writer) Add(name string, at time.Time, data []byte) error {
	f, err := w.z.CreateHeader(&zip.FileHeader{Name: "media/" + name, Method: zip.Store, Modified: at})
	if err != nil {
		return err
	}
	_, err = f.Write(data)
	return err
}

// Close ends the bundle.
func (w *Writer) Close() error { return w.z.Close() }
