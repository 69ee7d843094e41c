package standin

import (
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
	"encoding/json"
	"fmt"
	"html/template"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"sync"
	"time"
)

// The client id and secret under which any house is known to a stand-in platform.
const (
	HouseID     = "house-on-the-quay"
	HouseSecret = "oil-for-the-lamp-21"
)

// signins is the sign-in of a stand-in platform: OAuth 2.0's authorization code with PKCE (RFC 6749,
// RFC 7636), refresh tokens that are good once, and revocation (RFC 7009).
type signins struct {
	platform *Platform
	mu       sync.Mutex
	codes    map[string]grant // good once, for a minute
	access   map[string]grant
	refresh  map[string]grant
	life     time.Duration // of an access token
	refuses  bool          // to refresh
	endless  bool          // tokens come with no refresh token
}

// grant is what an account allowed a house.
type grant struct {
	login, scope, redirect, challenge string
	until                             time.Time
}

// tokenLife is how long an access token is good.
const tokenLife = 4 * time.Hour

// accounts are those that can sign in here: the streamer, the house, and somebody else.
func (s *signins) accounts() []Viewer {
	out := []Viewer{{ID: "1", Login: s.platform.Channel, Name: s.platform.Channel}, {ID: "500", Login: "porchlamp", Name: "porchlamp"}, {ID: "9330", Login: "kelpwright", Name: "kelpwright"}}
	return out
}

func (s *signins) accountOf(login string) (v Viewer, ok bool) {
	for _, v := range s.accounts() {
		if v.Login == login {
			return v, true
		}
	}
	return v, false
}

// allows tells of what a scope allows, for the page.
var allows = map[string]string{"chat": "read the chat and speak in it as you", "happenings:read": "read what happened on your channel", "channel:edit": "change your stream's title and category", "room:edit": "change how the chat is held", "people:edit": "name guests of honour and take lines out", "landings": "see the landings, and post where you may", "account": "post as you, and change your picture and banner"}

var signPage = template.Must(template.New("").Parse(`<!doctype html><html lang="en"><meta charset="utf-8"><title>Sign in at {{.Platform}}</title>
<body><main><h1>{{.Platform}}</h1><p>A house wants to be let in. It asks to:</p><ul>{{range .Allows}}<li>{{.}}</li>{{end}}</ul>
<form method="post">{{range $k, $v := .Query}}<input type="hidden" name="{{$k}}" value="{{index $v 0}}">{{end}}
<p><label>Your account <select name="account">{{range .Accounts}}<option>{{.Login}}</option>{{end}}</select></label></p>
<button name="answer" value="yes">Let it in</button> <button name="answer" value="no">Turn it away</button></form></main></body></html>`))

// authorize is the page that names account and permissions, and its answer.
func (s *signins) authorize(w http.ResponseWriter, r *http.Request) {
	if err := r.ParseForm(); err != nil {
		http.Error(w, "this cannot be read", http.StatusBadRequest)
		return
	}
	q := r.Form
	back, err := url.Parse(q.Get("redirect_uri"))
	if q.Get("client_id") != HouseID || err != nil || back.Scheme == "" || q.Get("response_type") != "code" || q.Get("code_challenge_method") != "S256" || q.Get("code_challenge") == "" {
		http.Error(w, "no house of that name is registered here, or it does not say how to come back", http.StatusBadRequest)
		return
	}
	if r.Method == http.MethodGet {
		var list []string
		for _, scope := range strings.Fields(q.Get("scope")) {
			list = append(list, allows[scope])
		}
		w.Header().Set("Content-Type", "text/html; charset=utf-8")
		signPage.Execute(w, map[string]any{"Platform": strings.ToUpper(s.platform.Name[:1]) + s.platform.Name[1:], "Allows": list, "Query": r.URL.Query(), "Accounts": s.accounts()})
		return
	}
	answer := url.Values{"state": {q.Get("state")}}
	if v, ok := s.accountOf(r.PostForm.Get("account")); !ok || r.PostForm.Get("answer") != "yes" {
		answer.Set("error", "access_denied")
	} else {
		code := rand.Text()
		s.mu.Lock()
		s.codes[code] = grant{v.Login, q.Get("scope"), q.Get("redirect_uri"), q.Get("code_challenge"), time.Now().Add(time.Minute)}
		s.mu.Unlock()
		answer.Set("code", code)
	}
	back.RawQuery = answer.Encode()
	http.Redirect(w, r, back.String(), http.StatusSeeOther)
}

func refuse(w http.ResponseWriter, status int, why string) {
	w.Header().Set("Content-Type", "application/json")
	w.WriteHeader(status)
	json.NewEncoder(w).Encode(map[string]string{"error": why})
}

// token gives tokens for a code or a refresh token, each of which is good once.
func (s *signins) token(w http.ResponseWriter, r *http.Request) {
	r.ParseForm()
	id, secret, ok := r.BasicAuth()
	if !ok {
		id, secret = r.PostForm.Get("client_id"), r.PostForm.Get("client_secret")
	}
	if id != HouseID || secret != HouseSecret {
		refuse(w, http.StatusUnauthorized, "invalid_client")
		return
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	var g grant
	switch r.PostForm.Get("grant_type") {
	case "authorization_code":
		code := r.PostForm.Get("code")
		g, ok = s.codes[code]
		delete(s.codes, code)
		sum := sha256.Sum256([]byte(r.PostForm.Get("code_verifier")))
		ok = ok && time.Now().Before(g.until) && g.redirect == r.PostForm.Get("redirect_uri") && base64.RawURLEncoding.EncodeToString(sum[:]) == g.challenge
	case "refresh_token":
		was := r.PostForm.Get("refresh_token")
		if g, ok = s.refresh[was]; ok && !s.refuses {
			delete(s.refresh, was)
		} else {
			ok = false
		}
	default:
		refuse(w, http.StatusBadRequest, "unsupported_grant_type")
		return
	}
	if !ok {
		refuse(w, http.StatusBadRequest, "invalid_grant")
		return
	}
	g.until = time.Now().Add(s.life)
	access, refresh := "at-"+rand.Text(), "rt-"+rand.Text()
	s.access[access] = g
	out := map[string]any{"access_token": access, "token_type": "Bearer", "expires_in": int(s.life.Seconds()), "scope": g.scope}
	if !s.endless {
		s.refresh[refresh], out["refresh_token"] = g, refresh
	}
	writeJSON(w, out)
}

// revoke takes a token back, and all that came of the same permission.
func (s *signins) revoke(w http.ResponseWriter, r *http.Request) {
	r.ParseForm()
	token := r.PostForm.Get("token")
	s.mu.Lock()
	g, ok := s.access[token]
	if !ok {
		g, ok = s.refresh[token]
	}
	s.mu.Unlock()
	if ok {
		s.takeBack(g.login)
	}
	w.WriteHeader(http.StatusOK)
}

// takeBack is the account's owner taking the permission back.
func (s *signins) takeBack(login string) {
	s.mu.Lock()
	defer s.mu.Unlock()
	for _, m := range []map[string]grant{s.access, s.refresh} {
		for k, g := range m {
			if g.login == login {
				delete(m, k)
			}
		}
	}
}

// bearer is what the token of a request allows; ok is false for none that is good.
func (s *signins) bearer(r *http.Request) (g grant, ok bool) {
	s.mu.Lock()
	defer s.mu.Unlock()
	g, ok = s.access[strings.TrimPrefix(r.Header.Get("Authorization"), "Bearer ")]
	return g, ok && time.Now().Before(g.until)
}

// login tells whose chat password a token is.
func (s *signins) login(token string) string {
	s.mu.Lock()
	defer s.mu.Unlock()
	if g, ok := s.access[token]; ok && time.Now().Before(g.until) && slices.Contains(strings.Fields(g.scope), "chat") {
		return g.login
	}
	return ""
}

// account tells whose token it is.
func (s *signins) account(w http.ResponseWriter, r *http.Request) {
	g, ok := s.bearer(r)
	if !ok {
		refuse(w, http.StatusUnauthorized, "invalid_token")
		return
	}
	v, _ := s.accountOf(g.login)
	writeJSON(w, v)
}

// missed tells what happened since a moment, as events.
func (s *signins) missed(w http.ResponseWriter, r *http.Request) {
	g, ok := s.bearer(r)
	if !ok {
		refuse(w, http.StatusUnauthorized, "invalid_token")
		return
	}
	if !slices.Contains(strings.Fields(g.scope), "happenings:read") {
		refuse(w, http.StatusForbidden, "insufficient_scope")
		return
	}
	since, err := time.Parse(time.RFC3339, r.URL.Query().Get("since"))
	if err != nil {
		refuse(w, http.StatusBadRequest, "invalid_request")
		return
	}
	w.Header().Set("Content-Type", "application/json")
	fmt.Fprint(w, "[")
	for i, e := range s.platform.since(since) {
		if i > 0 {
			fmt.Fprint(w, ",")
		}
		w.Write(e)
	}
	fmt.Fprint(w, "]")
}

// houses is where a house is registered: every house is known here, under one name.
func (s *signins) houses(w http.ResponseWriter, r *http.Request) {
	w.Header().Set("Content-Type", "text/plain; charset=utf-8")
	fmt.Fprintf(w, "Your house at %s\n\nclient id      %s\nclient secret  %s\ncomes back to  any address of yours\n", s.platform.Name, HouseID, HouseSecret)
}
