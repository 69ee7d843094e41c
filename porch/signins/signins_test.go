package signins_test

import (
	"encoding/json"
	"io"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"testing"
	"time"

	"vividporch/core/courtesy"
	"vividporch/core/happening"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/porch/signins"
	"vividporch/porchtest"
	"vividporch/spec"
	"vividporch/standin"
)

func launch(t *testing.T, change ...func(*housefile.Settings)) *porchtest.Boat {
	t.Helper()
	b := porchtest.Launch(t, change...)
	b.SignIn()
	for slot, v := range map[string]string{"client": standin.HouseID, "client-secret": standin.HouseSecret} {
		if s := b.Do("PUT", "/api/house/secrets", map[string]any{"name": "signin:quayside", "slot": slot, "value": v}, nil); s != 200 && s != 204 {
			t.Fatalf("%s: %d", slot, s)
		}
	}
	return b
}

func begin(b *porchtest.Boat, who string, scopes ...string) string {
	b.T.Helper()
	var out spec.SignInBegun
	if s := b.Do("POST", "/api/signins/quayside/begin", map[string]any{"who": who, "scopes": scopes}, &out); s != 200 {
		b.T.Fatal(s)
	}
	return out.Address
}

// answers is the member's answer on the platform's page: where the platform sends them back to.
func answers(b *porchtest.Boat, at, account, answer string) string {
	b.T.Helper()
	u, err := url.Parse(at)
	if err != nil {
		b.T.Fatal(err)
	}
	form := u.Query()
	form.Set("account", account)
	form.Set("answer", answer)
	c := &http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
	res, err := c.PostForm(at, form)
	if err != nil {
		b.T.Fatal(err)
	}
	res.Body.Close()
	if res.StatusCode != http.StatusSeeOther {
		b.T.Fatalf("the platform answered %d", res.StatusCode)
	}
	return res.Header.Get("Location")
}

// comes follows the way back, with the browser's cookies.
func comes(b *porchtest.Boat, client *http.Client, back string) (status int, to, body string) {
	b.T.Helper()
	c := *client
	c.CheckRedirect = func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }
	res, err := c.Get(back)
	if err != nil {
		b.T.Fatal(err)
	}
	defer res.Body.Close()
	raw, _ := io.ReadAll(res.Body)
	return res.StatusCode, res.Header.Get("Location"), string(raw)
}

func quayside(b *porchtest.Boat) spec.PlatformSignIn {
	b.T.Helper()
	var out spec.SignIns
	if s := b.Do("GET", "/api/signins", nil, &out); s != 200 {
		b.T.Fatal(s)
	}
	return out.Platforms[slices.IndexFunc(out.Platforms, func(p spec.PlatformSignIn) bool { return p.Platform == "quayside" })]
}

func signIn(b *porchtest.Boat, who, account string, scopes ...string) {
	b.T.Helper()
	if s, _, body := comes(b, b.Client, answers(b, begin(b, who, scopes...), account, "yes")); s != http.StatusSeeOther {
		b.T.Fatalf("%d %s", s, body)
	}
}

func waits(b *porchtest.Boat) int {
	n := 0
	for _, w := range b.Porch().Waiting {
		if w.Kind == "signin" {
			n++
		}
	}
	return n
}

func TestAnAccountSignsInWithTheLeastAndTheChatTakesItsToken(t *testing.T) {
	b := launch(t, func(s *housefile.Settings) {
		for i := range s.Doors {
			if s.Doors[i].Name == "quayside-chat" {
				s.Doors[i].Account = "kelpwright"
			}
		}
	})
	at := begin(b, signins.House)
	q, _ := url.Parse(at)
	if v := q.Query(); v.Get("scope") != "chat" || v.Get("code_challenge_method") != "S256" || v.Get("redirect_uri") != b.Server.URL+"/signin/back" || strings.Contains(at, standin.HouseSecret) {
		t.Errorf("asked at %s", at)
	}
	if s, to, body := comes(b, b.Client, answers(b, at, "kelpwright", "yes")); s != http.StatusSeeOther || to != "/house/platforms/quayside" {
		t.Fatalf("%d %s %s", s, to, body)
	}
	got := quayside(b)
	if len(got.Accounts) != 1 || got.Accounts[0].Login != "kelpwright" || !got.Accounts[0].Renews || got.Accounts[0].Expires.IsZero() || !slices.Equal(got.Accounts[0].Scopes, []string{"chat"}) || got.Said != "kelpwright is signed in." {
		t.Errorf("%+v", got)
	}
	// The chat knows no password of theirs: the token is it.
	b.Street.Platforms["quayside"].Chat.Users = map[string]string{"porchlamp": "x"}
	if err := b.House.Reopen("quayside-chat"); err != nil {
		t.Fatal(err)
	}
	b.Until("the house is in the chat as them", func() bool { return slices.Contains(b.Street.Platforms["quayside"].Chat.Here(), "kelpwright") })
	if d := b.House.Health("quayside-chat"); d.Account != "kelpwright" {
		t.Errorf("%+v", d)
	}
}

func TestAStateIsGoodOnceInItsOwnSessionAndNowhereElse(t *testing.T) {
	b := launch(t)
	back := answers(b, begin(b, signins.House), "porchlamp", "yes")
	if s, _, _ := comes(b, &http.Client{}, back); s != http.StatusUnauthorized {
		t.Errorf("without a session: %d", s)
	}
	if s, to, _ := comes(b, b.Client, back); s != http.StatusSeeOther || to != "/house/platforms/quayside" {
		t.Fatalf("%d %s", s, to)
	}
	if s, _, body := comes(b, b.Client, back); s != http.StatusBadRequest || !strings.Contains(body, "used already") {
		t.Errorf("a second time: %d %s", s, body)
	}
	other := answers(b, begin(b, signins.House), "porchlamp", "yes")
	wrong, _ := url.Parse(other)
	v := wrong.Query()
	v.Set("state", "MADEUPSTATE")
	wrong.RawQuery = v.Encode()
	if s, _, body := comes(b, b.Client, wrong.String()); s != http.StatusBadRequest {
		t.Errorf("a wrong state: %d %s", s, body)
	}
	// Another member's browser, with a session of its own: the state is spoiled for both.
	b.SignIn2(t)
	if s, _, _ := comes(b, b.Other, other); s != http.StatusBadRequest {
		t.Errorf("another session: %d", s)
	}
	if s, _, _ := comes(b, b.Client, other); s != http.StatusBadRequest {
		t.Errorf("a state that somebody else tried: %d", s)
	}
}

func TestWhereAPlatformSendsBackToIsNeverWhatARequestSays(t *testing.T) {
	b := launch(t)
	req, _ := http.NewRequest("POST", b.Server.URL+"/api/signins/quayside/begin", strings.NewReader(`{"who":"house"}`))
	req.Host = "collector.example"
	req.Header.Set("X-Forwarded-Host", "collector.example")
	req.Header.Set("X-Porch-Token", b.Token)
	res, err := b.Client.Do(req)
	if err != nil {
		t.Fatal(err)
	}
	defer res.Body.Close()
	if body, _ := io.ReadAll(res.Body); strings.Contains(string(body), "collector") {
		t.Errorf("%d %s", res.StatusCode, body)
	}
}

func TestWhoIsTurnedAwayChangesNothing(t *testing.T) {
	b := launch(t)
	signIn(b, signins.House, "porchlamp")
	if s, _, _ := comes(b, b.Client, answers(b, begin(b, signins.House), "porchlamp", "no")); s != http.StatusSeeOther {
		t.Error(s)
	}
	if got := quayside(b); len(got.Accounts) != 1 || got.Accounts[0].Login != "porchlamp" || !strings.Contains(got.Said, "nothing has changed") {
		t.Errorf("%+v", got)
	}
}

func TestAnotherAccountThanLastTimeIsAskedAboutFirst(t *testing.T) {
	b := launch(t)
	signIn(b, signins.House, "porchlamp")
	signIn(b, signins.House, "kelpwright")
	got := quayside(b)
	if got.Another.Login != "kelpwright" || got.Another.Was != "porchlamp" || got.Accounts[0].Login != "porchlamp" {
		t.Fatalf("%+v", got)
	}
	if s := b.Do("POST", "/api/signins/quayside/confirm", map[string]any{"key": got.Another.Key, "yes": false}, nil); s != 204 {
		t.Fatal(s)
	}
	if got = quayside(b); got.Another.Key != "" || got.Accounts[0].Login != "porchlamp" {
		t.Errorf("%+v", got)
	}
	signIn(b, signins.House, "kelpwright")
	key := quayside(b).Another.Key
	if s := b.Do("POST", "/api/signins/quayside/confirm", map[string]any{"key": key, "yes": true}, nil); s != 204 {
		t.Fatal(s)
	}
	if s := b.Do("POST", "/api/signins/quayside/confirm", map[string]any{"key": key, "yes": true}, nil); s != 409 {
		t.Errorf("a second time: %d", s)
	}
	if got = quayside(b); got.Accounts[0].Login != "kelpwright" {
		t.Errorf("%+v", got)
	}
	// Signed out, and in again as the first: it is asked about all the same.
	if s := b.Do("DELETE", "/api/signins/quayside/house", nil, nil); s != 204 {
		t.Fatal(s)
	}
	if got = quayside(b); len(got.Accounts) != 0 {
		t.Errorf("%+v", got)
	}
	signIn(b, signins.House, "porchlamp")
	if got = quayside(b); got.Another.Was != "kelpwright" {
		t.Errorf("%+v", got)
	}
}

func TestWhatIsRevokedIsSaidOnceAndMendedBySigningIn(t *testing.T) {
	b := launch(t)
	signIn(b, signins.House, "porchlamp")
	b.Street.Do(t, "revoke", map[string]any{"platform": "quayside", "viewer": "porchlamp"})
	for range 3 {
		b.Do("POST", "/api/signins/quayside/check", nil, nil)
	}
	b.Until("it waits for somebody", func() bool { return waits(b) == 1 })
	if got := quayside(b); got.Accounts[0].Trouble == "" {
		t.Errorf("%+v", got)
	}
	if !slices.Contains(b.Street.Platforms["quayside"].Chat.Here(), "porchlamp") {
		t.Error("the chat ended with it")
	}
	signIn(b, signins.House, "porchlamp")
	b.Until("it is well", func() bool { return waits(b) == 0 })
	if got := quayside(b); got.Accounts[0].Trouble != "" {
		t.Errorf("%+v", got)
	}
}

func TestWhatEndsIsRenewedAheadAndWhatCannotBeIsWarnedOf(t *testing.T) {
	b := launch(t)
	b.Street.Do(t, "tokens", map[string]any{"platform": "quayside", "minutes": 5})
	signIn(b, signins.House, "porchlamp")
	first := quayside(b).Accounts[0].Since
	b.Do("POST", "/api/signins/quayside/check", nil, nil) // it ends in five minutes: ten ahead it is renewed
	if again := quayside(b).Accounts[0]; !again.Since.After(first) || again.Trouble != "" || waits(b) != 0 {
		t.Errorf("%+v", again)
	}
	// The platform refuses to renew it, while it is good still and after.
	b.Street.Do(t, "tokens", map[string]any{"platform": "quayside", "minutes": 5, "on": true})
	b.Do("POST", "/api/signins/quayside/check", nil, nil)
	b.Until("it is said", func() bool { return waits(b) == 1 })
	b.Street.Do(t, "tokens", map[string]any{"platform": "quayside", "minutes": 5, "text": "no refresh"})
	signIn(b, signins.House, "porchlamp")
	b.Until("it is well", func() bool { return waits(b) == 0 })
	for range 3 {
		b.Do("POST", "/api/signins/quayside/check", nil, nil)
	}
	b.Until("one that is never renewed is warned of", func() bool { return waits(b) == 1 })
	if got := quayside(b); got.Accounts[0].Trouble != "" || got.Accounts[0].Renews {
		t.Errorf("it is good until it ends: %+v", got)
	}
}

func TestACourtesyAsksForItsPermissionAndTheDeedIsDoneWithIt(t *testing.T) {
	b := launch(t)
	signIn(b, signins.Streamer, "tidepool_hours")
	act := func() {
		b.Do("POST", "/api/desk/act", map[string]any{"platform": "quayside", "act": "title", "text": "Brittle stars"}, nil)
	}
	act()
	// A courtesy that would do so says what stops it.
	var set []map[string]any
	raw, _ := json.Marshal(append(b.House.Plan().Whole.Clone().Courtesy, courtesy.Courtesy{ID: "evening-title", On: true, When: happening.Hand, Slot: happening.Free,
		Do: []output.Output{{ID: "title", On: []string{"quayside"}, Do: &output.Platform{Act: output.SetTitle}, Alternatives: []string{"Low water"}}}}))
	if err := json.Unmarshal(raw, &set); err != nil {
		t.Fatal(err)
	}
	if s := b.Do("PUT", "/api/house/sections/courtesies", map[string]any{"value": set}, nil); s != 200 {
		t.Fatal(s)
	}
	stopped := func() bool {
		var found spec.Findings
		b.Do("GET", "/api/courtesies/check", nil, &found)
		return slices.ContainsFunc(found.Items, func(f spec.Finding) bool {
			return f.Courtesy == "evening-title" && strings.HasPrefix(f.What, "title on Quayside: it does not allow this")
		})
	}
	if !stopped() {
		t.Error("nothing says that the title cannot be changed")
	}
	b.Until("it is refused for want of a permission", func() bool {
		return slices.ContainsFunc(b.Porch().Waiting, func(w spec.Waiting) bool {
			return w.Kind == "act" && strings.Contains(w.Why, "does not allow this to the house yet")
		})
	})
	signIn(b, signins.Streamer, "tidepool_hours", "channel:edit")
	if got := quayside(b); !slices.Equal(got.Accounts[0].Scopes, []string{"channel:edit", "chat"}) {
		t.Fatalf("%+v", got)
	}
	if stopped() {
		t.Error("it is allowed, and still said to be stopped")
	}
	act()
	b.Until("it is done", func() bool { return b.Street.Platforms["quayside"].State().Title == "Brittle stars" })
}

func TestATokenGoesNowhereElse(t *testing.T) {
	seen := make(chan string, 9)
	elsewhere := standinElsewhere(t, seen)
	b := launch(t)
	signIn(b, signins.House, "porchlamp", "happenings:read")
	// The profile leads elsewhere now: neither token nor client secret goes along.
	s := b.House.Plan().Whole.Clone()
	for i := range s.Profiles {
		if s.Profiles[i].Platform == "quayside" {
			s.Profiles[i].At = elsewhere
		}
	}
	if st := b.Do("PUT", "/api/house/sections/profiles", map[string]any{"value": s.Profiles}, nil); st != 200 {
		t.Fatal(st)
	}
	b.Do("POST", "/api/signins/quayside/check", nil, nil)
	if st := b.Do("POST", "/api/signins/quayside/begin", map[string]any{"who": "house"}, nil); st == 200 {
		t.Error("the client secret is used elsewhere")
	}
	if got, err := b.House.SignIns.Access(t.Context(), "quayside", "", "", elsewhere+"/missed"); got != "" || err == nil {
		t.Errorf("the token goes to %s: %v", elsewhere, err)
	}
	select {
	case h := <-seen:
		if strings.Contains(h, "Bearer") || strings.Contains(h, "Basic") {
			t.Errorf("it got %s", h)
		}
	case <-time.After(50 * time.Millisecond):
	}
}

// standinElsewhere is somebody else's machine.
func standinElsewhere(t *testing.T, seen chan<- string) string {
	srv := &http.Server{Addr: porchtest.FreeAddress(t), Handler: http.HandlerFunc(func(_ http.ResponseWriter, r *http.Request) { seen <- r.URL.Path + " " + r.Header.Get("Authorization") })}
	go srv.ListenAndServe()
	t.Cleanup(func() { srv.Close() })
	return "http://" + srv.Addr
}

func TestWhatHappenedWhileTheHouseWasAwayIsFetchedOnceAndCanBeThanked(t *testing.T) {
	b := launch(t, func(s *housefile.Settings) {
		for _, kind := range []string{"porch.raid.came", "porch.support.tipped", "porch.support.subscribed"} {
			s.Courtesy = append(s.Courtesy, courtesy.Courtesy{ID: "thank " + kind, On: true, When: kind, Slot: happening.Thanks, OffLine: true,
				Do: []output.Output{{ID: "chat", Do: &output.Say{}, Alternatives: []string{"Thank you, {name}"}}}})
		}
	})
	signIn(b, signins.Streamer, "tidepool_hours", "happenings:read")
	q := b.Street.Platforms["quayside"]
	kelp := map[string]any{"platform": "quayside", "id": "9330", "login": "kelpwright"}
	q.Send("porch.person.followed", 0, map[string]any{"person": kelp}) // heard before it goes down
	b.Until("it is heard", func() bool { return events(b, "porch.person.followed") == 1 })
	b.Stop()
	q.SetDeaf(true) // and nothing that happens then is sent again
	lena := map[string]any{"platform": "quayside", "id": "8841", "login": "limpet_lena", "name": "Limpet Lena"}
	q.Send("porch.raid.came", 0, map[string]any{"person": kelp, "viewers": 37})
	q.Send("porch.support.tipped", 0, map[string]any{"person": lena, "amount": "5.00", "currency": "EUR"})
	q.Send("porch.support.subscribed", 0, map[string]any{"person": lena, "tier": "Harbour", "months": 2})
	b.AnotherAt(time.Now().Add(11 * time.Minute)) // it was away for that long
	away := func() (out []spec.Waiting) {
		for _, w := range b.Porch().Waiting {
			if w.Kind == "late" {
				out = append(out, w)
			}
		}
		return out
	}
	b.Until("all of it waits", func() bool { return len(away()) == 3 })
	for range 2 {
		b.Do("POST", "/api/signins/quayside/check", nil, nil)
	}
	if n := events(b, "porch.raid.came"); n != 1 || events(b, "porch.person.followed") != 1 {
		t.Errorf("%d raids came of one", n)
	}
	// Each can be thanked for what it was, whoever gave more than one thing.
	for _, w := range away() {
		if w.Account != "quayside:8841" && w.Account != "quayside:9330" || w.Of == "" {
			t.Errorf("%+v", w)
		}
		if w.Of == "a tip" {
			if s := b.Do("POST", "/api/desk/waiting", map[string]any{"item": w.Item, "act": "thank"}, nil); s != 200 {
				t.Fatal(s)
			}
		}
	}
	b.Until("the tip waits no more, the rest does", func() bool {
		return len(away()) == 2 && !slices.ContainsFunc(away(), func(w spec.Waiting) bool { return w.Of == "a tip" })
	})
	b.Until("and is thanked for in chat", func() bool {
		return slices.ContainsFunc(b.Said("quayside"), func(s string) bool { return strings.Contains(s, "Lena") })
	})
}

func events(b *porchtest.Boat, kind string) (n int) {
	b.T.Helper()
	if err := b.Store.SQL.QueryRow("SELECT count(*) FROM events WHERE type = $1", kind).Scan(&n); err != nil {
		b.T.Fatal(err)
	}
	return n
}
