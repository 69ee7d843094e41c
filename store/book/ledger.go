package book

import (
	"maps"
	"slices"
	"time"

	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/points"
	"vividporch/store/log"
	"vividporch/store/record"
	"vividporch/store/tables"
)

// points gathers what a decision writes into the ledger; n is its place in its event.
func (g *gathered) points(e *event.Event, d *hall.Decision, n int) {
	if _, resets := e.Data.(*event.PointsReset); resets && d.Kind == hall.Note && d.Room == points.Name {
		g.reset = true
	}
	entry, ok := points.EntryOf(d)
	if !ok {
		return
	}
	add := func(key string, amount int64) {
		if key != "" {
			g.ledger = append(g.ledger, tables.Ledger{Seq: e.Seq, N: n, Key: key, Amount: amount, Why: d.Output, Of: event.Cut(entry.For, 300), At: e.Logged})
		}
	}
	if d.Person != "" {
		add(d.Person, entry.Amount)
	}
	for _, key := range slices.Sorted(maps.Keys(entry.Amounts)) {
		add(key, entry.Amounts[key])
	}
}

// ledger writes the entries down, and what their persons have by now.
func (w writer) ledger(g *gathered, b *log.Batch) error {
	if b.Reckoning.Points == nil {
		return nil
	}
	if list := g.ledger; len(list) > 0 {
		seqs, ns, keys, amounts, whys, ofs, at := make([]int64, len(list)), make([]int64, len(list)), make([]string, len(list)), make([]int64, len(list)), make([]string, len(list)), make([]string, len(list)), make([]time.Time, len(list))
		for i, l := range list {
			seqs[i], ns[i], keys[i], amounts[i], whys[i], ofs[i], at[i] = l.Seq, int64(l.N), l.Key, l.Amount, l.Why, l.Of, l.At
		}
		if err := w.Exec(`INSERT INTO ledger (channel, seq, n, key, amount, why, of, at) SELECT $1, * FROM unnest($2::bigint[], $3::bigint[], $4::text[], $5::bigint[], $6::text[], $7::text[], $8::timestamptz[]) ON CONFLICT DO NOTHING`,
			w.Channel, seqs, ns, keys, amounts, whys, ofs, at); err != nil {
			return err
		}
	}
	if g.reset {
		return record.AllRanks(w.Ctx, w.SQL, w.Channel, *b.Reckoning.Points)
	}
	var keys []string
	for key, rooms := range g.kept {
		if rooms[points.Name] != nil {
			keys = append(keys, key)
		}
	}
	slices.Sort(keys)
	return record.Ranks(w.Ctx, w.SQL, w.Channel, *b.Reckoning.Points, nil, keys)
}
