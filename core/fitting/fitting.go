// Package fitting is how what the house works on the stage is spoken to: a lamp, the streaming software's scenes, a player.
// One file ([Profile]) says over what way, how it is greeted, what proves who we are, what it is told for each thing it can do,
// and how its answer tells done or refused. So any of them works by a file; nothing about any stands in the code.
//
// A fitting without a profile is told as docs/fittings.md says: one signed request with all there is to tell.
package fitting

import (
	"embed"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"sync"

	"vividporch/core/output"
	"vividporch/core/profile"
)

// Format is the format of the files that this house reads and writes.
const Format = 1

// Profile is how a fitting is spoken to.
type Profile struct {
	Format   int             `json:"format" jsonschema:"enum=1"`
	Name     string          `json:"name" jsonschema:"minLength=1,maxLength=60"`
	Title    string          `json:"title"`
	Kind     string          `json:"kind" jsonschema:"enum=player,enum=lamp,enum=scenes"`
	Way      string          `json:"way,omitempty" jsonschema:"enum=http,enum=websocket"` // none is http
	Proof    Proof           `json:"proof,omitzero"`
	Greeting *Greeting       `json:"greeting,omitempty"` // of a WebSocket
	Does     map[string]Does `json:"does"`               // what it can be told, by what it does
	Answer   Answer          `json:"answer,omitzero"`
}

// The ways there are.
const (
	HTTP      = "http"
	WebSocket = "websocket" // RFC 6455: one connection for each thing it is told
)

// Proof is what shows with each request who we are; what a WebSocket is shown in its greeting needs none.
type Proof struct {
	How    string `json:"how,omitempty" jsonschema:"enum=signed,enum=bearer,enum=header"` // none: nothing
	Header string `json:"header,omitempty"`                                               // of "header": which one holds the secret
}

// What shows who we are.
const (
	Signed = "signed" // Standard Webhooks
	Bearer = "bearer" // RFC 6750
	Header = "header" // the secret in a header of its own
)

// Greeting is what is said first on a WebSocket. {secret} is the secret, {proof} what was worked out of it.
type Greeting struct {
	Waits     bool            `json:"waits,omitempty"`     // it speaks first
	Challenge string          `json:"challenge,omitempty"` // pointer into what it says first (RFC 6901)
	Salt      string          `json:"salt,omitempty"`      // likewise
	Proof     [][]string      `json:"proof,omitempty"`     // each round is the SHA-256 of these one after the other, in Base64: "secret", "salt", "challenge" and "before", the round before
	Say       json.RawMessage `json:"say,omitempty"`
	Welcome   *Test           `json:"welcome,omitempty"` // holds of its answer when we are let in; none: it does not answer
}

// Does is how one thing is told. Texts of the body that are nothing but one fill-in become what fills it, a number or a list
// too; in all others it stands as text.
type Does struct {
	Path   string          `json:"path,omitempty"` // leads on from the fitting's address
	Method string          `json:"method,omitempty" jsonschema:"enum=GET,enum=POST,enum=PUT,enum=PATCH"`
	Body   json.RawMessage `json:"body,omitempty"`
}

// Answer is how an answer tells what became of it.
type Answer struct {
	Of     *Test  `json:"of,omitempty"`     // WebSocket: holds of the message that answers; none: the next one does
	Done   *Test  `json:"done,omitempty"`   // holds when it was done; none: any answer says so, by HTTP any 2xx
	Reason string `json:"reason,omitempty"` // pointer to why not
	Was    string `json:"was,omitempty"`    // pointer to what it was before
}

// Test holds of a message when what stands at the pointer is this value; without one, when anything stands there.
type Test struct {
	At string `json:"at"`
	Is any    `json:"is,omitempty"` // a text may hold fill-ins
}

// Back is what takes a fitting back to what it was, beside what it does of its own kind.
const Back = "back"

// manners are the things that a fitting of each kind can be told, the ones it cannot do without first.
var manners = map[string][]string{
	output.Lights: {"light", output.Flash, output.Pulse, output.Run, Back},
	output.Scenes: {string(output.KindScene), Back},
	output.Player: {string(output.KindSound), string(output.KindFilm), string(output.KindSpeak), output.Pause, output.GoOn, output.Softer, Back},
}

// Manners are the things that a fitting of a kind can be told, going back aside.
func Manners(kind string) []string {
	all := manners[kind]
	return all[:max(0, len(all)-1)]
}

// stepwise are those that the house does itself, one colour after the other, where a lamp cannot.
var stepwise = []string{output.Flash, output.Pulse, output.Run}

// Cannot is why it cannot do something; "" where it can, by itself or step by step.
func (p *Profile) Cannot(manner string) string {
	if _, does := p.Does[manner]; does || p.Kind == output.Lights && slices.Contains(stepwise, manner) {
		return ""
	}
	return fmt.Sprintf("%s cannot %s", strings.ToUpper(p.Title[:min(1, len(p.Title))])+p.Title[min(1, len(p.Title)):], verb(manner))
}

func verb(manner string) string {
	if v := map[string]string{string(output.KindSound): "play sounds", string(output.KindFilm): "show films", string(output.KindSpeak): "speak", string(output.KindScene): "go to a scene",
		output.Softer: "get softer", "light": "be lit"}[manner]; v != "" {
		return v
	}
	return manner
}

//go:embed shipped/*.json
var files embed.FS

// Shipped are the profiles that ship with the house, by title. They are not to be changed.
var Shipped = sync.OnceValue(func() []Profile {
	out := profile.ReadAll(files, Read)
	slices.SortFunc(out, func(a, b Profile) int { return strings.Compare(a.Title, b.Title) })
	return out
})

// Named is the profile of that name that ships, or nil. It is not to be changed.
func Named(name string) *Profile {
	all := Shipped()
	if i := slices.IndexFunc(all, func(p Profile) bool { return p.Name == name }); i >= 0 {
		return &all[i]
	}
	return nil
}

// Read reads a profile's file and refuses fields it does not know.
func Read(raw []byte) (*Profile, error) {
	dec := json.NewDecoder(strings.NewReader(string(raw)))
	dec.DisallowUnknownFields()
	p := &Profile{}
	if err := dec.Decode(p); err != nil {
		return nil, fmt.Errorf("the profile cannot be read: %w", err)
	}
	return p, nil
}
