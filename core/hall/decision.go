package hall

import (
	"encoding/json"
	"maps"
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
	Event    int64           `json:"event,omitempty"`   // number of the cause
	EventID  string          `json:"eventId,omitempty"` // its id
	Person   string          `json:"person,omitempty"`  // account key
	Name     string          `json:"name,omitempty"`
	Text     string          `json:"text,omitempty"`
	At       time.Time       `json:"at,omitzero"` // when a stream really opened or closed; until when an answer counts
	Ladder   []courtesy.Rung `json:"ladder,omitempty"`
	ByHand   bool            `json:"byHand,omitempty"`
	Try      bool            `json:"try,omitempty"` // a member tries it: it uses nothing up
	Because  []string        `json:"because"`

	// What it has of its own, by its kind. In JSON all stands in one flat object.
	Saying
	Met
	Asked
	Stream int                        `json:"stream,omitempty"` // of open, continue, close, and of what is posted about the stream: its number
	Passed bool                       `json:"passed,omitempty"` // of a refusal: passed over in silence, on purpose
	Item   *Item                      `json:"item,omitempty"`   // of what waits for a person, or no longer does
	Kept   json.RawMessage            `json:"kept,omitempty"`   // what its room keeps of the person's account from now on
	Keeps  map[string]json.RawMessage `json:"keeps,omitempty"`  // and of several accounts at once, by their keys
	Names  []string                   `json:"-"`                // of a forget: all they were called; never written down
}

// Saying is what a decision has that says or does something, now or once it is due.
type Saying struct {
	Plan   *pace.Line      `json:"plan,omitempty"` // the line that is coming up, or leaves at once
	Body   json.RawMessage `json:"body,omitempty"` // of a relay what is posted; of what is staged an [output.Told]; of a raised event the event; of a note what its room notes
	Late   json.RawMessage `json:"late,omitempty"` // of the announcement of a stream: what is posted instead once it has ended; nothing is for nothing
	Onto   string          `json:"onto,omitempty"` // of a relay: what it does with the announcement that stands there
	Joined []JoinedOne     `json:"joined,omitempty"`
	Alt    uint64          `json:"alt,omitempty"`    // the alternative, as wording.Mark
	Of     int             `json:"of,omitempty"`     // out of so many
	Pieces int             `json:"pieces,omitempty"` // of a line: the network makes so many of it; 0 is one
	As     string          `json:"as,omitempty"`     // "streamer": a line that goes out under the streamer's own name
	Stirs  bool            `json:"stirs,omitempty"`  // of a line: another assistant may take it for a command, or had brought it on
	Asker  string          `json:"asker,omitempty"`  // account of who asked for it, where somebody else is meant
}

// Met is whom a decision is about, as the house was told of them.
type Met struct {
	Standing people.Standing `json:"standing,omitempty"`
	Known    *people.Known   `json:"known,omitempty"`
	Day      string          `json:"day,omitempty"`   // days of theirs that are today, in words
	With     int64           `json:"with,omitempty"`  // number of the raid they came with
	Again    bool            `json:"again,omitempty"` // they had arrived in this period, and are greeted anew
}

// Asked is whom a platform is asked about.
type Asked struct {
	About *event.Person `json:"about,omitempty"`
	Near  []string      `json:"near,omitempty"` // of a command that does not tell whom it means: names like it
}

// Kind is what a decision does.
type Kind string

// The kinds of decisions. What an output does leaves under the name of its kind; the second
// group moves only the house itself.
const (
	Say   Kind = Kind(output.KindSay)   // a line leaves for a platform
	Relay Kind = Kind(output.KindRelay) // a post leaves for a place
	Ask   Kind = "ask"                  // a platform is asked about somebody

	Raise Kind = Kind(output.KindRaise) // an event of the channel's own, lived right after this one

	Arrive    Kind = "arrive"    // somebody's first line in this period
	Open      Kind = "open"      // a stream begins
	Continue  Kind = "continue"  // a stream goes on after a drop
	Close     Kind = "close"     // a stream has ended
	Planned   Kind = "plan"      // a line is coming up
	Reword    Kind = "reword"    // a line coming up changes
	Hurry     Kind = "hurry"     // a line coming up goes next
	Drop      Kind = "drop"      // a line coming up is given up
	Refuse    Kind = "refuse"    // something was not done
	Forget    Kind = "forget"    // what is kept about somebody goes
	Keep      Kind = "keep"      // a room keeps something of an account
	Note      Kind = "note"      // a room notes something of its own
	Neighbour Kind = "neighbour" // a line of chat is another assistant's, and counts apart
	Wait      Kind = "wait"      // something waits for a person
	Done      Kind = "done"      // and no longer does
)

// JoinedOne is one of those a joined line speaks to.
type JoinedOne struct {
	Event   int64  `json:"event"`
	EventID string `json:"eventId"`
	Person  string `json:"person"`
	Name    string `json:"name"`
	Line    string `json:"line"`
}

// EachKept tells what a room keeps of accounts from now on, as it decided; nothing of what a forgetting took out.
func (d *Decision) EachKept(f func(account string, value json.RawMessage)) {
	if len(d.Kept) > 0 && d.Person != "" {
		f(d.Person, d.Kept)
	}
	for _, account := range slices.Sorted(maps.Keys(d.Keeps)) { // in one order: what is made of it may hang on that
		f(account, d.Keeps[account])
	}
}

// Way is how a decision leaves the house; "" for one that moves only the house itself.
func (d *Decision) Way() output.Way {
	spec := output.Of(output.Kind(d.Kind))
	return spec.WayTo(d.Platform)
}

// mostSlot bounds what the log has an index on.
const mostSlot = 500

// Whom lists the accounts that a decision is about: one, several, or none. Who asked for it
// is among them, since its words may be theirs.
func (d *Decision) Whom() []string {
	var out []string
	add := func(key string) {
		if key != "" && !slices.Contains(out, key) {
			out = append(out, key)
		}
	}
	add(d.Person)
	add(d.Asker)
	for _, j := range d.Joined {
		add(j.Person)
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
