package courtesy

import (
	"fmt"
	"slices"
	"strings"

	"vividporch/core/wording"
)

// Fault is something in a courtesy that keeps it from coming into force. At is a
// path into the courtesy; Problem gives the place within a wording.
type Fault struct {
	Courtesy string           `json:"courtesy"`
	At       string           `json:"at"`
	Problem  *wording.Problem `json:"problem,omitempty"`
	What     string           `json:"what"`
	Remedy   string           `json:"remedy"`
}

func (f Fault) Error() string {
	return fmt.Sprintf("%s, %s: %s; %s", f.Courtesy, f.At, f.What, f.Remedy)
}

var common = []wording.FillIn{
	{Name: "channel", Kind: wording.Text, Tells: "this channel's name", Example: "tidepool_hours"},
	{Name: "platform", Kind: wording.Text, Tells: "where it happened", Example: "Quayside"},
	{Name: "now", Kind: wording.Moment, Tells: "day and time, in the channel's zone", Example: "Nov 24, 2026"},
}

var about = []wording.FillIn{
	{Name: "name", Kind: wording.Text, Tells: "the person's name, as it is said", Example: "limpet_lena"},
	{Name: "streams", Kind: wording.Number, Tells: "streams they were at, tonight included", Example: "41"},
	{Name: "followed", Kind: wording.Moment, Tells: "since when they follow", Example: "Mar 3, 2025", Optional: true},
}

// FillIns lists what a when can offer to its wordings.
func FillIns(when string) []wording.FillIn {
	switch when {
	case "porch.raid.came":
		return join(about, []wording.FillIn{
			{Name: "viewers", Kind: wording.Number, Tells: "how many they brought", Example: "120"},
			{Name: "raids", Kind: wording.Number, Tells: "how often they have come, this one included", Example: "3"},
			{Name: "link", Kind: wording.Text, Tells: "where to find them", Example: "https://quayside.example/night_heron_cam", Optional: true},
			{Name: "category", Kind: wording.Text, Tells: "what they last streamed", Example: "Reedbed at dusk", Optional: true},
		}, common)
	case "porch.stream.opened", "porch.stream.changed", "porch.stream.closed":
		return join(common, []wording.FillIn{
			{Name: "title", Kind: wording.Text, Tells: "the stream's title", Example: "What the tide left in the gully", Optional: true},
			{Name: "category", Kind: wording.Text, Tells: "the stream's category", Example: "Field and microscope", Optional: true},
			{Name: "link", Kind: wording.Text, Tells: "where to watch", Example: "https://quayside.example/tidepool_hours", Optional: true},
		})
	}
	if when == Hand {
		return join(brought[when], common)
	}
	return join(about, brought[when], common)
}

// brought are the fill-ins that a happening brings of itself.
var brought = map[string][]wording.FillIn{
	"porch.raid.went":          {viewers},
	"porch.channel.shown":      {viewers},
	"porch.support.subscribed": {{Name: "months", Kind: wording.Number, Tells: "months in all", Example: "14"}, tier},
	"porch.support.gifted": {{Name: "gifts", Kind: wording.Number, Tells: "how many they gave", Example: "5"}, tier,
		{Name: "to", Kind: wording.Text, Tells: "who got it, when it was for one person", Example: "mossy_mare", Optional: true}},
	"porch.support.tipped":  {amount, message},
	"porch.support.credits": {{Name: "credits", Kind: wording.Number, Tells: "credits spent", Example: "300"}, message},
	"porch.reward.claimed": {{Name: "reward", Kind: wording.Text, Tells: "the reward's name", Example: "Name a hermit crab", Optional: true},
		{Name: "cost", Kind: wording.Number, Tells: "what it cost, in points", Example: "400"}, message},
	"porch.shop.sold":       shop,
	"porch.shop.gifted":     shop,
	"porch.shop.used":       shop,
	"porch.person.banned":   {moderator, reason},
	"porch.person.timedout": {{Name: "seconds", Kind: wording.Number, Tells: "how long", Example: "600"}, moderator, reason},
	"porch.person.joined":   {{Name: "place", Kind: wording.Text, Tells: "the community server", Example: "The Boathouse", Optional: true}},
	Command:                 {meant, {Name: "rest", Kind: wording.Text, Tells: "what stood after the command", Example: "how high tonight?", Optional: true}},
	Hand:                    {{Name: "asker", Kind: wording.Text, Tells: "the member who asked", Example: "Odalys Brine"}, meant},
	"porch.other":           {{Name: "event", Kind: wording.Text, Tells: "the event's own name", Example: "tide.turned", Optional: true}},
}

var (
	viewers   = wording.FillIn{Name: "viewers", Kind: wording.Number, Tells: "how many viewers", Example: "120"}
	tier      = wording.FillIn{Name: "tier", Kind: wording.Text, Tells: "the tier's name", Example: "Harbour", Optional: true}
	amount    = wording.FillIn{Name: "amount", Kind: wording.Text, Tells: "the amount with its currency", Example: "12.50 EUR", Optional: true}
	message   = wording.FillIn{Name: "message", Kind: wording.Text, Tells: "what they wrote with it", Example: "for the anemone", Optional: true}
	meant     = wording.FillIn{Name: "meant", Kind: wording.Text, Tells: "who is meant, when somebody was named", Example: "mossy_mare", Optional: true}
	moderator = wording.FillIn{Name: "by", Kind: wording.Text, Tells: "who did it", Example: "grebe_watch", Optional: true}
	reason    = wording.FillIn{Name: "reason", Kind: wording.Text, Tells: "the reason given", Example: "the same line forty times", Optional: true}
	shop      = []wording.FillIn{{Name: "item", Kind: wording.Text, Tells: "the item", Example: "Enamel mug", Optional: true},
		{Name: "items", Kind: wording.Number, Tells: "how many", Example: "2"}, amount, message}
)

// JoinedFillIns lists what a line for several people can use.
func JoinedFillIns(when string) []wording.FillIn {
	return join([]wording.FillIn{
		{Name: "names", Kind: wording.Text, Tells: "up to six names", Example: "tidewrack, mossy_mare, pebble_june"},
		{Name: "more", Kind: wording.Number, Tells: "how many beyond those named", Example: "9"},
		{Name: "count", Kind: wording.Number, Tells: "how many in all", Example: "12"},
	}, total(when), common)
}

// total is the sum of what several brought, for whens with a number.
func total(when string) []wording.FillIn {
	switch n := MainNumber(when); n {
	case "":
		return nil
	case "amount":
		return []wording.FillIn{{Name: "total", Kind: wording.Text, Tells: "all amounts together, by currency", Example: "22.50 EUR and 5 USD"}}
	default:
		return []wording.FillIn{{Name: "total", Kind: wording.Number, Tells: "all " + n + " together", Example: "31"}}
	}
}

func join(lists ...[]wording.FillIn) []wording.FillIn {
	var out []wording.FillIn
	for _, l := range lists {
		out = append(out, l...)
	}
	return out
}

// whens are the happenings a courtesy can have as its cause, with the numbers that
// come with each, the main one first.
var whens = map[string][]string{
	Arrival: nil, Hello: nil, Command: nil, Hand: nil, "porch.stream.opened": nil, "porch.stream.changed": nil, "porch.stream.closed": nil,
	"porch.raid.came": {"viewers"}, "porch.raid.went": {"viewers"}, "porch.channel.shown": {"viewers"},
	"porch.person.followed": nil, "porch.person.banned": nil, "porch.person.timedout": nil, "porch.person.joined": nil, "porch.person.entered": nil,
	"porch.support.subscribed": {"months"}, "porch.support.gifted": {"gifts"}, "porch.support.tipped": {"amount"}, "porch.support.credits": {"credits"},
	"porch.reward.claimed": {"cost"}, "porch.shop.sold": {"items", "amount"}, "porch.shop.gifted": {"items", "amount"}, "porch.shop.used": {"items"},
	"porch.social.followed": nil, "porch.social.liked": nil, "porch.social.reposted": nil, "porch.other": nil,
}

// When is a cause a courtesy can have: what it is called, which numbers and texts
// come with it, and which slots make sense for it.
type When struct {
	Type    string
	Words   string
	Numbers []string
	Fields  []string
	Slots   []Slot
}

// fieldsOf are the texts of a happening that a who can ask for.
var fieldsOf = map[string][]string{
	"porch.support.subscribed": {"tier"}, "porch.support.gifted": {"tier"}, "porch.support.tipped": {"campaign"}, "porch.reward.claimed": {"reward"},
	"porch.shop.sold": {"item"}, "porch.shop.gifted": {"item"}, "porch.shop.used": {"item"}, "porch.person.joined": {"place"}, "porch.other": {"event"},
}

// Whens lists every cause, in the order in which an evening goes.
func Whens() []When {
	order := []string{"porch.stream.opened", "porch.stream.changed", Arrival, Hello, Command, Hand, "porch.person.entered", "porch.raid.came", "porch.person.followed",
		"porch.support.subscribed", "porch.support.gifted", "porch.support.tipped", "porch.support.credits", "porch.reward.claimed",
		"porch.shop.sold", "porch.shop.gifted", "porch.shop.used", "porch.channel.shown", "porch.person.joined", "porch.person.timedout", "porch.person.banned",
		"porch.social.followed", "porch.social.liked", "porch.social.reposted", "porch.other", "porch.raid.went", "porch.stream.closed"}
	words := map[string]string{Arrival: "someone's first line", "porch.stream.opened": "the opening of the stream", "porch.raid.came": "a raid"}
	var out []When
	for _, t := range order {
		w := When{Type: t, Words: words[t], Numbers: whens[t], Fields: fieldsOf[t], Slots: []Slot{Thanks, Free}}
		if w.Words == "" {
			w.Words = happenings[t]
		}
		switch {
		case t == Arrival:
			w.Slots = []Slot{Greeting, ShoutOut, Free}
		case t == Hello, t == Command:
			w.Slots = []Slot{Answer, Free}
		case t == Hand:
			w.Slots = []Slot{Free}
		case t == "porch.raid.came":
			w.Slots = []Slot{Thanks, ShoutOut, Free}
		case strings.HasPrefix(t, "porch.stream."):
			w.Slots = []Slot{Free}
		}
		out = append(out, w)
	}
	return out
}

// MainNumber names the number a happening is measured by, or "".
func MainNumber(when string) string {
	if n := whens[when]; len(n) > 0 {
		return n[0]
	}
	return ""
}

// Load makes a set ready for use and reports every fault in it; with faults the
// set is nil.
func Load(list []Courtesy, w World) (*Set, []Fault) {
	set := &Set{by: map[string][]*Ready{}, own: map[string]map[string][]*Ready{}, on: map[string]bool{}, ask: map[string]bool{}}
	var faults []Fault
	ids := map[string]bool{}
	for i := range list {
		r, fs := load(list[i], i, w)
		if ids[r.ID] {
			fs = append(fs, Fault{Courtesy: r.ID, At: "id", What: "stands twice", Remedy: "give each courtesy an id of its own"})
		}
		ids[r.ID] = true
		faults = append(faults, fs...)
		set.add(r)
	}
	if faults = append(faults, circles(list)...); len(faults) > 0 {
		return nil, faults
	}
	return set, nil
}

func (s *Set) add(r *Ready) {
	if r.Away {
		return
	}
	s.all = append(s.all, r)
	s.on[r.When] = s.on[r.When] || r.On
	for _, a := range r.Asks {
		s.ask[strings.ToLower(a)] = true
	}
	if r.Who.Account == "" {
		s.by[r.When] = append(s.by[r.When], r)
		return
	}
	if s.own[r.When] == nil {
		s.own[r.When] = map[string][]*Ready{}
	}
	s.own[r.When][r.Who.Account] = append(s.own[r.When][r.Who.Account], r)
}

func load(c Courtesy, order int, w World) (*Ready, []Fault) {
	r := &Ready{Courtesy: c, order: order}
	var faults []Fault
	fault := func(at, what, remedy string) {
		faults = append(faults, Fault{Courtesy: c.ID, At: at, What: what, Remedy: remedy})
	}
	if c.ID == "" {
		fault("id", "is missing", "name the courtesy")
	}
	numbers, known := whens[c.When]
	if !known {
		fault("when", fmt.Sprintf("%q never happens", c.When), `use "arrival", "hello", "command", "hand" or a type of the event contract`)
	}
	switch c.Slot {
	case Greeting, ShoutOut, Thanks, Answer, Free:
	default:
		fault("slot", fmt.Sprintf("%q is no slot", c.Slot), "use greeting, shout-out, thanks, answer, or none")
	}
	if c.When == Command && (len(c.Asks) == 0 || slices.ContainsFunc(c.Asks, func(a string) bool { return a == "" || len(a) > 40 || strings.ContainsAny(a, " \t\r\n") })) {
		fault("asks", "are missing or more than one word each", `name the words it is asked by, "!tides"`)
	}
	if len(c.Title) > 40 {
		fault("title", "is too long for a button", "keep to 40 letters")
	}
	if b := c.Burst; b != nil && (b.Seconds < 1 || b.Seconds > 120 || b.At < 2 || b.At > 100) {
		fault("burst", "is out of range", "wait 1 to 120 seconds for 2 to 100 at once")
	}
	c.Who.check("who", fault)
	if c.Measure != nil {
		c.Measure.check(fault)
		if of := c.Measure.Of; of != "" && known && !slices.Contains(numbers, of) {
			fault("measure.of", "no "+of+" come with this", "take the measure out, or choose another when")
		}
	}
	seen := map[string]bool{}
	for i, o := range c.Do {
		at := fmt.Sprintf("do.%d", i)
		if seen[o.ID] {
			fault(at+".id", "stands twice", "give each output an id of its own")
		}
		seen[o.ID] = true
		r.Outputs = append(r.Outputs, o.ready(c, w, func(in, what, remedy string) { fault(at+"."+in, what, remedy) },
			func(in string, srcs []string, offered []wording.FillIn) (out []*wording.Wording) {
				out, faults = parseAll(c.ID, at+"."+in, srcs, offered, faults)
				return out
			}))
	}
	return r, faults
}

func parseAll(id, at string, srcs []string, offered []wording.FillIn, faults []Fault) ([]*wording.Wording, []Fault) {
	var out []*wording.Wording
	for i, src := range srcs {
		w, problems := CheckWording(src, offered)
		for _, p := range problems {
			faults = append(faults, Fault{Courtesy: id, At: fmt.Sprintf("%s.%d", at, i), Problem: &p, What: p.What, Remedy: p.Remedy})
		}
		out = append(out, w)
	}
	return out, faults
}

// mostWording is how many bytes a wording may have, its cases included.
const mostWording = 8000

// CheckWording parses one wording and holds it against what is offered; w is nil
// when it cannot be parsed.
func CheckWording(src string, offered []wording.FillIn) (w *wording.Wording, problems []wording.Problem) {
	if len(src) > mostWording {
		return nil, []wording.Problem{{From: mostWording, To: len(src), What: fmt.Sprintf("the wording has %d bytes", len(src)), Remedy: fmt.Sprintf("keep to %d; a line in chat has a few hundred", mostWording)}}
	}
	w, err := wording.Parse(src)
	if err != nil {
		return nil, []wording.Problem{*err.(*wording.Problem)}
	}
	if src == "" {
		return w, []wording.Problem{{What: "the wording is empty", Remedy: "write something, or take this alternative out"}}
	}
	return w, w.Check(offered)
}

// Starter is an output to begin with, in words that fit its courtesy's when; the
// streamer puts their own in their place.
func Starter(c Courtesy, o Output) Output {
	joined := []string{"{names}{more, plural, =0 {} other { and # more}}: thank you all!"}
	switch {
	case !o.Worded():
		return o
	case o.Kind == Platform:
		o.Alternatives = []string{"{channel}"}
		return o
	case strings.HasPrefix(c.When, "porch.stream."):
		o.Alternatives = []string{"{channel} is here.", "This is {channel}.", "{channel}: come and look."}
	case c.When == Hand:
		o.Alternatives = []string{"{hasMeant, select, yes {For {meant}, with thanks.} other {For everyone on the porch.}}", "{hasMeant, select, yes {Three cheers for {meant}.} other {Three cheers for the porch.}}",
			"{hasMeant, select, yes {{meant}, this is for you.} other {This is for you all.}}"}
	case c.When == Command:
		o.Alternatives = []string{"Here you are, {name}.", "{name}: here it is.", "For {name}, and whoever else wondered."}
	case c.Slot == ShoutOut:
		o.Alternatives = []string{"Go and see {name}.", "{name} is well worth an evening.", "Put {name} on your tide table."}
	case c.When == Hello:
		o.Alternatives = []string{"Hello, {name}.", "And to you, {name}.", "{name}! Good evening."}
	case c.Slot == Thanks:
		o.Alternatives = []string{"Thank you, {name}!", "{name}, that is kind. Thank you!", "The whole boathouse thanks {name}."}
	default:
		o.Alternatives = []string{"Evening, {name}.", "{name} is here!", "Good to see you, {name}."}
	}
	if c.Burst != nil && o.Joins() && len(o.Joined) == 0 {
		o.Joined = joined
	}
	return o
}
