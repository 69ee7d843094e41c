// Package draw is the room for giveaways that anyone can check.
//
// A member, or whoever is permitted, asks for a draw. The house's edge makes its secret and tells what commits to it; only then
// entries are taken. Each is under a number and counts once for a person, on whichever of their accounts. When entries are closed
// their list is fixed, and only then the edge opens the secret; who wins follows from the two (package lots). Winners have to say
// something within a while, else their prize is drawn again.
//
// Everything that moves a draw is a decision of the room's own kind, a step; what viewers are told of it are happenings, for
// courtesies to speak of. So a draw can be read back from the log alone ([Replay]), without the names of those who were forgotten since.
package draw

import (
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/giveaway"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/housefile"
	"vividporch/core/lots"
	"vividporch/core/output"
	"vividporch/core/room"
	"vividporch/core/wording"
)

// Room holds draws.
var Room = room.Of(room.Spec[Section, Memory]{Name: Name, Version: 1,
	Ready: ready,
	Hears: append([]string{happening.ChatSaidType, event.DrawCalledType, event.DrawBarredType, event.DrawSealedType, event.DrawUnsealedType, "porch.book.merged", "porch.person.banned", "porch.house.woke", "porch.desk.hushed"}, happening.Draws()...),
	Decide: func(t *room.Turn, s *Section, m *Memory) {
		switch data := t.Event.Data.(type) {
		case *happening.ChatSaid:
			said(t, m, data)
		case *event.DrawCalled:
			called(t, s, m, data)
		case *event.DrawBarred:
			barred(t, m, data)
		case *event.DrawSealed:
			sealed(t, m, data)
		case *event.DrawUnsealed:
			unsealed(t, m, data)
		case *event.BookMerged:
			merged(t, m, data)
		case *happening.PersonBanned:
			banned(t, m, data)
		case *event.Woke:
			woke(t, m)
		case *event.Hushed:
			if !data.On {
				extend(t, m)
			}
		default:
			announce(t)
		}
	},
	Sees:   []string{"porch.book.merged", "porch.book.parted"},
	Evolve: func(m *Memory, l room.Lived) { m.evolve(l) },
	Wake:   func(_ *Section, m *Memory) (time.Time, bool) { return m.wake() },
	Forget: func(m *Memory, gone *hall.Gone) { m.forget(gone) }})

// Name is what its section stands under.
const Name = "draw"

// Section is what the settings keep of draws.
type Section struct {
	Ready []Ready `json:"ready,omitempty"` // terms that are kept, to open a draw by a command, a key or one click
}

// Ready are terms under a name.
type Ready struct {
	Name  string         `json:"name" jsonschema:"minLength=1,maxLength=60"`
	Terms giveaway.Terms `json:"terms"`
}

// mostReady is how many terms the settings keep.
const mostReady = 50

func ready(f *housefile.Settings, fault func(courtesy.Fault)) Section {
	s := room.ReadSection[Section](f, Name, fault)
	at := func(path, what, remedy string) {
		fault(courtesy.Fault{At: "rooms." + Name + path, What: what, Remedy: remedy})
	}
	if len(s.Ready) > mostReady {
		at(".ready", "are too many", fmt.Sprintf("keep at most %d draws ready", mostReady))
	}
	names := map[string]bool{}
	for i := range s.Ready {
		r, path := &s.Ready[i], fmt.Sprintf(".ready.%d", i)
		switch {
		case strings.TrimSpace(r.Name) == "" || len(r.Name) > 60:
			at(path+".name", "is missing or too long", "name it in at most 60 letters")
		case names[strings.ToLower(r.Name)]:
			at(path+".name", "stands twice", "give each its own name")
		}
		names[strings.ToLower(r.Name)] = true
		r.Terms.Check(func(field, what, remedy string) { at(path+".terms."+field, what, remedy) })
	}
	for _, c := range f.Courtesy {
		for i := range c.Do {
			if d, ok := c.Do[i].Do.(*output.Draw); ok && d.Act == event.DrawOpen && !names[strings.ToLower(d.Ready)] {
				fault(courtesy.Fault{Courtesy: c.ID, At: fmt.Sprintf("do.%d.ready", i), What: fmt.Sprintf("%q is no draw that is kept ready", d.Ready), Remedy: "keep its terms ready first, in the drawer of draws on the Porch"})
			}
		}
	}
	return s
}

// SectionOf is what the settings in force keep of draws.
func SectionOf(p *room.Plan) *Section { return room.Section[Section](p, Name) }

// Keep keeps terms ready in settings under their name, in the place of those there are; without a way it puts them away.
func Keep(f *housefile.Settings, r Ready) error {
	s := room.ReadSection[Section](f, Name, func(courtesy.Fault) {})
	at := slices.IndexFunc(s.Ready, func(o Ready) bool { return strings.EqualFold(o.Name, r.Name) })
	switch {
	case r.Terms.Way == "" && at < 0:
		return &event.FieldError{Field: "name", Remedy: "is not kept; reload the page"}
	case r.Terms.Way == "":
		s.Ready = slices.Delete(s.Ready, at, at+1)
	case at >= 0:
		s.Ready[at] = r
	default:
		s.Ready = append(s.Ready, r)
	}
	raw, err := json.Marshal(s)
	if err != nil {
		return err
	}
	rooms := maps.Clone(f.Rooms)
	if rooms == nil {
		rooms = map[string]json.RawMessage{}
	}
	if rooms[Name] = raw; len(s.Ready) == 0 {
		delete(rooms, Name)
	}
	f.Rooms = rooms
	return nil
}

// named finds terms by the name they are kept under.
func (s *Section) named(name string) *giveaway.Terms {
	for i := range s.Ready {
		if strings.EqualFold(s.Ready[i].Name, name) {
			return &s.Ready[i].Terms
		}
	}
	return nil
}

// The kinds of the room's decisions.
const (
	kind hall.Kind = "draw" // moves a draw; Output names the step

	Seal   hall.Kind = "seal"   // the edge is asked for a secret
	Unseal hall.Kind = "unseal" // the edge is asked to open it
)

// Request is what the edge is told with either.
type Request struct {
	Draw   string   `json:"draw"`
	Keeps  []string `json:"keeps,omitempty"`  // of seal: what has to be guessed
	Sealed []byte   `json:"sealed,omitempty"` // of unseal
}

// RequestOf is what the edge is asked for by a decision.
func RequestOf(d *hall.Decision) (s Request, ok bool) {
	return s, (d.Kind == Seal || d.Kind == Unseal) && json.Unmarshal(d.Body, &s) == nil
}

// no refuses what a member, or whoever is permitted, asks for.
func no(t *room.Turn, why string) {
	t.Decide(hall.Decision{Kind: hall.Refuse, Output: "desk", Because: []string{why}})
}

// called does what is asked of a draw.
func called(t *room.Turn, s *Section, m *Memory, data *event.DrawCalled) {
	if data.Act == event.DrawOpen {
		open(t, s, m, data)
		return
	}
	d := m.Now
	if d == nil {
		no(t, "there is no draw")
		return
	}
	w := &work{t: t, d: d.copied()}
	switch running := d.State.Running(); data.Act {
	case event.DrawClose, event.DrawDraw:
		switch {
		case d.State == Sealing:
			no(t, "the draw is not open yet: its secret is being made")
		case d.State == Open:
			w.close("closed by hand", data.Act == event.DrawDraw)
		case d.State == Closed && data.Act == event.DrawDraw:
			w.moves(stepAsked, "", moved{}, nil, "it is to be drawn")
			w.draw()
		case !running:
			no(t, "the draw is over")
		default:
			no(t, "entries are closed already")
		}
	case event.DrawCancel:
		if !running {
			no(t, "the draw is over")
			return
		}
		w.cancel(data.Reason)
	case event.DrawVoid:
		e := d.entryOf([]string{data.Account})
		if d.State != Open || e == nil {
			no(t, "there is no such entry that could still be taken out")
			return
		}
		why := "taken out by hand" + because(data.Reason)
		w.moves(stepVoid, e.key(d), moved{Why: why}, nil, why)
	case event.DrawAgain, event.DrawClaimed:
		p := d.winOf(data.Account)
		switch {
		case p == nil:
			no(t, "nothing was drawn for them")
		case data.Act == event.DrawClaimed:
			w.claimed(p, "a member says so")
			w.end()
		case d.State != Drawing && d.State != Over || !d.ByChance():
			no(t, "it cannot be drawn again any more")
		default:
			w.passed(p, "passed over by hand"+because(data.Reason), data.Reason)
			w.draw()
		}
	}
}

func because(reason string) string {
	if reason == "" {
		return ""
	}
	return ": " + reason
}

// open begins a draw: its secret is asked for, and nobody can enter before there is one.
func open(t *room.Turn, s *Section, m *Memory, data *event.DrawCalled) {
	var terms giveaway.Terms
	switch kept := s.named(data.Ready); {
	case m.Now != nil && m.Now.State.Running():
		no(t, "a draw is going on: end it or call it off first")
		return
	case data.Ready != "" && kept == nil:
		no(t, "no draw is kept ready under this name")
		return
	case data.Ready != "":
		terms = *kept
	default:
		var err error
		if terms, err = giveaway.TermsOf(data.Terms); err != nil {
			no(t, err.Error())
			return
		}
	}
	if data.Prize != "" {
		terms.Prizes = []string{data.Prize}
	}
	id := t.Event.Digest()
	by := data.Member
	if data.Person != nil {
		by = t.SayName(*data.Person)
	}
	w := &work{t: t}
	w.decide(stepCalled, id, moved{Terms: &terms, Number: m.Count + 1, By: by}, nil, "a draw was asked for")
	ask(t, Seal, Request{Draw: id, Keeps: terms.Keeps()})
}

// ask asks the edge for something.
func ask(t *room.Turn, what hall.Kind, s Request) {
	body, _ := json.Marshal(s)
	t.Decide(hall.Decision{Kind: what, Output: Name, Line: s.Draw, Saying: hall.Saying{Body: body}, Because: []string{"a draw needs it"}})
}

// sealed opens a draw for entries once its secret is committed to.
func sealed(t *room.Turn, m *Memory, data *event.DrawSealed) {
	d := m.Now
	if d == nil || d.ID != data.Draw || d.State != Sealing {
		return // told twice, or too late
	}
	w := &work{t: t, d: d.copied()}
	if data.Failed != "" {
		w.cancel("no secret could be made: " + data.Failed)
		return
	}
	w.moves(stepOpened, "", moved{Commit: data.Commit, Kept: data.Kept, Sealed: data.Sealed}, nil, "its secret is committed to")
	w.tell(&happening.DrawOpened{DrawTold: w.d.told(0)}, "")
}

// unsealed publishes the secret, and draws if that was asked for.
func unsealed(t *room.Turn, m *Memory, data *event.DrawUnsealed) {
	d := m.Now
	if d == nil || d.ID != data.Draw || d.State != Closed || len(d.Secret) > 0 {
		return
	}
	w := &work{t: t, d: d.copied()}
	switch {
	case data.Failed != "":
		w.cancel("its secret cannot be opened: " + data.Failed)
	case lots.Commit(data.Secret) != d.Commit:
		w.cancel("its secret is not the one that was committed to")
	default:
		w.moves(stepUnsealed, "", moved{Secret: data.Secret}, nil, "its secret is opened")
		w.draw()
	}
}

// woke does what is due: entries close, reminders and hints are told, winners who said nothing lose their prize.
func woke(t *room.Turn, m *Memory) {
	d := m.Now
	if d == nil || !d.State.Running() {
		return
	}
	due := func(at time.Time) bool { return !at.IsZero() && !at.After(t.Now) }
	w := &work{t: t, d: d.copied()}
	switch {
	case d.State == Sealing && due(d.Again):
		if d.Tries >= mostTries {
			w.cancel("no secret could be made")
			return
		}
		ask(t, Seal, Request{Draw: d.ID, Keeps: d.Terms.Keeps()})
		w.moves(stepAwaits, "", moved{}, nil, "its secret is asked for once more")
	case d.State == Closed && len(d.Secret) == 0 && due(d.Again):
		ask(t, Unseal, Request{Draw: d.ID, Sealed: d.Sealed})
		w.moves(stepAwaits, "", moved{}, nil, "its secret is asked for once more")
	case d.State == Open && due(d.Closes):
		w.close("its time is over", true)
	case d.State == Open && (due(d.Reminds) || due(d.HintAt)):
		hint := ""
		if due(d.HintAt) || d.Hinted {
			hint = d.Terms.Hint
		}
		w.moves(stepReminded, "", moved{Hinted: hint != ""}, nil, "it has been open for a while")
		left := int64(0)
		if !d.Closes.IsZero() {
			left = int64(d.Closes.Sub(t.Now).Round(time.Minute) / time.Minute)
		}
		w.tell(&happening.DrawReminded{DrawTold: d.told(0), Hint: hint, Minutes: left}, fmt.Sprint(t.Now.UnixMilli())) // it is reminded of more than once
	case d.State == Drawing && slices.ContainsFunc(d.Picks, func(p Pick) bool { return p.State == Pending && p.Account == "" }):
		for i := range d.Picks {
			if p := &d.Picks[i]; p.State == Pending && p.Account == "" {
				w.passed(p, "has asked to be forgotten", "")
			}
		}
		w.draw()
	case d.State == Drawing && t.State.Hush: // which nobody was told of
		extend(t, m)
	case d.State == Drawing:
		for i := range d.Picks {
			if p := &d.Picks[i]; p.State == Pending && due(p.Ends) {
				w.passed(p, "said nothing in time", "")
			}
		}
		w.draw()
	}
}

// extend gives winners their whole time anew: under hush they were not told.
func extend(t *room.Turn, m *Memory) {
	if d := m.Now; d != nil && d.State == Drawing && slices.ContainsFunc(d.Picks, func(p Pick) bool { return p.State == Pending }) {
		w := &work{t: t, d: d.copied()}
		w.moves(stepExtended, "", moved{}, nil, "they were not told under hush")
	}
}

// barred keeps somebody out of draws; that is kept with the event.
func barred(t *room.Turn, m *Memory, data *event.DrawBarred) {
	why := "is let into draws again"
	if data.On && len(m.Barred) >= mostBarred {
		no(t, fmt.Sprintf("%d people are kept out already; let somebody in first", mostBarred))
		return
	}
	if data.On {
		why = "is kept out of draws: " + data.Reason
	}
	t.Decide(hall.Decision{Kind: kind, Output: stepBarred, Line: data.Person.Key(), Person: data.Person.Key(), Name: t.SayName(data.Person), Met: hall.Met{Known: accountsOnly(t.Known.AccountsWith(data.Person.Key()))}, Text: data.Reason, Because: []string{why}})
}

// announce has courtesies speak of what a draw came to: on all platforms that are on, wherever its person is.
func announce(t *room.Turn) {
	of, ok := t.Event.Data.(interface{ OfDraw() *happening.DrawTold })
	if !ok {
		return
	}
	h, args := happening.OfData(t.Event.Data), t.AboutAir()
	if who := t.Event.Who(); who != nil {
		args = t.About(*who)
	}
	h.Tell(t.Event.Data, args)
	if at := t.Plan.Reachable("/draws/" + of.OfDraw().Draw); at != "" {
		args.Maybe("checked", wording.Str(at))
	}
	t.Announce(args, t.OnAir())
}
