package main

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
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
	"time"

	"github.com/spf13/cobra"

	"vividporch/api"
	"vividporch/core/housefile"
	"vividporch/demo"
	"vividporch/outside"
	"vividporch/porch"
	"vividporch/store"
	"vividporch/store/log"
	"vividporch/store/safe"
	"vividporch/store/tables"
	"vividporch/ui"
)

// options are the settings of serve: flags, each with a PORCH_ variable.
type options struct {
	database, listen, channel, houseFile, cert, key, owner, public string
	keyFile, proxies                                               string
	clockAhead                                                     time.Duration
	verbose, quickRetry                                            bool
}

func (o *options) flags(c *cobra.Command) {
	f := c.Flags()
	f.StringVar(&o.database, "database", env("PORCH_DATABASE", ""), "PostgreSQL URL (PORCH_DATABASE)")
	f.StringVar(&o.listen, "listen", env("PORCH_LISTEN", "127.0.0.1:8080"), "address to listen on (PORCH_LISTEN)")
	f.StringVar(&o.channel, "channel", env("PORCH_CHANNEL", "tidepool_hours"), "the channel (PORCH_CHANNEL)")
	f.StringVar(&o.houseFile, "house", env("PORCH_HOUSE", ""), "house file a new channel starts with (PORCH_HOUSE)")
	f.StringVar(&o.owner, "owner", env("PORCH_OWNER", "owner"), "the owner's name (PORCH_OWNER)")
	f.StringVar(&o.public, "public", env("PORCH_PUBLIC", ""), "where people reach the house from outside; links and cookies follow it (PORCH_PUBLIC)")
	f.StringVar(&o.proxies, "proxies", env("PORCH_PROXIES", ""), "reverse proxies whose forwarded addresses count, as addresses or networks with commas between (PORCH_PROXIES)")
	f.StringVar(&o.cert, "tls-cert", env("PORCH_TLS_CERT", ""), "certificate file (PORCH_TLS_CERT)")
	f.StringVar(&o.key, "tls-key", env("PORCH_TLS_KEY", ""), "key file (PORCH_TLS_KEY)")
	f.StringVar(&o.keyFile, "key-file", env("PORCH_KEY_FILE", ""), "file with the key that secrets are kept under, made at the first start; PORCH_KEY holds the key itself instead (PORCH_KEY_FILE)")
	f.DurationVar(&o.clockAhead, "clock-ahead", envDuration("PORCH_CLOCK_AHEAD"), "how far the house's clock goes ahead, for demo and tests (PORCH_CLOCK_AHEAD)")
	f.BoolVar(&o.verbose, "verbose", env("PORCH_VERBOSE", "") != "", "log what happens (PORCH_VERBOSE)")
	f.BoolVar(&o.quickRetry, "quick-retry", env("PORCH_QUICK_RETRY", "") != "", "try posts again after 100 ms instead of seconds, for tests (PORCH_QUICK_RETRY)")
}

func (o *options) check() error {
	switch {
	case o.database == "":
		return errors.New("no database: set PORCH_DATABASE or --database to a PostgreSQL URL")
	case o.channel == "":
		return errors.New("no channel: set PORCH_CHANNEL or --channel")
	case (o.cert == "") != (o.key == ""):
		return errors.New("TLS needs both PORCH_TLS_CERT and PORCH_TLS_KEY")
	}
	if _, _, err := net.SplitHostPort(o.listen); err != nil {
		return fmt.Errorf("PORCH_LISTEN %q is no address: write host:port, such as 127.0.0.1:8080", o.listen)
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

// open opens the database, with the key that secrets are kept under.
func (o *options) open(ctx context.Context) (*store.Store, error) {
	file := o.keyFile
	if file == "" {
		dir, err := os.UserConfigDir()
		if err != nil && os.Getenv("PORCH_KEY") == "" {
			return nil, fmt.Errorf("there is no place for the key that secrets are kept under: set PORCH_KEY_FILE: %w", err)
		}
		file = filepath.Join(dir, "vividporch", "key")
	}
	key, err := safe.Key(os.Getenv("PORCH_KEY"), file)
	if err != nil {
		return nil, err
	}
	st, err := store.Open(ctx, o.database)
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

func (o *options) defaults() ([]byte, error) {
	if o.houseFile == "" {
		return demo.House, nil
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
	st, err := o.open(ctx)
	if err != nil {
		return err
	}
	defer st.Close()
	cfg, err := o.config(st)
	if err != nil {
		return err
	}
	if before != nil {
		if err := before(ctx, st, &cfg); err != nil {
			return err
		}
	}
	id, err := st.Channel(ctx, o.channel)
	if err != nil {
		return err
	}
	if err := st.Log.FirstSettings(ctx, id, cfg.Defaults); err != nil {
		return err
	}
	front := newFront(ctx, o)
	defer front.close()
	for ctx.Err() == nil {
		err := o.lookAfter(ctx, cfg, id, front, running)
		if !errors.Is(err, errTakenOver) {
			return err
		}
		fmt.Printf("Another process has taken over %s; standing by.\n", o.channel)
	}
	return nil
}

// errTakenOver says that another process has taken the channel over.
var errTakenOver = errors.New("another process has taken the channel over")

// aheadBy is the machine's clock, put forward; nil for the machine's own.
func aheadBy(d time.Duration) func() time.Time {
	if d == 0 {
		return nil
	}
	return func() time.Time { return time.Now().Add(d) }
}

// config is what the house is started with.
func (o *options) config(st *store.Store) (porch.Config, error) {
	doc, err := o.defaults()
	if err != nil {
		return porch.Config{}, err
	}
	cfg := porch.Config{Public: o.reached(), Store: st, Channel: o.channel, Log: o.log(), Defaults: doc}
	cfg.Clock = aheadBy(o.clockAhead)
	if o.quickRetry {
		cfg.Backoff = func(int) time.Duration { return 100 * time.Millisecond }
	}
	return cfg, nil
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
	h, stop, err := o.standBy(ctx, cfg, front)
	if err != nil || h == nil {
		return err
	}
	defer stop()
	if running != nil {
		running(h)
	}
	proxies, err := prefixes(o.proxies)
	if err != nil {
		return err
	}
	front.show(api.New(api.Config{House: h, Store: cfg.Store, UI: ui.Files(), Public: cfg.Public, Proxies: proxies, Log: cfg.Log}))
	if err := front.listen(ctx, 10*time.Second); err != nil {
		return err
	}
	link, err := o.link(ctx, cfg.Store, id, front.address())
	if err != nil {
		return err
	}
	fmt.Printf("Vivid Porch looks after %s. Sign in here, once:\n  %s\n", o.channel, link)
	select {
	case <-ctx.Done():
		front.drain()
		return nil
	case <-lost:
		front.show(standingBy)
		return errTakenOver
	case err := <-front.failed:
		return err
	}
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

// standingBy answers while another process looks after the channel.
var standingBy = http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
	switch r.URL.Path {
	case "/healthz":
		fmt.Fprintln(w, "ok, standing by")
		return
	case "/readyz":
		w.Header().Set("Content-Type", "application/json")
		w.WriteHeader(http.StatusServiceUnavailable)
		fmt.Fprintln(w, `{"house":"standing by"}`)
		return
	}
	w.Header().Set("Retry-After", "5")
	w.Header().Set("Content-Type", "application/problem+json")
	w.WriteHeader(http.StatusServiceUnavailable)
	fmt.Fprintln(w, `{"status":503,"title":"Standing by","detail":"Another process looks after this channel."}`)
})

// link makes a one-time link that signs the owner in.
func (o *options) link(ctx context.Context, st *store.Store, channel int64, addr string) (string, error) {
	owner, err := st.Members.Owner(ctx, channel, o.owner)
	if err != nil {
		return "", err
	}
	token := rand.Text()
	sum := sha256.Sum256([]byte(token))
	if err := st.Members.DropSignIns(ctx, owner.ID); err != nil { // each start withdraws the links before it
		return "", err
	}
	if err := st.Members.AddSignIn(ctx, tables.SignIn{Hash: hex.EncodeToString(sum[:]), Member: owner.ID, Expires: time.Now().Add(24 * time.Hour)}); err != nil {
		return "", err
	}
	at := o.reached()
	if o.public == "" {
		at = strings.Replace(at, o.listen, addr, 1) // the port that was given, where none was asked for
	}
	return at + "/enter/" + token, nil
}

func secretCommand() *cobra.Command {
	var o options
	c := &cobra.Command{Use: "secret NAME SLOT", Short: "Keep a door's or place's password or signing secret, read from standard input",
		Long: "SLOT is password (of a chat door), secret (a Standard Webhooks secret, whsec_…) or secret-old (still valid during a rotation).",
		Args: cobra.ExactArgs(2), RunE: func(c *cobra.Command, args []string) error {
			if err := o.check(); err != nil {
				return err
			}
			if s := args[1]; s != "password" && s != "secret" && s != "secret-old" {
				return fmt.Errorf("SLOT is %q: use password, secret or secret-old", s)
			}
			raw, err := io.ReadAll(io.LimitReader(os.Stdin, 4096))
			if err != nil {
				return err
			}
			st, err := o.open(c.Context())
			if err != nil {
				return err
			}
			defer st.Close()
			id, err := st.Channel(c.Context(), o.channel)
			if err != nil {
				return err
			}
			settings, err := o.settings(c.Context(), st, id)
			if err != nil {
				return err
			}
			return st.Safe.SetSecret(c.Context(), id, settings, args[0], args[1], strings.TrimSpace(string(raw)))
		}}
	o.flags(c)
	return c
}

func allowCommand() *cobra.Command {
	var o options
	var not bool
	c := &cobra.Command{Use: "allow [HOST]", Short: "Let the house reach a host on this machine or a private network, or list those it may reach",
		Long: "Everything the house connects to must be on the open network, but for the hosts allowed here. HOST is a name or a number as it stands in the\naddress, without scheme and port. The list is kept in the database and is never part of a house file. It holds within seconds.",
		Args: cobra.MaximumNArgs(1), RunE: func(c *cobra.Command, args []string) error {
			if err := o.check(); err != nil {
				return err
			}
			st, err := o.open(c.Context())
			if err != nil {
				return err
			}
			defer st.Close()
			id, err := st.Channel(c.Context(), o.channel)
			if err != nil {
				return err
			}
			if len(args) == 0 {
				list, err := st.Safe.Allowed(c.Context(), id)
				for _, x := range list {
					fmt.Fprintln(c.OutOrStdout(), x.Host)
				}
				return err
			}
			host := outside.Host(args[0])
			if host == "" || len(host) > 253 || strings.ContainsAny(host, "/@ ") || strings.Count(host, ":") == 1 {
				return fmt.Errorf("%q is no host: write a name or a number alone, such as lamp.local or 192.168.1.20", args[0])
			}
			if not {
				return st.Safe.Disallow(c.Context(), id, host)
			}
			return st.Safe.Allow(c.Context(), id, host, false)
		}}
	o.flags(c)
	c.Flags().BoolVar(&not, "not", false, "take HOST off the list again")
	return c
}
