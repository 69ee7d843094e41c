package book

import (
	"encoding/json"
	"fmt"
	"slices"

	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/people"
	"vividporch/store/forget"
	"vividporch/store/log"
	"vividporch/store/record"
)

// book applies what members, and people in chat, did to the guest book.
func (w writer) book(b *log.Batch) error {
	var stale []int64
	for i := range b.Entries {
		en := &b.Entries[i]
		touched, err := w.bookEvent(&en.Event)
		if err != nil {
			return fmt.Errorf("store: event %d: %w", en.Event.Seq, err)
		}
		stale = append(stale, touched...)
	}
	if err := record.Refresh(w.Ctx, w.SQL, w.Channel, &b.Reckoning, stale, nil); err != nil {
		return err
	}
	for i := range b.Entries {
		for _, d := range b.Entries[i].Decisions {
			if d.Kind == hall.Forget {
				if _, err := forget.People(w.Tx, append([]string{d.Person}, d.Known.Accounts...), b, b.Entries[i].Event.Seq); err != nil {
					return err
				}
			}
		}
		if f, ok := b.Entries[i].Event.Data.(*event.BookForgotten); ok {
			anon, err := forget.People(w.Tx, f.Keys, b, b.Entries[i].Event.Seq)
			if err != nil {
				return err
			}
			raw, err := json.Marshal(event.BookForgotten{Person: f.Person, Anon: anon, Member: f.Member})
			if err != nil {
				return err
			}
			if err := w.Exec(`UPDATE events SET data = $3 WHERE channel = $1 AND seq = $2`, w.Channel, b.Entries[i].Event.Seq, string(raw)); err != nil {
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
		if d.By != nil { // in chat: the account tells who it is, by now
			var err error
			if d.Persons, err = w.personsOf(d.Accounts); err != nil {
				return nil, err
			}
			return d.Persons, w.edit(e, d.Persons, d.Edit, inChat)
		}
		return d.Persons, w.edit(e, d.Persons, d.Edit, d.Member)
	case *event.BookMerged:
		for _, q := range []string{
			`UPDATE people SET merged_into = $2 WHERE channel = $1 AND id = $3 AND root = id`,
			`UPDATE accounts SET person = $2 WHERE channel = $1 AND person = $3`,
			`UPDATE people SET root = $2 WHERE channel = $1 AND root = $3`,
		} {
			if err := w.Exec(q, w.Channel, d.Kept, d.Gone); err != nil {
				return nil, err
			}
		}
		return []int64{d.Kept, d.Gone}, record.Recount(w.Ctx, w.SQL, w.Channel, d.Kept)
	case *event.BookParted:
		return w.part(d.Part)
	case *event.BookLinked: // one account is one member's
		return nil, w.Exec(`UPDATE members SET account = CASE WHEN lower(name) = lower($2) THEN $3 ELSE '' END WHERE channel = $1 AND (lower(name) = lower($2) OR $3 <> '' AND account = $3)`, w.Channel, d.Of, d.Account)
	case *event.BookCrewed:
		return w.crew(e, d)
	}
	return nil, nil
}

// inChat stands where the member stands of what was set in chat.
const inChat = "chat"

// personsOf are the people behind accounts.
func (w writer) personsOf(accounts []string) (out []int64, err error) {
	rows, err := w.SQL.QueryContext(w.Ctx, `SELECT DISTINCT person FROM accounts WHERE channel = $1 AND key = ANY($2::text[])`, w.Channel, accounts)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	for rows.Next() {
		var id int64
		if err := rows.Scan(&id); err != nil {
			return nil, err
		}
		out = append(out, id)
	}
	return out, rows.Err()
}

// treeOf reads the hands of the records that are found under persons, the kept one
// of each first.
func (w writer) treeOf(persons []int64) (map[int64][]record.Hand, error) {
	rows, err := w.SQL.QueryContext(w.Ctx, `SELECT root, id, hand FROM people WHERE channel = $1 AND root = ANY($2::bigint[]) ORDER BY root, id <> root, id`, w.Channel, persons)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := map[int64][]record.Hand{}
	for rows.Next() {
		var root int64
		var h record.Hand
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
	return w.Exec(`WITH c AS MATERIALIZED (SELECT * FROM json_to_recordset($2) AS c(id bigint, hand json, edit json, back json)),
		k AS (INSERT INTO book_changes (channel, seq, person, edit, back, member, at) SELECT $1, $3::bigint, id, edit, back, $4::text, $5::timestamptz FROM c)
		UPDATE people p SET hand = c.hand FROM c WHERE p.channel = $1 AND p.id = c.id`, w.Channel, string(raw), e.Seq, member, e.Logged)
}

// undoEdit takes an edit back on each record it changed; what was changed again
// since stays.
func (w writer) undoEdit(e *event.Event, d *event.BookEdited) ([]int64, error) {
	rows, err := w.SQL.QueryContext(w.Ctx, `SELECT c.person, p.root, p.hand, c.edit, c.back FROM book_changes c JOIN people p ON p.channel = c.channel AND p.id = c.person
		WHERE c.channel = $1 AND c.seq = $2 AND NOT c.undone`, w.Channel, d.Undoes)
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
	if err := w.Exec(`UPDATE book_changes SET undone = true WHERE channel = $1 AND seq = $2`, w.Channel, d.Undoes); err != nil {
		return nil, err
	}
	return roots, w.change(e, changes, d.Member)
}

// part makes a record one of its own again, with all that was merged into it.
func (w writer) part(id int64) ([]int64, error) {
	var was int64
	if err := w.SQL.QueryRowContext(w.Ctx, `SELECT root FROM people WHERE channel = $1 AND id = $2`, w.Channel, id).Scan(&was); err != nil {
		return nil, err
	}
	for _, q := range []string{
		`UPDATE people SET merged_into = 0 WHERE channel = $1 AND id = $2`,
		`WITH RECURSIVE t AS (SELECT $2::bigint AS id UNION SELECT p.id FROM people p JOIN t ON p.channel = $1 AND p.merged_into = t.id)
			UPDATE people p SET root = $2 FROM t WHERE p.channel = $1 AND p.id = t.id`,
		`UPDATE accounts a SET person = $2 FROM people p WHERE a.channel = $1 AND p.channel = $1 AND p.id = a.home AND p.root = $2 AND a.person <> $2`,
	} {
		if err := w.Exec(q, w.Channel, id); err != nil {
			return nil, err
		}
	}
	return []int64{was, id}, record.Recount(w.Ctx, w.SQL, w.Channel, was, id)
}

func (w writer) crew(e *event.Event, d *event.BookCrewed) ([]int64, error) {
	if d.Partly {
		return nil, w.Exec(`UPDATE crews SET name = COALESCE(NULLIF($3, ''), name), emblem = COALESCE(NULLIF($4, ''), emblem), initials = COALESCE(NULLIF($5, ''), initials)
			WHERE channel = $1 AND id = $2`, w.Channel, d.ID, d.Name, d.Emblem, d.Initials)
	}
	if !d.Gone {
		return nil, w.Exec(`INSERT INTO crews (channel, id, name, emblem, initials, created) VALUES ($1,$2,$3,$4,$5,$6)
			ON CONFLICT (channel, id) DO UPDATE SET name = excluded.name, emblem = excluded.emblem, initials = excluded.initials`, w.Channel, d.ID, d.Name, d.Emblem, d.Initials, e.Logged)
	}
	members, err := w.Numbers(`SELECT id FROM people WHERE channel = $1 AND listed AND crews <> '{}' AND crews @> ARRAY[$2::text]`, d.ID)
	if err != nil {
		return nil, err
	}
	if err := w.edit(e, members, event.Edit{DropCrews: []string{d.ID}}, d.Member); err != nil {
		return nil, err
	}
	return members, w.Exec(`DELETE FROM crews WHERE channel = $1 AND id = $2`, w.Channel, d.ID)
}
