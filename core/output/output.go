// Package output is the catalogue of everything a courtesy can do: one file each. An
// [Output] is what all of them have, and in Do the settings that its kind has of its own,
// which know how to check themselves, what they do in words, which way they go out and what
// is told there.
//
// Whoever adds one writes its file and its line in [Catalogue]. In a house file an output is
// one flat object, its "kind" beside the settings of that kind.
package output

import (
	"encoding/json"
	"fmt"
	"reflect"
	"slices"
	"strings"
	"time"

	"vividporch/core/event"
	"vividporch/core/flat"
	"vividporch/core/happening"
	"vividporch/core/who"
)

// Catalogue is everything a courtesy can do, in the order in which it is offered.
var Catalogue = []Spec{say, answer, keep, along, note, bookmark, social, shoutOut, birthday, celebrate, card, sound, film, speak, lamp, music, scene, relay, platform, permit, draw, stone, race, tide, anemone, give, unlisted, raise}

// Kind is the name of a sort of output. All but shout-out are effects that leave the house
// under the same name; a raised event comes back in as a happening.
type Kind string

// Spec is what is known of a kind whatever its settings.
type Spec struct {
	New     func() Does // its settings, empty
	Way     Way         // it goes out
	Worded  bool        // it says something in words of its own
	Joins   bool        // it can speak to several at once, in words
	Fitting string      // the kind of fitting that works it; "" for none
	Done    string      // once a fitting did it: "lit"; "" to name what it was
	Told    func() any  // what is told there, empty; nil: its settings
}

// Way is how something goes out.
type Way string

// The ways out.
const (
	ToChat     Way = "chat"
	ToOverlay  Way = "overlay"
	ToFitting  Way = "fitting"  // what the house works on the stage
	ToPlatform Way = "platform" // which is asked to act
	ToPlace    Way = "place"
	BackIn     Way = "back in" // as a happening of the channel's own
	Within     Way = "within"  // by another courtesy
)

// Staged reports whether what goes this way is told to whoever does it, as a [Told].
func (w Way) Staged() bool { return w == ToOverlay || w == ToFitting || w == ToPlatform }

// Recorded reports whether no viewer sees what goes this way: it is done however late its
// cause came, and whatever hush holds.
func (w Way) Recorded() bool { return w == ToPlace || w == BackIn }

// Output is one thing a courtesy does.
type Output struct {
	ID           string       `json:"id" jsonschema:"minLength=1"`
	Do           Does         `json:"-"`                                                          // the settings of its kind
	Alternatives []string     `json:"alternatives,omitempty"`                                     // ICU MessageFormat; one is picked. Of a card: its heading; of a title or category: the new one
	Weights      []int        `json:"weights,omitempty"`                                          // how often each is picked beside the others, 1 to 9; missing ones count 1
	Joined       []string     `json:"joined,omitempty"`                                           // words for several people at once
	DelaySeconds float64      `json:"delaySeconds,omitempty" jsonschema:"minimum=0,maximum=3600"` // wait before it may go out
	WaitSeconds  float64      `json:"waitSeconds,omitempty" jsonschema:"minimum=0,maximum=3600"`  // given up after waiting so long; 0 is the house's setting
	Only         *who.Who     `json:"only,omitempty"`                                             // a condition of this output alone
	Measure      *who.Measure `json:"measure,omitempty"`                                          // likewise
	Ask          bool         `json:"ask,omitempty"`                                              // ask the platform for link and last category first
	On           []string     `json:"on,omitempty"`                                               // platforms; none: where it happened
	Cost         int64        `json:"cost,omitempty" jsonschema:"minimum=0,maximum=1000000000"`   // points that whoever causes it pays

	unknown []string // fields that no kind knows, of a file
}

// Does is the settings of an output of one kind.
type Does interface {
	Kind() Kind
	// Says tells in a few words what it does.
	Says(n who.Names) string
	// Check reports what keeps an output from being done; at is a field of the output.
	Check(o *Output, in In, fault func(at, what, remedy string))
}

// Bringing is what a happening can be made of that an output brings about.
type Bringing struct {
	Person event.Person // who is behind it, where somebody is
	Member string       // who asked for it by hand
	Rest   string       // what stands behind a command
}

// Brings is what of a kind that goes back in brings about: a happening, or why there is none.
type Brings interface {
	Brings(b Bringing) (happens event.Data, why string)
}

// Some settings tell more of themselves, where there is more to tell.
type (
	// Wordings has wordings beside the alternatives, by the field they stand in.
	wordings interface{ Wordings() map[string]string }
	towards  interface{ Towards(n who.Names) string }
	worded   interface{ Worded() bool }
	fitted   interface{ FittingName() string }
	shown    interface{ MediaName() string }
	onScreen interface{ Screen() *OnScreen }
	placed   interface{ PlaceName() string }
	concerns interface{ Concerns() bool }
)

// In is where an output stands: in a courtesy of a when and slot, on a channel.
type In struct {
	When  string
	Slot  happening.Slot
	Burst bool // many of one kind become one
	World
}

// World is what a channel's outputs can reach, as far as it bounds them. Nil functions
// and empty maps know of nothing.
type World struct {
	Places   map[string]bool
	Fittings map[string]string   // name → kind
	Scenes   map[string][]string // of the fittings that have scenes
	Chat     []string            // platforms with a chat door
	Streamer []string            // platforms where lines may go out as the streamer
	Commands map[string]bool     // ids of what can be asked for
	Cannot   func(platform string, act Act) string

	FittingCannot func(fitting, manner string) string // why a fitting cannot do one of the things that its kind does; nil: it can

	Overlays    bool                                   // there are some
	ScreenLacks func(effect Kind, at *OnScreen) string // why something is shown on no overlay there
	PlaceCannot func(place, what string) string        // why a place cannot do one of [Wishes], or be the "account" that posts are asked for at
}

// The kinds of fittings: what the house works on the stage.
const (
	Player = "player" // sounds, films, speech and music
	Lights = "lamp"
	Scenes = "scenes" // the streaming software's scenes
)

// cannot reports what a fitting cannot do.
func (w *World) cannot(fitting, manner string, fault func(at, what, remedy string)) {
	if w.FittingCannot == nil {
		return
	}
	if why := w.FittingCannot(fitting, manner); why != "" {
		fault("fitting", why, "choose another fitting, or another thing to do")
	}
}

// MostCost is how many points something may cost.
const MostCost = 1_000_000_000

// Kind is the name of its kind; "" where it has none.
func (o *Output) Kind() Kind {
	if o.Do == nil {
		return ""
	}
	return o.Do.Kind()
}

// Spec is what is known of its kind; nothing of one that is in no catalogue.
func (o *Output) Spec() Spec { return Of(o.Kind()) }

// Way is how it goes out: what fittings do that has none goes to the overlays.
func (o *Output) Way() Way {
	if at := o.Screen(); at != nil && o.Fitting() == "" {
		return ToOverlay
	}
	return o.Spec().Way
}

// WayTo is how what an output of a kind does goes out, by where it goes.
func (s *Spec) WayTo(to string) Way {
	if s.Way == ToFitting && to == Overlay {
		return ToOverlay
	}
	return s.Way
}

// Screen says where on the overlays it is shown or played; nil for what never is.
func (o *Output) Screen() *OnScreen {
	if x, ok := o.Do.(onScreen); ok {
		return x.Screen()
	}
	return nil
}

// Worded reports whether an output says something in words of its own.
func (o *Output) Worded() bool {
	if w, ok := o.Do.(worded); ok {
		return w.Worded()
	}
	return o.Spec().Worded
}

// Joins reports whether an output can speak to several at once in words.
func (o *Output) Joins() bool { return o.Spec().Joins }

// Does says in a few words what an output does.
func (o *Output) Does(n who.Names) string {
	if o.Do == nil {
		return ""
	}
	return o.Do.Says(n)
}

// Towards says where words go.
func (o *Output) Towards(n who.Names) string {
	if t, ok := o.Do.(towards); ok {
		return t.Towards(n)
	}
	return "chat"
}

// Fitting names the fitting that works it, or "".
func (o *Output) Fitting() string {
	if f, ok := o.Do.(fitted); ok {
		return f.FittingName()
	}
	return ""
}

// Media names what it shows or plays, on the shelf, or "".
func (o *Output) Media() string {
	if m, ok := o.Do.(shown); ok {
		return m.MediaName()
	}
	return ""
}

// Place names where it is posted, or "".
func (o *Output) Place() string {
	if p, ok := o.Do.(placed); ok {
		return p.PlaceName()
	}
	return ""
}

// ForLeave reports whether what it does waits until a member allows it.
func (o *Output) ForLeave() bool {
	x, ok := o.Do.(interface{ ForLeave() bool })
	return ok && x.ForLeave()
}

// Concerns reports whether an output does something to a person: whoever is meant.
func (o *Output) Concerns() bool {
	c, ok := o.Do.(concerns)
	return ok && c.Concerns()
}

// Wordings are the wordings of its kind beside the alternatives, by the field they stand
// in: "second", "fields.height".
func (o *Output) Wordings() map[string]string {
	if w, ok := o.Do.(wordings); ok {
		return w.Wordings()
	}
	return nil
}

// Check reports what keeps an output from coming into force.
func (o *Output) Check(in In, fault func(at, what, remedy string)) {
	spec := o.Spec()
	if spec.New == nil {
		fault("kind", fmt.Sprintf("%q is no output", o.Kind()), "use "+strings.Join(kindNames(), ", "))
		return
	}
	if f := o.Fitting(); spec.Fitting != "" && in.Fittings[f] != spec.Fitting && (f != "" || o.Screen() == nil || !in.Overlays) {
		fault("fitting", fmt.Sprintf("%q is no %s", f, spec.Fitting), o.fittingRemedy())
	} else if why := o.screenLacks(in); why != "" {
		fault("box", why, "choose another under On screen, or leave it out")
	} else if o.Worded() && len(o.Alternatives) == 0 {
		fault("alternatives", "are missing", "write at least one wording")
	} else {
		o.Do.Check(o, in, fault)
	}
	for i, p := range o.On {
		if slices.Contains(o.On[:i], p) {
			fault(fmt.Sprintf("on.%d", i), p+" stands twice", "name each platform once")
		}
	}
	if o.DelaySeconds < 0 || o.DelaySeconds > 3600 || o.WaitSeconds < 0 || o.WaitSeconds > 3600 {
		fault("delaySeconds", "is out of range", "use 0 to 3600 seconds")
	}
	if o.Cost < 0 || o.Cost > MostCost {
		fault("cost", "is out of range", "use 0 to 1000000000 points")
	}
	if len(o.Weights) > len(o.Alternatives) || slices.ContainsFunc(o.Weights, func(n int) bool { return n < 1 || n > 9 }) {
		fault("weights", "do not fit the alternatives", "give each alternative a weight of 1 to 9")
	}
	if in.Burst && o.Joins() && len(o.Joined) == 0 {
		fault("joined", "are missing", "write what is said when several come at once")
	}
	if o.Only != nil {
		o.Only.Check("only", fault)
	}
	if o.Measure != nil {
		o.Measure.Check(fault)
	}
}

func (o *Output) fittingRemedy() string {
	if o.Screen() != nil {
		return "use the name of one of your fittings of that kind, or make an overlay and leave it out"
	}
	return "use the name of one of your fittings of that kind"
}

// screenLacks is why it is shown on no overlay, where it says on which.
func (o *Output) screenLacks(in In) string {
	at := o.Screen()
	if at == nil || *at == (OnScreen{}) || in.ScreenLacks == nil || o.Way() != ToOverlay {
		return ""
	}
	return in.ScreenLacks(o.Kind(), at)
}

// lasts checks how long something lasts, in seconds.
func lasts(seconds float64, fault func(at, what, remedy string)) {
	if seconds < 0 || seconds > 3600 {
		fault("seconds", "is out of range", "use 0 to 3600 seconds")
	}
}

// loud checks how loud something is, of 100.
func loud(n int, fault func(at, what, remedy string)) {
	if n < 0 || n > 100 {
		fault("loud", "is out of range", "use 1 to 100")
	}
}

var index = map[Kind]Spec{}

func init() {
	for _, s := range Catalogue {
		index[s.New().Kind()] = s
	}
}

// Add takes one more into the catalogue. It is for the beginning of a program, before
// anything is read.
func Add(s Spec) {
	index[s.New().Kind()] = s
	Catalogue = append(Catalogue, s)
}

// Of is what is known of a kind; nothing of one that is in no catalogue.
func Of(kind Kind) Spec { return index[kind] }

func kindNames() []string {
	var out []string
	for _, s := range Catalogue {
		out = append(out, string(s.New().Kind()))
	}
	return out
}

// plain is an output without its own ways to be written and read.
type plain Output

// written is an output in a house file, but for the settings of its kind.
type written struct {
	ID   string `json:"id"`
	Kind Kind   `json:"kind"`
	*plain
}

// MarshalJSON writes an output as one flat object.
func (o Output) MarshalJSON() ([]byte, error) {
	all, err := json.Marshal(written{o.ID, o.Kind(), (*plain)(&o)})
	if err != nil || o.Do == nil {
		return all, err
	}
	mine, err := json.Marshal(o.Do)
	return flat.Join(all, mine), err
}

// UnmarshalJSON reads an output. What its kind does not know and another does is passed
// over; what none knows is told by [Output.Unknown].
func (o *Output) UnmarshalJSON(raw []byte) error {
	*o = Output{}
	in := written{plain: (*plain)(o)}
	if err := json.Unmarshal(raw, &in); err != nil {
		return err
	}
	o.ID = in.ID
	if spec := Of(in.Kind); spec.New != nil {
		o.Do = spec.New()
		if err := json.Unmarshal(raw, o.Do); err != nil {
			return err
		}
	} else if in.Kind != "" {
		o.Do = &unheard{kind: in.Kind}
	}
	var keys map[string]json.RawMessage
	if err := json.Unmarshal(raw, &keys); err != nil {
		return err
	}
	for k := range keys {
		if !known(k) {
			o.unknown = append(o.unknown, k)
		}
	}
	slices.Sort(o.unknown)
	return nil
}

// Unknown lists the fields that an output was read with and no kind knows.
func (o *Output) Unknown() []string { return o.unknown }

// known reports whether a field is one of outputs, of whatever kind.
func known(field string) bool {
	if field == "kind" || slices.Contains(fieldsOf(reflect.TypeFor[Output]()), field) {
		return true
	}
	return slices.ContainsFunc(Catalogue, func(s Spec) bool { return slices.Contains(fieldsOf(reflect.TypeOf(s.New()).Elem()), field) })
}

func fieldsOf(t reflect.Type) []string {
	var out []string
	for _, f := range reflect.VisibleFields(t) {
		if name, _, _ := strings.Cut(f.Tag.Get("json"), ","); name != "" && name != "-" {
			out = append(out, name)
		}
	}
	return out
}

// unheard is an output of a kind that is in no catalogue: a newer house wrote it.
type unheard struct{ kind Kind }

func (u *unheard) Kind() Kind                                       { return u.kind }
func (u *unheard) Says(who.Names) string                            { return string(u.kind) }
func (u *unheard) Check(*Output, In, func(at, what, remedy string)) {}
func (u *unheard) MarshalJSON() ([]byte, error)                     { return []byte("{}"), nil }

// Told is what a fitting, a platform or the overlay is told. As JSON it is one flat object:
// what is told of everything, and what the effect's own kind tells.
type Told struct {
	Effect Kind     `json:"effect"`
	Text   string   `json:"text,omitempty"`   // a card's heading, what is spoken, the new title
	Person string   `json:"person,omitempty"` // account key
	Names  []string `json:"names,omitempty"`  // of what is for several
	Try    bool     `json:"try,omitempty"`    // a member tries it
	Face   string   `json:"face,omitempty"`   // of a card: where the person's picture is, as their platform told it

	Do any `json:"-"` // what its kind tells
}

// teller makes what is told of its settings.
type teller interface{ Tell(t Telling) any }

// Telling is what an output's kind may tell of what it is done about: its own wordings,
// filled in, by their fields; and the login and the line of chat of whoever it is about.
type Telling struct {
	Words   map[string]string
	Login   string
	Message string
}

// Tell is what is told of an output.
func (o *Output) Tell(t Telling) Told {
	told := Told{Effect: o.Kind()}
	if x, ok := o.Do.(teller); ok {
		told.Do = x.Tell(t)
	}
	return told
}

// Gist is what is told in a few words: the text, or else what it is about.
func (t Told) Gist() string {
	if t.Text != "" {
		return t.Text
	}
	if g, ok := t.Do.(interface{ Gist() string }); ok {
		return g.Gist()
	}
	return ""
}

// Coming says what it is while it is coming up, where it has no words.
func (t Told) Coming() string {
	if c, ok := t.Do.(interface{ Coming() string }); ok {
		return c.Coming()
	}
	return string(t.Effect)
}

// Manner is which of the things that its fitting can do it is.
func (t Told) Manner() string {
	if m, ok := t.Do.(interface{ Manner() string }); ok {
		return m.Manner()
	}
	return string(t.Effect)
}

// Lasts is after how long what a fitting does goes back to what was; 0 is never.
func (t Told) Lasts() time.Duration {
	if l, ok := t.Do.(interface{ Lasts() time.Duration }); ok {
		return l.Lasts()
	}
	return 0
}

// Texts are the texts in which somebody's name may stand.
func (t *Told) Texts() []*string {
	out := []*string{&t.Text}
	if x, ok := t.Do.(interface{ Texts() []*string }); ok {
		out = append(out, x.Texts()...)
	}
	return out
}

type plainTold Told

// MarshalJSON writes it as one flat object.
func (t Told) MarshalJSON() ([]byte, error) {
	all, err := json.Marshal(plainTold(t))
	if err != nil || t.Do == nil {
		return all, err
	}
	mine, err := json.Marshal(t.Do)
	return flat.Join(all, mine), err
}

// UnmarshalJSON reads it; of an effect that is in no catalogue what is told of everything.
func (t *Told) UnmarshalJSON(raw []byte) error {
	*t = Told{}
	if err := json.Unmarshal(raw, (*plainTold)(t)); err != nil {
		return err
	}
	spec := Of(t.Effect)
	switch {
	case spec.Told != nil:
		t.Do = spec.Told()
	case spec.New != nil && spec.Way.Staged():
		t.Do = spec.New()
	default:
		return nil
	}
	return json.Unmarshal(raw, t.Do)
}

// JSON is what is told as it is sent and logged.
func (t Told) JSON() json.RawMessage {
	raw, _ := json.Marshal(t)
	return raw
}
