package services_test

import (
	"bytes"
	"context"
	"crypto/hmac"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"testing"
	"time"

	"vividporch/core/courtesy"
	"vividporch/core/happening"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/core/reading"
	"vividporch/porchtest"
	"vividporch/spec"
	"vividporch/standin"
	"vividporch/store/kept"
)

const secret = "coin-by-coin-secret"

var coins = reading.Reading{Name: "coins", Doors: []string{"tin"}, Makes: "porch.support.tipped", If: []reading.Condition{{At: "/kind", How: reading.Is, Is: "coin"}},
	Take: map[string]reading.Take{"person.id": {At: "/from/id"}, "person.name": {At: "/from/called"}, "amount": {At: "/coin/pence", Cents: true}, "currency": {At: "/coin/of"}, "message": {At: "/says"}}}

// tin gives the boathouse a hook for The Tin and thanks for tips in Quayside's chat.
func tin(change ...func(*housefile.Door)) func(*housefile.Settings) {
	return func(s *housefile.Settings) {
		d := housefile.Door{Name: "tin", Kind: "hook", Platform: "tin", Service: &reading.Service{Proof: reading.Proof{How: reading.HMAC, Header: "X-Tin-Signature", Prefix: "sha256="}, Repeat: reading.Repeat{At: "/no"}}}
		for _, f := range change {
			f(&d)
		}
		s.Doors = append(slices.DeleteFunc(s.Doors, func(x housefile.Door) bool { return x.Name == "tin" }), d)
		s.Readings = nil
		s.Pace.GapSeconds, s.Pace.JoinAt = 0, 0
		s.Courtesy = []courtesy.Courtesy{{ID: "thank-tip", On: true, When: "porch.support.tipped", Slot: happening.Thanks, OffLine: true,
			Do: []output.Output{{ID: "chat", Do: &output.Say{}, On: []string{"quayside"}, Alternatives: []string{"Thanks{hasAmount, select, yes { for {amount}} other {}}, {name}"}}}}}
	}
}

func reads(s *housefile.Settings) { s.Readings = []reading.Reading{coins} }

func launch(t *testing.T, change ...func(*housefile.Settings)) *porchtest.Boat {
	t.Helper()
	b := porchtest.Launch(t, change...)
	if b.House.Plan().Settings.DoorNamed("tin").Kind == "hook" {
		if err := b.House.SetSecret(t.Context(), "tin", "secret", secret); err != nil {
			t.Fatal(err)
		}
	}
	return b
}

// sends sends a body to the hook as The Tin signs it.
func sends(b *porchtest.Boat, body string) (int, string) {
	b.T.Helper()
	m := hmac.New(sha256.New, []byte(secret))
	m.Write([]byte(body))
	req, _ := http.NewRequest("POST", b.Server.URL+"/inbox/tin", strings.NewReader(body))
	req.Header.Set("Content-Type", "application/json")
	req.Header.Set("X-Tin-Signature", "sha256="+hex.EncodeToString(m.Sum(nil)))
	res, err := http.DefaultClient.Do(req)
	if err != nil {
		b.T.Fatal(err)
	}
	defer res.Body.Close()
	var out bytes.Buffer
	out.ReadFrom(res.Body)
	return res.StatusCode, out.String()
}

func coin(no int, pence int) string {
	return fmt.Sprintf(`{"kind":"coin","no":"c-%d","from":{"id":88,"called":"Limpet Lena"},"coin":{"pence":%d,"of":"gbp"},"says":"for the anemone"}`, no, pence)
}

func thanks(b *porchtest.Boat) int {
	n := 0
	for _, text := range b.Said("quayside") {
		if strings.HasPrefix(text, "Thanks for ") {
			n++
		}
	}
	return n
}

func messages(b *porchtest.Boat) spec.Messages {
	b.T.Helper()
	var out spec.Messages
	if s := b.Do("GET", "/api/doors/tin/messages", nil, &out); s != 200 {
		b.T.Fatal(s)
	}
	return out
}

func TestWhatNobodyUnderstoodIsTaughtTriedAndTakenInAsLate(t *testing.T) {
	b := launch(t, tin())
	b.SignIn()
	if s, body := sends(b, coin(1, 1250)); s != 202 || !strings.Contains(body, "no reading holds") {
		t.Fatal(s, body)
	}
	sends(b, `{"kind":"lid","no":"l-2","open":true}`)
	got := messages(b)
	if len(got.Messages) != 2 || got.Messages[1].State != "waiting" || !strings.Contains(got.Messages[1].Body, "Limpet Lena") {
		t.Fatalf("%+v", got.Messages)
	}
	// It is tried on everything kept, and makes nothing by it.
	var tried spec.ReadingTried
	draft := coins
	draft.Doors = nil
	b.Do("POST", "/api/doors/tin/messages/try", map[string]any{"reading": draft}, &tried)
	if tried.Makes != 1 || tried.Of != 2 || len(tried.Messages) != 2 || len(tried.Messages[0].Made) != 0 || len(tried.Messages[1].Made) != 1 || !strings.HasPrefix(tried.Messages[1].Made[0].Words, "a tip · Limpet Lena") {
		t.Fatalf("%+v", tried)
	}
	draft.Take = map[string]reading.Take{"person.id": {At: "/from/id"}, "amount": {At: "/from/called"}}
	b.Do("POST", "/api/doors/tin/messages/try", map[string]any{"reading": draft}, &tried)
	if m := tried.Messages[1].Made[0]; m.Field != "data.amount" || !strings.Contains(m.Remedy, "must be an amount") {
		t.Errorf("%+v", m)
	}
	draft.Makes = "porch.chat.said"
	if b.Do("POST", "/api/doors/tin/messages/try", map[string]any{"reading": draft}, &tried); len(tried.Faults) == 0 {
		t.Error("a reading of chat is tried")
	}
	if thanks(b) != 0 {
		t.Fatal("a try was thanked for")
	}
	// Taught, it is taken in: late, so that it waits for a thanks by hand, and only once.
	raw, _ := json.Marshal([]reading.Reading{coins})
	if s := b.Do("PUT", "/api/house/sections/readings", map[string]any{"value": json.RawMessage(raw)}, nil); s != 200 {
		t.Fatal(s)
	}
	if _, err := b.Store.SQL.Exec("UPDATE kept_messages SET at = at - interval '5 minutes'"); err != nil {
		t.Fatal(err)
	}
	var in spec.TakenIn
	b.Do("POST", "/api/doors/tin/messages/take", nil, &in)
	if in.Made != 1 || in.Waits != 1 {
		t.Fatalf("%+v", in)
	}
	b.Do("POST", "/api/doors/tin/messages/take", nil, &in)
	if in.Made != 0 || in.Waits != 1 {
		t.Errorf("a second time: %+v", in)
	}
	b.Until("it waits to be thanked", func() bool {
		return slices.ContainsFunc(b.Porch().Waiting, func(w spec.Waiting) bool { return strings.Contains(w.Title+w.Why, "Limpet Lena") })
	})
	// The next one is thanked at once.
	if s, body := sends(b, coin(3, 500)); s != 202 || !strings.Contains(body, `"made":1`) {
		t.Fatal(s, body)
	}
	b.Until("it is thanked in chat", func() bool {
		return slices.Contains(b.Said("quayside"), "Thanks for 5.00 GBP, Limpet Lena")
	})
	if n := thanks(b); n != 1 {
		t.Errorf("%d thanks", n)
	}
}

func TestTheSameMessageIsTakenOnceWhateverComesInBetween(t *testing.T) {
	b := launch(t, tin(), reads)
	sends(b, coin(1, 500))
	if s, body := sends(b, coin(1, 500)); s != 202 || !strings.Contains(body, `"repeat":true`) {
		t.Error(s, body)
	}
	b.Until("it is thanked", func() bool { return thanks(b) == 1 })
	b.Another() // a restart forgets nothing
	sends(b, coin(1, 500))
	sends(b, coin(2, 600))
	b.Until("the other one is thanked", func() bool { return slices.Contains(b.Said("quayside"), "Thanks for 6.00 GBP, Limpet Lena") })
	// What fell out of what is kept is in the log.
	if _, err := b.Store.SQL.Exec("DELETE FROM kept_messages"); err != nil {
		t.Fatal(err)
	}
	sends(b, coin(1, 500))
	sends(b, coin(3, 700))
	b.Until("the third is thanked", func() bool { return slices.Contains(b.Said("quayside"), "Thanks for 7.00 GBP, Limpet Lena") })
	if n := thanks(b); n != 3 {
		t.Errorf("%d thanks for three coins", n)
	}
}

func TestTwoMembersOfAServiceWithoutIdsRepeatThemselvesOnlyAfterAWhile(t *testing.T) {
	b := launch(t, tin(func(d *housefile.Door) { d.Service.Repeat = reading.Repeat{Seconds: 60} }), reads)
	sends(b, coin(1, 500))
	if _, body := sends(b, coin(1, 500)); !strings.Contains(body, `"repeat":true`) {
		t.Error(body)
	}
	// One that was kept and not read is the same however late it is sent again.
	if _, err := b.Store.SQL.Exec("UPDATE kept_messages SET at = at - interval '1 hour', state = 'new'"); err != nil {
		t.Fatal(err)
	}
	if _, body := sends(b, coin(1, 500)); !strings.Contains(body, `"repeat":true`) {
		t.Error(body)
	}
	if _, err := b.Store.SQL.Exec("UPDATE kept_messages SET at = now() - interval '61 seconds'"); err != nil {
		t.Fatal(err)
	}
	if _, body := sends(b, coin(1, 500)); !strings.Contains(body, `"made":1`) {
		t.Error("a minute later it is another coin: ", body)
	}
	b.Until("both are thanked", func() bool { return thanks(b) == 2 })
}

func TestWhatIsNotProvenOrNotJSONIsRefusedAndKeptByNobody(t *testing.T) {
	b := launch(t, tin(), reads)
	b.SignIn()
	post := func(body, sig string) int {
		req, _ := http.NewRequest("POST", b.Server.URL+"/inbox/tin", strings.NewReader(body))
		req.Header.Set("X-Tin-Signature", sig)
		res, err := http.DefaultClient.Do(req)
		if err != nil {
			t.Fatal(err)
		}
		res.Body.Close()
		return res.StatusCode
	}
	if s := post(coin(1, 500), "sha256=00"); s != 401 {
		t.Error(s)
	}
	doors := func() (d spec.Door) {
		for _, d = range b.House.Doors() {
			if d.Door == "tin" {
				return d
			}
		}
		return d
	}
	if d := doors(); !strings.Contains(d.Reason, "does not fit") {
		t.Errorf("%+v", d)
	}
	if s, _ := sends(b, "coin=5"); s != 400 {
		t.Error(s)
	}
	if s, _ := sends(b, strings.Repeat("[", 200)+strings.Repeat("]", 200)); s != 400 {
		t.Error(s)
	}
	if s, _ := sends(b, `"`+strings.Repeat("x", 1<<20)+`"`); s != 413 {
		t.Error(s)
	}
	if got := messages(b); len(got.Messages) != 0 {
		t.Errorf("kept: %+v", got.Messages)
	}
	if s, _ := sends(b, `"`+strings.Repeat("x", 1<<20-2)+`"`); s != 202 {
		t.Error("a mebibyte is not too much: ", s)
	}
	if d := doors(); d.Reason != "" || d.LastIn.IsZero() {
		t.Errorf("it is well again: %+v", d)
	}
}

func TestWhatIsKeptIsBoundedAndWhatFallsOutIsCounted(t *testing.T) {
	b := launch(t, tin(), reads)
	ctx := t.Context()
	now := time.Now()
	for i := range kept.MostWaiting + 7 {
		if _, _, err := b.Store.Kept.Keep(ctx, kept.Message{Channel: b.House.ID, Door: "tin", Mark: fmt.Sprint("p:", i), State: kept.Waiting, At: now, Body: []byte(`{}`)}, 0); err != nil {
			t.Fatal(err)
		}
	}
	for i := range kept.MostUnderstood + 5 {
		if _, _, err := b.Store.Kept.Keep(ctx, kept.Message{Channel: b.House.ID, Door: "tin", Mark: fmt.Sprint("p:u", i), State: kept.Understood, At: now, Body: []byte(`{}`)}, 0); err != nil {
			t.Fatal(err)
		}
	}
	if _, _, err := b.Store.Kept.Keep(ctx, kept.Message{Channel: b.House.ID, Door: "tin", Mark: "p:old", State: kept.Waiting, At: now.Add(-kept.For - time.Minute), Body: []byte(`{}`)}, 0); err != nil {
		t.Fatal(err)
	}
	if err := b.Store.Kept.Prune(ctx, b.House.ID, "tin", now); err != nil {
		t.Fatal(err)
	}
	list, err := b.Store.Kept.List(ctx, b.House.ID, "tin", 5000)
	n := map[string]int{}
	for _, m := range list {
		n[m.State]++
	}
	if err != nil || n[kept.Waiting] != kept.MostWaiting || n[kept.Understood] != kept.MostUnderstood {
		t.Errorf("%v, %v", n, err)
	}
	if fallen, err := b.Store.Kept.Fallen(ctx, b.House.ID, "tin"); err != nil || len(fallen) != 1 || fallen[0].Count != 8 {
		t.Errorf("%+v, %v", fallen, err)
	}
}

func TestAForgettingEmptiesWhatIsKept(t *testing.T) {
	b := launch(t, tin(), reads)
	b.SignIn()
	sends(b, coin(1, 500))
	sends(b, `{"kind":"lid","no":"l-1","of":"Limpet Lena"}`)
	var page spec.BookPage
	b.Until("she is in the book", func() bool { b.Do("GET", "/api/book/people", nil, &page); return len(page.Rows) == 1 })
	if err := b.House.Desk.Forget(t.Context(), "Odalys Brine", page.Rows[0].Person); err != nil {
		t.Fatal(err)
	}
	b.Until("nothing of her is kept", func() bool { return len(messages(b).Messages) == 0 })
	var left int
	if err := b.Store.SQL.QueryRow("SELECT count(*) FROM kept_messages WHERE body IS NOT NULL").Scan(&left); err != nil || left != 0 {
		t.Errorf("%d bodies are left, %v", left, err)
	}
	if _, body := sends(b, coin(1, 500)); !strings.Contains(body, `"repeat":true`) {
		t.Error("a repeat is told all the same: ", body)
	}
}

// listening gives the boathouse an ear at The Tin's WebSocket or event stream.
func listening(how string) func(*housefile.Settings) {
	return func(s *housefile.Settings) {
		tin(func(d *housefile.Door) {
			d.Kind, d.Service = "listen", &reading.Service{Repeat: reading.Repeat{At: "/no"}}
		})(s)
		street := strings.TrimPrefix(s.Profile("quayside").At, "http://")
		street, _, _ = strings.Cut(street, "/")
		l := &s.Doors[len(s.Doors)-1].Service.Listen
		l.AliveSeconds = 1
		r := coins
		if l.Address, l.Greeting = "ws://"+street+"/tin/hear", `{"open":"the tin","token":"{token}"}`; how == "stream" {
			l.Address, l.Greeting = "http://"+street+"/tin/stream", ""
			s.Doors[len(s.Doors)-1].Service.Repeat.At = "/id"
			r.If = []reading.Condition{{At: "/event", How: reading.Is, Is: "coin"}}
			r.Take = map[string]reading.Take{}
			for k, v := range coins.Take {
				v.At = "/data" + v.At
				r.Take[k] = v
			}
		}
		s.Readings = []reading.Reading{r}
	}
}

func TestTheTinIsListenedToOverBothWays(t *testing.T) {
	lena := standin.Viewer{ID: "88", Login: "limpet_lena", Name: "Limpet Lena"}
	for _, how := range []string{"socket", "stream"} {
		t.Run(how, func(t *testing.T) {
			b := porchtest.Launch(t, listening(how))
			state := func() string { return b.House.Services.Health("tin").State }
			if err := b.House.SetSecret(t.Context(), "tin", "token", "another-token"); err != nil {
				t.Fatal(err)
			}
			b.Until("with another token it does not open", func() bool { return state() == "closed" })
			if err := b.House.SetSecret(t.Context(), "tin", "token", standin.TinToken); err != nil {
				t.Fatal(err)
			}
			b.Until("with its own it does", func() bool { return state() == "open" && b.Street.Tin.State().Ears == 1 })
			b.Street.Tin.Coin(lena, 500, "for the anemone")
			b.Until("it is thanked", func() bool { return slices.Contains(b.Said("quayside"), "Thanks for 5.00 GBP, Limpet Lena") })
			// Many at once, while the database is away: nothing is lost.
			mend := b.BreakDatabase()
			for i := range 200 {
				b.Street.Tin.Coin(lena, int64(1000+i), "")
			}
			mend()
			b.Until("all of it is taken", func() bool {
				var n int
				err := b.Store.SQL.QueryRow("SELECT count(*) FROM events WHERE type = 'porch.support.tipped'").Scan(&n)
				return err == nil && n == 201
			})
			want := map[string]int{"socket": 1, "stream": 0}[how] // its welcome, which nobody understands
			b.Until("nothing else waits", func() bool {
				list, err := b.Store.Kept.Waits(t.Context(), b.House.ID, "tin")
				return err == nil && len(list) == want
			})
		})
	}
}

func TestWhatWasKeptAndNotReadIsReadAfterARestart(t *testing.T) {
	b := launch(t, tin(), reads)
	b.Stop()
	if _, _, err := b.Store.Kept.Keep(context.Background(), kept.Message{Channel: b.House.ID, Door: "tin", Mark: kept.Mark("c-9", nil), State: kept.New, At: time.Now(), Body: []byte(coin(9, 900))}, 0); err != nil {
		t.Fatal(err)
	}
	b.Another()
	b.Until("it is thanked", func() bool { return slices.Contains(b.Said("quayside"), "Thanks for 9.00 GBP, Limpet Lena") })
}
