package api_test

import (
	"crypto/sha256"
	"encoding/base64"
	"encoding/hex"
	"fmt"
	"io"
	"slices"
	"strings"
	"testing"

	"github.com/getkin/kin-openapi/openapi3"

	"vividporch/core/draw"
	"vividporch/porchtest"
	"vividporch/spec"
)

// shown is all that can be read of a house: every page that needs no further word, and every table.
func shown(t *testing.T, b *porchtest.Boat, also ...string) map[string]string {
	t.Helper()
	doc, err := openapi3.NewLoader().LoadFromData(spec.OpenAPI)
	if err != nil {
		t.Fatal(err)
	}
	out := map[string]string{"what is noted": b.Log.String()}
	paths := also
	for path, item := range doc.Paths.Map() {
		if item.Get != nil && !strings.Contains(path, "{") && !strings.Contains(path, "live") {
			paths = append(paths, path)
		}
	}
	for _, path := range paths {
		res, err := b.Client.Get(b.Server.URL + path)
		if err != nil {
			t.Fatal(err)
		}
		if !strings.Contains(res.Header.Get("Content-Type"), "event-stream") {
			raw, _ := io.ReadAll(res.Body)
			out[path] = string(raw)
		}
		res.Body.Close()
	}
	rows, err := b.Store.SQL.Query("SELECT table_name FROM information_schema.tables WHERE table_schema = current_schema() AND table_type = 'BASE TABLE'")
	if err != nil {
		t.Fatal(err)
	}
	var tables []string
	for rows.Next() {
		var n string
		if err := rows.Scan(&n); err != nil {
			t.Fatal(err)
		}
		tables = append(tables, n)
	}
	for _, n := range tables {
		var all string
		if err := b.Store.SQL.QueryRow(fmt.Sprintf("SELECT coalesce(string_agg(t::text, E'\\n'), '') FROM %q t", n)).Scan(&all); err != nil {
			t.Fatal(err)
		}
		out["table "+n] = all
	}
	return out
}

// places are those of shown in which something stands, however bytes are written there.
func places(in map[string]string, secret []byte) (out []string) {
	digits, letters := hex.EncodeToString(secret), base64.StdEncoding.EncodeToString(secret)
	for where, text := range in {
		for _, s := range []string{digits, letters, hex.EncodeToString([]byte(digits)), hex.EncodeToString([]byte(letters))} {
			if strings.Contains(text, s) {
				out = append(out, where)
				break
			}
		}
	}
	slices.Sort(out)
	return out
}

func TestTheSecretOfADrawIsNowhereBeforeTheEndAndARestartInTheMiddleLosesNothing(t *testing.T) {
	b := porchtest.Launch(t)
	b.SignIn()
	b.Do("POST", "/api/desk/stream", spec.DeclareStream{Act: "opened"}, nil)
	var deed spec.Deed
	if s := b.Do("POST", "/api/desk/draw", spec.DrawHand{Act: "open", Terms: spec.DrawTerms{Way: "word", Word: "!tide", Prizes: []string{"a <b>print</b>"}}}, &deed); s != 200 {
		t.Fatalf("%d %+v", s, deed)
	}
	var now spec.DrawsView
	ask := func() spec.DrawPage {
		now = spec.DrawsView{}
		b.Do("GET", "/api/draws", nil, &now)
		return now.Now
	}
	b.Until("it is open", func() bool { return ask().State == "open" })
	id, commit := now.Now.ID, now.Now.Commit
	says(b, "9330", "kelpwright", "!tide")
	says(b, "8841", "limpet_lena", "!tide")
	entered := func() int { return len(ask().Entries) }
	b.Until("both are in it", func() bool { return entered() == 2 })
	before := shown(t, b, "/draws/"+id, "/draws/"+id+"/list")
	b.Another()
	if d := ask(); d.State != "open" || d.Commit != commit || len(d.Entries) != 2 {
		t.Fatalf("after a restart: %+v", d)
	}
	b.InChat()
	says(b, "8841", "limpet_lena", "!tide") // is in it already
	says(b, "77", "tidewrack", "!tide")
	b.Until("a third is in it", func() bool { return entered() == 3 })
	if s := b.Do("POST", "/api/desk/draw", spec.DrawHand{Act: "draw"}, &deed); s != 200 {
		t.Fatalf("%d %+v", s, deed)
	}
	b.Until("somebody is drawn", func() bool { return len(ask().Picks) == 1 })
	var list draw.Page
	b.Do("GET", "/draws/"+id+"/list", nil, &list)
	secret, err := hex.DecodeString(list.Secret)
	if err != nil || len(secret) != 32 {
		t.Fatalf("%q, %v", list.Secret, err)
	}
	if sum := sha256.Sum256(secret); hex.EncodeToString(sum[:]) != commit {
		t.Errorf("it is not what was promised: %s", commit)
	}
	if found := places(before, secret); len(found) > 0 {
		t.Errorf("the secret stood in %q while entries were open", found)
	}
	after := places(shown(t, b, "/draws/"+id+"/list"), secret)
	if !slices.Contains(after, "table events") || !slices.Contains(after, "/draws/"+id+"/list") {
		t.Errorf("afterwards it stands in %q only", after)
	}
}
