package courtesy

import (
	"fmt"
	"slices"

	"vividporch/core/event"
	"vividporch/core/people"
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
}

var about = []wording.FillIn{
	{Name: "name", Kind: wording.Text, Tells: "the person's name, as it is said", Example: "limpet_lena"},
	{Name: "streams", Kind: wording.Number, Tells: "streams they were at, tonight included", Example: "41"},
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
	return join(about, common)
}

// JoinedFillIns lists what a line for several people can use.
func JoinedFillIns() []wording.FillIn {
	return join([]wording.FillIn{
		{Name: "names", Kind: wording.Text, Tells: "up to six names", Example: "tidewrack, mossy_mare, pebble_june"},
		{Name: "more", Kind: wording.Number, Tells: "how many beyond those named", Example: "9"},
		{Name: "count", Kind: wording.Number, Tells: "how many in all", Example: "12"},
	}, common)
}

func join(lists ...[]wording.FillIn) []wording.FillIn {
	var out []wording.FillIn
	for _, l := range lists {
		out = append(out, l...)
	}
	return out
}

// whens are the causes a courtesy can have so far.
var whens = map[string]bool{
	Arrival: true, "porch.raid.came": true, "porch.stream.opened": true, "porch.stream.changed": true,
	"porch.stream.closed": true, "porch.person.followed": true, "porch.support.subscribed": true,
	"porch.support.gifted": true, "porch.support.tipped": true,
}

// Load makes a set ready for use and reports every fault in it; with faults the
// set is nil.
func Load(list []Courtesy, places map[string]bool) (*Set, []Fault) {
	set := &Set{by: map[string][]*Ready{}}
	var faults []Fault
	ids := map[string]bool{}
	for i := range list {
		r, fs := load(list[i], i, places)
		if ids[r.ID] {
			fs = append(fs, Fault{Courtesy: r.ID, At: "id", What: "stands twice", Remedy: "give each courtesy an id of its own"})
		}
		ids[r.ID] = true
		faults = append(faults, fs...)
		set.by[r.When] = append(set.by[r.When], r)
	}
	if len(faults) > 0 {
		return nil, faults
	}
	return set, nil
}

func load(c Courtesy, order int, places map[string]bool) (*Ready, []Fault) {
	r := &Ready{Courtesy: c, order: order}
	var faults []Fault
	fault := func(at, what, remedy string) {
		faults = append(faults, Fault{Courtesy: c.ID, At: at, What: what, Remedy: remedy})
	}
	if c.ID == "" {
		fault("id", "is missing", "name the courtesy")
	}
	if !whens[c.When] {
		fault("when", fmt.Sprintf("%q never happens", c.When), `use "arrival" or a type of the event contract`)
	}
	switch c.Slot {
	case Greeting, ShoutOut, Thanks, Free:
	default:
		fault("slot", fmt.Sprintf("%q is no slot", c.Slot), "use greeting, shout-out, thanks, or none")
	}
	switch c.Who.Role {
	case "", event.Streamer, event.Moderator, event.VIP, event.Subscriber, event.Follower:
	default:
		fault("who.role", fmt.Sprintf("%q is no role", c.Who.Role), "use a role of the event contract")
	}
	if c.Who.Standing != "" && !slices.Contains(people.Standings, c.Who.Standing) {
		fault("who.standing", fmt.Sprintf("%q is no standing", c.Who.Standing), "use newcomer, returning, regular or long away")
	}
	if c.Who.Mark != "" && c.Who.Mark != people.Raider && c.Who.Mark != people.Fellow {
		fault("who.mark", fmt.Sprintf("%q is no mark", c.Who.Mark), "use raider or fellow streamer")
	}
	if m := c.Measure; m != nil && m.AtLeast != nil && m.UpTo != nil && *m.UpTo < *m.AtLeast {
		fault("measure", "ends before it begins", "let upTo be at least atLeast")
	}
	for i, o := range c.Do {
		at := fmt.Sprintf("do.%d", i)
		switch {
		case o.Kind != Say && o.Kind != Relay:
			fault(at+".kind", fmt.Sprintf("%q is no output", o.Kind), "use say or relay")
		case o.Kind == Relay && !places[o.Place]:
			fault(at+".place", fmt.Sprintf("there is no place %q", o.Place), "use the name of one of your places")
		case len(o.Alternatives) == 0:
			fault(at+".alternatives", "are missing", "write at least one wording")
		case o.DelaySeconds < 0 || o.DelaySeconds > 3600 || o.WaitSeconds < 0 || o.WaitSeconds > 3600:
			fault(at+".delaySeconds", "is out of range", "use 0 to 3600 seconds")
		}
		ro := ReadyOutput{Output: o}
		ro.Alts, faults = parseAll(c.ID, at+".alternatives", o.Alternatives, FillIns(c.When), faults)
		ro.Joined, faults = parseAll(c.ID, at+".joined", o.Joined, JoinedFillIns(), faults)
		r.Outputs = append(r.Outputs, ro)
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

// CheckWording parses one wording and holds it against what is offered; w is nil
// when it cannot be parsed.
func CheckWording(src string, offered []wording.FillIn) (w *wording.Wording, problems []wording.Problem) {
	w, err := wording.Parse(src)
	if err != nil {
		return nil, []wording.Problem{*err.(*wording.Problem)}
	}
	if src == "" {
		return w, []wording.Problem{{What: "the wording is empty", Remedy: "write something, or take this alternative out"}}
	}
	return w, w.Check(offered)
}
