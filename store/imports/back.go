package imports

import (
	"context"
	"encoding/json"
	"time"

	"vividporch/core/event"
	"vividporch/core/people"
	"vividporch/store/pg"
	"vividporch/store/record"
)

// Undo takes an import back, in one transaction: people it made go unless something
// happened with them since, fields go back where they still stand as it set them.
func (s *Imports) TakeBack(ctx context.Context, channel, id int64, k *record.Reckoning) (*event.BookImported, error) {
	im, err := s.ByID(ctx, channel, id)
	if err != nil {
		return nil, err
	}
	done := &event.BookImported{Import: id, File: im.File, Undone: true, Member: im.Member}
	return done, s.InTx(ctx, channel, func(tx pg.Tx) error {
		res, err := tx.SQL.ExecContext(ctx, `UPDATE imports SET state = 'undone' WHERE id = $1 AND state = 'applied'`, id)
		if err != nil {
			return err
		}
		if n, _ := res.RowsAffected(); n == 0 {
			return ErrDone
		}
		w := writer{tx}
		for _, q := range []string{
			`WITH v AS (DELETE FROM visits WHERE channel = $1 AND import = $2 RETURNING key, stream, lines),
				counts AS (` + record.Marks + `$1::bigint, stream FROM v)
				UPDATE accounts a SET lines = greatest(0, a.lines - v.n) FROM (SELECT key, sum(lines) AS n FROM v GROUP BY key) v WHERE a.channel = $1 AND a.key = v.key`,
			`DELETE FROM raids WHERE channel = $1 AND import = $2`,
			`DELETE FROM account_logins WHERE channel = $1 AND import = $2`,
			`DELETE FROM accounts a WHERE channel = $1 AND import = $2 AND claimed = '' AND NOT EXISTS (SELECT 1 FROM visits v WHERE v.channel = a.channel AND v.key = a.key) AND NOT EXISTS (SELECT 1 FROM account_logins l WHERE l.channel = a.channel AND l.key = a.key)`,
		} {
			if err := w.Exec(q, channel, id); err != nil {
				return err
			}
		}
		res, err = tx.SQL.ExecContext(ctx, `DELETE FROM streams s WHERE channel = $1 AND import = $2 AND NOT EXISTS (SELECT 1 FROM visits v WHERE v.channel = s.channel AND v.stream = s.number)`, channel, id)
		if err != nil {
			return err
		}
		if n, _ := res.RowsAffected(); n > 0 {
			if done.Past, err = w.lastStreams(); err != nil {
				return err
			}
			k = k.Replaced(done.Past)
		}
		for after := 0; ; {
			persons, last, err := w.takeBack(id, after)
			if err != nil {
				return err
			}
			if last == 0 {
				break
			}
			if err := record.Refresh(ctx, tx.SQL, channel, k, persons, nil); err != nil {
				return err
			}
			after = last
		}
		for _, q := range []string{
			`DELETE FROM find_words f USING people p WHERE f.channel = $1 AND p.channel = $1 AND p.id = f.person AND p.import = $2 AND NOT EXISTS (SELECT 1 FROM accounts a WHERE a.channel = $1 AND a.person = p.id)`,
			`DELETE FROM finds f USING people p WHERE f.channel = $1 AND p.channel = $1 AND p.id = f.person AND p.import = $2 AND NOT EXISTS (SELECT 1 FROM accounts a WHERE a.channel = $1 AND a.person = p.id)`,
			`DELETE FROM people p WHERE p.channel = $1 AND p.import = $2 AND NOT EXISTS (SELECT 1 FROM accounts a WHERE a.channel = $1 AND (a.person = p.id OR a.home = p.id)) AND NOT EXISTS (SELECT 1 FROM people c WHERE c.channel = $1 AND c.merged_into = p.id)`,
		} {
			if err := w.Exec(q, channel, id); err != nil {
				return err
			}
		}
		return nil
	})
}

// takeBack undoes the fields of the next rows and tells whose they are.
func (w writer) takeBack(id int64, after int) (persons []int64, last int, err error) {
	rows, err := w.SQL.QueryContext(w.Ctx, `SELECT r.row, r.person, r.back, p.hand FROM import_rows r LEFT JOIN people p ON p.channel = $1 AND p.id = (r.back->>'record')::bigint
		WHERE r.import = $2 AND r.row > $3 AND r.verdict IN ('new', 'changed') AND r.back IS NOT NULL ORDER BY r.row LIMIT $4`, w.Channel, id, after, 2*importPage)
	if err != nil {
		return nil, 0, err
	}
	defer rows.Close()
	var changes []newHand
	var keys []string
	var was, is []*time.Time
	for rows.Next() {
		var person int64
		var raw, handRaw []byte
		if err := rows.Scan(&last, &person, &raw, &handRaw); err != nil {
			return nil, 0, err
		}
		persons = append(persons, person)
		var b takenBack
		if err := json.Unmarshal(raw, &b); err != nil {
			return nil, 0, err
		}
		for k, f := range b.Followed {
			keys, was, is = append(keys, k), append(was, f[0]), append(is, f[1])
		}
		if b.Record > 0 && len(handRaw) > 0 {
			var hand event.Hand
			if err := json.Unmarshal(handRaw, &hand); err != nil {
				return nil, 0, err
			}
			next, _ := people.Apply(people.Still(b.Edit, b.Back, hand), []event.Hand{hand})
			changes = append(changes, newHand{b.Record, next[0]})
		}
	}
	if err := rows.Err(); err != nil {
		return nil, 0, err
	}
	rows.Close()
	if len(changes) > 0 {
		raw, err := json.Marshal(changes)
		if err != nil {
			return nil, 0, err
		}
		if err := w.Exec(`UPDATE people p SET hand = u.hand FROM json_to_recordset($2) AS u(id bigint, hand json) WHERE p.channel = $1 AND p.id = u.id`, w.Channel, string(raw)); err != nil {
			return nil, 0, err
		}
	}
	if len(keys) > 0 {
		if err := w.Exec(`UPDATE accounts t SET followed = u.was FROM unnest($2::text[], $3::timestamptz[], $4::timestamptz[]) AS u(key, was, is_now) WHERE t.channel = $1 AND t.key = u.key AND t.followed = u.is_now`, w.Channel, keys, was, is); err != nil {
			return nil, 0, err
		}
	}
	return persons, last, nil
}
