package bundle_test

import (
	"archive/zip"
	"bytes"
	"errors"
	"fmt"
	"image"
	"image/png"
	"io"
	"strings"
	"testing"
	"time"

	"vividporch/core/carry"
	"vividporch/formats/bundle"
)

func picture() []byte {
	var b bytes.Buffer
	png.Encode(&b, image.NewGray(image.Rect(0, 0, 8, 6)))
	return b.Bytes()
}

var file = map[string]any{"format": 1, "madeOn": "tidepool_hours", "courtesies": []any{}}

func TestWhatGoesIntoABundleComesOutOfIt(t *testing.T) {
	var out bytes.Buffer
	w, err := bundle.NewWriter(&out, file)
	if err != nil {
		t.Fatal(err)
	}
	at := time.Date(2031, 5, 14, 19, 0, 0, 0, time.UTC)
	for _, name := range []string{"limpet.png", "a name with spaces & more.png"} {
		if err := w.Add(name, at, picture()); err != nil {
			t.Fatal(err)
		}
	}
	if err := w.Close(); err != nil {
		t.Fatal(err)
	}
	raw, files, err := bundle.Read(out.Bytes())
	if err != nil || len(files) != 2 {
		t.Fatalf("%d files, %v", len(files), err)
	}
	in, err := carry.Read(raw)
	if err != nil || in.Channel() != "tidepool_hours" {
		t.Errorf("%v %v", in, err)
	}
	if f := files[1]; f.Name != "a name with spaces & more.png" || f.Width != 8 || f.Height != 6 || !bytes.Equal(f.Data, picture()) {
		t.Errorf("%+v", f)
	}
}

// packed is a ZIP of names and contents, in their order.
func packed(t *testing.T, files ...string) []byte {
	t.Helper()
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	for i := 0; i+1 < len(files); i += 2 {
		w, err := z.Create(files[i])
		if err != nil {
			t.Fatal(err)
		}
		io.WriteString(w, files[i+1])
	}
	z.Close()
	return out.Bytes()
}

func TestABundleThatCouldDoHarmIsRefusedAtItsPlace(t *testing.T) {
	doc := `{"format":1,"courtesies":[]}`
	many := []string{"house.json", doc}
	for i := range 501 {
		many = append(many, fmt.Sprintf("media/%d.png", i), string(picture()))
	}
	for at, raw := range map[string][]byte{
		"file":                 []byte("no ZIP at all"),
		"house.json":           packed(t, "media/limpet.png", string(picture())),
		"../../etc/limpet.png": packed(t, "house.json", doc, "../../etc/limpet.png", string(picture())),
		"media/../limpet.png":  packed(t, "house.json", doc, "media/../limpet.png", string(picture())),
		"media/deep/l.png":     packed(t, "house.json", doc, "media/deep/l.png", string(picture())),
		"media/.hidden":        packed(t, "house.json", doc, "media/.hidden", string(picture())),
		"media/limpet.png":     packed(t, "house.json", doc, "media/limpet.png", string(picture()), "media/limpet.png", string(picture())),
		"media.words.png":      packed(t, "house.json", doc, "media/words.png", "only words"),
		"media":                packed(t, many...),
		"media/flood.wav":      packed(t, "house.json", doc, "media/flood.wav", strings.Repeat("0", 21<<20)), // a few kilobytes, packed
	} {
		_, files, err := bundle.Read(raw)
		var fault *bundle.Fault
		if !errors.As(err, &fault) || fault.At != at || fault.Remedy == "" || files != nil {
			t.Errorf("%s: %v, %d files", at, err, len(files))
		}
	}
	for _, bad := range []string{`{"format":9}`, `{"format":1,"turrets":[]}`, `[]`, ``} {
		if _, _, err := bundle.Read(packed(t, "house.json", bad)); err == nil || !strings.HasPrefix(err.Error(), "house.json") {
			t.Errorf("%q: %v", bad, err)
		}
	}
}
