package main

import (
	"cmp"
	"context"
	"crypto/rand"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"net/netip"
	"net/url"
	"os"
	"path/filepath"
	"runtime/debug"
	"strings"
	"sync"
	"sync/atomic"
	"time"

	"github.com/spf13/cobra"

	"vividporch/api"
	"vividporch/core/housefile"
	"vividporch/porch"
	"vividporch/porch/desk"
	"vividporch/porch/movein"
	"vividporch/starter"
	"vividporch/store"
	"vividporch/store/backup"
	"vividporch/store/log"
	"vividporch/store/members"
	"vividporch/store/safe"
	"vividporch/store/tables"
	"vividporch/ui"
)

// options are the settings of serve: flags, each with a PORCH_ variable.
type options struct {
	database, listen, channel, houseFile, cert, tlsKey, owner, public string
	keyFile, proxies, backups, files, home                            string
	clockAhead                                                        time.Duration
	restored                                                          bool // just now
	verbose, quickRetry, sample                                       bool // sample: it is the sample world's
}

func (o *options) flags(c *cobra.Command) {
	f := c.Flags()
	f.StringVar(&o.database, "database", env("PORCH_DATABASE", ""), "PostgreSQL URL (PORCH_DATABASE)")
	f.StringVar(&o.listen, "listen", env("PORCH_LISTEN", "127.0.0.1:8080"), "address to listen on (PORCH_LISTEN)")
	f.StringVar(&o.channel, "channel", env("PORCH_CHANNEL", ""), "the channel; not needed where a database has one (PORCH_CHANNEL)")
	f.StringVar(&o.houseFile, "house", env("PORCH_HOUSE", ""), "house file a new channel starts with (PORCH_HOUSE)")
	f.StringVar(&o.owner, "owner", env("PORCH_OWNER", "owner"), "the owner's name (PORCH_OWNER)")
	f.StringVar(&o.public, "public", env("PORCH_PUBLIC", ""), "where people reach the house from outside; links and cookies follow it (PORCH_PUBLIC)")
	f.StringVar(&o.proxies, "proxies", env("PORCH_PROXIES", ""), "reverse proxies whose forwarded addresses count, as addresses or networks with commas between (PORCH_PROXIES)")
	f.StringVar(&o.cert, "tls-cert", env("PORCH_TLS_CERT", ""), "certificate file (PORCH_TLS_CERT)")
	f.StringVar(&o.tlsKey, "tls-key", env("PORCH_TLS_KEY", ""), "key file (PORCH_TLS_KEY)")
	f.StringVar(&o.keyFile, "key-file", env("PORCH_KEY_FILE", ""), "file with the key that secrets are kept under, made at the first start; PORCH_KEY holds the key itself instead (PORCH_KEY_FILE)")
	f.StringVar(&o.backups, "backups", env("PORCH_BACKUPS", ""), "folder that backups are kept in; beside the key unless told otherwise (PORCH_BACKUPS)")
	f.StringVar(&o.files, "files", env("PORCH_FILES", ""), "folder that places write their files to; beside the key unless told otherwise (PORCH_FILES)")
	f.StringVar(&o.home, "home", env("PORCH_HOME", ":8443"), "address to listen on for the home network, when that is chosen in House (PORCH_HOME)")
	f.DurationVar(&o.clockAhead, "clock-ahead", envDuration("PORCH_CLOCK_AHEAD"), "how far the house's clock goes ahead, for demo and tests (PORCH_CLOCK_AHEAD)")
	f.BoolVar(&o.verbose, "verbose", env("PORCH_VERBOSE", "") != "", "log what happens (PORCH_VERBOSE)")
	f.BoolVar(&o.quickRetry, "quick-retry", env("PORCH_QUICK_RETRY", "") != "", "try posts again after 100 ms instead of seconds, for tests (PORCH_QUICK_RETRY)")
}

func (o *options) check() error {
	switch {
	case o.database == "":
		return errors.New("no database: set PORCH_DATABASE or --database to a PostgreSQL URL")
	case (o.cert == "") != (o.tlsKey == ""):
		return errors.New("TLS needs both PORCH_TLS_CERT and PORCH_TLS_KEY")
	}
	if _, _, err := net.SplitHostPort(o.listen); err != nil {
		return fmt.Errorf("PORCH_LISTEN %q is no address: write host:port, such as 127.0.0.1:8080", o.listen)
	}
	if _, _, err := net.SplitHostPort(o.home); err != nil && o.home != "" {
		return fmt.Errorf("PORCH_HOME %q is no address: write host:port, such as :8443", o.home)
	}
	if _, err := prefixes(o.proxies); err != nil {
		return err
	}
	if u, err := url.Parse(o.public); o.public != "" && (err != nil || u.Host == "" || u.Scheme != "http" && u.Scheme != "https") {
		return fmt.Errorf("PORCH_PUBLIC %q is no address: write it in full, such as https://porch.example", o.public)
	}
	return nil
}

// prefixes reads addresses and networks, with commas between.
func prefixes(list string) ([]netip.Prefix, error) {
	var out []netip.Prefix
	for _, s := range strings.FieldsFunc(list, func(r rune) bool { return r == ',' || r == ' ' }) {
		if at, err := netip.ParseAddr(s); err == nil {
			out = append(out, netip.PrefixFrom(at, at.BitLen()))
			continue
		}
		p, err := netip.ParsePrefix(s)
		if err != nil {
			return nil, fmt.Errorf("PORCH_PROXIES: %q is no address or network: write 10.0.0.7 or 10.0.0.0/24", s)
		}
		out = append(out, p.Masked())
	}
	return out, nil
}

func (o *options) log() *slog.Logger {
	level := slog.LevelWarn
	if o.verbose {
		level = slog.LevelDebug
	}
	return slog.New(slog.NewTextHandler(os.Stderr, &slog.HandlerOptions{Level: level}))
}

// key is the file that the key is in.
func (o *options) key() (string, error) {
	if o.keyFile != "" {
		return o.keyFile, nil
	}
	dir, err := os.UserConfigDir()
	if err != nil {
		return "", fmt.Errorf("there is no place for the key that secrets are kept under: set PORCH_KEY_FILE: %w", err)
	}
	return filepath.Join(dir, "vividporch", "key"), nil
}

// readKey is the key that secrets are kept under, made at the first start.
func (o *options) readKey() ([]byte, error) {
	text := os.Getenv("PORCH_KEY")
	file, err := o.key()
	if err != nil && text == "" {
		return nil, err
	}
	return safe.Key(text, file)
}

// open opens the database, with the key that secrets are kept under. Before its tables are brought
// up to date, a backup of it is made.
func (o *options) open(ctx context.Context) (*store.Store, error) {
	key, err := o.readKey()
	if err != nil {
		return nil, err
	}
	st, err := store.OpenWith(ctx, o.database, func(ctx context.Context, st *store.Store) error {
		if o.folder().Dir == "" {
			return nil
		}
		if _, err := o.backUp(ctx, st, backup.Update, ""); err != nil {
			return fmt.Errorf("the house is to be brought up to date, and no backup of it can be made first: %w", err)
		}
		return nil
	})
	if err != nil {
		return nil, err
	}
	if err := st.Safe.UseKey(key); err != nil {
		st.Close()
		return nil, err
	}
	return st, nil
}

// settings are the settings in force, or those a new channel would start with.
func (o *options) settings(ctx context.Context, st *store.Store, channel int64) (*housefile.Settings, error) {
	v, ok, err := st.Log.SettingsNow(ctx, channel)
	if err != nil {
		return nil, err
	}
	if ok {
		return housefile.ReadStored(v.Doc)
	}
	doc, err := o.defaults()
	if err != nil {
		return nil, err
	}
	return housefile.ReadSettings(doc)
}

// newHouse is what a channel is called that nobody has named yet.
const newHouse = housefile.Unnamed

// channelOf finds the channel that is meant, making it when it is new: the one that is
// named, or the only one there is.
func (o *options) channelOf(ctx context.Context, st *store.Store) (int64, error) {
	if o.channel == "" {
		names, err := st.Channels(ctx)
		switch {
		case err != nil:
			return 0, err
		case len(names) > 1:
			return 0, fmt.Errorf("the database holds several channels (%s): say which with PORCH_CHANNEL or --channel", strings.Join(names, ", "))
		case len(names) == 1:
			o.channel = names[0]
		default:
			o.channel = newHouse
		}
	}
	return st.Channel(ctx, o.channel)
}

// defaults is the house file that a new channel starts with: the one that was named, or
// else the starter set.
func (o *options) defaults() ([]byte, error) {
	if o.houseFile == "" {
		return starter.House(cmp.Or(o.channel, newHouse), rand.Text())
	}
	doc, err := os.ReadFile(o.houseFile)
	if err != nil {
		return nil, fmt.Errorf("the house file cannot be read: %w", err)
	}
	return doc, nil
}

func serveCommand() *cobra.Command {
	var o options
	c := &cobra.Command{Use: "serve", Short: "Run the house", Args: cobra.NoArgs, RunE: func(c *cobra.Command, _ []string) error {
		return o.serve(c.Context(), nil, nil)
	}}
	o.flags(c)
	return c
}

// serve looks after the channel until ctx ends: it stands by while another process does,
// and again when another has taken over. before is called with the open store, and
// running with each house that is opened; both may be nil.
func (o *options) serve(ctx context.Context, before func(context.Context, *store.Store, *porch.Config) error, running func(*porch.House)) error {
	if err := o.check(); err != nil {
		return err
	}
	front := newFront(ctx, o)
	defer front.close()
	for ctx.Err() == nil {
		err := o.keepHouse(ctx, front, before, running)
		var r *restoring
		if !errors.As(err, &r) {
			return err
		}
		before = nil // of a house that began otherwise
		fmt.Println("A backup is being restored.")
		front.show(beingRestored)
		if err := o.bring(ctx, *r, true); err != nil {
			fmt.Println("The backup was not restored:", err)
			continue
		}
		o.restored = true
	}
	return nil
}

// keepHouse looks after a channel until ctx ends, or with a *restoring until a backup is to be
// put in its place.
func (o *options) keepHouse(ctx context.Context, front *front, before func(context.Context, *store.Store, *porch.Config) error, running func(*porch.House)) error {
	st, err := o.open(ctx)
	if err != nil {
		return err
	}
	defer st.Close()
	id, err := o.channelOf(ctx, st)
	if err != nil {
		return err
	}
	cfg, err := o.config(st)
	if err != nil {
		return err
	}
	if before != nil {
		if err := before(ctx, st, &cfg); err != nil {
			return err
		}
	}
	if err := o.begin(ctx, st, id, &cfg); err != nil {
		return err
	}
	cfg.OnForgotten = func(accounts []string) {
		if f := o.folder(); f.Dir != "" {
			if err := f.Forgot(o.channel, accounts, time.Now()); err != nil {
				o.log().Error("who was forgotten cannot be noted beside the backups", "error", err)
			}
		}
	}
	for ctx.Err() == nil {
		err := o.lookAfter(ctx, cfg, id, front, running)
		if !errors.Is(err, errTakenOver) {
			return err
		}
		fmt.Printf("Another process has taken over %s; standing by.\n", o.channel)
	}
	return nil
}

// begin puts the first settings in force on a new channel, which then begins to move in unless it
// brought a house file along.
func (o *options) begin(ctx context.Context, st *store.Store, id int64, cfg *porch.Config) error {
	_, there, err := st.Log.SettingsNow(ctx, id)
	if err != nil {
		return err
	}
	if err := st.Log.FirstSettings(ctx, id, cfg.Defaults); err != nil {
		return err
	}
	if !there { // something to show at once
		if err := fillShelf(ctx, st, id, starter.Shelf); err != nil {
			return err
		}
	}
	if first, err := st.Log.SettingsAt(ctx, id, 1); err == nil {
		cfg.Defaults = first.Doc // with its own seed
	}
	if there || o.houseFile != "" || o.sample {
		return nil
	}
	return st.Moving.Say(ctx, id, movein.Begun, "yes")
}

// Error says what is to be done: it ends a house, and is no failure of it.
func (r *restoring) Error() string { return "a backup is to be restored" }

// errTakenOver says that another process has taken the channel over.
var errTakenOver = errors.New("another process has taken the channel over")

// aheadBy is the machine's clock, put forward; nil for the machine's own.
func aheadBy(d time.Duration) func() time.Time {
	if d == 0 {
		return nil
	}
	return func() time.Time { return time.Now().Add(d) }
}

// ahead is a clock that can be moved on while it goes: how far it stands before the machine's.
type ahead struct{ by atomic.Int64 }

func (a *ahead) now() time.Time        { return time.Now().Add(time.Duration(a.by.Load())) }
func (a *ahead) move(on time.Duration) { a.by.Add(int64(on)) }

// config is what the house is started with.
func (o *options) config(st *store.Store) (porch.Config, error) {
	doc, err := o.defaults()
	if err != nil {
		return porch.Config{}, err
	}
	cfg := porch.Config{Files: o.filesFolder(), Public: o.reached(), Fixed: o.public != "", Store: st, Channel: o.channel, Log: o.log(), Defaults: doc}
	cfg.Clock = aheadBy(o.clockAhead)
	if o.quickRetry {
		cfg.Backoff = func(int) time.Duration { return 100 * time.Millisecond }
	}
	return cfg, nil
}

// filesFolder is where places write their files: where PORCH_FILES says, else beside the key; "" for nowhere.
func (o *options) filesFolder() string {
	if o.files != "" || os.Getenv("PORCH_KEY") != "" {
		return o.files
	}
	file, err := o.key()
	if err != nil {
		return ""
	}
	return filepath.Join(filepath.Dir(file), "files")
}

// reached is where people reach the house.
func (o *options) reached() string {
	switch {
	case o.public != "":
		return strings.TrimRight(o.public, "/")
	case o.cert != "":
		return "https://" + o.listen
	}
	return "http://" + o.listen
}

// lookAfter takes the channel, as soon as nobody else has it, and looks after it until
// ctx ends, or with errTakenOver until another process does.
func (o *options) lookAfter(ctx context.Context, cfg porch.Config, id int64, front *front, running func(*porch.House)) error {
	lost := make(chan struct{})
	var once sync.Once
	cfg.OnLost = func() { once.Do(func() { close(lost) }) }
	reach := make(chan housefile.Reach, 1)
	cfg.OnReach = func(r housefile.Reach) { // the last one counts
		select {
		case <-reach:
		default:
		}
		reach <- r
	}
	h, stop, err := o.standBy(ctx, cfg, front)
	if err != nil || h == nil {
		return err
	}
	defer stop()
	defer front.home.reach(h, housefile.Reach{})
	if err := o.follow(ctx, h); err != nil {
		return err
	}
	if running != nil {
		running(h)
	}
	nights, end := context.WithCancel(ctx)
	defer end()
	go o.nightly(nights, h, cfg.Store)
	restore := make(chan restoring, 1)
	proxies, err := prefixes(o.proxies)
	if err != nil {
		return err
	}
	front.show(api.New(o.edge(h, cfg, proxies, restore)))
	if err := front.listen(ctx, 10*time.Second); err != nil {
		return err
	}
	link, err := o.link(ctx, cfg.Store, id, front.address())
	if err != nil {
		return err
	}
	fmt.Printf("Vivid Porch looks after %s. Sign in here, once:\n  %s\n", h.Plan().Whole.Channel, link)
	for {
		select {
		case r := <-reach:
			front.home.reach(h, r)
		case <-ctx.Done():
			front.drain()
			return nil
		case r := <-restore:
			time.Sleep(answered) // whoever asked for it is told first
			front.show(beingRestored)
			if _, err := o.backUp(ctx, cfg.Store, backup.Before, ""); err != nil {
				o.log().Error("nothing is restored: what is there cannot be kept first", "error", err)
				front.show(api.New(o.edge(h, cfg, proxies, restore)))
				continue
			}
			return &r
		case <-lost:
			front.show(standingBy)
			return errTakenOver
		case err := <-front.failed:
			return err
		}
	}
}

// answered is how long an answer may take to reach whoever asked for a restore.
const answered = 300 * time.Millisecond

// edge is the HTTP edge of a house.
func (o *options) edge(h *porch.House, cfg porch.Config, proxies []netip.Prefix, restore chan<- restoring) api.Config {
	return api.Config{House: h, Store: cfg.Store, UI: ui.Files(), Public: cfg.Public, Proxies: proxies, Backups: o.keeps(cfg.Store, restore), Log: cfg.Log}
}

// follow makes the settings say how the house is reached as it was started, where that was said;
// a house that nobody asked yet is reached from here alone.
func (o *options) follow(ctx context.Context, h *porch.House) error {
	want, now := h.Plan().Whole.Reach, h.Plan().Whole.Reach
	host, _, _ := net.SplitHostPort(o.listen)
	at, _ := netip.ParseAddr(host)
	switch {
	case o.public != "":
		want = housefile.Reach{How: housefile.Public, Address: strings.TrimRight(o.public, "/")}
	case now.How == "" && (at.IsLoopback() || host == "localhost"):
		want = housefile.Reach{How: housefile.Here}
	}
	if want == now {
		return nil
	}
	raw, err := json.Marshal(want)
	if err != nil {
		return err
	}
	_, err = h.Desk.SetSection(ctx, desk.By{Member: "the start", Role: members.RoleOwner}, "reach", raw)
	return err
}

// standBy waits until nobody else looks after the channel. It outlives restarts of the
// database. There is no house when ctx ended first.
func (o *options) standBy(ctx context.Context, cfg porch.Config, front *front) (*porch.House, func(), error) {
	said, refused := false, time.Time{}
	for {
		h, stop, err := porch.Start(ctx, cfg)
		switch {
		case err == nil:
			go debug.FreeOSMemory() // a start reads much of which nothing is kept
			return h, stop, nil
		case ctx.Err() != nil:
			return nil, nil, nil
		case errors.Is(err, log.ErrHeld) && !said:
			said = true
			fmt.Printf("Another process looks after %s; standing by.\n", o.channel)
			front.show(standingBy)
			front.listen(ctx, 0) // where that is possible: to tell whoever asks
		case errors.Is(err, log.ErrHeld):
		case said && log.Waits(err): // the database restarts
			cfg.Log.Warn("standing by: the database does not answer", "error", err)
		case log.Waits(err) && (refused.IsZero() || time.Since(refused) < 10*time.Second): // it may be starting, too
			if refused.IsZero() {
				refused = time.Now()
			}
		default:
			return nil, nil, err
		}
		select {
		case <-ctx.Done():
			return nil, nil, nil
		case <-time.After(300 * time.Millisecond):
		}
	}
}

// beingRestored answers while a backup is put in the place of the house.
var beingRestored = away("being restored", "A backup is being put in the place of the house.")

// standingBy answers while another process looks after the channel.
var standingBy = away("standing by", "Another process looks after this channel.")

// away answers while there is no house behind the front.
func away(state, why string) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		switch r.URL.Path {
		case "/healthz":
			fmt.Fprintln(w, "ok, "+state)
			return
		case "/readyz":
			w.Header().Set("Content-Type", "application/json")
			w.WriteHeader(http.StatusServiceUnavailable)
			fmt.Fprintf(w, "{\"house\":%q}\n", state)
			return
		}
		w.Header().Set("Retry-After", "5")
		w.Header().Set("Content-Type", "application/problem+json")
		w.WriteHeader(http.StatusServiceUnavailable)
		fmt.Fprintf(w, `{"status":503,"title":"The house is %s","detail":%q}`+"\n", state, why)
	})
}

// link makes a one-time link that signs the owner in.
func (o *options) link(ctx context.Context, st *store.Store, channel int64, addr string) (string, error) {
	owner, err := st.Members.Owner(ctx, channel, o.owner)
	if err != nil {
		return "", err
	}
	token := rand.Text()
	if !o.restored { // each start withdraws the links before it, but for the one that leads into a restored house
		if err := st.Members.DropSignIns(ctx, owner.ID); err != nil {
			return "", err
		}
	}
	o.restored = false
	if err := st.Members.AddSignIn(ctx, tables.SignIn{Hash: api.Hash(token), Member: owner.ID, Expires: time.Now().Add(24 * time.Hour)}); err != nil {
		return "", err
	}
	at := o.reached()
	if o.public == "" {
		at = strings.Replace(at, o.listen, addr, 1) // the port that was given, where none was asked for
	}
	return at + "/enter/" + token, nil
}
