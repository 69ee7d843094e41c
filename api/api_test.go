package api_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"strconv"
	"strings"
	"testing"
	"time"

	webhooks "github.com/standard-webhooks/standard-webhooks/libraries/go"

	"vividporch/core/housefile"
	"vividporch/porchtest"
	"vividporch/spec"
	"vividporch/standin"
	"vividporch/store/log"
)

func send(b *porchtest.Boat, secret, body string, at time.Time) (int, string, http.Header) {
	b.T.Helper()
	wh, _ := webhooks.NewWebhook(secret)
	sig, _ := wh.Sign("m1", at, []byte(body))
	req, err := http.NewRequest("POST", b.Server.URL+"/inbox/quayside", strings.NewReader(body))
	if err != nil {
		b.T.Fatal(err)
	}
	req.Header.Set("webhook-id", "m1")
	req.Header.Set("webhook-timestamp", strconv.FormatInt(at.Unix(), 10))
	req.Header.Set("webhook-signature", sig)
	res, err := http.DefaultClient.Do(req)
	if err != nil {
		b.T.Fatal(err)
	}
	defer res.Body.Close()
	raw, _ := io.ReadAll(res.Body)
	return res.StatusCode, string(raw), res.Header
}

func TestTheInboxAnswersAsTheContractSays(t *testing.T) {
	b := porchtest.Launch(t)
	raid := `{"specversion":"1.0","id":"r1","source":"s","type":"porch.raid.came","traceparent":"00-4bf9","data":{"person":{"platform":"quayside","id":"9"},"viewers":5}}`
	now := time.Now()
	for _, c := range []struct {
		name, secret, body string
		at                 time.Time
		status             int
		says               string
	}{
		{"taken", porchtest.Secret, raid, now, 202, `"taken":1`},
		{"a repeat changes nothing", porchtest.Secret, raid, now, 202, `"repeats":1`},
		{"a missing field is named", porchtest.Secret, `{"specversion":"1.0","id":"r2","source":"s","type":"porch.raid.came","data":{"viewers":5}}`, now, 202, `"field":"data.person.platform"`},
		{"nothing readable", porchtest.Secret, `tide`, now, 400, `application`},
		{"a wrong signature", "whsec_d3Jvbmc=", raid, now, 401, `signature`},
		{"a stale one", porchtest.Secret, raid, now.Add(-10 * time.Minute), 401, `signature`},
		{"too large", porchtest.Secret, `"` + strings.Repeat("x", 1<<20) + `"`, now, 413, `1 MiB`},
	} {
		status, said, h := send(b, c.secret, c.body, c.at)
		if status != c.status || c.says != "application" && !strings.Contains(said, c.says) {
			t.Errorf("%s: %d %s", c.name, status, said)
		}
		if status >= 400 && h.Get("Content-Type") != "application/problem+json" {
			t.Errorf("%s: answered as %s", c.name, h.Get("Content-Type"))
		}
	}
	if p := b.Porch(); len(p.Evening.Raids) != 1 {
		t.Errorf("the raid stands there %d times", len(p.Evening.Raids))
	}
	kept := ""
	if err := b.Store.Log.Since(t.Context(), b.House.ID, 0, 0, func(en log.Entry) error {
		if en.Event.ID == "r1" {
			raw, err := json.Marshal(en.Event)
			kept = string(raw)
			return err
		}
		return nil
	}); err != nil || !strings.Contains(kept, `"traceparent":"00-4bf9"`) {
		t.Errorf("what the sender added is lost: %s %v", kept, err)
	}
	res, err := http.Post(b.Server.URL+"/inbox/nowhere", "application/json", strings.NewReader("{}"))
	if err != nil || res.StatusCode != 404 {
		t.Errorf("a door that is not there: %v %v", res.StatusCode, err)
	}
	limited := false
	for range 2500 {
		if status, _, h := send(b, porchtest.Secret, raid, now); status == 429 {
			limited = h.Get("Retry-After") != ""
			break
		}
	}
	if !limited {
		t.Error("thousands of requests at once should meet the limit, with Retry-After")
	}
}

func TestWithoutASessionOnlyTheNamedAddressesAnswer(t *testing.T) {
	b := porchtest.Launch(t)
	for path, want := range map[string]int{"/healthz": 200, "/readyz": 200, "/metrics": 200, "/": 200, "/courtesies": 200, "/api/openapi.json": 200,
		"/api/porch": 401, "/api/porch/live": 401, "/api/courtesies": 401, "/api/session": 401, "/api/why?line=x": 401, "/api/settings/history": 401, "/api/nothing": 401} {
		res, err := b.Client.Get(b.Server.URL + path)
		if err != nil {
			t.Fatal(err)
		}
		res.Body.Close()
		if res.StatusCode != want {
			t.Errorf("GET %s: %d, want %d", path, res.StatusCode, want)
		}
		if csp := res.Header.Get("Content-Security-Policy"); !strings.Contains(csp, "default-src 'none'") || strings.Contains(csp, "unsafe") {
			t.Errorf("GET %s: %q", path, csp)
		}
	}
	// Every route of the description, with every method it has.
	var doc struct {
		Paths map[string]map[string]json.RawMessage `json:"paths"`
	}
	if s := b.Do("GET", "/api/openapi.json", nil, &doc); s != 200 || len(doc.Paths) < 15 {
		t.Fatalf("%d, %d paths", s, len(doc.Paths))
	}
	for path, methods := range doc.Paths {
		for m := range methods {
			if path == "/api/session" && m == "post" {
				continue
			}
			p := strings.NewReplacer("{id}", "greet-newcomer", "{door}", "quayside-chat").Replace(path)
			if s := b.Do(strings.ToUpper(m), p, map[string]any{}, nil); s != 401 {
				t.Errorf("%s %s answers %d to nobody", m, p, s)
			}
		}
	}
}

func TestSigningIn(t *testing.T) {
	b := porchtest.Launch(t)
	link := b.SignIn()
	cookie := b.Client.Jar.Cookies(mustURL(t, b.Server.URL))
	if len(cookie) != 1 {
		t.Fatal("no cookie")
	}
	// The link is worth nothing the second time.
	again := &http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
	res, err := again.Post(b.Server.URL+link, "", nil)
	if err != nil || res.StatusCode != 303 || res.Header.Get("Location") != "/?link=used" || len(res.Cookies()) != 0 {
		t.Errorf("the used link: %v %v", res.Status, err)
	}
	// A change without the session's token is refused.
	token := b.Token
	b.Token = "forged"
	if s := b.Do("POST", "/api/desk/hush", spec.Switch{On: true}, nil); s != 403 {
		t.Errorf("a forged change: %d", s)
	}
	b.Token = token
	var p spec.Problem
	if s := b.Do("PUT", "/api/session/password", spec.NewPassword{Password: "short"}, &p); s != 422 || p.Field != "password" {
		t.Errorf("a short password: %d %+v", s, p)
	}
	if s := b.Do("PUT", "/api/session/password", spec.NewPassword{Password: "the kettle is on"}, nil); s != 204 {
		t.Fatalf("setting a password: %d", s)
	}
	if s := b.Do("DELETE", "/api/session", nil, nil); s != 204 {
		t.Errorf("signing out: %d", s)
	}
	if s := b.Do("GET", "/api/session", nil, nil); s != 401 {
		t.Errorf("after signing out: %d", s)
	}
	if s := b.Do("POST", "/api/session", spec.Credentials{Name: "Odalys Brine", Password: "the kettle is off"}, nil); s != 401 {
		t.Errorf("a wrong password: %d", s)
	}
	if s := b.Do("POST", "/api/session", spec.Credentials{Name: "odalys brine", Password: "the kettle is on"}, nil); s != 200 {
		t.Errorf("the right password: %d", s)
	}
	tooMany := 0
	for range 12 {
		if b.Do("POST", "/api/session", spec.Credentials{Name: "Odalys Brine", Password: "guess"}, nil) == 429 {
			tooMany++
		}
	}
	if tooMany == 0 {
		t.Error("guessing is not slowed down")
	}
}

func TestAWordingWithAFaultStaysADraftAndTheLastGoodOneInForce(t *testing.T) {
	b := porchtest.Launch(t, func(s *housefile.Settings) { s.Courtesy[1].Do[0].DelaySeconds = 0 })
	b.SignIn()
	draft := func(words ...string) spec.Draft {
		return spec.Draft{Outputs: []spec.DraftOutput{{ID: "chat", Alternatives: words, Joined: []string{"{names}!"}}}}
	}
	var d spec.Drafted
	if s := b.Do("PUT", "/api/courtesies/greet-newcomer/draft", draft("Ahoy {name}", "🌊 Hello {nmae}"), &d); s != 200 || d.Valid || len(d.Faults) != 1 {
		t.Fatalf("%d %+v", s, d)
	}
	if f := d.Faults[0]; f.At != "chat.alternatives.1" || f.From != 9 || f.To != 15 || !strings.Contains(f.Remedy, "{name}") {
		t.Errorf("the fault is not at its place: %+v", f)
	}
	var p spec.Problem
	if s := b.Do("POST", "/api/courtesies/greet-newcomer/enact", nil, &p); s != 422 || len(p.Faults) != 1 {
		t.Errorf("it came into force: %d %+v", s, p)
	}
	if v := b.House.Plan().Version; v != 1 {
		t.Errorf("version %d is in force", v)
	}
	b.Do("PUT", "/api/courtesies/greet-newcomer/draft", draft("Ahoy {name}"), &d)
	var in spec.InForce
	if s := b.Do("POST", "/api/courtesies/greet-newcomer/enact", nil, &in); s != 200 || in.Version != 2 {
		t.Fatalf("%d %+v", s, in)
	}
	q := b.Street.Platforms["quayside"]
	q.Open("Gully", "Field", 0)
	b.Until("live", func() bool { return b.Porch().Live.On })
	q.Chat.Say(standin.Viewer{ID: "5", Login: "tidewrack"}, "hi")
	b.Until("the new words are used", func() bool { return strings.Contains(strings.Join(b.Said("quayside"), "\n"), "Ahoy tidewrack") })
	// And back again.
	if s := b.Do("POST", "/api/settings/undo", spec.Undo{Version: 2}, &in); s != 200 || in.Version != 3 {
		t.Fatalf("%d %+v", s, in)
	}
	if w := b.House.Plan().Settings.Courtesy[1].Do[0].Alternatives; len(w) != 4 {
		t.Errorf("after the undo: %v", w)
	}
	var vs []spec.Version
	b.Do("GET", "/api/settings/history", nil, &vs)
	if len(vs) != 3 || vs[0].Member != "Odalys Brine" || !strings.HasPrefix(vs[0].What, "undone") {
		t.Errorf("history: %+v", vs)
	}
}

func TestTheDeskAnswersWhatBecameOfIt(t *testing.T) {
	b := porchtest.Launch(t)
	b.SignIn()
	var d spec.Deed
	b.Do("POST", "/api/desk/line", spec.LineAct{Line: "9.nothing.chat", Act: "hurry"}, &d)
	if d.Done || len(d.Because) == 0 || !strings.Contains(d.Because[0], "already said") {
		t.Errorf("a line that is gone: %+v", d)
	}
	var p spec.Problem
	if s := b.Do("POST", "/api/desk/say", spec.SayLine{Text: "/ban everyone"}, &p); s != 422 || p.Field != "text" {
		t.Errorf("a command as a line: %d %+v", s, p)
	}
	if s := b.Do("POST", "/api/desk/say", spec.SayLine{Text: "the kettle is on", To: []string{"fernlight"}}, &d); s != 200 || !d.Done {
		t.Errorf("%d %+v", s, d)
	}
	b.Until("it is said there", func() bool { return strings.Contains(fmt.Sprint(b.Said("fernlight")), "the kettle is on") })
	if len(b.Said("quayside")) != 0 {
		t.Error("and nowhere else")
	}
	var c spec.Checked
	if s := b.Do("POST", "/api/doors/quayside-chat/check", nil, &c); s != 200 || !c.Ok {
		t.Errorf("the check: %d %+v", s, c)
	}
}

func TestTheLiveStreamResumesByItsId(t *testing.T) {
	b := porchtest.Launch(t)
	b.SignIn()
	read := func(id, until string) string {
		req, _ := http.NewRequest("GET", b.Server.URL+"/api/porch/live", nil)
		if id != "" {
			req.Header.Set("Last-Event-ID", id)
		}
		res, err := b.Client.Do(req)
		if err != nil {
			t.Fatal(err)
		}
		defer res.Body.Close()
		var all bytes.Buffer
		buf := make([]byte, 64<<10)
		for !strings.Contains(all.String(), until) {
			n, err := res.Body.Read(buf)
			if err != nil {
				t.Fatalf("ended before %q: %s", until, all.String())
			}
			all.Write(buf[:n])
		}
		return all.String()
	}
	first := read("", "event: whole")
	_, rest, _ := strings.Cut(first, "id: ")
	id, _, _ := strings.Cut(rest, "\n")
	b.Street.Platforms["quayside"].Chat.Say(standin.Viewer{ID: "5", Login: "tidewrack"}, "said meanwhile")
	b.Until("it is logged", func() bool { return len(b.Porch().Entries) > 0 })
	if got := read(id, "said meanwhile"); strings.Contains(got, "event: whole") {
		t.Errorf("it started over instead of resuming")
	}
}

func mustURL(t *testing.T, s string) *url.URL {
	t.Helper()
	u, err := url.Parse(s)
	if err != nil {
		t.Fatal(err)
	}
	return u
}

func TestWhatIsNoJSONAndWhatIsNowhereIsSaidSo(t *testing.T) {
	b := porchtest.Launch(t)
	for kind, want := range map[string]int{"text/plain": 415, "application/x-www-form-urlencoded": 415, "nonsense/": 415, "application/cloudevents+json; charset=utf-8": 401, "application/json": 401, "": 401} {
		req, err := http.NewRequest("POST", b.Server.URL+"/inbox/quayside", strings.NewReader(`{}`))
		if err != nil {
			t.Fatal(err)
		}
		if kind != "" {
			req.Header.Set("Content-Type", kind)
		}
		res, err := b.Client.Do(req)
		if err != nil {
			t.Fatal(err)
		}
		res.Body.Close()
		if res.StatusCode != want {
			t.Errorf("%q: %d, want %d", kind, res.StatusCode, want)
		}
	}
	for path, want := range map[string]int{"/": 200, "/book": 200, "/book/raids": 200, "/courtesies/greet-newcomer": 200, "/house": 200, "/wp-admin": 404, "/books": 404, "/assets/none.js": 404} {
		res, err := b.Client.Get(b.Server.URL + path)
		if err != nil {
			t.Fatal(err)
		}
		res.Body.Close()
		if res.StatusCode != want || want == 404 && res.Header.Get("Content-Type") != "application/problem+json" {
			t.Errorf("%s: %d as %s", path, res.StatusCode, res.Header.Get("Content-Type"))
		}
	}
}

func TestAWebhookIsNotKeptWaitingForADatabaseThatStopped(t *testing.T) {
	b := porchtest.Launch(t)
	mend := b.BreakDatabase()
	defer mend()
	begun := time.Now()
	status, _, _ := send(b, porchtest.Secret, `{"specversion":"1.0","id":"w1","source":"s","type":"porch.person.followed","data":{"person":{"platform":"quayside","id":"1","login":"ada"}}}`, begun)
	if took := time.Since(begun); status != 503 || took > time.Second {
		t.Errorf("%d after %s", status, took)
	}
}
