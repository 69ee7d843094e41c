package main

import (
	"bytes"
	"context"
	"database/sql"
	"encoding/base64"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"sync"
	"sync/atomic"
	"syscall"
	"testing"
	"time"

	webhooks "github.com/standard-webhooks/standard-webhooks/libraries/go"

	"vividporch/core/house/housetest"
	"vividporch/core/housefile"
	"vividporch/store"
	"vividporch/store/storetest"
)

const signs = "whsec_dGhlIHF1YXlzaWRlIHN0YW5kLWluIHNpZ25z"

// process is a house that runs as a program of its own.
type process struct {
	t      *testing.T
	cmd    *exec.Cmd
	listen string
	said   *lines
}

// lines gathers what a program says.
type lines struct {
	mu  sync.Mutex
	all strings.Builder
}

func (l *lines) Write(p []byte) (int, error) {
	l.mu.Lock()
	defer l.mu.Unlock()
	return l.all.Write(p)
}

func (l *lines) String() string {
	l.mu.Lock()
	defer l.mu.Unlock()
	return l.all.String()
}

func serving(t *testing.T, bin, url, houseFile string) *process {
	t.Helper()
	p := &process{t: t, listen: freeAddress(t), said: &lines{}}
	p.cmd = exec.Command(bin, "serve")
	p.cmd.Env = append(os.Environ(), "PORCH_DATABASE="+url, "PORCH_LISTEN="+p.listen, "PORCH_HOUSE="+houseFile, "PORCH_KEY="+base64.StdEncoding.EncodeToString(make([]byte, 32)))
	p.cmd.Stdout, p.cmd.Stderr = p.said, p.said
	if err := p.cmd.Start(); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { p.cmd.Process.Signal(syscall.SIGCONT); p.cmd.Process.Kill(); p.cmd.Wait() })
	return p
}

// ready is what a process answers on /readyz: its status, and the body.
func (p *process) ready() (int, string) {
	ctx, cancel := context.WithTimeout(context.Background(), 3*time.Second)
	defer cancel()
	req, _ := http.NewRequestWithContext(ctx, http.MethodGet, "http://"+p.listen+"/readyz", nil)
	res, err := http.DefaultClient.Do(req)
	if err != nil {
		return 0, err.Error()
	}
	defer res.Body.Close()
	body, _ := io.ReadAll(res.Body)
	return res.StatusCode, string(body)
}

func (p *process) looksAfter() bool { s, _ := p.ready(); return s == 200 }

// post sends one signed event and reports whether it was taken.
func (p *process) post(id string) bool {
	body := fmt.Sprintf(`{"specversion":"1.0","id":%q,"source":"s","type":"porch.chat.said","data":{"person":{"platform":"quayside","id":"%d","login":"l"},"text":"line %s"}}`, id, len(id)%7, id)
	wh, _ := webhooks.NewWebhook(signs)
	now := time.Now()
	sig, _ := wh.Sign(id, now, []byte(body))
	ctx, cancel := context.WithTimeout(context.Background(), 8*time.Second)
	defer cancel()
	req, _ := http.NewRequestWithContext(ctx, http.MethodPost, "http://"+p.listen+"/inbox/quayside", bytes.NewReader([]byte(body)))
	req.Header.Set(webhooks.HeaderWebhookID, id)
	req.Header.Set(webhooks.HeaderWebhookTimestamp, strconv.FormatInt(now.Unix(), 10))
	req.Header.Set(webhooks.HeaderWebhookSignature, sig)
	res, err := http.DefaultClient.Do(req)
	if err != nil {
		return false
	}
	defer res.Body.Close()
	io.Copy(io.Discard, res.Body)
	return res.StatusCode == http.StatusAccepted
}

// sender posts events to whichever process takes them, until it is stopped. Each is
// sent again until it was taken, as a platform does.
type sender struct {
	taken []string
	count atomic.Int64 // of them
	stop  atomic.Bool
	done  sync.WaitGroup
}

// few is how many events are taken at least in a test, so that it says something.
const few = 50

// reaches waits until so many were taken.
func (s *sender) reaches(t *testing.T, n int64) {
	t.Helper()
	within(t, time.Minute, fmt.Sprintf("%d events are taken", n), func() bool { return s.count.Load() >= n })
}

func send(to ...*process) *sender {
	s := &sender{}
	s.done.Go(func() {
		for n := 0; !s.stop.Load(); n++ {
			id := fmt.Sprint("e", n)
			for i := 0; !s.stop.Load(); i++ {
				if to[i%len(to)].post(id) {
					s.taken = append(s.taken, id)
					s.count.Add(1)
					break
				}
				time.Sleep(20 * time.Millisecond)
			}
		}
	})
	return s
}

func (s *sender) end() []string { s.stop.Store(true); s.done.Wait(); return s.taken }

// plainHouse is a database with a house that has one signed door and nothing round it.
func plainHouse(t *testing.T, c *storetest.Cluster) (bin, houseFile string) {
	t.Helper()
	dir := t.TempDir()
	bin, houseFile = filepath.Join(dir, "vividporch"), filepath.Join(dir, "house.json")
	if out, err := exec.Command("go", "build", "-o", bin, ".").CombinedOutput(); err != nil {
		t.Fatalf("%v\n%s", err, out)
	}
	s := housetest.Base()
	s.Doors = []housefile.Door{{Name: "quayside", Kind: "inbox", Platform: "quayside"}}
	raw, _ := json.Marshal(s)
	if err := os.WriteFile(houseFile, raw, 0o600); err != nil {
		t.Fatal(err)
	}
	st, err := store.Open(t.Context(), c.URL())
	if err != nil {
		t.Fatal(err)
	}
	defer st.Close()
	if err := st.Safe.UseKey(make([]byte, 32)); err != nil {
		t.Fatal(err)
	}
	id, err := st.Channel(t.Context(), "tidepool_hours")
	if err != nil {
		t.Fatal(err)
	}
	if err := st.Safe.SetSecret(t.Context(), id, s, "quayside", "secret", signs); err != nil {
		t.Fatal(err)
	}
	return bin, houseFile
}

func within(t *testing.T, most time.Duration, what string, ok func() bool) {
	t.Helper()
	begun := time.Now()
	for !ok() {
		if time.Since(begun) > most {
			t.Fatalf("not within %s: %s", most, what)
		}
		time.Sleep(30 * time.Millisecond)
	}
}

// each event that was taken stands in the log once, or is set aside.
func loggedOnce(t *testing.T, url string, taken []string) {
	t.Helper()
	db, err := sql.Open("pgx", url)
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	rows, err := db.Query("SELECT id, count(*) FROM events WHERE door = 'quayside' GROUP BY id")
	if err != nil {
		t.Fatal(err)
	}
	defer rows.Close()
	times := map[string]int{}
	for rows.Next() {
		var id string
		var n int
		rows.Scan(&id, &n)
		times[id] = n
	}
	lost, twice := 0, 0
	for _, id := range taken {
		if times[id] == 0 {
			lost++
		}
	}
	for _, n := range times {
		if n > 1 {
			twice++
		}
	}
	var most, count int64
	db.QueryRow("SELECT max(seq), count(*) FROM events").Scan(&most, &count)
	if len(taken) < few || lost > 0 || twice > 0 || most != count {
		t.Errorf("%d were taken: %d lost, %d twice; the log has %d events up to number %d", len(taken), lost, twice, count, most)
	}
}

func TestAStandbyWaitsSurvivesARestartOfTheDatabaseAndTakesOver(t *testing.T) {
	c := storetest.NewCluster(t)
	bin, houseFile := plainHouse(t, c)
	first := serving(t, bin, c.URL(), houseFile)
	within(t, 20*time.Second, "the first looks after the channel", first.looksAfter)
	second := serving(t, bin, c.URL(), houseFile)
	within(t, 10*time.Second, "the second says that it stands by", func() bool {
		s, body := second.ready()
		return s == 503 && strings.Contains(body, "standing by") && strings.Contains(second.said.String(), "standing by")
	})
	load := send(first, second)
	time.Sleep(500 * time.Millisecond)

	c.Stop()
	within(t, 5*time.Second, "the first says that the database is gone", func() bool { s, body := first.ready(); return s == 503 && strings.Contains(body, "gone") })
	c.Start()
	within(t, 10*time.Second, "one of them looks after the channel again", func() bool { return first.looksAfter() || second.looksAfter() })
	time.Sleep(time.Second)
	if first.looksAfter() && second.looksAfter() {
		t.Fatal("both look after the channel")
	}

	owner, other := first, second
	if second.looksAfter() {
		owner, other = second, first
	}
	// The owner's lock is lost while it lives and works, and the other takes it.
	db, err := sql.Open("pgx", c.URL())
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	for range 40 { // until the standby was the quicker one
		if _, err := db.Exec("SELECT pg_terminate_backend(pid) FROM pg_locks WHERE locktype = 'advisory' AND classid = 7206102"); err != nil {
			t.Fatal(err)
		}
		time.Sleep(400 * time.Millisecond)
		if other.looksAfter() {
			break
		}
	}
	within(t, 10*time.Second, "the other looks after the channel", other.looksAfter)
	within(t, 10*time.Second, "the stale owner stands by", func() bool { s, body := owner.ready(); return s == 503 && strings.Contains(body, "standing by") })

	other.cmd.Process.Kill()
	killed := time.Now()
	within(t, 10*time.Second, "the one that stood by takes over", owner.looksAfter)
	t.Logf("took over after %s", time.Since(killed))
	load.reaches(t, max(few, load.count.Load()+5)) // and it goes on
	loggedOnce(t, c.URL(), load.end())
}

func TestADatabaseThatHangsIsNoticedWithinFiveSeconds(t *testing.T) {
	c := storetest.NewCluster(t)
	bin, houseFile := plainHouse(t, c)
	p := serving(t, bin, c.URL(), houseFile)
	within(t, 20*time.Second, "it looks after the channel", p.looksAfter)
	load := send(p)
	time.Sleep(300 * time.Millisecond)
	c.Hang()
	hung := time.Now()
	within(t, 5*time.Second, "readiness says so", func() bool { s, body := p.ready(); return s == 503 && strings.Contains(body, "gone") })
	within(t, 5*time.Second-time.Since(hung), "the log says so", func() bool { return strings.Contains(p.said.String(), "the database does not answer") })
	req, _ := http.NewRequest(http.MethodPost, "http://"+p.listen+"/inbox/quayside", strings.NewReader("{}"))
	begun := time.Now()
	res, err := http.DefaultClient.Do(req)
	if err != nil {
		t.Fatal(err)
	}
	res.Body.Close()
	if res.StatusCode != 503 || res.Header.Get("Retry-After") == "" || time.Since(begun) > 5*time.Second {
		t.Errorf("the inbox answers %d after %s, Retry-After %q", res.StatusCode, time.Since(begun), res.Header.Get("Retry-After"))
	}
	for _, path := range []string{"/api/porch", "/enter/NOTALINK", "/kept/NOTALINK"} {
		begun := time.Now()
		req, _ := http.NewRequest(http.MethodGet, "http://"+p.listen+path, nil)
		req.AddCookie(&http.Cookie{Name: "porch", Value: "x"})
		res, err := http.DefaultClient.Do(req)
		if err != nil {
			t.Fatal(err)
		}
		res.Body.Close()
		if res.StatusCode != 503 || time.Since(begun) > 6*time.Second {
			t.Errorf("%s answers %d after %s", path, res.StatusCode, time.Since(begun))
		}
	}
	c.Resume()
	within(t, 10*time.Second, "it is well again", p.looksAfter)
	load.reaches(t, max(few, load.count.Load()+5)) // and it goes on
	loggedOnce(t, c.URL(), load.end())
}
