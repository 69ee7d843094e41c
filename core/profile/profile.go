// Package profile is all there is to know of a streaming platform, as one file: how its chat
// is spoken and read, where people sign in to it and what each permission allows, whom and what
// it can be asked, what it can be had to do, and what it cannot. The house's doors to a platform
// are set up from it; nothing about any platform stands in the code.
//
// A house file refers to a profile that ships with the house by the platform's name, or carries
// one of its own.
package profile

import (
	"embed"
	"encoding/json"
	"fmt"
	"io/fs"
	"slices"
	"strings"
	"sync"
)

// Format is the format of the files that this house reads and writes.
const Format = 1

// Profile is all there is to know of a platform. Addresses may begin with a slash: they lead on
// from At. In them {id} and {login} are whom it is about, {since} the moment since when.
type Profile struct {
	Format   int     `json:"format" jsonschema:"enum=1"`
	Platform string  `json:"platform"` // the name that people and doors are told apart by; none is for any network that speaks as RFC 2812 says
	Title    string  `json:"title"`
	At       string  `json:"at,omitempty"` // "https://quayside.example"
	Chat     Chat    `json:"chat,omitzero"`
	Link     string  `json:"link,omitempty"` // where somebody's streams are: "https://quayside.example/{login}"
	SignIn   *SignIn `json:"signIn,omitempty"`
	Lookup   *Lookup `json:"lookup,omitempty"`
	Counts   []Count `json:"counts,omitempty"`
	Clips    *List   `json:"clips,omitempty"`
	Emotes   *List   `json:"emotes,omitempty"`
	Acts     Acts    `json:"acts,omitzero"`
	Missed   *Missed `json:"missed,omitempty"`

	Community *Community `json:"community,omitempty"` // it is a community server
	Social    *Social    `json:"social,omitempty"`    // it is a social site
}

// Chat is how a platform's chat is spoken and read: IRC as in RFC 2812, with IRCv3 message tags.
type Chat struct {
	Address       string            `json:"address,omitempty"` // host:port
	TLS           bool              `json:"tls,omitempty"`
	Room          string            `json:"room,omitempty"`       // of a channel: "#{login}"
	TokenLogin    bool              `json:"tokenLogin,omitempty"` // who signed in at the platform needs no other password: the token is it (SASL PLAIN, RFC 4616)
	IDTag         string            `json:"idTag,omitempty"`      // message tag with the account's stable id
	NameTag       string            `json:"nameTag,omitempty"`    // with the display name
	RolesTag      string            `json:"rolesTag,omitempty"`
	Roles         map[string]string `json:"roles,omitempty"`      // the network's word for a role → ours
	MessageTag    string            `json:"messageTag,omitempty"` // with the line's id
	TimeTag       string            `json:"timeTag,omitempty"`    // with when it was said
	Lines         int               `json:"lines"`                // allowed in a window; 0 no limit
	WindowSeconds float64           `json:"windowSeconds"`
	MaxBytes      int               `json:"maxBytes"` // of a line's text; 0 is what RFC 2812 leaves
	CommandSigns  string            `json:"commandSigns,omitempty"`
	Private       bool              `json:"private,omitempty"` // it carries private messages to one person
	Grants        Grants            `json:"grants,omitzero"`   // what is said in the room to give the house its rights
}

// Grants are the lines by which a room's keeper gives the house its rights, with {room} and
// {account} where these go.
type Grants struct {
	Speak    string `json:"speak,omitempty"`
	Moderate string `json:"moderate,omitempty"`
}

// SignIn is where one signs in to a platform: OAuth 2.0's authorization code (RFC 6749, section
// 4.1) with PKCE (RFC 7636).
type SignIn struct {
	Authorize string  `json:"authorize"`
	Token     string  `json:"token"`
	Revoke    string  `json:"revoke,omitempty"` // RFC 7009
	Account   Account `json:"account"`
	Scopes    []Scope `json:"scopes,omitempty"`
	Register  string  `json:"register,omitempty"` // where a house is registered and gets its client id
}

// Account is where a platform tells whose token it is, and by which pointers (RFC 6901) its answer
// says so.
type Account struct {
	Address string `json:"address"`
	ID      string `json:"id"`
	Login   string `json:"login"`
	Name    string `json:"name,omitempty"`
}

// Scope is one permission, with what it allows in one sentence, and what of the house needs it:
// "chat", "missed", "lookup", or a platform action.
type Scope struct {
	Name   string   `json:"name"`
	Allows string   `json:"allows"`
	For    []string `json:"for,omitempty"`
}

// Things of the house besides platform actions that a permission may be needed for.
const (
	ForChat   = "chat"
	ForMissed = "missed"
	ForLookup = "lookup"
)

// Lookup is where a platform tells about one of its accounts, and by which pointers. Without
// pointers the answer is read as {"id", "login", "name", "link", "category", "title"}.
type Lookup struct {
	Address  string `json:"address"`
	ID       string `json:"id,omitempty"`
	Login    string `json:"login,omitempty"`
	Name     string `json:"name,omitempty"`
	Link     string `json:"link,omitempty"`
	Category string `json:"category,omitempty"`
	Title    string `json:"title,omitempty"`
	Picture  string `json:"picture,omitempty"`
	Live     string `json:"live,omitempty"` // whether they stream just now: true, or anything but false, 0 and nothing
}

// Count is a number that a platform can be asked for: followers, say.
type Count struct {
	Name    string `json:"name"` // "followers" or "subscribers" for what wordings can tell; others are kept
	Title   string `json:"title"`
	Address string `json:"address"`
	Value   string `json:"value"` // pointer
}

// List is something a platform keeps many of, its clips or its emotes: where they are told, a
// pointer to the list, and pointers into each of them.
type List struct {
	Address string `json:"address"`
	Each    string `json:"each"`
	Word    string `json:"word,omitempty"`    // what it is called
	Picture string `json:"picture,omitempty"` // its address
	Film    string `json:"film,omitempty"`    // of a clip
	Seconds string `json:"seconds,omitempty"` // how long it is
}

// Acts is what a platform can be had to do: one address takes all of it, signed with the secret of
// the platform's door for happenings, or with the token of whoever signed in.
type Acts struct {
	Address string            `json:"address,omitempty"`
	Cannot  map[string]string `json:"cannot,omitempty"` // platform actions it cannot do → why
	Holds   bool              `json:"holds,omitempty"`  // it can hold a line back that was said: "hold line", then "allow line" or "refuse line"

	Limits map[string]ActLimit `json:"limits,omitempty"` // platform actions → how often it does them
}

// ActLimit is how often a platform does one of its actions. What comes sooner waits, or, about one
// person, is given up.
type ActLimit struct {
	Seconds       float64 `json:"seconds,omitempty" jsonschema:"minimum=0,maximum=86400"`       // least time between two
	PersonSeconds float64 `json:"personSeconds,omitempty" jsonschema:"minimum=0,maximum=86400"` // and between two about one person
}

// Missed is where a platform tells what happened since a moment: a list of CloudEvents as its
// door for happenings takes them.
type Missed struct {
	Address string `json:"address"` // with {since}, a time as RFC 3339 has it
	Days    int    `json:"days"`    // how far back it knows
}

// LoginOf is whose streams an address leads to, as [Profile.Link] has it, with or without its
// scheme and whatever stands behind it.
func (p *Profile) LoginOf(address string) (login string, ok bool) {
	before, _, ok := strings.Cut(p.Link, "{login}")
	if !ok {
		return "", false
	}
	bare := func(s string) string {
		_, after, cut := strings.Cut(s, "://")
		if !cut {
			after = s
		}
		if len(after) > 4 && strings.EqualFold(after[:4], "www.") {
			after = after[4:]
		}
		return after
	}
	before, address = bare(before), bare(address)
	if len(address) <= len(before) || !strings.EqualFold(address[:len(before)], before) {
		return "", false
	}
	login = address[len(before):]
	if at := strings.IndexAny(login, "/?#,.!:;)>"); at >= 0 {
		login = login[:at]
	}
	return login, login != ""
}

// Where is an address of a profile in full; "" for none.
func (p *Profile) Where(address string) string {
	if strings.HasPrefix(address, "/") {
		return strings.TrimRight(p.At, "/") + address
	}
	return address
}

// Leads are the sites that a profile leads to, each once: "https://quayside.example".
func (p *Profile) Leads() []string {
	out := []string{}
	add := func(address string) {
		address = p.Where(address)
		scheme, rest, ok := strings.Cut(address, "://")
		if host, _, _ := strings.Cut(rest, "/"); ok && !slices.Contains(out, scheme+"://"+host) {
			out = append(out, scheme+"://"+host)
		}
	}
	add(p.At)
	if c := p.Chat; c.Address != "" {
		add(map[bool]string{true: "ircs://", false: "irc://"}[c.TLS] + c.Address)
	}
	if s := p.SignIn; s != nil {
		for _, a := range []string{s.Authorize, s.Token, s.Revoke, s.Account.Address} {
			add(a)
		}
	}
	if p.Lookup != nil {
		add(p.Lookup.Address)
	}
	for _, c := range p.Counts {
		add(c.Address)
	}
	for _, l := range []*List{p.Clips, p.Emotes} {
		if l != nil {
			add(l.Address)
		}
	}
	add(p.Acts.Address)
	if p.Missed != nil {
		add(p.Missed.Address)
	}
	if p.Social != nil {
		for _, a := range p.Social.leads() {
			add(a)
		}
	}
	if c := p.Community; c != nil {
		for _, a := range []string{c.Landings.Address, c.Post, c.Edit} {
			add(a)
		}
	}
	return out
}

//go:embed shipped/*.json
var files embed.FS

// ReadAll reads the files that ship with a program; one that cannot be read is a fault of the program.
func ReadAll[T any](of fs.FS, read func([]byte) (*T, error)) (out []T) {
	names, err := fs.Glob(of, "shipped/*.json")
	if err != nil {
		panic(err)
	}
	for _, name := range names {
		raw, err := fs.ReadFile(of, name)
		if err != nil {
			panic(err)
		}
		x, err := read(raw)
		if err != nil {
			panic(fmt.Sprintf("%s: %v", name, err))
		}
		out = append(out, *x)
	}
	return out
}

// shipped are the profiles that ship with the house.
var shipped = sync.OnceValue(func() []Profile {
	out := ReadAll(files, Read)
	slices.SortFunc(out, func(a, b Profile) int {
		if plain := len(b.Platform) - len(a.Platform); a.Platform == "" || b.Platform == "" {
			return plain
		}
		return strings.Compare(a.Title, b.Title)
	})
	return out
})

// Shipped are the profiles that ship with the house, the one of a plain network last. They are not
// to be changed.
func Shipped() []Profile { return shipped() }

// Known is a profile that the house knows; carried by its file, or shipped with it.
type Known struct {
	*Profile
	Carried bool
}

// All are the profiles that a house knows: those that its file carries, and of the others those
// that ship. They are not to be changed.
func All(carried []Profile) []Known {
	var out []Known
	for i := range carried {
		out = append(out, Known{&carried[i], true})
	}
	for i := range shipped() {
		p := &shipped()[i]
		if !slices.ContainsFunc(carried, func(c Profile) bool { return c.Platform == p.Platform }) {
			out = append(out, Known{p, false})
		}
	}
	return out
}

// Of is the profile of a platform: the first of those with its name, else one that ships, else
// that of a plain network. It is not to be changed.
func Of(carried []Profile, platform string) *Profile {
	for _, list := range [][]Profile{carried, shipped()} {
		for i := range list {
			if list[i].Platform == platform {
				return &list[i]
			}
		}
	}
	return &shipped()[len(shipped())-1]
}

// Read reads a profile's file and refuses fields it does not know.
func Read(raw []byte) (*Profile, error) {
	dec := json.NewDecoder(strings.NewReader(string(raw)))
	dec.DisallowUnknownFields()
	p := &Profile{}
	if err := dec.Decode(p); err != nil {
		return nil, fmt.Errorf("the profile cannot be read: %w", err)
	}
	if p.Format != Format {
		return nil, fmt.Errorf("the profile is of format %d; this house reads format %d", p.Format, Format)
	}
	return p, nil
}
