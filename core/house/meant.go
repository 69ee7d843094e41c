package house

import (
	"cmp"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"
	"time"

	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/happening"
	"vividporch/core/people"
	"vividporch/core/plain"
	"vividporch/core/who"
	"vividporch/core/wording"
)

// Whom a command is about. Who asked and who is meant are different people: somebody
// here, else of the guest book, else asked of the platform; whoever is not sure to be
// meant has nothing done to them.

// Question is a line whose answer hangs on what a platform tells: a command, of whom it
// means; an arrival, of whether they stream.
type Question struct {
	Ask    string             `json:"ask"`
	Ends   time.Time          `json:"ends"` // asked back from then on
	Event  int64              `json:"event"`
	ID     string             `json:"id"`               // of the line that asked
	Origin string             `json:"origin,omitempty"` // what was decided about it is named by
	At     time.Time          `json:"at"`
	Said   happening.ChatSaid `json:"said"`
	Near   []string           `json:"near,omitempty"` // who goes by a name like it

	Arrival bool `json:"arrival,omitempty"`
}

// event is the line as it came.
func (q *Question) event(logged time.Time) *event.Event {
	return &event.Event{Seq: q.Event, ID: q.ID, Type: happening.ChatSaidType, Time: q.At, Logged: logged, Data: &q.Said}
}

// resume goes on with what waited for an answer; data is nil when none came in time.
func (d *decider) resume(q *Question, data *event.LookupAnswered) {
	was := d.begun
	d.since, d.begun = q.Ends.Add(-secs(d.p.Pace.AskSeconds)), cmp.Or(q.Origin, strconv.FormatInt(q.Event, 10))
	defer func() { d.since, d.begun = time.Time{}, was }()
	if q.Arrival {
		welcomeAfter(d, q, data)
	} else {
		answeredWhom(d, q, data)
	}
}

// nearMost is how many names the house offers when it asks back.
const nearMost = 3

// unclearWords is what the house asks back unless the streamer has words of their own.
const unclearWords = "Whom do you mean, {name}?{hasNear, select, yes { I know {near}.} other {}}"

var unclearFillIns = []wording.FillIn{{Name: "name", Kind: wording.Text, Tells: "who asked", Example: "limpet_lena"},
	{Name: "typed", Kind: wording.Text, Tells: "the name that was written", Example: "kelp"},
	{Name: "near", Kind: wording.Text, Tells: "who goes by a name like it", Example: "kelpwright or kelp_katja", Optional: true}}

// loadUnclear makes the words ready with which the house asks back.
func (p *Plan) loadUnclear(texts []string) []courtesy.Fault {
	if len(texts) == 0 {
		texts = []string{unclearWords}
	}
	var faults []courtesy.Fault
	for i, src := range texts {
		w, problems := courtesy.CheckWording(src, unclearFillIns)
		for _, pr := range problems {
			faults = append(faults, courtesy.Fault{At: fmt.Sprintf("unclear.%d", i), Problem: &pr, What: pr.What, Remedy: pr.Remedy})
		}
		p.unclear = append(p.unclear, w)
	}
	return faults
}

// Names is the name that stands behind a command, without its at-sign; "" for what is
// no command, or names nobody. Whom of the guest book it may mean is asked then.
func (p *Plan) Names(ev *event.Event) string {
	said, ok := ev.Data.(*happening.ChatSaid)
	if !ok {
		return ""
	}
	word, rest := commandIn(said.Text)
	if !p.Set.Asked(word) {
		return ""
	}
	name, _ := nameIn(rest)
	return name
}

// Answers reports whether a line may be answered, so that deciding it wants to know who
// said it as of now: a command, or a hello to the room.
func (p *Plan) Answers(ev *event.Event) bool {
	said, ok := ev.Data.(*happening.ChatSaid)
	if !ok {
		return false
	}
	word, _ := commandIn(said.Text)
	return p.Set.Asked(word) || p.Set.Has(happening.Hello) && p.hello.says(spoken(said.Text))
}

// commandIn parts a line into the word that may be a command and what stands behind it.
func commandIn(text string) (word, rest string) {
	word, rest, _ = strings.Cut(strings.TrimSpace(text), " ")
	return word, rest
}

// nameIn is the first word of what stands behind a command, and whether an at-sign
// marks it as a name.
func nameIn(rest string) (name string, at bool) {
	first, _, _ := strings.Cut(strings.TrimSpace(rest), " ")
	name, at = strings.CutPrefix(strings.TrimRight(first, ",.!?:;"), "@")
	if len(name) > 200 { // no name of anybody's
		return "", false
	}
	return name, at
}

// allHere lists everybody of this period whom a name could mean, in the order of their
// accounts.
func allHere(d *decider) []people.Named {
	gs := d.s.guests()
	out := make([]people.Named, 0, len(gs)+len(d.s.Raids))
	for _, key := range slices.Sorted(maps.Keys(gs)) {
		g := gs[key]
		platform, id, _ := strings.Cut(key, ":")
		out = append(out, people.Named{Person: event.Person{Platform: platform, ID: id, Login: g.Login, Name: g.Name, Roles: g.Roles, Nick: g.Nick}, Known: g.Known})
	}
	for _, r := range d.s.Raids {
		if key := r.Person.Key(); gs[key] == nil && r.Person.Login != "" {
			out = append(out, people.Named{Person: r.Person})
		}
	}
	return out
}

// meansWhom finds whom a name means of those here and in the guest book, and who goes
// by a name like it.
func meansWhom(d *decider, name, platform string) (found []people.Named, near []string) {
	here := allHere(d)
	if found = people.Pick(name, platform, here); len(found) == 0 {
		found = people.Pick(name, platform, d.book)
	}
	for i := range found { // as the book knows them now, not as they arrived
		for _, b := range d.book {
			if b.Person.Key() == found[i].Person.Key() && b.Known != nil {
				found[i].Known = b.Known
			}
		}
	}
	return found, people.Near(name, nearMost, append(found, append(here, d.book...)...))
}

// concernsSomebody reports whether a command that fits does something to a person.
func concernsSomebody(d *decider, m *courtesy.Meeting) bool {
	return slices.ContainsFunc(m.All(), func(r *courtesy.Ready) bool {
		if !r.Concerns() {
			return false
		}
		ok, _ := r.Fits(m.Cause)
		return ok
	})
}

// unsure deals with a command that does something to a person and does not tell whom
// for sure: the platform is asked where nobody is known by the name, else the asker.
func unsure(d *decider, data *happening.ChatSaid, name string, found int, near []string) {
	platform := data.Person.Platform
	if found > 0 || d.p.Lookup(platform) == "" || !plainLogin(name) {
		askBack(d, data, name, near)
		return
	}
	about := event.Person{Platform: platform, Login: strings.ToLower(name)}
	d.decide(Decision{Kind: Ask, Output: "whom", Line: d.askID() + "-whom", Platform: platform, About: &about, Near: near, At: d.now.Add(secs(d.p.Pace.AskSeconds)),
		Because: []string{"a command names somebody whom nobody here knows"}})
}

// plainLogin reports whether a name could be a login that a platform is asked for.
func plainLogin(name string) bool {
	return name != "" && len(name) <= 60 && !strings.ContainsFunc(name, func(r rune) bool {
		return r != '_' && r != '-' && r != '.' && (r < '0' || r > '9') && (r < 'a' || r > 'z') && (r < 'A' || r > 'Z')
	})
}

// askBack says that it is not clear who is meant. Nothing else is done.
func askBack(d *decider, data *happening.ChatSaid, name string, near []string) {
	why := "nobody is known by the name " + plain.Name(name)
	if len(near) > 0 {
		why = "it is not clear who is meant by " + plain.Name(name)
	}
	key := data.Person.Key()
	d.decide(Decision{Kind: Refuse, Output: string(happening.Answer), Person: key, Name: d.sayName(data.Person), Because: []string{why}})
	args := d.about(data.Person)
	args["typed"] = wording.Name(name)
	if len(near) > 0 {
		args.Maybe("near", wording.Value{Text: plain.List(near, "or")})
	}
	d.aside("unclear", d.p.unclear, args, data.Person)
}

// answeredWhom goes on with a command once the platform told whom it means, or did
// not tell in time: then data is nil.
func answeredWhom(d *decider, q *Question, data *event.LookupAnswered) {
	was, known, args := d.ev, d.known, d.heard
	defer func() { d.ev, d.known, d.heard = was, known, args }()
	d.ev = q.event(d.ev.Logged)
	d.known = nil
	if g := d.s.guests()[q.Said.Person.Key()]; g != nil {
		d.known = g.Known
	}
	word, rest := commandIn(q.Said.Text)
	name, _ := nameIn(rest)
	if data == nil || !data.Found {
		near := q.Near
		found, now := meansWhom(d, name, q.Said.Person.Platform)
		switch {
		case len(found) == 1: // who has come in meanwhile
			commanded(d, &q.Said, word, rest, &found[0])
			return
		case len(now) > 0:
			near = now
		}
		askBack(d, &q.Said, name, near)
		return
	}
	who := event.Person{Platform: q.Said.Person.Platform, ID: data.ID, Login: data.Login, Name: data.Name}
	if who.Login == "" {
		who.Login = strings.ToLower(name)
	}
	if who.ID == "" {
		who.ID = people.Provisional + strings.ToLower(who.Login)
	}
	d.heard = data
	commanded(d, &q.Said, word, rest, &people.Named{Person: who})
}

// question finds the command that waits for an answer, or nil.
func (s *State) question(ask string) *Question {
	for i := range s.Questions {
		if s.Questions[i].Ask == ask {
			return &s.Questions[i]
		}
	}
	return nil
}

// meantBy is the cause as whoever a command names is behind it; false where it names nobody.
func (d *decider) meantBy(c who.Cause) (who.Cause, bool) {
	if c.When != happening.Command || d.meant == nil {
		return c, false
	}
	was := d.known
	d.known = d.meant.Known
	about := d.cause(d.meant.Person)
	d.known = was
	about.When, about.Quantities, about.Fields = c.When, c.Quantities, c.Fields
	return about, true
}

// aboutMeant are the fill-ins about whom a command means, in place of those about the
// asker.
func (d *decider) aboutMeant(args wording.Args) wording.Args {
	was := d.known
	d.known = d.meant.Known
	about := d.about(d.meant.Person)
	d.known = was
	about.Maybe("asker", args["name"])
	d.more(about)
	return about
}

// more fills in what a platform just told of whom a command means.
func (d *decider) more(args wording.Args) {
	if d.heard != nil {
		args.Maybe("link", wording.Str(d.heard.Link))
		args.Maybe("category", wording.Str(d.heard.Category))
	}
}
