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
	"time"

	"vividporch/core/box"
	"vividporch/core/carry"
	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/core/who"
	"vividporch/porchtest"
	"vividporch/spec"
)

func picture() []byte {
	var b bytes.Buffer
	png.Encode(&b, image.NewGray(image.Rect(0, 0, 40, 30)))
	return b.Bytes()
}

// upload posts a file as it is and reads the answer as JSON.
func upload(t *testing.T, b *porchtest.Boat, path string, data []byte, out any) int {
	t.Helper()
	return sent(t, b, "POST", path, data, out)
}

// put puts a file, likewise; what is answered may be passed over.
func put(t *testing.T, b *porchtest.Boat, path string, data []byte, out any) int {
	t.Helper()
	return sent(t, b, "PUT", path, data, out)
}

func sent(t *testing.T, b *porchtest.Boat, method, path string, data []byte, out any) int {
	t.Helper()
	req, err := http.NewRequest(method, b.Server.URL+path, bytes.NewReader(data))
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
	if out == nil {
		return res.StatusCode
	}
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
	b := porchtest.Launch(t, func(s *housefile.Settings) {
		s.Courtesy = append(s.Courtesy, courtesy.Courtesy{ID: "shown", On: true, When: "porch.raid.came", Do: []output.Output{{ID: "card", Do: &output.Card{Media: "limpet.png"}, Alternatives: []string{"{name}"}}}})
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

func TestAFileThatWasTakenOffTheShelfIsPutBackUntilItsNameIsAnothersOrADayIsOver(t *testing.T) {
	b := porchtest.Launch(t)
	b.SignIn()
	bring := func(data []byte) {
		t.Helper()
		if s := upload(t, b, "/api/media?name=limpet.png", data, nil); s != 201 {
			t.Fatal(s)
		}
	}
	does := func(do, at string, want int) {
		t.Helper()
		if s := b.Do(do, "/api/media/limpet.png"+at, nil, nil); s != want {
			t.Errorf("%s %s: %d, not %d", do, at, s, want)
		}
	}
	there := func(want int) {
		t.Helper()
		var shelf spec.Shelf
		if b.Do("GET", "/api/media", nil, &shelf); len(shelf.Items) != want {
			t.Errorf("%+v", shelf.Items)
		}
		if want == 1 && len(get(t, b.Client, b.Server.URL+"/api/media/limpet.png")) == 0 {
			t.Error("it has no content")
		}
	}
	bring(picture())
	does("DELETE", "", 204)
	there(0)
	does("GET", "", 404)
	does("POST", "/back", 204)
	there(1)
	does("POST", "/back", 404)
	does("DELETE", "", 204)
	bring(picture())
	does("POST", "/back", 404)
	there(1)
	does("DELETE", "", 204)
	for _, prune := range []struct {
		after time.Duration
		left  int
	}{{-time.Minute, 1}, {time.Minute, 0}} {
		if err := b.Store.Shelf.Prune(t.Context(), b.House.ID, b.House.Clock().Add(prune.after)); err != nil {
			t.Fatal(err)
		}
		var left int
		if err := b.Store.SQL.QueryRow("SELECT count(*) FROM media WHERE channel = $1", b.House.ID).Scan(&left); err != nil || left != prune.left {
			t.Errorf("of those taken off before %v from now %d are left, not %d: %v", prune.after, left, prune.left, err)
		}
	}
}

type zeros struct{}

func (zeros) Read(p []byte) (int, error) { clear(p); return len(p), nil }

func TestAWholeHouseWithItsMediaMovesIntoAnEmptyOne(t *testing.T) {
	from := porchtest.Launch(t, func(s *housefile.Settings) {
		s.Courtesy = append(s.Courtesy, courtesy.Courtesy{ID: "shown", On: true, When: "porch.raid.came", Do: []output.Output{{ID: "card", Do: &output.Card{Media: "limpet.png"}, Alternatives: []string{"{name}"}}}})
		for i := range s.Overlays[0].Boxes {
			if cards, ok := s.Overlays[0].Boxes[i].Do.(*box.Cards); ok {
				cards.Without, cards.Picture = "picture", "low-water.png"
			}
		}
	})
	from.SignIn()
	var m spec.Medium
	upload(t, from, "/api/media?name=limpet.png", picture(), &m)
	bundle, h := fetched(t, from, "/api/settings/bundle")
	if h.Get("Content-Type") != "application/zip" {
		t.Fatal(h)
	}

	to := porchtest.Launch(t, func(s *housefile.Settings) { s.Courtesy, s.FillIns, s.Emotes, s.Own = nil, nil, nil, nil })
	to.SignIn()
	var read spec.Bundle
	if s := upload(t, to, "/api/settings/bundle", bundle, &read); s != 200 || len(read.Media) != 1 || read.Media[0].Name != "limpet.png" || read.Media[0].Shelf != spec.BundledMediumShelfLacking {
		t.Fatalf("%d %+v", s, read)
	}
	var look spec.HouseFileLook
	sections := []string{"courtesies", "fillIns", "emotes", "own"}
	if s := to.Do("POST", "/api/settings/file", spec.HouseFileIn{File: read.File, Sections: sections}, &look); s != 200 || len(look.Faults) > 0 || !slices.Equal(look.Missing, []string{"limpet.png is not on the shelf"}) {
		t.Fatalf("%d %+v", s, look)
	}
	if to.Do("POST", "/api/settings/file", spec.HouseFileIn{File: read.File, Sections: append(slices.Clone(sections), "overlays"), Along: []string{"limpet.png"}}, &look); !slices.Equal(look.Missing, []string{"low-water.png is not on the shelf"}) {
		t.Errorf("what a box shows is missing, and it is said: %+v", look.Missing)
	}
	if to.Do("POST", "/api/settings/file", spec.HouseFileIn{File: read.File, Sections: sections, Along: []string{"limpet.png"}}, &look); len(look.Missing) > 0 {
		t.Errorf("what comes along is missing: %+v", look.Missing)
	}
	if _, err := to.Store.Shelf.Named(t.Context(), to.House.ID, "limpet.png"); err == nil {
		t.Error("looking put the picture on the shelf")
	}
	var in spec.InForce
	if s := put(t, to, "/api/settings/bundle?sections="+strings.Join(sections, ","), bundle, &in); s != 200 || in.Version < 2 {
		t.Fatalf("%d %+v", s, in)
	}
	before, _ := json.Marshal(from.House.Plan().Settings.Courtesy)
	after, _ := json.Marshal(to.House.Plan().Settings.Courtesy)
	if !bytes.Equal(before, after) {
		t.Error("the courtesies are not the same")
	}
	if body, _ := fetched(t, to, "/api/media/limpet.png"); !bytes.Equal(body, picture()) {
		t.Error("the picture did not travel along")
	}
	if upload(t, to, "/api/settings/bundle", bundle, &read); read.Media[0].Shelf != spec.BundledMediumShelfSame {
		t.Errorf("%+v", read.Media)
	}
	var other spec.Medium
	upload(t, to, "/api/media?name=limpet.png", []byte(`<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"/>`), &other)
	if upload(t, to, "/api/settings/bundle", bundle, &read); read.Media[0].Shelf != spec.BundledMediumShelfOther {
		t.Errorf("another picture of the same name: %+v", read.Media)
	}
}

func TestABundleWhoseHouseFileCannotComeIntoForcePutsNothingOnTheShelf(t *testing.T) {
	b := porchtest.Launch(t)
	b.SignIn()
	file := `{"format":1,"madeOn":"other","courtesies":[{"id":"shown","on":true,"when":"arrival","do":[{"id":"card","kind":"card","alternatives":["{nobody}"],"media":"limpet.png"}]}]}`
	raw := packed(map[string][]byte{"house.json": []byte(file), "media/limpet.png": picture()}, "house.json", "media/limpet.png")
	var p spec.Problem
	if s := put(t, b, "/api/settings/bundle", raw, &p); s != 422 || len(p.Faults) != 1 || !strings.Contains(p.Faults[0].What, "nobody") {
		t.Fatalf("%d %+v", s, p)
	}
	var shelf spec.Shelf
	if b.Do("GET", "/api/media", nil, &shelf); len(shelf.Items) != 0 {
		t.Errorf("half of it was taken: %+v", shelf.Items)
	}
}

func TestACrewTravelsWithItsCourtesiesTheirPicturesAndItsPeople(t *testing.T) {
	crew := func(s *housefile.Settings) {
		card := func(id, media string, who who.Who) courtesy.Courtesy {
			return courtesy.Courtesy{ID: id, On: true, When: happening.Arrival, Slot: happening.Greeting, Who: who, Do: []output.Output{{ID: "card", Do: &output.Card{Media: media}, Alternatives: []string{"{name}"}}}}
		}
		s.Courtesy = append(s.Courtesy, card("low-water", "limpet.png", who.Who{Crews: &who.Crews{In: "any", Of: []string{"low-water-league"}}}), card("others", "other.png", who.Who{}))
	}
	from := porchtest.Launch(t, crew)
	from.SignIn()
	var m spec.Medium
	for _, name := range []string{"limpet.png", "other.png"} {
		upload(t, from, "/api/media?name="+name, picture(), &m)
	}
	from.Do("PUT", "/api/book/crews", spec.Crew{Name: "Low Water League", Emblem: event.Emblems[1]}, nil)
	var got spec.Understood
	if s := from.Do("POST", "/api/book/crews/low-water-league/list", spec.PastedList{Text: "quayside:kelpwright quayside:limpet_lena", Take: true}, &got); s != 200 || got.Fresh != 2 {
		t.Fatalf("%d %+v", s, got)
	}
	from.Do("PUT", "/api/book/crews", spec.Crew{Name: "Quiet Moths", Emblem: event.Emblems[2]}, nil)
	for query, want := range map[string]string{"crew=quiet-moths": "quiet-moths", "crew=nobody-knows": ""} { // nothing is for them yet
		raw, _ := fetched(t, from, "/api/settings/file?"+query)
		var part carry.File
		if err := json.Unmarshal(raw, &part); err != nil || part.MadeOn != "tidepool_hours" || part.Settings.Channel != "" || len(part.Settings.Courtesy) != 0 {
			t.Fatalf("%s gave more than its part: %v %.300s", query, err, raw)
		}
		if want == "" && len(part.Crews) > 0 || want != "" && (len(part.Crews) != 1 || part.Crews[0].ID != want) {
			t.Errorf("%s: %+v", query, part.Crews)
		}
	}
	bundle, _ := fetched(t, from, "/api/settings/bundle?crew=low-water-league")

	to := porchtest.Launch(t)
	to.SignIn()
	var read spec.Bundle
	if s := upload(t, to, "/api/settings/bundle", bundle, &read); s != 200 || len(read.Media) != 1 || read.Media[0].Name != "limpet.png" {
		t.Fatalf("%d %+v", s, read)
	}
	var look spec.HouseFileLook
	if s := to.Do("POST", "/api/settings/file", spec.HouseFileIn{File: read.File, Along: []string{"limpet.png"}}, &look); s != 200 || len(look.Missing) > 0 || !slices.Equal(look.Holds, []string{"courtesies", "crews"}) || !slices.ContainsFunc(look.Differences, func(d spec.Difference) bool {
		return d.At == "crews.low-water-league" && d.After == "Low Water League: quayside:kelpwright, quayside:limpet_lena"
	}) {
		t.Fatalf("%+v %s", look, read.File)
	}
	if s := put(t, to, "/api/settings/bundle", bundle, nil); s != 200 {
		t.Fatal(s)
	}
	people, err := to.Store.Book.CrewLogins(t.Context(), to.House.ID, "low-water-league")
	if err != nil || !slices.Equal(people, []string{"quayside:kelpwright", "quayside:limpet_lena"}) {
		t.Errorf("%v %v", people, err)
	}
	if to.Do("POST", "/api/settings/file", spec.HouseFileIn{File: read.File}, &look); len(look.Differences) != 0 {
		t.Errorf("taken in, and yet it differs: %+v", look.Differences)
	}
	// Once more with one person more: the crew keeps its name here and gains them.
	grown := strings.Replace(strings.Replace(read.File, `"quayside:limpet_lena"`, `"quayside:limpet_lena", "quayside:mossy_mare"`, 1), `"Low Water League"`, `"League of theirs"`, 1)
	to.Do("POST", "/api/settings/file", spec.HouseFileIn{File: grown}, &look)
	if len(look.Differences) != 1 || look.Differences[0].At != "crews.low-water-league.people" || look.Differences[0].After != "and quayside:mossy_mare" {
		t.Errorf("%+v", look.Differences)
	}
	if s := to.Do("PUT", "/api/settings/file", spec.HouseFileIn{File: grown}, nil); s != 200 {
		t.Error(s)
	}
	if list, err := to.Store.Book.CrewList(t.Context(), to.House.ID); err != nil || len(list) != 1 || list[0].Name != "Low Water League" || list[0].People != 3 {
		t.Errorf("%+v %v", list, err)
	}
}

// packed is a ZIP of some files in an order.
func packed(files map[string][]byte, order ...string) []byte {
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	for _, name := range order {
		w, _ := z.Create(name)
		w.Write(files[name])
	}
	z.Close()
	return out.Bytes()
}

func TestABundleWithOneBadFilePutsNothingOnTheShelf(t *testing.T) {
	b := porchtest.Launch(t)
	b.SignIn()
	raw, _ := json.Marshal(b.House.Plan().Settings)
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
