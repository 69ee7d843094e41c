package main

import (
	"bytes"
	"context"
	"encoding/base64"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"net"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"vividporch/core/housefile"
	"vividporch/demo"
	"vividporch/standin"
	"vividporch/store"
	"vividporch/store/storetest"
)

// rounds is how often each of the two evenings below is killed: ten times where there is time for it.
func rounds() int {
	if os.Getenv("PORCH_SOAK") != "" {
		return 10
	}
	return 3
}

// down is a time in which lines may be missed: from a quarter of a second before
// a kill until the house is in the chat again.
// down is a time in which the house was down. A line of chat that was heard and not
// yet in the log when it was killed is lost: no chat network tells it again. So a
// down time begins, for each platform, with the last line that was written down.
type down struct {
	from, to time.Time
	last     map[string]time.Time // by platform: its last line in the log
}

// behindMost is how far the log may lag behind chat on a busy machine.
const behindMost = 4 * time.Second

// excuses reports whether a line may be missing because of this down time.
func (d *down) excuses(platform string, at time.Time) bool {
	from := d.from
	if last := d.last[platform]; last.Before(from) {
		from = last
	}
	if least := d.from.Add(-behindMost); from.Before(least) {
		from = least
	}
	return !at.Before(from) && !at.After(d.to)
}

func TestAHouseKilledInMidEveningGreetsNobodyTwiceAndLosesNothing(t *testing.T) {
	bin := filepath.Join(t.TempDir(), "vividporch")
	if out, err := exec.Command("go", "build", "-o", bin, ".").CombinedOutput(); err != nil {
		t.Fatalf("%v\n%s", err, out)
	}
	for _, ignores := range []bool{false, true} {
		t.Run(fmt.Sprintf("a place that ignores keys %v", ignores), func(t *testing.T) { killed(t, bin, ignores) })
	}
}

func killed(t *testing.T, bin string, ignores bool) {
	url := storetest.URL(t)
	listen := freeAddress(t)
	cfg := streetConfig(demoPorts{freeAddress(t), freeAddress(t), freeAddress(t)}, "http://"+listen+"/inbox/")
	street, err := standin.Start(cfg)
	if err != nil {
		t.Fatal(err)
	}
	defer street.Close()
	street.Boathouse.SetIgnoresKeys(ignores)
	street.Player.SetSpeed(700) // twenty-five minutes in two seconds
	houseFile := houseFileFor(t, cfg, street, ignores)
	ctx := context.Background()
	st, err := store.Open(ctx, url)
	if err != nil {
		t.Fatal(err)
	}
	defer st.Close()
	id, err := st.Channel(ctx, "tidepool_hours")
	if err != nil {
		t.Fatal(err)
	}
	if err := st.Safe.UseKey(make([]byte, 32)); err != nil {
		t.Fatal(err)
	}
	raw, err := os.ReadFile(houseFile)
	if err != nil {
		t.Fatal(err)
	}
	settings, err := housefile.ReadSettings(raw)
	if err != nil {
		t.Fatal(err)
	}
	if err := seed(ctx, st, id, settings, time.Now()); err != nil {
		t.Fatal(err)
	}
	start := func() *exec.Cmd {
		cmd := exec.Command(bin, "serve")
		cmd.Env = append(os.Environ(), "PORCH_DATABASE="+url, "PORCH_LISTEN="+listen, "PORCH_HOUSE="+houseFile, "PORCH_QUICK_RETRY=1", "PORCH_KEY="+base64.StdEncoding.EncodeToString(make([]byte, 32)))
		cmd.Stderr = os.Stderr
		if err := cmd.Start(); err != nil {
			t.Fatal(err)
		}
		return cmd
	}
	here := func() bool {
		for _, p := range street.Platforms {
			if !slices.Contains(p.Chat.Here(), "porchlamp") {
				return false
			}
		}
		return true
	}
	var downs []down
	cmd := start()
	defer func() { cmd.Process.Kill(); cmd.Wait() }()
	wait(t, "the house is in both chats", here)
	for round := range rounds() {
		street.Player.Play()
		begun := time.Now()
		time.Sleep(time.Duration(100+rand.IntN(1900)) * time.Millisecond) // a random point of the evening, not a wait for a condition
		d := down{from: time.Now().Add(-250 * time.Millisecond)}
		cmd.Process.Kill()
		cmd.Wait()
		d.last = lastLines(t, st)
		wait(t, "the chats have noticed", func() bool { return !here() })
		cmd = start()
		wait(t, "the house is back", here)
		d.to = time.Now()
		downs = append(downs, d)
		wait(t, "the evening is over", func() bool { return !street.Player.State().Playing && time.Since(begun) > 500*time.Millisecond })
		wait(t, "every event is taken", func() bool { return waiting(street) == 0 })
		for _, p := range street.Platforms {
			p.Shut(0)
		}
		wait(t, "the stream has ended", func() bool {
			var open, all int64
			st.DB.Raw("SELECT count(*) FILTER (WHERE closed IS NULL), count(*) FROM streams WHERE number > 60").Row().Scan(&open, &all)
			return open == 0 && all > int64(round)
		})
		t.Logf("round %d: killed and back within %s", round+1, d.to.Sub(d.from).Round(time.Millisecond))
	}
	street.Player.Stop()
	settled := func() int64 {
		var n int64
		st.DB.Raw("SELECT count(*) FROM events").Scan(&n)
		return n
	}
	last, since := settled(), time.Now()
	wait(t, "the log is quiet", func() bool {
		if n := settled(); n != last {
			last, since = n, time.Now()
		}
		return time.Since(since) > 2*time.Second
	})

	for end := time.Now().Add(2 * time.Minute); ; time.Sleep(100 * time.Millisecond) { // the Boathouse takes one a second
		var way int
		if st.DB.Raw("SELECT count(*) FROM deliveries WHERE state IN ('waiting', 'trying')").Scan(&way); way == 0 {
			break
		}
		if time.Now().After(end) {
			t.Fatalf("%d posts are still on their way", way)
		}
	}

	logged := map[string]int{}
	var ids []string
	st.DB.Raw("SELECT id FROM events WHERE door NOT IN ('house', 'desk')").Scan(&ids)
	for _, id := range ids {
		logged[id]++
	}
	accepted := 0
	for _, p := range street.Platforms {
		for _, id := range p.Accepted() {
			accepted++
			if logged[id] != 1 {
				t.Errorf("%s was answered 202 and stands %d times in the log", id, logged[id])
			}
		}
		missed := 0
		for _, h := range p.Chat.Heard("", time.Time{}) {
			if h.Nick == "porchlamp" || logged[h.ID] == 1 {
				continue
			}
			missed++
			excused := false
			for _, d := range downs {
				excused = excused || d.excuses(p.Name, h.At)
			}
			if !excused || logged[h.ID] > 1 {
				t.Errorf("%s on %s at %s stands %d times in the log, outside every down time", h.ID, p.Name, h.At, logged[h.ID])
			}
		}
		t.Logf("%s: %d lines, %d missed while down", p.Name, len(p.Chat.Heard("", time.Time{})), missed)
	}
	if accepted < rounds()*8 {
		t.Errorf("only %d events were accepted", accepted)
	}
	greetedOnce(t, st, street)
	announcedOnce(t, st, street, ignores)
}

// greetedOnce holds the log against itself, and what the chats heard against the
// log: nobody arrives twice in a stream or between two, and nobody is greeted more
// often than they arrived. (By the clock alone a greeting that waited over a restart
// could seem to belong to the stream that has opened since.)
func greetedOnce(t *testing.T, st *store.Store, street *standin.Street) {
	var decided []struct {
		Kind, Person, Name string
	}
	if err := st.DB.Raw("SELECT kind, person, body->>'name' AS name FROM decisions WHERE kind IN ('open', 'close', 'continue', 'arrive') ORDER BY seq, n").Scan(&decided).Error; err != nil {
		t.Fatal(err)
	}
	streams, arrived := 0, map[string]int{}
	tonight, between := map[string]bool{}, map[string]bool{}
	here := between
	for _, d := range decided {
		switch d.Kind {
		case "open":
			streams++
			tonight = map[string]bool{}
			here = tonight
		case "continue": // a stream that had been taken for ended goes on with its people
			here = tonight
		case "close":
			between = map[string]bool{}
			here = between
		default:
			if here[d.Person] {
				t.Errorf("%s arrives twice in stream %d of this test", d.Name, streams)
			}
			here[d.Person] = true
			platform, _, _ := strings.Cut(d.Person, ":")
			arrived[platform+" greet "+d.Name]++
		}
	}
	if streams < rounds() {
		t.Errorf("%d streams for %d rounds", streams, rounds())
	}
	for name, p := range street.Platforms {
		seen := map[string]int{}
		greetings := 0
		for _, h := range p.Chat.Heard("porchlamp", time.Time{}) {
			if strings.HasPrefix(h.Text, "greet ") {
				greetings++
				seen[name+" "+h.Text]++
			}
		}
		for k, n := range seen {
			if n > arrived[k] {
				t.Errorf("%s was said %d times for %d arrivals", k, n, arrived[k])
			}
		}
		if greetings < rounds() {
			t.Errorf("%s: only %d greetings", name, greetings)
		}
	}
}

func announcedOnce(t *testing.T, st *store.Store, street *standin.Street, ignores bool) {
	var lines []string
	st.DB.Raw("SELECT line FROM decisions WHERE kind = 'relay' AND body->>'place' = 'boathouse-news'").Scan(&lines)
	times := map[string]int{}
	landings, _, _ := street.Boathouse.State()
	for _, p := range landings[0].Posts {
		times[p.Key]++
	}
	var unclear []string
	st.DB.Raw("SELECT line FROM deliveries WHERE state = 'unclear'").Scan(&unclear)
	perhaps := map[string]bool{}
	for _, l := range unclear {
		perhaps[l] = true
	}
	for _, l := range lines {
		n := times["porch-1-"+l+"-boathouse-news"]
		if n > 1 || n == 0 && !(ignores && perhaps[l]) {
			t.Errorf("the announcement %s stands %d times at the Boathouse (unclear: %v)", l, n, perhaps[l])
		}
	}
	if len(lines) < rounds() {
		t.Errorf("%d announcements for %d rounds", len(lines), rounds())
	}
}

func waiting(s *standin.Street) int {
	n := 0
	for _, p := range s.Platforms {
		n += p.State().Waiting
	}
	return n
}

// lastLines is when the last line of each platform that stands in the log was said.
func lastLines(t *testing.T, st *store.Store) map[string]time.Time {
	t.Helper()
	var rows []struct {
		Platform string
		Last     time.Time
	}
	if err := st.DB.Raw("SELECT split_part(person, ':', 1) AS platform, max(time) AS last FROM events WHERE type = 'porch.chat.said' GROUP BY 1").Scan(&rows).Error; err != nil {
		t.Fatal(err)
	}
	out := map[string]time.Time{}
	for _, r := range rows {
		out[r.Platform] = r.Last
	}
	return out
}

// houseFileFor is the sample house file, pointed at these stand-ins, without
// pacing, and with greetings that can be told apart.
func houseFileFor(t *testing.T, cfg standin.Config, street *standin.Street, ignores bool) string {
	s, err := housefile.ReadSettings(demo.House)
	if err != nil {
		t.Fatal(err)
	}
	if err := rewire(s, demoPorts{cfg.Chat["quayside"], cfg.Chat["fernlight"], street.Address()}); err != nil {
		t.Fatal(err)
	}
	s.Grace = new(0.4) // twenty times the written drop of four minutes at this speed is 0.34 s: one stream a round
	s.Pace = housefile.Pace{WaitSeconds: 60, AskSeconds: 0.5}
	s.Announcing.Late = "follow up" // a stream may be over before the house is back: then that is told, once
	s.Places[0].IgnoresKeys = ignores
	for i := range s.Profiles {
		s.Profiles[i].Chat.Lines = 0
	}
	for i := range s.Courtesy {
		for j := range s.Courtesy[i].Do {
			s.Courtesy[i].Do[j].DelaySeconds = 0
			if s.Courtesy[i].Slot == "greeting" {
				s.Courtesy[i].Do[j].Alternatives, s.Courtesy[i].Do[j].Joined = []string{"greet {name}"}, nil
			}
		}
	}
	raw, err := json.Marshal(s)
	if err != nil {
		t.Fatal(err)
	}
	file := filepath.Join(t.TempDir(), "house.json")
	if err := os.WriteFile(file, bytes.TrimSpace(raw), 0o644); err != nil {
		t.Fatal(err)
	}
	return file
}

func wait(t *testing.T, what string, ok func() bool) {
	t.Helper()
	for end := time.Now().Add(60 * time.Second); time.Now().Before(end); time.Sleep(5 * time.Millisecond) {
		if ok() {
			return
		}
	}
	t.Fatalf("never: %s", what)
}

func freeAddress(t *testing.T) string {
	t.Helper()
	ln, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	defer ln.Close()
	return ln.Addr().String()
}
