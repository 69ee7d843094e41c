// Package relay carries what the house posts to its places.
//
// A [Relay] is one channel's. Its deliveries are rows, written in the same transaction as the decision that
// made them ([Relay.Add]), and a job of River's a place drains them in their order, so that a slow place stalls
// no other and one that is gone is asked again and again, ever more rarely, with the first of them alone. What
// a place takes, and how, is its carrier's: one file a kind.
//
// Each is delivered at least once, under a key that is the same at every attempt. A place that is known to
// ignore keys gets each at most once: when it is unclear whether one arrived, a person decides.
package relay

import (
	"context"
	"database/sql"
	"log/slog"
	mrand "math/rand/v2"
	"net/http"
	"path/filepath"
	"slices"
	"strconv"
	"sync"
	"sync/atomic"
	"time"

	"github.com/riverqueue/river"
	"github.com/riverqueue/river/riverdriver/riverdatabasesql"
	"github.com/riverqueue/river/rivertype"

	"vividporch/core/event"
	"vividporch/core/housefile"
	"vividporch/store"
	"vividporch/store/jobs"
)

// Longest is how long a delivery is tried before it is given up.
const Longest = 24 * time.Hour

// atOnce is how many places are posted to at the same time.
const atOnce = 64

// Drain is the job that delivers what is on its way to a place.
type Drain struct {
	Channel int64  `json:"channel"`
	Place   string `json:"place"`
}

// Kind names the job to River.
func (Drain) Kind() string { return "drain" }

var _ rivertype.JobArgs = Drain{}

// Config is what a relay of one channel needs.
type Config struct {
	Channel int64
	Store   *store.Store
	Place   func(name string) *housefile.Place // as it stands in the settings now
	Outcome func(event.Data)                   // logs what became of a delivery
	Log     *slog.Logger
	Backoff func(attempt int) time.Duration // nil: Backoff
	HTTP    *http.Client                    // the way out
	Over    func(stream int) bool           // whether a stream has ended; nil for never
	Signed  Signed                          // where the house is signed in; nil for nowhere
	Files   string                          // the folder for files; "" for none
	Talks   map[string]Opener               // with rooms of chat networks, by the kind of place
}

// Relay works one channel's deliveries.
type Relay struct {
	cfg      Config
	client   *river.Client[*sql.Tx]
	carriers map[string]carrier // by the kind of place
	stopping atomic.Bool

	mu    sync.Mutex
	lanes map[string]*lane // by place
}

// Queue is the channel's queue; only the channel's owner works it.
func Queue(channel int64) string { return "channel_" + strconv.FormatInt(channel, 10) }

// Backoff is the wait after a failed attempt: 2 s doubled each time up to two
// hours, give or take a fifth, so that many deliveries do not return in step.
func Backoff(attempt int) time.Duration {
	d := min(2*time.Second<<min(attempt-1, 20), 2*time.Hour)
	return d*4/5 + time.Duration(mrand.Int64N(int64(d)*2/5+1))
}

// New makes a relay; Start begins to work.
func New(cfg Config) (*Relay, error) {
	if cfg.Backoff == nil {
		cfg.Backoff = Backoff
	}
	r := &Relay{cfg: cfg, lanes: map[string]*lane{}}
	r.carriers = map[string]carrier{"webhook": &hook{channel: cfg.Channel, safe: cfg.Store.Safe, http: cfg.HTTP}, "feed": feed{}, "file": &files{dir: folder(cfg)}}
	if cfg.Signed != nil {
		r.carriers["landing"] = &landings{channel: cfg.Channel, store: cfg.Store.Jobs, signed: at{cfg.Signed}, http: cfg.HTTP}
		r.carriers["social"] = &accounts{at{cfg.Signed}, cfg.HTTP}
	}
	for kind, open := range cfg.Talks {
		r.carriers[kind] = &talks{channel: cfg.Channel, safe: cfg.Store.Safe, open: open, held: map[string]*held{}}
	}
	workers := river.NewWorkers()
	river.AddWorker(workers, &worker{relay: r})
	client, err := river.NewClient(riverdatabasesql.New(cfg.Store.SQL), &river.Config{
		Queues:            map[string]river.QueueConfig{Queue(cfg.Channel): {MaxWorkers: atOnce}},
		Workers:           workers,
		FetchPollInterval: 200 * time.Millisecond,
		FetchCooldown:     100 * time.Millisecond,
		JobTimeout:        -1, // each attempt has its own
		Logger:            slog.New(slog.DiscardHandler),
	})
	if err != nil {
		return nil, err
	}
	r.client = client
	return r, nil
}

// folder is where the channel's files are; "" for nowhere.
func folder(cfg Config) string {
	if cfg.Files == "" {
		return ""
	}
	return filepath.Join(cfg.Files, strconv.FormatInt(cfg.Channel, 10))
}

// Start takes over whatever is on its way, and works until Stop.
func (r *Relay) Start(ctx context.Context) error {
	if err := r.cfg.Store.Jobs.Clear(ctx, Queue(r.cfg.Channel)); err != nil {
		return err
	}
	places, err := r.cfg.Store.Jobs.Bound(ctx, r.cfg.Channel)
	if err != nil {
		return err
	}
	if err := r.Look(ctx, places...); err != nil {
		return err
	}
	r.stopping.Store(false)
	go r.mind(ctx)
	return r.client.Start(ctx)
}

// mindEvery is how long something can lie that no job was asked for: one that was asked for in a transaction that then
// failed.
const mindEvery = 5 * time.Second

// mind looks now and then whether something is on its way that nobody drains.
func (r *Relay) mind(ctx context.Context) {
	tick := time.NewTicker(mindEvery)
	defer tick.Stop()
	for {
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
		}
		places, err := r.cfg.Store.Jobs.Bound(ctx, r.cfg.Channel)
		if err != nil || r.stopping.Load() {
			continue
		}
		places = slices.DeleteFunc(places, func(name string) bool {
			p := r.cfg.Place(name)
			return p != nil && p.Paused || !r.lane(name).idle(time.Now())
		})
		if len(places) > 0 {
			_, _ = r.client.InsertManyFast(ctx, r.drains(places)) // else at the next look
		}
	}
}

// Stop lets attempts that were begun end, within ctx.
func (r *Relay) Stop(ctx context.Context) error {
	r.stopping.Store(true)
	err := r.client.Stop(ctx)
	r.tidy(nil)
	return err
}

// tidy ends what is kept open for places that are there no more.
func (r *Relay) tidy(now func(name string) *housefile.Place) {
	for _, c := range r.carriers {
		if t, ok := c.(*talks); ok {
			t.tidy(now)
		}
	}
}

// Add puts deliveries on their way within the transaction that decides them.
func (r *Relay) Add(ctx context.Context, tx *sql.Tx, list []jobs.Delivery) error {
	if err := jobs.Deliver(ctx, tx, list); err != nil {
		return err
	}
	var places []string
	for i := range list {
		if p := list[i].Place; !slices.Contains(places, p) {
			places = append(places, p)
		}
	}
	places = slices.DeleteFunc(places, func(p string) bool { return !r.lane(p).ask() })
	if len(places) == 0 {
		return nil
	}
	_, err := r.client.InsertManyFastTx(ctx, tx, r.drains(places))
	return err
}

func (r *Relay) drains(places []string) []river.InsertManyParams {
	many := make([]river.InsertManyParams, len(places))
	for i, p := range places {
		many[i] = river.InsertManyParams{Args: Drain{r.cfg.Channel, p}, InsertOpts: &river.InsertOpts{Queue: Queue(r.cfg.Channel), MaxAttempts: mostStumbles}}
	}
	return many
}

// Look has places looked at anew, though they rest: something changed about them.
func (r *Relay) Look(ctx context.Context, places ...string) error {
	if len(places) == 0 {
		return nil
	}
	if err := r.cfg.Store.Jobs.Hurry(ctx, r.cfg.Channel, places); err != nil {
		return err
	}
	for _, p := range places {
		r.lane(p).wake()
	}
	_, err := r.client.InsertManyFast(ctx, r.drains(places))
	return err
}

// SendAgain tries a delivery once more that was given up, is unclear or waits: a person asked for it. ok is false
// where there is none of that line, or nothing is left to send.
func (r *Relay) SendAgain(ctx context.Context, line, place string) (ok bool, err error) {
	if ok, err = r.cfg.Store.Jobs.Again(ctx, r.cfg.Channel, line, place); !ok {
		return ok, err
	}
	return true, r.Look(ctx, place)
}

// Drop gives up a delivery that is not there yet. ok is false where it is, or is just being sent.
func (r *Relay) Drop(ctx context.Context, line, place, member string) (ok bool, err error) {
	if ok, err = r.cfg.Store.Jobs.Drop(ctx, r.cfg.Channel, line, place, "dropped by "+member); !ok {
		return ok, err
	}
	r.cfg.Outcome(&event.RelayDropped{RelayOutcome: event.RelayOutcome{Line: line, Place: place, Reason: "dropped by " + member}})
	return true, r.Look(ctx, place) // whatever stands behind it need not wait for its next try
}

// LookAll has every place looked at to which something is on its way.
func (r *Relay) LookAll(ctx context.Context) error {
	r.tidy(r.cfg.Place)
	places, err := r.cfg.Store.Jobs.Bound(ctx, r.cfg.Channel)
	if err != nil {
		return err
	}
	return r.Look(ctx, places...)
}
