package signin_test

import (
	"errors"
	"fmt"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"vividporch/core/profile"
	"vividporch/doors/signin"
)

// app is a house at a platform whose answers a test makes.
func app(t *testing.T, answer http.HandlerFunc) *signin.App {
	t.Helper()
	srv := httptest.NewServer(answer)
	t.Cleanup(srv.Close)
	p := &profile.Profile{At: srv.URL, SignIn: &profile.SignIn{Authorize: "/authorize", Token: "/token", Revoke: "/revoke", Account: profile.Account{Address: "/account", ID: "/who/0/id", Login: "/who/0/login"}}}
	return &signin.App{Profile: p, ID: "house", Secret: "MARKED-secret", Redirect: "http://127.0.0.1:8080/signin/back", HTTP: &http.Client{Timeout: 5 * time.Second}}
}

func TestATokenIsWhatThePlatformSaysItIs(t *testing.T) {
	a := app(t, func(w http.ResponseWriter, r *http.Request) {
		r.ParseForm()
		id, secret, _ := r.BasicAuth()
		if id != "house" || secret != "MARKED-secret" || r.PostForm.Get("code_verifier") != "v" && r.PostForm.Get("grant_type") == "authorization_code" {
			http.Error(w, `{"error":"invalid_client"}`, http.StatusUnauthorized)
			return
		}
		w.Header().Set("Content-Type", "application/json")
		switch r.PostForm.Get("grant_type") {
		case "authorization_code":
			fmt.Fprint(w, `{"access_token":"a1","refresh_token":"r1","expires_in":3600,"token_type":"bearer","scope":"chat room:edit"}`)
		case "refresh_token":
			fmt.Fprintf(w, `{"access_token":"a2 of %s","token_type":"bearer"}`, r.PostForm.Get("refresh_token"))
		}
	})
	got, err := a.Redeem(t.Context(), "code", "v", []string{"chat"})
	if err != nil || got.Access != "a1" || got.Refresh != "r1" || strings.Join(got.Scopes, " ") != "chat room:edit" || time.Until(got.Expires).Round(time.Minute) != time.Hour {
		t.Errorf("%+v, %v", got, err)
	}
	got, err = a.Renew(t.Context(), "r1", []string{"chat"})
	if err != nil || got.Access != "a2 of r1" || got.Refresh != "r1" || len(got.Scopes) != 1 || !got.Expires.IsZero() {
		t.Errorf("%+v, %v", got, err)
	}
}

func TestWhateverAPlatformAnswersIsSaidWithoutASecret(t *testing.T) {
	reached := false
	elsewhere := httptest.NewServer(http.HandlerFunc(func(http.ResponseWriter, *http.Request) { reached = true }))
	defer elsewhere.Close()
	for name, c := range map[string]struct {
		answer http.HandlerFunc
		want   string // of redeeming; "refused" for ErrRefused
		whose  string // of asking whose it is
	}{
		"taken back": {func(w http.ResponseWriter, r *http.Request) {
			w.Header().Set("Content-Type", "application/json")
			w.WriteHeader(map[bool]int{true: 400, false: 401}[r.Method == "POST"])
			fmt.Fprint(w, `{"error":"invalid_grant","error_description":"MARKED-secret"}`)
		}, "refused", "refused"},
		"unknown house": {func(w http.ResponseWriter, _ *http.Request) {
			w.Header().Set("Content-Type", "application/json")
			w.WriteHeader(401)
			fmt.Fprint(w, `{"error":"invalid_client"}`)
		}, "client id and secret", "refused"},
		"out of order": {func(w http.ResponseWriter, _ *http.Request) { http.Error(w, "MARKED-secret", 500) }, "answered 500", "answered 500"},
		"forbidden":    {func(w http.ResponseWriter, _ *http.Request) { http.Error(w, "no", 403) }, "answered 403", "not allowed"},
		"a page":       {func(w http.ResponseWriter, _ *http.Request) { fmt.Fprint(w, "<p>MARKED-secret") }, "cannot be read", "cannot be read"},
		"nothing of its own": {func(w http.ResponseWriter, _ *http.Request) {
			w.Header().Set("Content-Type", "application/json")
			fmt.Fprint(w, `{"who":[]}`)
		}, "cannot be read", "does not tell whose"},
		"sent elsewhere": {func(w http.ResponseWriter, r *http.Request) {
			http.Redirect(w, r, elsewhere.URL+"/take", http.StatusTemporaryRedirect)
		}, "answered 307", "answered 307"},
	} {
		t.Run(name, func(t *testing.T) {
			a := app(t, c.answer)
			_, redeem := a.Redeem(t.Context(), "MARKED-code", "MARKED-verifier", nil)
			_, whose := a.Whose(t.Context(), "MARKED-token")
			for got, want := range map[error]string{redeem: c.want, whose: c.whose} {
				if got == nil || (want == "refused") != errors.Is(got, signin.ErrRefused) || want != "refused" && !strings.Contains(got.Error(), want) || strings.Contains(got.Error(), "MARKED") {
					t.Errorf("it says %v, want %s", got, want)
				}
			}
		})
	}
	if reached {
		t.Error("what was for the platform went elsewhere")
	}
	gone := app(t, nil)
	gone.Profile.At = "http://127.0.0.1:1"
	if _, err := gone.Renew(t.Context(), "MARKED-refresh", nil); err == nil || !strings.Contains(err.Error(), "cannot be reached") || strings.Contains(err.Error(), "MARKED") {
		t.Errorf("a platform that is away: %v", err)
	}
}

func TestTheAskingPageIsAskedWithAChallengeAndNoSecret(t *testing.T) {
	a := app(t, nil)
	at := a.Ask("STATE", signin.Verifier(), []string{"chat", "room:edit"})
	for _, want := range []string{"state=STATE", "code_challenge_method=S256", "code_challenge=", "scope=chat+room%3Aedit", "redirect_uri=http%3A%2F%2F127.0.0.1%3A8080%2Fsignin%2Fback"} {
		if !strings.Contains(at, want) {
			t.Errorf("%s lacks %s", at, want)
		}
	}
	if strings.Contains(at, "MARKED") {
		t.Error("a secret is in an address")
	}
}
