// Package lookbacks makes a look back of each stream: when it closes, again when something comes
// late, and for older ones when somebody first looks. What it tells of people is read of the guest
// book when it is looked at, so that it stays true when people are merged, parted or forgotten.
package lookbacks

import (
	"cmp"
	"context"
	"errors"
	"maps"
	"slices"
	"sync"
	"time"

	"vividporch/core/attendance"
	"vividporch/core/lookback"
	"vividporch/core/room"
	"vividporch/store"
	"vividporch/store/find"
	"vividporch/store/pg"
	"vividporch/store/tables"
)

// Config is what the look backs of a channel need of it.
type Config struct {
	Store   *store.Store
	Channel int64
	Plan    func() *room.Plan
	Clock   func() time.Time
	Warn    func(what string, err error)
}

// Maker makes look backs. Its methods may be called from any goroutine.
type Maker struct {
	cfg    Config
	making sync.Mutex // one after another
}

// New makes one.
func New(cfg Config) *Maker { return &Maker{cfg: cfg} }

// Closed makes that of a stream that is over.
func (m *Maker) Closed(ctx context.Context, stream int) {
	e, err := m.make(ctx, stream)
	if err == nil {
		_, _, err = m.Figures(ctx, stream, e) // what it stands beside is counted now, not when somebody looks
	}
	if err != nil && ctx.Err() == nil && !errors.Is(err, pg.ErrNone) {
		m.cfg.Warn("the look back of a stream could not be made", err)
	}
}

// readied is of how many past streams counts are at hand from the start.
const readied = 50

// Ready counts past streams that nobody has counted yet, after a restore or a first start, so that nobody waits for it who looks.
func (m *Maker) Ready(ctx context.Context) {
	past, err := m.cfg.Store.Book.Streams(ctx, m.cfg.Channel)
	if err == nil {
		var streams []int
		for _, p := range past[max(0, len(past)-readied):] {
			streams = append(streams, p.Number)
		}
		_, err = m.cfg.Store.Find.Turnouts(ctx, m.cfg.Channel, streams)
	}
	if err != nil && ctx.Err() == nil {
		m.cfg.Warn("past streams could not be counted", err)
	}
}

// Late says when things happened that came only now.
func (m *Maker) Late(ctx context.Context, at []time.Time) {
	if err := m.cfg.Store.Lookbacks.Late(ctx, m.cfg.Channel, at); err != nil && ctx.Err() == nil {
		m.cfg.Warn("a look back could not be marked for being made anew", err)
	}
}

// Of is what became of a stream. ErrNone of package pg when there was none of that number.
func (m *Maker) Of(ctx context.Context, stream int) (*lookback.Evening, error) {
	e, made, err := m.cfg.Store.Lookbacks.Of(ctx, m.cfg.Channel, stream)
	if err == nil && !made.Stale && (!made.At.Before(e.Closed.Add(settles)) || m.cfg.Clock().Sub(made.At) < rests) {
		return &e, nil
	}
	if err != nil && !errors.Is(err, pg.ErrNone) {
		return nil, err
	}
	return m.make(ctx, stream)
}

// make reads a stream of the log and keeps what became of it. One that the log does not have
// is kept with what the guest book has alone.
func (m *Maker) make(ctx context.Context, number int) (*lookback.Evening, error) {
	m.making.Lock()
	defer m.making.Unlock()
	s, err := m.stream(ctx, number)
	if err != nil {
		return nil, err
	}
	reader := lookback.New(m.cfg.Plan().Settings.AllSigns())
	rec, err := m.cfg.Store.Log.Stream(ctx, m.cfg.Channel, number, s.Opened)
	switch {
	case err == nil:
		for i := range rec.Entries {
			reader.Take(&rec.Entries[i].Event, rec.Entries[i].Decisions)
		}
		late, err := m.cfg.Store.Log.LateFor(ctx, m.cfg.Channel, rec.Entries[len(rec.Entries)-1].Event.Seq, s.Opened, *s.Closed)
		if err != nil {
			return nil, err
		}
		for i := range late {
			reader.Take(&late[i].Event, late[i].Decisions)
		}
	case !errors.Is(err, pg.ErrNone):
		return nil, err
	}
	e := reader.Evening()
	e.Nameless()
	if e.Opened.IsZero() {
		e.Opened = s.Opened
	}
	e.Closed, e.Title = *s.Closed, cmp.Or(e.Title, s.Title)
	if rec != nil && rec.Blanked { // what was asked in vain was read while it was kept
		if was, _, err := m.cfg.Store.Lookbacks.Of(ctx, m.cfg.Channel, number); err == nil {
			e.Unanswered = was.Unanswered
		}
	}
	return e, m.cfg.Store.Lookbacks.Keep(ctx, m.cfg.Channel, number, e, m.cfg.Clock())
}

// What is made early is made anew when somebody looks.
const (
	settles = 6 * time.Minute  // after its end something of a stream may still come: last lines, new standings
	rests   = 15 * time.Second // so long what was made is looked at again
)

func (m *Maker) stream(ctx context.Context, number int) (tables.Stream, error) {
	s, err := m.cfg.Store.Book.StreamOf(ctx, m.cfg.Channel, number)
	if err == nil && s.Closed == nil {
		err = pg.ErrNone
	}
	return s, err
}

// Figure is one figure of a stream beside what is usual: of the ten streams before, and of the
// ten before on the same weekday.
type Figure struct {
	Name    string
	Value   float64
	Usual   lookback.Range
	Weekday lookback.Range
}

// usualOf is of how many streams before what is usual is told.
const usualOf = 10

// Figures are the figures of a stream against the usual, in their order.
func (m *Maker) Figures(ctx context.Context, number int, e *lookback.Evening) ([]Figure, find.Turnout, error) {
	past, err := m.cfg.Store.Book.Streams(ctx, m.cfg.Channel)
	if err != nil {
		return nil, find.Turnout{}, err
	}
	i := slices.IndexFunc(past, func(p attendance.Past) bool { return p.Number == number })
	if i < 0 {
		return nil, find.Turnout{}, pg.ErrNone
	}
	zone := m.cfg.Plan().Zone
	day := past[i].Opened.In(zone).Weekday()
	var before, weekday []int
	for k := i - 1; k >= 0 && (len(before) < usualOf || len(weekday) < usualOf); k-- {
		if len(before) < usualOf {
			before = append(before, past[k].Number)
		}
		if len(weekday) < usualOf && past[k].Opened.In(zone).Weekday() == day {
			weekday = append(weekday, past[k].Number)
		}
		if i-k > 7*usualOf*2 { // a channel that never streams on that day again
			break
		}
	}
	want := append(slices.Concat(before, weekday), number)
	slices.Sort(want)
	want = slices.Compact(want)
	turnouts, err := m.cfg.Store.Find.Turnouts(ctx, m.cfg.Channel, want)
	if err != nil {
		return nil, find.Turnout{}, err
	}
	by := map[int]find.Turnout{}
	for _, t := range turnouts {
		by[t.Stream] = t
	}
	docs, err := m.cfg.Store.Lookbacks.Some(ctx, m.cfg.Channel, want)
	if err != nil {
		return nil, find.Turnout{}, err
	}
	docs[number] = *e
	figures := make([]Figure, 0, len(told))
	for _, f := range told {
		value := func(n int) (float64, bool) {
			doc, has := docs[n]
			if f.logged && !(has && len(doc.Minutes) > 0) {
				return 0, false // of a stream from before the log nobody knows
			}
			return f.of(by[n], &doc), true
		}
		over := func(list []int) lookback.Range {
			var vs []float64
			for _, n := range list {
				if v, ok := value(n); ok {
					vs = append(vs, v)
				}
			}
			return lookback.RangeOf(vs)
		}
		v, _ := value(number)
		figures = append(figures, Figure{f.name, v, over(before), over(weekday)})
	}
	return figures, by[number], nil
}

// told are the figures, in the order in which they are told. What is logged is known only of
// streams that the log has.
var told = []struct {
	name   string
	logged bool
	of     func(find.Turnout, *lookback.Evening) float64
}{
	{"people", false, func(t find.Turnout, _ *lookback.Evening) float64 { return float64(t.People) }},
	{"new", false, func(t find.Turnout, _ *lookback.Evening) float64 { return float64(t.New) }},
	{"long away", true, func(_ find.Turnout, e *lookback.Evening) float64 { return float64(e.Standing("long away")) }},
	{"newly regular", true, func(_ find.Turnout, e *lookback.Evening) float64 { return float64(len(e.Regulars)) }},
	{"no longer regular", true, func(_ find.Turnout, e *lookback.Evening) float64 { return float64(len(e.Lost)) }},
	{"raids brought", false, func(t find.Turnout, _ *lookback.Evening) float64 { return float64(t.Brought) }},
	{"our raid took", false, func(t find.Turnout, _ *lookback.Evening) float64 { return float64(t.Took) }},
	{"given", false, func(t find.Turnout, _ *lookback.Evening) float64 { return float64(t.Given) }},
	{"lines", false, func(t find.Turnout, _ *lookback.Evening) float64 { return float64(t.Lines) }},
	{"house share", true, func(_ find.Turnout, e *lookback.Evening) float64 { return 100 * e.Share() }},
	{"dates kept", true, func(_ find.Turnout, e *lookback.Evening) float64 { return float64(e.DaysKept(true)) }},
	{"dates missed", true, func(_ find.Turnout, e *lookback.Evening) float64 { return float64(e.DaysKept(false)) }},
}

// Reasons are why people were met in silence, those of most people first, each with the accounts.
func Reasons(e *lookback.Evening) (whys []string, of map[string][]string) {
	of = map[string][]string{}
	for _, a := range e.Silent() {
		of[a.Why] = append(of[a.Why], a.Account)
	}
	whys = slices.Sorted(maps.Keys(of))
	slices.SortStableFunc(whys, func(a, b string) int { return len(of[b]) - len(of[a]) })
	return whys, of
}
