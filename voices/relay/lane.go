package relay

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"sync"
	"time"

	"github.com/riverqueue/river"
	"golang.org/x/time/rate"

	"vividporch/core/event"
	"vividporch/core/housefile"
	"vividporch/store/jobs"
)

// carrier carries deliveries to places of one kind.
type carrier interface {
	carry(ctx context.Context, p *housefile.Place, d *jobs.Delivery) arrival
}

// arrival is what came of one attempt.
type arrival struct {
	how    how
	status int           // what the place answered; 0 where it did not
	wait   time.Duration // it asks for; 0 for none
	why    string
	tells  string // what it says itself of why not
	unsure bool   // it may have arrived all the same
	ref    string // the place's own id of what was posted
	gone   bool   // there is nothing to do any more
}

// how an attempt went.
type how int

const (
	taken   how = iota
	refused     // for good
	later       // it asks to wait
	broken      // it does not answer, or with an error
)

// mostStumbles is how often in a row a job may end by an error of the database's before River gives it up.
const mostStumbles = 1000

// lane is who drains a place, and until when it rests.
type lane struct {
	mu    sync.Mutex
	busy  bool
	again bool // something came, or was changed, while it was busy
	asked bool // a job is there that has not begun: it finds whatever is written until it does
	until time.Time
	pace  *rate.Limiter // of a place that takes so many posts a minute
}

// waits is when the next post may go to a place that takes so many a minute; zero for now.
func (l *lane) waits(perMinute int, now time.Time) time.Time {
	l.mu.Lock()
	defer l.mu.Unlock()
	if perMinute <= 0 {
		l.pace = nil
		return time.Time{}
	}
	if every := rate.Every(time.Minute / time.Duration(perMinute)); l.pace == nil || l.pace.Limit() != every {
		l.pace = rate.NewLimiter(every, perMinute)
	}
	r := l.pace.ReserveN(now, 1)
	if wait := r.DelayFrom(now); wait > 0 {
		r.CancelAt(now)
		return now.Add(wait)
	}
	return time.Time{}
}

func (r *Relay) lane(place string) *lane {
	r.mu.Lock()
	defer r.mu.Unlock()
	l := r.lanes[place]
	if l == nil {
		l = &lane{}
		r.lanes[place] = l
	}
	return l
}

// ask reports whether a job is to be asked for; not where one is there already that has not begun.
func (l *lane) ask() bool {
	l.mu.Lock()
	defer l.mu.Unlock()
	was := l.asked
	l.asked = true
	return !was
}

// idle reports whether nobody drains the lane and it does not rest.
func (l *lane) idle(now time.Time) bool {
	l.mu.Lock()
	defer l.mu.Unlock()
	return !l.busy && !now.Before(l.until)
}

// begin takes the lane; false when somebody has it, or it rests and whoever rested it comes back.
func (l *lane) begin(now time.Time) bool {
	l.mu.Lock()
	defer l.mu.Unlock()
	l.asked = false
	if l.busy || now.Before(l.until) {
		l.again = l.busy
		return false
	}
	l.busy, l.again = true, false
	return true
}

// end gives the lane back until a moment, zero for at once; unless something has come or was changed since it was looked
// at, by which that moment is none any more.
func (l *lane) end(until time.Time) bool {
	l.mu.Lock()
	defer l.mu.Unlock()
	if l.again {
		l.again = false
		return false
	}
	l.busy, l.until = false, until
	return true
}

// leave gives the lane back, whatever has come.
func (l *lane) leave() {
	l.mu.Lock()
	defer l.mu.Unlock()
	l.busy, l.again, l.until = false, false, time.Time{}
}

// wake ends the lane's rest, and keeps whoever drains it from beginning one for what it looked at before.
func (l *lane) wake() {
	l.mu.Lock()
	defer l.mu.Unlock()
	l.again, l.until = l.busy, time.Time{}
}

type worker struct {
	river.WorkerDefaults[Drain]
	relay *Relay
}

// NextRetry is when a lane is looked at again that an error of the database's has ended.
func (w *worker) NextRetry(*river.Job[Drain]) time.Time { return time.Now().Add(2 * time.Second) }

// Work delivers what is on its way to a place, until nothing is or the place asks to wait.
func (w *worker) Work(ctx context.Context, job *river.Job[Drain]) error {
	r, l := w.relay, w.relay.lane(job.Args.Place)
	if !l.begin(time.Now()) {
		return nil
	}
	for {
		until, err := r.drain(ctx, job.Args.Place)
		switch {
		case err != nil:
			l.leave()
			return err
		case !l.end(until): // it is looked at once more
		case !until.IsZero():
			return river.JobSnooze(max(time.Until(until), time.Millisecond))
		default:
			return nil
		}
	}
}

// atATime is how many deliveries are read at once.
const atATime = 50

// drain delivers what is on its way to a place in its order. until is when it goes on; zero for when there is
// more.
func (r *Relay) drain(ctx context.Context, name string) (until time.Time, err error) {
	var there arrived
	until, err = r.drained(ctx, name, &there)
	return until, errors.Join(err, r.noteAll(ctx, &there))
}

func (r *Relay) drained(ctx context.Context, name string, there *arrived) (until time.Time, err error) {
	for !r.stopping.Load() {
		if err := r.noteAll(ctx, there); err != nil {
			return until, err
		}
		list, err := r.cfg.Store.Jobs.Next(ctx, r.cfg.Channel, name, atATime)
		if err != nil || len(list) == 0 {
			return until, err
		}
		for i := 0; i < len(list); i++ {
			place := r.cfg.Place(name)
			switch {
			case r.stopping.Load(), place != nil && place.Paused:
				return until, nil
			case time.Now().Before(list[i].Next):
				return list[i].Next, nil
			}
			if place != nil {
				if at := r.lane(name).waits(place.PerMinute, time.Now()); !at.IsZero() {
					return at, nil
				}
			}
			until, err := r.attempt(ctx, place, &list[i], there)
			if err != nil {
				return until, err
			}
			if there.due() {
				if err := r.noteAll(ctx, there); err != nil {
					return until, err
				}
			}
			if !until.IsZero() {
				past, err := r.passes(ctx, place, list[i:])
				if err != nil || !past {
					return until, err
				}
				i++ // the one behind it is there
			}
		}
	}
	return until, nil
}

// arrived are deliveries that have arrived and are noted together: a place that heeds keys takes one that is sent again,
// because a crash came before it was noted, for the same.
type arrived struct {
	list  []jobs.Delivery
	since time.Time // the first of them
}

// How many arrive before they are noted, and how long it takes at most.
const (
	notedAtOnce = 50
	notedWithin = 200 * time.Millisecond
)

func (a *arrived) due() bool {
	return len(a.list) >= notedAtOnce || len(a.list) > 0 && time.Since(a.since) > notedWithin
}

// mayRepeat reports whether a post may be sent again to a place that has taken it: it knows it by its key. One whose place
// answers with an id of its own is noted at once, since what belongs to it may stand right behind it.
func mayRepeat(p *housefile.Place) bool {
	return cmp.Or(p.Kind, "webhook") == "webhook" && !p.IgnoresKeys
}

// noteAll notes what has arrived, and logs it.
func (r *Relay) noteAll(ctx context.Context, there *arrived) error {
	if len(there.list) == 0 {
		return nil
	}
	if err := r.cfg.Store.Jobs.NoteDelivered(ctx, there.list); err != nil {
		return err
	}
	for i := range there.list {
		r.cfg.Outcome(&event.RelayDelivered{RelayOutcome: outcome(&there.list[i])})
	}
	there.list = nil
	return nil
}

// oddAfter is after how many errors of the place itself it is asked whether they are about that one delivery.
const oddAfter = 6

// passes reports whether the first of some deliveries is passed by: the place answers it with an error again and
// again, and takes the next one. Then it is given up, so that it does not hold the rest for a day.
func (r *Relay) passes(ctx context.Context, place *housefile.Place, list []jobs.Delivery) (bool, error) {
	if len(list) < 2 || list[0].Status < 500 || list[0].Attempts < oddAfter || len(list[1].Body) == 0 {
		return false, nil
	}
	var there arrived
	_, err := r.attempt(ctx, place, &list[1], &there)
	if err := errors.Join(err, r.noteAll(ctx, &there)); err != nil || list[1].State != jobs.Delivered {
		return false, err
	}
	return true, r.ended(ctx, &list[0], jobs.Failed, list[0].Reason+"; it takes others")
}

// attempt tries one delivery. until is when it is tried again; zero when it is done with, however it ended.
func (r *Relay) attempt(ctx context.Context, place *housefile.Place, d *jobs.Delivery, there *arrived) (until time.Time, err error) {
	d.Attempts++
	switch {
	case len(d.Body) == 0:
		return until, r.ended(ctx, d, jobs.Dropped, "whom it was about was forgotten while it was on its way")
	case place == nil:
		return until, r.ended(ctx, d, jobs.Failed, "the place "+d.Place+" is no longer in the settings")
	case d.Opens && r.cfg.Over != nil && r.cfg.Over(d.Stream) && len(d.Late) == 0:
		return until, r.ended(ctx, d, jobs.Dropped, "the stream had ended before it could be posted")
	case d.State == jobs.Trying && place.IgnoresKeys:
		return until, r.ended(ctx, d, jobs.Unclear, "the house went down while it was sending")
	}
	if place.IgnoresKeys { // what at most once rests on: an attempt is noted before it is made
		d.State = jobs.Trying
		if err := r.cfg.Store.Jobs.Note(ctx, d); err != nil {
			return until, err
		}
	}
	if d.Opens && r.cfg.Over != nil && r.cfg.Over(d.Stream) {
		d.Body = d.Late // as what has been
	}
	came := r.carry(ctx, place, d)
	d.Status, d.Ref = came.status, came.ref
	switch {
	case came.gone:
		return until, r.ended(ctx, d, jobs.Dropped, came.why)
	case came.how == taken && mayRepeat(place):
		if d.State, d.Reason = jobs.Delivered, ""; len(there.list) == 0 {
			there.since = time.Now()
		}
		there.list = append(there.list, *d)
		return until, nil
	case came.how == taken:
		return until, r.ended(ctx, d, jobs.Delivered, "")
	case came.how == refused:
		return until, r.ended(ctx, d, jobs.Failed, came.why)
	case came.unsure && place.IgnoresKeys:
		return until, r.ended(ctx, d, jobs.Unclear, came.why)
	case time.Since(d.Made) >= Longest:
		return until, r.ended(ctx, d, jobs.Failed, came.why+"; it was tried for a day")
	}
	wait := came.wait
	if wait <= 0 {
		wait = r.cfg.Backoff(d.Attempts)
	}
	d.State, d.Reason, d.Next = jobs.Waiting, came.why, time.Now().Add(wait)
	if err := r.cfg.Store.Jobs.Note(ctx, d); err != nil {
		return until, err
	}
	o := outcome(d)
	o.NextTry = d.Next.UTC().Format(time.RFC3339)
	r.cfg.Outcome(&event.RelayDelayed{RelayOutcome: o})
	return d.Next, nil
}

// carry makes one attempt, within the time that the place has.
func (r *Relay) carry(ctx context.Context, place *housefile.Place, d *jobs.Delivery) arrival {
	c := r.carriers[cmp.Or(place.Kind, "webhook")]
	if c == nil {
		return arrival{how: refused, why: fmt.Sprintf("this house knows no places of the kind %q", place.Kind)}
	}
	ctx, cancel := context.WithTimeout(ctx, place.Within())
	defer cancel()
	return c.carry(ctx, place, d)
}

// ended notes that a delivery is done with, and logs how it ended.
func (r *Relay) ended(ctx context.Context, d *jobs.Delivery, state jobs.State, why string) error {
	d.State, d.Reason = state, why
	if err := r.cfg.Store.Jobs.Note(ctx, d); err != nil {
		return err
	}
	o := outcome(d)
	switch state {
	case jobs.Delivered:
		r.cfg.Outcome(&event.RelayDelivered{RelayOutcome: o})
	case jobs.Failed:
		r.cfg.Outcome(&event.RelayFailed{RelayOutcome: o})
	case jobs.Unclear:
		o.Reason += "; it may have arrived"
		r.cfg.Outcome(&event.RelayUnclear{RelayOutcome: o})
	case jobs.Dropped:
		r.cfg.Outcome(&event.RelayDropped{RelayOutcome: o})
	}
	return nil
}

func outcome(d *jobs.Delivery) event.RelayOutcome {
	return event.RelayOutcome{Line: d.Line, Place: d.Place, Attempt: d.Attempts, Status: d.Status, Reason: d.Reason, About: d.About}
}
