package points

import (
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/output"
	"vividporch/core/plain"
	"vividporch/core/room"
	"vividporch/core/wording"
)

// does are the outputs that this room does.
var does = map[output.Kind]func(*room.Turn, *Section, *Memory, *room.Doing){
	output.KindGive:     gives,
	output.KindUnlisted: hides,
	output.KindStone:    turns,
	output.KindRace:     races,
	output.KindTide:     tides,
	output.KindAnemone:  asks,
}

// player is whoever asked for it in chat, with what they have; false after it was said why they cannot.
func player(t *room.Turn, s *Section, m *Memory, d *room.Doing, plays bool) (event.Person, purses, bool) {
	who := t.Event.Who()
	switch {
	case t.Try:
		d.Not(t, "a try changes nothing")
	case !s.On:
		d.Not(t, "points are switched off")
	case who == nil || who.ID == "":
		d.Not(t, "nobody asked for it")
	case notTheirs(t.Plan, *who) != "":
		d.Not(t, notTheirs(t.Plan, *who))
	case plays && m.playedBy(t.Known.AccountsWith(who.Key())) >= s.evening():
		no(t, s, d, *who, fmt.Sprintf("that was enough for one evening: %d times", s.evening()))
	default:
		return *who, pursesOf(t, *who, t.Known), true
	}
	return event.Person{}, nil, false
}

func (s *Section) evening() int {
	if s.Evening == 0 {
		return usualEvening
	}
	return s.Evening
}

// playedBy is how often somebody with some accounts played in this stream.
func (m *Memory) playedBy(accounts []string) (n int) {
	seen := map[string]bool{}
	for _, k := range accounts {
		if !seen[k] {
			n += m.Played[k]
		}
		seen[k] = true
	}
	return n
}

// no says why something cannot be, to whoever asked.
func no(t *room.Turn, s *Section, d *room.Doing, p event.Person, why string) {
	d.Not(t, why)
	words(t, "cannot", s.cannot, p, wording.Args{"why": wording.Str(why)})
}

// amount is the first number behind a command, or behind a name there; whole is what "all" stands for.
func amount(rest string, usual, whole int64) (n int64, why string) {
	for _, f := range strings.Fields(rest) {
		if strings.EqualFold(f, "all") {
			return whole, ""
		}
		if !strings.ContainsAny(f[:1], "+-0123456789") {
			continue
		}
		n, err := strconv.ParseInt(f, 10, 64)
		switch {
		case err != nil:
			return 0, "that is no number of points"
		case n < 1:
			return 0, "it takes one at least"
		}
		return n, ""
	}
	return usual, ""
}

// staked is what somebody stakes; false after it was said why they cannot.
func staked(t *room.Turn, s *Section, m *Memory, d *room.Doing, p event.Person, have purses, bounds output.Stakes) (int64, bool) {
	usual, most := bounds.Bounds()
	n, why := amount(d.Args["rest"].Text, usual, min(most, have.has(m)))
	switch {
	case why != "":
	case n > most:
		why = "the most that can be staked is " + s.Counted(most)
	case n < 1 || n > have.has(m):
		why = "that is " + s.Counted(n) + ", and you have " + s.Counted(have.has(m))
	}
	if why != "" {
		no(t, s, d, p, why)
		return 0, false
	}
	return n, true
}

// take takes so many points of somebody.
func take(t *room.Turn, m *Memory, have purses, p event.Person, why, of string, n int64, because string) {
	for _, part := range have.split(m, p.Key(), n) {
		enter(t, m, have, t.SayName(p), part.Account, why, Entry{Amount: -part.Amount, For: of}, 0, because)
	}
}

// happens has something of a reward lived right after this.
func happens(t *room.Turn, d *room.Doing, data event.Data) {
	t.HappensAs(Name, t.LineID(d.Courtesy.ID, d.Output.ID)+"."+strings.TrimPrefix(data.Type(), "porch."), data, "a game")
}

// play is one time somebody plays, noted.
type play struct {
	Account string `json:"account"`
}

func plays(t *room.Turn, p event.Person, what string) {
	room.Note(t, "play "+what, play{p.Key()}, "played")
}

func (m *Memory) played(l room.Lived) {
	for i := range l.Decisions {
		x := &l.Decisions[i]
		if x.Room != l.Room || x.Kind != hall.Note {
			continue
		}
		what := strings.TrimPrefix(x.Output, l.Room+" ")
		switch {
		case strings.HasPrefix(what, "play "):
			for _, p := range room.Noted[play](l, what) {
				if m.Played == nil {
					m.Played = map[string]int{}
				}
				m.Played[p.Account]++
			}
		case what == "race":
			for _, r := range room.Noted[Race](l, what) {
				m.Races = append(m.Races, r)
			}
		case what == "raced":
			for _, id := range room.Noted[string](l, what) {
				m.Races = slices.DeleteFunc(m.Races, func(r Race) bool { return r.ID == id })
			}
		case what == "tide":
			for _, next := range room.Noted[*Tide](l, what) {
				if m.Tide = next; next != nil && next.Mark == 0 {
					m.Tide = nil
				}
			}
		}
	}
}

// gives gives points to whoever is meant.
func gives(t *room.Turn, s *Section, m *Memory, d *room.Doing) {
	p, have, ok := player(t, s, m, d, false)
	if !ok {
		return
	}
	to := d.Cause.Person
	n, why := amount(d.Args["after"].Text, 0, have.has(m))
	most := d.Output.Do.(*output.Give).Most
	switch w := notTheirs(t.Plan, to); {
	case t.Meant == nil:
		why = "say whom you mean, and how many"
	case slices.Contains(t.Known.AccountsWith(p.Key()), to.Key()) || to.Key() == p.Key():
		why = "nobody gives to themselves"
	case w != "":
		why = w
	case why != "":
	case n == 0:
		why = "say how many"
	case most > 0 && n > most:
		why = "the most that can be given at once is " + s.Counted(most)
	case n > have.has(m):
		why = "that is " + s.Counted(n) + ", and you have " + s.Counted(have.has(m))
	}
	if why != "" {
		no(t, s, d, p, why)
		return
	}
	take(t, m, have, p, Gave, "gift", n, "gave them away")
	theirs := pursesOf(t, to, t.Meant.Known)
	enter(t, m, theirs, t.Meant.Said(), to.Key(), Got, Entry{Amount: n, For: "gift"}, 0, "was given them")
	given := &happening.PointsGiven{To: to, Amount: n}
	given.Person = p
	happens(t, d, given)
}

// hides keeps somebody off the list of ranks.
func hides(t *room.Turn, s *Section, m *Memory, d *room.Doing) {
	p, have, ok := player(t, s, m, d, false)
	if !ok {
		return
	}
	for account, x := range have {
		x.Hidden = !d.Output.Do.(*output.Unlisted).Off
		have[account] = x
		why := "is kept off the list of ranks"
		if !x.Hidden {
			why = "is on the list of ranks"
		}
		t.Decide(hall.Decision{Kind: Kind, Output: Hidden, Line: t.LineID(Name, "hidden."+account), Person: account, Name: t.SayName(p), Kept: x.json(), Because: []string{why}})
	}
}

// turns turns a stone.
func turns(t *room.Turn, s *Section, m *Memory, d *room.Doing) {
	p, have, ok := player(t, s, m, d, true)
	if !ok {
		return
	}
	game := d.Output.Do.(*output.Stone)
	stake, ok := staked(t, s, m, d, p, have, game.Stakes)
	if !ok {
		return
	}
	finds, weights := game.Under()
	seed := t.Seed(d.Courtesy.ID, d.Output.ID+" stone")
	at := int64(seed % uint64(weights))
	found := finds[0]
	for _, f := range finds {
		if found = f; at < f.Weight {
			break
		}
		at -= f.Weight
	}
	// What is no whole number is rounded by chance, so that the odds hold however small the stake.
	worth := game.Worth(found) * float64(stake)
	won := int64(worth)
	if frac := worth - float64(won); float64(t.Seed(d.Courtesy.ID, d.Output.ID+" rounding")>>11)/(1<<53) < frac {
		won++
	}
	plays(t, p, "stone")
	take(t, m, have, p, Staked, "stone", stake, "turned a stone")
	if won > 0 {
		wins(t, s, m, have, p, t.SayName(p), Entry{Amount: won, For: "stone"}, max(0, won-stake), "found "+found.Name)
	}
	told := &happening.StoneTurned{Found: found.Name, Stake: stake, Won: won, One: found.Weight, In: weights}
	told.Person = p
	happens(t, d, told)
}

// Race is a challenge that waits.
type Race struct {
	ID    string       `json:"id"`
	From  event.Person `json:"from"`
	To    event.Person `json:"to"`
	Of    []Part       `json:"of"` // what was staked already
	Stake int64        `json:"stake"`
	Ends  time.Time    `json:"ends"`
}

// mostRaces is how many challenges wait at once.
const mostRaces = 200

// races challenges whoever is named, or takes up a challenge.
func races(t *room.Turn, s *Section, m *Memory, d *room.Doing) {
	p, have, ok := player(t, s, m, d, true)
	if !ok {
		return
	}
	mine := t.Known.AccountsWith(p.Key())
	waits := slices.IndexFunc(m.Races, func(r Race) bool { return slices.Contains(mine, r.To.Key()) })
	if t.Meant == nil || waits >= 0 && t.Meant.Person.Key() == m.Races[waits].From.Key() { // they say yes
		if waits < 0 {
			no(t, s, d, p, "nobody challenged you: say whom you challenge")
			return
		}
		runs(t, s, m, d, p, have, &m.Races[waits])
		return
	}
	game, to := d.Output.Do.(*output.Race), t.Meant.Person
	stake, ok := staked(t, s, m, &room.Doing{Cause: d.Cause, Courtesy: d.Courtesy, Output: d.Output, Args: wording.Args{"rest": d.Args["after"]}}, p, have, game.Stakes)
	if !ok {
		return
	}
	why := ""
	switch w := notTheirs(t.Plan, to); {
	case to.Key() == p.Key() || slices.Contains(mine, to.Key()):
		why = "a snail does not race itself"
	case w != "":
		why = w
	case slices.ContainsFunc(m.Races, func(r Race) bool { return slices.Contains(mine, r.From.Key()) }):
		why = "your snail waits at the pool already"
	case slices.ContainsFunc(m.Races, func(r Race) bool { return r.To.Key() == to.Key() }):
		why = t.Meant.Said() + " has a challenge to answer first"
	case len(m.Races) >= mostRaces:
		why = "too many snails wait already"
	}
	if why != "" {
		no(t, s, d, p, why)
		return
	}
	seconds := game.Seconds
	if seconds == 0 {
		seconds = 60
	}
	r := Race{ID: t.LineID(Name, "race"), From: p, To: to, Of: have.split(m, p.Key(), stake), Stake: stake, Ends: t.Now.Add(room.Seconds(seconds))}
	plays(t, p, "race")
	take(t, m, have, p, Staked, "race", stake, "called a race")
	room.Note(t, "race", r, "a challenge waits")
	told := &happening.RaceCalled{Raced: happening.Raced{With: to, Stake: stake}, Seconds: int64(seconds)}
	told.Person = p
	happens(t, d, told)
}

// runs has two snails run.
func runs(t *room.Turn, s *Section, m *Memory, d *room.Doing, p event.Person, have purses, r *Race) {
	if has := have.has(m); has < r.Stake {
		no(t, s, d, p, "it is for "+s.Counted(r.Stake)+", and you have "+s.Counted(has))
		return
	}
	plays(t, p, "race")
	take(t, m, have, p, Staked, "race", r.Stake, "took up a race")
	winner, loser := r.From, p
	if t.Seed(Name, "race "+r.ID)&1 == 1 {
		winner, loser = p, r.From
	}
	theirs := have
	if winner.Key() != p.Key() {
		theirs = pursesOf(t, winner, t.State.KnownHere(winner.Key()))
	}
	wins(t, s, m, theirs, winner, plain.Name(winner.Shown()), Entry{Amount: 2 * r.Stake, For: "race"}, r.Stake, "won a race")
	room.Note(t, "raced", r.ID, "the race is run")
	told := &happening.RaceRun{Raced: happening.Raced{With: loser, Stake: r.Stake}, Won: 2 * r.Stake}
	told.Person = winner
	happens(t, d, told)
}

// Tide is one that the room is asked to bring in.
type Tide struct {
	ID     string     `json:"id,omitempty"`
	Mark   int        `json:"mark,omitempty"`
	Prize  int64      `json:"prize,omitempty"`
	Ends   time.Time  `json:"ends,omitzero"`
	Lifted [][]string `json:"lifted,omitempty"` // the accounts of each who lifted it
}

// tides asks the room to bring in the tide.
func tides(t *room.Turn, s *Section, m *Memory, d *room.Doing) {
	switch {
	case t.Try:
		d.Not(t, "a try changes nothing")
		return
	case !s.On:
		d.Not(t, "points are switched off")
		return
	case m.Tide != nil:
		d.Not(t, "the tide is turning already")
		return
	}
	game := d.Output.Do.(*output.Tide)
	next := Tide{ID: t.LineID(Name, "tide"), Mark: game.People, Prize: game.Prize}
	seconds := game.Seconds
	if seconds == 0 {
		seconds = 90
	}
	if next.Mark == 0 {
		next.Mark = 8
	}
	if next.Prize == 0 {
		next.Prize = 20
	}
	next.Ends = t.Now.Add(room.Seconds(seconds))
	room.Note(t, "tide", next, "the tide turns")
	turned := &happening.TideTurns{Seconds: int64(seconds)}
	turned.Mark, turned.Prize = int64(next.Mark), next.Prize
	happens(t, d, turned)
}

// lifts has a line of somebody new lift the tide.
func lifts(t *room.Turn, s *Section, m *Memory, said *happening.ChatSaid) {
	if m.Tide == nil || !s.On || notTheirs(t.Plan, said.Person) != "" || t.IsLate || t.IsStreamer(said.Person) || !m.Tide.Ends.After(t.Now) {
		return
	}
	known := t.Known
	if g := t.State.Guests()[said.Person.Key()]; known == nil && g != nil {
		known = g.Known
	}
	mine := known.AccountsWith(said.Person.Key())
	if slices.ContainsFunc(m.Tide.Lifted, func(w []string) bool {
		return slices.ContainsFunc(mine, func(k string) bool { return slices.Contains(w, k) })
	}) {
		return
	}
	next := *m.Tide
	next.Lifted = append(slices.Clone(next.Lifted), mine)
	if len(next.Lifted) < next.Mark {
		room.Note(t, "tide", next, "lifted the tide")
		return
	}
	room.Note(t, "tide", Tide{}, "the tide is in")
	keeps, amounts, joined := map[string]json.RawMessage{}, map[string]int64{}, []hall.JoinedOne{}
	var all map[string]Whole
	for _, w := range next.Lifted {
		p, name := event.OfKey(w[0]), ""
		if g := t.State.Guests()[w[0]]; g != nil {
			p, name = g.Person(w[0]), g.Name
		}
		k := t.State.KnownHere(w[0])
		if w[0] == said.Person.Key() {
			k = known
		}
		have := pursesOf(t, p, k).over(keeps)
		was := have.gathered(m)
		have[w[0]] = have[w[0]].added(m, next.Prize, next.Prize)
		keeps[w[0]], amounts[w[0]] = have[w[0]].json(), next.Prize
		all = have.whole(m, w[0], all)
		levelled(t, s, p, was, have.gathered(m))
		joined = append(joined, hall.JoinedOne{Person: w[0], Name: name})
	}
	many(t, Won, next.ID, Entry{Amounts: amounts, For: "tide", Whole: all}, keeps, joined, "brought the tide in")
	in := &happening.TideIn{}
	in.Lifted, in.Mark, in.Prize = int64(len(next.Lifted)), int64(next.Mark), next.Prize
	t.HappensAs(Name, next.ID+".in", in, "a game")
}

// games ends what waited too long.
func games(t *room.Turn, s *Section, m *Memory) {
	for i := range m.Races {
		r := &m.Races[i]
		if r.Ends.After(t.Now) {
			continue
		}
		room.Note(t, "raced", r.ID, "nobody took it up")
		givesBack(t, m, r.Of, plain.Name(r.From.Shown()), r.ID, "nobody took up the race")
		told := &happening.RaceLapsed{Raced: happening.Raced{With: r.To, Stake: r.Stake}}
		told.Person = r.From
		t.HappensAs(Name, r.ID+".lapsed", told, "a game")
		break // the next with its own wake
	}
	if m.Tide != nil && !m.Tide.Ends.After(t.Now) {
		room.Note(t, "tide", Tide{}, "the tide ebbed")
		ebbed := &happening.TideEbbed{}
		ebbed.Lifted, ebbed.Mark, ebbed.Prize = int64(len(m.Tide.Lifted)), int64(m.Tide.Mark), m.Tide.Prize
		t.HappensAs(Name, m.Tide.ID+".ebbed", ebbed, "a game")
	}
}

// asks asks the anemone.
func asks(t *room.Turn, s *Section, m *Memory, d *room.Doing) {
	p, _, ok := player(t, s, m, d, true)
	if !ok {
		return
	}
	game := d.Output.Do.(*output.Anemone)
	opens := game.Opens
	if opens == 0 {
		opens = 50
	}
	open, list := t.Seed(d.Courtesy.ID, d.Output.ID+" opens")%100 < uint64(opens), []string(nil)
	if yes, shut := game.Lists(); open {
		list = yes
	} else {
		list = shut
	}
	plays(t, p, "anemone")
	told := &happening.AnemoneAsked{Question: event.Cut(d.Args["rest"].Text, 400), Answer: list[t.Seed(d.Courtesy.ID, d.Output.ID+" answer")%uint64(len(list))], Open: open}
	told.Person = p
	happens(t, d, told)
}

// tell has courtesies speak of rewards: where their person is, or on all platforms that are on.
func tell(t *room.Turn, s *Section, m *Memory) {
	h := happening.OfData(t.Event.Data)
	args, platforms := t.AboutAir(), t.OnAir()
	if who := t.Event.Who(); who != nil {
		args, platforms = t.About(*who), t.ChatsOf(*who)
	}
	h.Tell(t.Event.Data, args)
	if x, ok := t.Event.Data.(interface{ Points() map[string]int64 }); ok {
		for name, n := range x.Points() {
			args[name] = wording.Str(s.Counted(n))
		}
	}
	t.Announce(args, platforms)
}
