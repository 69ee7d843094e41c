package house

import (
	"encoding/json"
	"slices"
	"strconv"
	"strings"
	"time"

	"vividporch/core/attendance"
	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/output"
	"vividporch/core/pace"
	"vividporch/core/people"
	"vividporch/core/plain"
	"vividporch/core/wording"
)

// StateVersion is the version of the state's shape; a snapshot of another one is
// not used.
const StateVersion = 2

// State is everything the house must remember to decide the next event. It is
// one serialisable value; only Evolve changes it.
type State struct {
	Version  int                           `json:"version"`
	Seq      int64                         `json:"seq"`   // of the last event
	Clock    time.Time                     `json:"clock"` // its Logged; never goes back
	Settings int64                         `json:"settings"`
	Stream   attendance.Stream             `json:"stream"`
	Tonight  map[string]*Guest             `json:"tonight"` // by account key, in this stream
	Between  map[string]*Guest             `json:"between"` // since the last stream ended
	Raids    []Raid                        `json:"raids,omitempty"`
	Queue    pace.Queue                    `json:"queue"`
	Used     map[string]wording.Used       `json:"used"`   // by courtesy/output
	Posted   map[string]int                `json:"posted"` // by courtesy/place: number of the stream
	Hush     bool                          `json:"hush,omitempty"`
	Waiting  []Item                        `json:"waiting,omitempty"`
	Cards    []Shown                       `json:"cards,omitempty"`  // the last ones, oldest first
	Acts     []event.ActOutcome            `json:"acts,omitempty"`   // the last things platforms did that can be undone, oldest first
	Latest   map[string][]Recent           `json:"latest,omitempty"` // who did something last, newest first, by kind
	Doors    map[string]*event.DoorChanged `json:"doors"`
	Evening  Evening                       `json:"evening"`
	Past     []attendance.Past             `json:"past,omitempty"`     // the last streams before this one, oldest first
	Forgets  map[string]time.Time          `json:"forgets,omitempty"`  // who asked to be forgotten → until when they may confirm
	Answered map[string]time.Time          `json:"answered,omitempty"` // who was told what is kept → when

	Largest map[string]Record    `json:"largest,omitempty"` // by event type, measure and currency
	Hellos  map[string]time.Time `json:"hellos,omitempty"`  // whose hello was answered in this stream → when
	HelloAt time.Time            `json:"helloAt,omitzero"`  // of the last answer to one
	Shouted map[string]time.Time `json:"shouted,omitempty"` // who was shouted out in this stream → when
	Entered map[string]time.Time `json:"entered,omitempty"` // who came in, in this stream → when first

	Questions []Question `json:"questions,omitempty"` // commands that wait to be told whom they mean

	RestUntil time.Time `json:"restUntil,omitzero"` // not woken before, after a wake that failed

	wake alarm // when to be woken, as long as nothing moved that it depends on
}

// alarm is a remembered answer of Wake. It is worked out again whenever the state
// has moved in a way that could change it, or another plan asks.
type alarm struct {
	plan *Plan
	at   time.Time
	due  bool
}

// Guest is a person's account as it is seen in one stream, or between two.
type Guest struct {
	Name     string          `json:"name"`
	Login    string          `json:"login,omitempty"`
	Roles    []event.Role    `json:"roles,omitempty"`
	Nick     bool            `json:"nick,omitempty"`   // known by nick only
	Arrived  time.Time       `json:"arrived,omitzero"` // first timely line; zero: not yet
	Standing people.Standing `json:"standing,omitempty"`
	Known    *people.Known   `json:"known,omitempty"` // as it was told at the arrival
	Lines    int             `json:"lines"`
	Last     time.Time       `json:"last,omitzero"`
	Left     bool            `json:"left,omitempty"`
	Changed  time.Time       `json:"changed,omitzero"` // when something about them last changed
	Greeted  bool            `json:"greeted,omitempty"`
	Welcomed bool            `json:"welcomed,omitempty"` // with a greeting, not by thanks or an answer
	Fellow   bool            `json:"fellow,omitempty"`   // the platform told that they stream
	With     int64           `json:"with,omitempty"`     // number of the raid they came with
	Why      string          `json:"why,omitempty"`      // they stand as they do
}

// Raid is a raid that came in this stream.
type Raid struct {
	Event   int64        `json:"event"`
	Person  event.Person `json:"person"`
	Viewers int64        `json:"viewers"`
	At      time.Time    `json:"at"`
	Thanked bool         `json:"thanked,omitempty"`
}

// Shown is a card that was shown.
type Shown struct {
	Line     string      `json:"line"`
	Courtesy string      `json:"courtesy"`
	At       time.Time   `json:"at"`
	Name     string      `json:"name,omitempty"`
	About    []string    `json:"about,omitempty"` // accounts, of one for several
	Told     output.Told `json:"told"`
}

// Recent is one who did something lately.
type Recent struct {
	Account string `json:"account"`
	Name    string `json:"name"`
}

// Item is something in Waiting for you.
type Item struct {
	ID      string        `json:"id"`
	Kind    string        `json:"kind"` // "raid", "late", "line", "post", "act", "regular", "forget", "aside", "settings", "host"
	Person  *event.Person `json:"person,omitempty"`
	Name    string        `json:"name,omitempty"`
	Type    string        `json:"type,omitempty"` // of the event behind it
	Text    string        `json:"text,omitempty"`
	Why     string        `json:"why"`
	Place   string        `json:"place,omitempty"`
	Line    string        `json:"line,omitempty"`
	Viewers int64         `json:"viewers,omitempty"`
	Count   int           `json:"count"`
	Since   time.Time     `json:"since"`
	About   []string      `json:"about,omitempty"` // accounts that a line was for
	Final   bool          `json:"final,omitempty"` // of a post: it is not tried again by itself
}

// Evening is what the evening line is drawn from.
type Evening struct {
	Minutes  []int         `json:"minutes,omitempty"` // lines by people, each minute since the opening
	Arrivals []ArrivalMark `json:"arrivals,omitempty"`
	Said     []SaidMark    `json:"said,omitempty"`
	People   int           `json:"people"` // lines by people
	House    int           `json:"house"`  // lines by the house
}

// ArrivalMark is one arrival on the evening line.
type ArrivalMark struct {
	At       time.Time       `json:"at"`
	Name     string          `json:"name"`
	Account  string          `json:"account"`
	Standing people.Standing `json:"standing"`
	Fellow   bool            `json:"fellow,omitempty"`
	Event    int64           `json:"event"`
}

// SaidMark is one line of the house on the evening line.
type SaidMark struct {
	At   time.Time `json:"at"`
	Line string    `json:"line"`
}

// NewState is a channel on its first day.
func NewState() *State {
	return &State{Version: StateVersion, Tonight: map[string]*Guest{}, Between: map[string]*Guest{}, Used: map[string]wording.Used{},
		Posted: map[string]int{}, Doors: map[string]*event.DoorChanged{}, Forgets: map[string]time.Time{}, Answered: map[string]time.Time{}}
}

// RestoreState reads a snapshot; ok is false when its shape is of another version.
func RestoreState(raw []byte) (*State, bool) {
	s := NewState()
	if err := json.Unmarshal(raw, s); err != nil || s.Version != StateVersion {
		return nil, false
	}
	return s, true
}

func (s *State) clock(logged time.Time) time.Time {
	if logged.Before(s.Clock) {
		return s.Clock
	}
	return logged
}

// guests is the period's people: tonight's while a stream is on.
func (s *State) guests() map[string]*Guest {
	if s.Stream.Live() {
		return s.Tonight
	}
	return s.Between
}

// arrived reports whether the person behind an account has already spoken in
// this period, on any of their accounts.
func (s *State) arrived(key string, known *people.Known) bool {
	gs := s.guests()
	return slices.ContainsFunc(accountsOf(key, known), func(a string) bool { return gs[a] != nil && !gs[a].Arrived.IsZero() })
}

// accountsOf are the accounts of the person behind one of them, that one first.
func accountsOf(key string, known *people.Known) []string {
	if known == nil || len(known.Accounts) == 1 && known.Accounts[0] == key {
		return []string{key}
	}
	return append([]string{key}, known.Accounts...)
}

// shouted reports whether somebody was shouted out in this stream, on any of their
// accounts.
func (s *State) shouted(key string, known *people.Known) bool { return anyOf(s.Shouted, key, known) }

// entered reports whether somebody has come in in this stream.
func (s *State) entered(key string, known *people.Known) bool { return anyOf(s.Entered, key, known) }

func anyOf(m map[string]time.Time, key string, known *people.Known) bool {
	return len(m) > 0 && slices.ContainsFunc(accountsOf(key, known), func(a string) bool { return !m[a].IsZero() })
}

// NeedsKnown reports whether deciding an event of this account wants to know who
// they are: before their arrival, and for everything that is no chat line.
func (s *State) NeedsKnown(ev *event.Event) bool {
	who := ev.Who()
	if who == nil {
		return false
	}
	if _, chat := ev.Data.(*happening.ChatSaid); chat {
		g := s.guests()[who.Key()]
		return g == nil || g.Arrived.IsZero()
	}
	return true
}

// Passes reports whether an event is not worth a line in the log: comings and goings of
// people who are not here, unless some courtesy is for whoever comes in.
func (s *State) Passes(ev *event.Event, p *Plan) bool {
	switch ev.Data.(type) {
	case *happening.PersonEntered:
		if p.Set.Has(ev.Type) {
			return false
		}
	case *happening.PersonLeft:
	default:
		return false
	}
	key := ev.Who().Key()
	return s.Tonight[key] == nil && s.Between[key] == nil
}

// Wants reports whether deciding an event asks the guest book who somebody is.
func (s *State) Wants(ev *event.Event, p *Plan) bool {
	return s.NeedsKnown(ev) || p.Private(ev) || p.Answers(ev)
}

// KnownHere is what the house was told about an account at its arrival in this
// period; nil when it has not arrived.
func (s *State) KnownHere(key string) *people.Known {
	if g := s.guests()[key]; g != nil {
		return g.Known
	}
	return nil
}

// StreamAt is the number of the stream a moment belongs to, or 0.
func (s *State) StreamAt(t time.Time) int {
	if on := &s.Stream; on.Number > 0 && !t.Before(on.Opened) {
		if on.Live() || t.Before(on.Gone) {
			return on.Number
		}
		return 0
	}
	for _, p := range s.Past {
		if !t.Before(p.Opened) && t.Before(p.Closed) {
			return p.Number
		}
	}
	return 0
}

// Settled reports whether an account has spoken in this period under the very
// name and roles it has now, so that nothing about it is new but a further line. One that
// comes late, from before its arrival or of a stream that is over, is news of its own.
func (s *State) Settled(ev *event.Event) bool {
	p := ev.Who()
	g := s.guests()[p.Key()]
	if g == nil || g.Lines == 0 || g.Login != p.Login || !slices.Equal(g.Roles, p.Roles) || g.Name != plain.Name(p.Shown()) {
		return false
	}
	on := 0
	if s.Stream.Live() {
		on = s.Stream.Number
	}
	return s.StreamAt(ev.Time) == on && !ev.Time.Before(g.Arrived)
}

// Wake is when the house next wants to be woken; false when nothing waits.
func (s *State) Wake(p *Plan) (time.Time, bool) {
	if s.wake.plan != p {
		at, due := s.Queue.Wake(s.Hush, p.rules)
		if end, going := s.Stream.EndsAt(p.grace); going && (!due || end.Before(at)) {
			at, due = end, true
		}
		for i := range s.Questions {
			if ends := s.Questions[i].Ends; !due || ends.Before(at) {
				at, due = ends, true
			}
		}
		if due && at.Before(s.RestUntil) {
			at = s.RestUntil
		}
		s.wake = alarm{p, at, due}
	}
	return s.wake.at, s.wake.due
}

func (s *State) raidOf(key string) *Raid {
	for i := range s.Raids {
		if s.Raids[i].Person.Key() == key {
			return &s.Raids[i]
		}
	}
	return nil
}

const wakes = "wake-"

func wakeID(seq int64) string { return wakes + strconv.FormatInt(seq, 10) }

// IsWake reports whether an event's id is one of a wake, which nobody outside knows.
func IsWake(id string) bool { return strings.HasPrefix(id, wakes) }

// Kind is what a decision does.
type Kind string

// The kinds of decisions. What an output does leaves under the name of its kind; the second
// group moves only the house itself.
const (
	Say   Kind = Kind(output.KindSay)   // a line leaves for a platform
	Relay Kind = Kind(output.KindRelay) // a post leaves for a place
	Ask   Kind = "ask"                  // a platform is asked about somebody

	Act   Kind = Kind(output.KindPlatform) // a platform is to do something
	Raise Kind = Kind(output.KindRaise)    // an event of the channel's own, lived right after this one

	Arrive   Kind = "arrive"   // somebody's first line in this period
	Open     Kind = "open"     // a stream begins
	Continue Kind = "continue" // a stream goes on after a drop
	Close    Kind = "close"    // a stream has ended
	Planned  Kind = "plan"     // a line is coming up
	Reword   Kind = "reword"   // a line coming up changes
	Hurry    Kind = "hurry"    // a line coming up goes next
	Drop     Kind = "drop"     // a line coming up is given up
	Refuse   Kind = "refuse"   // something was not done
	Show     Kind = "show"     // a private message with what is kept leaves for somebody
	Confirm  Kind = "confirm"  // somebody asked to be forgotten and is to say a second word
	Forget   Kind = "forget"   // what is kept about somebody goes
	Replied  Kind = "replied"  // a hello is answered
	Wait     Kind = "wait"     // something waits for a person
	Done     Kind = "done"     // and no longer does
)

// Decision is one thing the house does or does not do about an event, with its
// reasons. It holds all that Evolve and the voices need, so nothing is worked out
// a second time.
type Decision struct {
	Kind     Kind            `json:"kind"`
	Courtesy string          `json:"courtesy,omitempty"`
	Output   string          `json:"output,omitempty"`
	Line     string          `json:"line,omitempty"` // ties what one decision says on several platforms
	Platform string          `json:"platform,omitempty"`
	Place    string          `json:"place,omitempty"`
	Text     string          `json:"text,omitempty"`
	Body     json.RawMessage `json:"body,omitempty"`    // of a relay; of an effect outside chat a [Told]; of a raised event the event
	Event    int64           `json:"event,omitempty"`   // number of the cause
	EventID  string          `json:"eventId,omitempty"` // its id
	Person   string          `json:"person,omitempty"`  // account key
	Name     string          `json:"name,omitempty"`
	Names    []string        `json:"-"` // of a forget: all they were called; never written down
	Joined   []JoinedOne     `json:"joined,omitempty"`
	Plan     *pace.Line      `json:"plan,omitempty"`
	Alt      uint64          `json:"alt,omitempty"` // the alternative, as wording.Mark
	Of       int             `json:"of,omitempty"`  // out of so many
	Standing people.Standing `json:"standing,omitempty"`
	Known    *people.Known   `json:"known,omitempty"`
	About    *event.Person   `json:"about,omitempty"`  // of an ask
	Near     []string        `json:"near,omitempty"`   // of an ask whom a command means: names like it
	Stream   int             `json:"stream,omitempty"` // of open, continue, close
	At       time.Time       `json:"at,omitzero"`      // of open and close: when it really was; of confirm: until when
	With     int64           `json:"with,omitempty"`   // of an arrival: number of the raid they came with
	Passed   bool            `json:"passed,omitempty"` // of a refusal: passed over in silence, on purpose
	Item     *Item           `json:"item,omitempty"`
	Ladder   []courtesy.Rung `json:"ladder,omitempty"`
	ByHand   bool            `json:"byHand,omitempty"`
	As       string          `json:"as,omitempty"`  // "streamer": a line that goes out under the streamer's own name
	Try      bool            `json:"try,omitempty"` // a member tries it: it uses nothing up
	Because  []string        `json:"because"`
}

// Way is how a decision leaves the house; "" for one that moves only the house itself.
func (d *Decision) Way() output.Way { return output.Of(output.Kind(d.Kind)).Way }

// JoinedOne is one of those a joined line speaks to.
type JoinedOne struct {
	Event   int64  `json:"event"`
	EventID string `json:"eventId"`
	Person  string `json:"person"`
	Name    string `json:"name"`
	Line    string `json:"line"`
}

// mostSlot bounds what the log has an index on.
const mostSlot = 500

// Whom lists the accounts that a decision is about: one, several, or none.
func (d *Decision) Whom() []string {
	var out []string
	if d.Person != "" {
		out = append(out, d.Person)
	}
	for _, j := range d.Joined {
		if j.Person != "" && !slices.Contains(out, j.Person) {
			out = append(out, j.Person)
		}
	}
	return out
}

// Slot names the decision within its event: with courtesy it is unique there. It
// has at most mostSlot bytes, whatever it is made of.
func (d *Decision) Slot() string {
	slot := string(d.Kind) + ":" + d.Output
	if d.Platform != "" {
		slot += "@" + d.Platform
	}
	if d.Place != "" {
		slot += "@" + d.Place
	}
	if d.Line != "" {
		slot += "/" + d.Line
	}
	if d.Item != nil {
		slot += "/" + d.Item.ID
	}
	return event.Shortened(slot, mostSlot)
}
