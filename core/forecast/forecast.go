// Package forecast is the hour ahead: which timers would be said when, which are held and why, if chat goes
// on at some speed.
//
// It is the house itself, lived in virtual time from where it stands: people say lines at that speed, and
// whatever comes of it is what would come of it ([Of]).
package forecast

import (
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"strconv"
	"time"

	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/house"
	"vividporch/core/plain"
	"vividporch/core/room"
	"vividporch/core/timer"
)

// How is what becomes of a timer whose time comes.
type How string

// What can become of one.
const (
	Said How = "said"
	Late How = "late" // said, more than lateAfter behind its minutes
	Held How = "held"
)

const lateAfter = time.Minute

// Mark is one coming of a timer on a platform.
type Mark struct {
	Courtesy string
	Platform string
	How      How
	At       time.Time // said then; of what is held, when it was due
	Due      time.Time // by its own minutes alone
	Why      string    // it is held, or late
}

// Share is how much of the last lines the house said at a moment, in percent, where it said the most.
type Share struct {
	At      time.Time
	Percent int
}

// Hour is the hour ahead.
type Hour struct {
	From    time.Time
	Speed   float64 // lines people say a minute, on each platform that is on air
	Marks   []Mark
	Was     []Mark // said in the minutes before, as far as it is remembered: each timer's last
	Past    []int  // lines people said in each of the [Before] minutes before, the oldest first; none where no stream is on
	Shares  []Share
	Ceiling int // percent, from where on timers are held
	Timers  int // how many there are
	Due     int // of which so many come or would have to
	Unsaid  []string
	Opens   bool // no stream is on: as if one opened now
}

// Length is how far ahead it looks.
const Length = time.Hour

// Before is how much of what was lies before the hour.
const Before = 10 * time.Minute

// Most is how many lines a minute can be asked for: beyond that chat is faster than anybody reads.
const Most = 120

// Of lives the hour ahead of a state, which it leaves as it is.
func Of(from *house.State, plan *room.Plan, now time.Time, speed float64) (Hour, error) {
	h := Hour{From: now, Speed: min(max(speed, 0), Most)}
	raw, err := json.Marshal(from)
	if err != nil {
		return h, err
	}
	s, _, ok := house.RestoreState(raw)
	if !ok {
		return h, fmt.Errorf("forecast: the state is not read back")
	}
	h.before(s)
	l := lived{s: s, plan: plan, hour: &h, due: map[string]timer.Next{}, last: map[string]string{}}
	if !s.Stream.Live() {
		h.Opens = true
		l.take(now, &event.StreamDeclared{Act: "opened"})
	}
	l.onAir = plan.Chat()
	if on := s.Stream.OnTo(plan.Grace()); len(on) > 0 {
		l.onAir = slices.DeleteFunc(slices.Clone(l.onAir), func(p string) bool { return !slices.Contains(on, p) })
	}
	l.look()
	l.all()
	return h, nil
}

// before looks back: how chat went, and what was said.
func (h *Hour) before(s *house.State) {
	if !s.Stream.Live() {
		return
	}
	begun := h.From.Add(-Before)
	for i := range int(Before / time.Minute) {
		m := int(begun.Sub(s.Stream.Opened)/time.Minute) + i
		n := 0
		if m >= 0 && m < len(s.Evening.Minutes) {
			n = s.Evening.Minutes[m]
		}
		h.Past = append(h.Past, n)
	}
	for _, x := range timer.Lasts(s.Rooms) {
		if x.At.After(begun) {
			h.Was = append(h.Was, Mark{Courtesy: x.Courtesy, Platform: x.Platform, How: Said, At: x.At, Due: x.At})
		}
	}
}

// lived is an hour being lived.
type lived struct {
	s    *house.State
	plan *room.Plan
	hour *Hour
	n    int
	due  map[string]timer.Next // by courtesy and platform: what is due next
	last map[string]string     // and why it was held the last time
	said map[string]bool       // courtesies

	onAir  []string // where people speak
	timers []string
}

func key(courtesy, platform string) string { return courtesy + "\x00" + platform }

// all lives it to its end.
func (l *lived) all() {
	end := l.hour.From.Add(Length)
	l.said = map[string]bool{}
	for _, p := range l.onAir { // somebody who is here already
		k := p + ":" + somebody
		l.s.Guests()[k] = &hall.Guest{Name: somebody, Arrived: l.hour.From, Greeted: true}
	}
	minute := l.hour.From
	if l.hour.Speed > 0 && len(l.onAir) > 0 {
		every := time.Duration(float64(time.Minute) / l.hour.Speed)
		for at := l.hour.From.Add(every); at.Before(end); at = at.Add(every) {
			l.until(at)
			for _, p := range l.onAir {
				said := &happening.ChatSaid{Text: "…"}
				said.Person = event.Person{Platform: p, ID: somebody, Login: somebody}
				l.take(at, said)
			}
			if !at.Before(minute) {
				l.shares(at)
				minute = minute.Add(time.Minute)
			}
		}
	}
	l.until(end)
	l.shares(end)
	l.rest(end)
}

// somebody stands for everybody who speaks.
const somebody = "somebody-in-chat"

func (l *lived) take(at time.Time, data event.Data) {
	l.n++
	ev := event.Event{Seq: l.s.Seq + 1, Door: "forecast", Source: "forecast", ID: "ahead-" + strconv.Itoa(l.n), Type: data.Type(), Time: at, Logged: at, Data: data}
	l.lived(at, house.Step(l.s, &ev, nil, l.plan))
}

// until lives every wake before a moment.
func (l *lived) until(t time.Time) {
	for {
		at, due := l.s.Wake(l.plan)
		if !due || at.After(t) {
			return
		}
		if at.Before(l.s.Clock) {
			at = l.s.Clock
		}
		_, ds, ok := house.Advance(l.s, at, l.plan)
		if !ok {
			return
		}
		l.lived(at, ds)
	}
}

// lived marks what became of timers.
func (l *lived) lived(at time.Time, ds []hall.Decision) {
	moves := timer.Moves(ds)
	for _, m := range moves {
		k := key(m.Courtesy, m.Platform)
		if !m.Done {
			l.last[k] = m.Why
			continue
		}
		l.said[m.Courtesy] = true
		mark := Mark{Courtesy: m.Courtesy, Platform: m.Platform, How: Said, At: at, Due: at}
		if n, ok := l.due[k]; ok && at.Sub(n.At) > lateAfter {
			mark.How, mark.Due, mark.Why = Late, n.At, l.why(k, n)
		}
		l.hour.Marks = append(l.hour.Marks, mark)
		delete(l.last, k)
	}
	if len(moves) > 0 {
		l.look()
	}
}

// look notes what is due next, where a stream is on.
func (l *lived) look() {
	l.due = map[string]timer.Next{}
	l.timers = l.timers[:0]
	for _, n := range timer.Nexts(l.plan, l.s.Rooms) {
		if slices.Contains(l.onAir, n.Platform) { // where no stream is on nothing is due
			l.due[key(n.Courtesy, n.Platform)] = n
		}
		l.timers = append(l.timers, n.Courtesy)
	}
	slices.Sort(l.timers)
	l.timers = slices.Compact(l.timers)
	l.hour.Timers = len(l.timers)
}

// why is why a timer did not come when it was due.
func (l *lived) why(k string, n timer.Next) string {
	if why := l.last[k]; why != "" {
		return why
	}
	if why := l.last[key("", n.Platform)]; why != "" {
		return why
	}
	if n.Lacks > 0 {
		return fmt.Sprintf("people had said %d of %d lines", n.Of-n.Lacks, n.Of)
	}
	return "others came first"
}

// rest marks what was due and did not come.
func (l *lived) rest(end time.Time) {
	l.look()
	for _, k := range slices.Sorted(keysOf(l.due)) {
		n := l.due[k]
		if n.At.After(end) {
			continue
		}
		at := n.At
		if at.Before(l.hour.From) {
			at = l.hour.From
		}
		l.hour.Marks = append(l.hour.Marks, Mark{Courtesy: n.Courtesy, Platform: n.Platform, How: Held, At: at, Due: n.At, Why: l.why(k, n)})
		if !l.said[n.Courtesy] && !slices.Contains(l.hour.Unsaid, n.Courtesy) {
			l.hour.Unsaid = append(l.hour.Unsaid, n.Courtesy)
		}
	}
	l.hour.Due = len(l.hour.Unsaid)
	for _, id := range l.timers { // a lull is none of them
		if l.said[id] {
			l.hour.Due++
		}
	}
	slices.SortStableFunc(l.hour.Marks, func(a, b Mark) int { return a.At.Compare(b.At) })
}

func keysOf(m map[string]timer.Next) func(func(string) bool) {
	return func(yield func(string) bool) {
		for k := range m {
			if !yield(k) {
				return
			}
		}
	}
}

func (l *lived) shares(at time.Time) {
	of, ceiling := timer.Shares(l.plan, l.s.Rooms)
	l.hour.Ceiling = ceiling
	most := 0
	for _, n := range of {
		most = max(most, n)
	}
	l.hour.Shares = append(l.hour.Shares, Share{at, most})
}

// Says tells the outcome in a sentence: "At 4 lines a minute two of five timers would not be said."
func (h *Hour) Says() string {
	speed := "At " + lines(h.Speed) + " a minute "
	one, timers := "the one timer", " timers"
	if h.Due < h.Timers {
		one, timers = "the one timer that is due", " timers that are due"
	}
	switch said := h.Due - len(h.Unsaid); {
	case h.Timers == 0:
		return "No timer is on."
	case h.Due == 0:
		return "No timer is due within the hour."
	case h.Due == 1 && said == 1:
		return speed + one + " is said."
	case h.Due == 1:
		return speed + one + " would not be said."
	case said == h.Due:
		return speed + all(h.Due) + timers + " are said."
	case said == 0:
		return speed + "none of " + plain.Count(h.Due) + timers + " would be said."
	default:
		return speed + plain.Count(len(h.Unsaid)) + " of " + plain.Count(h.Due) + timers + " would not be said."
	}
}

// Beside tells it in short beside the outcome at another speed: "At tonight’s 12 all five would." whose is whose
// speed this one is.
func (h *Hour) Beside(whose string) string {
	at := "At " + whose + " " + number(h.Speed)
	switch said := h.Due - len(h.Unsaid); {
	case h.Due == 0:
		return ""
	case h.Due == 1 && said == 1:
		return at + " it would be."
	case h.Due == 1:
		return at + " it would not."
	case said == h.Due:
		return at + " " + all(h.Due) + " would."
	case said == 0:
		return at + " none would."
	default:
		return at + " " + plain.Count(said) + " of " + plain.Count(h.Due) + " would."
	}
}

func all(n int) string {
	if n == 2 {
		return "both"
	}
	return "all " + plain.Count(n)
}

func lines(n float64) string {
	if n == 1 {
		return "1 line"
	}
	return number(n) + " lines"
}

// number writes a speed with one digit after the point, and none where it is whole.
func number(n float64) string { return strconv.FormatFloat(math.Round(n*10)/10, 'f', -1, 64) }
