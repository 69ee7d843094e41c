// Package rehearsal lives an evening in virtual time: a script of events runs
// through the same house that runs live, in the time it takes to compute it.
//
// Outside causes and members' actions come from the script; wakes and outcomes
// the rehearsal makes itself. Speech succeeds at once; a platform that is asked
// answers from the people file.
package rehearsal

import (
	"bufio"
	"bytes"
	"cmp"
	"encoding/json"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"

	"vividporch/core/box"
	"vividporch/core/draw"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/house"
	"vividporch/core/housefile"
	"vividporch/core/lookback"
	"vividporch/core/output"
	"vividporch/core/overlay"
	"vividporch/core/people"
	"vividporch/core/privacy"
	"vividporch/core/room"
)

// answerAfter is how long a platform takes to answer in a rehearsal.
const answerAfter = 300 * time.Millisecond

// Effect is one line of a rehearsal's output, as the contract gives it.
type Effect struct {
	Output   string    `json:"-"` // of its courtesy
	At       time.Time `json:"at"`
	Effect   string    `json:"effect"` // say, card, sound, film, speak, relay, platform, lamp, scene, drop
	Courtesy string    `json:"courtesy,omitempty"`
	Event    string    `json:"event,omitempty"`
	Person   string    `json:"person,omitempty"`
	To       string    `json:"to,omitempty"`
	Text     string    `json:"text,omitempty"`
	Line     string    `json:"line,omitempty"`
	Joined   []Joined  `json:"joined,omitempty"`
	Because  []string  `json:"because"`
}

// Joined is one cause of a joined line.
type Joined struct {
	Event  string `json:"event"`
	Person string `json:"person"`
}

// Summary closes a rehearsal.
type Summary struct {
	Events     int            `json:"events"`
	Effects    map[string]int `json:"effects"`
	Arrivals   int            `json:"arrivals"`
	Streams    int            `json:"streams"`
	HouseShare float64        `json:"houseShare"` // the house's lines of all lines, 0 to 1
	First      time.Time      `json:"first,omitzero"`
	Last       time.Time      `json:"last,omitzero"`
}

// Run lives the script to its end and on until nothing waits, at most the grace
// time after the last event. Effects go to out in time order.
func Run(plan *room.Plan, book *Book, script []event.Event, out func(Effect) error) (Summary, error) {
	return Watched(plan, book, script, out, nil)
}

// Watch is told of every step: the state before it, what happened, whom the house was told
// that is of, what it decided and under which settings.
type Watch func(before *house.State, ev *event.Event, known *people.Known, ds []hall.Decision, plan *room.Plan)

// Watched is Run, looked at step by step.
func Watched(plan *room.Plan, book *Book, script []event.Event, out func(Effect) error, watch Watch) (Summary, error) {
	r := newRun(plan, &Evening{Book: book, Script: script}, out)
	r.watch = watch
	return r.all()
}

func newRun(plan *room.Plan, ev *Evening, out func(Effect) error) *run {
	return &run{
		plan: plan, evening: ev, guests: ev.Book.invite(), seen: map[string]bool{}, out: out, s: ev.begin(),
		sum: Summary{Effects: map[string]int{}}, reader: lookback.New(plan.Settings.AllSigns()),
	}
}

// all lives a script to its end.
func (r *run) all() (Summary, error) {
	script := r.evening.Script
	r.secrets = draw.Recorded(script)
	for i := range script {
		r.done = i
		if err := r.step(); err != nil {
			return r.sum, err
		}
		ev := script[i]
		if ev.Door == "house" && !fromOutside(ev.Type) { // what the house brought about itself it brings about again
			continue
		}
		ev.Clean()
		logged := ev.Logged
		if logged.IsZero() {
			logged = ev.Time
		}
		if err := r.until(logged); err != nil {
			return r.sum, err
		}
		if err := r.opens(logged); err != nil {
			return r.sum, err
		}
		ev.Stamp(logged)
		ev.Time, ev.Logged = ev.Time.Truncate(time.Microsecond), ev.Logged.Truncate(time.Microsecond) // as finely as the log keeps it
		if err := r.take(ev, nil); err != nil {
			return r.sum, err
		}
	}
	if n := len(script); n > 0 {
		r.sum.First = script[0].Time
		until := r.evening.Until
		if until.IsZero() {
			until = r.s.Clock.Add(r.plan.Grace())
		}
		if err := r.until(until); err != nil {
			return r.sum, err
		}
		r.sum.Last = r.s.Clock
	}
	r.sum.HouseShare = r.reader.Evening().Share()
	return r.sum, nil
}

// After is told of every step once it is done: the state as it is then, which is the run's own,
// what happened, what was decided, and under which settings.
type After func(s *house.State, ev *event.Event, ds []hall.Decision, plan *room.Plan)

// Followed is Run, followed as it goes.
func Followed(plan *room.Plan, book *Book, script []event.Event, after After) (Summary, error) {
	r := newRun(plan, &Evening{Book: book, Script: script}, func(Effect) error { return nil })
	r.after = after
	return r.all()
}

type run struct {
	after       After
	goesOn      func(done int) error // asked now and then, after so many events of the script
	steps, done int                  // taken; events of the script that are over
	reader      *lookback.Reader
	plan        *room.Plan
	evening     *Evening
	guests      *guests
	seen        map[string]bool // events, by key
	out         func(Effect) error
	watch       Watch
	s           *house.State
	sum         Summary
	asked       []answer
	secrets     map[string][]byte // of recorded draws
}

// answer is an answer on its way.
type answer struct {
	at time.Time
	ev event.Event
}

// fromOutside reports whether the house noted an event that the outside told it of its own accord.
func fromOutside(kind string) bool {
	return kind == event.CountsToldType || kind == event.TextFetchedType
}

// step asks now and then whether to go on: in a long quiet too, in which the house wakes by itself alone.
func (r *run) step() error {
	r.steps++
	if r.goesOn == nil || r.steps%stepsAMoment != 1 {
		return nil
	}
	return r.goesOn(r.done)
}

// until lives every wake and answer that comes before t.
func (r *run) until(t time.Time) error {
	for {
		if err := r.step(); err != nil {
			return err
		}
		wake, due := r.s.Wake(r.plan)
		if len(r.asked) > 0 && !r.asked[0].at.After(t) && (!due || !wake.Before(r.asked[0].at)) {
			a := r.asked[0]
			r.asked = r.asked[1:]
			a.ev.Stamp(a.at)
			if err := r.take(a.ev, nil); err != nil {
				return err
			}
			continue
		}
		if !due || wake.After(t) {
			return nil
		}
		before := r.copied()
		ev, ds, ok := house.Advance(r.s, wake, r.plan)
		if ok && r.watch != nil {
			r.watch(before, &ev, nil, ds, r.plan)
		}
		if !ok {
			return fmt.Errorf("rehearsal: the house asked to be woken at %s and then decided nothing", wake.Format(time.RFC3339Nano))
		}
		if err := r.tell(&ev, nil, ds); err != nil {
			return err
		}
	}
}

// comes has something come in later.
func (r *run) comes(after time.Duration, ev event.Event) {
	a := answer{r.s.Clock.Add(after), ev}
	at, _ := slices.BinarySearchFunc(r.asked, a, func(b, a answer) int { return cmp.Or(b.at.Compare(a.at), -1) })
	r.asked = slices.Insert(r.asked, at, a)
}

// opens opens the overlays: in a rehearsal each is shown somewhere.
func (r *run) opens(at time.Time) error {
	for i := range r.plan.Settings.Overlays {
		o := &r.plan.Settings.Overlays[i]
		if overlay.ScreenOf(r.s.Rooms, o.ID).Open {
			continue
		}
		ev := ours("open-"+o.ID, &event.OverlayOpened{Overlay: o.ID})
		ev.Stamp(at)
		if err := r.take(ev, nil); err != nil {
			return err
		}
	}
	return nil
}

// page is what the page of an overlay tells of what it shows: it begins at once, and stays as long as it is to. How
// long a film takes is not known here.
func (r *run) page(d *hall.Decision) {
	var shows overlay.Release
	if json.Unmarshal(d.Body, &shows) != nil {
		return
	}
	n := cmp.Or(shows.Seconds, box.UsualSeconds)
	r.comes(answerAfter, ours("begun-"+d.Place+"-"+d.Line, &event.ShowBegun{Overlay: d.Place, Show: d.Line, Seconds: n}))
	r.comes(answerAfter+room.Seconds(n), ours("ended-"+d.Place+"-"+d.Line, &event.ShowEnded{Overlay: d.Place, Show: d.Line}))
}

func ours(id string, d event.Data) event.Event {
	return event.Event{Door: "house", Source: "house", ID: id, Type: d.Type(), Data: d}
}

// take lives one event, as the living house does. An event that another raised comes with
// whom that one was of.
func (r *run) take(ev event.Event, known *people.Known) error {
	if r.seen[ev.Key()] || r.s.Passes(&ev, r.plan) || r.guests.isForgotten(&ev, r.plan) {
		return nil
	}
	r.seen[ev.Key()] = true
	ev.Seq = r.s.Seq + 1
	if !strings.HasPrefix(ev.Type, "porch.overlay.") { // what pages tell is none of the evening's
		r.sum.Events++
	}
	stream := r.s.StreamNow()
	if who := ev.Who(); who != nil && known == nil && r.s.Wants(&ev, r.plan) && ev.Cause == 0 {
		known = r.guests.known(*who, stream)
		if told := r.evening.Told[ev.Key()]; told != nil {
			known = told
		}
		if known == nil && !event.IsOwn(ev.Type) { // the book knows nobody by this account
			known = &people.Known{Person: r.guests.next, Accounts: []string{who.Key()}}
			r.guests.next++
		}
		if house.WantsNames(r.plan, &ev) {
			known = r.guests.named(known, *who)
		}
	}
	if data, ok := ev.Data.(*event.SettingsChanged); ok && !r.evening.Same { // in force from here on, as they are live
		if s, err := housefile.ReadStored(data.Settings); err == nil {
			r.plan = house.Loosely(s, data.Version)
		}
	}
	named := r.guests.called(house.Means(r.plan, &ev), stream)
	before := r.copied()
	ds := house.Step(r.s, &ev, known, r.plan, named...)
	if r.watch != nil {
		r.watch(before, &ev, known, ds, r.plan)
	}
	return r.tell(&ev, known, ds)
}

// copied is the state as it is, for whoever watches.
func (r *run) copied() *house.State {
	if r.watch == nil {
		return nil
	}
	raw, err := json.Marshal(r.s)
	if err != nil {
		return house.NewState()
	}
	s, _, _ := house.RestoreState(raw)
	return s
}

// tell writes the effects of one step, and what it says about people, and answers what
// was asked.
func (r *run) tell(ev *event.Event, known *people.Known, ds []hall.Decision) error {
	r.reader.Take(ev, ds)
	if r.after != nil {
		r.after(r.s, ev, ds, r.plan)
	}
	for i := range ds {
		d := &ds[i]
		switch d.Kind {
		case hall.Ask:
			r.answers(d)
		case draw.Seal, draw.Unseal:
			told := draw.Rehearsed(d, r.plan.Seed, r.secrets)
			r.comes(answerAfter, event.Event{Door: "house", Source: "rehearsal", ID: string(d.Kind) + d.Line, Type: told.Type(), Data: told})
		case overlay.Show:
			r.page(d)
		case hall.Arrive:
			r.sum.Arrivals++
		case hall.Open:
			r.sum.Streams++
		}
		e, ok := EffectOf(ev, d)
		if !ok {
			continue
		}
		r.sum.Effects[e.Effect]++
		if err := r.out(e); err != nil {
			return err
		}
	}
	r.guests.lived(ev, ds, known, r.s.StreamAt(ev.Time))
	for _, raised := range room.Raised(r.plan, ev, ds) {
		var about *people.Known
		if who := raised.Who(); who != nil {
			if cause := ev.Who(); cause != nil && cause.Key() == who.Key() && known != nil {
				about = known
			} else {
				about = r.s.KnownHere(who.Key())
			}
		}
		raised.Stamp(r.s.Clock)
		if err := r.take(raised, about); err != nil {
			return err
		}
	}
	return nil
}

// EffectOf is what a decision about an event does, or keeps from being done; false for
// one that moves only the house itself.
func EffectOf(ev *event.Event, d *hall.Decision) (Effect, bool) {
	e := Effect{Output: d.Output, At: ev.Logged, Courtesy: d.Courtesy, Event: d.EventID, Person: d.Person, To: d.Platform, Text: d.Text, Line: d.Line, Because: d.Because}
	if hall.IsWake(e.Event) { // what time alone brings has no event
		e.Event = ""
	}
	joined := func() {
		for _, j := range d.Joined {
			if hall.IsWake(j.EventID) {
				j.EventID = ""
			}
			e.Joined = append(e.Joined, Joined{j.EventID, j.Person})
		}
	}
	switch d.Kind {
	case hall.Say:
		e.Effect = "say"
		joined()
	case privacy.Show:
		if d.Text == "" { // said in the open instead
			return e, false
		}
		e.Effect, e.Text = "say", strings.ReplaceAll(d.Text, privacy.LinkMark, "…")
		e.Because = append(slices.Clone(d.Because), "by private message")
	case hall.Relay:
		e.Effect, e.To = "relay", d.Place
	case hall.Drop, hall.Refuse:
		e.Effect = "drop"
		if e.Event == "" && ev.Type != "porch.house.woke" {
			e.Event = ev.ID
		}
	default:
		if !d.Way().Staged() {
			return e, false
		}
		e.Effect = string(d.Kind)
		var told output.Told
		if json.Unmarshal(d.Body, &told) == nil && e.Text == "" {
			e.Text = told.Gist()
		}
		joined()
	}
	return e, true
}

// ReadScript reads events, one a line, and gives each its place in the file when
// it is wrong.
func ReadScript(src io.Reader) ([]event.Event, error) {
	var out []event.Event
	var clock time.Time
	err := lines(src, func(n int, raw []byte) error {
		ev, err := happening.Kinds.Parse(raw)
		if err != nil {
			return fmt.Errorf("line %d: %w", n, err)
		}
		if ev.Time.IsZero() {
			return fmt.Errorf("line %d: time: is missing; a script says when everything happens", n)
		}
		at := ev.Logged
		if at.IsZero() {
			at = ev.Time
		}
		if at.Before(clock) {
			return fmt.Errorf("line %d: time: is %s, before the line above it; put the lines in the order of time, or say with \"logged\" when the house was told of it", n, at.Sub(clock))
		}
		clock = at
		out = append(out, ev)
		return nil
	})
	return out, err
}

// lines calls f with every line that is not blank.
func lines(src io.Reader, f func(n int, raw []byte) error) error {
	sc := bufio.NewScanner(src)
	sc.Buffer(make([]byte, 64<<10), 2<<20)
	for n := 1; sc.Scan(); n++ {
		if raw := bytes.TrimSpace(sc.Bytes()); len(raw) > 0 {
			if err := f(n, raw); err != nil {
				return err
			}
		}
	}
	return sc.Err()
}

// Write runs a rehearsal and writes it as "jsonl" or "text".
func Write(w io.Writer, format string, plan *room.Plan, book *Book, script []event.Event) error {
	enc := json.NewEncoder(w)
	enc.SetEscapeHTML(false)
	sum, err := Run(plan, book, script, func(e Effect) error {
		if format == "jsonl" {
			return enc.Encode(e)
		}
		text := e.Text
		if text == "" {
			text = e.Person
		}
		_, err := fmt.Fprintf(w, "%s  %-5s %-11s %-22s %s\n%45s %s\n", e.At.In(plan.Zone).Format("15:04:05"), e.Effect, e.To, e.Courtesy, text, "because", join(e.Because))
		return err
	})
	if err != nil {
		return err
	}
	if format == "jsonl" {
		return enc.Encode(map[string]Summary{"summary": sum})
	}
	_, err = fmt.Fprintf(w, "%d events, %d arrivals, %d lines said, %d posts, %d other effects, %d not done; house share %.0f%%\n",
		sum.Events, sum.Arrivals, sum.Effects["say"], sum.Effects["relay"], others(sum.Effects), sum.Effects["drop"], 100*sum.HouseShare)
	return err
}

// others counts what left the house that is neither a line of chat nor a post.
func others(effects map[string]int) int {
	n := 0
	for kind, count := range effects {
		if kind != "say" && kind != "relay" && kind != "drop" {
			n += count
		}
	}
	return n
}

func join(parts []string) string {
	out := ""
	for i, p := range parts {
		if i > 0 {
			out += "; "
		}
		out += p
	}
	return out
}
