package housefile

import (
	"fmt"
	"slices"
	"sort"
	"strconv"
	"strings"
	"time"

	"vividporch/core/happening"
	"vividporch/core/output"
	"vividporch/core/plain"
	"vividporch/core/pointer"
	"vividporch/core/wording"
)

// FillIn is a fill-in with settings of its own, made once and named; wordings refer
// to it by its name.
type FillIn struct {
	Name string   `json:"name" jsonschema:"minLength=1,maxLength=30"`
	Kind string   `json:"kind" jsonschema:"enum=dice,enum=last,enum=clock,enum=list,enum=fetched"`
	From int64    `json:"from,omitempty"` // of a dice: its least number
	To   int64    `json:"to,omitempty"`   // and its greatest
	Who  string   `json:"who,omitempty" jsonschema:"enum=followers,enum=subscribers,enum=gifters,enum=tippers,enum=raiders"`
	Most int      `json:"most,omitempty"` // of the last ones: how many names, 1 to 20
	Zone string   `json:"zone,omitempty"` // of a clock: an IANA name
	List []string `json:"list,omitempty"` // one of these, by chance

	Address string  `json:"address,omitempty"`                                            // of a fetched one: where its text stands
	Pointer string  `json:"pointer,omitempty"`                                            // and what in it is the text, as RFC 6901 has it; none is all of it
	Every   float64 `json:"everySeconds,omitempty" jsonschema:"minimum=30,maximum=86400"` // how often it is fetched; none is every five minutes
}

// Age is the fill-in that tells how old what was fetched is.
func (f *FillIn) Age() wording.FillIn {
	return wording.FillIn{Name: f.Name + "Age", Kind: wording.Text, Tells: "how long ago " + f.Name + " was fetched", Example: "4 minutes", Optional: true}
}

// OtherEvent describes another service's event, so that its fields can be used in
// wordings. Fields map each field to an example; one that is a number is a number.
type OtherEvent struct {
	Event  string            `json:"event" jsonschema:"minLength=1,maxLength=80"`
	Fields map[string]string `json:"fields"`
}

// Describe describes other services' events by what came in, newest first: every
// field that was ever seen, with its latest value as the example. Those that are
// described in known already are left out.
func Describe(came []*happening.Other, known []OtherEvent) []OtherEvent {
	var out []OtherEvent
	for _, o := range came {
		named := func(k OtherEvent) bool { return strings.EqualFold(k.Event, o.Name) }
		if slices.ContainsFunc(known, named) {
			continue
		}
		at := slices.IndexFunc(out, named)
		if at < 0 {
			at, out = len(out), append(out, OtherEvent{Event: o.Name, Fields: map[string]string{}})
		}
		for name, v := range o.Fields {
			if v == nil {
				continue
			}
			if _, seen := out[at].Fields[name]; !seen {
				out[at].Fields[name] = plain.Text(happening.FieldText(v))
			}
		}
	}
	return out
}

// Offer tells what a fill-in is to whoever writes a wording.
func (f *FillIn) Offer() wording.FillIn {
	out := wording.FillIn{Name: f.Name, Kind: wording.Text}
	switch f.Kind {
	case "dice":
		out.Kind, out.Tells, out.Example = wording.Number, fmt.Sprintf("a dice, %d to %d", f.From, f.To), strconv.FormatInt((f.From+f.To)/2, 10)
	case "last":
		out.Tells, out.Example, out.Optional = fmt.Sprintf("the last %d %s", f.Most, f.Who), "mossy_mare, pebble_june and tidewrack", true
	case "clock":
		out.Kind, out.Tells, out.Example = wording.Moment, "day and time in "+f.Zone, "Nov 24, 2026"
	case "fetched":
		out.Tells, out.Example, out.Optional = "what stands at "+Origin(f.Address), "Low water at 21:10", true
	case "list":
		out.Tells, out.Example = fmt.Sprintf("one of %d, by chance", len(f.List)), f.List[0]
	}
	return out
}

// Fault says what is wrong with a fill-in, and the remedy; "" when it can be used.
func (f *FillIn) Fault() (what, remedy string) {
	if f.Name == "" || strings.Trim(f.Name, "abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789") != "" {
		return fmt.Sprintf("%q is no name for a fill-in", f.Name), "use letters and digits alone"
	}
	switch {
	case f.Kind == "dice" && (f.To <= f.From || f.To-f.From > 1_000_000):
		return "has no numbers to throw", "let to be above from, by at most a million"
	case f.Kind == "last" && (f.Most < 1 || f.Most > LastMost || !slices.Contains(lastKinds, f.Who)):
		return "tells of nobody", "ask for the last 1 to 20 followers, subscribers, gifters, tippers or raiders"
	case f.Kind == "clock":
		if _, err := time.LoadLocation(f.Zone); err != nil || f.Zone == "" {
			return fmt.Sprintf("%q is no time zone", f.Zone), `use an IANA name such as "Europe/Lisbon"`
		}
	case f.Kind == "list" && (len(f.List) == 0 || len(f.List) > 500 || slices.Contains(f.List, "")):
		return "has nothing to pick from", "give it 1 to 500 lines, none of them empty"
	case f.Kind == "fetched" && (!isAddress(f.Address) || Origin(f.Address) == "" || len(f.Address) > 2000):
		return "has no address to fetch from", "write it in full, https://…"
	case f.Kind == "fetched" && pointer.Check(f.Pointer) != nil:
		return "the pointer " + pointer.Check(f.Pointer).Error(), `write "/tides/0/at", or none for all of the text`
	case f.Kind == "fetched" && f.Every != 0 && (f.Every < 30 || f.Every > 86_400):
		return "is fetched too often or too seldom", "use 30 to 86400 seconds"
	case f.Kind != "dice" && f.Kind != "last" && f.Kind != "list" && f.Kind != "clock" && f.Kind != "fetched":
		return fmt.Sprintf("%q is no kind of fill-in", f.Kind), "use dice, last, clock, list or fetched"
	}
	return "", ""
}

// LastMost is how many of those who did something last can be named.
const LastMost = 20

// lastKinds are the ones who did something last that a fill-in can name.
var lastKinds = []string{"followers", "subscribers", "gifters", "tippers", "raiders"}

// Raises is what an event that a courtesy raises brings. A field that is one fill-in
// alone is of its kind, and has its example.
func Raises(o *output.Raise, offered []wording.FillIn) []wording.FillIn {
	out := brings(o.Fields)
	for i := range out {
		w, err := wording.Parse(o.Fields[out[i].Name])
		if err != nil {
			continue
		}
		at := slices.IndexFunc(offered, func(f wording.FillIn) bool { return f.Name == w.Alone() })
		if at >= 0 && offered[at].Kind != wording.Moment {
			out[i].Kind, out[i].Example = offered[at].Kind, offered[at].Example
		}
	}
	return out
}

// brings is what an event brings whose fields are described by examples.
func brings(fields map[string]string) []wording.FillIn {
	var out []wording.FillIn
	for name, example := range fields {
		kind := wording.Text
		if _, err := strconv.ParseFloat(example, 64); err == nil {
			kind = wording.Number
		}
		out = append(out, wording.FillIn{Name: name, Kind: kind, Tells: "what the event brings as " + name, Example: example, Optional: true})
	}
	sort.Slice(out, func(i, j int) bool { return out[i].Name < out[j].Name })
	return out
}

// Brings is what a described event brings.
func (o *OtherEvent) Brings() []wording.FillIn { return brings(o.Fields) }
