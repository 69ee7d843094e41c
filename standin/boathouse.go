package standin

import (
	"encoding/json"
	"io"
	"net/http"
	"slices"
	"strings"
	"sync"
	"time"

	"golang.org/x/time/rate"
)

// Boathouse is a stand-in community server: landings that take posts by webhook and
// can be read in a browser. A post rings everybody only when its text says @all,
// or a group by @name, and its "may-ring" list allows exactly that.
type Boathouse struct {
	mu       sync.Mutex
	landings []Landing
	keys     map[string]bool
	outage   bool
	ignores  bool
	limit    *rate.Limiter
	tries    int
	clock    func() time.Time
}

// Post is one post at a landing.
type Post struct {
	At      time.Time         `json:"at"`
	Key     string            `json:"key"`
	Message string            `json:"message"`
	Board   map[string]string `json:"board,omitempty"`
	Rings   []string          `json:"rings"`
}

// Landing is one of the server's landings: its name in addresses, what it is called,
// and what was posted there.
type Landing struct {
	Name  string `json:"name"`
	Title string `json:"title"`
	Posts []Post `json:"posts"`
}

// NewBoathouse is an empty community server: ten posts at once, then one a second.
func NewBoathouse() *Boathouse {
	return &Boathouse{landings: []Landing{{Name: "news", Title: "News"}, {Name: "lamp-log", Title: "Lamp log"}, {Name: "newcomers", Title: "Newcomers"}},
		keys: map[string]bool{}, limit: rate.NewLimiter(1, 10), clock: time.Now}
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
		l.Posts = append([]Post{}, l.Posts...)
		landings = append(landings, l)
	}
	return landings, b.outage, b.ignores
}

// ServeHTTP takes a post for a landing.
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
	}
	body, err := io.ReadAll(io.LimitReader(r.Body, 64<<10))
	if err != nil || json.Unmarshal(body, &in) != nil || in.Message == "" {
		http.Error(w, "a post needs a message", http.StatusUnprocessableEntity)
		return
	}
	at := slices.IndexFunc(b.landings, func(l Landing) bool { return l.Name == r.PathValue("landing") })
	if at < 0 {
		http.Error(w, "no such landing", http.StatusNotFound)
		return
	}
	key := r.Header.Get("Idempotency-Key")
	if key != "" && b.keys[key] && !b.ignores {
		w.WriteHeader(http.StatusOK) // it stands there already
		return
	}
	b.keys[key] = true
	p := Post{At: b.clock().UTC(), Key: key, Message: in.Message, Board: in.Board, Rings: []string{}}
	for _, word := range strings.Fields(in.Message) {
		if g, ok := strings.CutPrefix(strings.TrimRight(word, ".,!?:;"), "@"); ok && slices.Contains(in.MayRing, g) {
			p.Rings = append(p.Rings, g)
		}
	}
	b.landings[at].Posts = append(b.landings[at].Posts, p)
	w.WriteHeader(http.StatusCreated)
}
