// Package happening is the catalogue of everything that can happen on a channel: one file
// each. A [Happening] is its data with validation, and all there is to know of it: what it
// is called, where it stands along an evening, which slots a courtesy of it can fill, which
// numbers and texts come with it, which fill-ins it brings, how it stands in the
// conversation and what the guest book makes of it.
//
// Whoever adds one writes its file and its line in [Catalogue]; whens, measures, fill-ins,
// samples, reasons, entries, the schema and the table in the docs are read from here.
package happening

import (
	"slices"
	"strings"

	"vividporch/core/event"
	"vividporch/core/wording"
)

// Catalogue is everything that can happen, in the order in which an evening goes.
var Catalogue = []*Happening{
	streamOpened, streamChanged, streamViewers, datesWeek,
	arrival, hello, command, day, hand, neighbour, chatSaid,
	noteLeft, bookmarkSet,
	drawOpened, drawEntered, drawReminded, drawClosed, drawWon, drawClaimed, drawUnclaimed, drawUnwon, drawCancelled,
	levelReached, pointsGiven, stoneTurned, raceCalled, raceRun, raceLapsed, tideTurns, tideIn, tideEbbed, anemoneAsked,
	timer, lull, streamBack, postAsked,
	personEntered, raidCame, personFollowed,
	subscribed, gifted, tipped, credits, rewardClaimed,
	shopSold, shopGifted, shopUsed, channelShown,
	personJoined, personLeft, personRenamed, personTimedOut, personBanned, chatRemoved, chatHeld,
	socialFollowed, socialLiked, socialReposted, other,
	raidWent, streamClosed,
}

// The happenings that are no event of their own, but something the house sees in one.
const (
	Arrival = "arrival" // a person's first line in a stream
	Hello   = "hello"   // a hello said to the room by somebody who is here already
	Command = "command" // a line that asks for a courtesy, by its name or by words in it
	Hand    = "hand"    // asked for by a member, from the Porch

	Neighbour = "neighbour" // another assistant in the channel says something
)

// Slot is a place that only one courtesy can fill for one cause.
type Slot string

// The exclusive slots, and the empty one: courtesies without a slot all run.
const (
	Greeting Slot = "greeting"
	ShoutOut Slot = "shout-out"
	Thanks   Slot = "thanks"
	Answer   Slot = "answer"
	Free     Slot = ""
)

// Lane is a stretch of an evening.
type Lane string

// Lanes of an evening, in the order in which they matter.
const (
	Opens   Lane = "When the stream opens"
	Arrives Lane = "When someone arrives"
	Asks    Lane = "When someone asks"
	Happens Lane = "When something happens"
	Quiet   Lane = "When it goes quiet"
	Closes  Lane = "When the stream closes"
)

// Happening is everything there is to know of one sort of thing that can happen. Empty
// fields are what is usual.
type Happening struct {
	Type  string            // of its data; what is no event of its own has a word
	Data  func() event.Data // makes an empty value; nil for what is no event of its own
	Words string            // what it is, with its article: "a raid"

	Roomed bool // a room of its own runs what courtesies do of it
	Within bool // it happens to a stream or within a chat: only the platform's own doors tell of it

	Lane  Lane   // none is [Happens]
	Slots []Slot // that courtesies of it can fill; none: no courtesy has it as its when

	// How a courtesy's sentence and label speak of it.
	Verb   string // of thanks for it: "Thank "; else "Thank for "
	Leader string // whom a shout-out is for: "the leader of a raid"
	By     string // who it is of: " led by "; else " by "
	Label  string // of thanks for it, in two or three words
	Told   string // how a record tells of it, as a wording; else what it is, and of whom
	Reason string // why something is said: "a raid came"; else "happened: " and what it is

	Starters []string // wordings to begin with; else those of its sort
	Together []string // and to begin with where several are spoken of at once

	Numbers []Number // that come with it, the main one first
	Texts   []Text   // that a courtesy can ask for
	FillIns []FillIn // that it brings, before or after those of its frame
	Frame   Frame
	More    func(event.Data) map[string]any // further fields of its own, by name: texts, numbers, truths

	Entry  func(event.Data) Entry // how it stands in the conversation; nil: not at all
	Book   Book                   // what the guest book makes of it
	Latest string                 // those who did it last are the "followers", "raiders"…
	Listed string                 // the fill-in that its person is named by where several are
	Owed   bool                   // thanks for it are never given up because its person was just greeted
}

// AboutStream reports whether it is about the stream, and not about somebody.
func (h *Happening) AboutStream() bool { return h != nil && h.Frame == OfStream }

// AboutSomebody reports whether it is about somebody.
func (h *Happening) AboutSomebody() bool { return h != nil && h.Frame == OfPerson }

// Frame is what a happening is about, and so which fill-ins every one of its sort has.
type Frame int

// The frames.
const (
	OfPerson Frame = iota // about somebody
	OfStream              // about the stream
	OfHand                // about whatever a member asks for
)

// Number is a number that comes with a happening: its name, and how it is taken from the
// data. Of an amount it tells the currency (ISO 4217). ok is false where none came.
type Number struct {
	Name string
	Of   func(event.Data) (n float64, currency string, ok bool)
}

// Text is a text of a happening that a courtesy can ask for.
type Text struct {
	Name string
	Of   func(event.Data) string
}

// FillIn is a blank that a happening brings, and what stands for it. Of is nil where the
// house works it out.
type FillIn struct {
	wording.FillIn
	Of func(event.Data) wording.Value
}

// Entry is how a happening stands in the conversation: what sort of entry it is, and what
// stands there after the name of whoever it is of.
type Entry struct {
	Kind     string // of the conversation: "line", "raid", "follow", "stream", "happening"
	Text     string
	Platform string // none is that of its person
	Message  string // id of a line of chat
	Login    string
	Viewers  int64
}

// Book is what the guest book makes of a happening.
type Book struct {
	Visit   bool                     // whoever it is of was at the stream
	Line    bool                     // a line of chat
	Follow  bool                     // they follow from then on
	Raid    string                   // "came" or "went"
	Viewers func(event.Data) int64   // of a raid
	Was     func(event.Data) string  // the login they had before
	Support func(event.Data) Support // what they gave
}

// Support is something given to the channel. Amount is a decimal, of a currency (ISO 4217)
// or of none.
type Support struct {
	Kind, Amount, Currency string
	Count                  int64
	What                   string // the tier, the item, the campaign
}

// Kinds are the types of all events: of the catalogue, and what the house logs of itself.
var Kinds = event.OwnKinds()

var index = map[string]*Happening{}

func init() {
	for _, h := range Catalogue {
		h.known()
	}
}

func (h *Happening) known() {
	if h.Data != nil {
		h.Type = h.Data().Type()
		Kinds.Add(h.Data)
	}
	index[h.Type] = h
}

// Add takes one more into the catalogue. It is for the beginning of a program, before
// anything happens.
func Add(h *Happening) {
	h.known()
	Catalogue = append(Catalogue, h)
}

// none is what is in no catalogue: nothing comes with it.
var none = &Happening{}

// Of is what is known of a type or word. What is in no catalogue is an empty happening.
func Of(kind string) *Happening {
	if h := index[kind]; h != nil {
		return h
	}
	return none
}

// OfData is what is known of what an event says; nothing of what could not be read.
func OfData(data event.Data) *Happening {
	if data == nil {
		return none
	}
	if _, lost := data.(*event.Lost); lost {
		return none
	}
	return Of(data.Type())
}

// Whens lists what a courtesy can have as its cause, in the order in which an evening goes.
func Whens() []*Happening {
	return slices.DeleteFunc(slices.Clone(Catalogue), func(h *Happening) bool { return len(h.Slots) == 0 })
}

// IsWhen reports whether a courtesy can have it as its cause.
func (h *Happening) IsWhen() bool { return len(h.Slots) > 0 }

// Record is how a record tells of it, as a wording.
func (h *Happening) Record() string {
	switch what := strings.ToUpper(h.Words[:1]) + h.Words[1:]; {
	case h.Told != "":
		return h.Told
	case h.Frame == OfPerson:
		return what + ": {name}"
	default:
		return "{channel}: " + h.Words
	}
}

// On is where it stands along the evening.
func (h *Happening) On() Lane {
	if h.Lane == "" {
		return Happens
	}
	return h.Lane
}

// Main names the number it is measured by, or "".
func (h *Happening) Main() string {
	if len(h.Numbers) == 0 {
		return ""
	}
	return h.Numbers[0].Name
}

// NumberNames lists the numbers that come with it, the main one first.
func (h *Happening) NumberNames() []string {
	var out []string
	for _, n := range h.Numbers {
		out = append(out, n.Name)
	}
	return out
}

// TextNames lists the texts that a courtesy can ask for.
func (h *Happening) TextNames() []string {
	var out []string
	for _, t := range h.Texts {
		out = append(out, t.Name)
	}
	return out
}

// Measures lists every number that anything is measured by, each once.
func Measures() []string {
	var out []string
	for _, h := range Catalogue {
		for _, n := range h.Numbers {
			if !slices.Contains(out, n.Name) {
				out = append(out, n.Name)
			}
		}
	}
	return out
}

// Called says what an event is in a few words, whatever it is: "a raid".
func Called(kind string) string {
	if h := Of(kind); h.Words != "" {
		return h.Words
	}
	switch {
	case kind == (&event.Woke{}).Type():
		return "what was due"
	case strings.HasPrefix(kind, "porch.desk."), strings.HasPrefix(kind, "porch.book."), strings.HasPrefix(kind, "porch.settings."):
		return "something done by hand"
	}
	return "an event (" + kind + ")"
}

// Why says why something is said about an event: "a raid came".
func Why(kind string) string {
	if h := Of(kind); h.Reason != "" {
		return h.Reason
	}
	return "happened: " + Called(kind)
}
