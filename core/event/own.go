package event

import (
	"cmp"
	"encoding/json"
	"fmt"
	"slices"
)

// What the house logs of itself. Everything that moves its state is an event
// with a number, so that a restart, a rehearsal and a test see the same evening.

// Woke: time alone decided something (a line fell due, a stream's grace ended).
type Woke struct{}

// Noticed: the house noticed something by itself that a member should know; it stands
// in Waiting for you under Item, until it is dealt with or, with Gone, is no longer so.
// Lines are lines that were coming up and are given up with it, "id@platform". With
// Rest the house is not woken again for a little while: what it was woken for failed.
type Noticed struct {
	Item  string   `json:"item"`
	Kind  string   `json:"kind"` // "aside", "settings", "host", "signin"
	Name  string   `json:"name,omitempty"`
	Text  string   `json:"text,omitempty"`
	Why   string   `json:"why,omitempty"`
	Gone  bool     `json:"gone,omitempty"`
	Lines []string `json:"lines,omitempty"`
	Rest  bool     `json:"rest,omitempty"`
}

// DoorChanged: a door opened, closed or changed what it may do. State is one of
// "open", "opening", "closed", "refused".
type DoorChanged struct {
	Name        string `json:"door"`
	Platform    string `json:"platform,omitempty"`
	State       string `json:"state"`
	Account     string `json:"account,omitempty"`
	MaySpeak    bool   `json:"maySpeak"`
	MayModerate bool   `json:"mayModerate"`
	Reason      string `json:"reason,omitempty"`
}

// LookupAnswered: the answer to an ask. Found is false when the platform knew
// nothing or did not answer in time.
type LookupAnswered struct {
	Ask      string `json:"ask"`
	Account  string `json:"account,omitempty"` // key of whom it is about
	Found    bool   `json:"found"`
	Link     string `json:"link,omitempty"`
	Category string `json:"category,omitempty"`
	Title    string `json:"title,omitempty"`
	Streams  bool   `json:"streams,omitempty"` // they have ever streamed
	Failed   string `json:"failed,omitempty"`  // why the platform could not be asked

	// Of somebody who was asked for by login alone.
	ID    string `json:"id,omitempty"`
	Login string `json:"login,omitempty"`
	Name  string `json:"name,omitempty"`
}

// Outcome is what became of something that left the house: a line, a post, a deed.
type Outcome interface {
	Data
	// Whom are the accounts it was for.
	Whom() []string
	// Unname takes whoever it was for out of it; that it happened stays.
	Unname()
}

// SpeechOutcome is what became of a line that was handed to a voice.
type SpeechOutcome struct {
	Line     string   `json:"line"`
	Platform string   `json:"platform"`
	Text     string   `json:"text,omitempty"`
	Reason   string   `json:"reason,omitempty"`
	About    []string `json:"about,omitempty"` // accounts that it was for
}

// Whom are the accounts that the line was for.
func (o *SpeechOutcome) Whom() []string { return o.About }

// Unname takes whoever the line was for out of what became of it.
func (o *SpeechOutcome) Unname() { o.About, o.Text, o.Reason = nil, "", "" }

// Ended is the line, and the platform it was to be said on.
func (o *SpeechOutcome) Ended() (line, platform string) { return o.Line, o.Platform }

// SpeechSaid: the line was written to the socket.
type SpeechSaid struct{ SpeechOutcome }

// SpeechRefused: the voice could not say it; Reason says why.
type SpeechRefused struct{ SpeechOutcome }

// SpeechUncertain: a crash came between decision and socket; it is not said again.
type SpeechUncertain struct{ SpeechOutcome }

// RelayOutcome is what became of a post to a place. Line is the decision's line.
type RelayOutcome struct {
	Line    string   `json:"line"`
	Place   string   `json:"place"`
	Attempt int      `json:"attempt"`
	Status  int      `json:"status,omitempty"`
	Reason  string   `json:"reason,omitempty"`
	NextTry string   `json:"nextTry,omitempty"`
	About   []string `json:"about,omitempty"` // accounts that it was about
}

// Whom are the accounts that the post was about.
func (o *RelayOutcome) Whom() []string { return o.About }

// Unname takes whoever the post was about out of what became of it.
func (o *RelayOutcome) Unname() { o.About, o.Reason = nil, "" }

// RelayDelivered: the place took the post.
type RelayDelivered struct{ RelayOutcome }

// RelayDelayed: the place did not take it yet; it is tried again at NextTry.
type RelayDelayed struct{ RelayOutcome }

// RelayFailed: the post was given up; it stands in Waiting for you.
type RelayFailed struct{ RelayOutcome }

// RelayDropped: nobody wants the post any more.
type RelayDropped struct{ RelayOutcome }

// RelayUnclear: the place may or may not have it and ignores keys, so a person decides.
type RelayUnclear struct{ RelayOutcome }

// ActOutcome is what became of something the house had done outside chat: by a
// platform, a fitting or the overlay. Line is the decision's line.
type ActOutcome struct {
	Line   string   `json:"line"`
	To     string   `json:"to"`               // the platform, or the fitting's name
	Effect string   `json:"effect"`           // "platform", "lamp"…
	Act    string   `json:"act,omitempty"`    // of a platform
	Text   string   `json:"text,omitempty"`   // the new title, what was spoken
	Was    string   `json:"was,omitempty"`    // what it was before, as far as the platform told
	Off    bool     `json:"off,omitempty"`    // it was taken back
	Login  string   `json:"login,omitempty"`  // of whom it is about
	About  []string `json:"about,omitempty"`  // accounts that it was for
	Reason string   `json:"reason,omitempty"` // why it was refused, or what came of it
}

// Whom are the accounts that it was for.
func (a *ActOutcome) Whom() []string { return a.About }

// Unname takes whoever it was for out of what became of it.
func (a *ActOutcome) Unname() { a.About, a.Text, a.Was, a.Login, a.Reason = nil, "", "", "", "" }

// What is the platform's action, or else the effect.
func (a *ActOutcome) What() string { return cmp.Or(a.Act, a.Effect) }

// ActDone: it was done.
type ActDone struct{ ActOutcome }

// ActRefused: it was not; Reason says why.
type ActRefused struct{ ActOutcome }

// DeskActed: a member has a platform do something. Act is one of the actions of
// the house file's schema; Off takes it back.
type DeskActed struct {
	Act      string  `json:"act"`
	Platform string  `json:"platform"`
	Text     string  `json:"text,omitempty"`    // the new title or category
	Seconds  float64 `json:"seconds,omitempty"` // how long
	Login    string  `json:"login,omitempty"`   // of whom it is about
	Message  string  `json:"message,omitempty"` // id of the line to delete
	Off      bool    `json:"off,omitempty"`
	Person   Person  `json:"person,omitzero"` // whom it is about, where more than a login is known
	Member   string  `json:"member,omitempty"`
}

// Who is the person it is about, or nil.
func (d *DeskActed) Who() *Person {
	if d.Person.ID == "" {
		return nil
	}
	return &d.Person
}

// DeskUndone: a member takes back what a platform did. Line is its decision's.
type DeskUndone struct{ LineHand }

// SettingsChanged: a new version of the settings is in force. Settings is the
// whole document; Undone names the version that was taken back, if any.
type SettingsChanged struct {
	Version  int64           `json:"version"`
	Base     int64           `json:"base"`
	Member   string          `json:"member,omitempty"`
	By       *Person         `json:"by,omitempty"` // whoever changed it in chat
	What     string          `json:"what,omitempty"`
	Settings json.RawMessage `json:"settings"`
}

// Hushed: hush was put on or lifted at the desk.
type Hushed struct {
	On     bool   `json:"on"`
	Member string `json:"member,omitempty"`
}

// LineHand is a member's hand on a line that is coming up.
type LineHand struct {
	Line   string `json:"line"`
	Member string `json:"member,omitempty"`
}

// LineHurried: say it now.
type LineHurried struct{ LineHand }

// LineDropped: do not say it.
type LineDropped struct{ LineHand }

// LineReworded: say this instead.
type LineReworded struct {
	LineHand
	Text string `json:"text"`
}

// StreamDeclared: a member says the stream opened, closed or is a new one.
// Act is "opened", "closed" or "new".
type StreamDeclared struct {
	Act    string `json:"act"`
	Title  string `json:"title,omitempty"`
	Member string `json:"member,omitempty"`
}

// DeskSaid: a member says a line as the house. To lists platforms; empty is all.
type DeskSaid struct {
	Text   string   `json:"text"`
	To     []string `json:"to,omitempty"`
	Member string   `json:"member,omitempty"`
}

// DeskAsked: a member asks for something by hand: to "shoutout" or "greet" somebody,
// to "thank" for a raid that came late (Event is its number), for a "courtesy" that
// is asked for by hand, or to "try" one for real. Of the last two the person may be
// nobody; Number is the viewers, months or whatever else a try is measured by.
type DeskAsked struct {
	Person   Person `json:"person,omitzero"`
	Act      string `json:"act"`
	Courtesy string `json:"courtesy,omitempty"`
	Event    int64  `json:"event,omitempty"`
	Number   int64  `json:"number,omitempty"`
	Of       string `json:"of,omitempty"` // type of what there is thanks for, where several things wait; "" for the first
	Member   string `json:"member,omitempty"`
}

// Who is the person it is about, or nil.
func (d *DeskAsked) Who() *Person {
	if d.Person.ID == "" {
		return nil
	}
	return &d.Person
}

// CounterSet: a member sets how often a command is said to have been asked for. Was is what it
// was before, so that it can be set back.
type CounterSet struct {
	Courtesy string `json:"courtesy"`
	Times    int64  `json:"times"`
	Was      int64  `json:"was"`
	Member   string `json:"member,omitempty"`
}

// CounterSetType is the type of it.
const CounterSetType = "porch.desk.counted"

// CountsTold: a platform told how many there are of something on our channel there.
type CountsTold struct {
	Platform string           `json:"platform"`
	Counts   map[string]int64 `json:"counts"` // by what is counted: "followers", "subscribers"
}

// TextFetched: what stands at the address of one of the channel's own fill-ins.
type TextFetched struct {
	Name    string `json:"name"`    // of the fill-in
	Address string `json:"address"` // that it was fetched from
	Text    string `json:"text"`
}

// TextFetchedType is the type of it.
const TextFetchedType = "porch.lookup.fetched"

// CountsToldType is the type of it.
const CountsToldType = "porch.lookup.counted"

// AlongSet: a member says who streams along this evening; none is nobody.
type AlongSet struct {
	Logins []string `json:"logins"`
	Member string   `json:"member,omitempty"`
}

// The types of what came of something that left the house.
const (
	ActDoneType    = "porch.act.done"
	ActRefusedType = "porch.act.refused"
)

// AlongSetType is the type of it.
const AlongSetType = "porch.desk.along"

// Rearmed: a member lets greetings, or shout-outs, be made anew in this stream: for somebody, or for
// all who are here. What is "greetings" or "shout-outs".
type Rearmed struct {
	What   string `json:"what"`
	Person Person `json:"person,omitzero"` // nobody is all
	Member string `json:"member,omitempty"`
}

// What can be made anew.
const (
	Greetings = "greetings"
	ShoutOuts = "shout-outs"
)

// Who is the person it is about, or nil.
func (r *Rearmed) Who() *Person {
	if r.Person.ID == "" {
		return nil
	}
	return &r.Person
}

// BookmarkLabelled: a member gives a bookmark another label.
type BookmarkLabelled struct {
	Mark   int64  `json:"mark"` // number of the event that set it
	Label  string `json:"label"`
	Member string `json:"member,omitempty"`
}

// BookmarkLabelledType is the type of it.
const BookmarkLabelledType = "porch.bookmark.labelled"

// DeskPosted: a member lets a text that was asked for be posted by the account of a place, as it was or as they changed it.
type DeskPosted struct {
	Item   string  `json:"item"` // that waited for it
	Place  string  `json:"place"`
	Text   string  `json:"text"`
	Person *Person `json:"person,omitempty"` // who had asked for it
	Member string  `json:"member,omitempty"`
}

// Who is the person it is about, or nil.
func (p *DeskPosted) Who() *Person { return p.Person }

// WaitingDone: a member has dealt with something in Waiting for you.
type WaitingDone struct {
	Item   string `json:"item"`
	Member string `json:"member,omitempty"`
}

func (*Woke) Validate() error          { return nil }
func (n *Noticed) Validate() error     { return FirstOf(Filled("item", n.Item), Filled("kind", n.Kind)) }
func (d *DoorChanged) Validate() error { return Filled("door", d.Name) }
func (l *LookupAnswered) Validate() error {
	return FirstOf(Filled("ask", l.Ask), Short("link", l.Link, 2000), Short("category", l.Category, 500))
}

// Bound shortens what a platform answered to what is kept: nobody else's answer is too
// long to be logged. A link that is too long is no link.
func (l *LookupAnswered) Bound() {
	if len(l.Link) > 2000 {
		l.Link = ""
	}
	l.ID, l.Login, l.Name = Shortened(CleanText(l.ID), idMost), Cut(CleanText(l.Login), loginMost), Cut(CleanText(l.Name), NameMost)
	l.Category, l.Title, l.Failed = Cut(CleanText(l.Category), 500), Cut(CleanText(l.Title), 2000), Cut(CleanText(l.Failed), 500)
}

func (s *SpeechOutcome) Validate() error   { return Filled("line", s.Line) }
func (r *RelayOutcome) Validate() error    { return Filled("line", r.Line) }
func (s *SettingsChanged) Validate() error { return AtLeast("version", s.Version, 1) }
func (*Hushed) Validate() error            { return nil }
func (l *LineHand) Validate() error {
	return FirstOf(Filled("line", l.Line), Short("line", l.Line, lineMost))
}

// lineMost is how many bytes the id of a line may have: number, courtesy and output.
const lineMost = 300

func (l *LineReworded) Validate() error {
	return FirstOf(l.LineHand.Validate(), Filled("text", l.Text), Short("text", l.Text, 4000))
}
func (s *StreamDeclared) Validate() error {
	switch s.Act {
	case "opened", "closed", "new":
		return Short("title", s.Title, 2000)
	}
	return Wrong("data.act", `is %q; it must be "opened", "closed" or "new"`, s.Act)
}
func (s *DeskSaid) Validate() error {
	for i, p := range s.To {
		if slices.Contains(s.To[:i], p) || len(p) > platformMost {
			return Wrong(fmt.Sprintf("data.to.%d", i), "stands twice, or is no platform; name each once")
		}
	}
	return FirstOf(Filled("text", s.Text), Short("text", s.Text, 4000))
}
func (a *AlongSet) Validate() error {
	for _, l := range a.Logins {
		if err := FirstOf(Filled("logins", l), Short("logins", l, 60)); err != nil {
			return err
		}
	}
	return nil
}
func (r *Rearmed) Validate() error {
	if r.What != Greetings && r.What != ShoutOuts {
		return Wrong("data.what", "is %q; use greetings or shout-outs", r.What)
	}
	return nil
}
func (f *TextFetched) Validate() error {
	return FirstOf(Filled("name", f.Name), Filled("text", f.Text), Short("text", f.Text, 5000))
}
func (c *CountsTold) Validate() error {
	for what, n := range c.Counts {
		if err := AtLeast("counts."+what, n, 0); err != nil {
			return err
		}
	}
	return Filled("platform", c.Platform)
}
func (c *CounterSet) Validate() error {
	return FirstOf(Filled("courtesy", c.Courtesy), AtLeast("times", c.Times, 0))
}
func (d *DeskAsked) Validate() error {
	switch d.Act {
	case "shoutout", "greet", "thank", "celebrate":
		return d.Person.Validate("data.person")
	case "courtesy", "try":
		if d.Person.ID != "" {
			if err := d.Person.Validate("data.person"); err != nil {
				return err
			}
		}
		return FirstOf(Filled("courtesy", d.Courtesy), Short("courtesy", d.Courtesy, 60))
	}
	return Wrong("data.act", `is %q; it must be "shoutout", "greet", "thank", "celebrate", "courtesy" or "try"`, d.Act)
}
func (a *ActOutcome) Validate() error { return Filled("line", a.Line) }
func (d *DeskActed) Validate() error {
	return FirstOf(Filled("act", d.Act), Filled("platform", d.Platform), Short("act", d.Act, 60), Short("platform", d.Platform, platformMost), Short("text", d.Text, 500),
		Short("login", d.Login, loginMost), Short("message", d.Message, 500))
}
func (p *DeskPosted) Validate() error {
	return FirstOf(Filled("item", p.Item), Short("item", p.Item, 1000), Filled("place", p.Place), Short("place", p.Place, 400), Filled("text", p.Text), Short("text", p.Text, 4000))
}
func (b *BookmarkLabelled) Validate() error { return Short("label", b.Label, 200) }
func (w *WaitingDone) Validate() error {
	return FirstOf(Filled("item", w.Item), Short("item", w.Item, 1000))
}

func (*Woke) Type() string             { return "porch.house.woke" }
func (*Noticed) Type() string          { return "porch.house.noticed" }
func (*DoorChanged) Type() string      { return "porch.door.changed" }
func (*LookupAnswered) Type() string   { return "porch.lookup.answered" }
func (*SpeechSaid) Type() string       { return "porch.speech.said" }
func (*SpeechRefused) Type() string    { return "porch.speech.refused" }
func (*SpeechUncertain) Type() string  { return "porch.speech.uncertain" }
func (*RelayDelivered) Type() string   { return "porch.relay.delivered" }
func (*RelayDelayed) Type() string     { return "porch.relay.delayed" }
func (*RelayFailed) Type() string      { return "porch.relay.failed" }
func (*RelayUnclear) Type() string     { return "porch.relay.unclear" }
func (*RelayDropped) Type() string     { return "porch.relay.dropped" }
func (*SettingsChanged) Type() string  { return "porch.settings.changed" }
func (*Hushed) Type() string           { return "porch.desk.hushed" }
func (*LineHurried) Type() string      { return "porch.desk.hurried" }
func (*LineDropped) Type() string      { return "porch.desk.dropped" }
func (*LineReworded) Type() string     { return "porch.desk.reworded" }
func (*StreamDeclared) Type() string   { return "porch.desk.declared" }
func (*DeskSaid) Type() string         { return "porch.desk.said" }
func (*DeskAsked) Type() string        { return "porch.desk.asked" }
func (*CounterSet) Type() string       { return CounterSetType }
func (*Rearmed) Type() string          { return "porch.desk.rearmed" }
func (*AlongSet) Type() string         { return AlongSetType }
func (*CountsTold) Type() string       { return CountsToldType }
func (*TextFetched) Type() string      { return TextFetchedType }
func (*WaitingDone) Type() string      { return "porch.desk.done" }
func (*DeskPosted) Type() string       { return "porch.desk.posted" }
func (*BookmarkLabelled) Type() string { return BookmarkLabelledType }
func (*ActDone) Type() string          { return ActDoneType }
func (*ActRefused) Type() string       { return ActRefusedType }
func (*DeskActed) Type() string        { return "porch.desk.acted" }
func (*DeskUndone) Type() string       { return "porch.desk.undone" }

var ownKinds = []func() Data{
	func() Data { return &Woke{} },
	func() Data { return &Noticed{} },
	func() Data { return &DoorChanged{} },
	func() Data { return &LookupAnswered{} },
	func() Data { return &SpeechSaid{} },
	func() Data { return &SpeechRefused{} },
	func() Data { return &SpeechUncertain{} },
	func() Data { return &RelayDelivered{} },
	func() Data { return &RelayDelayed{} },
	func() Data { return &RelayFailed{} },
	func() Data { return &RelayUnclear{} },
	func() Data { return &RelayDropped{} },
	func() Data { return &SettingsChanged{} },
	func() Data { return &Hushed{} },
	func() Data { return &LineHurried{} },
	func() Data { return &LineDropped{} },
	func() Data { return &LineReworded{} },
	func() Data { return &StreamDeclared{} },
	func() Data { return &DeskSaid{} },
	func() Data { return &DeskAsked{} },
	func() Data { return &CounterSet{} },
	func() Data { return &Rearmed{} },
	func() Data { return &AlongSet{} },
	func() Data { return &CountsTold{} },
	func() Data { return &TextFetched{} },
	func() Data { return &WaitingDone{} },
	func() Data { return &DeskPosted{} },
	func() Data { return &BookmarkLabelled{} },
	func() Data { return &ActDone{} },
	func() Data { return &ActRefused{} },
	func() Data { return &DeskActed{} },
	func() Data { return &DeskUndone{} },
}
