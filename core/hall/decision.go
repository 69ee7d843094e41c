package hall

import (
	"encoding/json"
	"slices"
	"time"

	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/output"
	"vividporch/core/pace"
	"vividporch/core/people"
)

// Decision is one thing the house does or does not do about an event, with its
// reasons. It holds all that Evolve and the voices need, so nothing is worked out
// a second time.
type Decision struct {
	Kind     Kind            `json:"kind"`
	Room     string          `json:"room,omitempty"` // that decided it
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
	Kept     json.RawMessage `json:"kept,omitempty"` // of keep: what its room keeps of the person's account from now on
	As       string          `json:"as,omitempty"`   // "streamer": a line that goes out under the streamer's own name
	Try      bool            `json:"try,omitempty"`  // a member tries it: it uses nothing up
	Because  []string        `json:"because"`
}

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
	Keep     Kind = "keep"     // a room keeps something of an account
	Wait     Kind = "wait"     // something waits for a person
	Done     Kind = "done"     // and no longer does
)

// JoinedOne is one of those a joined line speaks to.
type JoinedOne struct {
	Event   int64  `json:"event"`
	EventID string `json:"eventId"`
	Person  string `json:"person"`
	Name    string `json:"name"`
	Line    string `json:"line"`
}

// Way is how a decision leaves the house; "" for one that moves only the house itself.
func (d *Decision) Way() output.Way { return output.Of(output.Kind(d.Kind)).Way }

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
