// Package porch is the running house of one channel: it owns the channel's state,
// takes what the doors bring, has the core decide, writes everything down, and
// only then lets anything leave.
//
// One goroutine, the owner, does all that ([House.run], in owner.go); everybody
// else talks to it through channels. [House.Submit] hands it events and returns
// when they are in the log; [House.Watch] follows what the Porch shows.
package porch

import (
	"context"
	"errors"
	"log/slog"
	"sync"
	"sync/atomic"
	"time"

	"github.com/prometheus/client_golang/prometheus"

	"github.com/prometheus/client_golang/prometheus/promauto"

	"vividporch/core/chat"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/house"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/core/room"
	"vividporch/doors/irc"
	"vividporch/doors/signin"
	"vividporch/outside"
	"vividporch/porch/aloud"
	"vividporch/porch/calendar"
	"vividporch/porch/company"
	"vividporch/porch/desk"
	"vividporch/porch/drawing"
	"vividporch/porch/gate"
	"vividporch/porch/lookbacks"
	"vividporch/porch/movein"
	"vividporch/porch/onscreen"
	"vividporch/porch/past"
	"vividporch/porch/places"
	"vividporch/porch/rehearse"
	"vividporch/porch/screen"
	"vividporch/porch/services"
	"vividporch/porch/signins"
	"vividporch/store"
	"vividporch/store/log"
	"vividporch/store/tables"
	"vividporch/voices/platform"
	"vividporch/voices/relay"
	"vividporch/voices/stage"
)

// Limits of the running house.
const (
	batchMost     = 512              // events in one transaction
	waitingMost   = 20_000           // requests that wait for the owner
	snapshotEvery = 16_000           // events between two snapshots
	retryMost     = 2 * time.Second  // longest pause between tries to reach the database
	speakWithin   = 20 * time.Second // a line that the network did not take by then was refused
)

// Config is what a house needs to run.
type Config struct {
	Store   *store.Store
	Channel string
	Log     *slog.Logger
	// Defaults is the house file a new channel starts from.
	Defaults []byte
	// OnEntered is called whenever a member signs in; may be nil.
	OnEntered func()
	// OnForgotten is called with the accounts that were just forgotten. May be nil.
	OnForgotten func(accounts []string)
	// OnLost is called when another process has taken the channel over, after
	// the database was away; the house must then be stopped. May be nil.
	OnLost func()
	// Owner is the channel's lock, where it is held already; the house gives it back.
	Owner *log.Ownership
	// Shut keeps the doors shut and the relay still: the house is only written in.
	Shut bool
	// Public is where viewers reach the house, "http://127.0.0.1:8080", where the settings
	// do not say; links in private messages start with it.
	Public string
	// Fixed says that the house was started at that address: the settings follow it.
	Fixed bool
	// OnReach is called with how the house is to be reached, at the start and whenever
	// the settings change. It must not wait. May be nil.
	OnReach func(housefile.Reach)
	// Clock tells the time; nil for the machine's.
	Clock func() time.Time
	// Still says that nothing but Clock moves the time on: an evening is lived by hand.
	Still bool
	// Files is the folder that places write their files to; "" for none.
	Files string
	// Backoff of the relay; nil for its own.
	Backoff func(attempt int) time.Duration
}

// House is a running house.
type House struct {
	ID    int64
	Desk  *desk.Desk // where members change settings and guest book
	cfg   Config
	store *store.Store
	log   *slog.Logger

	in        chan request
	stalled   atomic.Bool  // the owner waits for the database
	adrift    atomic.Bool  // the guest book does, for what the log has already
	silent    atomic.Bool  // the database does not answer
	gone      atomic.Bool  // another process has the channel
	progress  atomic.Int64 // when the owner last finished something, in Unix nanoseconds
	clock     clock
	epoch     int64 // under which this process holds the channel
	secrets   doorSecrets
	inboxSeen sync.Map // door → time of its last event
	unfetched sync.Map // own fill-in → why its text could not be fetched the last time
	plan      atomic.Pointer[room.Plan]
	times     atomic.Pointer[times]
	hub       hub
	relay     *relay.Relay
	Places    *places.Places // what goes there
	asker     *platform.Asker
	stage     *stage.Stage
	voices    map[output.Way]func(d hall.Decision, decided time.Time)
	way       outside.Dialer // out
	hosts     allowed
	running   context.Context // ends with the house
	held      atomic.Bool     // it was brought back from a backup, and holds still
	home      atomic.Pointer[AtHome]
	Gate      gate.Gate          // what came in at each door lately
	Services  *services.Services // what other services tell
	SignIns   *signins.Keeper    // at platforms
	Screens   *onscreen.Screens  // the overlays
	Looker    *past.Looker       // at what was said
	Draws     *drawing.Drawing
	Rehearser *rehearse.Rehearser // of evenings, beside this one
	Lookbacks *lookbacks.Maker    // of streams that are over
	Speaker   aloud.Speaker       // what makes words speech for them
	Company   *company.Company    // the people round the channel
	Calendar  *calendar.Calendar  // and their days
	Claims    movein.Claims       // of accounts in chat, by a phrase

	mu     sync.Mutex
	chats  map[string]*line // by door
	again  map[string]bool  // doors that are to be opened anew
	tend   chan struct{}    // the settings may want other doors
	echoes chat.Echoes      // what was said as the streamer and has not come back in
	closed chan struct{}
	gauges []prometheus.Collector

	// Owned by the owner's goroutine.
	state     *house.State
	numbers   numbers         // of the guest book, set aside for newcomers
	forgotten map[string]bool // digests of accounts that are not recorded
	entries   screen.Ring
	shown     *screen.Parts // of the Porch, as they were last sent
	lastSnap  int64
	snaps     []tables.Snapshot // taken in the batch that is being written
	unbooked  unbooked
}

// request is something the owner is asked to do: log events, or run a function
// on the state between two batches.
type request struct {
	events []event.Event
	do     func(*house.State)
	reply  chan []Result
}

// Result is what became of one submitted event.
type Result struct {
	Seq       int64
	Repeat    bool
	Passed    bool   // a hint about somebody who is not here; not logged
	Overtaken bool   // other settings came into force meanwhile; not logged
	Aside     string // why it was set aside; it is not in the log
	Decisions []hall.Decision
}

// Errors of submitting.
var (
	ErrStalled = errors.New("the database does not answer; nothing can be logged now")
	ErrClosed  = errors.New("the house is closed")
)

// Start takes the channel, brings the house back to where it was, and opens the
// doors. Stop ends all it started.
func Start(ctx context.Context, cfg Config) (h *House, stop func(), err error) {
	if cfg.Log == nil {
		cfg.Log = slog.New(slog.DiscardHandler)
	}
	id, err := cfg.Store.Channel(ctx, cfg.Channel)
	if err != nil {
		return nil, nil, err
	}
	owner := cfg.Owner
	if owner == nil {
		owner, err = cfg.Store.Log.Lock(ctx, id)
	}
	if err == nil {
		err = owner.Claim(ctx)
	}
	if err != nil {
		if owner != nil {
			owner.Release()
		}
		return nil, nil, err
	}
	h = &House{ID: id, cfg: cfg, store: cfg.Store, log: cfg.Log, in: make(chan request, waitingMost), chats: map[string]*line{}, tend: make(chan struct{}, 1), closed: make(chan struct{}), epoch: owner.Epoch}
	h.Desk = desk.New(deskHouse{h}, cfg.Store, id, cfg.Defaults)
	h.Claims.Link = func(ctx context.Context, by string, member int64, account string) error {
		return h.Desk.LinkMember(ctx, by, member, account, false)
	}
	h.clock.still = cfg.Still
	if h.clock.wall = cfg.Clock; cfg.Clock == nil {
		h.clock.wall = time.Now
	}
	h.progress.Store(time.Now().UnixNano())
	h.way.Allowed = h.mayReach
	fail := func(err error) (*House, func(), error) { owner.Release(); return nil, nil, err }
	if err := h.restore(ctx); err != nil {
		return fail(err)
	}
	if err := h.rebook(ctx); err != nil {
		return fail(err)
	}
	if err := cfg.Store.Safe.SealSecrets(ctx, id, h.plan.Load().Whole); err != nil {
		return fail(err)
	}
	held, err := cfg.Store.Moving.Held(ctx, id)
	if err != nil {
		return fail(err)
	}
	h.held.Store(held)
	cut, err := h.cutOff(ctx)
	if err != nil {
		return fail(err)
	}
	found, err := h.guard(ctx)
	if err != nil {
		return fail(err)
	}
	cut = append(cut, found...)
	posted := places.Signed(h.Plan, func() *signins.Keeper { return h.SignIns }, h.way.Client(platform.AskWithin), func(ctx context.Context, name string) ([]byte, error) {
		m, err := h.store.Shelf.Named(ctx, id, name)
		return m.Data, err
	})
	h.relay, err = relay.New(relay.Config{HTTP: h.way.Client(time.Minute), Files: cfg.Files, Channel: id, Store: cfg.Store, Log: cfg.Log, Backoff: cfg.Backoff,
		Over:    func(stream int) bool { return h.Tonight() != stream },
		Signed:  posted,
		Talks:   places.Talks(&h.way, nil, cfg.Log),
		Place:   func(name string) *housefile.Place { return h.plan.Load().Settings.PlaceNamed(name) },
		Outcome: func(d event.Data) { h.tell(d) }})
	if err != nil {
		return fail(err)
	}
	h.Places = places.New(places.Config{Channel: id, Store: cfg.Store, Plan: h.Plan, Relay: h.relay, Signed: posted,
		Ask: (&signin.App{HTTP: h.way.Client(signWithin)}).Get, Opened: func() time.Time { return h.times.Load().begun }})
	h.asker = platform.NewAsker(h.way.Client(platform.AskWithin), func(d event.Data) { h.tell(d) })
	run, cancel := context.WithCancel(context.WithoutCancel(ctx))
	h.running = run
	h.stage = stage.New(run, stage.Config{Token: func(ctx context.Context, platform, act, address string) (string, error) {
		return h.SignIns.ActToken(ctx, platform, act, address)
	}, Refused: func(platform string) { go h.SignIns.Check(run, platform) }, HTTP: h.way.Client(stage.DoneWithin), Channel: id, Outcome: func(d event.Data) { h.tell(d) }, Secret: func(ctx context.Context, name, address string) (string, error) {
		return h.store.Safe.SecretTo(ctx, id, name, "secret", address)
	}})
	h.Screens = onscreen.New(onscreen.Config{Plan: h.Plan, Now: h.clock.now, Tell: h.tell, Look: h.look, Log: cfg.Log, Media: func(ctx context.Context, name string) (tables.Medium, error) {
		return h.store.Shelf.Card(ctx, id, name)
	}, Speak: h.Speaker.Say, Elsewhere: h.elsewhere()})
	h.Looker = h.lookerOf()
	h.Lookbacks = lookbacks.New(lookbacks.Config{Store: cfg.Store, Channel: id, Plan: h.Plan, Clock: h.Clock, Warn: func(what string, err error) { h.log.Warn(what, "error", err) }})
	h.Rehearser = rehearse.New(rehearse.Config{Store: cfg.Store, Channel: id, Plan: h.Plan, Clock: h.Clock,
		Warn: func(what string, err error) { h.log.Warn(what, "error", err) }})
	h.Draws = drawing.New(drawing.Config{Channel: id, Store: cfg.Store, Tell: h.tell, Look: h.look})
	h.voices = h.voicesOf()
	h.Services = h.servicesOf()
	h.SignIns = h.signInsOf()
	h.Company = company.New(company.Config{Channel: id, Store: cfg.Store, Plan: h.Plan, Clock: h.clock.now, Opened: func() time.Time { return h.times.Load().begun },
		Live: func() bool { return h.Tonight() > 0 }, Reckoning: h.Reckoning, Look: h.asker.Look})
	h.Calendar = calendar.New(calendar.Config{Channel: id, Store: cfg.Store, Plan: h.Plan, Reckoning: h.Reckoning, Tonight: h.Tonight, Opened: func() time.Time { return h.times.Load().begun }, Here: h.daysHere})
	if err := cfg.Store.Warm(ctx, id, h.epoch, h.Reckoning()); err != nil {
		cfg.Log.Warn("the first lines will wait a little", "error", err)
	}
	var wg sync.WaitGroup
	if !cfg.Shut { // before the first line can leave: what waited over a restart is for these doors
		h.tendDoors(run)
		wg.Go(func() { h.keepDoors(run) })
	}
	wg.Go(func() { h.keepCounts(run) })
	wg.Go(func() { h.Screens.Run(run) })
	wg.Go(func() { h.keepLoudness(run) })
	wg.Go(func() { h.keepFetched(run) })
	wg.Go(func() { h.Rehearser.Tend(run) })
	wg.Go(func() { h.Lookbacks.Ready(run) })
	if !cfg.Shut {
		wg.Go(func() { h.keepWeek(run) })
	}
	wg.Go(func() { h.run(run) })
	wg.Go(func() { h.watchDatabase(run) })
	wg.Go(func() {
		if owner.Keep(run) != nil {
			h.lost()
		}
	})
	cut = append(cut, h.leftEvents(h.state, h.plan.Load())...)
	cut = append(cut, h.heldEvents()...)
	if len(cut) > 0 {
		if _, err := h.Submit(run, cut); err != nil {
			cancel()
			wg.Wait()
			return fail(err)
		}
	}
	if !cfg.Shut {
		if !held {
			if err := h.relay.Start(run); err != nil {
				cancel()
				wg.Wait()
				return fail(err)
			}
		}
		wg.Go(func() { h.keepHouse(run) })
		wg.Go(func() { h.SignIns.Run(run) })
		h.reach()
	}
	for _, g := range gauges(h) { // one house a process; a second one in a test keeps the first's
		if prometheus.Register(g) == nil {
			h.gauges = append(h.gauges, g)
		}
	}
	return h, func() {
		for _, g := range h.gauges {
			prometheus.Unregister(g)
		}
		ctx, done := context.WithTimeout(context.Background(), 5*time.Second)
		defer done()
		if !cfg.Shut && !h.held.Load() {
			h.relay.Stop(ctx)
		}
		close(h.closed)
		cancel()
		wg.Wait()
		h.stage.Wait()
		owner.Release()
	}, nil
}

// line is a chat door with the lines that are to be said through it, in order.
type line struct {
	ear    chat.Ear // used by the client's goroutine alone, but for its Door
	client *irc.Client
	out    *outgoing
	stop   func() // closes it, and waits until it is
}

// What a look at /metrics tells of the house, beside Go's own figures.
var (
	eventsLogged = promauto.NewCounterVec(prometheus.CounterOpts{Name: "porch_events_logged_total", Help: "Events written to the log, by type."}, []string{"type"})
	decided      = promauto.NewCounterVec(prometheus.CounterOpts{Name: "porch_decisions_total", Help: "Decisions written to the log, by kind."}, []string{"kind"})
	outcomes     = promauto.NewCounterVec(prometheus.CounterOpts{Name: "porch_outcomes_total", Help: "What became of lines, posts and deeds."}, []string{"outcome"})
	setAside     = promauto.NewCounterVec(prometheus.CounterOpts{Name: "porch_set_aside_total", Help: "Events that could not be lived, written or booked for what they are, by what failed."}, []string{"at"})
	commitTook   = promauto.NewHistogram(prometheus.HistogramOpts{Name: "porch_commit_seconds", Help: "How long a batch took to be written.", Buckets: prometheus.ExponentialBuckets(0.0005, 2, 14)})
	lateBy       = promauto.NewHistogram(prometheus.HistogramOpts{Name: "porch_event_late_seconds", Help: "How much later than it happened an event was taken.", Buckets: []float64{0.1, 0.5, 1, 5, 30, 120, 600, 3600}})
)

// measure counts a batch that was written.
func measure(b *log.Batch) {
	for i := range b.Entries {
		e := &b.Entries[i].Event
		eventsLogged.WithLabelValues(e.Type).Inc()
		for j := range b.Entries[i].Decisions {
			decided.WithLabelValues(string(b.Entries[i].Decisions[j].Kind)).Inc()
		}
		switch e.Data.(type) {
		case event.Outcome:
			outcomes.WithLabelValues(e.Type).Inc()
		}
		if !event.IsOwn(e.Type) {
			if d, _ := e.Late(); d > 0 {
				lateBy.Observe(d.Seconds())
			}
		}
	}
}

// gauges tell how much waits, when Prometheus asks.
func gauges(h *House) []prometheus.Collector {
	return []prometheus.Collector{
		prometheus.NewGaugeFunc(prometheus.GaugeOpts{Name: "porch_backlog", Help: "Requests that wait for the owner."}, func() float64 { return float64(h.Backlog()) }),
		prometheus.NewGaugeFunc(prometheus.GaugeOpts{Name: "porch_database_gone", Help: "1 while the database does not answer."}, func() float64 {
			if h.Stalled() {
				return 1
			}
			return 0
		}),
	}
}
