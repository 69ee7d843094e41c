package platform_test

import (
	"fmt"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/profile"
	"vividporch/voices/platform"
)

func TestWhoeverIsAskedAboutIsAnsweredForWhateverThePlatformSays(t *testing.T) {
	srv := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		switch r.URL.Query().Get("id") {
		case "9330":
			fmt.Fprint(w, `{"link":"https://quayside.example/kelpwright","category":"Cold frame kelp","title":"Frames out"}`)
		case "1":
			fmt.Fprint(w, `{"title":"a title alone"}`)
		case "2":
			w.WriteHeader(http.StatusNotFound)
		case "3":
			w.WriteHeader(http.StatusTeapot)
		case "4":
			fmt.Fprint(w, `{"link": 7}`)
		case "5":
			fmt.Fprintf(w, `{"link":"https://quayside.example/%s","category":"%s","title":"a\u0000b"}`, strings.Repeat("x", 3000), strings.Repeat("潮", 400))
		case "kelp & wrack":
			fmt.Fprintf(w, `{"link":"https://quayside.example/%s"}`, r.URL.Query().Get("login"))
		}
	}))
	defer srv.Close()
	answers := make(chan *event.LookupAnswered, 1)
	a := platform.NewAsker(http.DefaultClient, func(d event.Data) { answers <- d.(*event.LookupAnswered) })
	ask := func(lookup, id, login string) *event.LookupAnswered {
		t.Helper()
		of := &profile.Profile{At: lookup}
		if lookup != "" {
			of.Lookup = &profile.Lookup{Address: "/?id={id}&login={login}"}
		}
		a.Ask(of, hall.Decision{Line: "ask-7", Person: "quayside:" + id, Asked: hall.Asked{About: &event.Person{Platform: "quayside", ID: id, Login: login}}})
		select {
		case got := <-answers:
			if got.Ask != "ask-7" || got.Account != "quayside:"+id {
				t.Errorf("whose answer is it? %+v", got)
			}
			return got
		case <-time.After(5 * time.Second):
			t.Fatal("no answer")
			return nil
		}
	}
	if got := ask(srv.URL, "9330", "kelpwright"); !got.Found || !got.Streams || got.Link != "https://quayside.example/kelpwright" || got.Category != "Cold frame kelp" || got.Title != "Frames out" || got.Failed != "" {
		t.Errorf("%+v", got)
	}
	if got := ask(srv.URL, "1", ""); got.Found || !got.Streams || got.Failed != "" {
		t.Errorf("neither link nor category: %+v", got)
	}
	if got := ask(srv.URL, "2", ""); got.Found || got.Streams || got.Failed != "" {
		t.Errorf("who does not stream is no failure: %+v", got)
	}
	if got := ask(srv.URL, "3", ""); got.Found || !strings.Contains(got.Failed, "418") {
		t.Errorf("%+v", got)
	}
	if got := ask(srv.URL, "4", ""); got.Found || got.Failed == "" {
		t.Errorf("an answer of the wrong shape: %+v", got)
	}
	if got := ask(srv.URL, "kelp & wrack", "a?b=c"); got.Link != "https://quayside.example/a?b=c" {
		t.Errorf("ids and logins are escaped: %+v", got)
	}
	if got := ask(srv.URL, "5", ""); got.Link != "" || len(got.Category) > 500 || !strings.HasPrefix(got.Category, "潮") || got.Title != "ab" || got.Validate() != nil {
		t.Errorf("more than is kept: %d %d %+v", len(got.Link), len(got.Category), got)
	}
	srv.Close()
	if got := ask(srv.URL, "9330", "kelpwright"); got.Found || got.Failed == "" {
		t.Errorf("a platform that is away: %+v", got)
	}
	if got := ask("", "9330", "kelpwright"); got.Found || got.Failed == "" {
		t.Errorf("no platform at all: %+v", got)
	}
}
