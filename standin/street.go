// Package standin is the simulated outside world that ships with the house: two
// streaming platforms with chat, sign-in, signed events and actions, a community server, a
// tip-and-raffle service, a stage (a lamp, scenes, a player), and a page from which a hand can move all of
// them, the street.
//
// Nothing here is part of the house: it speaks to it only as the outside does,
// through chat, webhooks and look-ups.
package standin

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"io/fs"
	"log/slog"
	"net"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"vividporch/core/profile"
	"vividporch/starter"
)

// Config says where the street listens and where it sends.
type Config struct {
	Listen    string            // of the street's page and interfaces, host:port
	Chat      map[string]string // platform → host:port of its chat
	Inbox     string            // the house's inbox, "http://127.0.0.1:8080/inbox/"; the platform's name is added
	Secrets   map[string]string // platform → signing secret of its events
	Passwords map[string]string // account → chat password
	Viewers   []Viewer
	Streamers []Streamer // what a look-up tells
	Channel   string
	Script    []byte // the evening, JSON Lines
	UI        fs.FS
	Log       *slog.Logger
	Clock     func() time.Time // the time of the sample world; nil for the machine's
	// Ahead moves the time of the whole sample world on, the house's too; nil where it cannot be moved.
	Ahead func(time.Duration)
}

// Streamer is what a platform knows of somebody who streams.
type Streamer struct {
	ID       string `json:"id"`
	Login    string `json:"login"`
	Link     string `json:"link"`
	Category string `json:"category"`
	Title    string `json:"title"`
	Live     bool   `json:"live"` // now
}

// Street is the whole outside world, running.
type Street struct {
	cfg       Config
	Platforms map[string]*Platform
	Boathouse *Boathouse
	Skerry    *Skerry
	Stage     *Stage
	Tin       *Tin
	Player    *Player
	srv       *http.Server
	addr      string
}

// tags are how each stand-in platform tells who is speaking.
var tags = map[string]ChatTags{
	"quayside": {ID: "quayside/account-id", Name: "quayside/name", Roles: "quayside/roles",
		Words: map[string]string{"streamer": "captain", "moderator": "mate", "vip": "guest-of-honour", "subscriber": "patron", "follower": "crew"}},
	"fernlight": {ID: "account", Name: "+fernlight/called", Roles: "fernlight/is",
		Words: map[string]string{"streamer": "host", "moderator": "warden", "vip": "elder", "subscriber": "member", "follower": "follower"}},
}

// Start opens the street. Close ends it.
func Start(cfg Config) (*Street, error) {
	if cfg.Log == nil {
		cfg.Log = slog.New(slog.DiscardHandler)
	}
	if cfg.Clock == nil {
		cfg.Clock = time.Now
	}
	s := &Street{cfg: cfg, Platforms: map[string]*Platform{}, Boathouse: NewBoathouse(), Stage: &Stage{clock: cfg.Clock}, Tin: &Tin{clock: cfg.Clock}}
	s.Boathouse.clock, s.Boathouse.self = cfg.Clock, s.without("boathouse")
	s.Skerry = &Skerry{self: s.without("skerry"), keys: map[string]string{}, clock: cfg.Clock}
	for name, addr := range cfg.Chat {
		chat := &Chat{Private: name == "quayside", Tags: tags[name], Room: "#" + cfg.Channel, Log: cfg.Log, Users: cfg.Passwords, Clock: cfg.Clock}
		if err := chat.Listen(addr); err != nil {
			return nil, err
		}
		p := &Platform{Name: name, Chat: chat, Channel: cfg.Channel, inbox: cfg.Inbox + name, secret: cfg.Secrets[name], streamers: cfg.Streamers, log: cfg.Log, clock: cfg.Clock}
		p.signins = &signins{platform: p, codes: map[string]grant{}, access: map[string]grant{}, refresh: map[string]grant{}, life: tokenLife}
		chat.Token = p.signins.login
		s.Platforms[name] = p
	}
	player, err := NewPlayer(s, cfg.Script)
	if err != nil {
		return nil, err
	}
	s.Player = player
	ln, err := net.Listen("tcp", cfg.Listen)
	if err != nil {
		return nil, err
	}
	s.addr = ln.Addr().String()
	s.Boathouse.self.faces = "http://" + s.addr + "/boathouse/faces/"
	for _, p := range s.Platforms {
		p.faces = s.Boathouse.self.faces
	}
	s.srv = &http.Server{Handler: s.routes(), ReadHeaderTimeout: 10 * time.Second}
	go s.srv.Serve(ln)
	return s, nil
}

// without is a site that has no chat: its sign-in, and the events that it sends.
func (s *Street) without(name string) *Platform {
	p := &Platform{Name: name, Channel: s.cfg.Channel, inbox: s.cfg.Inbox + name, secret: s.cfg.Secrets[name], log: s.cfg.Log, clock: s.cfg.Clock}
	p.signins = &signins{platform: p, codes: map[string]grant{}, access: map[string]grant{}, refresh: map[string]grant{}, life: tokenLife}
	return p
}

// of is a platform, or another site with a sign-in.
func (s *Street) of(name string) *Platform {
	switch name {
	case s.Boathouse.self.Name:
		return s.Boathouse.self
	case s.Skerry.self.Name:
		return s.Skerry.self
	}
	return s.Platforms[name]
}

// Address is where the street's page is.
func (s *Street) Address() string { return s.addr }

// Close ends everything on the street.
func (s *Street) Close() {
	s.Player.Stop()
	s.srv.Close()
	for _, p := range s.Platforms {
		p.Chat.Close()
	}
}

func (s *Street) routes() http.Handler {
	mux := http.NewServeMux()
	mux.HandleFunc("GET /{platform}/lookup", s.lookup)
	mux.HandleFunc("GET /{platform}/clips", s.clips)
	mux.HandleFunc("GET /{platform}/emotes", s.emotes)
	mux.HandleFunc("GET /boathouse/clips/{file}", clip)
	mux.HandleFunc("POST /{platform}/acts", s.acts)
	for path, f := range map[string]func(*signins, http.ResponseWriter, *http.Request){"GET /{platform}/signin/authorize": (*signins).authorize, "POST /{platform}/signin/authorize": (*signins).authorize,
		"POST /{platform}/signin/token": (*signins).token, "POST /{platform}/signin/revoke": (*signins).revoke, "GET /{platform}/signin/account": (*signins).account,
		"GET /{platform}/signin/houses": (*signins).houses, "GET /{platform}/missed": (*signins).missed} {
		mux.HandleFunc(path, func(w http.ResponseWriter, r *http.Request) {
			if p := s.of(r.PathValue("platform")); p != nil {
				f(p.signins, w, r)
			} else {
				http.NotFound(w, r)
			}
		})
	}
	mux.HandleFunc("GET /{platform}/profile.json", s.profile)
	mux.HandleFunc("GET /{platform}/counts", func(w http.ResponseWriter, r *http.Request) {
		writeJSON(w, map[string]int{"followers": 214, "subscribers": 31})
	})
	mux.Handle("POST /boathouse/hooks/{landing}", s.Boathouse)
	mux.HandleFunc("GET /boathouse/landings", s.Boathouse.list)
	mux.HandleFunc("GET /boathouse/faces/{file}", face)
	mux.HandleFunc("POST /skerry/posts", s.Skerry.signed(s.Skerry.post))
	mux.HandleFunc("POST /skerry/messages", s.Skerry.signed(s.Skerry.post))
	mux.HandleFunc("PUT /skerry/account/picture", s.Skerry.signed(s.Skerry.change))
	mux.HandleFunc("PUT /skerry/account/banner", s.Skerry.signed(s.Skerry.change))
	mux.HandleFunc("POST /boathouse/landings/{landing}/posts", s.Boathouse.signed)
	mux.HandleFunc("PATCH /boathouse/landings/{landing}/posts/{post}", s.Boathouse.signed)
	mux.Handle("POST /boathouse/stage/{fitting}", s.Stage)
	mux.HandleFunc("PUT /boathouse/lamp/glow", s.Stage.lamp)
	mux.Handle("GET /boathouse/scenes", s.Stage.scenes())
	mux.Handle("GET /boathouse/player", s.Stage.player())
	mux.HandleFunc("GET /tin/hear", s.Tin.hear)
	mux.HandleFunc("GET /tin/stream", s.Tin.stream)
	mux.HandleFunc("GET /street/state", s.state)
	mux.HandleFunc("POST /street/do/{act}", s.do)
	mux.HandleFunc("GET /street/heard/{platform}", func(w http.ResponseWriter, r *http.Request) {
		p := s.Platforms[r.PathValue("platform")]
		if p == nil {
			http.NotFound(w, r)
			return
		}
		since, _ := time.Parse(time.RFC3339Nano, r.URL.Query().Get("since"))
		writeJSON(w, p.Chat.Heard(r.URL.Query().Get("nick"), since))
	})
	if s.cfg.UI != nil {
		mux.HandleFunc("GET /", func(w http.ResponseWriter, r *http.Request) {
			path := strings.TrimPrefix(r.URL.Path, "/")
			if st, err := fs.Stat(s.cfg.UI, path); path == "" || err != nil || st.IsDir() {
				path = "street.html"
			}
			http.ServeFileFS(w, r, s.cfg.UI, path)
		})
	}
	return sameSite(mux)
}

// sameSite keeps other pages in the same browser from moving the street.
func sameSite(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if site := r.Header.Get("Sec-Fetch-Site"); r.Method == http.MethodPost && site != "" && site != "same-origin" && site != "none" {
			http.Error(w, "only from the street's own page", http.StatusForbidden)
			return
		}
		w.Header().Set("Content-Security-Policy", "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data:; font-src 'self'; connect-src 'self'; base-uri 'none'; frame-ancestors 'none'")
		next.ServeHTTP(w, r)
	})
}

// profile is the platform's own profile, as it is reached here.
func (s *Street) profile(w http.ResponseWriter, r *http.Request) {
	p := s.of(r.PathValue("platform"))
	if p == nil {
		http.NotFound(w, r)
		return
	}
	out := *profile.Of(nil, p.Name)
	out.At = "http://" + s.addr + "/" + p.Name
	if p.Chat != nil {
		out.Chat.Address, out.Chat.TLS = p.Chat.Address(), false
	}
	w.Header().Set("Content-Disposition", `attachment; filename="`+p.Name+`.profile.json"`)
	writeJSON(w, out)
}

func writeJSON(w http.ResponseWriter, v any) {
	w.Header().Set("Content-Type", "application/json")
	json.NewEncoder(w).Encode(v)
}

func (s *Street) lookup(w http.ResponseWriter, r *http.Request) {
	p := s.Platforms[r.PathValue("platform")]
	if p == nil {
		http.NotFound(w, r)
		return
	}
	p.mu.Lock()
	st := p.find(r.URL.Query().Get("id"), r.URL.Query().Get("login"))
	if st != nil {
		is := *st
		st = &is
	}
	p.mu.Unlock()
	if st != nil {
		writeJSON(w, struct {
			*Streamer
			Picture string `json:"picture"`
		}{st, s.Boathouse.self.faces + st.Login + ".png"})
		return
	}
	http.NotFound(w, r)
}

// clips tells of a streamer's clips: three short ones, and one that is long.
func (s *Street) clips(w http.ResponseWriter, r *http.Request) {
	p := s.Platforms[r.PathValue("platform")]
	if p == nil {
		http.NotFound(w, r)
		return
	}
	p.mu.Lock()
	st := p.find(r.URL.Query().Get("id"), r.URL.Query().Get("login"))
	p.mu.Unlock()
	list := []map[string]any{}
	if st != nil {
		for i, title := range []string{"the heron lands", "the heron goes", "it was behind us"} {
			list = append(list, map[string]any{"title": title, "film": fmt.Sprintf("http://%s/boathouse/clips/%s-%d.webm", s.addr, st.Login, i), "seconds": 3.8})
		}
		list = append(list, map[string]any{"title": "two hours of mud", "film": "http://" + s.addr + "/boathouse/clips/mud.webm", "seconds": 7200})
	}
	writeJSON(w, map[string]any{"clips": list})
}

// emotes tells which words are pictures on a platform.
func (s *Street) emotes(w http.ResponseWriter, r *http.Request) {
	if s.Platforms[r.PathValue("platform")] == nil {
		http.NotFound(w, r)
		return
	}
	list := []map[string]string{}
	for _, word := range []string{":limpet:", ":lantern:", ":lowtide:"} {
		list = append(list, map[string]string{"word": word, "picture": s.Boathouse.self.faces + "emote-" + strings.Trim(word, ":") + ".png"})
	}
	writeJSON(w, map[string]any{"emotes": list})
}

// clip is a film of the sample world's.
func clip(w http.ResponseWriter, r *http.Request) {
	http.ServeFileFS(w, r, starter.Shelf, "shelf/heron.webm")
}

// State is what the street's page shows.
type State struct {
	Now       time.Time       `json:"now"`     // of the sample world
	Movable   bool            `json:"movable"` // its clock can be moved on
	Channel   string          `json:"channel"`
	Platforms []PlatformState `json:"platforms"`
	Landings  []Landing       `json:"landings"`
	Outage    bool            `json:"outage"`
	Skerry    SkerryState     `json:"skerry"`
	Ignores   bool            `json:"ignoresKeys"`
	Stage     StageState      `json:"stage"`
	Tin       TinState        `json:"tin"`
	Viewers   []Viewer        `json:"viewers"`
	Player    PlayerState     `json:"player"`
}

// PlatformState is one platform on the street's page.
type PlatformState struct {
	Name     string    `json:"name"`
	Live     bool      `json:"live"`
	Title    string    `json:"title"`
	Category string    `json:"category"`
	Address  string    `json:"address"`
	Here     []string  `json:"here"`
	Waiting  int       `json:"waiting"` // events not yet taken by the house
	Refused  string    `json:"refused"` // what the house last said against one
	Heard    []Heard   `json:"heard"`
	Modes    []string  `json:"modes"`   // of its chat
	VIPs     []string  `json:"vips"`    // made by the house
	Deeds    []Deed    `json:"deeds"`   // what the house had it do
	Private  []Private `json:"private"` // messages to one person alone, newest last
}

func (s *Street) state(w http.ResponseWriter, _ *http.Request) {
	st := State{Now: s.cfg.Clock(), Movable: s.cfg.Ahead != nil, Channel: s.cfg.Channel, Viewers: s.cfg.Viewers, Player: s.Player.State(), Stage: s.Stage.State(), Tin: s.Tin.State()}
	st.Landings, st.Outage, st.Ignores = s.Boathouse.State()
	st.Skerry = s.Skerry.State()
	for _, name := range []string{"quayside", "fernlight"} {
		if p := s.Platforms[name]; p != nil {
			st.Platforms = append(st.Platforms, p.State())
		}
	}
	writeJSON(w, st)
}

// order is what the page asks for.
type order struct {
	Platform string  `json:"platform"`
	Viewer   string  `json:"viewer"`
	Text     string  `json:"text"`
	Title    string  `json:"title"`
	Category string  `json:"category"`
	Viewers  int64   `json:"viewers"`
	On       bool    `json:"on"`
	Speed    float64 `json:"speed"`
	Minutes  float64 `json:"minutes"`
	Days     int     `json:"days"`
}

func (s *Street) do(w http.ResponseWriter, r *http.Request) {
	var o order
	if body, err := io.ReadAll(io.LimitReader(r.Body, 64<<10)); err != nil || len(body) > 0 && json.Unmarshal(body, &o) != nil {
		http.Error(w, "the order cannot be read", http.StatusBadRequest)
		return
	}
	p := s.of(o.Platform)
	v := s.viewer(o.Viewer)
	act := r.PathValue("act")
	switch act {
	case "coin", "raffle", "join", "note", "social":
		if v.Login == "" {
			http.Error(w, "choose a viewer", http.StatusBadRequest)
			return
		}
	case "say", "hold", "follow", "raid", "subscribe", "tip", "gift", "live":
		if p == nil || p.Chat == nil || v.Login == "" {
			http.Error(w, "choose a platform and a viewer", http.StatusBadRequest)
			return
		}
	case "open", "close", "change", "drop", "silence", "secret", "revoke", "tokens", "deaf":
		if p == nil {
			http.Error(w, "choose a platform", http.StatusBadRequest)
			return
		}
	}
	ago := time.Duration(o.Minutes * float64(time.Minute))
	switch act {
	case "say":
		p.Chat.Say(v, o.Text)
	case "hold":
		p.Hold(v, o.Text, "a link")
	case "follow":
		p.Send("porch.person.followed", ago, map[string]any{"person": p.person(v)})
	case "raid":
		p.Send("porch.raid.came", ago, map[string]any{"person": p.person(v), "viewers": o.Viewers})
	case "subscribe":
		p.Send("porch.support.subscribed", ago, map[string]any{"person": p.person(v), "tier": "Harbour", "months": max(1, o.Viewers)})
	case "gift":
		p.Send("porch.support.gifted", ago, map[string]any{"person": p.person(v), "tier": "Harbour", "count": max(1, o.Viewers)})
	case "tip":
		p.Send("porch.support.tipped", ago, map[string]any{"person": p.person(v), "amount": strconv.FormatInt(max(1, o.Viewers), 10) + ".00", "currency": "EUR", "message": o.Text})
	case "open":
		p.Open(o.Title, o.Category, ago)
	case "close":
		p.Shut(ago)
	case "clock":
		if s.cfg.Ahead == nil || o.Days < 0 || o.Days > 366 || o.Minutes < 0 {
			http.Error(w, "the clock cannot be moved so: 0 to 366 days on, and never back", http.StatusBadRequest)
			return
		}
		s.cfg.Ahead(time.Duration(o.Days)*24*time.Hour + ago)
	case "change":
		p.Change(o.Title, o.Category)
	case "drop":
		p.Chat.Drop()
	case "silence":
		p.Chat.Silence(o.Viewer, o.On)
	case "secret":
		p.SetSecret(o.Text, o.Title)
	case "coin":
		s.Tin.Coin(v, max(1, o.Viewers), o.Text)
	case "raffle":
		s.Tin.Raffle(v, nonEmpty(o.Text, "a jar of sea glass"))
	case "lid":
		s.Tin.Lid(o.On)
	case "hook":
		s.Tin.SetHook(o.Text, o.Title)
	case "revoke":
		p.signins.takeBack(o.Viewer)
	case "tokens": // how long they live, and whether they are renewed
		p.signins.mu.Lock()
		p.signins.life, p.signins.refuses, p.signins.endless = time.Duration(max(1, o.Minutes)*float64(time.Minute)), o.On, o.Text == "no refresh"
		p.signins.mu.Unlock()
	case "live": // somebody begins to stream, or ends
		p.mu.Lock()
		if st := p.find(v.ID, v.Login); st != nil {
			st.Live = o.On
		}
		p.mu.Unlock()
	case "deaf": // its events reach nobody
		p.SetDeaf(o.On)
	case "join": // the community server
		b := s.Boathouse.self
		b.Send("porch.person.joined", 0, map[string]any{"person": b.person(v), "place": "The Boathouse"})
	case "note": // left at a landing
		b := s.Boathouse.self
		b.Send("porch.note.left", 0, map[string]any{"person": b.person(v), "place": nonEmpty(o.Title, "Newcomers"), "text": nonEmpty(o.Text, "The mussels have moved.")})
	case "social": // somebody follows, likes or passes on
		if kind := o.Text; slices.Contains([]string{"followed", "liked", "reposted"}, kind) {
			s.Skerry.self.Send("porch.social."+kind, 0, map[string]any{"person": s.Skerry.self.person(v), "url": "https://skerry.example/" + v.Login})
		}
	case "may": // a house's right at a landing
		s.Boathouse.SetMay(o.Title, o.Text, o.On)
	case "outage":
		s.Boathouse.SetOutage(o.On)
	case "dark":
		s.Stage.SetDark(o.On)
	case "ignore-keys":
		s.Boathouse.SetIgnoresKeys(o.On)
	case "play":
		s.Player.Play()
	case "pause":
		s.Player.Pause(o.On)
	case "speed":
		s.Player.SetSpeed(o.Speed)
	default:
		http.NotFound(w, r)
		return
	}
	writeJSON(w, map[string]bool{"done": true})
}

// viewer finds a sample viewer by login, or makes one up on the spot.
func (s *Street) viewer(login string) Viewer {
	login = strings.TrimPrefix(strings.TrimSpace(login), "@")
	for _, v := range s.cfg.Viewers {
		if strings.EqualFold(v.Login, login) {
			return v
		}
	}
	if login == "" || strings.ContainsAny(login, " :!@#&,*\r\n") {
		return Viewer{}
	}
	return Viewer{ID: "street-" + strings.ToLower(login), Login: login, Name: login}
}

// sender sends events one after another and tries again until the house takes
// them, as a platform would.
type sender struct {
	mu      sync.Mutex
	queue   []envelope
	running bool
	refused string
	taken   []string // ids the house answered 202 for
}

type envelope struct {
	id   string
	body []byte
}

func (p *Platform) enqueue(e envelope) {
	p.out.mu.Lock()
	defer p.out.mu.Unlock()
	p.out.queue = append(p.out.queue, e)
	if !p.out.running {
		p.out.running = true
		go p.deliver()
	}
}

func (p *Platform) deliver() {
	pause := 100 * time.Millisecond
	for {
		p.out.mu.Lock()
		if len(p.out.queue) == 0 {
			p.out.running = false
			p.out.mu.Unlock()
			return
		}
		e := p.out.queue[0]
		p.out.mu.Unlock()
		ctx, cancel := context.WithTimeout(context.Background(), 15*time.Second)
		status, said, wait := p.post(ctx, e)
		cancel()
		switch {
		case status == http.StatusAccepted:
			pause = 100 * time.Millisecond
		case status >= 400 && status < 500 && status != http.StatusTooManyRequests:
			p.log.Warn("the house refused an event", "platform", p.Name, "status", status, "said", said)
		default: // down or busy: again, in order
			time.Sleep(max(wait, pause))
			pause = min(2*pause, 2*time.Second)
			continue
		}
		p.out.mu.Lock()
		p.out.queue = p.out.queue[1:]
		if status == http.StatusAccepted {
			p.out.taken = append(p.out.taken, e.id)
		}
		p.out.refused = ""
		if status != http.StatusAccepted || strings.Contains(said, `"index"`) {
			p.out.refused = said
		}
		p.out.mu.Unlock()
	}
}

func retryAfter(h http.Header) time.Duration {
	n, _ := strconv.Atoi(h.Get("Retry-After"))
	return time.Duration(min(n, 5)) * time.Second
}

// Do does what the street's page can do, for a test.
func (s *Street) Do(t interface {
	Helper()
	Fatal(...any)
}, act string, what map[string]any) {
	t.Helper()
	raw, _ := json.Marshal(what)
	res, err := http.Post("http://"+s.addr+"/street/do/"+act, "application/json", bytes.NewReader(raw))
	if err != nil {
		t.Fatal(err)
	}
	res.Body.Close()
	if res.StatusCode != http.StatusOK {
		t.Fatal(act, res.Status)
	}
}
