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
	"encoding/json"
	"fmt"

	"vividporch/core/courtesy"
	"vividporch/core/dates"
	"vividporch/core/people"
)

// Settings is the house file: everything a streamer can set, as one document.
// A version of it is never changed; a change makes the next version.
type Settings struct {
	Format    int                        `json:"format" jsonschema:"enum=2"` // of this file; 2
	Channel   string                     `json:"channel" jsonschema:"minLength=1"`
	Zone      string                     `json:"zone"`                                                        // IANA name
	Seed      string                     `json:"seed"`                                                        // of all chance on this channel
	Grace     *float64                   `json:"graceSeconds,omitempty" jsonschema:"minimum=0,maximum=86400"` // how long every platform may be gone before a stream has ended; absent is ten minutes, 0 none
	Pace      Pace                       `json:"pace"`
	Never     []string                   `json:"never"` // logins or account keys that are never greeted
	Doors     []Door                     `json:"doors"`
	Places    []Place                    `json:"places"`
	Courtesy  []courtesy.Courtesy        `json:"courtesies"`
	JoinWords []string                   `json:"joined"` // for several people whose greetings differ
	Standings people.Rules               `json:"standings,omitzero"`
	LeapDay   dates.LeapRule             `json:"leapDay,omitempty" jsonschema:"enum=28 February,enum=1 March"` // when a 29 February is kept in other years
	Privacy   Privacy                    `json:"privacy,omitzero"`
	Hello     Hello                      `json:"hello,omitzero"`
	AlsoOn    AlsoOn                     `json:"alsoOn,omitzero"`
	Unclear   []string                   `json:"unclear,omitempty"` // asks back whom a command means: {name}, {typed}, {near}; none are the house's own words
	Fittings  []Fitting                  `json:"fittings,omitempty"`
	FillIns   []FillIn                   `json:"fillIns,omitempty"` // the channel's own
	Own       []OtherEvent               `json:"own,omitempty"`     // events of other services, described
	Emotes    []Emote                    `json:"emotes,omitempty"`
	Rooms     map[string]json.RawMessage `json:"rooms,omitempty"` // sections of rooms, by their names
}

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

	PersonSeconds float64 `json:"personSeconds,omitempty" jsonschema:"minimum=0,maximum=600"` // least time between two greetings or thanks to one person; 0 none
}

// Door is where things come in and, for chat, where the house speaks. Passwords
// and secrets are kept apart, under the door's name.
type Door struct {
	Name     string            `json:"name" jsonschema:"minLength=1"`
	Kind     string            `json:"kind" jsonschema:"enum=irc,enum=inbox"`
	Platform string            `json:"platform"`
	Address  string            `json:"address,omitempty"` // host:port of a chat network
	TLS      bool              `json:"tls,omitempty"`
	Room     string            `json:"room,omitempty"`                          // the chat channel, with its sign
	Account  string            `json:"account,omitempty"`                       // the login the house speaks as
	Lookup   string            `json:"lookup,omitempty"`                        // URL that answers asks, of an inbox door
	Acts     string            `json:"acts,omitempty"`                          // URL that does platform actions, likewise
	As       string            `json:"as,omitempty" jsonschema:"enum=streamer"` // of a chat door that only speaks, under the streamer's own account
	Cannot   map[string]string `json:"cannot,omitempty"`                        // platform actions this platform cannot do → why
	Profile  Profile           `json:"profile,omitzero"`
}

// Profile is what a door must know of a chat network.
type Profile struct {
	IDTag         string            `json:"idTag,omitempty"`   // message tag with the account's stable id
	NameTag       string            `json:"nameTag,omitempty"` // with the display name
	RolesTag      string            `json:"rolesTag,omitempty"`
	Roles         map[string]string `json:"roles,omitempty"`      // the network's word for a role → ours
	MessageTag    string            `json:"messageTag,omitempty"` // with the line's id
	TimeTag       string            `json:"timeTag,omitempty"`    // with when it was said
	Lines         int               `json:"lines"`                // allowed in a window; 0 no limit
	WindowSeconds float64           `json:"windowSeconds"`
	MaxBytes      int               `json:"maxBytes"` // of a line's text; 0 is what RFC 2812 leaves
	CommandSigns  string            `json:"commandSigns,omitempty"`
	Private       bool              `json:"private,omitempty"` // the network carries private messages to one person
	Link          string            `json:"link,omitempty"`    // where somebody's streams are: "https://quayside.example/{login}"
}

// Place is where the house speaks outside chat: an address that takes a webhook.
// Body is the JSON sent there; texts in it are wordings that may use {text},
// {title}, {category}, {link} and {channel}.
type Place struct {
	Name           string          `json:"name" jsonschema:"minLength=1"`
	Title          string          `json:"title"`
	URL            string          `json:"url"`
	Body           json.RawMessage `json:"body"`
	TimeoutSeconds float64         `json:"timeoutSeconds,omitempty"`
	IgnoresKeys    bool            `json:"ignoresKeys,omitempty"` // then a post is sent at most once
}

// Fitting is something the house works on the stage: an address that takes what it
// is told as JSON, signed as a Standard Webhook where a secret is kept under its name.
type Fitting struct {
	Name   string   `json:"name" jsonschema:"minLength=1"`
	Title  string   `json:"title"`
	Kind   string   `json:"kind" jsonschema:"enum=player,enum=lamp,enum=scenes"`
	URL    string   `json:"url"`
	Scenes []string `json:"scenes,omitempty"` // that can be gone to
	Voices []string `json:"voices,omitempty"` // that a player can speak in
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
}

// Hello says which words are a hello and how often one is answered.
type Hello struct {
	Words         []string `json:"words"`         // in any case and with or without accents; several words are a phrase
	RestSeconds   float64  `json:"restSeconds"`   // least time between two answers
	PersonSeconds float64  `json:"personSeconds"` // least time between two answers to one person, their arrival counted as one
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
