package courtesy

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"vividporch/core/happening"
	"vividporch/core/who"
	"vividporch/core/wording"
)

// Output is one thing a courtesy does. Which fields matter is a question of its
// kind; the others stay empty.
type Output struct {
	ID           string       `json:"id" jsonschema:"minLength=1"`
	Kind         OutputKind   `json:"kind" jsonschema:"enum=say,enum=shout-out,enum=card,enum=sound,enum=film,enum=speak,enum=lamp,enum=scene,enum=relay,enum=platform,enum=raise"`
	Alternatives []string     `json:"alternatives,omitempty"`                                     // ICU MessageFormat; one is picked. Of a card: its heading; of a title or category: the new one
	Weights      []int        `json:"weights,omitempty"`                                          // how often each is picked beside the others, 1 to 9; missing ones count 1
	Joined       []string     `json:"joined,omitempty"`                                           // words for several people at once
	DelaySeconds float64      `json:"delaySeconds,omitempty" jsonschema:"minimum=0,maximum=3600"` // wait before it may go out
	WaitSeconds  float64      `json:"waitSeconds,omitempty" jsonschema:"minimum=0,maximum=3600"`  // given up after waiting so long; 0 is the house's setting
	Only         *who.Who     `json:"only,omitempty"`                                             // a condition of this output alone
	Measure      *who.Measure `json:"measure,omitempty"`                                          // likewise
	Ask          bool         `json:"ask,omitempty"`                                              // ask the platform for link and last category first

	On      []string          `json:"on,omitempty"` // platforms; none: where it happened
	As      string            `json:"as,omitempty" jsonschema:"enum=streamer"`
	Place   string            `json:"place,omitempty"`                                       // of a relay: the place's name
	Second  string            `json:"second,omitempty"`                                      // of a card: its second line, a wording
	Media   string            `json:"media,omitempty"`                                       // of a card, sound or film: what it shows or plays, by its name on the shelf
	Fitting string            `json:"fitting,omitempty"`                                     // of a sound, film, speech, lamp or scene: what works it
	Loud    int               `json:"loud,omitempty" jsonschema:"minimum=0,maximum=100"`     // of a sound, film or speech: 1 to 100; 0 is 60
	Voice   string            `json:"voice,omitempty"`                                       // of speech
	Seconds float64           `json:"seconds,omitempty" jsonschema:"minimum=0,maximum=3600"` // how long it lasts
	Colour  string            `json:"colour,omitempty"`                                      // of a lamp, "#rrggbb"
	Scene   string            `json:"scene,omitempty"`
	Event   string            `json:"event,omitempty"`  // of a raised event: its name
	Fields  map[string]string `json:"fields,omitempty"` // and its fields, as wordings

	// Of a platform action.
	Act Act `json:"act,omitempty" jsonschema:"enum=title,enum=category,enum=clip,enum=advert break,enum=slow chat,enum=emote-only chat,enum=subscribers-only chat,enum=give VIP,enum=take VIP,enum=delete line,enum=platform shout-out"`
}

// OutputKind is what sort of output it is.
type OutputKind string

// The kinds of outputs. All but shout-out are effects that leave the house under
// the same name; a raised event comes back in as a happening.
const (
	Say      OutputKind = "say"
	DoShout  OutputKind = "shout-out" // whichever courtesy shouts this person out runs
	Card     OutputKind = "card"
	Sound    OutputKind = "sound"
	Film     OutputKind = "film"
	Speak    OutputKind = "speak"
	Lamp     OutputKind = "lamp"
	Scene    OutputKind = "scene"
	Relay    OutputKind = "relay"
	Platform OutputKind = "platform"
	Raise    OutputKind = "raise"
)

// Act is what a platform is asked to do.
type Act string

// The platform actions. Each but a clip, an advert break, a shout-out and a removed
// line can be undone.
const (
	SetTitle        Act = "title"
	SetCategory     Act = "category"
	MakeClip        Act = "clip"
	AdvertBreak     Act = "advert break"
	SlowChat        Act = "slow chat"
	EmoteOnly       Act = "emote-only chat"
	SubscribersOnly Act = "subscribers-only chat"
	GiveVIP         Act = "give VIP"
	TakeVIP         Act = "take VIP"
	DeleteLine      Act = "delete line"
	PlatformShout   Act = "platform shout-out"
)

// Acts lists every platform action.
func Acts() []Act {
	return []Act{SetTitle, SetCategory, MakeClip, AdvertBreak, SlowChat, EmoteOnly, SubscribersOnly, GiveVIP, TakeVIP, DeleteLine, PlatformShout}
}

// Undoable reports whether an action can be taken back.
func (a Act) Undoable() bool {
	switch a {
	case MakeClip, AdvertBreak, DeleteLine, PlatformShout:
		return false
	}
	return true
}

// AdvertLength reports whether an advert break may last so many seconds.
func AdvertLength(seconds float64) bool { return seconds >= 30 && seconds <= 180 }

// OfPerson reports whether an action is about somebody.
func (a Act) OfPerson() bool { return a == GiveVIP || a == TakeVIP || a == PlatformShout }

// Concerns reports whether an output does something to a person: whoever is meant.
func (o *Output) Concerns() bool {
	return o.Kind == DoShout || o.Kind == Platform && o.Act.OfPerson()
}

// Concerns reports whether a courtesy does something to a person.
func (r *Ready) Concerns() bool {
	return slices.ContainsFunc(r.Outputs, func(o ReadyOutput) bool { return o.Concerns() })
}

// Worded reports whether an output says something in words of its own.
func (o *Output) Worded() bool {
	switch o.Kind {
	case Say, Card, Speak, Relay:
		return true
	case Platform:
		return o.Act == SetTitle || o.Act == SetCategory
	}
	return false
}

// Joins reports whether an output can speak to several at once in words.
func (o *Output) Joins() bool { return o.Kind == Say || o.Kind == Card || o.Kind == Speak }

// The kinds of fittings: what the house works on the stage.
const (
	Player = "player" // sounds, films and speech
	Lights = "lamp"
	Scenes = "scenes" // the streaming software's scenes
)

// fittingFor tells which kind of fitting an output needs, or "".
func fittingFor(k OutputKind) string {
	switch k {
	case Sound, Film, Speak:
		return Player
	case Lamp:
		return Lights
	case Scene:
		return Scenes
	}
	return ""
}

// World is what a channel's courtesies can reach and offer, as far as it bounds
// them. Nil functions and empty maps know of nothing.
type World struct {
	Places   map[string]bool
	Fittings map[string]string           // name → kind
	Scenes   map[string][]string         // of the fittings that have scenes
	FillIns  []wording.FillIn            // the channel's own, offered everywhere
	Events   map[string][]wording.FillIn // what other services' events bring, by the event's name
	Chat     []string                    // platforms with a chat door
	Streamer []string                    // platforms where lines may go out as the streamer
	Cannot   func(platform string, act Act) string
}

// Offers lists every fill-in that the wordings of a courtesy can use.
func (w World) Offers(c Courtesy) []wording.FillIn {
	out := happening.Of(c.When).Offers()
	if c.When == happening.OtherType {
		names := map[string]bool{}
		c.Who.Each(func(k *who.Who) {
			if e := k.Fields["event"]; e != "" {
				names[strings.ToLower(e)] = true
			}
		})
		for name, brings := range w.Events {
			if names[strings.ToLower(name)] {
				out = append(out, fresh(out, brings)...)
			}
		}
	}
	return append(out, fresh(out, w.FillIns)...)
}

// fresh leaves out the fill-ins whose names are taken.
func fresh(taken, more []wording.FillIn) []wording.FillIn {
	var out []wording.FillIn
	for _, f := range more {
		if !slices.ContainsFunc(taken, func(t wording.FillIn) bool { return t.Name == f.Name }) {
			out = append(out, f)
		}
	}
	return out
}

// ReadyOutput is an output with its wordings parsed.
type ReadyOutput struct {
	Output
	Alts   []*wording.Wording
	Joined []*wording.Wording
	Second *wording.Wording            // nil when a card has none
	Fields map[string]*wording.Wording // of a raised event
}

// Fits reports whether an output's own condition holds for a cause, and if not why.
func (o *ReadyOutput) Fits(c who.Cause) (bool, string) {
	if o.Only != nil {
		if _, why := o.Only.Match(&c); why != "" {
			return false, why
		}
	}
	if o.Measure != nil {
		if why := o.Measure.Misfit(c.Quantities); why != "" {
			return false, why
		}
	}
	return true, ""
}

// ready checks an output and parses its wordings. fault takes paths within it.
func (o Output) ready(c Courtesy, w World, fault func(at, what, remedy string), words func(at string, srcs []string, offered []wording.FillIn) []*wording.Wording) ReadyOutput {
	o.check(c, w, fault)
	offered := w.Offers(c)
	out := ReadyOutput{Output: o, Alts: words("alternatives", o.Alternatives, offered), Joined: words("joined", o.Joined, happening.Of(c.When).JoinedOffers())}
	if o.Second != "" {
		if parsed := words("second", []string{o.Second}, offered); len(parsed) == 1 {
			out.Second = parsed[0]
		}
	}
	for _, k := range slices.Sorted(maps.Keys(o.Fields)) {
		if out.Fields == nil {
			out.Fields = map[string]*wording.Wording{}
		}
		out.Fields[k] = words("fields."+k, []string{o.Fields[k]}, offered)[0]
	}
	return out
}

func (o *Output) check(c Courtesy, w World, fault func(at, what, remedy string)) {
	need := fittingFor(o.Kind)
	switch o.Kind {
	case Say, DoShout, Card, Sound, Film, Speak, Lamp, Scene, Relay, Platform, Raise:
	default:
		fault("kind", fmt.Sprintf("%q is no output", o.Kind), "use say, shout-out, card, sound, film, speak, lamp, scene, relay, platform or raise")
		return
	}
	switch {
	case o.Kind == DoShout && c.Slot == happening.ShoutOut:
		fault("kind", "this courtesy is a shout-out itself, and cannot have another one run", "say it here in a line of chat, or take the slot out")
	case o.Kind == Relay && !w.Places[o.Place]:
		fault("place", fmt.Sprintf("there is no place %q", o.Place), "use the name of one of your places")
	case need != "" && w.Fittings[o.Fitting] != need:
		fault("fitting", fmt.Sprintf("%q is no %s", o.Fitting, need), "use the name of one of your fittings of that kind")
	case o.Worded() && len(o.Alternatives) == 0:
		fault("alternatives", "are missing", "write at least one wording")
	case (o.Kind == Sound || o.Kind == Film) && o.Media == "":
		fault("media", "is missing", "choose what is played from the shelf")
	case o.Kind == Scene && !slices.Contains(w.Scenes[o.Fitting], o.Scene):
		fault("scene", fmt.Sprintf("there is no scene %q", o.Scene), "use one of: "+strings.Join(w.Scenes[o.Fitting], ", "))
	case o.Kind == Lamp && !isColour(o.Colour):
		fault("colour", fmt.Sprintf("%q is no colour", o.Colour), `write it as "#rrggbb"`)
	case o.Kind == Raise && (o.Event == "" || len(o.Event) > 80):
		fault("event", "is missing or too long", "name the event in at most 80 letters")
	case o.Kind == Platform:
		o.checkAct(c, w, fault)
	case o.Kind == Say && o.As != "" && o.As != "streamer":
		fault("as", fmt.Sprintf("%q speaks for nobody", o.As), `use "streamer", or leave it out`)
	}
	for i, p := range o.On {
		if slices.Contains(o.On[:i], p) {
			fault(fmt.Sprintf("on.%d", i), p+" stands twice", "name each platform once")
		}
	}
	if o.Kind == Say {
		for i, p := range o.On {
			from, what := w.Chat, "the house has no chat door on "+p
			if o.As == "streamer" {
				from, what = w.Streamer, "no door of the streamer's own account is on "+p
			}
			if !slices.Contains(from, p) {
				fault(fmt.Sprintf("on.%d", i), what, "choose another platform, or open that door")
			}
		}
		if o.As == "streamer" && len(w.Streamer) == 0 {
			fault("as", "the house has no door of the streamer's own account", "open one, or let the house say it")
		}
	}
	if o.DelaySeconds < 0 || o.DelaySeconds > 3600 || o.WaitSeconds < 0 || o.WaitSeconds > 3600 {
		fault("delaySeconds", "is out of range", "use 0 to 3600 seconds")
	}
	if o.Seconds < 0 || o.Seconds > 3600 {
		fault("seconds", "is out of range", "use 0 to 3600 seconds")
	}
	if o.Loud < 0 || o.Loud > 100 {
		fault("loud", "is out of range", "use 1 to 100")
	}
	if len(o.Weights) > len(o.Alternatives) || slices.ContainsFunc(o.Weights, func(n int) bool { return n < 1 || n > 9 }) {
		fault("weights", "do not fit the alternatives", "give each alternative a weight of 1 to 9")
	}
	if c.Burst != nil && o.Joins() && len(o.Joined) == 0 {
		fault("joined", "are missing", "write what is said when several come at once")
	}
	if o.Only != nil {
		o.Only.Check("only", fault)
	}
	if o.Measure != nil {
		o.Measure.Check(fault)
	}
}

func (o *Output) checkAct(c Courtesy, w World, fault func(at, what, remedy string)) {
	if !slices.Contains(Acts(), o.Act) {
		fault("act", fmt.Sprintf("%q is no platform action", o.Act), "use one of the actions listed in the schema")
		return
	}
	if o.Act == DeleteLine && c.When != happening.Arrival && c.When != happening.Hello && c.When != happening.Command {
		fault("act", "no line of chat comes with this", "choose another when, or another action")
	}
	if o.Act == AdvertBreak && !AdvertLength(o.Seconds) {
		fault("seconds", "is out of range", "an advert break lasts 30 to 180 seconds")
	}
	if w.Cannot == nil {
		return
	}
	for i, p := range o.On {
		if why := w.Cannot(p, o.Act); why != "" {
			fault(fmt.Sprintf("on.%d", i), why, "choose another platform or action")
		}
	}
	if len(o.On) == 0 && len(w.Chat) > 0 && !slices.ContainsFunc(w.Chat, func(p string) bool { return w.Cannot(p, o.Act) == "" }) {
		fault("act", "no platform of yours can do this: "+w.Cannot(w.Chat[0], o.Act), "choose another action")
	}
}

func isColour(s string) bool {
	return len(s) == 7 && s[0] == '#' && strings.Trim(strings.ToLower(s[1:]), "0123456789abcdef") == ""
}

// circles finds courtesies whose raised events come back to them, directly or
// through others.
func circles(list []Courtesy) []Fault {
	hears := func(c *Courtesy, event string) bool {
		if c.When != happening.OtherType || c.Away {
			return false
		}
		want := c.Who.Fields["event"]
		return want == "" || strings.EqualFold(want, event)
	}
	shouts := func(i, j int) bool { // whichever courtesy may shout out for another, as the house chooses it
		c := &list[j]
		return list[i].Slot != happening.ShoutOut && c.Slot == happening.ShoutOut && !c.Away && (c.When == list[i].When || c.When == happening.RaidCameType || c.When == happening.Arrival)
	}
	next := func(i int) []int {
		var out []int
		for _, o := range list[i].Do {
			if list[i].Away {
				continue
			}
			for j := range list {
				if (o.Kind == Raise && hears(&list[j], o.Event) || o.Kind == DoShout && shouts(i, j)) && !slices.Contains(out, j) {
					out = append(out, j)
				}
			}
		}
		return out
	}
	var faults []Fault
	const white, grey, black = 0, 1, 2
	colour := make([]int, len(list))
	var walk func(i int, path []string)
	walk = func(i int, path []string) {
		colour[i] = grey
		path = append(path, list[i].ID)
		for _, j := range next(i) {
			switch colour[j] {
			case grey:
				from := slices.Index(path, list[j].ID)
				faults = append(faults, Fault{Courtesy: list[i].ID, At: "do", What: "events go in a circle: " + strings.Join(append(slices.Clone(path[max(0, from):]), list[j].ID), " brings on "),
					Remedy: "raise an event of another name, or ask for an event's name in the one that hears it"})
			case white:
				walk(j, path)
			}
		}
		colour[i] = black
	}
	for i := range list {
		if colour[i] == white {
			walk(i, nil)
		}
	}
	return faults
}
