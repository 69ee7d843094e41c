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
	Shouting map[string]bool // accounts that it shouts out

	// How what a courtesy does is done.
	Hand    bool                  // a member asks for it
	Try     bool                  // and only tries it
	After   time.Duration         // what runs waits as long as what had it run
	Since   time.Time             // when what waited for an answer came in
	Meant   *people.Named         // whom a command means
	Heard   *event.LookupAnswered // what the platform just told of them
	Closing bool                  // it is done for the end of the stream
	Live    *bool                 // a stream opens with this event, or is taken to be on

	Decided []hall.Decision

	rooms   []Room
	room    string          // whose turn it is
	added   []pace.Line     // planned by this event, not yet in the queue
	dropped map[string]bool // lines that this event took back, by key
	taken   map[string]bool // what was decided, by courtesy and slot
	begun   string          // see origin
}

// NewTurn begins deciding an event. named are those of the guest book whom it may mean.
func NewTurn(s *hall.State, m Memory, p *Plan, rooms []Room, ev *event.Event, known *people.Known, named []people.Named) *Turn {
	t := &Turn{State: s, Memory: m, Event: ev, Known: known, Named: named, Plan: p, Now: s.ClockAt(ev.Logged), rooms: rooms}
	t.Late, t.IsLate = ev.Late()
	return t
}

// Never says why somebody is never greeted, thanked or answered, or "".
func (d *Turn) Never(p event.Person) string { return d.Plan.never.Reason(p, d.Known) }

// decide keeps a decision and reports whether it did. The first of a courtesy and
// slot stands; a second one is not made, so that no log ever has to hold two.
func (d *Turn) Decide(x hall.Decision) bool {
	key := x.Courtesy + "\x00" + x.Slot()
	if d.taken[key] {
		return false
	}
	if d.taken == nil {
		d.taken = map[string]bool{}
	}
	d.taken[key], x.Room = true, d.room
	d.Decided = append(d.Decided, x)
	return true
}

func (d *Turn) IsLive() bool {
	if d.Live != nil {
		return *d.Live
	}
	return d.State.Stream.Live()
}

// greets reports whether this event brings somebody a greeting.
func (d *Turn) Greets(key string) bool {
	return slices.ContainsFunc(d.added, func(l pace.Line) bool { return l.Person == key && l.Greets() })
}

// shoutsOut notes that this event shouts somebody out.
func (d *Turn) ShoutsOut(key string) {
	if d.Shouting == nil {
		d.Shouting = map[string]bool{}
	}
	d.Shouting[key] = true
}

func (d *Turn) WaitFor(person event.Person, name, kind, why string, viewers int64) {
	d.Waits(person, name, kind, d.Event.Type, why, viewers)
}

// waits puts somebody unthanked before the streamer. of is the type of what they
// were to be thanked for.
func (d *Turn) Waits(person event.Person, name, kind, of, why string, viewers int64) {
	d.Decide(hall.Decision{Kind: hall.Wait, Person: person.Key(), Name: name, Because: []string{why}, Item: &hall.Item{
		ID: kind + "/" + of + "/" + person.Key(), Kind: kind, Person: &person, Name: name, Type: of, Why: why,
		Viewers: viewers, Count: 1, Since: d.Event.Time}})
}

func (d *Turn) Refuse(slot happening.Slot, r *courtesy.Ready, key, name string, ladder []courtesy.Rung, why string) {
	x := hall.Decision{Kind: hall.Refuse, Output: string(slot), Person: key, Name: name, Ladder: ladder, Because: []string{why}}
	if r != nil {
		x.Courtesy, x.Passed = r.ID, len(r.Outputs) == 0
	}
	d.Decide(x)
}

// resume goes on with what waited for an answer; a is nil when none came in time.
func (d *Turn) resume(q *hall.Question, a *event.LookupAnswered) {
	was, whose := d.begun, d.room
	d.Since, d.begun = q.Ends.Add(-Seconds(d.Plan.Pace.AskSeconds)), cmp.Or(q.Origin, strconv.FormatInt(q.Event, 10))
	for i := range d.rooms {
		if r := &d.rooms[i]; r.Name == q.Room && r.resume != nil {
			d.room = r.Name
			r.resume(d, q, a)
		}
	}
	d.Since, d.begun, d.room = time.Time{}, was, whose
}

// Overdue goes on with what was not answered in time.
func (d *Turn) Overdue() {
	for i := range d.State.Questions {
		if q := &d.State.Questions[i]; !q.Ends.After(d.Now) {
			d.resume(q, nil)
		}
	}
}

func (d *Turn) AskID() string { return "ask-" + d.origin() }

// origin names what is decided about, the same in a rehearsal as in the living house: an
// event by itself, and what time brings by what it is of, since wakes are not told from
// outside. A line that waited for an answer keeps the origin it began with.
func (d *Turn) origin() string {
	switch {
	case d.begun != "":
		return d.begun
	case d.Closing:
		return "end-" + strconv.Itoa(d.State.Stream.Number)
	case hall.IsWake(d.Event.ID):
		return d.Event.ID
	}
	d.begun = d.Event.Digest()
	return d.begun
}

func (d *Turn) LineID(courtesyID, output string) string {
	id := d.origin() + "." + courtesyID + "." + output
	if d.Meant != nil { // the same may be done to whoever asks, who arrives with it
		id += ".meant"
	}
	return id
}

func (d *Turn) Seed(courtesyID, output string) uint64 {
	return wording.Seed(d.Plan.Seed, d.chanceOf(), courtesyID, output)
}

// chanceOf is what chance hangs on: the event's id, or the origin of what time brings.
func (d *Turn) chanceOf() string {
	if hall.IsWake(d.Event.ID) {
		return d.origin()
	}
	return d.Event.ID
}

func (d *Turn) Find(id string) *courtesy.Ready {
	for _, r := range d.Plan.Set.All() {
		if r.ID == id {
			return r
		}
	}
	return nil
}

// because says in words what was the cause.
func (d *Turn) because() string {
	if d.Closing {
		return "the stream ended"
	}
	if _, ok := d.Event.Data.(*event.StreamDeclared); ok {
		return happening.Why(happening.StreamOpenedType)
	}
	return happening.Why(d.Event.Type)
}
