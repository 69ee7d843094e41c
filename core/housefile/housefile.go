// Package housefile is the settings of a house as a document: what a streamer can set,
// how a file of it is read, checked and lifted from an older format, and how two of them
// are compared, merged, taken apart and taken back, field by field.
//
// [Settings] is the document. A version of it is never changed; a change makes the next.
// [Settings.Check] holds it to its own bounds; whether its courtesies can be done, and
// its words read, is asked when it is made a plan.
package housefile

import (
	"bytes"
	"cmp"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"

	"vividporch/core/box"
	"vividporch/core/courtesy"
	"vividporch/core/dates"
	"vividporch/core/fitting"
	"vividporch/core/happening"
	"vividporch/core/output"
	"vividporch/core/people"
	"vividporch/core/place"
	"vividporch/core/profile"
	"vividporch/core/reading"
	"vividporch/core/spoken"
	"vividporch/core/trouble"
)

// Settings is the house file: everything a streamer can set, as one document.
// A version of it is never changed; a change makes the next version.
type Settings struct {
	Format    int                 `json:"format" jsonschema:"enum=3"` // of this file; 3
	Channel   string              `json:"channel" jsonschema:"minLength=1"`
	Name      string              `json:"name,omitempty" jsonschema:"maxLength=60"` // what the house is called; none is by its account
	Reach     Reach               `json:"reach,omitzero"`
	Zone      string              `json:"zone"`                                                        // IANA name
	Seed      string              `json:"seed"`                                                        // of all chance on this channel
	Grace     *float64            `json:"graceSeconds,omitempty" jsonschema:"minimum=0,maximum=86400"` // how long every platform may be gone before a stream has ended; absent is ten minutes, 0 none
	Pace      Pace                `json:"pace"`
	Never     []string            `json:"never"` // logins or account keys that are never greeted
	Doors     []Door              `json:"doors"`
	Profiles  []profile.Profile   `json:"profiles,omitempty"` // of platforms, that this file carries
	Readings  []reading.Reading   `json:"readings,omitempty"` // how other services' messages are understood
	Places    []Place             `json:"places"`
	Courtesy  []courtesy.Courtesy `json:"courtesies"`
	JoinWords []string            `json:"joined"` // for several people whose greetings differ
	Standings people.Rules        `json:"standings,omitzero"`
	LeapDay   dates.LeapRule      `json:"leapDay,omitempty" jsonschema:"enum=28 February,enum=1 March"` // when a 29 February is kept in other years
	Privacy   Privacy             `json:"privacy,omitzero"`
	Hello     Hello               `json:"hello,omitzero"`
	Commands  Commands            `json:"commands,omitzero"`
	ShoutOuts ShoutOuts           `json:"shoutOuts,omitzero"`

	Along map[string]string `json:"along,omitempty"` // by platform: the address that shows several channels side by side, "https://side.example/{login}/{next}"

	Neighbours []string                   `json:"neighbours,omitempty"` // other assistants in the channel: logins or account keys
	AlsoOn     AlsoOn                     `json:"alsoOn,omitzero"`
	Announcing output.Announcing          `json:"announcing,omitzero"`
	Unclear    []string                   `json:"unclear,omitempty"` // asks back whom a command means: {name}, {typed}, {near}; none are the house's own words
	Fittings   []Fitting                  `json:"fittings,omitempty"`
	Overlays   []box.Overlay              `json:"overlays,omitempty"`
	Ear        box.Ear                    `json:"ear,omitzero"`
	Guard      trouble.Guard              `json:"guard,omitzero"`
	FillIns    []FillIn                   `json:"fillIns,omitempty"` // the channel's own
	Own        []OtherEvent               `json:"own,omitempty"`     // events of other services, described
	Emotes     []Emote                    `json:"emotes,omitempty"`
	Rooms      map[string]json.RawMessage `json:"rooms,omitempty"` // sections of rooms, by their names
}

// Sections are the parts of a house file that can be taken in one by one, in the
// order in which they stand there.
var Sections = []string{"channel", "name", "reach", "zone", "seed", "graceSeconds", "pace", "never", "doors", "profiles", "readings", "places", "courtesies", "joined", "standings", "leapDay", "privacy", "hello", "commands", "shoutOuts", "along", "neighbours", "alsoOn", "announcing", "unclear", "fittings", "overlays", "ear", "guard", "fillIns", "own", "emotes", "rooms"}

// Unnamed is what a channel is called that nobody has named yet: its house is empty, and
// takes any file in as its own.
const Unnamed = "new-house"

// ReadSettings decodes a house file and refuses fields it does not know.
func ReadSettings(raw []byte) (*Settings, error) {
	dec := json.NewDecoder(bytes.NewReader(Lift(raw)))
	dec.DisallowUnknownFields()
	s := &Settings{}
	if err := dec.Decode(s); err != nil {
		return nil, fmt.Errorf("the house file cannot be read: %w", err)
	}
	for _, c := range s.Courtesy {
		for i := range c.Do {
			if names := c.Do[i].Unknown(); len(names) > 0 {
				return nil, fmt.Errorf("the house file cannot be read: unknown field %q in an output of %s", names[0], c.ID)
			}
		}
	}
	return s, nil
}

// ReadStored decodes settings that were in force once. Fields that this house does not
// know are passed over: a newer one wrote them.
func ReadStored(raw []byte) (*Settings, error) {
	s := &Settings{}
	if err := json.Unmarshal(Lift(raw), s); err != nil {
		return nil, fmt.Errorf("these settings cannot be read: %w", err)
	}
	return s, nil
}

// Pace bounds how much the house says.
type Pace struct {
	GapSeconds       float64 `json:"gapSeconds" jsonschema:"minimum=0,maximum=86400"`       // least time between two house lines on a platform
	WaitSeconds      float64 `json:"waitSeconds" jsonschema:"minimum=0,maximum=86400"`      // a line is given up after waiting so long
	JoinAt           int     `json:"joinAt"`                                                // so many waiting greetings become one line; 0 never
	JoinNames        int     `json:"joinNames"`                                             // names in such a line
	JoinEverySeconds float64 `json:"joinEverySeconds" jsonschema:"minimum=0,maximum=86400"` // rest after one
	AskSeconds       float64 `json:"askSeconds" jsonschema:"minimum=0,maximum=86400"`       // longest wait for a look-up

	TimersApart  float64 `json:"timersApartMinutes,omitempty" jsonschema:"minimum=0,maximum=120"` // least time between any two timers on a platform; 0 is 5
	SharePercent float64 `json:"sharePercent,omitempty" jsonschema:"minimum=0,maximum=100"`       // of the last 50 lines the house's: from there on timers are held, with 100 never; 0 is 20

	PersonSeconds float64 `json:"personSeconds,omitempty" jsonschema:"minimum=0,maximum=600"` // least time between two greetings or thanks to one person; 0 none
}

// Reach is how the house is reached by browsers. None is as it was started.
type Reach struct {
	How     string `json:"how,omitempty" jsonschema:"enum=here,enum=home,enum=public"`
	Address string `json:"address,omitempty"` // public: "https://porch.example"
}

// How a house is reached.
const (
	Here   = "here"   // from its own machine alone
	Home   = "home"   // in the home network too
	Public = "public" // from anywhere, at its address
)

// Closed says why viewers cannot open links to the house, or "".
func (r Reach) Closed() string {
	switch r.How {
	case Here:
		return "the house is reached from its own machine alone"
	case Home:
		return "the house is reached in the home network alone"
	}
	return ""
}

// Door is where things come in and, for chat, where the house speaks. What is known of its
// platform is the platform's profile. Passwords and secrets are kept apart, under the door's name.
type Door struct {
	Name     string `json:"name" jsonschema:"minLength=1"`
	Kind     string `json:"kind" jsonschema:"enum=irc,enum=inbox,enum=hook,enum=listen"`
	Platform string `json:"platform"`
	Address  string `json:"address,omitempty"` // host:port of a chat network
	TLS      bool   `json:"tls,omitempty"`
	Room     string `json:"room,omitempty"`                          // the chat channel, with its sign
	Account  string `json:"account,omitempty"`                       // the login the house speaks as
	As       string `json:"as,omitempty" jsonschema:"enum=streamer"` // of a chat door that only speaks, under the streamer's own account
	Shared   bool   `json:"shared,omitempty"`                        // of a chat door: the account is the streamer's own, who speaks under it too
	Paused   bool   `json:"paused,omitempty"`                        // it stays shut until somebody opens it

	Service *reading.Service `json:"service,omitempty"` // of a hook or a listening door: how another service's messages come in
}

// Place is where the house speaks outside chat.
type Place = place.Place

// Fitting is something the house works on the stage: an address that takes what it is told as its profile says. Without a
// profile it is told all there is as JSON, signed as a Standard Webhook where a secret is kept under its name.
type Fitting struct {
	Name   string   `json:"name" jsonschema:"minLength=1"`
	Title  string   `json:"title"`
	Kind   string   `json:"kind" jsonschema:"enum=player,enum=lamp,enum=scenes"`
	URL    string   `json:"url"`
	Scenes []string `json:"scenes,omitempty"` // that can be gone to
	Voices []string `json:"voices,omitempty"` // that a player can speak in

	Profile string           `json:"profile,omitempty"` // the name of one that ships
	Own     *fitting.Profile `json:"own,omitempty"`     // or one of its own, which comes first
}

// Spoken is how it is spoken to; nil without a profile.
func (f *Fitting) Spoken() *fitting.Profile {
	if f.Own != nil {
		return f.Own
	}
	return fitting.Named(f.Profile)
}

// Cannot tells what of the things of its kind it cannot do, and why.
func (f *Fitting) Cannot() map[string]string {
	out := map[string]string{}
	if p := f.Spoken(); p != nil {
		for _, manner := range fitting.Manners(f.Kind) {
			if why := p.Cannot(manner); why != "" {
				out[manner] = why
			}
		}
	}
	return out
}

// Privacy is what viewers can ask in chat about what is kept, and for how long
// chat is kept. Words are said as the whole line, in any case.
type Privacy struct {
	Ask      []string `json:"ask"`                                           // words that ask what is kept
	Forget   []string `json:"forget"`                                        // words that ask to be forgotten
	Confirm  []string `json:"confirm"`                                       // second words that confirm it, within a minute
	Remember []string `json:"remember"`                                      // words by which somebody forgotten is recorded again
	KeepDays int      `json:"keepDays" jsonschema:"minimum=0,maximum=36500"` // of what people said in chat; 0 is for ever
	Link     []string `json:"link"`                                          // private message: {name}, {link}
	Open     []string `json:"open"`                                          // said where there are no private messages: {name}
	Sure     []string `json:"sure"`                                          // asks for the second word: {name}, {word}
	Gone     []string `json:"gone"`                                          // said once all is forgotten

	DeliveredDays int `json:"deliveredDays,omitempty" jsonschema:"minimum=0,maximum=36500"` // what went to places is kept so long; 0 is 30
	FailedDays    int `json:"failedDays,omitempty" jsonschema:"minimum=0,maximum=36500"`    // and what did not arrive; 0 is 90
}

// Hello says which words are a hello and how often one is answered.
type Hello struct {
	Words         []string `json:"words"`         // in any case and with or without accents; several words are a phrase
	RestSeconds   float64  `json:"restSeconds"`   // least time between two answers
	PersonSeconds float64  `json:"personSeconds"` // least time between two answers to one person, their arrival counted as one
}

// Commands is what all commands have in common.
type Commands struct {
	Signs map[string]string `json:"signs,omitempty"` // by platform: what stands before a command's name, one character or several of which any will do; none is "!"
}

// ShoutOuts bounds whom the house shouts out of its own accord, and how often.
type ShoutOuts struct {
	GapSeconds  float64  `json:"gapSeconds,omitempty" jsonschema:"minimum=0,maximum=600"`   // least time between two, whoever asked for them; what comes sooner waits
	PersonHours float64  `json:"personHours,omitempty" jsonschema:"minimum=0,maximum=8760"` // of its own accord, least time until the same person again, over streams
	Never       []string `json:"never,omitempty"`                                           // logins or account keys that it does not shout out of its own accord
}

// UsualSign stands before commands where nothing else is set.
const UsualSign = "!"

// SignsOn are the signs before commands on a platform, in a row; the first is the one that is
// told to viewers.
func (c *Commands) SignsOn(platform string) string { return cmp.Or(c.Signs[platform], UsualSign) }

// AllSigns are the signs before commands on any platform, in a row.
func (s *Settings) AllSigns() string {
	out := UsualSign
	for _, platform := range slices.Sorted(maps.Keys(s.Commands.Signs)) {
		for _, sign := range s.Commands.Signs[platform] {
			if !strings.ContainsRune(out, sign) {
				out += string(sign)
			}
		}
	}
	return out
}

// Bare is a command's name without the sign that a platform puts before it, folded: "tides" and
// "!tides" are asked by the same.
func (s *Settings) Bare(name string) string {
	name = spoken.Fold(name)
	if bare := strings.TrimLeft(name, s.AllSigns()); bare != "" {
		return bare
	}
	return name
}

// ByName are the places, among the courtesies, of the commands by their bare names; of several with
// one name the first.
func (s *Settings) ByName() map[string]int {
	out := map[string]int{}
	for i := range s.Courtesy {
		c := &s.Courtesy[i]
		if c.Away || c.When != happening.Command {
			continue
		}
		for _, name := range c.Asks {
			if _, taken := out[s.Bare(name)]; !taken {
				out[s.Bare(name)] = i
			}
		}
	}
	return out
}

// AlsoOn is what becomes of the announcements when a further platform goes live while
// the stream is on.
type AlsoOn struct {
	How   string   `json:"how,omitempty" jsonschema:"enum=follow up,enum=each,enum=nothing"` // none is "follow up"
	Words []string `json:"words,omitempty"`                                                  // of a follow-up, with what a stream's opening offers
}

// What becomes of announcements when a platform joins.
const (
	FollowUp = "follow up" // places get a word with the link, the platform's chat its line
	EachOwn  = "each"      // they are made once more for this platform, in the words for it
	NoFollow = "nothing"
)

// Emote is a word that some platforms show as a picture.
type Emote struct {
	Word      string   `json:"word" jsonschema:"minLength=1,maxLength=60"`
	Platforms []string `json:"platforms"`
}

// FittingNamed finds a fitting, or nil.
func (s *Settings) FittingNamed(name string) *Fitting {
	for i := range s.Fittings {
		if s.Fittings[i].Name == name {
			return &s.Fittings[i]
		}
	}
	return nil
}

// DoorNamed finds a door, or nil.
func (s *Settings) DoorNamed(name string) *Door {
	for i := range s.Doors {
		if s.Doors[i].Name == name {
			return &s.Doors[i]
		}
	}
	return nil
}

// PlaceNamed finds a place, or nil.
func (s *Settings) PlaceNamed(name string) *Place {
	for i := range s.Places {
		if s.Places[i].Name == name {
			return &s.Places[i]
		}
	}
	return nil
}
