// Package guard is the room that looks at every line of chat before anybody else takes notice of it. What breaks a rule
// ([trouble.Rule]) is answered as the rule says: its person is told, the line is held for a member or taken out, or its person
// may not write for a while. A line that is held or taken out counts as a visit and is nothing else: no arrival, no command, and on no
// overlay. One that a member allows is lived then as what it was.
//
// Nobody is punished twice for one line, and nobody who is trusted is looked at.
package guard

import (
	"cmp"
	"encoding/json"
	"slices"
	"strings"
	"time"

	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/core/people"
	"vividporch/core/plain"
	"vividporch/core/room"
	"vividporch/core/trouble"
	"vividporch/core/wording"
)

// Room keeps chat well. It stands before all others.
var Room = room.Of(room.Spec[Section, Memory]{Name: name, Version: 1,
	Ready: ready,
	Hears: []string{happening.ChatSaidType, happening.ChatHeldType, "porch.chat.removed", "porch.person.timedout", "porch.person.banned", event.HeldDecidedType, event.PermittedType, event.FloodKeyType, "porch.house.woke"},
	Decide: func(t *room.Turn, s *Section, m *Memory) {
		switch data := t.Event.Data.(type) {
		case *happening.ChatSaid:
			if !t.Admitted {
				said(t, s, m, data)
			}
		case *happening.ChatHeld:
			platformHolds(t, data)
		case *happening.ChatRemoved:
			gone(t, m, func(h *Held) bool {
				return data.MessageID != "" && h.Said.MessageID == data.MessageID && h.Said.Person.Platform == data.Person.Platform
			}, "it was taken out of chat")
		case *happening.PersonTimedOut:
			gone(t, m, func(h *Held) bool { return h.Said.Person.Key() == data.Person.Key() }, "its person may not write any more")
		case *happening.PersonBanned:
			gone(t, m, func(h *Held) bool { return h.Said.Person.Key() == data.Person.Key() }, "its person may not write any more")
		case *event.HeldDecided:
			decided(t, m, data)
		case *event.Permitted:
			permitted(t, data)
		case *event.FloodKey:
			flood(t, s, m, data)
		case *event.Woke:
			woke(t, s, m)
		}
	},
	Sees:   []string{happening.ChatSaidType},
	Evolve: evolve,
	Wake:   wake,
	Forget: forget,
	Asks: func(_ *room.Plan, s *Section, ev *event.Event) bool {
		said, line := ev.Data.(*happening.ChatSaid)
		return ev.Type == event.HeldDecidedType || line && s.asks(said)
	}})

const name = "guard"

// Section is the guard of the settings.
type Section struct {
	trouble.Guard
	looks    bool // some rule is on
	warnings []*wording.Wording
	emotes   map[string][]string // by platform
}

// usualWarnings are how somebody is told where the settings do not say.
var usualWarnings = []string{"{name}, {what} is not for this room. Thank you!", "Please, {name}: no more of that here ({what})."}

// Offers are the fill-ins of warnings.
var Offers = []wording.FillIn{{Name: "name", Example: "mossy_mare"}, {Name: "what", Example: "84 % capitals"}}

func ready(f *housefile.Settings, fault func(courtesy.Fault)) Section {
	s := Section{Guard: f.Guard, emotes: emotesOf(f)}
	s.Rules = slices.Clone(s.Rules)
	trouble.Ready(s.Rules)
	s.looks = slices.ContainsFunc(s.Rules, func(r trouble.Rule) bool { return r.On })
	words := s.Warnings
	if len(words) == 0 {
		words = usualWarnings
	}
	s.warnings = room.Words("guard.warnings", words, Offers, fault)
	return s
}

// emotesOf are the words that are emotes, by platform.
func emotesOf(f *housefile.Settings) map[string][]string {
	on := map[string][]string{}
	for _, e := range f.Emotes {
		for _, p := range e.Platforms {
			on[p] = append(on[p], e.Word)
		}
	}
	return on
}

// asks reports whether it matters who said a line: where it may break a rule.
func (s *Section) asks(data *happening.ChatSaid) bool {
	if !s.looks {
		return false
	}
	line := &trouble.Line{Text: data.Text, Emotes: s.emotes[data.Person.Platform]}
	return slices.ContainsFunc(s.Rules, func(r trouble.Rule) bool { return r.On && (looksBack(r) || r.Do.Finds(line, nil) != "") })
}

// The kinds of the room's decisions.
const (
	Touched hall.Kind = "touched"  // a line breaks a rule, and what follows
	Let     hall.Kind = "let"      // what was held is not held any more
	Tell    hall.Kind = "tell"     // somebody is told in private
	HoldOff hall.Kind = "hold off" // a flood of strangers is held off until At, or no more
)

// Touch is what is decided of a line that breaks a rule. Ours is false for what its platform holds.
type Touch struct {
	ID      string              `json:"id"`
	Rule    string              `json:"rule,omitempty"`
	Act     trouble.Act         `json:"act"`
	Seconds float64             `json:"seconds,omitempty"`
	Found   string              `json:"found,omitempty"`
	Ours    bool                `json:"ours,omitempty"`
	Back    bool                `json:"back,omitempty"`  // its platform holds it: nobody sees it
	Flood   bool                `json:"flood,omitempty"` // held for the flood alone
	Said    *happening.ChatSaid `json:"said,omitempty"`  // of what is held
}

// Withholds reports whether an act keeps the line from all others.
func (t *Touch) Withholds() bool { return t.Act != trouble.Warn }

// Shuts is what keeps a touch's person from writing, which can be taken back; "" where they may write on.
func (t *Touch) Shuts() output.Act {
	switch t.Act {
	case trouble.TimeOut:
		return output.TimeOut
	case trouble.Ban:
		return output.Ban
	}
	return ""
}

// TouchOf is the touch of a decision; nil of others, and of one that a forgetting took out.
func TouchOf(d *hall.Decision) *Touch {
	var t Touch
	if d.Kind != Touched || json.Unmarshal(d.Body, &t) != nil || t.Act == "" {
		return nil
	}
	return &t
}

// Strikes is what is kept of an account: when it broke a rule, by the rule, lately.
type Strikes map[string][]Strike

// Strike is one time, with what names it: what is kept of several accounts of one person may hold it several times.
type Strike struct {
	At time.Time `json:"at"`
	ID string    `json:"id"`
}

// mostStrikes of one rule are kept.
const mostStrikes = 20

func united(list []Strikes) Strikes {
	out := Strikes{}
	for _, s := range list {
		for id, at := range s {
			out[id] = append(out[id], at...)
		}
	}
	for id := range out {
		slices.SortFunc(out[id], func(a, b Strike) int { return cmp.Or(a.At.Compare(b.At), cmp.Compare(a.ID, b.ID)) })
		out[id] = slices.Compact(out[id])
	}
	return out
}

// said looks at a line.
func said(t *room.Turn, s *Section, m *Memory, data *happening.ChatSaid) {
	if t.IsLate || !s.looks && !m.HoldsOff(t.Now) && len(m.Cleared) == 0 {
		return
	}
	line := &trouble.Line{Text: data.Text, Emotes: s.emotes[data.Person.Platform]}
	past := &before{m: m, now: t.Now, person: data.Person.Key(), digest: line.Digest()}
	if c := m.cleared(past); c != nil { // its platform lets through what was decided: it is not looked at again
		t.Withheld = c.Lapsed
		return
	}
	var rule *trouble.Rule
	var found string
	var step trouble.Step
	spared, asked := "", false
	var strikes Strikes
	for i := range s.Rules {
		r := &s.Rules[i]
		if !r.On {
			continue
		}
		what := r.Do.Finds(line, past)
		if what == "" {
			continue
		}
		if !asked { // who it is matters only now
			if asked, spared = true, sparedAs(t, m, data.Person); spared == "" {
				strikes = room.KeptOf(t, data.Person, t.Known, united)
			}
		}
		if spared != "" {
			return
		}
		if r.Spares(trouble.VIPs) && data.Person.Is(event.VIP) || r.Spares(trouble.Regulars) && isRegular(t) {
			continue
		}
		if next := r.Step(within(strikes[r.ID], t.Now, r.Within())); rule == nil || harder(next, step) {
			rule, found, step = r, what, next
		}
	}
	switch {
	case rule != nil:
		touch(t, s, data, rule, found, step, strikes)
	case m.HoldsOff(t.Now):
		if standing, _ := t.Standing(); standing == people.Newcomer && sparedAs(t, m, data.Person) == "" {
			hold(t, data, Touch{Act: trouble.Hold, Found: "from a newcomer, while a flood of strangers is held off", Ours: true, Flood: true})
		}
	}
}

func isRegular(t *room.Turn) bool {
	standing, _ := t.Standing()
	return standing == people.Regular
}

// within is how many strikes are no older than so many days.
func within(at []Strike, now time.Time, days int) (n int) {
	for _, a := range at {
		if now.Sub(a.At) < time.Duration(days)*24*time.Hour {
			n++
		}
	}
	return n
}

func harder(a, b trouble.Step) bool {
	rank := func(s trouble.Step) int { return slices.Index(trouble.Acts(), s.Act) }
	return rank(a) > rank(b) || rank(a) == rank(b) && a.Seconds > b.Seconds
}

// touch does what follows.
func touch(t *room.Turn, s *Section, data *happening.ChatSaid, r *trouble.Rule, found string, step trouble.Step, strikes Strikes) {
	x := Touch{Rule: r.ID, Act: step.Act, Seconds: step.Seconds, Found: found, Ours: true}
	cannot := ""
	if wants := acts(&x, data); len(wants) > 0 {
		for _, d := range wants {
			if why := t.Plan.Cannot(data.Person.Platform, d.Act); why != "" {
				cannot = why
			}
			if d.Act == output.DeleteLine && d.Message == "" {
				cannot = "the platform gave this line no id"
			}
		}
	}
	if cannot != "" { // what cannot be done waits for a person
		x.Act, x.Seconds, x.Found = trouble.Hold, 0, found+"; "+cannot
	}
	next := Strikes{}
	for id, at := range strikes {
		next[id] = at
	}
	next[r.ID] = append(slices.Clone(next[r.ID]), Strike{t.Now, t.LineID(name, "line")})
	next[r.ID] = next[r.ID][max(0, len(next[r.ID])-mostStrikes):]
	room.Keep(t, data.Person.Key(), next, "broke the rule about "+r.Do.Says())
	switch x.Act {
	case trouble.Warn:
		record(t, x, data)
		args := wording.Args{"name": wording.Name(t.SayName(data.Person)), "what": wording.Str(found)}
		warn(t, s, data, args, found)
	case trouble.Hold:
		hold(t, data, x)
	default:
		t.Withheld = true
		record(t, x, data)
		for _, d := range acts(&x, data) {
			have(t, data.Person, d, r.Do.Says()+": "+found)
		}
	}
}

// acts is what the platform is asked for.
func acts(x *Touch, data *happening.ChatSaid) []output.Deed {
	remove := output.Deed{Act: output.DeleteLine, Message: data.MessageID, Login: data.Person.Login}
	switch x.Act {
	case trouble.Remove:
		return []output.Deed{remove}
	case trouble.TimeOut: // which takes out what its person said, on most platforms; asked for all the same
		return []output.Deed{remove, {Act: output.TimeOut, Login: data.Person.Login, Seconds: x.Seconds}}
	case trouble.Ban:
		return []output.Deed{remove, {Act: output.Ban, Login: data.Person.Login}}
	}
	return nil
}

// have has the platform do something, at once: hush holds nothing of it.
func have(t *room.Turn, p event.Person, deed output.Deed, why string) {
	told := output.Told{Effect: output.KindPlatform, Person: p.Key(), Do: &deed}
	t.Decide(hall.Decision{Kind: hall.Kind(output.KindPlatform), Courtesy: name, Output: string(deed.Act), Person: p.KeyOrNone(), Line: t.LineID(name, strings.ReplaceAll(string(deed.Act)+" "+deed.Message, " ", "-")), Platform: p.Platform,
		Saying: hall.Saying{Body: told.JSON()}, Event: t.Event.Seq, EventID: t.Event.ID, Because: []string{why}})
}

// record decides that a line is touched.
func record(t *room.Turn, x Touch, data *happening.ChatSaid) {
	x.ID = t.LineID(name, "line")
	body, _ := json.Marshal(x)
	t.Decide(hall.Decision{Kind: Touched, Output: string(x.Act), Line: x.ID, Person: data.Person.Key(), Name: t.SayName(data.Person), Platform: data.Person.Platform, Saying: hall.Saying{Body: body}, Because: []string{x.Found}})
}

// hold holds a line: it waits for a member.
func hold(t *room.Turn, data *happening.ChatSaid, x Touch) {
	t.Withheld = true
	copied := *data
	x.Said = &copied
	who := data.Person
	if x.Ours && data.MessageID != "" && t.Plan.Profile(who.Platform).Acts.Holds && t.Plan.Cannot(who.Platform, output.HoldLine) == "" {
		x.Back = true
		have(t, who, output.Deed{Act: output.HoldLine, Message: data.MessageID, Login: who.Login}, x.Found)
	}
	record(t, x, data)
	t.Decide(hall.Decision{Kind: hall.Wait, Output: "held", Person: who.Key(), Name: t.SayName(who), Because: []string{x.Found}, Item: &hall.Item{
		ID: itemOf(t.LineID(name, "line")), Kind: "held", Person: &who, Name: t.SayName(who), Text: plain.Text(data.Text), Why: x.Found, Place: who.Platform, Line: t.LineID(name, "line"), Count: 1, Since: t.Now, About: []string{who.Key()}}})
}

func itemOf(id string) string { return "held/" + id }

// warn tells somebody, in private where that can be.
func warn(t *room.Turn, s *Section, data *happening.ChatSaid, args wording.Args, found string) {
	if door := t.Plan.DoorFor(data.Person.Platform); door != nil && t.Plan.Profile(data.Person.Platform).Chat.Private && !data.Person.Nick && len(s.warnings) > 0 {
		i, _ := wording.Choose(s.warnings, nil, args, t.State.Used[name+"/tell"], t.Seed(name, "tell"))
		who := data.Person
		t.Decide(hall.Decision{Kind: Tell, Output: "tell", Person: who.Key(), Platform: who.Platform, Name: t.SayName(who), Text: plain.Line(s.warnings[i].Render(args)), Asked: hall.Asked{About: &who}, Because: []string{found}})
		return
	}
	t.AsideFor(name, "warning", s.warnings, args, data.Person, "was told of a rule: "+found)
}

// platformHolds puts what the platform holds before a member.
func platformHolds(t *room.Turn, data *happening.ChatHeld) {
	line := &happening.ChatSaid{Text: data.Text, MessageID: data.MessageID}
	line.Person = data.Person
	why := "its platform holds it"
	if data.Why != "" {
		why += ": " + plain.Text(data.Why)
	}
	hold(t, line, Touch{Act: trouble.Hold, Found: why, Back: true})
}

// sparedAs is why nobody looks at what somebody says, or "": the streamer and those who help are trusted, and so are whoever a member
// trusts by hand or permits for a while.
func sparedAs(t *room.Turn, m *Memory, p event.Person) string {
	if why := SparedByRole(t.Plan, t.Cause(p).Person); why != "" {
		return why
	}
	switch {
	case t.Known.MemberBy(p) == event.Streamer:
		return "is the streamer"
	case t.Known != nil && t.Known.Trusted:
		return "is trusted"
	case m.permits(t.Known.AccountsWith(p.Key()), t.Now):
		return "is permitted for a while"
	}
	return ""
}

// SparedByRole is why nobody looks at what somebody says for what they are in chat and to the house alone, or "".
func SparedByRole(plan *room.Plan, p event.Person) string {
	switch {
	case p.Is(event.Streamer):
		return "is the streamer"
	case p.Is(event.Moderator), p.Is(event.CoHost):
		return "keeps the chat"
	case plan.IsNeighbour(p):
		return "is a neighbour"
	case plan.IsOwn(p):
		return "is an account of the house's own"
	}
	return ""
}
