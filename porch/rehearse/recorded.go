package rehearse

import (
	"context"
	"errors"
	"maps"
	"slices"
	"time"

	"vividporch/core/attendance"
	"vividporch/core/card"
	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/core/house"
	"vividporch/core/lookback"
	"vividporch/core/people"
	"vividporch/core/rehearsal"
	"vividporch/store/log"
	"vividporch/store/pg"
)

// A stream that cannot be rehearsed, and why.
var (
	ErrNone    = errors.New("there is no such stream in the log")
	ErrBlanked = errors.New("what was said in it is not kept any more")
)

// recorded is a stream as it can be lived again: the evening, what was said and done in it,
// and the version of the settings that was in force when it opened.
type recorded struct {
	evening *rehearsal.Evening
	lived   *rehearsal.Lived
	version int64
}

// record reads a stream of the log; at is told how far it is.
func (r *Rehearser) record(ctx context.Context, number int, at func(float64)) (*recorded, error) {
	past, err := r.cfg.Store.Book.Streams(ctx, r.cfg.Channel)
	if err != nil {
		return nil, err
	}
	i := slices.IndexFunc(past, func(p attendance.Past) bool { return p.Number == number })
	if i < 0 {
		return nil, ErrNone
	}
	rec, err := r.cfg.Store.Log.Stream(ctx, r.cfg.Channel, number, past[i].Opened)
	if errors.Is(err, pg.ErrNone) {
		return nil, ErrNone
	}
	if err != nil {
		return nil, err
	}
	if rec.Blanked {
		return nil, ErrBlanked
	}
	at(0.1)
	from, err := r.cfg.Store.Log.StateBefore(ctx, r.cfg.Channel, rec.First, func(int) { at(0.15) })
	if err != nil {
		return nil, err
	}
	at(0.2)
	out := &recorded{evening: &rehearsal.Evening{Book: rehearsal.NewBook(), From: from, Until: rec.Until}, version: max(1, from.Settings)}
	out.evening.Script, out.evening.Told, out.evening.Answers = reads(rec.Entries)
	out.lived = livedAs(rec.Entries, rec.Until)
	b := out.evening.Book
	b.Streams, b.LastStream = past[:i], number-1
	if b.People, err = r.guests(ctx, rec.Entries, rec.First, number, past[i].Opened); err != nil {
		return nil, err
	}
	b.Fetches()
	at(0.3)
	return out, nil
}

// reads is what a rehearsal takes from a log: what came from outside and from members, what
// the house was told of people, and what was answered.
func reads(entries []log.Entry) (script []event.Event, told map[string]*people.Known, answers map[string]*rehearsal.Answered) {
	told, answers = map[string]*people.Known{}, map[string]*rehearsal.Answered{}
	asked := map[string]time.Time{}
	for i := range entries {
		ev := entries[i].Event
		if a, ok := ev.Data.(*event.LookupAnswered); ok {
			if at, ok := asked[a.Ask]; ok {
				answers[a.Ask] = &rehearsal.Answered{Event: ev, After: ev.Logged.Sub(at)}
			}
		}
		who := ev.Who()
		for k := range entries[i].Decisions {
			d := &entries[i].Decisions[k]
			if d.Kind == hall.Ask {
				asked[d.Line] = ev.Logged
				answers[d.Line] = nil
			}
			if who != nil && d.Known != nil && d.Person == who.Key() {
				told[ev.Key()] = d.Known
			}
		}
		script = append(script, ev)
	}
	return script, told, answers
}

// livedAs is what was said and done in a stream, as the log has it.
func livedAs(entries []log.Entry, until time.Time) *rehearsal.Lived {
	out := &rehearsal.Lived{}
	reader := lookback.New("")
	for i := range entries {
		en := &entries[i]
		if en.Event.Logged.After(until) {
			break
		}
		reader.Take(&en.Event, en.Decisions)
		for k := range en.Decisions {
			if e, ok := rehearsal.EffectOf(&en.Event, &en.Decisions[k]); ok {
				out.Effects = append(out.Effects, e)
			}
			if en.Decisions[k].Kind == hall.Open {
				out.Streams++
			}
		}
	}
	out.Evening = reader.Evening()
	return out
}

// guests are the people of a stream as the book had them when it opened: whoever does something
// in it, and whoever its lines may mean. first is the number of its first event; 0 for one that
// is none of the log's.
func (r *Rehearser) guests(ctx context.Context, entries []log.Entry, first int64, number int, opened time.Time) ([]card.Card, error) {
	plan := r.cfg.Plan()
	seen, meant := map[string]event.Person{}, map[string]bool{}
	for i := range entries {
		ev := &entries[i].Event
		if who := ev.Who(); who != nil {
			seen[who.Key()] = *who
		}
		if name := house.Means(plan, ev); name != "" {
			meant[name] = true
		}
		if g, ok := ev.Data.(*happening.Gifted); ok {
			for _, to := range g.To {
				seen[to.Key()] = to
			}
		}
	}
	persons := map[int64]bool{}
	list := make([]event.Person, 0, len(seen))
	for _, key := range slices.Sorted(maps.Keys(seen)) {
		list = append(list, seen[key])
	}
	for part := range slices.Chunk(list, 500) {
		known, _, err := r.cfg.Store.Book.Known(ctx, r.cfg.Channel, part, number)
		if err != nil {
			return nil, err
		}
		for _, k := range known {
			persons[k.Person] = true
		}
	}
	for _, name := range slices.Sorted(maps.Keys(meant)) {
		named, err := r.cfg.Store.Book.Called(ctx, r.cfg.Channel, name, number)
		if err != nil {
			return nil, err
		}
		for _, n := range named {
			if n.Known != nil {
				persons[n.Known.Person] = true
			}
		}
	}
	if len(persons) == 0 {
		return nil, nil
	}
	ids := slices.Sorted(maps.Keys(persons))
	var out []card.Card
	var accounts []string
	take := func(c *card.Card) error {
		c.AsOf(number, opened)
		if len(c.Accounts) > 0 {
			out, accounts = append(out, *c), append(accounts, c.Keys()...)
		}
		return nil
	}
	if first == 0 {
		return out, r.cfg.Store.Find.Cards(ctx, r.cfg.Channel, ids, func(_ int64, _ string, c *card.Card) error { return take(c) })
	}
	if err := r.cfg.Store.Find.CardsBefore(ctx, r.cfg.Channel, first, ids, take); err != nil {
		return nil, err
	}
	kept, err := r.cfg.Store.Log.KeptBefore(ctx, r.cfg.Channel, first, accounts)
	if err != nil {
		return nil, err
	}
	for i := range out {
		for k := range out[i].Accounts {
			a := &out[i].Accounts[k]
			for room := range a.Kept { // what is kept by now is of later
				if was := kept[a.Key()][room]; was != nil {
					a.Kept[room] = was
				} else {
					delete(a.Kept, room)
				}
			}
		}
	}
	return out, nil
}
