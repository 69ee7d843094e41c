// Package lookback reads an evening, event after event with what was decided about each, and
// tells what became of it: who came and who was met in silence and why, what was said and what
// was not, how long lines waited, what was asked and had no answer. It reads a rehearsal as it
// reads a log, so that a figure is the same figure in both.
package lookback

import (
	"cmp"
	"maps"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"vividporch/core/command"
	"vividporch/core/event"
	"vividporch/core/guard"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/overlay"
	"vividporch/core/pace"
	"vividporch/core/people"
)

// Reader reads an evening. The zero value has read nothing.
type Reader struct {
	evening Evening

	here    map[string]int     // who has arrived, by account: where they stand among the arrivals
	waits   map[string]waiting // lines that are coming up, by line and where they go
	met     map[string]bool    // by account: greeted, thanked or shouted out
	silence map[string]string  // by account: why nothing was said to them, as it was told last
	dropped map[string]int
	asked   map[string]int
	hushed  time.Time

	signs      string
	unanswered map[string]int
	peace      map[string]int
	kept       map[string]bool // accounts whose day was kept
	days       []Day
	down       map[string]Down
	viewers    map[string]int64
}

// New makes a reader of a channel whose commands are asked for with one of these signs.
func New(signs string) *Reader { return &Reader{signs: signs} }

// waiting is a line that is coming up.
type waiting struct {
	due    time.Time
	person string
	greets bool
	day    bool // it keeps a day of theirs
}

// Evening is what became of an evening, as far as events and decisions tell.
type Evening struct {
	People int `json:"people"` // lines by people, other assistants' left out
	House  int `json:"house"`  // lines by the house

	Minutes []Minute  `json:"minutes"` // since the opening; what came before it is none of theirs
	Opened  time.Time `json:"opened,omitzero"`
	Closed  time.Time `json:"closed,omitzero"`

	Arrivals []Arrival      `json:"arrivals"`
	Raids    []Raid         `json:"raids"`
	Said     []Said         `json:"said"` // when the house spoke
	Dropped  map[string]int `json:"dropped"`
	Asked    map[string]int `json:"asked"` // by courtesy: how often it was asked for and answered
	Hushes   []Span         `json:"hushes"`
	Shown    int            `json:"shown"`   // cards and films that came on screen
	Longest  time.Duration  `json:"longest"` // that a line waited beyond its own delay
	Queue    int            `json:"queue"`   // the most that was coming up at once

	Unanswered map[string]int `json:"unanswered"` // asked for with a command's sign, and there is no such command
	Days       []Day          `json:"days"`       // of those who came
	Regulars   []int64        `json:"regulars"`   // people who became regular with it, by their numbers
	Lost       []int64        `json:"lost"`       // and who are not any more
	Peace      map[string]int `json:"peace"`      // lines taken out, time-outs, bans, lines that the guard touched
	Down       []Down         `json:"down"`       // doors that were not open
	Watched    int64          `json:"watched"`    // the most who watched at once
	Title      string         `json:"title"`
	Category   string         `json:"category"`
	Platforms  []string       `json:"platforms"`
}

// Day is a day of somebody's that fell on the evening, in words.
type Day struct {
	Account string `json:"account"`
	Day     string `json:"day"`
	Kept    bool   `json:"kept"`
}

// Down is a door that was not open.
type Down struct {
	Door string `json:"door"`
	Why  string `json:"why,omitempty"`
	Span
}

// Minute is what was said in one.
type Minute struct {
	People int `json:"people"`
	House  int `json:"house"`
}

// Span is a stretch of time; an end that is zero has not come.
type Span struct {
	From time.Time `json:"from"`
	To   time.Time `json:"to,omitzero"`
}

// Said is one line of the house.
type Said struct {
	At   time.Time `json:"at"`
	Line string    `json:"line"`
	To   string    `json:"to"`
}

// Arrival is somebody's arrival. Met tells that something was said to them of the house's own
// accord: a greeting, thanks or a shout-out. Why tells why not.
type Arrival struct {
	At       time.Time       `json:"at"`
	Account  string          `json:"account"`
	Name     string          `json:"name"`
	Standing people.Standing `json:"standing"`
	Fellow   bool            `json:"fellow,omitempty"`
	Streamer bool            `json:"streamer,omitempty"` // of this channel
	With     int64           `json:"with,omitempty"`     // number of the raid they came with
	Met      bool            `json:"met"`
	Why      string          `json:"why,omitempty"`
}

// Raid is a raid, either way.
type Raid struct {
	At      time.Time `json:"at"`
	Event   int64     `json:"event"`
	Account string    `json:"account"`
	Name    string    `json:"name"`
	Viewers int64     `json:"viewers"`
	Went    bool      `json:"went,omitempty"`
	Thanked bool      `json:"thanked,omitempty"`
}

// mostMinutes is the longest evening that is told minute by minute: a day and a night.
const mostMinutes = 24 * 60

// Share is the house's part of all lines, 0 to 1.
func (e *Evening) Share() float64 {
	if all := e.People + e.House; all > 0 {
		return float64(e.House) / float64(all)
	}
	return 0
}

// Greeted is how many of those who arrived were met.
func (e *Evening) Greeted() (n int) {
	for i := range e.Arrivals {
		if e.Arrivals[i].Met {
			n++
		}
	}
	return n
}

// Take reads one event and what was decided about it.
func (r *Reader) Take(ev *event.Event, ds []hall.Decision) {
	e := &r.evening
	switch data := ev.Data.(type) {
	case *happening.ChatSaid:
		if !slices.ContainsFunc(ds, func(d hall.Decision) bool { return d.Kind == hall.Neighbour }) {
			e.People++
			if m := e.minute(ev.Time); m != nil {
				m.People++
			}
			r.unheard(ev, data.Text, ds)
		}
	case *happening.RaidCame:
		e.Raids = append(e.Raids, Raid{At: ev.Time, Event: ev.Seq, Account: data.Person.Key(), Name: data.Person.Shown(), Viewers: data.Viewers})
	case *happening.RaidWent:
		e.Raids = append(e.Raids, Raid{At: ev.Time, Event: ev.Seq, Account: data.Person.Key(), Name: data.Person.Shown(), Viewers: data.Viewers, Went: true})
	case *event.Hushed:
		r.hush(data.On, ev.Logged)
	case *happening.StreamViewers:
		r.watched(data)
	case *event.BookSettled:
		for _, x := range data.Regulars {
			e.Regulars = append(e.Regulars, x.Person)
		}
		for _, x := range data.Lost {
			e.Lost = append(e.Lost, x.Person)
		}
	case *event.DoorChanged:
		r.door(data, ev.Logged)
	case *happening.ChatRemoved:
		r.peaceful("lines taken out")
	case *happening.PersonTimedOut:
		r.peaceful("time-outs")
	case *happening.PersonBanned:
		r.peaceful("bans")
	}
	for i := range ds {
		r.decided(ev, &ds[i])
	}
	if told, ok := happening.OfTheStream(ev.Data); ok { // which this may only just have opened, or have gone on with
		r.info(told, ev.Time)
	}
	e.Queue = max(e.Queue, len(r.waits))
}

// info notes what the stream is about, as it was told last while it was on, and where it was seen,
// which may be told late. What happened after its end is of no stream.
func (r *Reader) info(i happening.StreamInfo, at time.Time) {
	e := &r.evening
	switch over := !e.Closed.IsZero(); {
	case over && !at.Before(e.Closed):
		return
	case !over:
		e.Title, e.Category = cmp.Or(i.Title, e.Title), cmp.Or(i.Category, e.Category)
	}
	if i.Platform != "" && !slices.Contains(e.Platforms, i.Platform) {
		e.Platforms = append(e.Platforms, i.Platform)
	}
}

func (r *Reader) watched(v *happening.StreamViewers) {
	if r.viewers == nil {
		r.viewers = map[string]int64{}
	}
	r.viewers[v.Platform] = v.Viewers
	now := int64(0)
	for _, n := range r.viewers {
		now += n
	}
	r.evening.Watched = max(r.evening.Watched, now)
}

// door notes when a door was not open.
func (r *Reader) door(d *event.DoorChanged, at time.Time) {
	if r.down == nil {
		r.down = map[string]Down{}
	}
	was, down := r.down[d.Name]
	switch open := d.State == openDoor; {
	case open && down:
		was.To = at
		r.evening.Down = append(r.evening.Down, was)
		delete(r.down, d.Name)
	case !open && !down:
		r.down[d.Name] = Down{d.Name, d.Reason, Span{From: at}}
	}
}

// openDoor is the state of a door through which things come in.
const openDoor = "open"

func (r *Reader) peaceful(what string) {
	if r.peace == nil {
		r.peace = map[string]int{}
	}
	r.peace[what]++
}

// mostUnanswered bounds how many different words are told of, and their length in letters.
const (
	mostUnanswered = 200
	mostWord       = 40
)

// unasking are the rooms that a line meets whatever it asks for: whoever arrives with it is greeted, and timers count it.
var unasking = []string{"arrive", "hello", "timer"}

// unheard notes a line that asks for something with a command's sign and meets nothing at all.
func (r *Reader) unheard(ev *event.Event, text string, ds []hall.Decision) {
	word, _, _ := strings.Cut(strings.TrimSpace(text), " ")
	if len(word) < 2 || !strings.Contains(r.signs, word[:1]) || utf8.RuneCountInString(word) > mostWord || strings.Trim(word, r.signs) == "" {
		return
	}
	for i := range ds {
		d := &ds[i]
		greets := d.Plan != nil && meets(d.Plan)
		others := d.Event != 0 && d.Event != ev.Seq // left with this line, and was of another
		if d.Room != "" && d.Kind != hall.Note && !greets && !others && !slices.Contains(unasking, d.Room) {
			return
		}
	}
	word = strings.ToLower(word)
	if r.unanswered == nil {
		r.unanswered = map[string]int{}
	}
	if r.unanswered[word] > 0 || len(r.unanswered) < mostUnanswered {
		r.unanswered[word]++
	}
}

// hush notes when it was on.
func (r *Reader) hush(on bool, at time.Time) {
	switch {
	case on && r.hushed.IsZero():
		r.hushed = at
	case !on && !r.hushed.IsZero():
		r.evening.Hushes = append(r.evening.Hushes, Span{r.hushed, at})
		r.hushed = time.Time{}
	}
}

func (e *Evening) minute(at time.Time) *Minute {
	if e.Opened.IsZero() {
		return nil
	}
	m := int(at.Sub(e.Opened) / time.Minute)
	if m < 0 || m >= mostMinutes {
		return nil
	}
	for len(e.Minutes) <= m {
		e.Minutes = append(e.Minutes, Minute{})
	}
	return &e.Minutes[m]
}

func (r *Reader) decided(ev *event.Event, d *hall.Decision) {
	e := &r.evening
	if d.Try { // nobody's evening
		return
	}
	switch d.Kind {
	case hall.Open:
		if e.Opened.IsZero() {
			e.Opened = d.At
		}
		e.Closed = time.Time{}
	case hall.Continue:
		e.Closed = time.Time{}
	case hall.Close:
		e.Closed = d.At
	case hall.Arrive:
		r.arrived(ev, d)
	case hall.Planned:
		if l := d.Plan; l != nil {
			r.wait(d, l)
		}
	case hall.Drop, hall.Refuse:
		r.gaveUp(d)
	case hall.Say:
		e.House++
		if m := e.minute(ev.Logged); m != nil {
			m.House++
		}
		e.Said = append(e.Said, Said{ev.Logged, d.Line, d.Platform})
		r.left(ev, d)
	case overlay.Show:
		e.Shown++
	case guard.Touched:
		r.peaceful("lines the guard touched")
	case command.Asked:
		if r.asked == nil {
			r.asked = map[string]int{}
		}
		r.asked[d.Courtesy]++
	default:
		if d.Way().Staged() || d.Kind == hall.Relay {
			r.left(ev, d)
		}
	}
}

func (r *Reader) arrived(ev *event.Event, d *hall.Decision) {
	if r.here == nil {
		r.here = map[string]int{}
	}
	if _, again := r.here[d.Person]; again || d.Again {
		return
	}
	r.here[d.Person] = len(r.evening.Arrivals)
	if d.Day != "" {
		r.days = append(r.days, Day{Account: d.Person, Day: d.Day})
	}
	who := ev.Who()
	r.evening.Arrivals = append(r.evening.Arrivals, Arrival{At: ev.Time, Account: d.Person, Name: d.Name, Standing: d.Standing, Fellow: d.Known.Streams(), With: d.With,
		Streamer: who != nil && (who.Is(event.Streamer) || d.Known.MemberBy(*who) == event.Streamer)})
}

// wait notes that a line is coming up.
func (r *Reader) wait(d *hall.Decision, l *pace.Line) {
	if r.waits == nil {
		r.waits = map[string]waiting{}
	}
	r.waits[key(d.Line, d.Platform+d.Place)] = waiting{l.Due, d.Person, meets(l), len(l.Days) > 0}
}

// meets reports whether a line is said to somebody of the house's own accord.
func meets(l *pace.Line) bool {
	return l.Greets() || l.Shouts || l.Priority == pace.Thanks
}

func key(line, to string) string { return line + "@" + to }

// left notes that a line left, by itself or joined with others.
func (r *Reader) left(ev *event.Event, d *hall.Decision) {
	to := d.Platform + d.Place
	if d.Plan != nil && meets(d.Plan) {
		r.meet(d.Person)
	}
	if d.Plan != nil && len(d.Plan.Days) > 0 {
		r.keep(d.Person)
	}
	lines := []string{d.Line}
	for _, j := range d.Joined {
		lines = append(lines, j.Line)
		r.meet(j.Person)
	}
	for _, line := range lines {
		k := key(line, to)
		w, ok := r.waits[k]
		if !ok {
			continue
		}
		delete(r.waits, k)
		if d.Kind == hall.Say {
			r.evening.Longest = max(r.evening.Longest, ev.Logged.Sub(w.due))
		}
		if w.greets {
			r.meet(w.person)
		}
		if w.day {
			r.keep(w.person)
		}
	}
}

// keep notes that somebody's day was kept.
func (r *Reader) keep(account string) {
	if r.kept == nil {
		r.kept = map[string]bool{}
	}
	r.kept[account] = true
}

func (r *Reader) meet(account string) {
	if account == "" {
		return
	}
	if r.met == nil {
		r.met = map[string]bool{}
	}
	r.met[account] = true
}

// gaveUp notes what was not done, and why.
func (r *Reader) gaveUp(d *hall.Decision) {
	k := key(d.Line, d.Platform+d.Place)
	w, waited := r.waits[k]
	delete(r.waits, k)
	why := "no reason was kept"
	if len(d.Because) > 0 {
		why = d.Because[len(d.Because)-1]
	}
	if r.dropped == nil {
		r.dropped = map[string]int{}
	}
	if !d.Passed && d.Kind == hall.Drop {
		r.dropped[why]++
	}
	account := cmp.Or(d.Person, w.person)
	if account != "" && (!waited || w.greets) {
		if r.silence == nil {
			r.silence = map[string]string{}
		}
		r.silence[account] = why
	}
}

// Evening is what was read so far.
func (r *Reader) Evening() *Evening {
	e := r.evening
	e.Arrivals = slices.Clone(e.Arrivals)
	waits := map[string]string{}
	for _, w := range r.waits {
		if w.greets {
			waits[w.person] = unsaid
		}
	}
	for i := range e.Arrivals {
		a := &e.Arrivals[i]
		if a.Met = r.met[a.Account]; !a.Met {
			a.Why = cmp.Or(r.silence[a.Account], waits[a.Account], unasked)
		}
	}
	e.Raids = slices.Clone(e.Raids)
	for i := range e.Raids {
		e.Raids[i].Thanked = !e.Raids[i].Went && r.met[e.Raids[i].Account]
	}
	if !r.hushed.IsZero() {
		e.Hushes = append(slices.Clone(e.Hushes), Span{From: r.hushed})
	}
	e.Days = slices.Clone(r.days)
	for i := range e.Days {
		e.Days[i].Kept = r.kept[e.Days[i].Account]
	}
	for _, name := range slices.Sorted(maps.Keys(r.down)) { // still so at its end
		e.Down = append(slices.Clip(e.Down), r.down[name])
	}
	e.Unanswered, e.Peace = maps.Clone(r.unanswered), maps.Clone(r.peace)
	e.Dropped, e.Asked = maps.Clone(r.dropped), maps.Clone(r.asked)
	return &e
}

// Why somebody is met in silence of whom nothing was given up: no courtesy speaks to them, or what it says has not left yet.
const (
	unasked = "no courtesy greets them"
	unsaid  = "what greets them is still coming up"
)

// Silent are those who arrived and were not met. The streamer, who came to be met by others, is none of them.
func (e *Evening) Silent() (out []Arrival) {
	for _, a := range e.Arrivals {
		if !a.Met && !a.Streamer {
			out = append(out, a)
		}
	}
	return out
}

// Nameless takes the names out, which whoever looks at it finds by the accounts.
func (e *Evening) Nameless() {
	for i := range e.Arrivals {
		e.Arrivals[i].Name = ""
	}
	for i := range e.Raids {
		e.Raids[i].Name = ""
	}
}

// Without rewrites all that is text of it and could hold somebody's name.
func (e *Evening) Without(rewrite func(string) string) {
	for i := range e.Arrivals {
		e.Arrivals[i].Why = rewrite(e.Arrivals[i].Why)
	}
	for _, of := range []*map[string]int{&e.Dropped, &e.Unanswered} {
		out := map[string]int{}
		for _, text := range slices.Sorted(maps.Keys(*of)) {
			out[rewrite(text)] += (*of)[text]
		}
		*of = out
	}
}

// Standing is how many of those who arrived stood so.
func (e *Evening) Standing(s people.Standing) (n int) {
	for i := range e.Arrivals {
		if e.Arrivals[i].Standing == s {
			n++
		}
	}
	return n
}

// DaysKept is how many days of those who came were kept, or were not.
func (e *Evening) DaysKept(kept bool) (n int) {
	for i := range e.Days {
		if e.Days[i].Kept == kept {
			n++
		}
	}
	return n
}
