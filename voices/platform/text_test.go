package platform_test

import (
	"fmt"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"vividporch/core/event"
	"vividporch/core/profile"
	"vividporch/voices/platform"
)

func TestATextFromOutsideIsReadOrSaysWhyNot(t *testing.T) {
	elsewhere := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) { fmt.Fprint(w, "elsewhere") }))
	defer elsewhere.Close()
	mux := http.NewServeMux()
	say := func(path, body string) {
		mux.HandleFunc(path, func(w http.ResponseWriter, _ *http.Request) { fmt.Fprint(w, body) })
	}
	say("/plain", "  Low water at 21:10\r\n and rising ")
	say("/json", `{"tides":[{"at":"21:10","height":0.40}],"none":null}`)
	say("/huge", strings.Repeat("x", 5000))
	say("/binary", "\x00\x01\xff\xfe")
	say("/escape", "red \x1b[31m")
	say("/empty", " \n ")
	mux.HandleFunc("/slow", func(w http.ResponseWriter, r *http.Request) {
		select {
		case <-r.Context().Done():
		case <-time.After(10 * time.Second):
		}
	})
	mux.HandleFunc("/drips", func(w http.ResponseWriter, r *http.Request) {
		for r.Context().Err() == nil {
			fmt.Fprint(w, "x")
			w.(http.Flusher).Flush()
			time.Sleep(50 * time.Millisecond)
		}
	})
	mux.HandleFunc("/away", func(w http.ResponseWriter, r *http.Request) { http.Redirect(w, r, elsewhere.URL, http.StatusFound) })
	mux.HandleFunc("/gone", http.NotFound)
	srv := httptest.NewServer(mux)
	defer srv.Close()
	a := platform.NewAsker(srv.Client(), func(event.Data) {})
	for _, c := range []struct{ path, at, text, why string }{
		{"/plain", "", "Low water at 21:10 and rising", ""},
		{"/json", "/tides/0/at", "21:10", ""},
		{"/json", "/tides/0/height", "0.40", ""},
		{"/json", "/tides/1/at", "", "no text at /tides/1/at"},
		{"/json", "/tides", "", "no text at /tides"},
		{"/json", "/none", "", "no text at /none"},
		{"/plain", "/tides", "", "no JSON"},
		{"/huge", "", "", "more than 4096 bytes"},
		{"/binary", "", "", "no text"},
		{"/escape", "", "", "no text"},
		{"/empty", "", "", "nothing"},
		{"/slow", "", "", "deadline"},
		{"/drips", "", "", "deadline"},
		{"/away", "", "", "leads on to another address"},
		{"/gone", "", "", "404"},
	} {
		t.Run(strings.Trim(c.path+c.at, "/"), func(t *testing.T) {
			text, err := a.Text(t.Context(), srv.URL+c.path, c.at)
			if text != c.text || (err == nil) != (c.why == "") || err != nil && !strings.Contains(err.Error(), c.why) {
				t.Errorf("%q, %v", text, err)
			}
		})
	}
}

func TestCountsAreAskedForOnceAnAddressAndWhatIsNotToldIsLeftOut(t *testing.T) {
	asked := 0
	srv := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		asked++
		switch r.URL.Path {
		case "/counts":
			fmt.Fprintf(w, `{"of":%q,"followers":1204,"subscribers":"many","below":-3}`, r.URL.Query().Get("login"))
		default:
			http.NotFound(w, r)
		}
	}))
	defer srv.Close()
	count := func(name, at, value string) profile.Count {
		return profile.Count{Name: name, Address: at, Value: value}
	}
	p := &profile.Profile{Platform: "quayside", At: srv.URL, Counts: []profile.Count{count("followers", "/counts?login={login}", "/followers"), count("subscribers", "/counts?login={login}", "/subscribers"),
		count("below", "/counts?login={login}", "/below"), count("gone", "/gone", "/n")}}
	got, err := platform.NewAsker(srv.Client(), func(event.Data) {}).Count(t.Context(), p, "tidepool_hours")
	if err == nil || !strings.Contains(err.Error(), "gone: the platform answered 404") {
		t.Errorf("%v", err)
	}
	if len(got.Counts) != 1 || got.Counts["followers"] != 1204 || got.Platform != "quayside" || asked != 2 {
		t.Errorf("%+v, asked %d times", got, asked)
	}
}
