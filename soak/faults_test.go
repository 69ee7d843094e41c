package soak_test

import (
	"bytes"
	"context"
	"database/sql"
	"encoding/base64"
	"encoding/json"
	"fmt"
	"io"
	"math/rand/v2"
	"net"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"sync"
	"sync/atomic"
	"syscall"
	"testing"
	"time"

	webhooks "github.com/standard-webhooks/standard-webhooks/libraries/go"

	"vividporch/core/courtesy"
	"vividporch/core/happening"
	"vividporch/core/house/housetest"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/core/profile"
	"vividporch/standin"
	"vividporch/store"
	"vividporch/store/storetest"
)

const signs = "whsec_dGhlIHF1YXlzaWRlIHN0YW5kLWluIHNpZ25z"

// pair is two processes that may look after one channel, with a chat and a database of
// their own.
type pair struct {
	t        *testing.T
	bin      string
	env      []string
	listen   [2]string
	cmd      [2]*exec.Cmd
	cluster  *storetest.Cluster
	chat     *standin.Chat
	r        *rand.Rand
	taken    sync.Map // ids that were answered 202
	sent     atomic.Int64
	finished atomic.Bool
}

func free(t *testing.T) string {
	ln, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	defer ln.Close()
	return ln.Addr().String()
}

func launch(t *testing.T, change ...func(*housefile.Settings)) *pair {
	p := &pair{t: t, bin: filepath.Join(t.TempDir(), "vividporch"), cluster: storetest.NewCluster(t), r: rand.New(rand.NewPCG(uint64(time.Now().UnixNano()), 1))}
	if out, err := exec.Command("go", "build", "-o", p.bin, "../cmd/vividporch").CombinedOutput(); err != nil {
		t.Fatalf("%v\n%s", err, out)
	}
	p.chat = &standin.Chat{Room: "#tidepool_hours", Tags: standin.ChatTags{ID: "id", Name: "name", Roles: "roles"}}
	if err := p.chat.Listen("127.0.0.1:0"); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(p.chat.Close)
	s := housetest.Base()
	s.Pace = housefile.Pace{WaitSeconds: 60, JoinEverySeconds: 1, GapSeconds: 0.01}
	s.Grace = new(3600.0)
	s.Places, s.Fittings = nil, nil
	s.Doors = []housefile.Door{{Name: "quayside", Kind: "inbox", Platform: "quayside"},
		{Name: "quayside-chat", Kind: "irc", Platform: "quayside", Address: p.chat.Address(), Room: "#tidepool_hours", Account: "porchlamp"}}
	s.Profiles = []profile.Profile{{Format: profile.Format, Platform: "quayside", Chat: profile.Chat{IDTag: "id", NameTag: "name"}}}
	s.Courtesy = []courtesy.Courtesy{
		{ID: "greet", On: true, When: happening.Arrival, Slot: happening.Greeting, OffLine: true, Do: []output.Output{{ID: "chat", Do: &output.Say{}, Alternatives: []string{"Welcome, {name}"}}}},
		{ID: "lamp", On: true, When: happening.Command, Asks: []string{"!lamp"}, Slot: happening.Answer, OffLine: true, Do: []output.Output{{ID: "chat", Do: &output.Say{}, Alternatives: []string{"Lit, {name}: {rest}"}}}},
	}
	s.Courtesy[1].Do[0].Alternatives = []string{"Lit{hasRest, select, yes {: {rest}} other {}}"}
	for _, f := range change {
		f(s)
	}
	raw, _ := json.Marshal(s)
	file := filepath.Join(t.TempDir(), "house.json")
	if err := os.WriteFile(file, raw, 0o600); err != nil {
		t.Fatal(err)
	}
	st, err := store.Open(t.Context(), p.cluster.URL())
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
	if err := st.Safe.Allow(t.Context(), id, "127.0.0.1", false); err != nil {
		t.Fatal(err)
	}
	p.env = append(os.Environ(), "PORCH_DATABASE="+p.cluster.URL(), "PORCH_HOUSE="+file, "PORCH_KEY="+base64.StdEncoding.EncodeToString(make([]byte, 32)))
	for i := range p.cmd {
		p.listen[i] = free(t)
		p.start(i)
	}
	t.Cleanup(func() {
		for _, c := range p.cmd {
			c.Process.Signal(syscall.SIGCONT)
			c.Process.Kill()
			c.Wait()
		}
	})
	return p
}

func (p *pair) start(i int) {
	c := exec.Command(p.bin, "serve")
	c.Env = append(slices.Clone(p.env), "PORCH_LISTEN="+p.listen[i])
	if os.Getenv("PORCH_SOAK_LOUD") != "" {
		c.Stderr = os.Stderr
	}
	if err := c.Start(); err != nil {
		p.t.Fatal(err)
	}
	p.cmd[i] = c
}

func (p *pair) looksAfter(i int) bool {
	ctx, cancel := context.WithTimeout(context.Background(), 3*time.Second)
	defer cancel()
	req, _ := http.NewRequestWithContext(ctx, http.MethodGet, "http://"+p.listen[i]+"/readyz", nil)
	res, err := http.DefaultClient.Do(req)
	if err != nil {
		return false
	}
	res.Body.Close()
	return res.StatusCode == 200
}

// owner waits until one process looks after the channel, and tells which.
func (p *pair) owner(most time.Duration, after string) int {
	p.t.Helper()
	for end := time.Now().Add(most); time.Now().Before(end); time.Sleep(30 * time.Millisecond) {
		for i := range p.cmd {
			if p.looksAfter(i) {
				return i
			}
		}
	}
	p.t.Fatalf("nobody looks after the channel within %s after %s", most, after)
	return -1
}

// load posts lines of many people, odd ones among them, each until it was taken.
func (p *pair) load(worker int) {
	r := rand.New(rand.NewPCG(uint64(worker), 9))
	for n := 0; !p.finished.Load(); n++ {
		id := fmt.Sprintf("w%d-%d", worker, n)
		text, _ := json.Marshal("what a tide " + housetest.Odd(r))
		body := fmt.Sprintf(`{"specversion":"1.0","id":%q,"source":"s","type":"porch.chat.said","data":{"person":{"platform":"quayside","id":"p%d","login":"login%d"},"text":%s}}`, id, r.IntN(400), r.IntN(400), text)
		p.sent.Add(1)
		for i := r.IntN(2); !p.finished.Load(); i++ {
			if p.post(i%2, id, body) {
				p.taken.Store(id, true)
				break
			}
			time.Sleep(20 * time.Millisecond)
		}
		time.Sleep(time.Duration(r.IntN(8)) * time.Millisecond)
	}
}

func (p *pair) post(i int, id, body string) bool {
	wh, _ := webhooks.NewWebhook(signs)
	now := time.Now()
	sig, _ := wh.Sign(id, now, []byte(body))
	ctx, cancel := context.WithTimeout(context.Background(), 12*time.Second)
	defer cancel()
	req, _ := http.NewRequestWithContext(ctx, http.MethodPost, "http://"+p.listen[i]+"/inbox/quayside", bytes.NewReader([]byte(body)))
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

// Kills, a database that is stopped, hangs and restarts, and locks that are lost, with
// two processes and a steady crowd: at the end the house speaks, what was answered 202
// is in the log once or is set aside, and nobody was greeted twice.
func TestAHouseOutlivesWhateverHappensRoundIt(t *testing.T) {
	end := time.Now().Add(budget(t, 0.42))
	p := launch(t)
	p.owner(30*time.Second, "the start")
	var crowd sync.WaitGroup
	for w := range 4 {
		crowd.Go(func() { p.load(w) })
	}
	happened := map[string]int{}
	for time.Now().Before(end) {
		time.Sleep(time.Duration(1+p.r.IntN(4)) * time.Second)
		o := p.owner(12*time.Second, "a quiet moment")
		what := ""
		switch p.r.IntN(6) {
		case 0, 1:
			what = "a kill"
			p.cmd[o].Process.Kill()
			p.cmd[o].Wait()
			p.owner(10*time.Second, what)
			p.start(o)
		case 2:
			what = "a stop of the database"
			p.cluster.Stop()
			time.Sleep(time.Duration(p.r.IntN(3000)) * time.Millisecond)
			p.cluster.Start()
		case 3:
			what = "a hang of the database"
			p.cluster.Hang()
			time.Sleep(time.Duration(3+p.r.IntN(6)) * time.Second)
			p.cluster.Resume()
		case 4:
			what = "a lost lock"
			if db, err := sql.Open("pgx", p.cluster.URL()); err == nil {
				db.Exec("SELECT pg_terminate_backend(pid) FROM pg_locks WHERE locktype = 'advisory' AND classid = 7206102")
				db.Close()
			}
		case 5:
			what = "a stop of both"
			for i := range p.cmd {
				p.cmd[i].Process.Signal(os.Interrupt)
				p.cmd[i].Wait()
				p.start(i)
			}
		}
		happened[what]++
		p.owner(15*time.Second, what)
	}
	o := p.owner(15*time.Second, "it all")
	if p.looksAfter(1-o) && p.looksAfter(o) {
		t.Error("both look after the channel")
	}
	p.finished.Store(true)
	crowd.Wait()
	p.speaks()
	p.onlyOnce(happened)
}

// speaks asks for the lamp in chat until the house answers.
func (p *pair) speaks() {
	p.t.Helper()
	for end := time.Now().Add(30 * time.Second); time.Now().Before(end); time.Sleep(500 * time.Millisecond) {
		p.chat.Say(standin.Viewer{ID: "asker", Login: "asker"}, "!lamp please")
		for range 20 {
			time.Sleep(50 * time.Millisecond)
			for _, h := range p.chat.Heard("porchlamp", time.Time{}) {
				if strings.HasPrefix(h.Text, "Lit") {
					return
				}
			}
		}
	}
	p.t.Error("the house does not speak any more")
}

func (p *pair) onlyOnce(happened map[string]int) {
	p.t.Helper()
	db, err := sql.Open("pgx", p.cluster.URL())
	if err != nil {
		p.t.Fatal(err)
	}
	defer db.Close()
	logged, aside := map[string]int{}, map[string]bool{}
	rows, err := db.Query("SELECT id, count(*) FROM events WHERE door = 'quayside' GROUP BY id")
	if err != nil {
		p.t.Fatal(err)
	}
	for rows.Next() {
		var id string
		var n int
		rows.Scan(&id, &n)
		logged[id] = n
	}
	rows.Close()
	if rows, err = db.Query("SELECT convert_from(event, 'UTF8')::json->>'id' FROM set_aside"); err == nil {
		for rows.Next() {
			var id string
			rows.Scan(&id)
			aside[id] = true
		}
		rows.Close()
	}
	taken, lost, twice := 0, 0, 0
	p.taken.Range(func(id, _ any) bool {
		taken++
		switch n := logged[id.(string)]; {
		case n == 0 && !aside[id.(string)]:
			lost++
		case n > 1:
			twice++
		}
		return true
	})
	var most, count, greeted, streams int
	db.QueryRow("SELECT max(seq), count(*) FROM events").Scan(&most, &count)
	db.QueryRow("SELECT count(*) FROM streams").Scan(&streams)
	// Between streams a greeting is once for each person.
	db.QueryRow(`SELECT count(*) FROM (SELECT person FROM decisions WHERE courtesy = 'greet' AND kind IN ('plan', 'say') AND body->>'plan' IS NOT NULL GROUP BY person HAVING count(*) > 1) x`).Scan(&greeted)
	heard := map[string]int{}
	for _, h := range p.chat.Heard("porchlamp", time.Time{}) {
		if strings.HasPrefix(h.Text, "Welcome") {
			heard[h.Text]++
		}
	}
	p.t.Logf("%v; %d taken, %d in the log, %d set aside, %d greeted in chat", happened, taken, count, len(aside), len(heard))
	if taken < 200 || lost > 0 || twice > 0 || most != count || greeted > 0 || len(aside) > 0 {
		p.t.Errorf("%d of %d taken are lost, %d twice; %d events up to number %d; %d people greeted twice, %d streams, %d set aside", lost, taken, twice, count, most, greeted, streams, len(aside))
	}
}
