package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"gorm.io/gorm"

	"vividporch/core/event"
	"vividporch/core/house"
)

// Entry is an event with what was decided about it.
type Entry struct {
	Event     event.Event
	Decisions []house.Decision
	Stream    int // the stream the event's time falls in; 0 for none
}

// Batch is what one transaction writes.
type Batch struct {
	Entries   []Entry
	Fresh     map[string]int64       // accounts seen for the first time → their person
	Unsettled map[string]bool        // accounts that are fresh, renamed, or not seen in this stream yet
	Settings  []SettingsVersion      // that came into force
	Jobs      func(tx *sql.Tx) error // adds jobs in the same transaction; may be nil
}

// Commit writes a batch in one transaction. When it returns an error the batch
// may still have been written (the answer to the commit was lost): Written tells.
func (s *Store) Commit(ctx context.Context, channel int64, b *Batch) error {
	return s.DB.WithContext(ctx).Transaction(func(g *gorm.DB) error {
		tx, ok := g.Statement.ConnPool.(*sql.Tx)
		if !ok {
			return fmt.Errorf("store: no transaction of database/sql beneath")
		}
		w := writer{ctx, tx, channel}
		for _, step := range []func(*Batch) error{w.events, w.decisions, w.people, w.streams, w.rest} {
			if err := step(b); err != nil {
				return err
			}
		}
		if b.Jobs != nil {
			return b.Jobs(tx)
		}
		return nil
	})
}

// SaveSnapshot keeps a state that the log has reached. It may come after the
// commit: without it a restart evolves a little longer.
func (s *Store) SaveSnapshot(ctx context.Context, snap Snapshot) error {
	_, err := s.SQL.ExecContext(ctx, `INSERT INTO snapshots (channel, seq, state, taken) VALUES ($1,$2,$3,now()) ON CONFLICT DO NOTHING`, snap.Channel, snap.Seq, string(snap.State))
	return err
}

// Written reports whether an event stands in the log under its number.
func (s *Store) Written(ctx context.Context, channel int64, ev *event.Event) (bool, error) {
	var id string
	err := s.SQL.QueryRowContext(ctx, "SELECT id FROM events WHERE channel = $1 AND seq = $2", channel, ev.Seq).Scan(&id)
	if err == sql.ErrNoRows {
		return false, nil
	}
	return err == nil && id == ev.ID, err
}

type writer struct {
	ctx     context.Context
	tx      *sql.Tx
	channel int64
}

func (w writer) exec(q string, args ...any) error {
	_, err := w.tx.ExecContext(w.ctx, q, args...)
	return err
}

func (w writer) events(b *Batch) error {
	n := len(b.Entries)
	seqs, ahead := make([]int64, n), make([]bool, n)
	doors, sources, ids, types, persons, data := make([]string, n), make([]string, n), make([]string, n), make([]string, n), make([]string, n), make([]string, n)
	times, logged := make([]time.Time, n), make([]time.Time, n)
	for i := range b.Entries {
		e := &b.Entries[i].Event
		raw, err := e.DataJSON()
		if err != nil {
			return err
		}
		seqs[i], doors[i], sources[i], ids[i], types[i], times[i], logged[i], ahead[i], data[i] = e.Seq, e.Door, e.Source, e.ID, e.Type, e.Time, e.Logged, e.Ahead, string(raw)
		if who := e.Who(); who != nil {
			persons[i] = who.Key()
		}
	}
	return w.exec(`INSERT INTO events (channel, seq, door, source, id, type, time, logged, ahead, person, data)
		SELECT $1, * FROM unnest($2::bigint[], $3::text[], $4::text[], $5::text[], $6::text[], $7::timestamptz[], $8::timestamptz[], $9::bool[], $10::text[], $11::json[])`,
		w.channel, seqs, doors, sources, ids, types, times, logged, ahead, persons, data)
}

func (w writer) decisions(b *Batch) error {
	var seqs []int64
	var ns []int32
	var kinds, courtesies, slots, lines, persons, bodies []string
	var sayLine, sayPlatform, sayText []string
	var saySeq []int64
	var doneLine, donePlatform []string
	for i := range b.Entries {
		en := &b.Entries[i]
		for n := range en.Decisions {
			d := &en.Decisions[n]
			raw, err := json.Marshal(d)
			if err != nil {
				return err
			}
			seqs, ns = append(seqs, en.Event.Seq), append(ns, int32(n))
			kinds, courtesies, slots = append(kinds, string(d.Kind)), append(courtesies, d.Courtesy), append(slots, d.Slot())
			lines, persons, bodies = append(lines, d.Line), append(persons, d.Person), append(bodies, string(raw))
			if d.Kind == house.Say {
				sayLine, sayPlatform, sayText, saySeq = append(sayLine, d.Line), append(sayPlatform, d.Platform), append(sayText, d.Text), append(saySeq, en.Event.Seq)
			}
		}
		switch o := en.Event.Data.(type) {
		case *event.SpeechSaid:
			doneLine, donePlatform = append(doneLine, o.Line), append(donePlatform, o.Platform)
		case *event.SpeechRefused:
			doneLine, donePlatform = append(doneLine, o.Line), append(donePlatform, o.Platform)
		case *event.SpeechUncertain:
			doneLine, donePlatform = append(doneLine, o.Line), append(donePlatform, o.Platform)
		}
	}
	if len(seqs) > 0 {
		if err := w.exec(`INSERT INTO decisions (channel, seq, n, kind, courtesy, slot, line, person, body)
			SELECT $1, * FROM unnest($2::bigint[], $3::int[], $4::text[], $5::text[], $6::text[], $7::text[], $8::text[], $9::json[])`,
			w.channel, seqs, ns, kinds, courtesies, slots, lines, persons, bodies); err != nil {
			return err
		}
	}
	if len(sayLine) > 0 {
		if err := w.exec(`INSERT INTO speech (channel, line, platform, text, seq) SELECT $1, * FROM unnest($2::text[], $3::text[], $4::text[], $5::bigint[])`,
			w.channel, sayLine, sayPlatform, sayText, saySeq); err != nil {
			return err
		}
	}
	if len(doneLine) > 0 {
		return w.exec(`DELETE FROM speech USING unnest($2::text[], $3::text[]) AS d(line, platform)
			WHERE speech.channel = $1 AND speech.line = d.line AND speech.platform = d.platform`, w.channel, doneLine, donePlatform)
	}
	return nil
}

// touch is what a batch changes about one account.
type touch struct {
	p           *event.Person
	first, last time.Time
	lines       int64
	raids       int64
	followed    *time.Time
	named       bool
}

type visitKey struct {
	key    string
	stream int
}

func (w writer) people(b *Batch) error {
	touched := map[string]*touch{}
	visits := map[visitKey]*touch{}
	var raids []Raid
	note := func(m *touch, e *event.Event) {
		if m.first.IsZero() || e.Time.Before(m.first) {
			m.first = e.Time
		}
		if e.Time.After(m.last) {
			m.last = e.Time
		}
	}
	for i := range b.Entries {
		en := &b.Entries[i]
		e := &en.Event
		who := e.Who()
		if who == nil || event.IsOwn(e.Type) {
			continue
		}
		t := touched[who.Key()]
		if t == nil {
			t = &touch{}
			touched[who.Key()] = t
		}
		t.p = who
		note(t, e)
		counts := true
		switch d := e.Data.(type) {
		case *event.ChatSaid:
			t.lines++
		case *event.RaidCame:
			t.raids++
			raids = append(raids, Raid{Seq: e.Seq, Key: who.Key(), Stream: en.Stream, Way: "came", Viewers: d.Viewers, At: e.Time})
		case *event.RaidWent:
			raids = append(raids, Raid{Seq: e.Seq, Key: who.Key(), Stream: en.Stream, Way: "went", Viewers: d.Viewers, At: e.Time})
			counts = false
		case *event.PersonFollowed:
			at := e.Time
			t.followed = &at
		case *event.Subscribed, *event.Gifted, *event.Tipped, *event.Credits:
		default: // presence and the like is no visit
			counts = false
		}
		if en.Stream > 0 && counts {
			k := visitKey{who.Key(), en.Stream}
			v := visits[k]
			if v == nil {
				v = &touch{}
				visits[k] = v
			}
			note(v, e)
			if _, ok := e.Data.(*event.ChatSaid); ok {
				v.lines++
			}
		}
	}
	if len(touched) == 0 {
		return nil
	}
	settled, other := map[string]*touch{}, map[string]*touch{}
	for k, t := range touched {
		if b.Unsettled[k] || t.raids > 0 || t.followed != nil {
			other[k] = t
		} else {
			settled[k] = t
		}
	}
	if err := w.further(settled); err != nil {
		return err
	}
	if err := w.accounts(other, b.Fresh); err != nil {
		return err
	}
	if err := w.visits(visits); err != nil {
		return err
	}
	for _, r := range raids {
		if err := w.exec(`INSERT INTO raids (channel, seq, key, stream, way, viewers, at) VALUES ($1,$2,$3,$4,$5,$6,$7)`,
			w.channel, r.Seq, r.Key, r.Stream, r.Way, r.Viewers, r.At); err != nil {
			return err
		}
	}
	return nil
}

// further counts lines of accounts about which nothing else is new: nearly all
// there are.
func (w writer) further(touched map[string]*touch) error {
	if len(touched) == 0 {
		return nil
	}
	keys := slices.Sorted(maps.Keys(touched))
	last, lines := make([]time.Time, len(keys)), make([]int64, len(keys))
	for i, k := range keys {
		last[i], lines[i] = touched[k].last, touched[k].lines
	}
	return w.exec(`UPDATE accounts a SET last_seen = greatest(a.last_seen, u.last), lines = a.lines + u.lines
		FROM unnest($2::text[], $3::timestamptz[], $4::bigint[]) AS u(key, last, lines) WHERE a.channel = $1 AND a.key = u.key`, w.channel, keys, last, lines)
}

func (w writer) accounts(touched map[string]*touch, fresh map[string]int64) error {
	if len(touched) == 0 {
		return nil
	}
	keys := slices.Sorted(maps.Keys(touched)) // one order for everybody keeps row locks from crossing
	n := len(keys)
	persons, lines, raids := make([]int64, n), make([]int64, n), make([]int64, n)
	platforms, ids, logins, names, roles := make([]string, n), make([]string, n), make([]string, n), make([]string, n), make([]string, n)
	first, last, followed := make([]time.Time, n), make([]time.Time, n), make([]*time.Time, n)
	var newPersons []int64
	for i, k := range keys {
		t := touched[k]
		persons[i], lines[i], raids[i] = fresh[k], t.lines, t.raids
		platforms[i], ids[i], logins[i], names[i] = t.p.Platform, t.p.ID, t.p.Login, t.p.Shown()
		var rs []string
		for _, r := range t.p.Roles {
			rs = append(rs, string(r))
		}
		roles[i] = strings.Join(rs, ",")
		first[i], last[i], followed[i] = t.first, t.last, t.followed
		if id, ok := fresh[k]; ok {
			newPersons = append(newPersons, id)
		}
	}
	if len(newPersons) > 0 {
		if err := w.exec(`INSERT INTO people (channel, id, created) SELECT $1, unnest($2::bigint[]), now() ON CONFLICT DO NOTHING`, w.channel, newPersons); err != nil {
			return err
		}
	}
	// A new name is kept with its date before the account takes it.
	if err := w.exec(`INSERT INTO account_names (channel, key, since, login, name)
		SELECT $1, n.key, n.at, n.login, n.name FROM unnest($2::text[], $3::timestamptz[], $4::text[], $5::text[]) AS n(key, at, login, name)
		LEFT JOIN accounts a ON a.channel = $1 AND a.key = n.key
		WHERE a.key IS NULL OR a.login <> n.login OR a.name <> n.name ON CONFLICT DO NOTHING`, w.channel, keys, first, logins, names); err != nil {
		return err
	}
	return w.exec(`INSERT INTO accounts (channel, key, person, platform, id, login, name, roles, first_seen, last_seen, lines, raids, followed)
		SELECT $1, * FROM unnest($2::text[], $3::bigint[], $4::text[], $5::text[], $6::text[], $7::text[], $8::text[], $9::timestamptz[], $10::timestamptz[], $11::bigint[], $12::bigint[], $13::timestamptz[])
		ON CONFLICT (channel, key) DO UPDATE SET login = excluded.login, name = excluded.name, roles = excluded.roles,
			first_seen = least(accounts.first_seen, excluded.first_seen), last_seen = greatest(accounts.last_seen, excluded.last_seen),
			lines = accounts.lines + excluded.lines, raids = accounts.raids + excluded.raids,
			followed = coalesce(least(accounts.followed, excluded.followed), accounts.followed, excluded.followed)`,
		w.channel, keys, persons, platforms, ids, logins, names, roles, first, last, lines, raids, followed)
}

func (w writer) visits(visits map[visitKey]*touch) error {
	if len(visits) == 0 {
		return nil
	}
	ks := make([]visitKey, 0, len(visits))
	for k := range visits {
		ks = append(ks, k)
	}
	slices.SortFunc(ks, func(a, b visitKey) int {
		if c := strings.Compare(a.key, b.key); c != 0 {
			return c
		}
		return a.stream - b.stream
	})
	n := len(ks)
	keys, streams, lines := make([]string, n), make([]int32, n), make([]int64, n)
	first, last := make([]time.Time, n), make([]time.Time, n)
	for i, k := range ks {
		v := visits[k]
		keys[i], streams[i], lines[i], first[i], last[i] = k.key, int32(k.stream), v.lines, v.first, v.last
	}
	// xmax is 0 for a row that was inserted, not updated: those are new visits.
	return w.exec(`WITH v AS (INSERT INTO visits (channel, key, stream, lines, first, last)
		SELECT $1, * FROM unnest($2::text[], $3::int[], $4::bigint[], $5::timestamptz[], $6::timestamptz[])
		ON CONFLICT (channel, key, stream) DO UPDATE SET lines = visits.lines + excluded.lines,
			first = least(visits.first, excluded.first), last = greatest(visits.last, excluded.last)
		RETURNING key, (xmax = 0) AS fresh)
		UPDATE accounts a SET streams = a.streams + 1 FROM (SELECT key, count(*) FROM v WHERE fresh GROUP BY key) f WHERE a.channel = $1 AND a.key = f.key`,
		w.channel, keys, streams, lines, first, last)
}

func (w writer) streams(b *Batch) error {
	for i := range b.Entries {
		for _, d := range b.Entries[i].Decisions {
			var err error
			switch d.Kind {
			case house.Open:
				title := ""
				if o, ok := b.Entries[i].Event.Data.(*event.StreamOpened); ok {
					title = o.Title
				}
				err = w.exec(`INSERT INTO streams (channel, number, opened, title) VALUES ($1,$2,$3,$4) ON CONFLICT (channel, number) DO NOTHING`, w.channel, d.Stream, d.At, title)
			case house.Continue:
				err = w.exec(`UPDATE streams SET closed = NULL WHERE channel = $1 AND number = $2`, w.channel, d.Stream)
			case house.Close:
				err = w.exec(`UPDATE streams SET closed = $3 WHERE channel = $1 AND number = $2`, w.channel, d.Stream, d.At)
			}
			if err != nil {
				return err
			}
		}
	}
	return nil
}

func (w writer) rest(b *Batch) error {
	for _, v := range b.Settings {
		if err := w.exec(`INSERT INTO settings_versions (channel, version, base, member, what, at, doc) VALUES ($1,$2,$3,$4,$5,$6,$7)`,
			w.channel, v.Version, v.Base, v.Member, v.What, v.At, string(v.Doc)); err != nil {
			return err
		}
	}
	return nil
}
