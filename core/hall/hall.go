// Package hall is what all rooms of the house share and open from: the stream, who is here,
// what is coming up and what waits for a person. [State] is what the house must remember of
// it; only [State.Evolve] changes it, from events and from what was decided about them, a
// [Decision] each.
package hall

import (
	"cmp"
	"slices"
	"strconv"
	"strings"
	"time"

	"vividporch/core/attendance"
	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/pace"
	"vividporch/core/people"
	"vividporch/core/plain"
	"vividporch/core/wording"
)

// State is everything the house must remember to decide the next event. It is
// one serialisable value; only Evolve changes it.
type State struct {
	Seq      int64                         `json:"seq"`   // of the last event
	Clock    time.Time                     `json:"clock"` // its Logged; never goes back
	Settings int64                         `json:"settings"`
	Stream   attendance.Stream             `json:"stream"`
	Tonight  map[string]*Guest             `json:"tonight"` // by account key, in this stream
	Between  map[string]*Guest             `json:"between"` // since the last stream ended
	Raids    []Raid                        `json:"raids,omitempty"`
	Queue    pace.Queue                    `json:"queue"`
	Used     map[string]wording.Used       `json:"used"` // by courtesy/output
	Hush     bool                          `json:"hush,omitempty"`
	Waiting  []Item                        `json:"waiting,omitempty"`
	Latest   map[string][]Recent           `json:"latest,omitempty"` // who did something last, newest first, by kind
	Doors    map[string]*event.DoorChanged `json:"doors"`
	Evening  Evening                       `json:"evening"`
	Past     []attendance.Past             `json:"past,omitempty"` // the last streams before this one, oldest first

	Largest map[string]Record    `json:"largest,omitempty"` // by event type, measure and currency
	Shouted map[string]time.Time `json:"shouted,omitempty"` // who was shouted out in this stream → when

	Kept      people.Kept `json:"kept,omitempty"`      // of accounts since this stream opened: the guest book may not have it yet
	KeptLast  people.Kept `json:"keptLast,omitempty"`  // and since the one before
	Questions []Question  `json:"questions,omitempty"` // commands that wait to be told whom they mean

	RestUntil time.Time `json:"restUntil,omitzero"` // not woken before, after a wake that failed

	called called // see State.Called; made anew from the rest
}

// NewState is a channel on its first day.
func NewState() *State {
	return &State{Tonight: map[string]*Guest{}, Between: map[string]*Guest{}, Used: map[string]wording.Used{},
		Doors: map[string]*event.DoorChanged{}}
}

// Guest is a person's account as it is seen in one stream, or between two.
type Guest struct {
	Name     string          `json:"name"`
	Login    string          `json:"login,omitempty"`
	Roles    []event.Role    `json:"roles,omitempty"`
	Nick     bool            `json:"nick,omitempty"`   // known by nick only
	Arrived  time.Time       `json:"arrived,omitzero"` // first timely line; zero: not yet
	Again    bool            `json:"again,omitempty"`  // a member wants their next line taken for an arrival
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
	Day      string          `json:"day,omitempty"`      // days of theirs that were today as they arrived, in words
}

// Person is who a guest is; key is the account's.
func (g *Guest) Person(key string) event.Person {
	p := event.OfKey(key)
	p.Login, p.Name, p.Roles, p.Nick = g.Login, g.Name, g.Roles, g.Nick
	return p
}

// Raid is a raid that came in this stream.
type Raid struct {
	Event   int64        `json:"event"`
	Person  event.Person `json:"person"`
	Viewers int64        `json:"viewers"`
	At      time.Time    `json:"at"`
	Thanked bool         `json:"thanked,omitempty"`
}

// Item is something in Waiting for you.
type Item struct {
	ID      string        `json:"id"`
	Kind    string        `json:"kind"` // "raid", "late", "line", "post", "act", "regular", "forget", "day", "aside", "settings", "host", "signin", "note", "social"
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

// Recent is one who did something lately.
type Recent struct {
	Account string `json:"account"`
	Name    string `json:"name"`
}

// Evening is what the evening line is drawn from.
type Evening struct {
	Minutes  []int         `json:"minutes,omitempty"` // lines by people, each minute since the opening
	Arrivals []arrivalMark `json:"arrivals,omitempty"`
	Said     []SaidMark    `json:"said,omitempty"`
	People   int           `json:"people"` // lines by people
	House    int           `json:"house"`  // lines by the house

	Watched int64 `json:"watched,omitempty"` // the most viewers at once, over all platforms

	Neighbours int `json:"neighbours,omitempty"` // lines by other assistants, which are none of the people's
}

// arrivalMark is one arrival on the evening line.
type arrivalMark struct {
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

// knownOf fills in what a change of one platform's stream leaves out.
func (s *State) KnownStream(info happening.StreamInfo) happening.StreamInfo {
	if p := s.Stream.Platforms[info.Platform]; p != nil {
		info.Title, info.Category, info.URL = cmp.Or(info.Title, p.Title), cmp.Or(info.Category, p.Category), cmp.Or(info.URL, p.URL)
	}
	return info
}

// WaitingThanks is what waits for somebody to be thanked for, of a type or else the first; or nil.
func (s *State) WaitingThanks(key, of string) *Item {
	for i := range s.Waiting {
		if it := &s.Waiting[i]; it.Person != nil && it.Person.Key() == key && (it.Kind == "raid" || it.Kind == "late") && (of == "" || it.Type == of) {
			return it
		}
	}
	return nil
}

// ClockAt is the house's clock at an event logged then: it never goes back.
func (s *State) ClockAt(logged time.Time) time.Time {
	if logged.Before(s.Clock) {
		return s.Clock
	}
	return logged
}

// Guests is the period's people: tonight's while a stream is on.
func (s *State) Guests() map[string]*Guest {
	if s.Stream.Live() {
		return s.Tonight
	}
	return s.Between
}

// Arrived reports whether the person behind an account has already spoken in
// this period, on any of their accounts.
func (s *State) Arrived(key string, known *people.Known) bool {
	gs := s.Guests()
	return slices.ContainsFunc(known.AccountsWith(key), func(a string) bool { return gs[a] != nil && !gs[a].Arrived.IsZero() && !gs[a].Again })
}

// IsAgain reports whether somebody who has arrived is to be greeted anew.
func (s *State) IsAgain(key string, known *people.Known) bool {
	gs := s.Guests()
	return slices.ContainsFunc(known.AccountsWith(key), func(a string) bool { return gs[a] != nil && gs[a].Again })
}

// shouted reports whether somebody was shouted out in this stream, on any of their
// accounts.
func (s *State) WasShouted(key string, known *people.Known) bool { return AnyOf(s.Shouted, key, known) }

// AnyOf reports whether a person is in a list, by any of their accounts.
func AnyOf(m map[string]time.Time, key string, known *people.Known) bool {
	return len(m) > 0 && slices.ContainsFunc(known.AccountsWith(key), func(a string) bool { return !m[a].IsZero() })
}

// KnownHere is what the house was told about an account at its arrival in this
// period; nil when it has not arrived.
func (s *State) KnownHere(key string) *people.Known {
	if g := s.Guests()[key]; g != nil {
		return g.Known
	}
	return nil
}

// StreamNow is the number of the stream that is on, or of the one that comes next: what lies
// below it is history.
func (s *State) StreamNow() int {
	if s.Stream.Live() {
		return s.Stream.Number
	}
	return s.Stream.Number + 1
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
	g := s.Guests()[p.Key()]
	if g == nil || g.Lines == 0 || g.Login != p.Login || !slices.Equal(g.Roles, p.Roles) || g.Name != plain.Name(p.Shown()) {
		return false
	}
	on := 0
	if s.Stream.Live() {
		on = s.Stream.Number
	}
	return s.StreamAt(ev.Time) == on && !ev.Time.Before(g.Arrived)
}

// RaidOf is the raid that somebody brought in this stream, or nil.
func (s *State) RaidOf(key string) *Raid {
	for i := range s.Raids {
		if s.Raids[i].Person.Key() == key {
			return &s.Raids[i]
		}
	}
	return nil
}

const wakes = "wake-"

// WakeID is the id of a wake.
func WakeID(seq int64) string { return wakes + strconv.FormatInt(seq, 10) }

// IsWake reports whether an event's id is one of a wake, which nobody outside knows.
func IsWake(id string) bool { return strings.HasPrefix(id, wakes) }

// NeedsKnown reports whether deciding an event of this account wants to know who they are:
// before their arrival, and for everything that is no chat line.
func (s *State) NeedsKnown(ev *event.Event) bool {
	who := ev.Who()
	if who == nil {
		return false
	}
	if _, chat := ev.Data.(*happening.ChatSaid); !chat {
		return true
	}
	g := s.Guests()[who.Key()]
	return g == nil || g.Arrived.IsZero()
}
