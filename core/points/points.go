// Package points is the room for small rewards: points for being here, what can be had for them, levels and ranks.
//
// The ledger is the truth: every decision of the room's kind says who, how many and why, and what is in the account's purse afterwards. Purses
// are kept as rooms keep things of accounts, and a person's is the sum over their accounts, so that records can be merged and parted.
// What costs is paid only once it is done, and given back when it comes to nothing (spend.go).
//
// All of it is off until it is chosen, and every word that viewers see is the channel's own.
package points

import (
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"time"

	"vividporch/core/courtesy"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/housefile"
	"vividporch/core/output"
	"vividporch/core/people"
	"vividporch/core/room"
	"vividporch/core/wording"
)

// Room keeps points.
var Room = room.Of(room.Spec[Section, Memory]{Name: Name, Version: 1,
	Ready: ready,
	Hears: []string{happening.ChatSaidType, event.PointsGrantedType, event.PointsResetType, "porch.house.woke", happening.StreamClosedType, "porch.desk.declared"},
	Takes: func(ev *event.Event) bool { h := happening.OfData(ev.Data); return h.Book.Support != nil || of(h) },
	Decide: func(t *room.Turn, s *Section, m *Memory) {
		switch data := t.Event.Data.(type) {
		case *happening.ChatSaid:
			lifts(t, s, m, data)
		case *event.PointsGranted:
			byHand(t, s, m, data)
		case *event.PointsReset:
			reset(t, m, data)
		case *event.Woke:
			refunds(t, m)
			games(t, s, m)
			forBeingHere(t, s, m)
		default:
			if h := happening.OfData(t.Event.Data); h.Book.Support != nil {
				forSupport(t, s, m, h)
			} else if of(h) {
				tell(t, s, m)
			}
			if closes(t) {
				forBeingHere(t, s, m)
			}
		}
	},
	Does:   does,
	Pays:   pays,
	Sees:   []string{happening.ChatSaidType, "porch.act.refused", "porch.act.done", "porch.speech.refused", event.ShowEndedType, event.PointsResetType, "porch.house.woke", event.SilencedType},
	Evolve: func(m *Memory, l room.Lived) { m.evolve(l) },
	Wake:   func(s *Section, m *Memory) (time.Time, bool) { return m.wake(s) },
	Forget: func(m *Memory, gone *hall.Gone) { m.forget(gone) },
	Asks: func(p *room.Plan, s *Section, ev *event.Event) bool {
		return s.On && happening.OfData(ev.Data).Book.Support != nil
	}})

// Name is what its section stands under.
const Name = "points"

// of reports whether a happening is of points or of a game.
func of(h *happening.Happening) bool { return slices.Contains(happening.Rewards(), h.Type) }

func closes(t *room.Turn) bool {
	return slices.ContainsFunc(t.Decided, func(d hall.Decision) bool { return d.Kind == hall.Close })
}

// Section is what the settings say of points.
type Section struct {
	On      bool      `json:"on,omitempty"`
	One     string    `json:"one,omitempty" jsonschema:"maxLength=40"`                    // what one is called; "point"
	Many    string    `json:"many,omitempty" jsonschema:"maxLength=40"`                   // and several
	Here    int64     `json:"here,omitempty" jsonschema:"minimum=0,maximum=1000000"`      // every ten minutes to all who spoke lately
	Within  float64   `json:"withinMinutes,omitempty" jsonschema:"minimum=0,maximum=120"` // how lately; 0 is 15
	Line    int64     `json:"line,omitempty" jsonschema:"minimum=0,maximum=1000000"`      // for a line of chat
	Lines   int       `json:"lines,omitempty" jsonschema:"minimum=0,maximum=60"`          // of so many a minute; 0 is 3
	Visit   int64     `json:"visit,omitempty" jsonschema:"minimum=0,maximum=1000000"`     // for coming to a stream
	Support []Support `json:"support,omitempty"`
	Levels  Levels    `json:"levels,omitzero"`
	Ranks   bool      `json:"ranks,omitempty"`                                       // the list of ranks is a page for everybody
	Evening int       `json:"evening,omitempty" jsonschema:"minimum=0,maximum=1000"` // how often a person plays in an evening; 0 is 20
	Short   []string  `json:"short,omitempty"`                                       // said to whoever has not enough: {name}, {cost}, {points}; none are the house's own words
	Cannot  []string  `json:"cannot,omitempty"`                                      // said to whoever asks for what cannot be: {name}, {why}

	short, cannot []*wording.Wording
}

// Support is what something given is worth in points: for each, or by its number.
type Support struct {
	When   string `json:"when"`
	Points int64  `json:"points" jsonschema:"minimum=0,maximum=1000000"`
	Each   bool   `json:"each,omitempty"` // times the number that comes with it
}

// The usual words, and the usual measures.
const (
	usualWithin  = 15 // minutes
	usualLines   = 3  // a minute
	usualEvening = 20
	everyGrant   = 10 * time.Minute
	mostSetting  = 1_000_000
)

var (
	usualShort  = []string{"{name}, that is {cost}; you have {points}.", "Not yet, {name}: it takes {cost}, and you have {points}."}
	usualCannot = []string{"{name}, {why}.", "That cannot be, {name}: {why}."}
)

var (
	shortFillIns  = []wording.FillIn{{Name: "name", Example: "limpet_lena"}, {Name: "cost", Example: "50 pearls"}, {Name: "points", Example: "20 pearls"}}
	cannotFillIns = []wording.FillIn{{Name: "name", Example: "limpet_lena"}, {Name: "why", Example: "nobody gives to themselves"}}
)

func ready(f *housefile.Settings, fault func(courtesy.Fault)) Section {
	s := room.ReadSection[Section](f, Name, fault)
	at := func(field, what, remedy string) {
		fault(courtesy.Fault{At: "rooms." + Name + "." + field, What: what, Remedy: remedy})
	}
	for field, n := range map[string]int64{"here": s.Here, "line": s.Line, "visit": s.Visit} {
		if n < 0 || n > mostSetting {
			at(field, "is out of range", "use 0 to 1000000 points")
		}
	}
	if !(s.Within >= 0 && s.Within <= 120) || s.Lines < 0 || s.Lines > 60 || s.Evening < 0 || s.Evening > 1000 {
		at("withinMinutes", "or how many a minute or an evening is out of range", "use 0 to 120 minutes, 60 lines a minute, 1000 plays an evening")
	}
	if len(s.One) > 40 || len(s.Many) > 40 {
		at("one", "is too long", "name a point in at most 40 letters")
	}
	for i, x := range s.Support {
		if happening.Of(x.When).Book.Support == nil || x.Points < 0 || x.Points > mostSetting {
			at(fmt.Sprintf("support.%d", i), "is nothing that is given, or worth too much", "choose a sort of support, worth 0 to 1000000 points")
		}
	}
	s.Levels.check(at)
	words := func(field string, texts, usual []string, offers []wording.FillIn) []*wording.Wording {
		if len(texts) == 0 {
			texts = usual
		}
		return room.Words("rooms."+Name+"."+field, texts, offers, fault)
	}
	s.short, s.cannot = words("short", s.Short, usualShort, shortFillIns), words("cannot", s.Cannot, usualCannot, cannotFillIns)
	if !s.On {
		for _, c := range f.Courtesy {
			costs := c.Cost > 0 || slices.ContainsFunc(c.Do, func(o output.Output) bool { return o.Cost > 0 || does[o.Kind()] != nil })
			if costs && c.On && !c.Away {
				fault(courtesy.Fault{Courtesy: c.ID, At: "cost", What: "needs points, which are switched off", Remedy: "switch points on under Courtesies, Small rewards, or take it out"})
			}
		}
	}
	return s
}

// Counted is a number of points in the channel's words: "1 pearl", "40 pearls".
func (s *Section) Counted(n int64) string {
	one, many := s.One, s.Many
	if one == "" {
		one = "point"
	}
	if many == "" {
		many = one + "s"
	}
	if n == 1 {
		return "1 " + one
	}
	return fmt.Sprintf("%d %s", n, many)
}

// Kind is the kind of an entry in the ledger.
const Kind hall.Kind = "points"

// Why an entry stands in the ledger, as its output.
const (
	ForHere    = "here" // for being here, lines and the visit, to many at once
	ForSupport = "support"
	ByHand     = "hand"
	Gave       = "gave"
	Got        = "got"
	Paid       = "paid"
	Refunded   = "refunded"
	Staked     = "staked"
	Won        = "won"
	Regained   = "regained" // a game gave back no more than was staked
	Hidden     = "hidden"   // kept off the list of ranks, or on it again: no sum moves
)

// Entry is what an entry has of its own; of one for many, Amounts are by account.
type Entry struct {
	Amount  int64            `json:"amount,omitempty"`
	Amounts map[string]int64 `json:"amounts,omitempty"`
	For     string           `json:"for,omitempty"` // the charge, the game, the sort of support

	Courtesy string `json:"courtesy,omitempty"` // of what is paid for: whose it is
	Output   string `json:"output,omitempty"`   // and which of what it does; none is all of it

	Whole map[string]Whole `json:"whole,omitempty"` // of whoever has several accounts: what they gathered over all of them
}

// Whole is what a person gathered over all their accounts.
type Whole struct {
	Accounts []string `json:"accounts"`
	Gathered int64    `json:"gathered"`
	Season   int64    `json:"season"`
}

// whole tells of a person with several accounts; nothing of one with one.
func (p purses) whole(m *Memory, account string, into map[string]Whole) map[string]Whole {
	if len(p) < 2 {
		return into
	}
	if into == nil {
		into = map[string]Whole{}
	}
	w := Whole{Accounts: slices.Sorted(maps.Keys(p)), Gathered: p.gathered(m)}
	for _, x := range p {
		w.Season += m.Season.sum(x.Season).Gathered
	}
	into[account] = w
	return into
}

// EntryOf is the entry of a decision; false of others, and of one that a forgetting took out.
func EntryOf(d *hall.Decision) (e Entry, ok bool) {
	return e, d.Kind == Kind && json.Unmarshal(d.Body, &e) == nil
}

// enter puts an entry into the ledger: so much more, or less, for an account. gathered is what of it counts for levels.
func enter(t *room.Turn, m *Memory, p purses, name, account, why string, e Entry, gathered int64, because string) {
	next := p[account].added(m, e.Amount, gathered)
	p[account] = next
	e.Whole = p.whole(m, account, nil)
	body, _ := json.Marshal(e)
	t.Decide(hall.Decision{Kind: Kind, Output: why, Line: t.LineID(Name, e.For+"."+account), Person: account, Name: name, Kept: next.json(), Saying: hall.Saying{Body: body}, Event: t.Event.Seq, EventID: t.Event.ID, Because: []string{because}})
}

// pursesOf are the purses of a person.
func pursesOf(t *room.Turn, p event.Person, known *people.Known) purses {
	return purses(room.KeptEach[Purse](t, Name, p, known))
}

// wins gives somebody what they won; gathered is what of it counts for levels.
func wins(t *room.Turn, s *Section, m *Memory, have purses, p event.Person, name string, e Entry, gathered int64, because string) {
	was, why := have.gathered(m), Won
	if gathered == 0 {
		why = Regained
	}
	enter(t, m, have, name, p.Key(), why, e, gathered, because)
	levelled(t, s, p, was, have.gathered(m))
}

// earn gives somebody what they gathered, and tells of a level that they reached with it.
func earn(t *room.Turn, s *Section, m *Memory, p event.Person, known *people.Known, why, of string, amount int64, because string) {
	have := pursesOf(t, p, known)
	was := have.gathered(m)
	enter(t, m, have, t.SayName(p), p.Key(), why, Entry{Amount: amount, For: of}, amount, because)
	levelled(t, s, p, was, have.gathered(m))
}

// forSupport gives for what was given to the channel.
func forSupport(t *room.Turn, s *Section, m *Memory, h *happening.Happening) {
	who := t.Event.Who()
	if !s.On || who == nil || t.Never(*who) != "" && !leftAlone(t) {
		return
	}
	for _, x := range s.Support {
		if x.When != h.Type {
			continue
		}
		n := x.Points
		if q := t.State.Quantities(t.Event.Data); x.Each && len(q) > 0 {
			n = int64(float64(x.Points) * min(q[0].N, mostSetting))
		}
		if n = bounded(n); n > 0 {
			earn(t, s, m, *who, t.Known, ForSupport, h.Type, n, "for "+h.Words)
		}
		return
	}
}

// leftAlone reports whether whoever caused it is only to be left alone: they are not greeted, and have their points all the same.
func leftAlone(t *room.Turn) bool { return t.Known != nil && t.Known.LeaveBe }

// forBeingHere gives to all who spoke lately, in one decision: for being here, for their lines and for coming.
func forBeingHere(t *room.Turn, s *Section, m *Memory) {
	if !s.On || !m.grantDue(s, t.Now) && !closes(t) {
		return
	}
	within := room.Seconds(60 * s.Within)
	if within == 0 {
		within = usualWithin * time.Minute
	}
	lines := s.Lines
	if lines == 0 {
		lines = usualLines
	}
	gs := t.State.Tonight
	amounts, keeps, joined := map[string]int64{}, map[string]json.RawMessage{}, []hall.JoinedOne{}
	var whole map[string]Whole
	here, known := map[string]bool{}, persons(gs)
	type up struct {
		p        event.Person
		was, now int64
	}
	var ups []up
	full := t.Now.Sub(m.Granted) >= everyGrant || m.Granted.IsZero()
	for _, key := range slices.Sorted(maps.Keys(gs)) {
		g := gs[key]
		p := g.Person(key)
		mine := known[key].AccountsWith(key)
		arrived := slices.ContainsFunc(mine, func(k string) bool { return gs[k] != nil && !gs[k].Arrived.IsZero() })
		if t.Plan.IsNeighbour(p) || !arrived {
			continue
		}
		said := m.Lines[key]
		n := int64(said.counted(lines)) * s.Line
		if !g.Last.Before(t.Now.Add(-within)) && full && !slices.ContainsFunc(mine, func(k string) bool { return here[k] }) {
			n += s.Here // a person is here once, on however many platforms they talk
			here[key] = true
		}
		if m.Came[key] {
			n += s.Visit
		}
		if n = bounded(n); n <= 0 {
			continue
		}
		streamer := false
		if t.Knowing(known[key], func() { streamer = t.IsStreamer(p) }); streamer {
			continue
		}
		have := pursesOf(t, p, known[key]).over(keeps)
		before := have.gathered(m)
		next := have[key].added(m, n, n)
		have[key] = next
		amounts[key], keeps[key] = n, next.json()
		whole = have.whole(m, key, whole)
		joined = append(joined, hall.JoinedOne{Person: key, Name: g.Name})
		ups = append(ups, up{p, before, have.gathered(m)})
	}
	many(t, ForHere, fmt.Sprintf("here-%d-%d", t.State.Stream.Number, m.Grants), Entry{Amounts: amounts, Whole: whole}, keeps, joined, fmt.Sprintf("for being here: %d of them", len(joined)))
	for _, u := range ups {
		levelled(t, s, u.p, u.was, u.now)
	}
}

// many is one entry of the ledger for many people.
func many(t *room.Turn, why, line string, e Entry, keeps map[string]json.RawMessage, joined []hall.JoinedOne, because string) {
	body, _ := json.Marshal(e)
	t.Decide(hall.Decision{Kind: Kind, Output: why, Line: line, Keeps: keeps, Saying: hall.Saying{Body: body, Joined: joined}, Because: []string{because}})
}

// persons are who guests are, by account: a second account of somebody who is here already is not asked about again.
func persons(gs map[string]*hall.Guest) map[string]*people.Known {
	out := map[string]*people.Known{}
	for _, key := range slices.Sorted(maps.Keys(gs)) {
		if k := gs[key].Known; k != nil {
			out[key] = k
			for _, a := range k.Accounts {
				if g := gs[a]; g == nil || g.Known == nil {
					out[a] = k
				}
			}
		}
	}
	return out
}

// byHand is a member's hand: what is taken back was not gathered either.
func byHand(t *room.Turn, s *Section, m *Memory, data *event.PointsGranted) {
	why := "given by hand"
	if data.Amount < 0 {
		why = "taken back by hand"
	}
	if data.Reason != "" {
		why += ": " + data.Reason
	}
	if w := Refusal(t.Plan, data.Person); w != "" {
		t.Decide(hall.Decision{Kind: hall.Refuse, Output: "desk", Because: []string{w}})
		return
	}
	amount := data.Amount
	have := pursesOf(t, data.Person, t.Known)
	if amount < 0 {
		amount = -min(-amount, have.has(m))
		for _, part := range have.split(m, data.Person.Key(), -amount) {
			enter(t, m, have, t.SayName(data.Person), part.Account, ByHand, Entry{Amount: -part.Amount}, -part.Amount, why)
		}
		if amount == 0 {
			t.Decide(hall.Decision{Kind: hall.Refuse, Output: "desk", Because: []string{"they have nothing that could be taken back"}})
		}
		return
	}
	earn(t, s, m, data.Person, t.Known, ByHand, "", amount, why)
}

// Refusal is why a member's hand gives somebody nothing, or "".
func Refusal(plan *room.Plan, p event.Person) string {
	if !room.Section[Section](plan, Name).On {
		return "points are switched off; switch them on first"
	}
	return notTheirs(plan, p)
}

// notTheirs says who never has points, or "".
func notTheirs(plan *room.Plan, p event.Person) string {
	switch {
	case p.ID == "":
		return "nobody is meant"
	case plan.IsNeighbour(p):
		return "a neighbour has no use for them"
	case plan.IsOwn(p):
		return "an account of the house's own has no use for them"
	}
	return ""
}

// reset begins everybody anew, or takes that back. Only the last one can be taken back, so one right after another, of a slip or of
// a second member, is none: it would leave the first for good.
func reset(t *room.Turn, m *Memory, data *event.PointsReset) {
	e, what := &m.All, "everybody begins anew"
	if data.Season {
		e, what = &m.Season, "a season begins"
	}
	not := ""
	switch {
	case data.Undo:
		if what = "what was there before counts again"; !e.CanUndo() {
			not = "there is nothing to take back"
		}
	case e.New:
		not = "nothing was gathered since the last time"
	}
	if not != "" {
		t.Decide(hall.Decision{Kind: hall.Refuse, Output: "desk", Because: []string{not}})
		return
	}
	room.Note(t, "reset", data, what)
}
