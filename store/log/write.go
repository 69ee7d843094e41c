package log

import (
	"cmp"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"vividporch/core/hall"
	"vividporch/core/happening"
	"vividporch/store/pg"
)

// writer writes what a batch holds into the log.
type writer struct{ pg.Tx }

// insertion is rows to be written, by column, many at once.
type insertion struct {
	table, columns string
	types          []string
	rows           []any // an array a column
	n              int
}

// sql is the statement, with the channel as $1 and the columns from the argument first on. held
// is what must hold beside, in words of SQL.
func (x *insertion) sql(first int, held string) string {
	arrays := make([]string, len(x.types))
	for i, t := range x.types {
		arrays[i] = fmt.Sprintf("$%d::%s[]", first+i, t)
	}
	return fmt.Sprintf("INSERT INTO %s (channel, %s) SELECT $1, x.* FROM unnest(%s) x%s", x.table, x.columns, strings.Join(arrays, ", "), held)
}

// eventsOf are the events of a batch.
func eventsOf(b *Batch) (insertion, error) {
	n := len(b.Entries)
	seqs, ahead := make([]int64, n), make([]bool, n)
	doors, sources, ids, types, persons, data := make([]string, n), make([]string, n), make([]string, n), make([]string, n), make([]string, n), make([]string, n)
	ext := make([]*string, n)
	times, logged := make([]time.Time, n), make([]time.Time, n)
	for i := range b.Entries {
		e := &b.Entries[i].Event
		raw, err := e.DataJSON()
		if err != nil {
			return insertion{}, err
		}
		seqs[i], doors[i], sources[i], ids[i], types[i], times[i], logged[i], ahead[i], data[i] = e.Seq, e.Door, e.Source, e.ID, e.Type, e.Time, e.Logged, e.Ahead, string(raw)
		if who := e.Who(); who != nil {
			persons[i] = who.Key()
		}
		if len(e.Ext) > 0 {
			ext[i] = new(string(e.Ext))
		}
	}
	return insertion{table: "events", columns: "seq, door, source, id, type, time, logged, ahead, person, data, ext", n: n,
		types: []string{"bigint", "text", "text", "text", "text", "timestamptz", "timestamptz", "bool", "text", "json", "json"},
		rows:  []any{seqs, doors, sources, ids, types, times, logged, ahead, persons, data, ext}}, nil
}

// decisionsOf are what was decided in a batch, the lines of it that are to be said, and the
// lines that have been.
func decisionsOf(b *Batch) (decisions, speech insertion, doneLines, donePlatforms []string, err error) {
	var seqs, saySeqs []int64
	var ns []int32
	var kinds, courtesies, slots, lines, persons, bodies, sayLines, sayPlatforms, sayTexts []string
	for i := range b.Entries {
		en := &b.Entries[i]
		for n := range en.Decisions {
			d := &en.Decisions[n]
			raw, err := json.Marshal(d)
			if err != nil {
				return decisions, speech, nil, nil, err
			}
			seqs, ns = append(seqs, en.Event.Seq), append(ns, int32(n))
			kinds, courtesies, slots = append(kinds, string(d.Kind)), append(courtesies, d.Courtesy), append(slots, d.Slot())
			lines, persons, bodies = append(lines, d.Line), append(persons, d.Person), append(bodies, string(raw))
			if d.Kind == hall.Say {
				sayLines, sayPlatforms, sayTexts, saySeqs = append(sayLines, d.Line), append(sayPlatforms, d.Platform), append(sayTexts, d.Text), append(saySeqs, en.Event.Seq)
			}
		}
		if o, is := en.Event.Data.(interface {
			Ended() (line, platform string)
		}); is {
			line, platform := o.Ended()
			for n := range sayLines {
				if sayLines[n] == line && sayPlatforms[n] == platform { // said and heard of in one batch
					sayLines, sayPlatforms = slices.Delete(sayLines, n, n+1), slices.Delete(sayPlatforms, n, n+1)
					sayTexts, saySeqs = slices.Delete(sayTexts, n, n+1), slices.Delete(saySeqs, n, n+1)
					break
				}
			}
			doneLines, donePlatforms = append(doneLines, line), append(donePlatforms, platform)
		}
	}
	decisions = insertion{table: "decisions", columns: "seq, n, kind, courtesy, slot, line, person, body", n: len(seqs),
		types: []string{"bigint", "int", "text", "text", "text", "text", "text", "json"}, rows: []any{seqs, ns, kinds, courtesies, slots, lines, persons, bodies}}
	speech = insertion{table: "speech", columns: "line, platform, text, seq", n: len(sayLines),
		types: []string{"text", "text", "text", "bigint"}, rows: []any{sayLines, sayPlatforms, sayTexts, saySeqs}}
	return decisions, speech, doneLines, donePlatforms, nil
}

// held holds while the channel is held under an epoch, its argument. Whoever takes the channel
// over waits for the statement, or this finds that they have.
const held = ", (SELECT 1 FROM owners WHERE channel = $1 AND epoch = $%d FOR SHARE) o"

// unsay takes lines out of those that are still to be said.
const unsay = "DELETE FROM speech USING unnest($%d::text[], $%d::text[]) AS d(line, platform) WHERE speech.channel = $1 AND speech.line = d.line AND speech.platform = d.platform"

func (w writer) insert(x *insertion) error {
	if x.n == 0 {
		return nil
	}
	return w.Exec(x.sql(2, ""), slices.Concat([]any{w.Channel}, x.rows)...)
}

// all writes a batch.
func (w writer) all(b *Batch) error {
	switch {
	case b.linesAlone():
		return w.events(b)
	case b.oneStatement():
		return w.atOnce(b)
	}
	for _, step := range []func(*Batch) error{w.events, w.decisions, w.streams, w.rest} {
		if err := step(b); err != nil {
			return err
		}
	}
	return nil
}

func (w writer) events(b *Batch) error {
	x, err := eventsOf(b)
	if err != nil || b.Epoch == 0 {
		return cmp.Or(err, w.insert(&x))
	}
	args := slices.Concat([]any{w.Channel}, x.rows, []any{b.Epoch})
	res, err := w.SQL.ExecContext(w.Ctx, x.sql(2, fmt.Sprintf(held, len(args))), args...)
	if err != nil {
		return err
	}
	if written, err := res.RowsAffected(); err != nil || written == 0 {
		return cmp.Or(err, ErrHeld)
	}
	return nil
}

func (w writer) decisions(b *Batch) error {
	decisions, speech, lines, platforms, err := decisionsOf(b)
	if err != nil {
		return err
	}
	for _, x := range []*insertion{&decisions, &speech} {
		if err := w.insert(x); err != nil {
			return err
		}
	}
	if len(lines) > 0 {
		return w.Exec(fmt.Sprintf(unsay, 2, 3), w.Channel, lines, platforms)
	}
	return nil
}

// atOnce writes events and decisions in one statement: each way to the database and back is a
// good part of what a reply takes.
func (w writer) atOnce(b *Batch) error {
	events, err := eventsOf(b)
	if err != nil {
		return err
	}
	decisions, speech, lines, platforms, err := decisionsOf(b)
	if err != nil {
		return err
	}
	args := slices.Concat([]any{w.Channel}, events.rows, []any{b.Epoch}, decisions.rows, speech.rows, []any{lines, platforms})
	at := 2 + len(events.rows)
	const written = " WHERE EXISTS (SELECT 1 FROM e)"
	q := "WITH e AS (" + events.sql(2, fmt.Sprintf(held, at)) + " RETURNING 1), d AS (" + decisions.sql(at+1, written) + "), s AS (" + speech.sql(at+1+len(decisions.rows), written) + "), u AS (" +
		fmt.Sprintf(unsay, len(args)-1, len(args)) + " AND EXISTS (SELECT 1 FROM e)) SELECT count(*) FROM e"
	var n int
	if err := w.SQL.QueryRowContext(w.Ctx, q, args...).Scan(&n); err != nil || n == 0 {
		return cmp.Or(err, ErrHeld)
	}
	return nil
}

func (w writer) streams(b *Batch) error {
	for i := range b.Entries {
		for _, d := range b.Entries[i].Decisions {
			var err error
			switch d.Kind {
			case hall.Open:
				err = w.Exec(`INSERT INTO streams (channel, number, opened) VALUES ($1,$2,$3) ON CONFLICT (channel, number) DO NOTHING`, w.Channel, d.Stream, d.At)
			case hall.Continue:
				err = w.Exec(`UPDATE streams SET closed = NULL WHERE channel = $1 AND number = $2`, w.Channel, d.Stream)
			case hall.Close:
				err = w.Exec(`UPDATE streams SET closed = $3 WHERE channel = $1 AND number = $2`, w.Channel, d.Stream, d.At)
			}
			if err != nil {
				return err
			}
		}
		if told, _ := happening.OfTheStream(b.Entries[i].Event.Data); told.Title != "" { // a stream is known by what it was called last
			if err := w.Exec(`UPDATE streams SET title = $2 WHERE channel = $1 AND closed IS NULL AND title <> $2`, w.Channel, told.Title); err != nil {
				return err
			}
		}
	}
	return nil
}

func (w writer) rest(b *Batch) error {
	for _, v := range b.Settings {
		if err := w.Exec(`INSERT INTO settings_versions (channel, version, base, member, account, what, at, doc) VALUES ($1,$2,$3,$4,$5,$6,$7,$8)`,
			w.Channel, v.Version, v.Base, v.Member, v.Account, v.What, v.At, string(v.Doc)); err != nil {
			return err
		}
	}
	return nil
}
