package room

import (
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"vividporch/core/courtesy"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/core/place"
	"vividporch/core/plain"
	"vividporch/core/who"
	"vividporch/core/wording"
)

// post sends to a place, at once unless it has a delay, and whatever hush holds: records do not wait for it.
// What is gathered, or comes in quiet hours, waits in the room for posts.
func (t *Turn) post(c who.Cause, r *courtesy.Ready, o *courtesy.ReadyOutput, args wording.Args) {
	at := t.Plan.PlaceNamed(o.Place())
	refuse := func(why string) {
		t.Decide(hall.Decision{Kind: hall.Refuse, Courtesy: r.ID, Output: o.ID, Place: at.Name, Because: []string{why}})
	}
	rel, _ := o.Do.(*output.Relay)
	now := t.Now.In(t.Plan.Zone)
	switch {
	case !at.Ready():
		refuse("the place has no address yet")
		return
	case rel.Paused && !t.Try:
		refuse("the relay is paused")
		return
	case rel.Quiet != nil && rel.Quiet.Drop && rel.Quiet.Hold(now) && !t.Try:
		refuse("nothing is posted there " + rel.Quiet.String())
		return
	}
	safe := safely(at, args)
	safe["call"] = wording.Str(called(rel, t.Try))
	safe["does"], safe["shelf"] = wording.Str(does[rel.Does]), wording.Value{Text: rel.Media}
	safe["to"] = wording.Value{Text: plain.Name(c.Person.Login)}
	safe["picture"] = wording.Value{Text: t.drawn(c, rel, o, args)}
	safe["stream"] = wording.Num(int64(t.streamNow())) // for files that are one a stream
	w, mark := t.choose(r, o, safe)
	text := w.Render(safe)
	if strings.TrimSpace(text) == "" {
		refuse(saysNothing)
		return
	}
	text = at.Shortened(tried(t.Try, text), t.Plan.Settings.Profile)
	due, why := rel.Due(now)
	if hold := t.Plan.Announcing.Hold(); hold > 0 && announces(r) {
		if at := now.Add(hold); due.Before(at) {
			due, why = at, fmt.Sprintf("a stream that is over within %s is not announced", hold)
		}
	}
	if !t.Try && (rel.Gather != nil || due.After(now)) {
		t.gather(c, r, o, Gathered{Text: text, Picture: safe["picture"].Text, At: t.Event.Time, Due: due.UTC(), Full: rel.Full()}, mark, why)
		return
	}
	safe["text"] = wording.Value{Text: text}
	body, err := at.Render(safe)
	if err != nil {
		refuse(err.Error())
		return
	}
	if t.delay(r, o) > 0 {
		l := t.line(c, r, o, args, at.Name, w, mark)
		l.Text, l.Effect, l.Body, l.Record, l.Expires, l.Burst = text, string(hall.Relay), body, true, time.Time{}, ""
		l.Hushed, l.Ask, l.AskEnds, l.Args = false, "", time.Time{}, nil // a record waits for its delay alone
		t.plan(l, r, o, nil)
		return
	}
	t.Decide(hall.Decision{Kind: hall.Relay, Courtesy: r.ID, Output: o.ID, Line: t.LineID(r.ID, o.ID), Place: at.Name, Text: text, Stream: t.about(r, rel),
		Saying: hall.Saying{Body: body, Late: t.late(r, at, safe), Onto: rel.Onto, Alt: mark, Of: wording.Of(o.Alts, o.Weights)}, Event: t.Event.Seq, EventID: t.Event.ID, Person: c.Person.KeyOrNone(), Try: t.Try, Because: []string{t.because()}})
}

// leads are the fill-ins that the house or a platform fills with an address: no words of anybody's.
var leads = []string{"link", "recording", "together"}

// safely are fill-ins as they are safe at a place.
func safely(at *place.Place, args wording.Args) wording.Args {
	safe := wording.Args{}
	for k, v := range args {
		if !slices.Contains(leads, k) {
			v.Text = at.Safe(v.Text)
		}
		safe[k] = v
	}
	return safe
}

// drawn is the picture that is drawn for whoever a post is about; "" for none.
func (t *Turn) drawn(c who.Cause, rel *output.Relay, o *courtesy.ReadyOutput, args wording.Args) string {
	x := rel.Drawing
	if x == nil || c.Person.ID == "" {
		return ""
	}
	d := place.Drawn{Name: t.SayName(c.Person), Face: c.Person.PictureAt(), Ground: x.Ground, Shelf: x.Picture, Frame: x.Frame, At: x.At}
	if w := o.Own[output.DrawingWording]; w != nil {
		d.Text = w.Render(args)
	}
	return d.String()
}

// does is what is done at a social account, as its profile calls it.
var does = map[string]string{"message": "message", "portrait": "picture", "banner": "banner"}

// called is whom a post calls: nobody where it is tried.
func called(r *output.Relay, try bool) string {
	if try {
		return ""
	}
	return r.Call
}

// streamNow is the number of the stream that is on, that opens with this event, or that comes next.
func (t *Turn) streamNow() int {
	for i := range t.Decided {
		if t.Decided[i].Kind == hall.Open {
			return t.Decided[i].Stream
		}
	}
	return t.State.StreamNow()
}

// about is the number of the stream that a post is about: of an announcement, and of what belongs to one.
func (t *Turn) about(r *courtesy.Ready, rel *output.Relay) int {
	if t.Try || rel.Onto == "" && !announces(r) {
		return 0
	}
	return t.streamNow()
}

// announces reports whether a courtesy announces the opening of a stream.
func announces(r *courtesy.Ready) bool { return r.When == happening.StreamOpenedType }

// late is what is posted instead of an announcement once its stream has ended; nothing where it is dropped then.
func (t *Turn) late(r *courtesy.Ready, place *housefile.Place, safe wording.Args) json.RawMessage {
	if !announces(r) || t.Try {
		return nil
	}
	w := t.Plan.Announcing.Words()
	if w == nil {
		return nil
	}
	text := w.Render(safe)
	if strings.TrimSpace(text) == "" {
		return nil
	}
	args := maps.Clone(safe)
	args["text"], args["call"] = wording.Str(text), wording.Str("") // nobody is called to what is over
	body, err := place.Render(args)
	if err != nil {
		return nil
	}
	return body
}

// Announced posts the announcement of a stream that was held, about the stream as it is by now: every platform that
// is live stands in it. The words are those that were chosen then, unless the settings have changed.
func (t *Turn) Announced(r *courtesy.Ready, o *courtesy.ReadyOutput, of hall.JoinedOne, alt uint64, because string) {
	place := t.Plan.PlaceNamed(o.Place())
	rel, _ := o.Do.(*output.Relay)
	safe := safely(place, t.AboutAir())
	safe["stream"], safe["call"] = wording.Num(int64(t.State.StreamNow())), wording.Str(rel.Call)
	w := o.Alts[max(0, wording.Marked(o.Alts, o.Weights, alt))]
	text := w.Render(safe)
	text = place.Shortened(text, t.Plan.Settings.Profile)
	safe["text"] = wording.Value{Text: text}
	body, err := place.Render(safe)
	if err != nil || strings.TrimSpace(text) == "" {
		t.Decide(hall.Decision{Kind: hall.Refuse, Courtesy: r.ID, Output: o.ID, Place: o.Place(), Because: []string{saysNothing}})
		return
	}
	t.Decide(hall.Decision{Kind: hall.Relay, Courtesy: r.ID, Output: o.ID, Line: t.LineID(r.ID, o.ID), Place: place.Name, Text: text, Stream: t.about(r, rel),
		Saying: hall.Saying{Body: body, Late: t.late(r, place, safe), Onto: rel.Onto}, Event: of.Event, EventID: of.EventID, Because: []string{because}})
}

// Gather is the kind of a decision by which a post waits. Its body is a [Gathered].
const Gather hall.Kind = "gather"

// Gathered is a post that waits: for others to go with, or for the end of the quiet hours.
type Gathered struct {
	Text    string    `json:"text"`
	Picture string    `json:"picture,omitempty"` // of one that goes alone
	At      time.Time `json:"at"`                // it happened
	Due     time.Time `json:"due"`               // it leaves by then
	Full    int       `json:"full,omitempty"`    // or once so many have gathered
	Stream  int       `json:"stream,omitempty"`  // of the announcement of a stream: its number
}

// gather decides that a post waits.
func (t *Turn) gather(c who.Cause, r *courtesy.Ready, o *courtesy.ReadyOutput, g Gathered, mark uint64, why string) {
	if r.When == happening.StreamOpenedType {
		g.Stream = t.streamNow()
	}
	body, err := json.Marshal(g)
	if err != nil {
		return
	}
	t.Decide(hall.Decision{Kind: Gather, Courtesy: r.ID, Output: o.ID, Line: t.LineID(r.ID, o.ID), Place: o.Place(), Text: g.Text, Saying: hall.Saying{Body: body, Alt: mark, Of: wording.Of(o.Alts, o.Weights)},
		Event: t.Event.Seq, EventID: t.Event.ID, Person: c.Person.KeyOrNone(), Name: plain.Name(c.Person.Shown()), Because: []string{t.because(), why}})
}

// Digest posts to a place what has gathered for an output: what is told of each, and for whom each is; with the picture
// of one that goes alone.
func (t *Turn) Digest(r *courtesy.Ready, o *courtesy.ReadyOutput, texts []string, picture string, of []hall.JoinedOne, because string) {
	place := t.Plan.PlaceNamed(o.Place())
	text := place.Shortened(strings.Join(texts, "\n"), t.Plan.Settings.Profile)
	args := t.Args()
	args["text"], args["picture"] = wording.Value{Text: text}, wording.Value{Text: picture}
	args["stream"] = wording.Num(int64(t.State.StreamNow()))
	body, err := place.Render(args)
	if err != nil {
		t.Decide(hall.Decision{Kind: hall.Refuse, Courtesy: r.ID, Output: o.ID, Place: o.Place(), Because: []string{err.Error()}})
		return
	}
	x := hall.Decision{Kind: hall.Relay, Courtesy: r.ID, Output: o.ID, Line: t.LineID(r.ID, o.ID), Place: place.Name, Text: text, Saying: hall.Saying{Body: body, Joined: of}, Event: t.Event.Seq, EventID: t.Event.ID, Because: []string{because}}
	if len(of) == 1 { // it is that one, late
		x.Event, x.EventID, x.Person, x.Name, x.Joined = of[0].Event, of[0].EventID, of[0].Person, of[0].Name, nil
	}
	t.Decide(x)
}

// TakenBack says that what had gathered is not posted any more.
func (t *Turn) TakenBack(id, output, place string, n int, why string) {
	t.Decide(hall.Decision{Kind: hall.Refuse, Courtesy: id, Output: output, Place: place, Because: []string{fmt.Sprintf("%d that had gathered: %s", n, why)}})
}
