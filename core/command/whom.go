package command

import (
	"maps"
	"slices"
	"strings"
	"unicode"

	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/people"
	"vividporch/core/plain"
	"vividporch/core/room"
	"vividporch/core/spoken"
	"vividporch/core/wording"
)

// Whom a command is about: somebody here, else of the guest book, else asked of the
// platform; whoever is not sure to be meant has nothing done to them.

// nearMost is how many names the house offers when it asks back.
const nearMost = 3

// unclearWords is what the house asks back unless the streamer has words of their own.
const unclearWords = "Whom do you mean, {name}?{hasNear, select, yes { I know {near}.} other {}}"

var unclearFillIns = []wording.FillIn{
	{Name: "name", Kind: wording.Text, Tells: "who asked", Example: "limpet_lena"},
	{Name: "typed", Kind: wording.Text, Tells: "the name that was written", Example: "kelp"},
	{Name: "near", Kind: wording.Text, Tells: "who goes by a name like it", Example: "kelpwright or kelp_katja", Optional: true},
}

// meansWhom finds whom a name means of those here and in the guest book.
func meansWhom(t *room.Turn, called called) (found []people.Named) {
	name, platform := called.name, called.platform
	if found = people.Pick(name, platform, hereAs(t, name)); len(found) == 0 {
		found = people.Pick(name, platform, t.Named)
	}
	for i := range found { // as the book knows them now, not as they arrived
		for _, b := range t.Named {
			if b.Person.Key() == found[i].Person.Key() && b.Known != nil {
				found[i].Known = b.Known
			}
		}
	}
	return found
}

// namesLike are the names of those here and in the guest book who go by one like it.
func namesLike(t *room.Turn, name string, found []people.Named) []string {
	return people.Near(name, nearMost, append(found, append(allHere(t), t.Named...)...))
}

// hereAs lists those of this period who may go by a name.
func hereAs(t *room.Turn, name string) []people.Named {
	var out []people.Named
	gs := t.State.Guests()
	for _, key := range t.State.Called(name) {
		out = append(out, guest(key, gs[key]))
	}
	for _, r := range t.State.Raids {
		if key := r.Person.Key(); gs[key] == nil && r.Person.Login != "" {
			out = append(out, people.Named{Person: r.Person})
		}
	}
	return out
}

// guest is somebody here, as a name may mean them.
func guest(key string, g *hall.Guest) people.Named {
	return people.Named{Person: g.Person(key), Known: g.Known}
}

// allHere lists everybody of this period whom a name could mean, in the order of their
// accounts.
func allHere(t *room.Turn) []people.Named {
	gs := t.State.Guests()
	out := make([]people.Named, 0, len(gs)+len(t.State.Raids))
	for _, key := range slices.Sorted(maps.Keys(gs)) {
		out = append(out, guest(key, gs[key]))
	}
	for _, r := range t.State.Raids {
		if key := r.Person.Key(); gs[key] == nil && r.Person.Login != "" {
			out = append(out, people.Named{Person: r.Person})
		}
	}
	return out
}

// concernsSomebody reports whether a command that fits does something to a person.
func concernsSomebody(t *room.Turn, m *courtesy.Meeting) bool {
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
func (s *section) unsure(t *room.Turn, m *Memory, data *happening.ChatSaid, met *courtesy.Meeting, called called, found []people.Named) {
	platform, name := called.platform, called.name
	if won, _ := met.Winner(happening.Answer); won != nil { // what rests asks nobody
		if why := m.rests(t, won, data.Person.Key()); why != "" {
			m.answer(t, data, met.Heard, nil)
			return
		}
	}
	near := namesLike(t, name, found)
	if len(found) > 0 || !t.Plan.Looks(platform) || !room.PlainLogin(name) {
		s.askBack(t, data, name, near)
		return
	}
	about := event.Person{Platform: platform, Login: strings.ToLower(name)}
	t.Decide(hall.Decision{Kind: hall.Ask, Output: "whom", Line: t.AskID() + "-whom", Platform: platform, Asked: hall.Asked{About: &about, Near: near}, At: t.Now.Add(room.Seconds(t.Plan.Pace.AskSeconds)), Because: []string{"a command names somebody whom nobody here knows"}})
}

// askBack says that it is not clear who is meant. Nothing else is done.
func (s *section) askBack(t *room.Turn, data *happening.ChatSaid, name string, near []string) {
	why := "nobody is known by the name " + plain.Name(name)
	if len(near) > 0 {
		why = "it is not clear who is meant by " + plain.Name(name)
	}
	key := data.Person.Key()
	t.Decide(hall.Decision{Kind: hall.Refuse, Output: string(happening.Answer), Person: key, Name: t.SayName(data.Person), Because: []string{why}})
	args := t.About(data.Person)
	args["typed"] = wording.Name(name)
	if len(near) > 0 {
		args.Maybe("near", wording.Value{Text: plain.List(near, "or")})
	}
	t.Aside("privacy", "unclear", s.unclear, args, data.Person)
}

// answeredWhom goes on with a command once the platform told whom it means, or did
// not tell in time: then data is nil.
func (s *section) answeredWhom(t *room.Turn, m *Memory, q *hall.Question, data *event.LookupAnswered) {
	was, known, args := t.Event, t.Known, t.Heard
	defer func() { t.Event, t.Known, t.Heard = was, known, args }()
	t.Event = q.AsEvent(t.Event.Logged)
	t.Known = nil
	if g := t.State.Guests()[q.Said.Person.Key()]; g != nil {
		t.Known = g.Known
	}
	h := t.Plan.Hears(q.Said.Text, q.Said.Person.Platform)
	called := whoIn(t.Plan, h)
	name := called.name
	if data == nil || !data.Found {
		near := q.Near
		found := meansWhom(t, called)
		if len(found) == 1 { // who has come in meanwhile
			m.answer(t, &q.Said, h, &found[0])
			return
		}
		if now := namesLike(t, name, found); len(now) > 0 {
			near = now
		}
		s.askBack(t, &q.Said, name, near)
		return
	}
	who := event.Person{Platform: called.platform, ID: data.ID, Login: data.Login, Name: data.Name}
	if who.Login == "" {
		who.Login = strings.ToLower(name)
	}
	if who.ID == "" {
		who.ID = people.Provisional + strings.ToLower(who.Login)
	}
	t.Heard = data
	m.answer(t, &q.Said, h, &people.Named{Person: who})
}

// called is a name that stands behind a command.
type called struct {
	name     string
	platform string // that it is looked for on first
	marked   bool   // an at-sign or a link marks it as a name
}

// whoIn is whom a line names: by the first word behind a command, or by whatever stands
// behind an at-sign where words in a sentence ask.
func whoIn(p *room.Plan, h spoken.Heard) called {
	word, _, _ := strings.Cut(strings.TrimSpace(h.Rest), " ")
	if h.Phrase != "" {
		word = ""
		for _, f := range strings.Fields(h.Rest) {
			if strings.HasPrefix(f, "@") {
				word = f
				break
			}
		}
	}
	word = strings.Map(func(r rune) rune {
		if unicode.Is(unicode.Cf, r) {
			return -1
		}
		return r
	}, word)
	out := called{platform: h.Platform}
	if platform, login, ok := p.LinkOf(word); ok {
		return called{login, platform, true}
	}
	out.name, out.marked = strings.CutPrefix(strings.Trim(word, ",.!?:;()<>\"“”"), "@")
	if out.name = strings.TrimPrefix(out.name, "＠"); len(out.name) > 200 { // no name of anybody's
		return called{}
	}
	return out
}
