package standin

import (
	"encoding/base64"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"slices"
	"strings"
	"sync"
	"time"
	"unicode/utf8"
)

// Skerry is a stand-in social site: one account that is posted to by who signed in, and people who follow it.
type Skerry struct {
	self    *Platform // its sign-in, and what it tells of
	mu      sync.Mutex
	posts   []Skerried
	keys    map[string]string
	picture string // of the account, base64
	banner  string
	clock   func() time.Time
}

// Skerried is one post, or with To one message to somebody.
type Skerried struct {
	ID    string    `json:"id"`
	At    time.Time `json:"at"`
	Words string    `json:"words"`
	To    string    `json:"to,omitempty"`
}

// SkerryState is how the site stands.
type SkerryState struct {
	Posts   []Skerried `json:"posts"`
	Picture string     `json:"picture,omitempty"`
	Banner  string     `json:"banner,omitempty"`
}

// mostWords is how many characters a post may have.
const mostWords = 300

// State is how the site stands, the newest post first.
func (s *Skerry) State() SkerryState {
	s.mu.Lock()
	defer s.mu.Unlock()
	posts := append([]Skerried{}, s.posts...)
	slices.Reverse(posts)
	return SkerryState{posts, s.picture, s.banner}
}

// signed lets whoever is signed in do something.
func (s *Skerry) signed(do func(w http.ResponseWriter, r *http.Request, in map[string]string)) http.HandlerFunc {
	return func(w http.ResponseWriter, r *http.Request) {
		g, ok := s.self.signins.bearer(r)
		switch {
		case !ok:
			refuse(w, http.StatusUnauthorized, "invalid_token")
			return
		case !slices.Contains(strings.Fields(g.scope), "account"):
			refuse(w, http.StatusForbidden, "insufficient_scope")
			return
		}
		in := map[string]string{}
		if raw, err := io.ReadAll(io.LimitReader(r.Body, 8<<20)); err != nil || json.Unmarshal(raw, &in) != nil {
			problem(w, http.StatusUnprocessableEntity, "this cannot be read")
			return
		}
		s.mu.Lock()
		defer s.mu.Unlock()
		do(w, r, in)
	}
}

// post takes a post, or a message.
func (s *Skerry) post(w http.ResponseWriter, r *http.Request, in map[string]string) {
	key := r.Header.Get("Idempotency-Key")
	switch n := utf8.RuneCountInString(in["words"]); {
	case s.keys[key] != "" && key != "":
		writeJSON(w, map[string]string{"id": s.keys[key]})
		return
	case n == 0:
		problem(w, http.StatusUnprocessableEntity, "a post needs words")
		return
	case n > mostWords:
		problem(w, http.StatusUnprocessableEntity, fmt.Sprintf("a post has at most %d letters", mostWords))
		return
	case strings.HasSuffix(r.URL.Path, "/messages") && in["to"] == "":
		problem(w, http.StatusUnprocessableEntity, "a message needs somebody")
		return
	}
	p := Skerried{fmt.Sprintf("sk-%d", len(s.posts)+1), s.clock().UTC(), in["words"], in["to"]}
	s.posts, s.keys[key] = append(s.posts, p), p.ID
	writeJSON(w, map[string]string{"id": p.ID})
}

// change takes another picture, or banner, for the account.
func (s *Skerry) change(w http.ResponseWriter, r *http.Request, in map[string]string) {
	raw, err := base64.StdEncoding.DecodeString(in["file"])
	if err != nil || !strings.HasPrefix(http.DetectContentType(raw), "image/") {
		problem(w, http.StatusUnprocessableEntity, "this is no picture")
		return
	}
	if strings.HasSuffix(r.URL.Path, "/banner") {
		s.banner = in["file"]
	} else {
		s.picture = in["file"]
	}
	writeJSON(w, map[string]bool{"done": true})
}
