package attendance

import (
	"fmt"
	"slices"
	"time"
)

// StripLength is how many of the last streams the attendance strip shows, and how
// many past streams the house keeps at hand.
const StripLength = 20

// Past is a stream that is over.
type Past struct {
	Number int       `json:"number"`
	Opened time.Time `json:"opened"`
	Closed time.Time `json:"closed"`
}

// Add puts a stream that has ended behind the others, oldest first, and keeps the
// last StripLength. One that is there already takes the new times.
func Add(past []Past, p Past) []Past {
	out := slices.DeleteFunc(slices.Clone(past), func(o Past) bool { return o.Number == p.Number })
	at, _ := slices.BinarySearchFunc(out, p.Number, func(o Past, n int) int { return o.Number - n })
	out = slices.Insert(out, at, p)
	return out[max(0, len(out)-StripLength):]
}

// Mask is which of the last 64 streams up to and including At somebody attended:
// bit n stands for stream At-n. It is how attendance is kept in little room.
type Mask struct {
	At   int
	Bits uint64
}

// MaskOf marks the streams attended.
func MaskOf(at int, streams []int) Mask {
	m := Mask{At: at}
	for _, n := range streams {
		if back := at - n; back >= 0 && back < 64 {
			m.Bits |= 1 << back
		}
	}
	return m
}

// Has reports whether stream n was attended.
func (m Mask) Has(n int) bool {
	back := m.At - n
	return back >= 0 && back < 64 && m.Bits>>back&1 == 1
}

// Before lists the marked streams with a number below n, oldest first, at most most.
func (m Mask) Before(n, most int) []int {
	var out []int
	for back := 0; back < 64 && len(out) < most; back++ {
		if m.Bits>>back&1 == 1 && m.At-back < n {
			out = append(out, m.At-back)
		}
	}
	slices.Reverse(out)
	return out
}

// Streak is how many consecutive streams somebody attended, ending with the last
// of past; tonight adds one when they are here and one is on.
func Streak(attended []int, past []Past, tonight bool) int {
	n := 0
	for i := len(past) - 1; i >= 0 && slices.Contains(attended, past[i].Number); i-- {
		n++
	}
	if tonight {
		n++
	}
	return n
}

// ReturnWithin is how many following streams a newcomer has to be seen again.
const ReturnWithin = 5

// Came is how many newcomers of one stream, or one raid, were seen again for the
// first time so many streams later; a Gap of 0 says not yet.
type Came struct {
	Gap   int
	Count int
}

// Return is what became of the newcomers of one stream or raid.
type Return struct {
	Newcomers int `json:"newcomers"`
	Returned  int `json:"returned"` // within ReturnWithin streams
	Of        int `json:"of"`       // how many of those streams have been so far
}

// Returned adds up what became of newcomers; later is how many streams there have
// been since. Whoever came back later than ReturnWithin has not returned by this
// measure, which keeps old and new streams comparable.
func Returned(list []Came, later int) Return {
	r := Return{Of: min(later, ReturnWithin)}
	for _, c := range list {
		r.Newcomers += c.Count
		if c.Gap > 0 && c.Gap <= ReturnWithin {
			r.Returned += c.Count
		}
	}
	return r
}

// RaidWindow is how long after a raid a first line ever still belongs to it.
const RaidWindow = 10 * time.Minute

// CameWith finds the raid a newcomer came with: the latest one whose window holds
// their first line ever. ok is false when there is none.
func CameWith(first time.Time, raids []time.Time) (i int, ok bool) {
	for k, at := range raids {
		if !first.Before(at) && first.Sub(at) <= RaidWindow && (!ok || at.After(raids[i])) {
			i, ok = k, true
		}
	}
	return i, ok
}

// Usual is when somebody is usually live on a weekday: hours of the clock, To after
// From. An evening ends at five in the morning.
type Usual struct {
	Day      time.Weekday
	From, To int
	Times    int
}

const eveningEnds = 5 // o'clock

// String says it: "Tuesday, 18:00 to 22:00".
func (u Usual) String() string { return fmt.Sprintf("%s, %d:00 to %d:00", u.Day, u.From, u.To) }

// before is how long before the hours of a habit it counts already: they are when streams ended.
const before = 2

// Now finds the habit that a moment falls into.
func Now(of []Usual, at time.Time, zone *time.Location) (Usual, bool) {
	l := at.In(zone).Add(-eveningEnds * time.Hour)
	for _, u := range of {
		from, to := (u.From-eveningEnds+24)%24, (u.To-eveningEnds+24)%24
		if to <= from {
			to += 24
		}
		if u.Day == l.Weekday() && l.Hour() >= from-before && l.Hour() < to {
			return u, true
		}
	}
	return Usual{}, false
}

// EndsAbout is when a stream that opened at some moment can be expected to end: after as long as half
// of the last ten took. False where there were fewer than three.
func EndsAbout(past []Past, opened time.Time) (time.Time, bool) {
	if len(past) < 3 {
		return time.Time{}, false
	}
	var took []time.Duration
	for _, p := range past[max(0, len(past)-10):] {
		took = append(took, p.Closed.Sub(p.Opened))
	}
	slices.Sort(took)
	return opened.Add(took[len(took)/2]), true
}

// UsualHours reads a habit out of moments: the weekdays on which there were at least
// two, with the earliest and the latest hour.
func UsualHours(at []time.Time, zone *time.Location) []Usual {
	var by [7]*Usual
	for _, t := range at {
		l := t.In(zone).Add(-eveningEnds * time.Hour)
		u := by[l.Weekday()]
		if u == nil {
			u = &Usual{Day: l.Weekday(), From: l.Hour(), To: l.Hour() + 1}
			by[l.Weekday()] = u
		}
		u.Times++
		u.From, u.To = min(u.From, l.Hour()), max(u.To, l.Hour()+1)
	}
	var out []Usual
	for i := range 7 {
		if u := by[(i+1)%7]; u != nil && u.Times >= 2 { // a week begins on Monday (ISO 8601)
			u.From, u.To = (u.From+eveningEnds)%24, (u.To+eveningEnds)%24
			out = append(out, *u)
		}
	}
	return out
}

// Join finds for streams that somebody else numbered the numbers they have here.
// A stream that opened within a minute is the same, the nearest where there are several. On a channel without
// streams they keep their numbers; those before its first one are numbered
// backwards from there. Streams in between that the channel does not know have no
// number and are missing from the answer.
func Join(have, in []Past) (number map[int]int, fresh []Past) {
	number = map[int]int{}
	in = slices.Clone(in)
	slices.SortFunc(in, func(a, b Past) int { return a.Opened.Compare(b.Opened) })
	if len(have) == 0 {
		for _, p := range in {
			number[p.Number] = p.Number
		}
		return number, in
	}
	first := slices.MinFunc(have, func(a, b Past) int { return a.Opened.Compare(b.Opened) })
	next := first.Number - 1
	for i := len(in) - 1; i >= 0; i-- {
		p := in[i]
		same, nearest := -1, time.Minute
		for k, h := range have {
			if d := h.Opened.Sub(p.Opened).Abs(); d < nearest {
				same, nearest = k, d
			}
		}
		switch {
		case same >= 0:
			number[p.Number] = have[same].Number
		case p.Closed.Before(first.Opened):
			number[p.Number] = next
			p.Number = next
			fresh = append(fresh, p)
			next--
		}
	}
	slices.Reverse(fresh)
	return number, fresh
}

// quietFor is how long nobody says anything in an old log before the next line
// belongs to another stream.
const quietFor = 4 * time.Hour

// Periods gathers the streams of a channel from when things were said: a longer
// silence parts them. Moments come in order.
type Periods struct{ List []Past }

// At puts a moment into its period and returns its number, from 1.
func (p *Periods) At(t time.Time) int {
	if n := len(p.List); n > 0 && t.Sub(p.List[n-1].Closed) < quietFor {
		if t.After(p.List[n-1].Closed) {
			p.List[n-1].Closed = t
		}
		return n
	}
	p.List = append(p.List, Past{Number: len(p.List) + 1, Opened: t, Closed: t})
	return len(p.List)
}

// Strip draws attendance: one sign for each of the last streams, oldest first, and
// for tonight's when its number is given: "0" absent, "1" came, "t" here tonight.
func Strip(m Mask, past []Past, tonight int) string {
	var out []byte
	for _, p := range past {
		if m.Has(p.Number) {
			out = append(out, '1')
		} else {
			out = append(out, '0')
		}
	}
	if tonight > 0 {
		if m.Has(tonight) {
			out = append(out, 't')
		} else {
			out = append(out, '0')
		}
	}
	return string(out[max(0, len(out)-StripLength):])
}
