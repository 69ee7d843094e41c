package standin

import (
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"slices"
	"strings"
	"sync"
	"time"

	"golang.org/x/time/rate"
)

// Boathouse is a stand-in community server: landings that take posts by webhook, or by whoever is signed in, and
// can be read in a browser. A post rings everybody only when its text says @all,
// or a group by @name, and its "may-ring" list allows exactly that. Each landing allows the house so much and no more.
type Boathouse struct {
	self     *Platform // its sign-in, and what it tells of
	mu       sync.Mutex
	landings []Landing
	keys     map[string]string // of posts → their ids
	outage   bool
	ignores  bool
	limit    *rate.Limiter
	tries    int
	posts    int
	clock    func() time.Time
}

// Post is one post at a landing.
type Post struct {
	ID      string            `json:"id"`
	At      time.Time         `json:"at"`
	Key     string            `json:"key"`
	Message string            `json:"message"`
	Board   map[string]string `json:"board,omitempty"`
	Rings   []string          `json:"rings"`
	Under   string            `json:"under,omitempty"`   // id of the post that it stands under
	Picture string            `json:"picture,omitempty"` // PNG as base64
	Changed int               `json:"changed,omitempty"` // so often
}

// Landing is one of the server's landings: its name in addresses, what it is called, what a house may do there,
// and what was posted there.
type Landing struct {
	Name  string   `json:"name"`
	Title string   `json:"title"`
	May   []string `json:"may"` // write, hang, call
	Posts []Post   `json:"posts"`
}

// NewBoathouse is an empty community server: ten posts at once, then one a second.
func NewBoathouse() *Boathouse {
	all := func() []string { return []string{"write", "hang", "call"} }
	return &Boathouse{landings: []Landing{{Name: "news", Title: "News", May: all()}, {Name: "lamp-log", Title: "Lamp log", May: all()}, {Name: "newcomers", Title: "Newcomers", May: all()}},
		keys: map[string]string{}, limit: rate.NewLimiter(1, 10), clock: time.Now}
}

// SetMay gives a house a right at a landing, or takes it.
func (b *Boathouse) SetMay(landing, right string, on bool) {
	b.mu.Lock()
	defer b.mu.Unlock()
	for i := range b.landings {
		if l := &b.landings[i]; l.Name == landing {
			l.May = slices.DeleteFunc(l.May, func(r string) bool { return r == right })
			if on {
				l.May = append(l.May, right)
			}
		}
	}
}

// SetOutage breaks the server or mends it.
func (b *Boathouse) SetOutage(on bool) {
	b.mu.Lock()
	defer b.mu.Unlock()
	b.outage = on
}

// SetIgnoresKeys makes the server take a post again whatever its key.
func (b *Boathouse) SetIgnoresKeys(on bool) {
	b.mu.Lock()
	defer b.mu.Unlock()
	b.ignores = on
}

// State lists the landings with their posts, News first.
func (b *Boathouse) State() (landings []Landing, outage, ignores bool) {
	b.mu.Lock()
	defer b.mu.Unlock()
	for _, l := range b.landings {
		l.Posts, l.May = append([]Post{}, l.Posts...), slices.Clone(l.May)
		landings = append(landings, l)
	}
	return landings, b.outage, b.ignores
}

// problem answers as RFC 9457 has it.
func problem(w http.ResponseWriter, status int, detail string) {
	w.Header().Set("Content-Type", "application/problem+json")
	w.WriteHeader(status)
	json.NewEncoder(w).Encode(map[string]any{"status": status, "detail": detail})
}

// signedIn reports whether a request may read or post here; else it is answered.
func (b *Boathouse) signedIn(w http.ResponseWriter, r *http.Request) bool {
	g, ok := b.self.signins.bearer(r)
	switch {
	case !ok:
		refuse(w, http.StatusUnauthorized, "invalid_token")
	case !slices.Contains(strings.Fields(g.scope), "landings"):
		refuse(w, http.StatusForbidden, "insufficient_scope")
	default:
		return true
	}
	return false
}

// list tells of the landings, and what the house may do at each.
func (b *Boathouse) list(w http.ResponseWriter, r *http.Request) {
	if !b.signedIn(w, r) {
		return
	}
	landings, _, _ := b.State()
	out := []map[string]any{}
	for _, l := range landings {
		out = append(out, map[string]any{"id": l.Name, "title": l.Title, "may": l.May})
	}
	writeJSON(w, map[string]any{"landings": out})
}

// signed takes a post, or a change of one, of whoever is signed in.
func (b *Boathouse) signed(w http.ResponseWriter, r *http.Request) {
	if b.signedIn(w, r) {
		b.ServeHTTP(w, r)
	}
}

// ServeHTTP takes a post for a landing, or with PATCH a change of one.
func (b *Boathouse) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	b.mu.Lock()
	defer b.mu.Unlock()
	b.tries++
	if b.outage {
		http.Error(w, "the boathouse is under water", http.StatusBadGateway)
		return
	}
	if !b.limit.Allow() {
		w.Header().Set("Retry-After", "2")
		http.Error(w, "slowly, please", http.StatusTooManyRequests)
		return
	}
	var in struct {
		Message string            `json:"message"`
		Board   map[string]string `json:"board"`
		MayRing []string          `json:"may-ring"`
		Picture string            `json:"picture"`
		Under   string            `json:"under"`
	}
	body, err := io.ReadAll(io.LimitReader(r.Body, 4<<20))
	if err != nil || json.Unmarshal(body, &in) != nil || in.Message == "" {
		problem(w, http.StatusUnprocessableEntity, "a post needs a message")
		return
	}
	at := slices.IndexFunc(b.landings, func(l Landing) bool { return l.Name == r.PathValue("landing") })
	if at < 0 {
		problem(w, http.StatusNotFound, "there is no such landing")
		return
	}
	l := &b.landings[at]
	for _, n := range []struct {
		right string
		needs bool
	}{{"write", true}, {"hang", in.Picture != ""}, {"call", len(in.MayRing) > 0}} {
		if n.needs && !slices.Contains(l.May, n.right) {
			problem(w, http.StatusForbidden, "the right to "+n.right+" at "+l.Title+" is missing")
			return
		}
	}
	p := Post{At: b.clock().UTC(), Key: r.Header.Get("Idempotency-Key"), Message: in.Message, Board: in.Board, Rings: []string{}, Under: in.Under, Picture: in.Picture}
	if r.Method == http.MethodPatch {
		b.change(w, l, r.PathValue("post"), p)
		return
	}
	if id, taken := b.keys[p.Key]; p.Key != "" && taken && !b.ignores {
		writeJSON(w, map[string]string{"id": id}) // it stands there already
		return
	}
	if p.Under != "" && !slices.ContainsFunc(l.Posts, func(x Post) bool { return x.ID == p.Under }) {
		problem(w, http.StatusUnprocessableEntity, "what it is to stand under is not there")
		return
	}
	b.posts++
	p.ID = fmt.Sprintf("post-%d", b.posts)
	b.keys[p.Key] = p.ID
	for _, word := range strings.Fields(in.Message) {
		if g, ok := strings.CutPrefix(strings.TrimRight(word, ".,!?:;"), "@"); ok && slices.Contains(in.MayRing, g) {
			p.Rings = append(p.Rings, g)
		}
	}
	l.Posts = append(l.Posts, p)
	w.Header().Set("Content-Type", "application/json")
	w.WriteHeader(http.StatusCreated)
	json.NewEncoder(w).Encode(map[string]string{"id": p.ID})
}

// change makes another of a post; nobody is rung for it.
func (b *Boathouse) change(w http.ResponseWriter, l *Landing, id string, p Post) {
	for i := range l.Posts {
		if x := &l.Posts[i]; x.ID == id {
			if x.Key != p.Key { // the same change twice is one
				x.Message, x.Board, x.Key, x.Changed = p.Message, p.Board, p.Key, x.Changed+1
			}
			writeJSON(w, map[string]string{"id": id})
			return
		}
	}
	problem(w, http.StatusNotFound, "that post is not there")
}
