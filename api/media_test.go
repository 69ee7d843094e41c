package api_test

import (
	"archive/zip"
	"bytes"
	"encoding/json"
	"image"
	"image/png"
	"io"
	"net/http"
	"slices"
	"strings"
	"testing"

	"vividporch/core/courtesy"
	"vividporch/core/house"
	"vividporch/porch/porchtest"
	"vividporch/spec"
)

func picture() []byte {
	var b bytes.Buffer
	png.Encode(&b, image.NewGray(image.Rect(0, 0, 40, 30)))
	return b.Bytes()
}

// send sends a file as it is and reads the answer as JSON.
func upload(t *testing.T, b *porchtest.Boat, path string, data []byte, out any) int {
	t.Helper()
	req, err := http.NewRequest("POST", b.Server.URL+path, bytes.NewReader(data))
	if err != nil {
		t.Fatal(err)
	}
	req.Header.Set("X-Porch-Token", b.Token)
	res, err := b.Client.Do(req)
	if err != nil {
		t.Fatal(err)
	}
	defer res.Body.Close()
	body, _ := io.ReadAll(res.Body)
	if err := json.Unmarshal(body, out); err != nil {
		t.Fatalf("%d %s", res.StatusCode, body)
	}
	return res.StatusCode
}

func fetched(t *testing.T, b *porchtest.Boat, path string) ([]byte, http.Header) {
	t.Helper()
	res, err := b.Client.Get(b.Server.URL + path)
	if err != nil {
		t.Fatal(err)
	}
	defer res.Body.Close()
	body, _ := io.ReadAll(res.Body)
	return body, res.Header
}

func TestTheShelfTakesWhatAFileIsAndRefusesWhatItOnlySeems(t *testing.T) {
	b := porchtest.Launch(t, func(s *house.Settings) {
		s.Courtesy = append(s.Courtesy, courtesy.Courtesy{ID: "shown", On: true, When: "porch.raid.came", Do: []courtesy.Output{{ID: "card", Kind: courtesy.Card, Alternatives: []string{"{name}"}, Media: "limpet.png"}}})
	})
	b.SignIn()
	var m spec.Medium
	if s := upload(t, b, "/api/media?name=limpet.png", picture(), &m); s != 201 || m.Type != "image/png" || m.Width != 40 || m.Kind != "picture" {
		t.Errorf("%d %+v", s, m)
	}
	body, h := fetched(t, b, "/api/media/limpet.png")
	if !bytes.Equal(body, picture()) || h.Get("Content-Type") != "image/png" || !strings.Contains(h.Get("Content-Security-Policy"), "sandbox") || h.Get("X-Content-Type-Options") != "nosniff" {
		t.Errorf("%d bytes, %v", len(body), h)
	}
	for _, bad := range []struct {
		name, field string
		status      int
		data        []byte
	}{
		{"limpet.png", "media.limpet.png", 422, []byte("<html>not a limpet</html>")},
		{"drawing.svg", "media.drawing.svg", 422, []byte(`<svg><script>1</script></svg>`)},
		{"..%2Fetc", "name", 422, picture()},
		{"huge.wav", "", 413, make([]byte, 21<<20)},
	} {
		var p spec.Problem
		if s := upload(t, b, "/api/media?name="+bad.name, bad.data, &p); s != bad.status || p.Field != bad.field || p.Detail == "" {
			t.Errorf("%s: %d %+v", bad.name, s, p)
		}
	}
	// Two hundred megabytes are refused by what is announced, before they are read.
	req, _ := http.NewRequest("POST", b.Server.URL+"/api/media?name=film.webm", http.NoBody)
	req.Header.Set("X-Porch-Token", b.Token)
	req.Body, req.ContentLength = io.NopCloser(io.LimitReader(zeros{}, 200<<20)), 200<<20
	if res, err := b.Client.Do(req); err == nil {
		if res.Body.Close(); res.StatusCode != 413 {
			t.Errorf("200 MB: %d", res.StatusCode)
		}
	}
	var p spec.Problem
	if s := b.Do("DELETE", "/api/media/limpet.png", nil, &p); s != 409 || !strings.Contains(p.Detail, "shown") {
		t.Errorf("%d %+v", s, p)
	}
	var shelf spec.Shelf
	if s := b.Do("GET", "/api/media", nil, &shelf); s != 200 || len(shelf.Items) != 1 || shelf.Items[0].Name != "limpet.png" {
		t.Errorf("%d %+v", s, shelf)
	}
}

type zeros struct{}

func (zeros) Read(p []byte) (int, error) { clear(p); return len(p), nil }

func TestAWholeHouseWithItsMediaMovesIntoAnEmptyOne(t *testing.T) {
	from := porchtest.Launch(t, func(s *house.Settings) {
		s.Courtesy = append(s.Courtesy, courtesy.Courtesy{ID: "shown", On: true, When: "porch.raid.came", Do: []courtesy.Output{{ID: "card", Kind: courtesy.Card, Alternatives: []string{"{name}"}, Media: "limpet.png"}}})
	})
	from.SignIn()
	var m spec.Medium
	upload(t, from, "/api/media?name=limpet.png", picture(), &m)
	bundle, h := fetched(t, from, "/api/settings/bundle")
	if h.Get("Content-Type") != "application/zip" {
		t.Fatal(h)
	}

	to := porchtest.Launch(t, func(s *house.Settings) { s.Courtesy, s.FillIns, s.Emotes, s.Own = nil, nil, nil, nil })
	to.SignIn()
	var read spec.Bundle
	if s := upload(t, to, "/api/settings/bundle", bundle, &read); s != 200 || !slices.Equal(read.Media, []string{"limpet.png"}) {
		t.Fatalf("%d %+v", s, read)
	}
	var look spec.HouseFileLook
	if s := to.Do("POST", "/api/settings/file", spec.HouseFileIn{File: read.File, Sections: []string{"courtesies", "fillIns", "emotes", "own"}}, &look); s != 200 || len(look.Faults) > 0 || len(look.Missing) > 0 {
		t.Fatalf("%d %+v", s, look)
	}
	var in spec.InForce
	if s := to.Do("PUT", "/api/settings/file", spec.HouseFileIn{File: read.File, Sections: []string{"courtesies", "fillIns", "emotes", "own"}}, &in); s != 200 {
		t.Fatal(s)
	}
	before, _ := json.Marshal(from.House.Plan().Settings.Courtesy)
	after, _ := json.Marshal(to.House.Plan().Settings.Courtesy)
	if !bytes.Equal(before, after) {
		t.Error("the courtesies are not the same")
	}
	if body, _ := fetched(t, to, "/api/media/limpet.png"); !bytes.Equal(body, picture()) {
		t.Error("the picture did not travel along")
	}
}

func TestABundleWithOneBadFilePutsNothingOnTheShelf(t *testing.T) {
	b := porchtest.Launch(t)
	b.SignIn()
	raw, _ := json.Marshal(b.House.Plan().Settings)
	packed := func(files map[string][]byte, order ...string) []byte {
		var out bytes.Buffer
		z := zip.NewWriter(&out)
		for _, name := range order {
			w, _ := z.Create(name)
			w.Write(files[name])
		}
		z.Close()
		return out.Bytes()
	}
	files := map[string][]byte{"house.json": raw, "media/limpet.png": picture(), "media/bad.svg": []byte(`<svg><script/></svg>`), "../outside.png": picture(), "media/huge.wav": make([]byte, 21<<20), "notes.txt": nil}
	for field, order := range map[string][]string{
		"media.bad.svg":  {"house.json", "media/limpet.png", "media/bad.svg"},
		"../outside.png": {"house.json", "media/limpet.png", "../outside.png"},
		"media/huge.wav": {"house.json", "media/limpet.png", "media/huge.wav"},
		"notes.txt":      {"house.json", "notes.txt"},
		"house.json":     {"media/limpet.png"},
	} {
		var p spec.Problem
		if s := upload(t, b, "/api/settings/bundle", packed(files, order...), &p); s != 422 || p.Field != field {
			t.Errorf("%s: %d %+v", field, s, p)
		}
	}
	var p spec.Problem
	if s := upload(t, b, "/api/settings/bundle", []byte("no zip"), &p); s != 422 || p.Field != "file" {
		t.Errorf("%d %+v", s, p)
	}
	var shelf spec.Shelf
	if b.Do("GET", "/api/media", nil, &shelf); len(shelf.Items) != 0 {
		t.Errorf("half of a bundle was kept: %+v", shelf.Items)
	}
}
