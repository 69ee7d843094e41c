package main

import (
	"bytes"
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"io/fs"
	"net"
	"strings"
	"sync/atomic"
	"time"

	"github.com/spf13/cobra"

	"vividporch/core/dates"
	"vividporch/core/event"
	"vividporch/core/housefile"
	"vividporch/core/people"
	"vividporch/core/rehearsal"
	"vividporch/demo"
	"vividporch/demo/world"
	"vividporch/formats/media"
	"vividporch/porch"
	"vividporch/porch/desk"
	"vividporch/standin"
	"vividporch/store"
	"vividporch/store/imports"
	"vividporch/store/record"
	"vividporch/store/tables"
	"vividporch/ui"
)

// The demo's secrets guard nothing but stand-ins on loopback.
var demoSecrets = map[string]string{
	"quayside":       "whsec_" + "dGhlIHF1YXlzaWRlIHN0YW5kLWluIHNpZ25z",
	"fernlight":      "whsec_" + "dGhlIGZlcm5saWdodCBzdGFuZC1pbiBzaWducw==",
	"boathouse":      "whsec_" + "d2hhdCB0aGUgYm9hdGhvdXNlIHRlbGxzIG9m",
	"skerry":         "whsec_" + "d2hhdCB0aGUgc2tlcnJ5IHRlbGxzIG9m",
	"boathouse-news": "whsec_" + "dGhlIGhvdXNlIHNpZ25zIHRvIHRoZSBib2F0aG91c2U=",
}

const demoPassword = "low-water-lamp"

// demoPorts are where the stand-ins listen, unless told otherwise.
type demoPorts struct{ quayside, fernlight, street string }

func demoCommand() *cobra.Command {
	var o options
	var play string
	c := &cobra.Command{Use: "demo", Short: "Run the house with the sample world, its stand-ins and the scripted evening", Args: cobra.NoArgs,
		RunE: func(c *cobra.Command, _ []string) error { return o.demo(c.Context(), play) }}
	o.flags(c)
	c.Flags().StringVar(&play, "play", "enter", "when the evening plays: enter (at the first sign-in), now or never")
	return c
}

func (o *options) demo(ctx context.Context, play string) error {
	if o.owner == "owner" {
		o.owner = "Odalys Brine"
	}
	o.sample, o.channel = true, cmp.Or(o.channel, "tidepool_hours")
	o.public = cmp.Or(o.public, "http://"+o.listen) // all of its viewers are on the street, here
	var live atomic.Pointer[porch.House]
	var street *standin.Street
	var clock ahead
	return o.serve(ctx, func(ctx context.Context, st *store.Store, cfg *porch.Config) error {
		clock.move(o.clockAhead)
		cfg.Clock = clock.now
		id, err := o.channelOf(ctx, st)
		if err != nil {
			return err
		}
		var ports reserved
		defer ports.release()
		s, err := demoSettings(ctx, st, id, &ports)
		if err != nil {
			return err
		}
		s.Reach = housefile.Reach{How: housefile.Public, Address: o.public}
		if cfg.Defaults, err = json.Marshal(s); err != nil {
			return err
		}
		if err := seed(ctx, st, id, s, time.Now().Add(o.clockAhead)); err != nil {
			return err
		}
		if _, ok, err := st.Log.SettingsNow(ctx, id); err == nil && !ok {
			if err := fillShelf(ctx, st, id, demo.Shelf); err != nil {
				return err
			}
		}
		outside := streetConfig(portsOf(s), "http://"+o.listen+"/inbox/")
		outside.Clock, outside.Ahead = cfg.Clock, func(on time.Duration) { // the whole sample world goes ahead together
			clock.move(on)
			if h := live.Load(); h != nil {
				h.Stir(ctx)
			}
		}
		ports.release()
		street, err = standin.Start(outside)
		if err != nil {
			return fmt.Errorf("the stand-ins cannot start: %w; free the port, or start over with --fresh", err)
		}
		street.Player.OnPlay = func() {
			if h := live.Load(); h != nil {
				h.Hand(ctx, &event.StreamDeclared{Act: "closed", Member: "the street"})
			}
		}
		fmt.Printf("The street, where you can move the outside world:\n  http://%s/\n", street.Address())
		if play == "enter" {
			cfg.OnEntered = func() { street.Player.PlayOnce() }
		}
		return nil
	}, func(h *porch.House) {
		live.Store(h)
		if play == "now" {
			time.AfterFunc(time.Second, street.Player.PlayOnce)
		}
		go func() { <-ctx.Done(); street.Close() }()
	})
}

// demoSettings are the settings in force, or the sample house file with free
// ports put in, which are reserved.
func demoSettings(ctx context.Context, st *store.Store, id int64, ports *reserved) (*housefile.Settings, error) {
	v, ok, err := st.Log.SettingsNow(ctx, id)
	if err != nil {
		return nil, err
	}
	if ok {
		return housefile.ReadStored(v.Doc)
	}
	s, err := housefile.ReadSettings(demo.House)
	if err != nil {
		return nil, err
	}
	p := portsOf(s)
	return s, rewire(s, demoPorts{ports.near(p.quayside), ports.near(p.fernlight), ports.near(p.street)})
}

func portsOf(s *housefile.Settings) demoPorts {
	var p demoPorts
	for _, d := range s.Doors {
		switch {
		case d.Name == "quayside-chat":
			p.quayside = d.Address
		case d.Name == "fernlight-chat":
			p.fernlight = d.Address
		}
	}
	p.street, _, _ = strings.Cut(strings.TrimPrefix(s.Profile("quayside").At, "http://"), "/")
	return p
}

// rewire points the sample house file at stand-ins on other ports.
func rewire(s *housefile.Settings, to demoPorts) error {
	was := portsOf(s)
	raw, err := json.Marshal(s)
	if err != nil {
		return err
	}
	for old, now := range map[string]string{was.quayside: to.quayside, was.fernlight: to.fernlight, was.street: to.street} {
		raw = bytes.ReplaceAll(raw, []byte(old), []byte(now))
	}
	*s = housefile.Settings{}
	return json.Unmarshal(raw, s)
}

// reserved are ports that nobody else takes until they are needed: filling the guest book takes seconds.
type reserved []net.Listener

// near is the address itself when it is free, else the next free port.
func (r *reserved) near(addr string) string {
	host, port, _ := net.SplitHostPort(addr)
	var n int
	fmt.Sscan(port, &n)
	for i := range 200 {
		try := fmt.Sprintf("%s:%d", host, n+10*i)
		if ln, err := net.Listen("tcp", try); err == nil {
			*r = append(*r, ln)
			return try
		}
	}
	return addr
}

func (r *reserved) release() {
	for _, ln := range *r {
		ln.Close()
	}
	*r = nil
}

// seed fills the guest book of a new channel, with the past moved up to today.
func seed(ctx context.Context, st *store.Store, id int64, s *housefile.Settings, now time.Time) error {
	book, err := rehearsal.ReadBook(bytes.NewReader(demo.People))
	if err != nil {
		return err
	}
	// Tonight's evening is the written one: its past is moved by whole days, so that
	// its opening falls on today.
	days := dates.On(now, time.UTC).DaysTo(dates.On(world.Opening, time.UTC))
	streams, cards := world.Moved(book, -time.Duration(days)*24*time.Hour)
	zone, err := time.LoadLocation(book.Zone)
	if err != nil {
		return err
	}
	k := record.Reckoning{Rules: people.DefaultRules, Now: now, Zone: zone}
	if err := st.Imports.Seed(ctx, id, imports.Head{Streams: streams, Crews: book.Crews}, cards, &k); err != nil {
		return err
	}
	if err := st.Safe.Allow(ctx, id, "127.0.0.1", false); err != nil { // where the stand-ins are
		return err
	}
	if err := st.Safe.SetSecret(ctx, id, s, "tin", "token", standin.TinToken); err != nil {
		return err
	}
	for name, secret := range demoSecrets {
		if err := st.Safe.SetSecret(ctx, id, s, name, "secret", secret); err != nil {
			return err
		}
	}
	for _, name := range []string{"player", "bench-lamp", "scenes"} {
		if err := st.Safe.SetSecret(ctx, id, s, name, "secret", standin.FittingKey); err != nil {
			return err
		}
	}
	for _, door := range []string{"quayside-chat", "fernlight-chat", "quayside-streamer"} {
		if err := st.Safe.SetSecret(ctx, id, s, door, "password", demoPassword); err != nil {
			return err
		}
	}
	return nil
}

// fillShelf puts pictures, sounds and films of the application's own on the shelf.
func fillShelf(ctx context.Context, st *store.Store, id int64, of fs.FS) error {
	files, err := fs.ReadDir(of, "shelf")
	if err != nil {
		return err
	}
	var list []tables.Medium
	for _, f := range files {
		data, err := fs.ReadFile(of, "shelf/"+f.Name())
		if err != nil {
			return err
		}
		info, err := media.Read(data)
		if err != nil {
			return fmt.Errorf("%s %w", f.Name(), err)
		}
		list = append(list, desk.NewMedium(id, f.Name(), info, data))
	}
	return st.Shelf.Put(ctx, list)
}

func streetConfig(p demoPorts, inbox string) standin.Config {
	cfg := standin.Config{Listen: p.street, Chat: map[string]string{"quayside": p.quayside, "fernlight": p.fernlight}, Inbox: inbox, Secrets: demoSecrets,
		Passwords: map[string]string{"porchlamp": demoPassword, "tidepool_hours": demoPassword}, Channel: "tidepool_hours", Script: demo.Evening, UI: ui.Files()}
	for _, v := range world.Everybody() {
		cfg.Viewers = append(cfg.Viewers, standin.Viewer{ID: v.ID, Login: v.Login, Name: v.Name, Roles: v.Roles})
		if v.Link != "" {
			cfg.Streamers = append(cfg.Streamers, standin.Streamer{ID: v.ID, Login: v.Login, Link: v.Link, Category: v.Category, Live: len(cfg.Streamers)%2 == 0})
		}
	}
	return cfg
}

// streetCommand runs the stand-ins alone, for tests and for trying a house that
// was started by hand.
func streetCommand() *cobra.Command {
	var listen, quayside, fernlight, inbox string
	c := &cobra.Command{Use: "street", Short: "Run the stand-ins alone", Args: cobra.NoArgs, RunE: func(c *cobra.Command, _ []string) error {
		cfg := streetConfig(demoPorts{quayside, fernlight, listen}, inbox)
		cfg.Clock = aheadBy(envDuration("PORCH_CLOCK_AHEAD"))
		s, err := standin.Start(cfg)
		if err != nil {
			return err
		}
		defer s.Close()
		fmt.Printf("street http://%s/\n", s.Address())
		<-c.Context().Done()
		return nil
	}}
	f := c.Flags()
	f.StringVar(&listen, "listen", "127.0.0.1:6680", "address of the street")
	f.StringVar(&quayside, "quayside", "127.0.0.1:6671", "address of Quayside's chat")
	f.StringVar(&fernlight, "fernlight", "127.0.0.1:6672", "address of Fernlight's chat")
	f.StringVar(&inbox, "inbox", "http://127.0.0.1:8080/inbox/", "the house's inbox")
	return c
}
