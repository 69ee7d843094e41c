package soak_test

import (
	"encoding/json"
	"fmt"
	"io"
	"math/rand/v2"
	"net"
	"net/http"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"vividporch/core/courtesy"
	"vividporch/core/housefile"
	"vividporch/core/output"
)

// outside are places that behave as badly as places do, and note what they took.
type outside struct {
	mu    sync.Mutex
	r     *rand.Rand
	dead  atomic.Bool
	slow  int
	asked map[string]int
	took  map[string][]taking // by place
	keys  map[string]bool
	odd   []string // what was posted besides
}

type taking struct {
	n  int // of the happening
	at time.Time
}

const (
	happenings = 2000
	oddly      = 0.15 // how often a place answers with an error, or drops the connection
	slowFor    = 20
)

// ServeHTTP takes a post for the place that the path names. A post under a key that was taken already is one and the same.
func (o *outside) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	place := strings.TrimPrefix(r.URL.Path, "/")
	var in struct{ Text string }
	raw, err := io.ReadAll(r.Body)
	if err != nil || json.Unmarshal(raw, &in) != nil {
		http.Error(w, "?", http.StatusBadRequest)
		return
	}
	o.mu.Lock()
	luck, waits := o.r.Float64(), 0
	o.asked[place]++
	if place == "slow" && o.slow < slowFor {
		o.slow++
		waits = 10
	}
	o.mu.Unlock()
	switch {
	case place == "dead" && o.dead.Load():
		abandon(w)
		return
	case place == "asks" && luck < oddly/2:
		w.Header().Set("Retry-After", "1")
		http.Error(w, "slowly", http.StatusTooManyRequests)
		return
	case place == "odd" && luck < oddly:
		http.Error(w, "oh", http.StatusInternalServerError)
		return
	case waits > 0:
		select {
		case <-time.After(time.Duration(waits) * time.Second):
		case <-r.Context().Done():
			return
		}
	}
	o.mu.Lock()
	if key := place + " " + r.Header.Get("Idempotency-Key"); !o.keys[key] {
		o.keys[key] = true
		n := 0
		if _, err := fmt.Sscanf(in.Text, "walker%d follows", &n); err != nil {
			o.odd = append(o.odd, in.Text)
		} else {
			o.took[place] = append(o.took[place], taking{n, time.Now()})
		}
	}
	o.mu.Unlock()
	if place == "drops" && luck < oddly { // it has taken it, and does not say so
		abandon(w)
	}
}

func abandon(w http.ResponseWriter) {
	if conn, _, err := http.NewResponseController(w).Hijack(); err == nil {
		conn.Close()
	}
}

// Happenings go to places of which each fails in its own way, while the house is killed and the database restarts: at the
// end each place has each happening once and in order, and those that are well never waited for the others.
func TestEveryPlaceGetsEachHappeningOnceAndInOrderWhateverTheOthersDo(t *testing.T) {
	if budget(t, 1) < 5*time.Minute {
		t.Skip("the slow place alone takes three minutes")
	}
	o := &outside{r: rand.New(rand.NewPCG(3, 9)), asked: map[string]int{}, took: map[string][]taking{}, keys: map[string]bool{}}
	o.dead.Store(true)
	ln, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	srv := &http.Server{Handler: o}
	go srv.Serve(ln)
	t.Cleanup(func() { srv.Close() })
	names := []string{"well", "hale", "dead", "asks", "odd", "slow", "drops"}
	p := launch(t, func(s *housefile.Settings) {
		c := courtesy.Courtesy{ID: "log", On: true, When: "porch.person.followed", OffLine: true}
		for _, name := range names {
			s.Places = append(s.Places, housefile.Place{Name: name, Title: name, URL: "http://" + ln.Addr().String() + "/" + name, TimeoutSeconds: 20})
			c.Do = append(c.Do, output.Output{ID: name, Do: &output.Relay{Place: name}, Alternatives: []string{"{name} follows"}})
		}
		s.Courtesy = append(s.Courtesy, c)
	})
	for i := range p.cmd { // again and again at once: the waits are River's and the relay's business, tested there
		p.cmd[i].Process.Kill()
		p.cmd[i].Wait()
	}
	p.env = append(p.env, "PORCH_QUICK_RETRY=1")
	for i := range p.cmd {
		p.start(i)
	}
	p.owner(30*time.Second, "the start")

	sent := make([]time.Time, happenings)
	var told sync.WaitGroup
	told.Go(func() {
		for n := range happenings {
			id := fmt.Sprintf("f-%d", n)
			body := fmt.Sprintf(`{"specversion":"1.0","id":%q,"source":"s","type":"porch.person.followed","data":{"person":{"platform":"quayside","id":"w%d","login":"walker%d"}}}`, id, n, n)
			for i := 0; !p.post(i%2, id, body); i++ {
				time.Sleep(20 * time.Millisecond)
			}
			sent[n] = time.Now()
			time.Sleep(50 * time.Millisecond)
		}
	})
	for i := range 5 {
		time.Sleep(16 * time.Second)
		at := p.owner(15*time.Second, "a quiet moment")
		p.cmd[at].Process.Kill()
		p.cmd[at].Wait()
		p.owner(15*time.Second, "a kill")
		p.start(at)
		switch i {
		case 2:
			p.cluster.Stop()
			p.cluster.Start()
			p.owner(20*time.Second, "a restart of the database")
		case 3:
			o.dead.Store(false)
		}
	}
	told.Wait()
	for end := time.Now().Add(6 * time.Minute); time.Now().Before(end); time.Sleep(500 * time.Millisecond) {
		o.mu.Lock()
		all := 0
		for _, name := range names {
			all += len(o.took[name])
		}
		o.mu.Unlock()
		if all >= happenings*len(names) {
			break
		}
	}
	o.mu.Lock()
	defer o.mu.Unlock()
	if len(o.odd) > 0 {
		t.Errorf("%d other posts: %.200q", len(o.odd), o.odd)
	}
	for _, name := range names {
		var ns []int
		var delays []time.Duration
		for _, x := range o.took[name] {
			ns, delays = append(ns, x.n), append(delays, x.at.Sub(sent[x.n]))
		}
		slices.Sort(delays)
		median := delays[len(delays)/2].Round(time.Millisecond)
		t.Logf("%-6s %d happenings in %d requests, median delay %s, longest %s", name, len(ns), o.asked[name], median, delays[len(delays)-1].Round(time.Millisecond))
		if len(ns) != happenings {
			t.Errorf("%s has %d happenings of %d", name, len(ns), happenings)
		}
		if !slices.IsSorted(ns) {
			t.Errorf("%s has them in another order", name)
		}
		if unique := slices.Compact(slices.Sorted(slices.Values(ns))); len(unique) != len(ns) {
			t.Errorf("%s has %d of them twice", name, len(ns)-len(unique))
		}
		if (name == "well" || name == "hale") && median > time.Second {
			t.Errorf("%s waited: the median delay is %s", name, median)
		}
	}
}
