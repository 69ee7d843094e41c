// Package porchtest runs a whole house for a test: a database of its own, the
// stand-ins on free ports, and the HTTP edge.
package porchtest

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"io"
	"log/slog"
	"net"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"testing/fstest"
	"time"

	"vividporch/api"
	"vividporch/core/housefile"
	"vividporch/demo"
	"vividporch/porch"
	"vividporch/spec"
	"vividporch/standin"
	"vividporch/store"
	"vividporch/store/storetest"
	"vividporch/store/tables"
)

// Secret signs the stand-ins' events.
const Secret = "whsec_dGhlIHF1YXlzaWRlIHN0YW5kLWluIHNpZ25z"

// Boat is a house under test with everything round it.
type Boat struct {
	T      testing.TB
	Store  *store.Store
	House  *porch.House
	Street *standin.Street
	Server *httptest.Server
	Client *http.Client
	Token  string
	Files  string       // the folder that places write their files to
	Log    *Log         // what the house wrote into its log
	Other  *http.Client // another browser, see [Boat.SignIn2]
	stop   func()
	app    *atomic.Pointer[api.Server]
}

// Launch starts it all; change edits the house file first.
func Launch(t testing.TB, change ...func(*housefile.Settings)) *Boat {
	t.Helper()
	ctx := context.Background()
	b := &Boat{T: t, Files: t.TempDir(), Store: storetest.Open(t), app: &atomic.Pointer[api.Server]{}, Log: &Log{}}
	b.Server = httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if app := b.app.Load(); app != nil {
			app.ServeHTTP(w, r)
		}
	}))
	t.Cleanup(b.Server.Close)
	var err error
	b.Street, err = standin.Start(standin.Config{Listen: "127.0.0.1:0", Chat: map[string]string{"quayside": "127.0.0.1:0", "fernlight": "127.0.0.1:0"},
		Inbox: b.Server.URL + "/inbox/", Secrets: map[string]string{"quayside": Secret, "fernlight": Secret}, Channel: "tidepool_hours",
		Streamers: []standin.Streamer{{ID: "9330", Login: "kelpwright", Link: "https://quayside.example/kelpwright", Category: "Cold frame kelp", Live: true}}})
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(b.Street.Close)
	doc := string(demo.House)
	for from, to := range map[string]string{"127.0.0.1:6671": b.Street.Platforms["quayside"].Chat.Address(), "127.0.0.1:6672": b.Street.Platforms["fernlight"].Chat.Address(), "127.0.0.1:6680": b.Street.Address()} {
		doc = strings.ReplaceAll(doc, from, to)
	}
	s, err := housefile.ReadSettings([]byte(doc))
	if err != nil {
		t.Fatal(err)
	}
	for _, f := range change {
		f(s)
	}
	raw, _ := json.Marshal(s)
	id, err := b.Store.Channel(ctx, "tidepool_hours")
	if err != nil {
		t.Fatal(err)
	}
	for _, door := range []string{"quayside", "fernlight"} {
		if err := b.Store.Safe.SetSecret(ctx, id, s, door, "secret", Secret); err != nil {
			t.Fatal(err)
		}
	}
	for _, f := range s.Fittings {
		if err := b.Store.Safe.SetSecret(ctx, id, s, f.Name, "secret", standin.FittingKey); err != nil {
			t.Fatal(err)
		}
	}
	if d := s.DoorNamed("tin"); d != nil && d.Kind == "listen" {
		if err := b.Store.Safe.SetSecret(ctx, id, s, "tin", "token", standin.TinToken); err != nil {
			t.Fatal(err)
		}
	}
	if err := b.Store.Safe.Allow(ctx, id, "127.0.0.1", false); err != nil { // the stand-ins
		t.Fatal(err)
	}
	if err := b.Store.Log.FirstSettings(ctx, id, raw); err != nil {
		t.Fatal(err)
	}
	h, stop, err := porch.Start(ctx, porch.Config{Store: b.Store, Channel: "tidepool_hours", Files: b.Files, Defaults: raw, Public: b.Server.URL, Log: slog.New(slog.NewTextHandler(b.Log, &slog.HandlerOptions{Level: slog.LevelDebug})), Backoff: func(int) time.Duration { return 50 * time.Millisecond }})
	if err != nil {
		t.Fatal(err)
	}
	b.stop = stop
	t.Cleanup(func() { b.stop() })
	b.House = h
	b.serve()
	jar, _ := cookiejar.New(nil)
	b.Client = &http.Client{Jar: jar}
	b.InChat()
	return b
}

// InChat waits until the house is in every chat of its own.
func (b *Boat) InChat() {
	b.T.Helper()
	for _, d := range b.House.Plan().Settings.Doors { // the one that listens; the streamer's own only speaks
		if d.Kind == "irc" && d.As == "" && b.Street.Platforms[d.Platform] != nil {
			b.Until("the house is in "+d.Platform+"'s chat", func() bool {
				return slices.ContainsFunc(b.Street.Platforms[d.Platform].Chat.Here(), func(nick string) bool { return strings.EqualFold(nick, d.Account) })
			})
		}
	}
}

// serve has the edge answer for the house there is now.
func (b *Boat) serve() {
	b.app.Store(api.New(api.Config{House: b.House, Store: b.Store, UI: fstest.MapFS{"index.html": {Data: []byte("<!doctype html>porch")}}}))
}

// SignIn signs the owner in with a one-time link and returns the link's path.
func (b *Boat) SignIn() string {
	b.T.Helper()
	m, err := b.Store.Members.Owner(context.Background(), b.House.ID, "Odalys Brine")
	if err != nil {
		b.T.Fatal(err)
	}
	const token = "LOWWATERLAMPLIT"
	sum := sha256.Sum256([]byte(token))
	if err := b.Store.Members.AddSignIn(context.Background(), tables.SignIn{Hash: hex.EncodeToString(sum[:]), Member: m.ID, Expires: time.Now().Add(time.Hour)}); err != nil {
		b.T.Fatal(err)
	}
	res, err := b.Client.Post(b.Server.URL+"/enter/"+token, "application/x-www-form-urlencoded", nil)
	if err != nil {
		b.T.Fatal(err)
	}
	res.Body.Close()
	var s spec.Session
	if status := b.Do("GET", "/api/session", nil, &s); status != 200 {
		b.T.Fatalf("not signed in: %d", status)
	}
	b.Token = s.Token
	return "/enter/" + token
}

// SignIn2 signs the owner in from another browser too.
func (b *Boat) SignIn2(t testing.TB) {
	t.Helper()
	jar, _ := cookiejar.New(nil)
	mine, token := b.Client, b.Token
	b.Client = &http.Client{Jar: jar}
	b.SignIn()
	b.Other, b.Client, b.Token = b.Client, mine, token
}

// Do asks the API; in is sent and out is filled as JSON where they are not nil.
func (b *Boat) Do(method, path string, in, out any) int {
	b.T.Helper()
	raw, _ := json.Marshal(in)
	req, err := http.NewRequest(method, b.Server.URL+path, bytes.NewReader(raw))
	if err != nil {
		b.T.Fatal(err)
	}
	req.Header.Set("X-Porch-Token", b.Token)
	res, err := b.Client.Do(req)
	if err != nil {
		b.T.Fatal(err)
	}
	defer res.Body.Close()
	body, _ := io.ReadAll(res.Body)
	if out != nil {
		if err := json.Unmarshal(body, out); err != nil {
			b.T.Fatalf("%s %s: %d %s", method, path, res.StatusCode, body)
		}
	}
	return res.StatusCode
}

// patience is how long a condition is waited for: no test is about how busy the machine is.
const patience = 45 * time.Second

// Until waits for a condition.
func (b *Boat) Until(what string, ok func() bool) {
	b.T.Helper()
	for end := time.Now().Add(patience); time.Now().Before(end); time.Sleep(10 * time.Millisecond) {
		if ok() {
			return
		}
	}
	b.T.Fatalf("never: %s", what)
}

// Porch is what the live screen would show now.
func (b *Boat) Porch() spec.Porch {
	b.T.Helper()
	p, err := b.House.Porch(context.Background())
	if err != nil {
		b.T.Fatal(err)
	}
	return p
}

// Said lists what the house said on a platform, as its chat heard it.
func (b *Boat) Said(platform string) []string {
	var out []string
	for _, h := range b.Street.Platforms[platform].Chat.Heard("porchlamp", time.Time{}) {
		out = append(out, h.Text)
	}
	return out
}

// Stop closes the house.
func (b *Boat) Stop() {
	b.stop()
	b.stop = func() {}
}

// Another closes the house and starts a second one on the same database, as a
// restart does.
func (b *Boat) Another() *porch.House { return b.AnotherAt(time.Time{}) }

// AnotherAt is Another at a time of the house's own, from which its clock goes on; zero for the machine's.
func (b *Boat) AnotherAt(at time.Time) *porch.House {
	b.T.Helper()
	b.stop()
	cfg := porch.Config{Store: b.Store, Channel: "tidepool_hours", Files: b.Files, Public: b.Server.URL}
	if began := time.Now(); !at.IsZero() {
		cfg.Clock = func() time.Time { return at.Add(time.Since(began)) }
	}
	h, stop, err := porch.Start(context.Background(), cfg)
	if err != nil {
		b.T.Fatal(err)
	}
	b.stop = stop
	b.House = h
	b.serve()
	return h
}

// BreakDatabase makes the database refuse the house until mend is called.
func (b *Boat) BreakDatabase() (mend func()) {
	b.T.Helper()
	var name string
	if err := b.Store.SQL.QueryRow("SELECT current_database()").Scan(&name); err != nil {
		b.T.Fatal(err)
	}
	admin := storetest.Admin(b.T)
	for _, q := range []string{"ALTER DATABASE " + name + " ALLOW_CONNECTIONS false", "SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = '" + name + "'"} {
		if _, err := admin.Exec(q); err != nil {
			b.T.Fatal(err)
		}
	}
	return func() {
		if _, err := admin.Exec("ALTER DATABASE " + name + " ALLOW_CONNECTIONS true"); err != nil {
			b.T.Fatal(err)
		}
	}
}

// FreeAddress is an address on loopback nobody listens on.
func FreeAddress(t testing.TB) string {
	ln, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	defer ln.Close()
	return ln.Addr().String()
}

// Log gathers what is written into it.
type Log struct {
	mu   sync.Mutex
	text bytes.Buffer
}

// Write takes a piece.
func (l *Log) Write(p []byte) (int, error) {
	l.mu.Lock()
	defer l.mu.Unlock()
	return l.text.Write(p)
}

// String is all of it.
func (l *Log) String() string {
	l.mu.Lock()
	defer l.mu.Unlock()
	return l.text.String()
}
