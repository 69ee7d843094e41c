// Package pace keeps what is coming up: lines that are decided and wait for their
// moment. A line waits for its delay, for the gap to the house's last line, for
// the network's limit, for an answer it asked for, or for hush to be lifted; it
// is given up when it has waited too long; and when enough general greetings, or
// enough of one burst, wait for one platform they become one line. A card, a lamp
// and whatever else is no line of chat waits for its delay and for hush alone.
//
// [Queue.Release] looks at the lines at one moment and says what leaves; it
// changes nothing. Time comes in as an argument.
package pace

import (
	"encoding/json"
	"slices"
	"strings"
	"time"

	"vividporch/core/plain"
	"vividporch/core/wording"
)

// Priority orders lines that could leave at the same moment; higher goes first.
type Priority int

// The priorities, from what can wait to what a member asked for.
const (
	Timer           Priority = 0 // what comes now and then can wait longest
	GeneralGreeting Priority = iota
	Announcement
	OwnGreeting
	ShoutOut
	Thanks
	Answer
	ByHand
)

// Line is one line waiting to be said on one platform, or one effect waiting to be
// done by a platform, a fitting, a place or the overlay. Several share an ID when one
// decision speaks on several platforms. In JSON it is one flat object.
type Line struct {
	ID       string    `json:"id"`
	Platform string    `json:"platform"` // or the fitting, the place, the overlay
	Courtesy string    `json:"courtesy,omitempty"`
	Output   string    `json:"output,omitempty"`
	Event    int64     `json:"event"`             // number of the cause
	EventID  string    `json:"eventId,omitempty"` // its id
	Person   string    `json:"person,omitempty"`  // account key
	Name     string    `json:"name,omitempty"`    // as it is said
	Text     string    `json:"text"`
	Alt      uint64    `json:"alt,omitempty"`    // wording.Mark of the alternative
	Source   string    `json:"source,omitempty"` // the alternative, to fill in again after an answer
	Made     time.Time `json:"made"`
	Due      time.Time `json:"due"`              // not before
	Expires  time.Time `json:"expires,omitzero"` // given up from then on
	Priority Priority  `json:"priority"`
	Hurried  bool      `json:"hurried,omitempty"` // a member said: now
	Hushed   bool      `json:"hushed,omitempty"`  // was held when it was made
	As       string    `json:"as,omitempty"`      // whose voice it is in: "" the house's, "streamer"
	Try      bool      `json:"try,omitempty"`     // a member tries it: it uses nothing up
	Because  []string  `json:"because"`

	Asking
	Together
	Towards
	Staged
}

// Asking is what a line waits for that a platform was asked about.
type Asking struct {
	Ask     string       `json:"ask,omitempty"`    // waits for the answer to this ask
	AskEnds time.Time    `json:"askEnds,omitzero"` // but no longer than until then
	Args    wording.Args `json:"args,omitempty"`   // filled in again then
}

// Together is with which others a line may leave as one.
type Together struct {
	Join     bool    `json:"join,omitempty"`    // with other general greetings
	Burst    string  `json:"burst,omitempty"`   // with others of the same name instead
	BurstAt  int     `json:"burstAt,omitempty"` // when so many wait
	Number   float64 `json:"number,omitempty"`  // what it adds to a burst's total
	Currency string  `json:"currency,omitempty"`
}

// Towards is what a line is to its person.
type Towards struct {
	Shouts bool     `json:"shouts,omitempty"` // it shouts them out
	Whose  string   `json:"whose,omitempty"`  // stands for them over all their accounts
	Asker  string   `json:"asker,omitempty"`  // account of who asked for it, where somebody else is meant
	Days   []string `json:"days,omitempty"`   // of theirs that it keeps, by what they are remembered under
	Waits  bool     `json:"waits,omitempty"`  // rather than be given up when they were spoken to just now
	Stirs  bool     `json:"stirs,omitempty"`  // it came of what another assistant said
	Cause  int64    `json:"cause,omitempty"`  // of what a raised event brought: the number of what came first of all
}

// Staged is what is no line of chat: it waits for its delay, for hush and for what a platform
// allows of its actions.
type Staged struct {
	Effect string          `json:"effect,omitempty"` // what leaves: "card", "lamp"…; empty for a line of chat
	Act    string          `json:"act,omitempty"`    // of a platform: what it is asked to do
	Body   json.RawMessage `json:"body,omitempty"`   // and what is told to whoever does it
	Record bool            `json:"record,omitempty"` // no viewer sees it: hush does not hold it
	Asks   bool            `json:"asks,omitempty"`   // it leaves when a member allows it, by hurrying it, and not before
}

// group names the lines that could leave as one with this one, and how many it
// takes; "" when it leaves alone.
func (l *Line) group(r Rules) (name string, at int) {
	switch {
	case l.Hurried:
		return "", 0
	case l.Burst != "":
		return l.Burst, l.BurstAt
	case l.Join && r.JoinAt > 0:
		return "greetings", r.JoinAt
	}
	return "", 0
}

// Held reports whether a line is held: until a member allows it, or by hush.
func (l *Line) Held(hush bool) bool { return l.Unallowed() || l.Hushes(hush) }

// Unallowed reports whether a line waits for a member to allow it.
func (l *Line) Unallowed() bool { return l.Asks && !l.Hurried }

// Hushes reports whether hush holds a line.
func (l *Line) Hushes(hush bool) bool {
	return hush && l.Priority != ByHand && !l.Hurried && !l.Record
}

// Gate is what has left for one platform, as far as it bounds what may leave.
type Gate struct {
	Last       time.Time   `json:"last,omitzero"`       // the house's last line there
	LastJoined time.Time   `json:"lastJoined,omitzero"` // its last line for several people
	Sent       []time.Time `json:"sent,omitempty"`      // within the network's window, oldest first

	spoken *lately // the queue's
}

// Limit is what a network allows: Lines in any Window, each of at most Bytes of text. Zero
// Lines is no limit; so are zero Bytes.
type Limit struct {
	Lines  int
	Window time.Duration
	Bytes  int
}

// Pieces is how many lines the network makes of a text: what is longer than it takes is cut
// in several, and each counts.
func (l Limit) Pieces(text string) int {
	if l.Bytes <= 0 || len(text) <= l.Bytes {
		return 1
	}
	return len(plain.Split(text, l.Bytes, plain.CommandSigns))
}

// Rules are the settings that bound the house's speech.
type Rules struct {
	Gap       time.Duration    // least time between two lines of the house on a platform
	JoinAt    int              // so many waiting general greetings become one; 0 never
	JoinEvery time.Duration    // least time from a joined greeting to the next general one
	Limits    map[string]Limit // by platform
	Person    time.Duration    // least time between two greetings or thanks to one person, over all platforms
	ShoutOuts time.Duration    // least time between two shout-outs, over all platforms

	Acts map[string]ActLimit // what platforms allow of their actions, as [Acting] names them
}

// Queue is what is coming up and what has gone. It is part of the house's state.
type Queue struct {
	Lines []Line           `json:"lines,omitempty"`
	Gates map[string]*Gate `json:"gates,omitempty"`

	Spoken map[string]Spoken `json:"spoken,omitempty"` // by Whose: who was greeted or thanked lately
}

// Out is what leaves the queue at one moment: a line to be said, several to be
// joined into one, or a line given up.
type Out struct {
	Platform string
	Lines    []Line // one, or JoinAt and more
	Drop     string // why it is given up; empty when it is said
	Joined   bool
}

// far is later than any moment of an evening.
var far = time.Date(9999, 1, 1, 0, 0, 0, 0, time.UTC)

// Release says what leaves at now, in order, given lines that are about to be
// added. It changes neither.
func (q *Queue) Release(added []Line, now time.Time, hush bool, r Rules) []Out {
	var out []Out
	lines := all(q.Lines, added)
	spoken := &lately{before: q.Spoken}
	for _, p := range platforms(lines) {
		g := q.gate(p)
		g.spoken = spoken
		waiting := make([]*Line, 0, len(lines))
		for _, l := range lines {
			switch {
			case l.Platform != p:
			case !l.Expires.IsZero() && !now.Before(l.Expires):
				why := "waited " + seconds(l.Expires.Sub(l.Made)) + " and was given up"
				if l.Unallowed() {
					why = "nobody allowed it within " + seconds(l.Expires.Sub(l.Made))
				}
				out = append(out, Out{Platform: p, Lines: []Line{*l}, Drop: why})
			default:
				waiting = append(waiting, l)
			}
		}
		for {
			i, at := next(waiting, g, hush, r)
			if i < 0 || now.Before(at) {
				break
			}
			o := Out{Platform: p}
			take, joined := together(waiting, i, hush, r)
			if k, why := tooSoon(waiting, take, spoken, now, r); k >= 0 {
				out = append(out, Out{Platform: p, Lines: []Line{*waiting[k]}, Drop: why})
				waiting = slices.Delete(waiting, k, k+1)
				continue
			}
			o.Joined = joined
			for _, k := range take {
				o.Lines = append(o.Lines, *waiting[k])
			}
			for k := len(take) - 1; k >= 0; k-- {
				waiting = slices.Delete(waiting, take[k], take[k]+1)
			}
			out = append(out, o)
			if o.Lines[0].Effect == "" {
				g.note(now, joined && o.Lines[0].Join, r.Limits[p].Pieces(o.Lines[0].Text))
			}
			spoken.heard(o.Lines, now)
		}
	}
	return out
}

// Wake is when the queue next wants to be looked at; false when nothing waits.
func (q *Queue) Wake(hush bool, r Rules) (time.Time, bool) {
	wake := far
	lines := all(q.Lines, nil)
	for _, p := range platforms(lines) {
		g := q.gate(p)
		var waiting []*Line
		for _, l := range lines {
			if l.Platform == p {
				waiting = append(waiting, l)
				if !l.Expires.IsZero() && l.Expires.Before(wake) {
					wake = l.Expires
				}
			}
		}
		if i, at := next(waiting, g, hush, r); i >= 0 && at.Before(wake) {
			wake = at
		}
	}
	return wake, wake.Before(far)
}

// LeavesAt estimates when each waiting line leaves if nothing else comes, for
// the countdown on the Porch; far away for lines that are held.
func (q *Queue) LeavesAt(hush bool, r Rules) map[string]time.Time {
	out := map[string]time.Time{}
	lines := all(q.Lines, nil)
	shouts := &lately{before: q.Spoken}
	for _, p := range platforms(lines) {
		g := q.gate(p)
		g.spoken = shouts
		var waiting []*Line
		for _, l := range lines {
			if l.Platform == p {
				waiting = append(waiting, l)
			}
		}
		for len(waiting) > 0 {
			i, at := next(waiting, g, hush, r)
			if i < 0 {
				break
			}
			take, joined := together(waiting, i, hush, r)
			chat, greeting, pieces := waiting[i].Effect == "", waiting[i].Join, r.Limits[p].Pieces(waiting[i].Text)
			for k := len(take) - 1; k >= 0; k-- {
				out[waiting[take[k]].Key()] = at
				shouts.left(waiting[take[k]], at)
				waiting = slices.Delete(waiting, take[k], take[k]+1)
			}
			if chat {
				g.note(at, joined && greeting, pieces)
			}
		}
	}
	return out
}

// Key names a line on its platform.
func (l *Line) Key() string { return l.ID + "@" + l.Platform }

// Greets reports whether a line is a greeting that the house made by itself.
func (l *Line) Greets() bool { return l.Priority == GeneralGreeting || l.Priority == OwnGreeting }

// next picks the line that leaves first and the moment it may; -1 when every
// line is held.
func next(lines []*Line, g *Gate, hush bool, r Rules) (int, time.Time) {
	best, at := -1, far
	for i := range lines {
		l := lines[i]
		if l.Held(hush) {
			continue
		}
		t := g.earliest(l, r)
		if best < 0 || t.Before(at) || t.Equal(at) && before(l, lines[best]) {
			best, at = i, t
		}
	}
	return keepsRoom(lines, best, at, g, hush, r)
}

// keepsRoom gives the turn of line i to a nearer one that lacks nothing by then but room in the network's
// window for all its pieces. Without that shorter ones would take the room again and again as it comes free.
func keepsRoom(lines []*Line, i int, at time.Time, g *Gate, hush bool, r Rules) (int, time.Time) {
	if i < 0 || lines[i].Effect != "" || r.Limits[lines[i].Platform].Lines <= 0 {
		return i, at
	}
	for k := 0; k < len(lines); k++ {
		l := lines[k]
		if l.Effect != "" || l.Held(hush) || !before(l, lines[i]) || g.ready(l, r).After(at) {
			continue
		}
		if t := g.earliest(l, r); l.Expires.IsZero() || t.Before(l.Expires) {
			i, at, k = k, t, -1 // by then others may be ready, too; each turn goes to a nearer one, so it ends
		}
	}
	return i, at
}

// earliest is when a line may leave as far as it and the gate are concerned.
func (g *Gate) earliest(l *Line, r Rules) time.Time {
	t := g.ready(l, r)
	if lim := r.Limits[l.Platform]; lim.Lines > 0 && l.Effect == "" { // all its pieces fit into the window
		if at := len(g.Sent) - lim.Lines + min(lim.Pieces(l.Text), lim.Lines) - 1; at >= 0 {
			t = later(t, g.Sent[at].Add(lim.Window))
		}
	}
	return t
}

// ready is when it may leave but for the network's limit. A hurried line skips its delay and the gap, never
// that limit.
func (g *Gate) ready(l *Line, r Rules) time.Time {
	t := l.Due
	if l.Ask != "" && l.AskEnds.After(t) {
		t = l.AskEnds
	}
	if l.Hurried {
		t = l.Made
	}
	if l.Effect != "" {
		return g.spoken.actAt(l, t, r)
	}
	if !l.Hurried {
		if !g.Last.IsZero() {
			t = later(t, g.Last.Add(r.Gap))
		}
		if l.Join && !g.LastJoined.IsZero() {
			t = later(t, g.LastJoined.Add(r.JoinEvery))
		}
	}
	if l.Waits {
		if at, soon := l.soon(g.spoken, t, r); soon {
			t = at.Add(r.Person)
		}
	}
	if at, shouted := g.spoken.shoutBefore(l); shouted && !l.Hurried {
		t = later(t, at.Add(r.ShoutOuts))
	}
	return t
}

func later(a, b time.Time) time.Time {
	if b.After(a) {
		return b
	}
	return a
}

func before(a, b *Line) bool {
	switch {
	case a.Hurried != b.Hurried:
		return a.Hurried
	case a.Priority != b.Priority:
		return a.Priority > b.Priority
	case !a.Due.Equal(b.Due):
		return a.Due.Before(b.Due)
	}
	return a.Event < b.Event
}

// together lists the lines that leave with line i: itself, or all of its group when
// there are enough of them.
func together(lines []*Line, i int, hush bool, r Rules) (take []int, joined bool) {
	name, at := lines[i].group(r)
	if name != "" && !lines[i].Held(hush) {
		for k := range lines {
			if g, _ := lines[k].group(r); g == name && !lines[k].Held(hush) && lines[k].Effect == lines[i].Effect {
				take = append(take, k)
			}
		}
		if len(take) >= at {
			return take, true
		}
	}
	return []int{i}, false
}

// Window is when a line that joins a burst leaves: with the first of the burst that
// waits on its platform, else once the window has passed.
func (q *Queue) Window(added []Line, burst, platform string, due time.Time) time.Time {
	for _, l := range all(q.Lines, added) {
		if l.Burst == burst && l.Platform == platform && l.Due.Before(due) {
			due = l.Due
		}
	}
	return due
}

// all lists lines without copying them.
func all(lists ...[]Line) []*Line {
	var out []*Line
	for _, list := range lists {
		for i := range list {
			out = append(out, &list[i])
		}
	}
	return out
}

func platforms(lines []*Line) []string {
	var out []string
	for i := range lines {
		if !slices.Contains(out, lines[i].Platform) {
			out = append(out, lines[i].Platform)
		}
	}
	slices.Sort(out)
	return out
}

// MayLeave reports whether the gate of a line's platform would let it out now, were
// it the only one.
func (q *Queue) MayLeave(l *Line, now time.Time, r Rules) bool {
	g := q.gate(l.Platform)
	return !g.earliest(l, r).After(now)
}

// gate returns a copy to try things on.
func (q *Queue) gate(platform string) *Gate {
	if g := q.Gates[platform]; g != nil {
		return &Gate{Last: g.Last, LastJoined: g.LastJoined, Sent: slices.Clone(g.Sent), spoken: &lately{before: q.Spoken}}
	}
	return &Gate{spoken: &lately{before: q.Spoken}}
}

// MostLines is the largest network limit that can be kept, in lines a window.
const MostLines = 100

func (g *Gate) note(at time.Time, joined bool, pieces int) {
	g.Last = at
	if joined {
		g.LastJoined = at
	}
	for range max(1, pieces) {
		g.Sent = append(g.Sent, at)
	}
	if n := len(g.Sent) - MostLines; n > 0 {
		g.Sent = slices.Delete(g.Sent, 0, n)
	}
}

// Left notes that a line left for a platform at a moment, in so many pieces.
func (q *Queue) Left(platform string, at time.Time, joined bool, pieces int) {
	if q.Gates == nil {
		q.Gates = map[string]*Gate{}
	}
	g := q.Gates[platform]
	if g == nil {
		g = &Gate{}
		q.Gates[platform] = g
	}
	g.note(at, joined, pieces)
}

// Remove takes a line of one platform, or of all when platform is empty, out of
// the queue.
func (q *Queue) Remove(id, platform string) {
	q.Lines = slices.DeleteFunc(q.Lines, func(l Line) bool { return l.ID == id && (platform == "" || l.Platform == platform) })
}

// Find returns the lines of one decision.
func (q *Queue) Find(id string) []*Line {
	var out []*Line
	for i := range q.Lines {
		if q.Lines[i].ID == id {
			out = append(out, &q.Lines[i])
		}
	}
	return out
}

// Names writes up to most names, nobody's twice, and says how many are left over.
func Names(lines []Line, most int) (names string, more int) {
	var out []string
	seen := map[string]bool{}
	for _, l := range lines {
		if l.Person != "" && seen[l.Person] {
			continue
		}
		seen[l.Person] = true
		if len(out) == most {
			more++
			continue
		}
		out = append(out, l.Name)
	}
	if more > 0 {
		return strings.Join(out, ", "), more
	}
	return plain.List(out, "and"), 0
}

// Joins lists, by Key, the lines that would leave as one with others, were they to
// leave now.
func (q *Queue) Joins(hush bool, r Rules) map[string]bool {
	out := map[string]bool{}
	for _, p := range platforms(all(q.Lines)) {
		var waiting []*Line
		for i := range q.Lines {
			if q.Lines[i].Platform == p {
				waiting = append(waiting, &q.Lines[i])
			}
		}
		for i, l := range waiting {
			if _, joined := together(waiting, i, hush, r); joined {
				out[l.Key()] = true
			}
		}
	}
	return out
}

func seconds(d time.Duration) string { return d.Round(time.Second).String() }
