// Package rehearse lives evenings again for members, beside the living house and without touching
// it: a stream of the log, a written evening or an imagined one, under two sets of settings that
// are then compared. One is lived at a time in the background; it tells how far it is and can be
// called off.
package rehearse

import (
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"slices"
	"sync"
	"time"

	"vividporch/core/compare"
	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/house"
	"vividporch/core/housefile"
	"vividporch/core/rehearsal"
	"vividporch/core/room"
	"vividporch/core/whatif"
	"vividporch/store"
)

// Config is what rehearsals of a channel need of it.
type Config struct {
	Store   *store.Store
	Channel int64
	Plan    func() *room.Plan
	Clock   func() time.Time
	Warn    func(what string, err error)
}

// Rehearser rehearses. Its methods may be called from any goroutine.
type Rehearser struct {
	cfg Config

	mu   sync.Mutex
	jobs []*Job // the last ones, oldest first

	learned learned

	turn  chan struct{} // one is lived at a time
	poked chan struct{} // the kept evenings are to be lived again
}

// mostJobs is how many rehearsals are kept, with what came of them.
const mostJobs = 12

// New makes one.
func New(cfg Config) *Rehearser {
	return &Rehearser{cfg: cfg, turn: make(chan struct{}, 1), poked: make(chan struct{}, 1)}
}

// Side is what an evening is lived under. Without settings it is as it was: what was said and
// done in a recorded stream, which nothing is lived for.
type Side struct {
	Settings *housefile.Settings
	Version  int64 // of the settings; 0 for none that was in force
}

// Wanted is what is to be rehearsed: one of a stream's number, a script and dials.
type Wanted struct {
	Stream int
	Script []event.Event
	Dials  *whatif.Dials

	Above, Below Side
	OwnChance    bool // the one below draws by chance of its own
}

// Result is what came of a rehearsal.
type Result struct {
	Evening      *rehearsal.Evening
	Above, Below *rehearsal.Lived
	Differences  []compare.Difference
	Version      int64 // of the settings in force when a recorded stream opened; else 0
	Took         time.Duration
}

// Job is a rehearsal on its way, or what came of it.
type Job struct {
	ID     string
	Member string
	Wanted Wanted

	mu     sync.Mutex
	part   float64
	result *Result
	err    error
	over   bool
	cancel context.CancelFunc
}

// State tells how a rehearsal stands: how far it is, 0 to 1, and once it is over what came of it.
func (j *Job) State() (part float64, over bool, result *Result, err error) {
	j.mu.Lock()
	defer j.mu.Unlock()
	return j.part, j.over, j.result, j.err
}

// CallOff ends it.
func (j *Job) CallOff() { j.cancel() }

func (j *Job) at(part float64) {
	j.mu.Lock()
	defer j.mu.Unlock()
	j.part = max(j.part, part)
}

// Begin begins a rehearsal; of one that the same member has on its way nothing comes.
func (r *Rehearser) Begin(member string, w Wanted) *Job {
	ctx, cancel := context.WithCancel(context.Background())
	j := &Job{ID: rand.Text(), Member: member, Wanted: w, cancel: cancel}
	r.mu.Lock()
	for _, o := range r.jobs {
		if o.Member == member {
			o.cancel()
		}
	}
	r.jobs = append(r.jobs[max(0, len(r.jobs)-mostJobs+1):], j)
	r.mu.Unlock()
	go func() {
		defer cancel()
		result, err := r.turns(ctx, w, j.at)
		j.mu.Lock()
		defer j.mu.Unlock()
		j.result, j.err, j.over, j.part = result, err, true, 1
	}()
	return j
}

// turns lives what is wanted once those before it are lived.
func (r *Rehearser) turns(ctx context.Context, w Wanted, at func(float64)) (*Result, error) {
	select {
	case r.turn <- struct{}{}:
		defer func() { <-r.turn }()
	case <-ctx.Done():
		return nil, ctx.Err()
	}
	return r.Rehearse(ctx, w, at)
}

// Job finds a rehearsal; nil when it is not kept any more.
func (r *Rehearser) Job(id string) *Job {
	r.mu.Lock()
	defer r.mu.Unlock()
	if i := slices.IndexFunc(r.jobs, func(j *Job) bool { return j.ID == id }); i >= 0 {
		return r.jobs[i]
	}
	return nil
}

// Forget lets go of all that was lived, and calls off what is on its way: whoever was forgotten may be in it.
func (r *Rehearser) Forget() {
	r.mu.Lock()
	defer r.mu.Unlock()
	for _, j := range r.jobs {
		j.cancel()
	}
	r.jobs = nil
}

// FaultsError says that settings cannot be lived under: what they have wrong.
type FaultsError struct{ Faults []courtesy.Fault }

func (e *FaultsError) Error() string {
	return fmt.Sprintf("the settings have %d faults, the first: %s", len(e.Faults), e.Faults[0].Error())
}

// Rehearse lives what is wanted under both sides and compares them.
func (r *Rehearser) Rehearse(ctx context.Context, w Wanted, at func(float64)) (*Result, error) {
	begun := time.Now()
	if at == nil {
		at = func(float64) {}
	}
	out := &Result{}
	var asWas *rehearsal.Lived
	switch {
	case w.Stream > 0:
		rec, err := r.record(ctx, w.Stream, at)
		if err != nil {
			return nil, err
		}
		out.Evening, asWas, out.Version = rec.evening, rec.lived, rec.version
	case w.Dials != nil:
		ev, err := r.imagined(ctx, *w.Dials)
		if err != nil {
			return nil, err
		}
		out.Evening = ev
	default:
		ev, err := r.written(ctx, w.Script)
		if err != nil {
			return nil, err
		}
		out.Evening = ev
	}
	out.Evening.Same = true
	zone := r.cfg.Plan().Zone
	of := float64(max(1, 2*len(out.Evening.Script)))
	live := func(s Side, begin float64, own bool) (*rehearsal.Lived, *housefile.Settings, error) {
		if s.Settings == nil {
			if asWas == nil {
				return nil, nil, errors.New("only a recorded stream has what was said in it")
			}
			return asWas, nil, nil
		}
		settings := s.Settings.Clone()
		now := r.cfg.Plan().Settings
		settings.Seed, settings.Zone = now.Seed, now.Zone
		if own {
			settings.Seed += ", by other chance"
		}
		plan, faults := house.Ready(settings, s.Version)
		if len(faults) > 0 {
			if fresh := r.cfg.Plan().NewFaults(faults); s.Version == 0 && len(fresh) > 0 { // those in force may have some of their own
				return nil, nil, &FaultsError{fresh}
			}
			plan = house.Loosely(settings, s.Version)
		}
		evening := *out.Evening
		evening.Same = w.Stream == 0 || s.Version != out.Version // the version of that evening, with what was changed in it
		lived, err := rehearsal.Live(ctx, plan, &evening, func(done int) { at(0.3 + 0.7*(begin+float64(done))/of) })
		return lived, settings, err
	}
	var a, b *housefile.Settings
	var err error
	if out.Above, a, err = live(w.Above, 0, false); err != nil {
		return nil, err
	}
	if out.Below, b, err = live(w.Below, of/2, w.OwnChance); err != nil {
		return nil, err
	}
	out.Differences = compare.Two(compare.Side{Effects: out.Above.Effects, Settings: a}, compare.Side{Effects: out.Below.Effects, Settings: b}, zone)
	out.Took = time.Since(begun)
	return out, nil
}

// settingsAt is a version of the settings as they were.
func (r *Rehearser) settingsAt(ctx context.Context, version int64) (*housefile.Settings, error) {
	v, err := r.cfg.Store.Log.SettingsAt(ctx, r.cfg.Channel, version)
	if err != nil {
		return nil, err
	}
	return housefile.ReadStored(v.Doc)
}

// Version is a side of a version that is or was in force; 0 is the one in force now.
func (r *Rehearser) Version(ctx context.Context, version int64) (Side, error) {
	if now := r.cfg.Plan(); version == 0 || version == now.Version {
		return Side{now.Whole, now.Version}, nil
	}
	s, err := r.settingsAt(ctx, version)
	return Side{s, version}, err
}
