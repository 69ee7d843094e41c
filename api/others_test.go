package api_test

import (
	"bufio"
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"io"
	"log/slog"
	"net"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"net/netip"
	"slices"
	"strings"
	"testing"
	"testing/fstest"
	"time"

	"vividporch/api"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/privacy"
	"vividporch/porchtest"
	"vividporch/spec"
	"vividporch/store/members"
	"vividporch/store/safe"
	"vividporch/store/tables"
)

// guest is a member signed in beside the owner.
type guest struct {
	*porchtest.Boat
	name string
	base int64 // version the page was drawn from
}

// as signs a member in, in a browser of their own.
func as(t *testing.T, b *porchtest.Boat, name, role string) *guest {
	t.Helper()
	m, err := b.Store.Members.Invite(t.Context(), b.House.ID, name, role)
	if err != nil {
		t.Fatal(err)
	}
	token := strings.ToUpper(strings.ReplaceAll(name, " ", "")) + "LINK"
	sum := sha256.Sum256([]byte(token))
	if err := b.Store.Members.AddSignIn(t.Context(), tables.SignIn{Hash: hex.EncodeToString(sum[:]), Member: m.ID, Expires: time.Now().Add(time.Hour)}); err != nil {
		t.Fatal(err)
	}
	own := *b
	jar, _ := cookiejar.New(nil)
	own.Client = &http.Client{Jar: jar}
	res, err := own.Client.Post(b.Server.URL+"/enter/"+token, "", nil)
	if err != nil {
		t.Fatal(err)
	}
	res.Body.Close()
	var s spec.Session
	if own.Do("GET", "/api/session", nil, &s) != 200 || s.Role != role {
		t.Fatalf("%s is not signed in: %+v", name, s)
	}
	own.Token = s.Token
	return &guest{Boat: &own, name: name}
}

// id is their number among the members.
func (g *guest) id(t *testing.T) int64 {
	t.Helper()
	m, err := g.Store.Members.Named(t.Context(), g.House.ID, g.name)
	if err != nil {
		t.Fatal(err)
	}
	return m.ID
}

// put sends a change made on the version the member looked at.
func (g *guest) put(t *testing.T, method, path string, in, out any) int {
	t.Helper()
	raw, _ := json.Marshal(in)
	req, _ := http.NewRequest(method, g.Server.URL+path, bytes.NewReader(raw))
	req.Header.Set("X-Porch-Token", g.Token)
	req.Header.Set("X-Porch-Base", fmt.Sprint(g.base))
	res, err := g.Client.Do(req)
	if err != nil {
		t.Fatal(err)
	}
	defer res.Body.Close()
	body, _ := io.ReadAll(res.Body)
	if out != nil {
		if err := json.Unmarshal(body, out); err != nil {
			t.Fatalf("%s %s: %d %s", method, path, res.StatusCode, body)
		}
	}
	return res.StatusCode
}

func (g *guest) look(t *testing.T) spec.Courtesies {
	t.Helper()
	var all spec.Courtesies
	if g.Do("GET", "/api/courtesies", nil, &all) != 200 {
		t.Fatal("no courtesies")
	}
	g.base = all.Version
	return all
}

func TestTwoMembersEditAtOnceAndNothingIsOverwrittenWithoutAWord(t *testing.T) {
	b := porchtest.Launch(t)
	b.SignIn()
	one, two := as(t, b, "Fen Osier", members.RoleCoHost), as(t, b, "Rill Marsh", members.RoleCoHost)

	t.Run("the list of those never greeted", func(t *testing.T) {
		one.look(t)
		list := two.look(t).Never
		if s := one.put(t, "PUT", "/api/settings/never", spec.NeverList{Never: append(slices.Clone(list), "grebe_watch")}, nil); s != 200 {
			t.Fatal(s)
		}
		if s := two.put(t, "PUT", "/api/settings/never", spec.NeverList{Never: append(slices.Clone(list), "moss_bot")}, nil); s != 200 {
			t.Fatal(s)
		}
		if now := one.look(t).Never; !slices.Contains(now, "grebe_watch") || !slices.Contains(now, "moss_bot") {
			t.Errorf("%q", now)
		}
	})
	t.Run("fill-ins of our own", func(t *testing.T) {
		own := one.look(t).Own
		two.look(t)
		mine, theirs := own, own
		mine.FillIns = append(slices.Clone(own.FillIns), spec.OwnFillIn{Name: "tide", Kind: "list", List: []string{"high"}})
		theirs.FillIns = append(slices.Clone(own.FillIns), spec.OwnFillIn{Name: "wind", Kind: "list", List: []string{"west"}})
		if s := one.put(t, "PUT", "/api/settings/own", mine, nil); s != 200 {
			t.Fatal(s)
		}
		if s := two.put(t, "PUT", "/api/settings/own", theirs, nil); s != 200 {
			t.Fatal(s)
		}
		var names []string
		for _, f := range one.look(t).Own.FillIns {
			names = append(names, f.Name)
		}
		if !slices.Contains(names, "tide") || !slices.Contains(names, "wind") {
			t.Errorf("%q", names)
		}
	})
	t.Run("one courtesy, two fields", func(t *testing.T) {
		one.look(t)
		two.look(t)
		rule := view(t, b, "thank-tip").Rule
		mine, theirs := rule, rule
		mine.Group, theirs.OffLine = "thanks", !rule.OffLine
		if s := one.put(t, "PUT", "/api/courtesies/thank-tip", mine, nil); s != 200 {
			t.Fatal(s)
		}
		if s := two.put(t, "PUT", "/api/courtesies/thank-tip", theirs, nil); s != 200 {
			t.Fatal(s)
		}
		if now := view(t, b, "thank-tip").Rule; now.Group != "thanks" || now.OffLine == rule.OffLine {
			t.Errorf("%+v", now)
		}
	})
	t.Run("one courtesy, one field: a clash with both sides", func(t *testing.T) {
		one.look(t)
		two.look(t)
		rule := view(t, b, "thank-tip").Rule
		mine, theirs := rule, rule
		mine.Group, theirs.Group = "support", "money"
		if s := one.put(t, "PUT", "/api/courtesies/thank-tip", mine, nil); s != 200 {
			t.Fatal(s)
		}
		var p spec.Problem
		if s := two.put(t, "PUT", "/api/courtesies/thank-tip", theirs, &p); s != 409 || len(p.Clashes) != 1 || p.Clashes[0].Now != `"support"` || p.Clashes[0].Mine != `"money"` {
			t.Fatalf("%d %+v", s, p)
		}
		if view(t, b, "thank-tip").Rule.Group != "support" {
			t.Error("it was overwritten all the same")
		}
		two.base = p.Version // they looked at both, and take theirs
		if s := two.put(t, "PUT", "/api/courtesies/thank-tip", theirs, nil); s != 200 || view(t, b, "thank-tip").Rule.Group != "money" {
			t.Errorf("their own cannot be taken: %d", s)
		}
	})
	t.Run("words typed by both", func(t *testing.T) {
		draft := func(words string) spec.Draft {
			return spec.Draft{Outputs: []spec.DraftOutput{{ID: "chat", Alternatives: []string{words}}}}
		}
		one.look(t)
		two.look(t)
		if s := one.put(t, "PUT", "/api/courtesies/greet-long-away/draft", draft("{name} is back!"), nil); s != 200 {
			t.Fatal(s)
		}
		if s := two.put(t, "PUT", "/api/courtesies/greet-long-away/draft", draft("Back at last, {name}"), nil); s != 200 {
			t.Fatal(s)
		}
		for _, c := range one.look(t).Courtesies {
			if c.ID == "greet-long-away" && (len(c.Draft.Outputs) != 1 || c.Draft.Outputs[0].Alternatives[0] != "{name} is back!" || !slices.Equal(c.Others, []string{"Rill Marsh"})) {
				t.Errorf("%+v %q", c.Draft, c.Others)
			}
		}
		one.base, two.base = 0, 0 // coming into force says nothing of a version: the words do
		if s := one.put(t, "POST", "/api/courtesies/greet-long-away/enact", nil, nil); s != 200 {
			t.Fatal(s)
		}
		var p spec.Problem
		if s := two.put(t, "POST", "/api/courtesies/greet-long-away/enact", nil, &p); s != 409 || len(p.Clashes) != 1 {
			t.Errorf("%d %+v", s, p)
		}
	})
}

func TestACoHostLeadsNoDoorWithASecretElsewhere(t *testing.T) {
	b := porchtest.Launch(t)
	b.SignIn()
	co := as(t, b, "Fen Osier", members.RoleCoHost)
	s := b.House.Plan().Whole
	for name, slot := range map[string]string{"quayside-chat": "password", "boathouse-news": "secret"} {
		if err := b.Store.Safe.SetSecret(t.Context(), b.House.ID, s, name, slot, "low-water-lamp"); err != nil {
			t.Fatal(err)
		}
	}
	evil := `{"format":1,"channel":"tidepool_hours","doors":[{"name":"quayside-chat","kind":"irc","platform":"quayside","address":"collector.example:6667","room":"#tidepool_hours","account":"porchlamp"}]}`
	place := `{"format":1,"channel":"tidepool_hours","places":[{"name":"boathouse-news","title":"x","url":"https://collector.example/","body":{"a":"{text}"}}]}`
	for _, file := range []string{evil, place} {
		var p spec.Problem
		if s := co.Do("PUT", "/api/settings/file", spec.HouseFileIn{File: file}, &p); s != 422 || !strings.Contains(p.Detail, "only the owner") {
			t.Errorf("a co-host: %d %+v", s, p)
		}
	}
	if s := b.Do("PUT", "/api/settings/file", spec.HouseFileIn{File: evil}, nil); s != 200 {
		t.Fatalf("the owner: %d", s)
	}
	// And even so the secret goes nowhere but where it was given for.
	for address, want := range map[string]error{"irc://collector.example:6667": safe.ErrBound, "irc://" + s.Doors[0].Address: nil, "ircs://" + s.Doors[0].Address: safe.ErrBound} {
		if got, err := b.Store.Safe.SecretTo(t.Context(), b.House.ID, "quayside-chat", "password", address); err != want || (want == nil) != (got == "low-water-lamp") {
			t.Errorf("%s: %q, %v", address, got, err)
		}
	}
	h := b.Another()
	b.Until("the door stays shut and says why", func() bool {
		return strings.Contains(h.Health("quayside-chat").Reason, "given for another address")
	})
	var sealed int
	if err := b.Store.SQL.QueryRow("SELECT count(*) FROM secrets WHERE value <> '' OR position('low-water'::bytea IN sealed) > 0").Scan(&sealed); err != nil || sealed > 0 {
		t.Errorf("%d secrets stand in the clear, %v", sealed, err)
	}
}

func TestAnotherChannelsFileLeadsNowhereUnlessChosenOneByOne(t *testing.T) {
	b := porchtest.Launch(t)
	b.SignIn()
	file := `{"format":1,"channel":"night_ferry","never":["ferry_bot"],"places":[{"name":"ferry-news","title":"Ferry","url":"https://ferry.example/hook","body":{"a":"{text}"}}],
		"fittings":[{"name":"fog-lamp","title":"Fog","kind":"lamp","url":"http://fog.example/"}]}`
	var look spec.HouseFileLook
	if s := b.Do("POST", "/api/settings/file", spec.HouseFileIn{File: file}, &look); s != 200 || slices.Contains(look.Sections, "places") || len(look.Leads) != 2 || look.Leads[0].Address != "https://ferry.example/hook" {
		t.Fatalf("%d %+v", s, look)
	}
	var p spec.Problem
	if s := b.Do("PUT", "/api/settings/file", spec.HouseFileIn{File: file, Sections: []string{"places"}}, &p); s != 422 || !strings.Contains(p.Detail, "one by one") {
		t.Errorf("%d %+v", s, p)
	}
	if s := b.Do("PUT", "/api/settings/file", spec.HouseFileIn{File: file, Sections: []string{"never", "places/ferry-news"}}, nil); s != 200 {
		t.Fatal(s)
	}
	s := b.House.Plan().Whole
	if s.PlaceNamed("ferry-news") == nil || s.FittingNamed("fog-lamp") != nil || !slices.Contains(s.Never, "ferry_bot") {
		t.Errorf("%+v %+v", s.Places, s.Fittings)
	}
	// What is given away tells no address, and what comes back without one keeps its own.
	raw, _ := fetched(t, b, "/api/settings/file?courtesies=announce-opening")
	part := string(raw)
	if strings.Contains(part, "http://") || !strings.Contains(part, "boathouse-news") {
		t.Errorf("a part tells where its places lead: %s", part)
	}
	was := s.PlaceNamed("boathouse-news").URL
	if st := b.Do("PUT", "/api/settings/file", spec.HouseFileIn{File: part}, nil); st != 200 || b.House.Plan().Whole.PlaceNamed("boathouse-news").URL != was {
		t.Errorf("%d: the place leads to %q", st, b.House.Plan().Whole.PlaceNamed("boathouse-news").URL)
	}
}

// edge is a server of its own on the boat's house.
func edge(b *porchtest.Boat, log io.Writer, change func(*api.Config)) *httptest.Server {
	cfg := api.Config{House: b.House, Store: b.Store, UI: fstest.MapFS{"index.html": {Data: []byte("porch")}}, Log: slog.New(slog.NewTextHandler(log, nil))}
	if change != nil {
		change(&cfg)
	}
	srv := httptest.NewServer(api.New(cfg))
	b.T.Cleanup(srv.Close)
	return srv
}

func TestLimitsAreEachForTheirOwnPurposeAndClient(t *testing.T) {
	b := porchtest.Launch(t)
	srv := edge(b, io.Discard, nil)
	status := func(method, path string, body io.Reader) int {
		req, _ := http.NewRequest(method, srv.URL+path, body)
		res, err := (&http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}).Do(req)
		if err != nil {
			t.Fatal(err)
		}
		res.Body.Close()
		return res.StatusCode
	}
	for range 20 { // looking at what is kept uses up nobody's tries to sign in
		status("GET", "/kept/NOTALINK", nil)
	}
	if s := status("GET", "/kept/NOTALINK", nil); s != 429 {
		t.Errorf("links to what is kept have no limit: %d", s)
	}
	if s := status("GET", "/enter/NOTALINK", nil); s != 410 {
		t.Errorf("a link: %d", s)
	}
	if s := status("POST", "/api/session", strings.NewReader(`{"name":"x","password":"y"}`)); s != 401 {
		t.Errorf("a password: %d", s)
	}
	many := 0
	for range 300 { // nor do posts that are not signed use up a door's
		if status("POST", "/inbox/quayside", strings.NewReader(`{}`)) == 429 {
			many++
		}
	}
	if many == 0 {
		t.Error("unsigned posts have no limit")
	}
	if s, _, _ := send(b, porchtest.Secret, `[]`, time.Now()); s != 202 {
		t.Errorf("a signed one: %d", s)
	}
}

func TestOnlyNamedProxiesTellWhoTheClientIs(t *testing.T) {
	b := porchtest.Launch(t)
	for name, c := range map[string]struct {
		proxies []netip.Prefix
		same    bool // all count as one client
	}{"none is named": {nil, true}, "this machine is": {[]netip.Prefix{netip.MustParsePrefix("127.0.0.0/8")}, false}} {
		t.Run(name, func(t *testing.T) {
			srv := edge(b, io.Discard, func(c2 *api.Config) { c2.Proxies = c.proxies; c2.Public = "https://porch.example" })
			limited := 0
			for i := range 30 {
				req, _ := http.NewRequest("GET", srv.URL+"/enter/NOTALINK", nil)
				req.Header.Set("X-Forwarded-For", fmt.Sprintf("198.51.100.7, 203.0.113.%d", i))
				res, err := http.DefaultClient.Do(req)
				if err != nil {
					t.Fatal(err)
				}
				res.Body.Close()
				if res.StatusCode == 429 {
					limited++
				}
				if res.Header.Get("Strict-Transport-Security") == "" {
					t.Fatal("what is reached over TLS says nothing of it")
				}
			}
			if c.same != (limited > 0) {
				t.Errorf("%d of 30 were limited", limited)
			}
			for header, want := range map[string]int{"": 200, "X-Forwarded-For": 403, "Forwarded": 403} { // what came through a proxy is not this machine
				req, _ := http.NewRequest("GET", srv.URL+"/metrics", nil)
				if header != "" {
					req.Header.Set(header, "127.0.0.1")
				}
				res, err := http.DefaultClient.Do(req)
				if err != nil {
					t.Fatal(err)
				}
				res.Body.Close()
				if res.StatusCode != want {
					t.Errorf("metrics with %q: %d", header, res.StatusCode)
				}
			}
		})
	}
}

func TestLinksInvitationsAndCookiesFollowThePublicAddress(t *testing.T) {
	b := porchtest.Launch(t)
	b.SignIn()
	srv := edge(b, io.Discard, func(c *api.Config) { c.Public = "https://porch.example" })
	m, _ := b.Store.Members.Owner(t.Context(), b.House.ID, "Odalys Brine")
	sum := sha256.Sum256([]byte("PUBLICLINK"))
	b.Store.Members.AddSignIn(t.Context(), tables.SignIn{Hash: hex.EncodeToString(sum[:]), Member: m.ID, Expires: time.Now().Add(time.Hour)})
	client := &http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
	for range 3 { // a preview neither uses it up nor is signed in
		res, err := client.Get(srv.URL + "/enter/PUBLICLINK")
		if err != nil || res.StatusCode != 200 || len(res.Cookies()) > 0 {
			t.Fatalf("%v %v", res, err)
		}
		res.Body.Close()
	}
	res, err := client.Post(srv.URL+"/enter/PUBLICLINK", "", nil)
	if err != nil || len(res.Cookies()) != 1 || !res.Cookies()[0].Secure {
		t.Fatalf("%v %v", res.Cookies(), err)
	}
	res.Body.Close()
	invite, _ := http.NewRequest("POST", srv.URL+"/api/members", strings.NewReader(`{"name":"Rill Marsh","role":"helper"}`))
	invite.AddCookie(&http.Cookie{Name: "porch", Value: res.Cookies()[0].Value})
	var session spec.Session
	ask, _ := http.NewRequest("GET", srv.URL+"/api/session", nil)
	ask.AddCookie(&http.Cookie{Name: "porch", Value: res.Cookies()[0].Value})
	got, err := client.Do(ask)
	if err != nil {
		t.Fatal(err)
	}
	json.NewDecoder(got.Body).Decode(&session)
	got.Body.Close()
	invite.Header.Set("X-Porch-Token", session.Token)
	got, err = client.Do(invite)
	if err != nil {
		t.Fatal(err)
	}
	var link spec.Invited
	json.NewDecoder(got.Body).Decode(&link)
	got.Body.Close()
	if !strings.HasPrefix(link.Link, "https://porch.example/enter/") {
		t.Errorf("%+v", link)
	}
}

func TestALiveStreamEndsWithItsSessionAndThereAreNotTooMany(t *testing.T) {
	b := porchtest.Launch(t)
	b.SignIn()
	helper := as(t, b, "Fen Osier", members.RoleHelper)
	var members []spec.Member
	b.Do("GET", "/api/members", nil, &members)
	follow := func(g *porchtest.Boat) (*http.Response, chan bool) {
		res, err := g.Client.Get(g.Server.URL + "/api/porch/live")
		if err != nil {
			t.Fatal(err)
		}
		ended := make(chan bool)
		go func() { io.Copy(io.Discard, bufio.NewReader(res.Body)); close(ended) }()
		return res, ended
	}
	_, ended := follow(helper.Boat)
	if s := b.Do("DELETE", fmt.Sprintf("/api/members/%d", members[len(members)-1].ID), nil, nil); s != 204 {
		t.Fatal(s)
	}
	select {
	case <-ended:
	case <-time.After(time.Second):
		t.Error("a removed member goes on watching")
	}
	// A change of the password ends all other sessions, and what they watch.
	second := *b
	jar, _ := cookiejar.New(nil)
	second.Client = &http.Client{Jar: jar}
	m, _ := b.Store.Members.Owner(t.Context(), b.House.ID, "Odalys Brine")
	sum := sha256.Sum256([]byte("SECONDBROWSER"))
	b.Store.Members.AddSignIn(t.Context(), tables.SignIn{Hash: hex.EncodeToString(sum[:]), Member: m.ID, Expires: time.Now().Add(time.Hour)})
	if res, err := second.Client.Post(b.Server.URL+"/enter/SECONDBROWSER", "", nil); err == nil {
		res.Body.Close()
	}
	_, ended = follow(&second)
	if s := b.Do("PUT", "/api/session/password", spec.NewPassword{Password: "low water lamp"}, nil); s != 204 {
		t.Fatal(s)
	}
	select {
	case <-ended:
	case <-time.After(time.Second):
		t.Error("another browser goes on watching after the password was changed")
	}
	if second.Do("GET", "/api/porch", nil, nil) != 401 || b.Do("GET", "/api/porch", nil, nil) != 200 {
		t.Error("the wrong sessions ended")
	}
	limited := 0
	for range 12 {
		if b.Do("PUT", "/api/session/password", spec.NewPassword{Password: "another lamp", Current: "guess"}, nil) == 429 {
			limited++
		}
	}
	if limited == 0 {
		t.Error("the current password can be guessed for ever")
	}
	open := 0
	for range 25 {
		res, _ := follow(b)
		defer res.Body.Close()
		if res.StatusCode == 200 {
			open++
		}
	}
	if open != 20 {
		t.Errorf("%d streams of one session", open)
	}
}

func TestABodyThatStopsComingEnds(t *testing.T) {
	b := porchtest.Launch(t)
	conn, err := net.Dial("tcp", strings.TrimPrefix(b.Server.URL, "http://"))
	if err != nil {
		t.Fatal(err)
	}
	defer conn.Close()
	fmt.Fprintf(conn, "POST /inbox/quayside HTTP/1.1\r\nHost: x\r\nContent-Length: 1000\r\n\r\n{\"half\":")
	begun := time.Now()
	conn.SetReadDeadline(time.Now().Add(15 * time.Second))
	line, err := bufio.NewReader(conn).ReadString('\n')
	if took := time.Since(begun); err != nil || !strings.Contains(line, "408") || took < 9*time.Second || took > 13*time.Second {
		t.Errorf("%q after %s, %v", line, took, err)
	}
}

func TestNoLineOfTheLogHoldsATokenAndStrangersLearnNothing(t *testing.T) {
	b := porchtest.Launch(t)
	b.SignIn()
	var log bytes.Buffer
	srv := edge(b, &log, nil)
	client := &http.Client{Jar: b.Client.Jar}
	res, err := http.Get(srv.URL + "/readyz")
	if err != nil {
		t.Fatal(err)
	}
	body, _ := io.ReadAll(res.Body)
	res.Body.Close()
	for _, name := range []string{"quayside", "porchlamp", "127.0.0.1", "dial"} {
		if strings.Contains(string(body), name) {
			t.Errorf("strangers are told %s: %s", name, body)
		}
	}
	mend := b.BreakDatabase()
	defer mend()
	b.Until("the house knows that the database is gone", func() bool { return b.House.Stalled() })
	for _, path := range []string{"/enter/SECRETTOKENOFAMEMBER", "/kept/SECRETTOKENOFAVIEWER", "/api/porch", "/api/courtesies", "/api/session", "/api/book/people", "/api/members", "/api/why?line=1.a.b", "/api/media", "/api/settings/history", "/api/porch/live"} {
		res, err := client.Get(srv.URL + path)
		if err != nil {
			t.Fatal(err)
		}
		res.Body.Close()
		if res.StatusCode != 503 || res.Header.Get("Retry-After") == "" {
			t.Errorf("%s with the database gone: %d, Retry-After %q", path, res.StatusCode, res.Header.Get("Retry-After"))
		}
	}
	if s, _, h := send(b, porchtest.Secret, `[]`, time.Now()); s != 503 || h.Get("Retry-After") == "" {
		t.Errorf("the inbox: %d", s)
	}
	if strings.Contains(log.String(), "SECRETTOKEN") {
		t.Errorf("a token stands in the log: %s", log.String())
	}
}

func TestWhatIsNoPlaceInAListIsRefused(t *testing.T) {
	b := porchtest.Launch(t)
	b.SignIn()
	for _, q := range []string{"sort=seen&after=12:notadate", "sort=name&after=x:%5B", "sort=seen&at=yesterdayish", "sort=attended&after=many:1", "sort=follow&after=1:1e999"} {
		if s := b.Do("GET", "/api/book/people?"+q, nil, nil); s != 400 {
			t.Errorf("%s: %d", q, s)
		}
	}
	for _, q := range []string{"text=lena&after=skip:-5", "text=lena&after=skip:99999999999999999999", "sort=name&at=%25"} {
		if s := b.Do("GET", "/api/book/people?"+q, nil, nil); s != 200 {
			t.Errorf("%s: %d", q, s)
		}
	}
}

func TestANickThatNobodyVouchesForLearnsNothingAndIsForgottenOnlyByAYes(t *testing.T) {
	b := porchtest.Launch(t)
	b.SignIn()
	co := as(t, b, "Fen Osier", members.RoleCoHost)
	b.Do("POST", "/api/desk/stream", spec.DeclareStream{Act: "opened"}, nil)
	asks := b.House.Plan().Settings.Privacy
	says := func(nick bool, text string) []hall.Decision {
		d := &happening.ChatSaid{Text: text}
		d.Person = event.Person{Platform: "quayside", ID: "lena", Login: "lena", Nick: nick}
		rs, err := b.House.Submit(t.Context(), []event.Event{{Door: "quayside-chat", Source: "#r", ID: fmt.Sprint(nick, text), Type: d.Type(), Data: d}})
		if err != nil {
			t.Fatal(err)
		}
		return rs[0].Decisions
	}
	says(false, "evening, it is me")
	says(true, asks.Ask[0])
	for _, d := range says(true, asks.Forget[0]) {
		if d.Kind == "confirm" || d.Kind == hall.Forget || d.Kind == privacy.Show && d.Text != "" {
			t.Errorf("a nick alone is enough for %s", d.Kind)
		}
	}
	says(true, asks.Confirm[0])
	k, err := b.House.Known(t.Context(), "quayside:lena")
	if err != nil || k == nil {
		t.Fatalf("she was forgotten by somebody else: %v", err)
	}
	p := b.Porch()
	if !slices.ContainsFunc(p.Guests, func(g spec.Guest) bool { return g.Login == "lena" && g.Nick }) {
		t.Error("it is not shown that she is known by nick only")
	}
	i := slices.IndexFunc(p.Waiting, func(w spec.Waiting) bool { return w.Kind == "forget" })
	if i < 0 {
		t.Fatalf("it does not wait for a member: %+v", p.Waiting)
	}
	act := spec.WaitingAct{Item: p.Waiting[i].Item, Act: spec.WaitingActActForget}
	if s := co.Do("POST", "/api/desk/waiting", act, nil); s != 403 {
		t.Errorf("a co-host's yes: %d", s)
	}
	if s := b.Do("POST", "/api/desk/waiting", act, nil); s != 200 {
		t.Errorf("the owner's yes: %d", s)
	}
	if k, _ := b.House.Known(t.Context(), "quayside:lena"); k != nil {
		t.Error("she is still known")
	}
	if slices.ContainsFunc(b.Porch().Waiting, func(w spec.Waiting) bool { return w.Kind == "forget" }) {
		t.Error("it still waits")
	}
}
