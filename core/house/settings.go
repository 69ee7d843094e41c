package house

import (
	"bytes"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"
	_ "time/tzdata" // zones are part of the rules, not of the machine

	"vividporch/core/attendance"
	"vividporch/core/courtesy"
	"vividporch/core/dates"
	"vividporch/core/pace"
	"vividporch/core/people"
	"vividporch/core/wording"
)

// Settings is the house file: everything a streamer can set, as one document.
// A version of it is never changed; a change makes the next version.
type Settings struct {
	Format    int                 `json:"format" jsonschema:"enum=2"` // of this file; 2
	Channel   string              `json:"channel" jsonschema:"minLength=1"`
	Zone      string              `json:"zone"`                                                        // IANA name
	Seed      string              `json:"seed"`                                                        // of all chance on this channel
	Grace     *float64            `json:"graceSeconds,omitempty" jsonschema:"minimum=0,maximum=86400"` // how long every platform may be gone before a stream has ended; absent is ten minutes, 0 none
	Pace      Pace                `json:"pace"`
	Never     []string            `json:"never"` // logins or account keys that are never greeted
	Doors     []Door              `json:"doors"`
	Places    []Place             `json:"places"`
	Courtesy  []courtesy.Courtesy `json:"courtesies"`
	JoinWords []string            `json:"joined"` // for several people whose greetings differ
	Standings people.Rules        `json:"standings,omitzero"`
	LeapDay   dates.LeapRule      `json:"leapDay,omitempty" jsonschema:"enum=28 February,enum=1 March"` // when a 29 February is kept in other years
	Privacy   Privacy             `json:"privacy,omitzero"`
	Hello     Hello               `json:"hello,omitzero"`
	AlsoOn    AlsoOn              `json:"alsoOn,omitzero"`
	Unclear   []string            `json:"unclear,omitempty"` // asks back whom a command means: {name}, {typed}, {near}; none are the house's own words
	Fittings  []Fitting           `json:"fittings,omitempty"`
	FillIns   []FillIn            `json:"fillIns,omitempty"` // the channel's own
	Own       []Own               `json:"own,omitempty"`     // events of other services, described
	Emotes    []Emote             `json:"emotes,omitempty"`
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

// ReadSettings decodes a house file and refuses fields it does not know.
func ReadSettings(raw []byte) (*Settings, error) {
	dec := json.NewDecoder(bytes.NewReader(Lift(raw)))
	dec.DisallowUnknownFields()
	s := &Settings{}
	if err := dec.Decode(s); err != nil {
		return nil, fmt.Errorf("the house file cannot be read: %w", err)
	}
	return s, nil
}

// Plan is a version of the settings made ready for deciding.
type Plan struct {
	Version  int64
	Settings *Settings        // as they hold
	Whole    *Settings        // as they were written: the same, but for what is left out
	Left     []courtesy.Fault // what does not hold any more, and is left out
	Set      *courtesy.Set
	Zone     *time.Location

	never  people.NeverList
	rules  pace.Rules
	grace  time.Duration
	joined []*wording.Wording

	unclear []*wording.Wording
	alsoOn  []*wording.Wording
	stand   people.Rules
	words   privacyWords
	hello   helloWords
	clocks  map[string]*time.Location // of the own fill-ins
	reach   courtesy.World
	chat    []string // platforms the house can speak on, in the order of the doors
}

// mostName is how many bytes the name of a door, a place or a fitting may have.
const mostName = 60

// Ready checks settings and makes them a plan. With faults there is no plan, and
// the version before stays in force.
func Ready(s *Settings, version int64) (*Plan, []courtesy.Fault) {
	var faults []courtesy.Fault
	fault := func(at, what, remedy string) {
		faults = append(faults, courtesy.Fault{At: at, What: what, Remedy: remedy})
	}
	p := &Plan{Version: version, Settings: s, Whole: s, never: people.MakeNeverList(s.Never), grace: attendance.DefaultGrace, stand: s.Standings.Or(people.DefaultRules), clocks: map[string]*time.Location{}}
	if s.Format != Format {
		fault("format", fmt.Sprintf("is %d", s.Format), readsFormats)
	}
	if s.Channel == "" {
		fault("channel", "is missing", "name the channel")
	}
	grace := 0.0
	if s.Grace != nil {
		grace, p.grace = *s.Grace, secs(*s.Grace)
	}
	zone, err := time.LoadLocation(s.Zone)
	if err != nil {
		fault("zone", fmt.Sprintf("%q is no time zone", s.Zone), `use an IANA name such as "Europe/Lisbon"`)
	}
	p.Zone = zone
	for name, v := range map[string]float64{"graceSeconds": grace, "pace.gapSeconds": s.Pace.GapSeconds, "pace.waitSeconds": s.Pace.WaitSeconds,
		"pace.joinEverySeconds": s.Pace.JoinEverySeconds, "pace.askSeconds": s.Pace.AskSeconds} {
		if v < 0 || v > 86_400 {
			fault(name, "is out of range", "use 0 to 86400 seconds")
		}
	}
	if n := s.Pace.PersonSeconds; n < 0 || secs(n) > pace.MostPerson {
		fault("pace.personSeconds", "is out of range", fmt.Sprintf("use 0 to %d seconds", pace.MostPerson/time.Second))
	}
	if r := p.stand; r.RegularAttended < 1 || r.RegularOf < r.RegularAttended || r.RegularOf > attendance.StripLength || r.AwayVisits < 1 || r.AwayDays < 1 {
		fault("standings", "cannot hold", fmt.Sprintf("let a regular attend 1 or more of at most %d streams, and count visits and days from 1", attendance.StripLength))
	}
	switch s.LeapDay {
	case "", dates.OnFebruary28, dates.OnMarch1:
	default:
		fault("leapDay", fmt.Sprintf("%q is no rule", s.LeapDay), `use "28 February" or "1 March"`)
	}
	faults = append(faults, p.words.load(s.Privacy)...)
	faults = append(faults, p.hello.load(s.Hello)...)
	faults = append(faults, p.loadUnclear(s.Unclear)...)
	faults = append(faults, p.loadAlsoOn(s.AlsoOn)...)
	p.rules = pace.Rules{Gap: secs(s.Pace.GapSeconds), JoinAt: s.Pace.JoinAt, JoinEvery: secs(s.Pace.JoinEverySeconds), Person: secs(s.Pace.PersonSeconds), Limits: map[string]pace.Limit{}}
	seen := map[string]bool{}
	for i, d := range s.Doors {
		at := fmt.Sprintf("doors.%d", i)
		switch {
		case d.Name == "" || len(d.Name) > mostName || strings.ContainsAny(d.Name, "/?# "):
			fault(at+".name", "is missing, too long, or holds a blank or slash", fmt.Sprintf("use at most %d letters, digits and dashes", mostName))
		case d.Platform == "" || len(d.Platform) > mostName:
			fault(at+".platform", "is missing or too long", fmt.Sprintf("name it in at most %d letters", mostName))
		case seen[d.Name]:
			fault(at+".name", "stands twice", "give each door a name of its own")
		case d.Kind != "irc" && d.Kind != "inbox":
			fault(at+".kind", fmt.Sprintf("%q is no kind of door", d.Kind), "use irc or inbox")
		case d.Kind == "irc" && (d.Address == "" || d.Room == "" || d.Account == ""):
			fault(at, "a chat door needs address, room and account", "fill them in")
		case d.Profile.Lines < 0 || d.Profile.Lines > pace.MostLines:
			fault(at+".profile.lines", "is out of range", fmt.Sprintf("use 0 to %d", pace.MostLines))
		}
		seen[d.Name] = true
		if d.As != "" && (d.As != AsStreamer || d.Kind != "irc") {
			fault(at+".as", fmt.Sprintf("%q speaks for nobody", d.As), `use "streamer" on a chat door, or leave it out`)
		}
		if d.Kind == "irc" && d.As == "" {
			if !slices.Contains(p.chat, d.Platform) {
				p.chat = append(p.chat, d.Platform)
			}
			p.rules.Limits[d.Platform] = pace.Limit{Lines: d.Profile.Lines, Window: secs(d.Profile.WindowSeconds)}
		}
		if d.Account != "" {
			p.never[strings.ToLower(d.Account)] = true
		}
		if d.Acts != "" && !isAddress(d.Acts) {
			fault(at+".acts", "is no http(s) address", "write it in full")
		}
		if l := d.Profile.Link; l != "" && (!isAddress(l) || !strings.Contains(l, "{login}")) {
			fault(at+".profile.link", "leads nowhere", `write the address in full with {login} where the login goes: "https://quayside.example/{login}"`)
		}
	}
	for i, pl := range s.Places {
		at := fmt.Sprintf("places.%d", i)
		if pl.Name == "" || len(pl.Name) > mostName || pl.URL != "" && !isAddress(pl.URL) {
			fault(at+".url", "a place needs a short name, and an http(s) address or none yet", "fill them in")
		}
		if _, err := pl.render(nil); err != nil {
			fault(at+".body", err.Error(), "write JSON whose texts are wordings")
		}
	}
	for i, f := range s.Fittings {
		at := fmt.Sprintf("fittings.%d", i)
		switch {
		case f.Name == "" || len(f.Name) > mostName || f.URL != "" && !isAddress(f.URL):
			fault(at+".url", "a fitting needs a short name, and an http(s) address or none yet", "fill them in")
		case f.Kind != courtesy.Player && f.Kind != courtesy.Lights && f.Kind != courtesy.Scenes:
			fault(at+".kind", fmt.Sprintf("%q is no kind of fitting", f.Kind), "use player, lamp or scenes")
		}
	}
	p.reach = p.world(fault)
	set, more := courtesy.Load(s.Courtesy, p.reach)
	p.Set = set
	faults = append(faults, more...)
	joined := s.JoinWords
	if len(joined) == 0 {
		joined = []string{joinedWords}
	}
	for i, src := range joined {
		w, probs := courtesy.CheckWording(src, courtesy.JoinedFillIns(courtesy.Arrival))
		for _, pr := range probs {
			faults = append(faults, courtesy.Fault{At: fmt.Sprintf("joined.%d", i), Problem: &pr, What: pr.What, Remedy: pr.Remedy})
		}
		p.joined = append(p.joined, w)
	}
	if len(faults) > 0 {
		return nil, faults
	}
	return p, nil
}

// joinedWords greet several people unless the streamer has words of their own: nothing
// may flood for want of words.
const joinedWords = "Welcome {names}{more, plural, =0 {} other { and # more}}!"

func isAddress(s string) bool {
	return strings.HasPrefix(s, "http://") || strings.HasPrefix(s, "https://")
}

// World is what the courtesies of this plan can reach and offer.
func (p *Plan) World() courtesy.World { return p.reach }

// StreamerDoor finds the chat door of a platform that speaks as the streamer, or nil.
func (p *Plan) StreamerDoor(platform string) *Door {
	for i := range p.Settings.Doors {
		if d := &p.Settings.Doors[i]; d.As == AsStreamer && d.Platform == platform {
			return d
		}
	}
	return nil
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

// Grace is how long every platform may be gone before a stream has ended.
func (p *Plan) Grace() time.Duration { return p.grace }

// Rules are the bounds of the house's speech under this plan.
func (p *Plan) Rules() pace.Rules { return p.rules }

// Standings are the rules that standings go by under this plan.
func (p *Plan) Standings() people.Rules { return p.stand }

// Lookup is the address that answers asks about a platform's accounts, or "".
func (p *Plan) Lookup(platform string) string {
	for i := range p.Settings.Doors {
		if d := &p.Settings.Doors[i]; d.Platform == platform && d.Lookup != "" {
			return d.Lookup
		}
	}
	return ""
}

// linkDoor finds a door of a platform that says where its streams are, or nil.
func (p *Plan) linkDoor(platform string) *Door {
	for i := range p.Settings.Doors {
		if d := &p.Settings.Doors[i]; d.Platform == platform && d.Profile.Link != "" {
			return d
		}
	}
	return nil
}

// Leap is when a 29 February is kept in other years.
func (p *Plan) Leap() dates.LeapRule {
	if p.Settings.LeapDay == "" {
		return dates.OnFebruary28
	}
	return p.Settings.LeapDay
}

// Chat lists the platforms the house can speak on.
func (p *Plan) Chat() []string { return p.chat }

// DoorFor finds the chat door of a platform, or nil.
func (p *Plan) DoorFor(platform string) *Door {
	for i := range p.Settings.Doors {
		if d := &p.Settings.Doors[i]; d.Kind == "irc" && d.As == "" && d.Platform == platform {
			return d
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

func secs(s float64) time.Duration { return time.Duration(s * float64(time.Second)) }

// render fills the wordings in a place's body.
func (pl *Place) render(args wording.Args) (json.RawMessage, error) {
	var body any = map[string]any{"text": "{text}"}
	if len(pl.Body) > 0 {
		if err := json.Unmarshal(pl.Body, &body); err != nil {
			return nil, fmt.Errorf("is not JSON: %w", err)
		}
	}
	filled, err := fillBody(body, args)
	if err != nil {
		return nil, err
	}
	return json.Marshal(filled)
}

func fillBody(v any, args wording.Args) (any, error) {
	switch v := v.(type) {
	case string:
		w, err := wording.Parse(v)
		if err != nil {
			return nil, err
		}
		return w.Render(args), nil
	case []any:
		for i := range v {
			f, err := fillBody(v[i], args)
			if err != nil {
				return nil, err
			}
			v[i] = f
		}
		return v, nil
	case map[string]any:
		for k := range v {
			f, err := fillBody(v[k], args)
			if err != nil {
				return nil, err
			}
			v[k] = f
		}
		return v, nil
	}
	return v, nil
}

// Leads tells where everything with a name of its own leads: doors, places and
// fittings, each with all of its addresses.
func (s *Settings) Leads() map[string]string {
	out := map[string]string{}
	for _, d := range s.Doors {
		out[d.Name] = strings.Join(slices.DeleteFunc([]string{d.chatAddress(), d.Lookup, d.Acts}, func(a string) bool { return a == "" }), " ")
	}
	for _, p := range s.Places {
		out[p.Name] = p.URL
	}
	for _, f := range s.Fittings {
		out[f.Name] = f.URL
	}
	return out
}

// chatAddress is the address of a chat door, with its scheme.
func (d *Door) chatAddress() string {
	if d.TLS {
		return prefixed("ircs://", d.Address)
	}
	return prefixed("irc://", d.Address)
}

// ChatOrigin is where a chat door leads, as [Origin] writes it.
func (d *Door) ChatOrigin() string { return Origin(d.chatAddress()) }

// Origin is the scheme, host and port of an address, "https://host:443": what a secret is
// bound to (RFC 6454, section 4). "" for what is no address.
func Origin(address string) string {
	scheme, rest, ok := strings.Cut(address, "://")
	if !ok {
		return ""
	}
	scheme = strings.ToLower(scheme)
	host := rest
	if i := strings.IndexAny(rest, "/?#"); i >= 0 {
		host = rest[:i]
	}
	if i := strings.LastIndexByte(host, '@'); i >= 0 {
		host = host[i+1:]
	}
	host = strings.ToLower(host)
	if i := strings.LastIndexByte(host, ':'); i < 0 || strings.HasSuffix(host, "]") {
		port := map[string]string{"http": "80", "https": "443", "irc": "6667", "ircs": "6697"}[scheme]
		host += ":" + port
	}
	if strings.HasPrefix(host, ":") {
		return ""
	}
	return scheme + "://" + host
}

// SecretFor tells what a secret of a name is bound to; "" for one that only what comes
// in is checked against. ok is false where the settings know of no such secret.
func (s *Settings) SecretFor(name, slot string) (origin string, ok bool) {
	for i := range s.Doors {
		switch d := &s.Doors[i]; {
		case d.Name != name:
		case d.Kind == "irc":
			return d.ChatOrigin(), slot == "password"
		default:
			return Origin(d.Acts), slot == "secret" || slot == "secret-old"
		}
	}
	if slot != "secret" {
		return "", false
	}
	if p := s.PlaceNamed(name); p != nil {
		return Origin(p.URL), true
	}
	if f := s.FittingNamed(name); f != nil {
		return Origin(f.URL), true
	}
	return "", false
}

func prefixed(prefix, s string) string {
	if s == "" {
		return ""
	}
	return prefix + s
}
