// Package place is the catalogue of the kinds of places: where the house speaks outside chat. A [Place] is what the
// settings hold of one; its [Kind] knows how it is addressed, what is made of a text for it, and how other people's
// text is made safe there.
//
// Whoever adds one writes its file and its line in [Kinds]; what carries to it is a carrier of the same name.
package place

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"vividporch/core/plain"
	"vividporch/core/profile"
	"vividporch/core/wording"
)

// Kinds are the kinds of places, in the order in which they are offered.
var Kinds = []*Kind{hook, landing, social, irc, xmpp, feed, file}

// Place is where the house speaks outside chat.
type Place struct {
	Name           string            `json:"name" jsonschema:"minLength=1"`
	Title          string            `json:"title"`
	Kind           string            `json:"kind,omitempty"`     // "" is a webhook
	URL            string            `json:"url"`                // of what has an address
	Body           json.RawMessage   `json:"body"`               // of a webhook: the JSON that is sent; texts in it are wordings that may use {text}, {title}, {category}, {link}, {call} and {channel}
	Headers        map[string]string `json:"headers,omitempty"`  // of a webhook, besides those of the post itself; {token} is a secret that is kept for the place
	Platform       string            `json:"platform,omitempty"` // of a landing, or a social account: which site
	Landing        string            `json:"landing,omitempty"`  // of a landing: its id there
	Allows         []string          `json:"allows,omitempty"`   // of a social account, besides posting: "message", "picture", "banner"
	Account        string            `json:"account,omitempty"`  // of a room: the house's nick (irc) or its account (xmpp)
	Room           string            `json:"room,omitempty"`     // of a room: "#lamp-log", or its whole address (xmpp)
	File           string            `json:"file,omitempty"`     // of a file: its name, in the house's own folder
	Each           string            `json:"each,omitempty"`     // of a file: a line as a wording, with {text}, {now} and {channel}; none is JSON Lines
	ByStream       bool              `json:"byStream,omitempty"`
	TimeoutSeconds float64           `json:"timeoutSeconds,omitempty" jsonschema:"minimum=0,maximum=60"`
	IgnoresKeys    bool              `json:"ignoresKeys,omitempty"`                                   // then a post is sent at most once
	PerMinute      int               `json:"perMinute,omitempty" jsonschema:"minimum=0,maximum=600"`  // posts that it takes in a minute; 0 is as many as there are
	Letters        int               `json:"letters,omitempty" jsonschema:"minimum=0,maximum=100000"` // that a text may have there; what is longer is cut; 0 is any number
	NoLinks        bool              `json:"noLinks,omitempty"`                                       // what reads as a link in other people's words leads nowhere
	Paused         bool              `json:"paused,omitempty"`                                        // what goes there waits
}

// Kind is all there is to know of one kind of places.
type Kind struct {
	Name      string   // in a house file
	Addressed bool     // it has an address
	Secrets   []string // that are kept for that address: "secret" signs as Standard Webhooks has it; others are sent as they are

	// Check reports what keeps a place of the kind from being posted to; at is a field of the place.
	Check func(p *Place, fault func(at, what, remedy string))
	// Render makes of a text and what comes with it what is posted.
	Render func(p *Place, args wording.Args) (json.RawMessage, error)
	// Chosen reports whether it is said where one posts, for a kind that has no address. nil for one that needs nothing said.
	Chosen func(p *Place) bool
	// Most is how many letters a text may have, as far as the site tells; 0 for any number. nil for a kind whose site tells nothing.
	Most func(p *Place, of func(platform string) *profile.Profile) int
	// Cannot is why a place of the kind cannot do something: what can be wanted of a place besides taking texts, or be the
	// "account" that posts are asked for at; "" where it can. nil for a kind that does no more than take texts.
	Cannot func(p *Place, what string, of func(platform string) *profile.Profile) string
	// Safe makes other people's text safe for the kind.
	Safe func(text string) string
}

// Of is the kind of a name; nil for one that this house does not know.
func Of(name string) *Kind {
	if name == "" {
		return hook
	}
	at := slices.IndexFunc(Kinds, func(k *Kind) bool { return k.Name == name })
	if at < 0 {
		return nil
	}
	return Kinds[at]
}

// names lists the names of the kinds.
func names() string {
	var out []string
	for _, k := range Kinds {
		out = append(out, k.Name)
	}
	return strings.Join(out, ", ")
}

// answersWithin is how long a place has to answer, where the settings do not say.
const answersWithin = 10 * time.Second

// Within is how long the place has to take what is posted to it.
func (p *Place) Within() time.Duration {
	if d := time.Duration(p.TimeoutSeconds * float64(time.Second)); d > 0 {
		return d
	}
	return answersWithin
}

// Secrets are the secrets that may be kept for the place.
func (p *Place) Secrets() []string {
	if k := Of(p.Kind); k != nil {
		return k.Secrets
	}
	return nil
}

// Ready reports whether something can be posted there: what needs an address has one.
func (p *Place) Ready() bool {
	k := Of(p.Kind)
	return k != nil && (!k.Addressed || p.URL != "") && (k.Chosen == nil || k.Chosen(p))
}

// Check reports what is wrong with a place.
func (p *Place) Check(fault func(at, what, remedy string)) {
	k := Of(p.Kind)
	if k == nil {
		fault("kind", fmt.Sprintf("%q is no kind of place", p.Kind), "use "+names())
		return
	}
	if p.TimeoutSeconds < 0 || p.TimeoutSeconds > 60 {
		fault("timeoutSeconds", "is out of range", "use 0 to 60 seconds")
	}
	if p.PerMinute < 0 || p.PerMinute > 600 {
		fault("perMinute", "is out of range", "use 0 to 600 posts a minute")
	}
	if p.Letters < 0 || p.Letters > 100_000 {
		fault("letters", "is out of range", "use 0 to 100000 letters")
	}
	k.Check(p, fault)
}

// Shortened is a text as long as the place takes one: what is longer ends in dots, between words where it can. of is what is
// known of a platform.
func (p *Place) Shortened(text string, of func(platform string) *profile.Profile) string {
	most := p.Letters
	if k := Of(p.Kind); k != nil && k.Most != nil {
		if n := k.Most(p, of); n > 0 && (most == 0 || n < most) {
			most = n
		}
	}
	runes := []rune(text)
	if most == 0 || len(runes) <= most {
		return text
	}
	cut := most - 1
	for at := cut; at >= most*3/4 && at > 0; at-- {
		if runes[at] == ' ' {
			cut = at
			break
		}
	}
	return strings.TrimRight(string(runes[:cut]), " ") + "…"
}

// Cannot is why the place cannot do something; "" where it can. of is what is known of a platform.
func (p *Place) Cannot(what string, of func(platform string) *profile.Profile) string {
	if k := Of(p.Kind); k != nil && k.Cannot != nil {
		return k.Cannot(p, what, of)
	}
	return usually[what]
}

// Render makes of a text and what comes with it what is posted there.
func (p *Place) Render(args wording.Args) (json.RawMessage, error) {
	k := Of(p.Kind)
	if k == nil {
		return nil, fmt.Errorf("%q is no kind of place", p.Kind)
	}
	return k.Render(p, args)
}

// Safe makes other people's text safe for the place.
func (p *Place) Safe(text string) string {
	if p.NoLinks {
		text = plain.NoLinks(text)
	}
	if k := Of(p.Kind); k != nil {
		return k.Safe(text)
	}
	return hook.Safe(text)
}
