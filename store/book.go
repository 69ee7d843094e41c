package store

import (
	"cmp"
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"

	"gorm.io/gorm"

	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/people"
)

// book applies what members, and people in chat, did to the guest book.
func (w writer) book(b *Batch) error {
	var stale []int64
	for i := range b.Entries {
		en := &b.Entries[i]
		touched, err := w.bookEvent(&en.Event)
		if err != nil {
			return fmt.Errorf("store: event %d: %w", en.Event.Seq, err)
		}
		stale = append(stale, touched...)
	}
	if err := refresh(w.ctx, w.tx, w.channel, &b.Reckoning, stale, nil); err != nil {
		return err
	}
	for i := range b.Entries {
		for _, d := range b.Entries[i].Decisions {
			if d.Kind == hall.Forget {
				if _, err := w.forgetAccounts(append([]string{d.Person}, d.Known.Accounts...), b, b.Entries[i].Event.Seq); err != nil {
					return err
				}
			}
		}
		if f, ok := b.Entries[i].Event.Data.(*event.BookForgotten); ok {
			anon, err := w.forgetAccounts(f.Keys, b, b.Entries[i].Event.Seq)
			if err != nil {
				return err
			}
			raw, err := json.Marshal(event.BookForgotten{Person: f.Person, Anon: anon, Member: f.Member})
			if err != nil {
				return err
			}
			if err := w.exec(`UPDATE events SET data = $3 WHERE channel = $1 AND seq = $2`, w.channel, b.Entries[i].Event.Seq, string(raw)); err != nil {
				return err
			}
		}
	}
	return nil
}

// bookEvent applies one event and tells whose rows are stale now.
func (w writer) bookEvent(e *event.Event) ([]int64, error) {
	switch d := e.Data.(type) {
	case *event.BookEdited:
		if d.Undoes > 0 {
			return w.undoEdit(e, d)
		}
		return d.Persons, w.edit(e, d.Persons, d.Edit, d.Member)
	case *event.BookMerged:
		for _, q := range []string{
			`UPDATE people SET merged_into = $2 WHERE channel = $1 AND id = $3 AND root = id`,
			`UPDATE accounts SET person = $2 WHERE channel = $1 AND person = $3`,
			`UPDATE people SET root = $2 WHERE channel = $1 AND root = $3`,
		} {
			if err := w.exec(q, w.channel, d.Kept, d.Gone); err != nil {
				return nil, err
			}
		}
		return []int64{d.Kept, d.Gone}, nil
	case *event.BookParted:
		return w.part(d.Part)
	case *event.BookLinked: // one account is one member's
		return nil, w.exec(`UPDATE members SET account = CASE WHEN lower(name) = lower($2) THEN $3 ELSE '' END WHERE channel = $1 AND (lower(name) = lower($2) OR $3 <> '' AND account = $3)`, w.channel, d.Of, d.Account)
	case *event.BookCrewed:
		return w.crew(e, d)
	}
	return nil, nil
}

// treeOf reads the hands of the records that are found under persons, the kept one
// of each first.
func (w writer) treeOf(persons []int64) (map[int64][]handRow, error) {
	rows, err := w.tx.QueryContext(w.ctx, `SELECT root, id, hand FROM people WHERE channel = $1 AND root = ANY($2::bigint[]) ORDER BY root, id <> root, id`, w.channel, persons)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := map[int64][]handRow{}
	for rows.Next() {
		var root int64
		var h handRow
		var raw []byte
		if err := rows.Scan(&root, &h.ID, &raw); err != nil {
			return nil, err
		}
		if err := json.Unmarshal(raw, &h.Hand); err != nil {
			return nil, err
		}
		out[root] = append(out[root], h)
	}
	return out, rows.Err()
}

// edit makes one edit on many people and keeps what takes it back.
func (w writer) edit(e *event.Event, persons []int64, edit event.Edit, member string) error {
	for part := range slices.Chunk(persons, 2000) {
		trees, err := w.treeOf(part)
		if err != nil {
			return err
		}
		var changes []change
		for _, p := range part {
			var hands []event.Hand
			for _, h := range trees[p] {
				hands = append(hands, h.Hand)
			}
			next, back := people.Apply(edit, hands)
			for i := range next {
				if people.IsNothing(back[i]) {
					continue
				}
				mine := edit
				if i > 0 { // fields are set on the kept record only
					mine = event.Edit{DropTags: edit.DropTags, DropCrews: edit.DropCrews, DropRoles: edit.DropRoles}
				}
				changes = append(changes, change{trees[p][i].ID, next[i], mine, back[i]})
			}
		}
		if err := w.change(e, changes, member); err != nil {
			return err
		}
	}
	return nil
}

// change is a new hand of one record, with what led to it and what undoes it.
type change struct {
	ID   int64      `json:"id"`
	Hand event.Hand `json:"hand"`
	Edit event.Edit `json:"edit"`
	Back event.Edit `json:"back"`
}

func (w writer) change(e *event.Event, changes []change, member string) error {
	if len(changes) == 0 {
		return nil
	}
	raw, err := json.Marshal(changes)
	if err != nil {
		return err
	}
	return w.exec(`WITH c AS MATERIALIZED (SELECT * FROM json_to_recordset($2) AS c(id bigint, hand json, edit json, back json)),
		k AS (INSERT INTO book_changes (channel, seq, person, edit, back, member, at) SELECT $1, $3::bigint, id, edit, back, $4::text, $5::timestamptz FROM c)
		UPDATE people p SET hand = c.hand FROM c WHERE p.channel = $1 AND p.id = c.id`, w.channel, string(raw), e.Seq, member, e.Logged)
}

// undoEdit takes an edit back on each record it changed; what was changed again
// since stays.
func (w writer) undoEdit(e *event.Event, d *event.BookEdited) ([]int64, error) {
	rows, err := w.tx.QueryContext(w.ctx, `SELECT c.person, p.root, p.hand, c.edit, c.back FROM book_changes c JOIN people p ON p.channel = c.channel AND p.id = c.person
		WHERE c.channel = $1 AND c.seq = $2 AND NOT c.undone`, w.channel, d.Undoes)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var roots []int64
	var changes []change
	for rows.Next() {
		var id, root int64
		var hand event.Hand
		var edit, back event.Edit
		var raw [3][]byte
		if err := rows.Scan(&id, &root, &raw[0], &raw[1], &raw[2]); err != nil {
			return nil, err
		}
		for i, into := range []any{&hand, &edit, &back} {
			if err := json.Unmarshal(raw[i], into); err != nil {
				return nil, err
			}
		}
		undo := people.Still(edit, back, hand)
		next, again := people.Apply(undo, []event.Hand{hand})
		changes = append(changes, change{id, next[0], undo, again[0]})
		roots = append(roots, root)
	}
	if err := rows.Err(); err != nil {
		return nil, err
	}
	rows.Close()
	if err := w.exec(`UPDATE book_changes SET undone = true WHERE channel = $1 AND seq = $2`, w.channel, d.Undoes); err != nil {
		return nil, err
	}
	return roots, w.change(e, changes, d.Member)
}

// part makes a record one of its own again, with all that was merged into it.
func (w writer) part(id int64) ([]int64, error) {
	var was int64
	if err := w.tx.QueryRowContext(w.ctx, `SELECT root FROM people WHERE channel = $1 AND id = $2`, w.channel, id).Scan(&was); err != nil {
		return nil, err
	}
	for _, q := range []string{
		`UPDATE people SET merged_into = 0 WHERE channel = $1 AND id = $2`,
		`WITH RECURSIVE t AS (SELECT $2::bigint AS id UNION SELECT p.id FROM people p JOIN t ON p.channel = $1 AND p.merged_into = t.id)
			UPDATE people p SET root = $2 FROM t WHERE p.channel = $1 AND p.id = t.id`,
		`UPDATE accounts a SET person = $2 FROM people p WHERE a.channel = $1 AND p.channel = $1 AND p.id = a.home AND p.root = $2 AND a.person <> $2`,
	} {
		if err := w.exec(q, w.channel, id); err != nil {
			return nil, err
		}
	}
	return []int64{was, id}, nil
}

func (w writer) crew(e *event.Event, d *event.BookCrewed) ([]int64, error) {
	if !d.Gone {
		return nil, w.exec(`INSERT INTO crews (channel, id, name, emblem, initials, created) VALUES ($1,$2,$3,$4,$5,$6)
			ON CONFLICT (channel, id) DO UPDATE SET name = excluded.name, emblem = excluded.emblem, initials = excluded.initials`, w.channel, d.ID, d.Name, d.Emblem, d.Initials, e.Logged)
	}
	members, err := w.numbers(`SELECT id FROM people WHERE channel = $1 AND listed AND crews <> '{}' AND crews @> ARRAY[$2::text]`, d.ID)
	if err != nil {
		return nil, err
	}
	if err := w.edit(e, members, event.Edit{DropCrews: []string{d.ID}}, d.Member); err != nil {
		return nil, err
	}
	return members, w.exec(`DELETE FROM crews WHERE channel = $1 AND id = $2`, w.channel, d.ID)
}

// ErrSame says that two records are one already.
var ErrSame = errors.New("these are one record already; choose two different ones")

// KeysOf finds a key of each of some records: of those that are its own the first, else
// of those found under it; "" of one without any. It is what tells them to a rehearsal,
// whose guest book has numbers of its own.
func (s *Store) KeysOf(ctx context.Context, channel int64, records ...int64) ([]string, error) {
	var raw []byte
	err := s.SQL.QueryRowContext(ctx, `SELECT coalesce(json_agg(coalesce((SELECT a.key FROM accounts a WHERE a.channel = $1 AND (a.home = r.id OR a.person = r.id) ORDER BY a.home <> r.id, a.claimed <> '', a.key LIMIT 1), '') ORDER BY r.n), '[]')
		FROM unnest($2::bigint[]) WITH ORDINALITY AS r(id, n)`, channel, records).Scan(&raw)
	if err != nil {
		return nil, err
	}
	var out []string
	return out, json.Unmarshal(raw, &out)
}

// EventID is the id of an event of the log.
func (s *Store) EventID(ctx context.Context, channel, seq int64) (id string, err error) {
	err = s.SQL.QueryRowContext(ctx, "SELECT id FROM events WHERE channel = $1 AND seq = $2", channel, seq).Scan(&id)
	if errors.Is(err, sql.ErrNoRows) {
		return "", ErrNone
	}
	return id, err
}

// Roots finds under which numbers records are found; one that does not exist is
// missing.
func (s *Store) Roots(ctx context.Context, channel int64, ids ...int64) (map[int64]int64, error) {
	rows, err := s.SQL.QueryContext(ctx, `SELECT id, root FROM people WHERE channel = $1 AND id = ANY($2::bigint[])`, channel, ids)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := map[int64]int64{}
	for rows.Next() {
		var id, root int64
		if err := rows.Scan(&id, &root); err != nil {
			return nil, err
		}
		out[id] = root
	}
	return out, rows.Err()
}

// CrewCount is a crew with how many people are in it.
type CrewCount struct {
	Crew
	People int
}

// CrewList lists the crews by name.
func (s *Store) CrewList(ctx context.Context, channel int64) ([]CrewCount, error) {
	rows, err := s.SQL.QueryContext(ctx, `SELECT c.id, c.name, c.emblem, c.initials, (SELECT count(*) FROM people p WHERE p.channel = c.channel AND p.listed AND p.crews <> '{}' AND p.crews @> ARRAY[c.id])
		FROM crews c WHERE c.channel = $1 ORDER BY lower(c.name), c.id`, channel)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := []CrewCount{}
	for rows.Next() {
		var c CrewCount
		if err := rows.Scan(&c.ID, &c.Name, &c.Emblem, &c.Initials, &c.People); err != nil {
			return nil, err
		}
		out = append(out, c)
	}
	return out, rows.Err()
}

// CrewMembers lists who is in which crew.
func (s *Store) CrewMembers(ctx context.Context, channel int64) (map[string][]int64, error) {
	rows, err := s.SQL.QueryContext(ctx, `SELECT c, p.id FROM people p, unnest(p.crews) AS c WHERE p.channel = $1 AND p.listed AND p.crews <> '{}'`, channel)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := map[string][]int64{}
	for rows.Next() {
		var crew string
		var p int64
		if err := rows.Scan(&crew, &p); err != nil {
			return nil, err
		}
		out[crew] = append(out[crew], p)
	}
	return out, rows.Err()
}

// SaveFilter keeps a filter under a name.
func (s *Store) SaveFilter(ctx context.Context, f SavedFilter) error {
	_, err := s.SQL.ExecContext(ctx, `INSERT INTO saved_filters (channel, name, doc) VALUES ($1,$2,$3) ON CONFLICT (channel, name) DO UPDATE SET doc = excluded.doc`, f.Channel, f.Name, string(f.Doc))
	return err
}

// DropFilter forgets a saved filter.
func (s *Store) DropFilter(ctx context.Context, channel int64, name string) error {
	return s.DB.WithContext(ctx).Where("channel = ? AND name = ?", channel, name).Delete(&SavedFilter{}).Error
}

// Filters lists the saved filters by name.
func (s *Store) Filters(ctx context.Context, channel int64) ([]SavedFilter, error) {
	out := []SavedFilter{}
	return out, s.DB.WithContext(ctx).Where("channel = ?", channel).Order("lower(name)").Find(&out).Error
}

// Account finds an account as its platform last told of it; ErrNone when the
// house does not know it.
func (s *Store) Account(ctx context.Context, channel int64, key string) (*event.Person, error) {
	var a Account
	err := s.DB.WithContext(ctx).Where("channel = ? AND key = ?", channel, key).Take(&a).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return nil, ErrNone
	}
	if err != nil {
		return nil, err
	}
	p := &event.Person{Platform: a.Platform, ID: a.ID, Login: a.Login, Name: a.Name}
	for _, r := range strings.Fields(strings.ReplaceAll(a.Roles, ",", " ")) {
		p.Roles = append(p.Roles, event.Role(r))
	}
	return p, nil
}

// AccountNames tells how the accounts of some keys are called; those unknown are
// left out.
func (s *Store) AccountNames(ctx context.Context, channel int64, keys []string) (map[string]string, error) {
	var list []Account
	if err := s.DB.WithContext(ctx).Select("key", "name", "login").Where("channel = ? AND key IN ?", channel, keys).Find(&list).Error; err != nil {
		return nil, err
	}
	out := map[string]string{}
	for _, a := range list {
		out[a.Key] = cmp.Or(a.Name, a.Login)
	}
	return out, nil
}
