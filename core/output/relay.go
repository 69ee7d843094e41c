package output

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"vividporch/core/happening"
	"vividporch/core/who"
)

// KindRelay is the name of it.
const KindRelay Kind = "relay"

// Relay posts to a place: at once, or what has gathered as one.
type Relay struct {
	Place   string   `json:"place,omitempty"` // its name
	Paused  bool     `json:"paused,omitempty"`
	Gather  *Gather  `json:"gather,omitempty"`
	Quiet   *Quiet   `json:"quiet,omitempty"`
	Onto    string   `json:"onto,omitempty" jsonschema:"enum=edit,enum=under"` // of what is about the stream: the announcement that stands there is changed into this, or this stands under it
	Drawing *Drawing `json:"drawing,omitempty"`
	Does    string   `json:"does,omitempty" jsonschema:"enum=message,enum=portrait,enum=banner"` // of a social account, instead of a post: a message to whoever it is about, or another picture or banner for the account
	Media   string   `json:"media,omitempty"`                                                    // that picture, by its name on the shelf
	Call    string   `json:"call,omitempty"`                                                     // who is called there: a group that the place knows by this name; none calls nobody
}

// Drawing is a picture that is drawn for whoever a post is about.
type Drawing struct {
	Wording string `json:"wording,omitempty"` // what stands in it besides the name; with what the courtesy's when offers
	Ground  string `json:"ground,omitempty" jsonschema:"enum=dusk,enum=linen,enum=tide"`
	Picture string `json:"picture,omitempty"` // of the shelf, in place of the ground: its name there
	Frame   string `json:"frame,omitempty" jsonschema:"enum=cord,enum=board,enum=none"`
	At      string `json:"at,omitempty" jsonschema:"enum=left,enum=middle,enum=right"` // where the lantern hangs
}

// DrawingWording is where the words in a drawing stand.
const DrawingWording = "drawing.wording"

// Wordings are the words in its drawing.
func (r *Relay) Wordings() map[string]string {
	if r.Drawing == nil || r.Drawing.Wording == "" {
		return nil
	}
	return map[string]string{DrawingWording: r.Drawing.Wording}
}

// MediaName is the picture that its drawing stands before.
func (r *Relay) MediaName() string {
	if r.Drawing == nil {
		return r.Media
	}
	return r.Drawing.Picture
}

// What a relay does with the announcement that stands at its place.
const (
	OntoEdit  = "edit"
	OntoUnder = "under"
)

// Gather has posts wait for each other: so many minutes from the first on, or until so many have come.
type Gather struct {
	Minutes float64 `json:"minutes" jsonschema:"minimum=1,maximum=1440"`
	Count   int     `json:"count,omitempty" jsonschema:"minimum=0,maximum=200"` // 0 is however many come
}

// Quiet is hours, in the channel's zone, in which nothing is posted: what comes then waits for their end, or is
// dropped.
type Quiet struct {
	who.Hours
	Drop bool `json:"drop,omitempty"`
}

// The bounds of gathering.
const (
	mostGatherMinutes = 1440
	mostGathered      = 200
	mostCall          = 80
)

var relay = Spec{New: func() Does { return &Relay{} }, Way: ToPlace, Worded: true}

// Kind is the name of it.
func (*Relay) Kind() Kind { return KindRelay }

// Says tells what it does.
func (r *Relay) Says(n who.Names) string {
	switch g := r.Gather; {
	case r.Paused:
		return "post to " + n.OfPlace(r.Place) + ", paused"
	case g != nil && g.Minutes == 1440:
		return "post to " + n.OfPlace(r.Place) + " once a day"
	case g != nil:
		return fmt.Sprintf("post to %s every %g minutes", n.OfPlace(r.Place), g.Minutes)
	}
	return "post to " + n.OfPlace(r.Place)
}

// Towards says where its words go.
func (r *Relay) Towards(n who.Names) string { return n.OfPlace(r.Place) }

// PlaceName is where it is posted.
func (r *Relay) PlaceName() string { return r.Place }

// Due is when what happens now is posted, as far as time decides it, and why it waits; now is in the channel's zone.
func (r *Relay) Due(now time.Time) (due time.Time, why string) {
	due = now
	if g := r.Gather; g != nil {
		due, why = now.Add(time.Duration(g.Minutes*float64(time.Minute))), fmt.Sprintf("is gathered for %g minutes", g.Minutes)
		if g.Count > 0 {
			why += fmt.Sprintf(", or until there are %d", g.Count)
		}
	}
	if r.Quiet != nil && r.Quiet.Hold(due) {
		due, why = r.Quiet.Ends(due), "nothing is posted there "+r.Quiet.String()
	}
	return due, why
}

// Full is how many have gathered when they need not wait any longer; 0 is never.
func (r *Relay) Full() int {
	if r.Gather == nil {
		return 0
	}
	return r.Gather.Count
}

// Wishes are what can be wanted of a place besides taking a text: that the announcement which stands there is changed or
// followed, that a group is called, a picture drawn, or, of a social account, a message sent, its picture or its banner changed.
var Wishes = []string{OntoEdit, OntoUnder, "call", "picture", "message", "portrait", "banner"}

// CannotAt is why a wish cannot be had of a place for what happens; "" where it can. place is why the place itself cannot;
// nil knows of nothing.
func CannotAt(when, wish string, place func(wish string) string) string {
	if place != nil {
		if why := place(wish); why != "" {
			return why
		}
	}
	switch h := happening.Of(when); {
	case (wish == OntoEdit || wish == OntoUnder) && !h.AboutStream():
		return "only what is about the stream belongs to its announcement"
	case (wish == "picture" || wish == "message") && !h.AboutSomebody():
		return "it is about nobody"
	}
	return ""
}

// Check reports a place that is not there, and times that are none.
func (r *Relay) Check(_ *Output, in In, fault func(at, what, remedy string)) {
	if !in.Places[r.Place] {
		fault("place", fmt.Sprintf("there is no place %q", r.Place), "use the name of one of your places")
	}
	cannot := func(wish string) string {
		var at func(string) string
		if in.PlaceCannot != nil {
			at = func(wish string) string { return in.PlaceCannot(r.Place, wish) }
		}
		return CannotAt(in.When, wish, at)
	}
	if r.Onto != "" {
		switch why := cannot(r.Onto); {
		case r.Onto != OntoEdit && r.Onto != OntoUnder:
			fault("onto", fmt.Sprintf("%q is not known", r.Onto), `use "edit" or "under", or leave it out for a post of its own`)
		case why != "":
			fault("onto", why, "leave it out for a post of its own")
		}
	}
	if r.Call != "" {
		if why := cannot("call"); why != "" {
			fault("call", why, "call nobody")
		} else if len(r.Call) > mostCall || strings.ContainsFunc(r.Call, func(c rune) bool { return c <= ' ' || c == '@' }) {
			fault("call", fmt.Sprintf("%q is no name of a group", r.Call), "write its name alone, without a sign before it")
		}
	}
	switch r.Does {
	case "":
		if r.Media != "" {
			fault("media", "is of nothing that is done there", "take it out, or say what it is for")
		}
	case "message", "portrait", "banner":
		if why := cannot(r.Does); why != "" {
			fault("does", why, "switch it on for the account, or post instead")
		} else if r.Does != "message" && r.Media == "" {
			fault("media", "is missing", "choose a picture from the shelf")
		}
	default:
		fault("does", fmt.Sprintf("%q is not known", r.Does), "use message, portrait or banner, or leave it out for a post")
	}
	if d := r.Drawing; d != nil {
		of := func(at, v string, known ...string) {
			if v != "" && !slices.Contains(known, v) {
				fault("drawing."+at, fmt.Sprintf("%q is not known", v), "use "+strings.Join(known, ", "))
			}
		}
		of("ground", d.Ground, "dusk", "linen", "tide")
		of("frame", d.Frame, "cord", "board", "none")
		of("at", d.At, "left", "middle", "right")
		if why := cannot("picture"); why != "" {
			fault("drawing", why, "post without a picture")
		} else if r.Gather != nil {
			fault("drawing", "what is gathered has no picture", "post at once, or without a picture")
		}
	}
	if g := r.Gather; g != nil {
		if g.Minutes < 1 || g.Minutes > mostGatherMinutes {
			fault("gather.minutes", "is out of range", fmt.Sprintf("use 1 to %d minutes", mostGatherMinutes))
		}
		if g.Count < 0 || g.Count > mostGathered {
			fault("gather.count", "is out of range", fmt.Sprintf("use 0 to %d", mostGathered))
		}
	}
	if q := r.Quiet; q != nil {
		q.Check("quiet", fault)
		if q.From == q.To {
			fault("quiet.to", "is when they begin", "use another time of day, or no quiet hours")
		}
	}
}
