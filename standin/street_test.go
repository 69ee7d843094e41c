package standin_test

import (
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	webhooks "github.com/standard-webhooks/standard-webhooks/libraries/go"

	"vividporch/standin"
)

const seal = "whsec_dGhlIHF1YXlzaWRlIHN0YW5kLWluIHNpZ25z"

// house is whoever takes the platforms' events in a test.
type house struct {
	mu     sync.Mutex
	answer func(kind string) int // 202 when nil
	got    []taken
}

type taken struct {
	Type string
	Time time.Time
	Data map[string]any
}

func (h *house) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	body, _ := io.ReadAll(r.Body)
	wh, _ := webhooks.NewWebhook(seal)
	if err := wh.Verify(body, r.Header); err != nil {
		w.WriteHeader(http.StatusUnauthorized)
		return
	}
	var e taken
	json.Unmarshal(body, &e)
	h.mu.Lock()
	defer h.mu.Unlock()
	status := http.StatusAccepted
	if h.answer != nil {
		status = h.answer(e.Type)
	}
	if status == http.StatusAccepted {
		h.got = append(h.got, e)
	}
	w.WriteHeader(status)
	fmt.Fprint(w, `{"detail":"as told"}`)
}

func (h *house) kinds() []string {
	h.mu.Lock()
	defer h.mu.Unlock()
	var out []string
	for _, e := range h.got {
		out = append(out, strings.TrimPrefix(e.Type, "porch."))
	}
	return out
}

func until(t *testing.T, what string, ok func() bool) {
	t.Helper()
	for end := time.Now().Add(10 * time.Second); time.Now().Before(end); time.Sleep(5 * time.Millisecond) {
		if ok() {
			return
		}
	}
	t.Fatalf("never: %s", what)
}

// street opens a street with two platforms before a house.
func street(t *testing.T, h *house, script string) *standin.Street {
	t.Helper()
	inbox := httptest.NewServer(h)
	t.Cleanup(inbox.Close)
	s, err := standin.Start(standin.Config{Listen: "127.0.0.1:0", Chat: map[string]string{"quayside": "127.0.0.1:0", "fernlight": "127.0.0.1:0"}, Inbox: inbox.URL + "/",
		Secrets: map[string]string{"quayside": seal, "fernlight": seal}, Channel: "tidepool_hours", Script: []byte(script),
		Viewers:   []standin.Viewer{{ID: "9330", Login: "kelpwright", Name: "Kelpwright", Roles: []string{"vip"}}},
		Streamers: []standin.Streamer{{ID: "9330", Login: "kelpwright", Link: "https://quayside.example/kelpwright", Category: "Cold frame kelp"}}})
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(s.Close)
	return s
}

func order(t *testing.T, s *standin.Street, act, body string, header ...string) (int, string) {
	t.Helper()
	req, _ := http.NewRequest("POST", "http://"+s.Address()+act, strings.NewReader(body))
	for i := 0; i+1 < len(header); i += 2 {
		req.Header.Set(header[i], header[i+1])
	}
	res, err := http.DefaultClient.Do(req)
	if err != nil {
		t.Fatal(err)
	}
	defer res.Body.Close()
	raw, _ := io.ReadAll(res.Body)
	return res.StatusCode, string(raw)
}

func state(t *testing.T, s *standin.Street) (st standin.State) {
	t.Helper()
	res, err := http.Get("http://" + s.Address() + "/street/state")
	if err != nil {
		t.Fatal(err)
	}
	defer res.Body.Close()
	if err := json.NewDecoder(res.Body).Decode(&st); err != nil {
		t.Fatal(err)
	}
	return st
}

func TestOrdersFromTheStreetReachTheHouseSignedAndInOrder(t *testing.T) {
	h := &house{}
	s := street(t, h, "")
	for _, o := range [][2]string{
		{"open", `{"platform":"quayside","title":"Low water","category":"Field and microscope"}`},
		{"follow", `{"platform":"quayside","viewer":"@kelpwright"}`},
		{"raid", `{"platform":"quayside","viewer":"kelpwright","viewers":37}`},
		{"subscribe", `{"platform":"fernlight","viewer":"someone_new","viewers":14}`},
		{"gift", `{"platform":"quayside","viewer":"kelpwright","viewers":5}`},
		{"tip", `{"platform":"quayside","viewer":"kelpwright","viewers":12,"text":"for the anemone"}`},
		{"change", `{"platform":"quayside","title":"High water"}`},
		{"close", `{"platform":"quayside"}`},
	} {
		if status, said := order(t, s, "/street/do/"+o[0], o[1]); status != 200 {
			t.Fatalf("%s: %d %s", o[0], status, said)
		}
	}
	until(t, "all eight are taken", func() bool { return len(h.kinds()) == 8 })
	got := slices.DeleteFunc(h.kinds(), func(k string) bool { return k == "support.subscribed" }) // the other platform has a way of its own
	want := []string{"stream.opened", "person.followed", "raid.came", "support.gifted", "support.tipped", "stream.changed", "stream.closed"}
	if !slices.Equal(got, want) {
		t.Errorf("%v", got)
	}
	for _, e := range h.got {
		person, _ := e.Data["person"].(map[string]any)
		switch e.Type {
		case "porch.raid.came":
			if person["id"] != "9330" || e.Data["viewers"] != 37.0 {
				t.Errorf("%+v", e.Data)
			}
		case "porch.support.subscribed":
			if person["id"] != "street-someone_new" || e.Data["months"] != 14.0 {
				t.Errorf("somebody made up on the spot: %+v", e.Data)
			}
		case "porch.stream.changed":
			if e.Data["title"] != "High water" || e.Data["category"] != "Field and microscope" {
				t.Errorf("what was not changed stays: %+v", e.Data)
			}
		}
	}
}

func TestOrdersThatCannotBeFollowedAreRefused(t *testing.T) {
	h := &house{}
	s := street(t, h, "")
	for _, o := range [][3]string{
		{"/street/do/say", `{"platform":"quayside","text":"hi"}`, "choose a platform and a viewer"},
		{"/street/do/say", `{"platform":"quayside","viewer":"two words","text":"hi"}`, "choose a platform and a viewer"},
		{"/street/do/raid", `{"platform":"nowhere","viewer":"kelpwright"}`, "choose a platform and a viewer"},
		{"/street/do/open", `{}`, "choose a platform"},
		{"/street/do/open", `not an order`, "cannot be read"},
		{"/street/do/sing", `{}`, "404"},
		{"/nowhere/acts", `{}`, "404"},
	} {
		if status, said := order(t, s, o[0], o[1]); status < 400 || !strings.Contains(said, o[2]) {
			t.Errorf("%s %s: %d %s", o[0], o[1], status, said)
		}
	}
	if status, _ := order(t, s, "/street/do/say", `{"platform":"quayside","viewer":"kelpwright","text":"hi"}`, "Sec-Fetch-Site", "cross-site"); status != 403 {
		t.Errorf("another page moved the street: %d", status)
	}
	if len(h.kinds()) != 0 || len(state(t, s).Platforms[0].Heard) != 0 {
		t.Error("something happened all the same")
	}
}

func TestEventsWaitForAHouseThatIsDownAndARefusedOneHoldsNothingUp(t *testing.T) {
	busy, bad := 3, "porch.raid.came"
	h := &house{}
	h.answer = func(kind string) int {
		if busy--; busy > 0 {
			return http.StatusServiceUnavailable
		}
		if kind == bad {
			return http.StatusUnprocessableEntity
		}
		return http.StatusAccepted
	}
	s := street(t, h, "")
	for _, o := range []string{"follow", "raid", "gift"} {
		order(t, s, "/street/do/"+o, `{"platform":"quayside","viewer":"kelpwright"}`)
	}
	until(t, "the others are taken, in their order", func() bool { return slices.Equal(h.kinds(), []string{"person.followed", "support.gifted"}) })
	until(t, "nothing waits any more", func() bool { return state(t, s).Platforms[0].Waiting == 0 })
}

func TestAPlatformDoesWhatItCanAndSaysWhyNot(t *testing.T) {
	h := &house{}
	s := street(t, h, "")
	act := func(body string) (int, string) {
		wh, _ := webhooks.NewWebhook(seal)
		at := time.Now()
		sig, _ := wh.Sign("m", at, []byte(body))
		return order(t, s, "/quayside/acts", body, webhooks.HeaderWebhookID, "m", webhooks.HeaderWebhookTimestamp, fmt.Sprint(at.Unix()), webhooks.HeaderWebhookSignature, sig)
	}
	if status, _ := order(t, s, "/quayside/acts", `{"act":"clip"}`); status != 401 {
		t.Errorf("without a seal: %d", status)
	}
	for _, c := range []struct {
		body   string
		status int
		says   string
	}{
		{`{"act":"clip"}`, 409, "not live"},
		{`{"act":"title","text":"Low water"}`, 200, `"was":""`},
		{`{"act":"title","text":"High water"}`, 200, `"was":"Low water"`},
		{`{"act":"slow chat"}`, 200, ""},
		{`{"act":"give VIP","login":"mossy_mare"}`, 200, ""},
		{`{"act":"give VIP","login":"mossy_mare"}`, 409, "is one already"},
		{`{"act":"take VIP","login":"tangle_tom"}`, 409, "is none"},
		{`{"act":"delete line","message":"m-none"}`, 409, "no such line"},
		{`{"act":"dance"}`, 409, "nothing quayside can do"},
	} {
		if status, said := act(c.body); status != c.status || !strings.Contains(said, c.says) {
			t.Errorf("%s: %d %s", c.body, status, said)
		}
	}
	order(t, s, "/street/do/open", `{"platform":"quayside","title":"Tonight"}`)
	if status, _ := act(`{"act":"advert break","seconds":30}`); status != 200 {
		t.Errorf("a break while live: %d", status)
	}
	if status, said := act(`{"act":"advert break","seconds":30}`); status != 409 || !strings.Contains(said, "ago") {
		t.Errorf("another at once: %d %s", status, said)
	}
	p := state(t, s).Platforms[0]
	if !slices.Equal(p.Modes, []string{"slow chat"}) || !slices.Equal(p.VIPs, []string{"mossy_mare"}) || len(p.Deeds) != 11 || p.Deeds[0].Refused == "" {
		t.Errorf("%+v", p)
	}
	if act(`{"act":"slow chat","off":true}`); len(state(t, s).Platforms[0].Modes) != 0 {
		t.Error("slow chat was not taken back")
	}
}

func TestTheStageShowsWhatItWasToldAndCanGoDark(t *testing.T) {
	s := street(t, &house{}, "")
	lamp := func() (int, string) {
		return order(t, s, "/boathouse/stage/bench-lamp", `{"effect":"lamp","colour":"#f2b53c","seconds":8}`)
	}
	if status, _ := lamp(); status != 200 {
		t.Error(status)
	}
	order(t, s, "/street/do/dark", `{"on":true}`)
	if status, said := lamp(); status != 503 || !strings.Contains(said, "power") {
		t.Errorf("%d %s", status, said)
	}
	order(t, s, "/street/do/dark", `{"on":false}`)
	for range 25 {
		lamp()
	}
	st := state(t, s).Stage
	list := st.Fittings["bench-lamp"]
	if st.Dark || len(list) != 20 || list[19].Colour != "#f2b53c" || list[19].Refused != "" {
		t.Errorf("%d %+v", len(list), list[len(list)-1])
	}
	if status, _ := order(t, s, "/boathouse/stage/bench-lamp", `a lamp, please`); status != 400 {
		t.Error(status)
	}
}

func TestLookUpsTellWhoStreams(t *testing.T) {
	s := street(t, &house{}, "")
	for query, want := range map[string]int{"id=9330": 200, "login=kelpwright": 200, "id=5": 404, "": 404} {
		res, err := http.Get("http://" + s.Address() + "/quayside/lookup?" + query)
		if err != nil {
			t.Fatal(err)
		}
		body, _ := io.ReadAll(res.Body)
		res.Body.Close()
		if res.StatusCode != want || want == 200 && !strings.Contains(string(body), "Cold frame kelp") {
			t.Errorf("%q: %d %s", query, res.StatusCode, body)
		}
	}
}

func TestAWrittenEveningPlaysOnceInItsOrderAndCanBeHeld(t *testing.T) {
	at := func(s int) string { return time.Date(2031, 5, 14, 19, 0, s, 0, time.UTC).Format(time.RFC3339) }
	person := `"person":{"platform":"quayside","id":"9330","login":"kelpwright"}`
	script := strings.Join([]string{
		`{"type":"porch.stream.opened","time":"` + at(0) + `","data":{"platform":"quayside","title":"Low water"}}`,
		`{"type":"porch.chat.said","time":"` + at(20) + `","data":{` + person + `,"text":"evening all"}}`,
		`{"type":"porch.raid.came","time":"` + at(40) + `","data":{` + person + `,"viewers":37}}`,
		`{"type":"porch.person.followed","time":"` + at(60) + `","data":{"person":{"platform":"nowhere","id":"1"}}}`,
	}, "\n")
	h := &house{}
	s := street(t, h, script)
	begun := 0
	s.Player.OnPlay = func() { begun++ }
	s.Player.SetSpeed(200)
	s.Player.PlayOnce()
	s.Player.PlayOnce()
	until(t, "it is over", func() bool { st := s.Player.State(); return !st.Playing && st.At == 4 })
	if begun != 1 || !slices.Equal(h.kinds(), []string{"stream.opened", "raid.came"}) {
		t.Errorf("begun %d times, %v", begun, h.kinds())
	}
	if heard := s.Platforms["quayside"].Chat.Heard("kelpwright", time.Time{}); len(heard) != 1 || heard[0].Text != "evening all" {
		t.Errorf("%+v", heard)
	}
	// Played again it begins anew, with the stream that was on taken off; held, it stands still.
	order(t, s, "/street/do/speed", `{"speed":40}`)
	order(t, s, "/street/do/play", `{}`)
	order(t, s, "/street/do/pause", `{"on":true}`)
	until(t, "it opens again", func() bool { return slices.Contains(h.kinds(), "stream.closed") })
	if st := s.Player.State(); !st.Paused || !st.Playing || st.At == 4 || st.Of != 4 {
		t.Errorf("%+v", st)
	}
	order(t, s, "/street/do/pause", `{"on":false}`)
	until(t, "it goes on to its end", func() bool { return s.Player.State().At == 4 })
	if begun != 2 {
		t.Errorf("begun %d times", begun)
	}
	if _, err := standin.NewPlayer(s, []byte("no evening")); err == nil {
		t.Error("a script that cannot be read was taken")
	}
}

func TestTheSampleWorldGoesAheadWithTheHouse(t *testing.T) {
	h := &house{}
	inbox := httptest.NewServer(h)
	t.Cleanup(inbox.Close)
	ahead := func() time.Time { return time.Now().Add(50 * time.Hour) }
	s, err := standin.Start(standin.Config{Listen: "127.0.0.1:0", Chat: map[string]string{"quayside": "127.0.0.1:0"}, Inbox: inbox.URL + "/",
		Secrets: map[string]string{"quayside": seal}, Channel: "tidepool_hours", Clock: ahead})
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(s.Close)
	q := s.Platforms["quayside"]
	near := func(at time.Time) bool { return ahead().Sub(at).Abs() < time.Minute }
	q.Send("porch.person.followed", 0, map[string]any{"person": map[string]any{"platform": "quayside", "id": "7"}})
	until(t, "the follow is taken", func() bool { h.mu.Lock(); defer h.mu.Unlock(); return len(h.got) == 1 })
	if !near(h.got[0].Time) { // signed all the same with the time that machines go by
		t.Errorf("a follow at %s", h.got[0].Time)
	}
	q.Chat.Say(standin.Viewer{ID: "7", Login: "mossy_mare"}, "evening")
	if heard := q.Chat.Heard("mossy_mare", time.Time{}); len(heard) != 1 || !near(heard[0].At) {
		t.Errorf("%+v", heard)
	}
}
