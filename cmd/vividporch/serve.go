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
	"os"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"vividporch/api"
	"vividporch/demo"
	"vividporch/porch"
	"vividporch/store"
	"vividporch/ui"
)

// options are the settings of serve: flags, each with a PORCH_ variable.
type options struct {
	database, listen, channel, houseFile, cert, key, owner, public string
	verbose, quickRetry                                            bool
}

func (o *options) flags(c *cobra.Command) {
	f := c.Flags()
	f.StringVar(&o.database, "database", env("PORCH_DATABASE", ""), "PostgreSQL URL (PORCH_DATABASE)")
	f.StringVar(&o.listen, "listen", env("PORCH_LISTEN", "127.0.0.1:8080"), "address to listen on (PORCH_LISTEN)")
	f.StringVar(&o.channel, "channel", env("PORCH_CHANNEL", "tidepool_hours"), "the channel (PORCH_CHANNEL)")
	f.StringVar(&o.houseFile, "house", env("PORCH_HOUSE", ""), "house file a new channel starts with (PORCH_HOUSE)")
	f.StringVar(&o.owner, "owner", env("PORCH_OWNER", "owner"), "the owner's name (PORCH_OWNER)")
	f.StringVar(&o.public, "public", env("PORCH_PUBLIC", ""), "where viewers reach the house, for links in private messages (PORCH_PUBLIC)")
	f.StringVar(&o.cert, "tls-cert", env("PORCH_TLS_CERT", ""), "certificate file (PORCH_TLS_CERT)")
	f.StringVar(&o.key, "tls-key", env("PORCH_TLS_KEY", ""), "key file (PORCH_TLS_KEY)")
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
	return nil
}

func (o *options) log() *slog.Logger {
	level := slog.LevelWarn
	if o.verbose {
		level = slog.LevelDebug
	}
	return slog.New(slog.NewTextHandler(os.Stderr, &slog.HandlerOptions{Level: level}))
}

func serveCommand() *cobra.Command {
	var o options
	c := &cobra.Command{Use: "serve", Short: "Run the house", Args: cobra.NoArgs, RunE: func(c *cobra.Command, _ []string) error {
		return o.serve(c.Context(), nil, nil)
	}}
	o.flags(c)
	return c
}

// serve runs the house until ctx ends. before is called with the open store, and
// entered whenever somebody signs in; both may be nil.
func (o *options) serve(ctx context.Context, before func(context.Context, *store.Store, *porch.Config) error, running func(*porch.House)) error {
	if err := o.check(); err != nil {
		return err
	}
	log := o.log()
	st, err := store.Open(ctx, o.database)
	if err != nil {
		return err
	}
	defer st.Close()
	doc := demo.House
	if o.houseFile != "" {
		if doc, err = os.ReadFile(o.houseFile); err != nil {
			return fmt.Errorf("the house file cannot be read: %w", err)
		}
	}
	ctx, giveUp := context.WithCancel(ctx)
	defer giveUp()
	public := o.public
	if public == "" {
		public = "http://" + o.listen
		if o.cert != "" {
			public = "https://" + o.listen
		}
	}
	cfg := porch.Config{Public: strings.TrimRight(public, "/"), Store: st, Channel: o.channel, Log: log, Defaults: doc, OnLost: giveUp}
	if o.quickRetry {
		cfg.Backoff = func(int) time.Duration { return 100 * time.Millisecond }
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
	if err := st.FirstSettings(ctx, id, cfg.Defaults); err != nil {
		return err
	}
	h, stop, err := porch.Start(ctx, cfg)
	for errors.Is(err, store.ErrOwned) { // its owner may be on the way out; take over when it is gone
		select {
		case <-ctx.Done():
			return err
		case <-time.After(100 * time.Millisecond):
		}
		h, stop, err = porch.Start(ctx, cfg)
	}
	if err != nil {
		return err
	}
	defer stop()
	if running != nil {
		running(h)
	}
	ln, err := net.Listen("tcp", o.listen)
	if err != nil {
		return fmt.Errorf("cannot listen on %s: %w", o.listen, err)
	}
	srv := &http.Server{Handler: api.New(api.Config{House: h, Store: st, UI: ui.Files(), Secure: o.cert != "", Log: log}),
		ReadHeaderTimeout: 10 * time.Second, BaseContext: func(net.Listener) context.Context { return ctx }}
	link, err := o.link(ctx, st, id, ln.Addr().String())
	if err != nil {
		return err
	}
	fmt.Printf("Vivid Porch looks after %s. Sign in here, once:\n  %s\n", o.channel, link)
	go func() {
		<-ctx.Done()
		sctx, cancel := context.WithTimeout(context.Background(), 3*time.Second)
		defer cancel()
		srv.Shutdown(sctx)
		srv.Close()
	}()
	if o.cert != "" {
		err = srv.ServeTLS(ln, o.cert, o.key)
	} else {
		err = srv.Serve(ln)
	}
	if errors.Is(err, http.ErrServerClosed) {
		return nil
	}
	return err
}

// link makes a one-time link that signs the owner in.
func (o *options) link(ctx context.Context, st *store.Store, channel int64, addr string) (string, error) {
	owner, err := st.Owner(ctx, channel, o.owner)
	if err != nil {
		return "", err
	}
	token := rand.Text()
	sum := sha256.Sum256([]byte(token))
	if err := st.AddSignIn(ctx, store.SignIn{Hash: hex.EncodeToString(sum[:]), Member: owner.ID, Expires: time.Now().Add(24 * time.Hour)}); err != nil {
		return "", err
	}
	scheme := "http"
	if o.cert != "" {
		scheme = "https"
	}
	return fmt.Sprintf("%s://%s/enter/%s", scheme, addr, token), nil
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
			st, err := store.Open(c.Context(), o.database)
			if err != nil {
				return err
			}
			defer st.Close()
			id, err := st.Channel(c.Context(), o.channel)
			if err != nil {
				return err
			}
			return st.SetSecret(c.Context(), id, args[0], args[1], strings.TrimSpace(string(raw)))
		}}
	o.flags(c)
	return c
}
