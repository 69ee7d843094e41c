package room

import (
	"cmp"
	"slices"
	"strconv"
	"time"

	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/pace"
	"vividporch/core/people"
	"vividporch/core/wording"
)

// Turn is one event being decided: the only way to decide. It reads the state and changes
// nothing; the first decision of a courtesy and slot stands.
type Turn struct {
	State  *hall.State
	Memory Memory // of the rooms
	Event  *event.Event
	Known  *people.Known  // who caused it
	Named  []people.Named // those of the guest book whom it may mean
	Plan   *Plan
	Now    time.Time
	Late   time.Duration // the event was told so long after it happened
	IsLate bool          // too long to speak of it by itself

	// What rooms tell those after them.
	Done     bool            // it is dealt with: nothing more is said to its person
	Arrives  bool            // it is its person's arrival
	Awaits   bool            // whose welcome waits for an answer
	Withheld bool            // the line is held or taken out: nobody else takes notice of it
	Admitted bool            // it was withheld, and a member allowed it
	Admits   event.Data      // what was withheld and is lived now, as if it came with this event
	Shouting map[string]bool // accounts that it shouts out

	// How what a courtesy does is done.
	Hand    bool                  // a member asks for it
	Try     bool                  // and only tries it
	After   time.Duration         // what runs waits as long as what had it run
	Since   time.Time             // when what waited for an answer came in
	Meant   *people.Named         // whom a command means
	Asker   string                // account of who asked, while somebody else is meant
	Heard   *event.LookupAnswered // what the platform just told of them
	Stirred bool                  // it comes of what another assistant said
	Closing bool                  // it is done for the end of the stream
	Live    *bool                 // a stream opens with this event, or is taken to be on

	Decided []hall.Decision

	rooms   []Room
	room    string          // whose turn it is
	added   []pace.Line     // planned by this event, not yet in the queue
	dropped map[string]bool // lines that this event took back, by key
	taken   map[string]bool // what was decided, by courtesy and slot
	begun   string          // see origin
	noted   []string        // who streams along, as this event says
	changed bool            // it changes the settings
	edited  bool            // it changes the guest book
	ofTime  string          // the when of what time alone brings
	asked   bool            // a day of somebody's is kept that was set or asked for
	quiet   bool            // what runs says its lines and does nothing else
	within  int             // how deep courtesies do what others do
}

// NewTurn begins deciding an event. named are those of the guest book whom it may mean.
func NewTurn(s *hall.State, m Memory, p *Plan, rooms []Room, ev *event.Event, known *people.Known, named []people.Named) *Turn {
	t := &Turn{State: s, Memory: m, Event: ev, Known: known, Named: named, Plan: p, Now: s.ClockAt(ev.Logged), rooms: rooms}
	t.Late, t.IsLate = ev.Late()
	return t
}

// As goes on with what this event brings as if it had come now. What is lived so is not looked at by the guard again.
func (t *Turn) As(d event.Data) {
	ev := *t.Event
	ev.Type, ev.Data = d.Type(), d
	t.Event, t.Admits, t.Admitted = &ev, nil, true
}

// Flooded reports whether a flood of strangers is held off: what greets and thanks in general keeps still then.
func (t *Turn) Flooded() bool {
	m, ok := t.Memory["guard"].(interface{ HoldsOff(time.Time) bool })
	return ok && m.HoldsOff(t.Now)
}

// Never says why somebody is never greeted, thanked or answered, or "".
func (t *Turn) Never(p event.Person) string {
	if t.Plan.IsNeighbour(p) {
		return "is a neighbour"
	}
	return t.Plan.never.Reason(p, t.Known)
}

// Decide keeps a decision and reports whether it did. The first of a courtesy and
// slot stands; a second one is not made, so that no log ever has to hold two.
func (t *Turn) Decide(x hall.Decision) bool {
	key := x.Courtesy + "\x00" + x.Slot()
	if t.taken[key] {
		return false
	}
	if t.taken == nil {
		t.taken = map[string]bool{}
	}
	t.taken[key], x.Room = true, t.room
	t.Decided = append(t.Decided, x)
	return true
}

// IsLive reports whether a stream is on, or opens with this event.
func (t *Turn) IsLive() bool {
	if t.Live != nil {
		return *t.Live
	}
	return t.State.Stream.Live()
}

// Greets reports whether this event brings somebody a greeting.
func (t *Turn) Greets(key string) bool {
	return slices.ContainsFunc(t.added, func(l pace.Line) bool { return l.Person == key && l.Greets() })
}

// ShoutsOut notes that this event shouts somebody out.
func (t *Turn) ShoutsOut(key string) {
	if t.Shouting == nil {
		t.Shouting = map[string]bool{}
	}
	t.Shouting[key] = true
}

// WaitFor puts somebody unthanked for this event before the streamer.
func (t *Turn) WaitFor(person event.Person, name, kind, why string, viewers int64) {
	t.Waits(person, name, kind, t.Event.Type, why, viewers)
}

// Waits puts somebody unthanked before the streamer. of is the type of what they
// were to be thanked for.
func (t *Turn) Waits(person event.Person, name, kind, of, why string, viewers int64) {
	t.Decide(hall.Decision{Kind: hall.Wait, Person: person.Key(), Name: name, Because: []string{why}, Item: &hall.Item{
		ID: kind + "/" + of + "/" + person.Key(), Kind: kind, Person: &person, Name: name, Type: of, Why: why,
		Viewers: viewers, Count: 1, Since: t.Event.Time}})
}

// Refuse says why a slot is not filled: by the courtesy that would have, or by none.
func (t *Turn) Refuse(slot happening.Slot, r *courtesy.Ready, key, name string, ladder []courtesy.Rung, why string) {
	x := hall.Decision{Kind: hall.Refuse, Output: string(slot), Person: key, Name: name, Ladder: ladder, Because: []string{why}}
	if r != nil {
		x.Courtesy, x.Passed = r.ID, len(r.Outputs) == 0
	}
	t.Decide(x)
}

// resume goes on with what waited for an answer; a is nil when none came in time.
func (t *Turn) resume(q *hall.Question, a *event.LookupAnswered) {
	was, whose := t.begun, t.room
	t.Since, t.begun = q.Ends.Add(-Seconds(t.Plan.Pace.AskSeconds)), cmp.Or(q.Origin, strconv.FormatInt(q.Event, 10))
	for i := range t.rooms {
		if r := &t.rooms[i]; r.Name == q.Room && r.resume != nil {
			t.room = r.Name
			r.resume(t, q, a)
		}
	}
	t.Since, t.begun, t.room = time.Time{}, was, whose
}

// Overdue goes on with what was not answered in time.
func (t *Turn) Overdue() {
	for i := range t.State.Questions {
		if q := &t.State.Questions[i]; !q.Ends.After(t.Now) {
			t.resume(q, nil)
		}
	}
}

// AskID names what is asked of a platform about this event.
func (t *Turn) AskID() string { return "ask-" + t.origin() }

// origin names what is decided about, the same in a rehearsal as in the living house: an
// event by itself, and what time brings by what it is of, since wakes are not told from
// outside. A line that waited for an answer keeps the origin it began with.
func (t *Turn) origin() string {
	switch {
	case t.begun != "":
		return t.begun
	case t.Closing:
		return "end-" + strconv.Itoa(t.State.Stream.Number)
	case hall.IsWake(t.Event.ID):
		return t.Event.ID
	}
	t.begun = t.Event.Digest()
	return t.begun
}

// OfTime names what time alone brings for as long as f decides it: the same in a rehearsal as in the
// living house, whatever event it is decided with. of is its when.
func (t *Turn) OfTime(of, what string, f func()) {
	was := t.begun
	t.begun, t.ofTime = what, of
	f()
	t.begun, t.ofTime = was, ""
}

// LineID names a line that comes of this event.
func (t *Turn) LineID(courtesyID, output string) string {
	id := t.origin() + "." + courtesyID + "." + output
	if t.Meant != nil { // the same may be done to whoever asks, who arrives with it
		id += ".meant"
	}
	return id
}

// Seed is what chance hangs on: the channel, the event, and whatever draws.
func (t *Turn) Seed(courtesyID, output string) uint64 {
	return wording.Seed(t.Plan.Seed, t.chanceOf(), courtesyID, output)
}

// chanceOf is what chance hangs on: the event's id, or the origin of what time brings.
func (t *Turn) chanceOf() string {
	if hall.IsWake(t.Event.ID) {
		return t.origin()
	}
	return t.Event.ID
}

// Find is the courtesy of an id, or nil.
func (t *Turn) Find(id string) *courtesy.Ready {
	for _, r := range t.Plan.Set.All() {
		if r.ID == id {
			return r
		}
	}
	return nil
}

// because says in words what was the cause.
func (t *Turn) because() string {
	if t.Closing {
		return "the stream ended"
	}
	if t.ofTime != "" {
		return happening.Why(t.ofTime)
	}
	if _, ok := t.Event.Data.(*event.StreamDeclared); ok {
		return happening.Why(happening.StreamOpenedType)
	}
	return happening.Why(t.Event.Type)
}
