// Package forget takes a person out of log and guest book for good ([People]), so that the
// counts stay and nothing tells whose they were, and says what is kept of somebody.
package forget

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"maps"
	"regexp"
	"slices"
	"strings"
	"time"

	"vividporch/core/event"
	"vividporch/core/hall"
	"vividporch/core/plain"
	"vividporch/store/kept"
	"vividporch/store/log"
	"vividporch/store/pg"
	"vividporch/store/record"
	"vividporch/store/tables"
)

// Privacy forgets people and tells them what is kept.
type Privacy struct{ pg.Base }

// Digest is what marks an account as forgotten without telling whose it is.
func Digest(key string) string {
	sum := sha256.Sum256([]byte(strings.ToLower(key)))
	return hex.EncodeToString(sum[:])
}

// PersonsOf are the people of a channel's guest book any of whose accounts is one of those meant.
func (s *Privacy) PersonsOf(ctx context.Context, channel int64, meant func(account string) bool) ([]int64, error) {
	rows, err := s.SQL.QueryContext(ctx, "SELECT key, person FROM accounts WHERE channel = $1 ORDER BY person", channel)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []int64
	for rows.Next() {
		var key string
		var person int64
		if err := rows.Scan(&key, &person); err != nil {
			return nil, err
		}
		if meant(key) && (len(out) == 0 || out[len(out)-1] != person) {
			out = append(out, person)
		}
	}
	return out, rows.Err()
}

// ForgottenHashes are the digests of the accounts that are not to be recorded.
func (s *Privacy) Digests(ctx context.Context, channel int64) (map[string]bool, error) {
	var list []string
	if err := s.DB.WithContext(ctx).Model(&tables.Forgotten{}).Where("channel = ?", channel).Pluck("hash", &list).Error; err != nil {
		return nil, err
	}
	out := map[string]bool{}
	for _, h := range list {
		out[h] = true
	}
	return out, nil
}

// IsForgotten tells which of these accounts are not to be recorded.
func IsForgotten(ctx context.Context, q pg.Queryer, channel int64, keys []string) (map[string]bool, error) {
	hashes := make([]string, len(keys))
	by := map[string]string{}
	for i, k := range keys {
		hashes[i] = Digest(k)
		by[hashes[i]] = k
	}
	rows, err := q.QueryContext(ctx, `SELECT hash FROM forgotten WHERE channel = $1 AND hash = ANY($2::text[])`, channel, hashes)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := map[string]bool{}
	for rows.Next() {
		var h string
		if err := rows.Scan(&h); err != nil {
			return nil, err
		}
		out[by[h]] = true
	}
	return out, rows.Err()
}

// NamesOf lists all that a person is and was called, the longest first.
func (s *Privacy) NamesOf(ctx context.Context, channel, person int64) (names []string, err error) {
	return names, s.DB.WithContext(ctx).Raw(`SELECT n FROM (
		SELECT unnest(ARRAY[l.login, l.name]) AS n FROM accounts a JOIN account_logins l ON l.channel = a.channel AND l.key = a.key WHERE a.channel = ? AND a.person = ?
		UNION SELECT unnest(ARRAY[a.login, a.name]) FROM accounts a WHERE a.channel = ? AND a.person = ?
		UNION SELECT p.say_as FROM people p WHERE p.channel = ? AND p.id = ?) n WHERE n <> '' ORDER BY length(n) DESC, n`, channel, person, channel, person, channel, person).Scan(&names).Error
}

// Remember lets an account be recorded again.
func (s *Privacy) Remember(ctx context.Context, channel int64, key string) error {
	_, err := s.SQL.ExecContext(ctx, `DELETE FROM forgotten WHERE channel = $1 AND hash = $2`, channel, Digest(key))
	return err
}

// Forget forgets the people behind accounts: names, notes, lines and dates
// go; the counts of past streams stay without identity; the log's lines of theirs
// are blanked; the accounts are marked, by a digest, so as not to be recorded again.
// It returns what stands in the accounts' places from now on.
func People(tx pg.Tx, keys []string, b *log.Batch, upTo int64) (now []string, err error) {
	w := writer{tx}
	persons, err := w.Numbers(`SELECT DISTINCT person FROM accounts WHERE channel = $1 AND key = ANY($2::text[])`, keys)
	if err != nil || len(persons) == 0 {
		return nil, err
	}
	records, err := record.Read(w.Ctx, w.SQL, w.Channel, 0, persons, nil)
	if err != nil {
		return nil, err
	}
	for i := range records {
		r := &records[i]
		var mine, hashes, anon, names []string
		taken := map[string]bool{} // a record merged into this one may have been forgotten before
		for _, a := range r.Accounts {
			taken[a.Key] = true
		}
		for n := range r.Accounts {
			a := &r.Accounts[n]
			if strings.HasPrefix(a.ID, record.Anonymous) {
				continue
			}
			key := fmt.Sprintf("%s:%s%d-%d", a.Platform, record.Anonymous, r.ID, n)
			for k := len(r.Accounts); taken[key]; k++ {
				key = fmt.Sprintf("%s:%s%d-%d", a.Platform, record.Anonymous, r.ID, k)
			}
			taken[key] = true
			mine, anon, hashes, names = append(mine, a.Key), append(anon, key), append(hashes, Digest(a.Key)), append(names, a.Login, a.Name)
		}
		if len(mine) == 0 {
			continue
		}
		for _, l := range r.Logins {
			names = append(names, l.Login, l.Name)
		}
		if said := r.Hand().SayAs; said != nil {
			names = append(names, *said)
		}
		now = append(now, anon...)
		if err := w.inLookbacks(mine, anon, names); err != nil {
			return nil, err
		}
		if err := w.blankLog(newScrub(mine, anon, names), mine, upTo); err != nil {
			return nil, err
		}
		var records []int64
		for _, h := range r.Hands {
			records = append(records, h.ID)
		}
		if err := w.blankEdits(records); err != nil {
			return nil, err
		}
		for _, q := range []struct {
			sql  string
			args []any
		}{
			{`INSERT INTO forgotten (channel, hash, at) SELECT $1, unnest($2::text[]), now() ON CONFLICT DO NOTHING`, []any{hashes}},
			{`UPDATE visits t SET key = u.anon FROM unnest($2::text[], $3::text[]) AS u(key, anon) WHERE t.channel = $1 AND t.key = u.key`, []any{mine, anon}},
			{`UPDATE raids t SET key = u.anon FROM unnest($2::text[], $3::text[]) AS u(key, anon) WHERE t.channel = $1 AND t.key = u.key`, []any{mine, anon}},
			{`UPDATE supports t SET key = u.anon FROM unnest($2::text[], $3::text[]) AS u(key, anon) WHERE t.channel = $1 AND t.key = u.key`, []any{mine, anon}},
			{`DELETE FROM spoken WHERE channel = $1 AND key = ANY($2::text[])`, []any{mine}},
			{`UPDATE ledger l SET key = u.anon FROM unnest($2::text[], $3::text[]) AS u(key, anon) WHERE l.channel = $1 AND l.key = u.key`, []any{mine, anon}},
			{`DELETE FROM ranks WHERE channel = $1 AND person = $2`, []any{r.ID}},
			{`DELETE FROM account_logins WHERE channel = $1 AND key = ANY($2::text[])`, []any{mine}},
			{`UPDATE accounts a SET key = u.anon, id = split_part(u.anon, ':', 2), login = '', name = '', roles = '', followed = NULL, fetched = NULL, kept = NULL, claimed = '', person = $4, home = $4
				FROM unnest($2::text[], $3::text[]) AS u(key, anon) WHERE a.channel = $1 AND a.key = u.key`, []any{mine, anon, r.ID}},
			{`DELETE FROM book_changes WHERE channel = $1 AND person IN (SELECT id FROM people WHERE channel = $1 AND root = $2)`, []any{r.ID}},
			{`UPDATE settings_versions SET account = '' WHERE channel = $1 AND account = ANY($2::text[])`, []any{mine}},
			{`UPDATE members SET account = '' WHERE channel = $1 AND account = ANY($2::text[])`, []any{mine}},
			{`DELETE FROM kept_links WHERE channel = $1 AND person = $2`, []any{r.ID}},
			{`DELETE FROM pair_refusals WHERE channel = $1 AND (a = $2 OR b = $2)`, []any{r.ID}},
			{`UPDATE import_rows SET name = '', card = NULL, changes = NULL, back = NULL WHERE person = $2 AND import IN (SELECT id FROM imports WHERE channel = $1)`, []any{r.ID}},
			{`UPDATE people SET hand = '{}', merged_into = 0 WHERE channel = $1 AND root = $2`, []any{r.ID}},
		} {
			if err := w.Exec(q.sql, append([]any{w.Channel}, q.args...)...); err != nil {
				return nil, err
			}
		}
	}
	if err := kept.Empty(tx); err != nil { // whoever it is may be in other services' messages
		return nil, err
	}
	if err := record.Refresh(w.Ctx, w.SQL, w.Channel, &b.Reckoning, persons, nil); err != nil {
		return nil, err
	}
	// Snapshots hold names as well; the state after this batch takes their place.
	if len(b.State) > 0 {
		if err := w.LockSnapshots(); err != nil {
			return nil, err
		}
		if err := w.Exec(`DELETE FROM snapshots WHERE channel = $1`, w.Channel); err != nil {
			return nil, err
		}
		last := b.Entries[len(b.Entries)-1].Event.Seq
		return now, w.Exec(`INSERT INTO snapshots (channel, seq, state, taken) VALUES ($1,$2,$3,now())`, w.Channel, last, string(b.State))
	}
	return now, nil
}

// naming is the condition that a column has one of the signs in $3, in whatever case: a member may have typed a login in theirs.
func naming(column string) string {
	return `lower(` + column + `::text) LIKE ANY(ARRAY(SELECT lower(sign) FROM unnest($3::text[]) sign))`
}

// blankLog takes people out of the log up to a number: what they said and who they were.
// That something happened stays.
func (w writer) blankLog(s *scrub, keys []string, upTo int64) error {
	// What senders added to such events is theirs to word, so that no name is sure to be found in it.
	if err := w.Exec(`UPDATE events SET ext = NULL WHERE channel = $1 AND seq <= $4 AND ext IS NOT NULL AND (person = ANY($2::text[]) OR `+naming("data")+` OR `+naming("ext")+`)`,
		w.Channel, keys, s.signs(keys), upTo); err != nil {
		return err
	}
	// Their own events, and others that name them: gifts, looks-up, what members did.
	caused, named := map[int64]bool{}, map[int64]bool{}
	if err := w.rewrite(`SELECT seq, 0, person, type, data FROM events WHERE channel = $1 AND seq <= $4 AND (person = ANY($2::text[]) OR `+naming("data")+`)`,
		`UPDATE events e SET data = u.data::json, person = u.person FROM json_to_recordset($2) AS u(seq bigint, n int, data text, person text) WHERE e.channel = $1 AND e.seq = u.seq`,
		s, keys, func(r *logRow, data map[string]any) {
			_, theirs := s.anon[r.Person]
			_, asked, _ := s.person(data["person"]) // a member asked for something about them
			switch {
			case theirs || asked || strings.HasPrefix(r.kind, "porch.lookup."):
				caused[r.Seq] = true
				s.theirs(r.kind, data)
			default: // the speech of the house, and what it did
				s := s
				if strings.HasPrefix(r.kind, "porch.act.") || r.kind == "porch.desk.acted" {
					login, _ := data["login"].(string)
					switch {
					case login == "" || s.text(login, false) != "":
					case s.done(data):
						s.theirs(r.kind, data)
						data["about"] = []any{s.anon[keys[0]]}
					default: // of a namesake on another platform
						s = s.sparing([]string{login})
					}
				}
				named[r.Seq] = true
				s.walk(data, event.IsOwn(r.kind) && !strings.HasPrefix(r.kind, "porch.settings."))
			}
			r.Person = s.keys.Replace(r.Person)
		}, upTo); err != nil {
		return err
	}
	seqs := make([]int64, 0, len(caused)+len(named))
	for _, m := range []map[int64]bool{caused, named} {
		for seq := range m {
			seqs = append(seqs, seq)
		}
	}
	// What was decided about them, then or later.
	lines := map[string]bool{}
	if err := w.rewrite(`SELECT seq, n, person, kind, body FROM decisions WHERE channel = $1 AND seq <= $5 AND (person = ANY($2::text[]) OR `+naming("body")+` OR seq = ANY($4::bigint[]) OR (body->>'event')::bigint = ANY($4::bigint[]))`,
		`UPDATE decisions d SET body = u.data::json, person = u.person, slot = u.slot FROM json_to_recordset($2) AS u(seq bigint, n int, data text, person text, slot text) WHERE d.channel = $1 AND d.seq = u.seq AND d.n = u.n`,
		s, keys, func(r *logRow, body map[string]any) {
			_, about := s.anon[r.Person]
			asker, _ := body["asker"].(string)
			_, asked := s.anon[asker]
			about = about || asked
			cause, _ := body["event"].(json.Number)
			of, _ := cause.Int64()
			about = about || caused[of] && r.Person != ""
			if joined, ok := body["joined"].([]any); ok {
				for _, j := range joined {
					if m, ok := j.(map[string]any); ok {
						key, _ := m["person"].(string)
						_, mine := s.anon[key]
						about = about || mine
					}
				}
			}
			if line, _ := body["line"].(string); line != "" && about {
				lines[line] = true
			}
			s.decided(body, about)
			r.Person = s.keys.Replace(r.Person)
			r.Slot = s.keys.Replace(r.slot)
		}, seqs, upTo); err != nil {
		return err
	}
	if err := w.unwrite(s.names, keys); err != nil {
		return err
	}
	aside := append(slices.Clone(keys), slices.DeleteFunc(slices.Clone(s.names), func(n string) bool { return plain.Without(n, []string{n}) == n })...)
	for _, k := range aside { // what could not be lived, of theirs or about them
		if err := w.Exec(`DELETE FROM set_aside WHERE channel = $1 AND (person = ANY($2::text[]) OR position($3::bytea IN event) > 0)`, w.Channel, keys, []byte(k)); err != nil {
			return err
		}
	}
	// What others were told, or were to be, that names them.
	for _, name := range s.names {
		if plain.Without(name, []string{name}) == name {
			continue // too short to be told from a word
		}
		if err := w.Exec(`UPDATE spoken s SET text = regexp_replace(text, $3, 'somebody', 'g') WHERE channel = $1 AND text LIKE $2
			AND NOT EXISTS (SELECT 1 FROM account_logins a WHERE a.channel = s.channel AND a.key = s.key AND (lower(a.login) = lower($4) OR lower(a.name) = lower($4)))`, w.Channel, like(name, ""), `\m`+regexp.QuoteMeta(name)+`\M`, name); err != nil {
			return err
		}
		if err := w.unsay(`(text LIKE $2 OR body::text LIKE $2)`, like(name, "")); err != nil {
			return err
		}
	}
	if len(lines) == 0 {
		return nil
	}
	list := slices.Sorted(maps.Keys(lines))
	if err := w.unsay(`line = ANY($2::text[])`, list); err != nil {
		return err
	}
	// What became of those lines, and what members made of them.
	if err := w.rewrite(`SELECT seq, n, person, kind, body FROM decisions WHERE channel = $1 AND $2::text[] IS NOT NULL AND line = ANY($3::text[])`,
		`UPDATE decisions d SET body = u.data::json FROM json_to_recordset($2) AS u(seq bigint, n int, data text) WHERE d.channel = $1 AND d.seq = u.seq AND d.n = u.n`,
		&scrub{look: list, keys: s.keys, names: s.names, anon: s.anon}, nil, func(_ *logRow, body map[string]any) { s.decided(body, true) }); err != nil {
		return err
	}
	for _, q := range []string{
		`UPDATE events SET data = json_strip_nulls(json_build_object('line', data->'line', 'platform', data->'platform', 'to', data->'to', 'effect', data->'effect', 'act', data->'act', 'off', data->'off', 'place', data->'place', 'attempt', data->'attempt', 'about', data->'about'))
			WHERE channel = $1 AND (type LIKE 'porch.speech.%' OR type LIKE 'porch.act.%' OR type LIKE 'porch.relay.%') AND data->>'line' = ANY($2::text[])`,
		`UPDATE events SET data = json_build_object('line', data->'line', 'text', '') WHERE channel = $1 AND type = 'porch.desk.reworded' AND data->>'line' = ANY($2::text[])`,
		`DELETE FROM speech WHERE channel = $1 AND line = ANY($2::text[])`,
		`UPDATE spoken SET text = '' WHERE channel = $1 AND split_part(line, '@', 1) = ANY($2::text[])`,
	} {
		if err := w.Exec(q, w.Channel, list); err != nil {
			return err
		}
	}
	return nil
}

// unsay empties what went to places, and gives up what is still on its way. That something went there, and when,
// stays.
func (w writer) unsay(which string, arg any) error {
	return w.Exec(`UPDATE deliveries SET text = '', body = NULL, late = NULL, about = '[]', why = '[]', reason = CASE WHEN state IN ('waiting', 'failed', 'unclear') THEN 'whom it was about was forgotten' ELSE '' END,
			ended = coalesce(ended, CASE WHEN state = 'waiting' THEN now() END), state = CASE WHEN state IN ('waiting', 'failed', 'unclear') THEN 'dropped' ELSE state END
		WHERE channel = $1 AND `+which, w.Channel, arg)
}

// blankEdits takes out of the log what members wrote about people by hand, and that
// somebody became a regular.
func (w writer) blankEdits(records []int64) error {
	about := func(v any) bool {
		n, ok := v.(json.Number)
		id, err := n.Int64()
		return ok && err == nil && slices.Contains(records, id)
	}
	seqs, err := w.Numbers(`SELECT seq FROM events WHERE channel = $1 AND (type = 'porch.book.edited' AND EXISTS (SELECT 1 FROM json_array_elements_text(data->'persons') x WHERE x::bigint = ANY($2::bigint[]))
		OR type = 'porch.book.settled' AND EXISTS (SELECT 1 FROM json_array_elements(coalesce(data->'regulars', '[]')) x WHERE (x->>'person')::bigint = ANY($2::bigint[]))
		OR type = 'porch.book.settled' AND EXISTS (SELECT 1 FROM json_array_elements(coalesce(data->'lost', '[]')) x WHERE (x->>'person')::bigint = ANY($2::bigint[])))`, records)
	if err != nil || len(seqs) == 0 {
		return err
	}
	if err := w.rewrite(`SELECT seq, 0, person, type, data FROM events WHERE channel = $1 AND $2::text[] IS NOT NULL AND $3::text[] IS NOT NULL AND seq = ANY($4::bigint[])`,
		`UPDATE events e SET data = u.data::json FROM json_to_recordset($2) AS u(seq bigint, n int, data text) WHERE e.channel = $1 AND e.seq = u.seq`,
		nil, nil, func(_ *logRow, data map[string]any) {
			if data["edit"] != nil {
				data["edit"] = map[string]any{}
			}
			for _, field := range []string{"regulars", "lost"} {
				if list, ok := data[field].([]any); ok {
					data[field] = slices.DeleteFunc(list, func(x any) bool { m, ok := x.(map[string]any); return ok && about(m["person"]) })
				}
			}
		}, seqs); err != nil {
		return err
	}
	return w.rewrite(`SELECT seq, n, person, kind, body FROM decisions WHERE channel = $1 AND $2::text[] IS NOT NULL AND $3::text[] IS NOT NULL AND seq = ANY($4::bigint[])`,
		`UPDATE decisions d SET body = u.data::json FROM json_to_recordset($2) AS u(seq bigint, n int, data text) WHERE d.channel = $1 AND d.seq = u.seq AND d.n = u.n`,
		nil, nil, func(_ *logRow, body map[string]any) {
			if it, ok := body["item"].(map[string]any); ok {
				delete(it, "name")
				it["why"] = ""
			}
			body["because"] = []string{"somebody's standing changed"}
		}, seqs)
}

// logRow is a row of the log that is rewritten.
type logRow struct {
	Seq    int64  `json:"seq"`
	N      int    `json:"n"`
	Person string `json:"person"`
	Data   string `json:"data"`
	Slot   string `json:"slot"`
	kind   string // of the event or decision
	slot   string // of a decision, as it was
}

// rewrite reads rows, changes their JSON and writes them back. It looks for accounts
// and names; more is what read asks for besides.
func (w writer) rewrite(read, write string, s *scrub, keys []string, change func(r *logRow, data map[string]any), more ...any) error {
	look := s.signs(keys)
	if keys == nil {
		keys = []string{}
	}
	rows, err := w.SQL.QueryContext(w.Ctx, read, append([]any{w.Channel, keys, look}, more...)...)
	if err != nil {
		return err
	}
	defer rows.Close()
	var out []logRow
	for rows.Next() {
		var r logRow
		var raw []byte
		if err := rows.Scan(&r.Seq, &r.N, &r.Person, &r.kind, &raw); err != nil {
			return err
		}
		data, err := readObject(raw)
		if err != nil {
			return err
		}
		if s != nil && data["kind"] != nil {
			var d hall.Decision
			if json.Unmarshal(raw, &d) == nil {
				r.slot = d.Slot()
			}
		}
		change(&r, data)
		if raw, err = json.Marshal(data); err != nil {
			return err
		}
		r.Data = string(raw)
		out = append(out, r)
	}
	if err := rows.Err(); err != nil {
		return err
	}
	rows.Close()
	for part := range slices.Chunk(out, 1000) {
		raw, err := json.Marshal(part)
		if err != nil {
			return err
		}
		if err := w.Exec(write, w.Channel, string(raw)); err != nil {
			return err
		}
	}
	return nil
}

// like is a pattern that finds a text, as it stands in JSON, between two quotes or
// anywhere.
func like(t, quote string) string {
	raw, _ := json.Marshal(t)
	inner := string(raw[1 : len(raw)-1])
	return "%" + strings.NewReplacer(`\`, `\\`, "%", `\%`, "_", `\_`).Replace(quote+inner+quote) + "%"
}

// BlankOldChat takes out of the log what people said before a moment, some
// thousand events at a time, and tells whether more is left to look at.
func (s *Privacy) BlankOldChat(ctx context.Context, channel int64, before time.Time) (more bool, err error) {
	const step = 5000
	var from int64
	if err := s.SQL.QueryRowContext(ctx, `SELECT blanked FROM channels WHERE id = $1`, channel).Scan(&from); err != nil {
		return false, err
	}
	var to int64
	var n int
	if err := s.SQL.QueryRowContext(ctx, `SELECT coalesce(max(seq), 0), count(*) FROM (SELECT seq, logged FROM events WHERE channel = $1 AND seq > $2 ORDER BY seq LIMIT $4) e WHERE e.logged < $3`,
		channel, from, before, step).Scan(&to, &n); err != nil || n == 0 {
		return false, err
	}
	return n == step, s.InTx(ctx, channel, func(tx pg.Tx) error {
		for _, q := range []string{
			`UPDATE events SET data = json_build_object('person', data->'person', 'text', '', 'messageId', data->'messageId') WHERE channel = $1 AND seq > $2 AND seq <= $3 AND type = 'porch.chat.said'`,
			`UPDATE decisions SET body = (body::jsonb #- '{body,said}' #- '{item,text}')::json WHERE channel = $1 AND seq > $2 AND seq <= $3 AND kind IN ('touched', 'let', 'wait') AND body->>'room' = 'guard'`, // what was held
			`UPDATE channels SET blanked = $3 WHERE id = $1 AND blanked = $2`,
		} {
			if err := tx.Exec(q, channel, from, to); err != nil {
				return err
			}
		}
		return nil
	})
}

// writer takes people out of the log and the guest book.
type writer struct{ pg.Tx }
