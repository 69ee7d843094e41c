package onscreen_test

import (
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/coder/websocket"

	"vividporch/api/onscreen"
	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/porchtest"
	"vividporch/spec"
)

func get(t *testing.T, at string) (status int, header http.Header, body string) {
	t.Helper()
	res, err := http.Get(at) // nobody is signed in
	if err != nil {
		t.Fatal(err)
	}
	defer res.Body.Close()
	raw, _ := io.ReadAll(res.Body)
	return res.StatusCode, res.Header, string(raw)
}

func address(t *testing.T, b *porchtest.Boat) string {
	t.Helper()
	var made spec.FeedMade
	if s := b.Do("POST", "/api/overlays/over-the-microscope/address", nil, &made); s != 200 || !strings.Contains(made.Address, "/overlay/") {
		t.Fatal(s, made)
	}
	return b.Server.URL + made.Address[strings.Index(made.Address, "/overlay/"):]
}

// page opens an overlay's page and answers what it is told, by what is to be done.
func page(t *testing.T, at string) func(do string) map[string]any {
	t.Helper()
	ctx, cancel := context.WithTimeout(t.Context(), 30*time.Second)
	t.Cleanup(cancel)
	conn, _, err := websocket.Dial(ctx, "ws"+strings.TrimPrefix(at, "http")+"/live", nil)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { conn.CloseNow() })
	conn.SetReadLimit(1 << 20)
	conn.Write(ctx, websocket.MessageText, []byte(`{"hello":{}}`))
	return func(do string) map[string]any {
		t.Helper()
		for {
			_, raw, err := conn.Read(ctx)
			if err != nil {
				t.Fatalf("never %q: %v", do, err)
			}
			var m map[string]any
			if json.Unmarshal(raw, &m) != nil {
				t.Fatalf("%s", raw)
			}
			if m["do"] == "show" { // it is over at once
				conn.Write(ctx, websocket.MessageText, fmt.Appendf(nil, `{"begun":%q,"seconds":0.1}`, m["show"]))
				conn.Write(ctx, websocket.MessageText, fmt.Appendf(nil, `{"ended":%q}`, m["show"]))
			}
			if m["do"] == do {
				return m
			}
		}
	}
}

func TestAnAddressOpensItsOverlayAndNothingElse(t *testing.T) {
	b := porchtest.Launch(t)
	b.SignIn()
	at := address(t, b)
	key := at[strings.LastIndex(at, "/")+1:]
	base := strings.TrimSuffix(at, "/overlay/"+key)
	hears := page(t, at)
	if stand := hears("stand"); stand["overlay"].(map[string]any)["title"] != "Over the microscope" {
		t.Errorf("%v", stand)
	}
	for path, want := range map[string]int{"/overlay/" + strings.ToLower(key): 404, "/overlay/" + key + "/media/nothing.png": 404, "/overlay/" + key + "/media/..%2f..%2fhouse.json": 404, "/overlay/" + key + "/speech/0": 404, "/overlay/" + key + "/fetched/0": 404, "/ear/" + key: 404, "/api/overlays": 401} {
		if s, _, _ := get(t, base+path); s != want {
			t.Errorf("%s: %d, want %d", path, s, want)
		}
	}
	var many int
	for range 20 { // guessing is slowed down, whatever is guessed
		if many, _, _ = get(t, base+"/overlay/ABCDEFGHIJKLMNOPQRSTUVWXYZ"); many == 429 {
			break
		}
	}
	if many != 429 {
		t.Errorf("twenty guesses, the last answered with %d", many)
	}
	address(t, b)
	hears("gone")
}

func TestWhatPeopleAreCalledIsShownAsItIsAndDoesNothing(t *testing.T) {
	b := porchtest.Launch(t)
	b.SignIn()
	hears := page(t, address(t, b))
	hears("stand")
	if _, err := b.House.Hand(t.Context(), &event.StreamDeclared{Act: "opened"}); err != nil {
		t.Fatal(err)
	}
	for id, name := range map[string]string{"1": strings.Repeat("limpet ", 600), "2": "<img src=x onerror=alert(1)>", "3": "\u202efedcba", "4": "=1+1 @everyone"} {
		tip := &happening.Tipped{Amount: "3", Currency: "EUR", Message: name}
		tip.Person = event.Person{Platform: "quayside", ID: id, Login: "l" + id, Name: name, Picture: "javascript:alert(1)"}
		if rs, err := b.House.Submit(t.Context(), []event.Event{{Door: "quayside", Source: "s", ID: "tip-" + id, Type: tip.Type(), Data: tip}}); err != nil || rs[0].Aside != "" {
			t.Fatal(err, rs)
		}
		show := hears("show")
		part := show["parts"].([]any)[0].(map[string]any)
		text, _ := part["text"].(string)
		if len([]rune(text)) > 500 || strings.ContainsRune(text, '\u202e') || part["media"] != nil {
			t.Errorf("%q is shown as %q with %v", name[:min(12, len(name))], text, part["media"])
		}
	}
}

func TestAHandOnACountdownIsSeenAndBadOnesAreToldWhatToDo(t *testing.T) {
	b := porchtest.Launch(t)
	b.SignIn()
	hears := page(t, address(t, b))
	left := func(m map[string]any) any { return m["board"].(map[string]any)["countdown"] }
	if got := left(hears("stand")).(map[string]any); got["left"] != 7200.0 {
		t.Errorf("it begins with %v", got)
	}
	var d spec.Deed
	if s := b.Do("POST", "/api/desk/countdown", spec.CountdownHand{Box: "countdown", Act: "set", Seconds: 90}, &d); s != 200 || !d.Done {
		t.Fatal(s, d)
	}
	if got := left(hears("board")).(map[string]any); got["left"] != 90.0 {
		t.Errorf("set, it shows %v", got)
	}
	b.Do("POST", "/api/desk/countdown", spec.CountdownHand{Box: "countdown", Act: "go"}, &d)
	if got := left(hears("board")).(map[string]any); got["ends"] == nil {
		t.Errorf("let go, it shows %v", got)
	}
	for what, in := range map[string]spec.CountdownHand{"an act that is none": {Box: "countdown", Act: "explode"}, "a century": {Box: "countdown", Act: "set", Seconds: 3e9}, "less than nothing": {Box: "countdown", Act: "set", Seconds: -5}, "no box": {Act: "go"}} {
		var p spec.Problem
		if s := b.Do("POST", "/api/desk/countdown", in, &p); s != 422 && s != 400 || p.Detail == "" {
			t.Errorf("%s: %d %+v", what, s, p)
		}
	}
	if s := b.Do("POST", "/api/desk/countdown", spec.CountdownHand{Box: "another", Act: "go"}, &d); s != 200 || d.Done {
		t.Errorf("a countdown that is not there: %d %+v", s, d)
	}
	if s := b.Do("POST", "/api/overlays/nowhere/address", nil, nil); s != 404 {
		t.Errorf("an overlay that is not there: %d", s)
	}
}

// A page stays open as long as it likes, though it says nothing: it hears that the house is there, and then what comes.
func TestASilentPageStaysOpenOverManyBeats(t *testing.T) {
	defer onscreen.SetBeat(200 * time.Millisecond)()
	b := porchtest.Launch(t)
	b.SignIn()
	hears := page(t, address(t, b))
	hears("stand")
	for range 5 {
		hears("beat")
	}
	if s := b.Do("POST", "/api/overlays/over-the-microscope/try", spec.BoxTry{Box: "cards"}, nil); s != 200 {
		t.Fatal(s)
	}
	hears("try")
}

func TestWhatIsTriedIsShownNowhereElseAndBadTriesAreToldWhatToDo(t *testing.T) {
	b := porchtest.Launch(t)
	b.SignIn()
	at := func(in spec.BoxTry, out any) int {
		return b.Do("POST", "/api/overlays/over-the-microscope/try", in, out)
	}
	var tried spec.BoxTried
	words := []spec.TriedWords{{Output: "card", Text: "<b>mossy_mare</b> keeps the lamp burning", Second: "14 months"}}
	if s := at(spec.BoxTry{Courtesy: "thank-subscription", Words: words, Name: "mossy_mare", Here: true}, &tried); s != 200 || !tried.Done {
		t.Fatal(s, tried)
	}
	parts := tried.Show["parts"].([]any)
	card := parts[0].(map[string]any)
	if len(parts) != 1 || card["box"] != "cards" || card["text"] != "<b>mossy_mare</b> keeps the lamp burning" || card["second"] != "14 months" || card["letters"] != "MM" || tried.Show["seconds"] != 8.0 || tried.Show["try"] != true {
		t.Errorf("%v", tried.Show)
	}
	if s := at(spec.BoxTry{Courtesy: "thank-subscription", Words: words}, &tried); s != 200 || tried.Done || tried.Because[0] != "the overlay is not open anywhere" {
		t.Errorf("%d %+v", s, tried)
	}
	for name, in := range map[string]spec.BoxTry{"courtesy": {Courtesy: "nothing-of-the-kind", Here: true}, "medium": {Medium: "not-there.png", Here: true}} {
		var p spec.Problem
		if s := at(in, &p); s != 422 || !strings.Contains(fmt.Sprint(p), name) {
			t.Errorf("%s: %d %+v", name, s, p)
		}
	}
	if cards := b.Porch().Cards; len(cards) != 0 {
		t.Errorf("a try is counted: %+v", cards)
	}
}
