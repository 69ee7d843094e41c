package signins_test

import (
	"bytes"
	"crypto/hmac"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"io"
	"net/http"
	"strings"
	"testing"

	"vividporch/core/housefile"
	"vividporch/core/reading"
	"vividporch/porch/signins"
	"vividporch/porchtest"
	"vividporch/standin"
)

// Secrets are planted wherever a door or a sign-in has one, told back by whoever is outside, and
// then looked for in all that the house keeps in the clear, writes or shows.
func TestNoSecretStandsAnywhereInTheClear(t *testing.T) {
	const hook, password = "MARKED-hook-secret", "MARKED-password"
	b := launch(t, func(s *housefile.Settings) {
		s.Doors = append(s.Doors, housefile.Door{Name: "hook", Kind: "hook", Platform: "hook", Service: &reading.Service{Proof: reading.Proof{How: reading.HMAC, Header: "Sign"}}},
			housefile.Door{Name: "word", Kind: "hook", Platform: "word", Service: &reading.Service{Proof: reading.Proof{How: reading.Token}}},
			housefile.Door{Name: "away", Kind: "listen", Platform: "away", Service: &reading.Service{Listen: reading.Listen{Address: "ws://127.0.0.1:1/?t={token}"}}})
		s.Readings = append(s.Readings, reading.Reading{Name: "all", Doors: []string{"hook", "word"}, Makes: "porch.other", Take: map[string]reading.Take{"name": {Is: "x"}, "fields.a": {At: "/a"}, "fields.token": {At: "/token"}, "person.name": {At: "/who"}}})
	})
	secrets := []string{hook, password, standin.HouseSecret, standin.TinToken, porchtest.Secret[6:]}
	for _, x := range [][3]string{{"hook", "secret", hook}, {"word", "secret", "MARKED-word"}, {"away", "token", "MARKED-away token"}, {"quayside-chat", "password", password}} {
		if s := b.Do("PUT", "/api/house/secrets", map[string]any{"name": x[0], "slot": x[1], "value": x[2]}, nil); s != 200 && s != 204 {
			t.Fatal(x, s)
		}
		secrets = append(secrets, x[2])
	}
	signIn(b, signins.Streamer, "tidepool_hours", "happenings:read", "channel:edit")
	for _, slot := range []string{"access", "refresh"} {
		v, err := b.Store.Safe.Secrets(t.Context(), b.House.ID, signins.Name("quayside", signins.Streamer))
		if err != nil || v[slot] == "" {
			t.Fatal(slot, err)
		}
		secrets = append(secrets, v[slot])
	}
	// Whoever is outside tells them back: as values, within values, as keys, deep and in lists.
	for _, s := range secrets {
		for _, body := range []string{fmt.Sprintf(`{"a":"it is %s!","who":%q,"token":%q}`, s, s, s), fmt.Sprintf(`{"deep":[{"%s":{"x":["%s"]}}],"a":1,"n":"%x"}`, s, s, len(s))} {
			m := hmac.New(sha256.New, []byte(hook))
			m.Write([]byte(body))
			for _, at := range []string{"/inbox/hook", "/inbox/word?key=MARKED-word", "/inbox/word?key=wrong"} {
				req, _ := http.NewRequest("POST", b.Server.URL+at, strings.NewReader(body))
				req.Header.Set("Sign", hex.EncodeToString(m.Sum(nil)))
				res, err := http.DefaultClient.Do(req)
				if err != nil {
					t.Fatal(err)
				}
				told, _ := io.ReadAll(res.Body)
				res.Body.Close()
				if strings.Contains(string(told), s) {
					t.Errorf("%s is answered with %s", at, told)
				}
			}
		}
	}
	b.Until("the listening door was tried", func() bool { return b.House.Services.Health("away").State == "closed" })
	b.Until("the welcome of The Tin is kept", func() bool {
		list, err := b.Store.Kept.Waits(t.Context(), b.House.ID, "tin")
		return err == nil && len(list) > 0
	})
	b.Do("POST", "/api/signins/quayside/check", nil, nil)
	b.Street.Do(t, "revoke", map[string]any{"platform": "quayside", "viewer": "tidepool_hours"})
	b.Do("POST", "/api/signins/quayside/check", nil, nil)

	shown := map[string]string{"the log": b.Log.String()}
	for _, path := range []string{"/api/house", "/api/settings/file", "/api/signins", "/api/porch", "/api/settings/history", "/api/session", "/api/moving", "/readyz", "/metrics",
		"/api/doors/hook", "/api/doors/word", "/api/doors/away", "/api/doors/tin", "/api/doors/quayside-chat", "/api/doors/quayside", "/api/doors/hook/messages", "/api/doors/word/messages", "/api/doors/tin/messages"} {
		res, err := b.Client.Get(b.Server.URL + path)
		if err != nil {
			t.Fatal(err)
		}
		raw, _ := io.ReadAll(res.Body)
		res.Body.Close()
		if res.StatusCode != 200 {
			t.Errorf("%s: %d", path, res.StatusCode)
		}
		shown[path] = string(raw)
	}
	// The tables, all of them, but where secrets lie sealed.
	rows, err := b.Store.SQL.Query("SELECT table_name FROM information_schema.tables WHERE table_schema = current_schema() AND table_type = 'BASE TABLE'")
	if err != nil {
		t.Fatal(err)
	}
	var names []string
	for rows.Next() {
		var n string
		if err := rows.Scan(&n); err != nil {
			t.Fatal(err)
		}
		names = append(names, n)
	}
	for _, n := range names {
		var out bytes.Buffer
		list, err := b.Store.SQL.Query(fmt.Sprintf("SELECT t::text FROM %q t", n))
		if err != nil {
			t.Fatal(err)
		}
		for list.Next() {
			var text string
			if err := list.Scan(&text); err != nil {
				t.Fatal(err)
			}
			out.WriteString(text + "\n")
		}
		shown["table "+n] = out.String()
	}
	var bodies bytes.Buffer // they are bytes, which text shows as numbers
	list, err := b.Store.SQL.Query("SELECT body FROM kept_messages WHERE body IS NOT NULL")
	if err != nil {
		t.Fatal(err)
	}
	n := 0
	for list.Next() {
		var raw []byte
		if err := list.Scan(&raw); err != nil {
			t.Fatal(err)
		}
		bodies.Write(append(raw, '\n'))
		n++
	}
	shown["kept messages"] = bodies.String()
	if n < 10 || len(names) < 20 || !strings.Contains(bodies.String(), "••••") {
		t.Fatalf("%d messages are kept, in %d tables", n, len(names))
	}
	for where, text := range shown {
		for _, s := range secrets {
			if i := strings.Index(text, s); i >= 0 {
				t.Errorf("%s stands in %s: …%s…", s, where, text[max(0, i-80):min(len(text), i+len(s)+40)])
			}
		}
	}
}
