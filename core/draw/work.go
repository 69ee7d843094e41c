package draw

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"vividporch/core/event"
	"vividporch/core/giveaway"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/lots"
	"vividporch/core/room"
)

// work is a draw while one event is decided: every step is decided, and the copy moved on by it as the memory will be.
type work struct {
	t *room.Turn
	d *Draw // a copy; none before it is called
}

// decide decides a step, about the person of an entry.
func (w *work) decide(output, line string, is moved, e *Entry, why string) {
	if line == "" && w.d != nil {
		line = w.d.ID
	}
	body, _ := json.Marshal(is)
	x := hall.Decision{Kind: kind, Output: output, Line: line, Saying: hall.Saying{Body: body}, Because: []string{why}}
	if e != nil {
		x.Person, x.Name = e.Account, e.Name
		x.Known = accountsOnly(e.all())
	}
	w.t.Decide(x)
}

// moves decides a step and moves the copy on.
func (w *work) moves(output, line string, is moved, e *Entry, why string) {
	w.decide(output, line, is, e, why)
	x := &w.t.Decided[len(w.t.Decided)-1]
	w.d.move(x, w.t.Now)
}

// tell has a happening of the draw lived right after this. tag tells one from others of its type.
func (w *work) tell(data event.Data, tag string) {
	id := data.(interface{ OfDraw() *happening.DrawTold }).OfDraw().Draw
	w.t.HappensAs(Name, strings.TrimSuffix(strings.Join([]string{"draw", id, strings.TrimPrefix(data.Type(), "porch.draw."), tag}, "-"), "-"), data, "a draw")
}

// close fixes the list and asks for the secret.
func (w *work) close(why string, draws bool) {
	if w.d.Way == giveaway.Lately {
		w.gather()
	}
	var marks []string
	for i := range w.d.Entries {
		if e := &w.d.Entries[i]; e.counts() {
			marks = append(marks, e.Mark)
		}
	}
	marks = lots.Sorted(marks)
	w.moves(stepClosed, "", moved{Marks: marks, Digest: lots.Digest(marks), Draws: draws, Why: why}, nil, why)
	ask(w.t, Unseal, Request{Draw: w.d.ID, Sealed: w.d.Sealed})
	w.tell(&happening.DrawClosed{DrawTold: w.d.told(0)}, "")
}

// gather enters those who spoke lately, each person once.
func (w *work) gather() {
	m := room.MemoryOf[Memory](w.t, Name)
	for _, p := range spokeLately(w.t, m) {
		w.t.Knowing(w.t.State.KnownHere(p.Key()), func() {
			mine := m.whole(w.t.Known.AccountsWith(p.Key()))
			if never(w.t, m, p) != "" || w.d.entryOf(mine) != nil || len(w.d.Entries) >= mostEntries {
				return
			}
			e := entry(w.t, m, p, len(w.d.Entries)+1)
			w.moves(stepEntered, e.key(w.d), moved{Login: p.Login}, &e, "spoke lately")
		})
	}
}

// draw fills what is open still: of a draw that is closed and whose secret is known.
func (w *work) draw() {
	d := w.d
	if !d.Draws || d.State == Cancelled || len(d.Secret) == 0 {
		return
	}
	m := room.MemoryOf[Memory](w.t, Name)
	for prize := range d.Prizes {
		for !d.settled(prize) {
			e, n := d.next()
			if e == nil {
				w.moves(stepUnwon, fmt.Sprintf("%s/%d", d.ID, prize), moved{}, nil, "nobody is left")
				told := d.told(0)
				told.Prizes = d.Prizes[prize : prize+1]
				w.tell(&happening.DrawUnwon{DrawTold: told}, fmt.Sprint(prize))
				break
			}
			if why := w.unfit(m, e); why != "" {
				w.moves(stepDrawn, d.pickLine(n, prize, e), moved{Login: e.Login}, e, why)
				w.moves(stepPassed, fmt.Sprintf("%s/%d", d.ID, e.Number), moved{Why: why}, e, why)
				continue
			}
			w.wins(e, n, prize, d.says(e))
		}
	}
	w.end()
}

// says is why an entry is next.
func (d *Draw) says(e *Entry) string {
	if want, ok := d.Looked(d.Secret); d.Way == giveaway.ByNumber && ok && e.Guess != nil {
		return fmt.Sprintf("guessed %d; it is %d", *e.Guess, want)
	}
	return "was drawn"
}

// unfit says why an entry that is picked cannot win any more, or "".
func (w *work) unfit(m *Memory, e *Entry) string {
	switch {
	case e.Account == "":
		return "has asked to be forgotten"
	case e.Void != "":
		return e.Void
	}
	mine := m.whole(e.all())
	if why := m.kept(mine); why != "" {
		return why
	}
	for i := range w.d.Picks {
		if p := &w.d.Picks[i]; p.State != Passed && meet(append([]string{p.Account}, p.Accounts...), mine) {
			return "has won in this draw already"
		}
	}
	return ""
}

func (d *Draw) pickLine(n, prize int, e *Entry) string {
	return fmt.Sprintf("%s/%d/%d/%d/%s", d.ID, n, prize, e.Number, e.Mark)
}

// won has somebody win the next prize, not by chance.
func (w *work) won(e *Entry, prize int, why string) { w.wins(e, -1, prize, why) }

// wins has somebody win a prize; n is which pick by chance it is, and -1 where chance has no say.
func (w *work) wins(e *Entry, n, prize int, why string) {
	d, is := w.d, moved{Login: e.Login, Why: why}
	seconds := 0.0
	if d.ClaimIn > 0 && d.Way != giveaway.ByAnswer && (d.Way != giveaway.ByNumber || n >= 0) { // who has just spoken need not speak again
		ends := w.t.Now.Add(room.Seconds(d.ClaimIn))
		is.Ends, seconds = &ends, d.ClaimIn
	}
	w.moves(stepDrawn, d.pickLine(n, prize, e), is, e, why)
	told := &happening.DrawWon{DrawTold: d.told(0), Number: int64(e.Number), Seconds: int64(seconds)}
	told.Prizes = d.Prizes[prize : prize+1]
	told.Person = w.person(e.Account, e.Login, e.Name)
	w.tell(told, fmt.Sprint(e.Number))
}

// person is somebody as a happening tells of them: as they are here, or as they entered.
func (w *work) person(account, login, name string) event.Person {
	if g := w.t.State.Guests()[account]; g != nil {
		return g.Person(account)
	}
	p := event.OfKey(account)
	p.Login, p.Name = login, name
	return p
}

// settled reports whether a prize is somebody's, or nobody's for good.
func (d *Draw) settled(prize int) bool {
	return slices.Contains(d.Unwon, prize) || slices.ContainsFunc(d.Picks, func(p Pick) bool { return p.Prize == prize && p.State != Passed })
}

// next is the entry that is picked next, and which pick by chance that is; nil when nobody is left.
func (d *Draw) next() (*Entry, int) {
	switch d.Way {
	case giveaway.ByAnswer: // who answered first has won; nobody is drawn
		return nil, 0
	case giveaway.ByNumber:
		return d.nearest(), len(d.Picks)
	}
	n, left := 0, make([]string, 0, len(d.Marks))
	picked := map[string]bool{}
	for i := range d.Picks {
		if picked[d.Picks[i].Mark] = true; d.Picks[i].N >= 0 {
			n++
		}
	}
	for _, mark := range d.Marks {
		if !picked[mark] {
			left = append(left, mark)
		}
	}
	at := lots.Pick(d.Secret, d.Digest, n, len(left))
	if at < 0 {
		return nil, 0
	}
	for i := range d.Entries {
		if d.Entries[i].Mark == left[at] {
			return &d.Entries[i], n
		}
	}
	return nil, 0
}

// nearest is the best guess of whoever was not picked yet: the nearest, of two as near the earlier. Where only the very number
// wins, no other does.
func (d *Draw) nearest() (best *Entry) {
	want, ok := d.Looked(d.Secret)
	if !ok {
		return nil
	}
	far := func(e *Entry) int64 { return max(*e.Guess-want, want-*e.Guess) }
	for i := range d.Entries {
		e := &d.Entries[i]
		if !e.counts() || e.Guess == nil || d.Exact && far(e) > 0 || slices.ContainsFunc(d.Picks, func(p Pick) bool { return p.Number == e.Number || p.Account == e.Account }) {
			continue
		}
		if best == nil || far(e) < far(best) {
			best = e
		}
	}
	return best
}

// claimed settles a pick.
func (w *work) claimed(p *Pick, why string) {
	if p == nil || p.State == Claimed {
		return
	}
	is := *p
	w.moves(stepClaimed, fmt.Sprintf("%s/%d", w.d.ID, is.Number), moved{Why: why}, is.entry(), why)
	told := &happening.DrawClaimed{DrawTold: w.d.told(0)}
	told.Prizes = w.d.Prizes[is.Prize : is.Prize+1]
	told.Person = w.person(is.Account, is.Login, is.Name)
	w.tell(told, fmt.Sprint(is.Number))
}

// passed takes a prize back, which is drawn again then.
func (w *work) passed(p *Pick, why, reason string) {
	is := *p
	w.moves(stepPassed, fmt.Sprintf("%s/%d", w.d.ID, is.Number), moved{Why: why}, is.entry(), why)
	if is.Account == "" {
		return
	}
	told := &happening.DrawUnclaimed{DrawTold: w.d.told(0), Reason: reason}
	told.Prizes = w.d.Prizes[is.Prize : is.Prize+1]
	told.Person = w.person(is.Account, is.Login, is.Name)
	w.tell(told, fmt.Sprint(is.Number))
}

func (p *Pick) entry() *Entry {
	return &Entry{Number: p.Number, Mark: p.Mark, Account: p.Account, Accounts: p.Accounts, Login: p.Login, Name: p.Name}
}

// end ends a draw of which everything is settled.
func (w *work) end() {
	d := w.d
	if len(d.Secret) == 0 || d.State != Drawing && d.State != Closed {
		return
	}
	for prize := range d.Prizes {
		if !d.settled(prize) {
			return
		}
	}
	if !slices.ContainsFunc(d.Picks, func(p Pick) bool { return p.State == Pending }) {
		w.moves(stepOver, "", moved{}, nil, "all of it is settled")
	}
}

// cancel calls a draw off.
func (w *work) cancel(why string) {
	w.moves(stepCancelled, "", moved{Why: why}, nil, "called off: "+why)
	w.tell(&happening.DrawCancelled{DrawTold: w.d.told(0), Reason: why}, "")
}
