package store

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"vividporch/core/people"
)

// anonymous begins the id of an account whose owner was forgotten: its visits still
// count, and nothing tells whose they were.
const anonymous = "~"

// Digest is what marks an account as forgotten without telling whose it is.
func Digest(key string) string {
	sum := sha256.Sum256([]byte(strings.ToLower(key)))
	return hex.EncodeToString(sum[:])
}

// ForgottenHashes are the digests of the accounts that are not to be recorded.
func (s *Store) ForgottenHashes(ctx context.Context, channel int64) (map[string]bool, error) {
	var list []string
	if err := s.DB.WithContext(ctx).Model(&Forgotten{}).Where("channel = ?", channel).Pluck("hash", &list).Error; err != nil {
		return nil, err
	}
	out := map[string]bool{}
	for _, h := range list {
		out[h] = true
	}
	return out, nil
}

// IsForgotten tells which of these accounts are not to be recorded.
func (s *Store) IsForgotten(ctx context.Context, channel int64, keys []string) (map[string]bool, error) {
	hashes := make([]string, len(keys))
	by := map[string]string{}
	for i, k := range keys {
		hashes[i] = Digest(k)
		by[hashes[i]] = k
	}
	rows, err := s.SQL.QueryContext(ctx, `SELECT hash FROM forgotten WHERE channel = $1 AND hash = ANY($2::text[])`, channel, hashes)
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

// Remember lets an account be recorded again.
func (s *Store) Remember(ctx context.Context, channel int64, key string) error {
	_, err := s.SQL.ExecContext(ctx, `DELETE FROM forgotten WHERE channel = $1 AND hash = $2`, channel, Digest(key))
	return err
}

// forgetAccounts forgets the people behind accounts: names, notes, lines and dates
// go; the counts of past streams stay without identity; the log's lines of theirs
// are blanked; the accounts are marked, by a digest, so as not to be recorded again.
func (w writer) forgetAccounts(keys []string, b *Batch) error {
	persons, err := w.numbers(`SELECT DISTINCT person FROM accounts WHERE channel = $1 AND key = ANY($2::text[])`, keys)
	if err != nil || len(persons) == 0 {
		return err
	}
	records, err := readRecords(w.ctx, w.tx, w.channel, 0, persons, nil)
	if err != nil {
		return err
	}
	for i := range records {
		r := &records[i]
		var mine, hashes, anon, platforms []string
		for n, a := range r.accounts {
			mine, platforms = append(mine, a.Key), append(platforms, a.Platform)
			anon = append(anon, fmt.Sprintf("%s:%s%d-%d", a.Platform, anonymous, r.id, n))
			hashes = append(hashes, Digest(a.Key))
		}
		if err := w.blankLog(mine, anon); err != nil {
			return err
		}
		var records []int64
		for _, h := range r.hands {
			records = append(records, h.ID)
		}
		if err := w.blankEdits(records); err != nil {
			return err
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
			{`DELETE FROM account_logins WHERE channel = $1 AND key = ANY($2::text[])`, []any{mine}},
			{`UPDATE accounts a SET key = u.anon, id = split_part(u.anon, ':', 2), login = '', name = '', roles = '', followed = NULL, fetched = NULL, claimed = '', person = $4, home = $4
				FROM unnest($2::text[], $3::text[]) AS u(key, anon) WHERE a.channel = $1 AND a.key = u.key`, []any{mine, anon, r.id}},
			{`DELETE FROM book_changes WHERE channel = $1 AND person IN (SELECT id FROM people WHERE channel = $1 AND root = $2)`, []any{r.id}},
			{`DELETE FROM kept_links WHERE channel = $1 AND person = $2`, []any{r.id}},
			{`DELETE FROM pair_refusals WHERE channel = $1 AND (a = $2 OR b = $2)`, []any{r.id}},
			{`UPDATE import_rows SET name = '', card = NULL, changes = NULL, back = NULL WHERE person = $2 AND import IN (SELECT id FROM imports WHERE channel = $1)`, []any{r.id}},
			{`UPDATE people SET hand = '{}', merged_into = 0 WHERE channel = $1 AND root = $2`, []any{r.id}},
		} {
			if err := w.exec(q.sql, append([]any{w.channel}, q.args...)...); err != nil {
				return err
			}
		}
	}
	if err := refresh(w.ctx, w.tx, w.channel, &b.Reckoning, persons, nil); err != nil {
		return err
	}
	// Snapshots hold names as well; the state after this batch takes their place.
	if len(b.State) > 0 {
		if err := w.exec(`DELETE FROM snapshots WHERE channel = $1`, w.channel); err != nil {
			return err
		}
		last := b.Entries[len(b.Entries)-1].Event.Seq
		return w.exec(`INSERT INTO snapshots (channel, seq, state, taken) VALUES ($1,$2,$3,now())`, w.channel, last, string(b.State))
	}
	return nil
}

// blankLog takes people out of the log: what they said and who they were. That
// something happened stays.
func (w writer) blankLog(keys, anon []string) error {
	swap := make([]string, 0, 4*len(keys))
	var lines []string
	for i, k := range keys {
		swap = append(swap, k, anon[i])
	}
	names := strings.NewReplacer(swap...)
	// Their own events, and members' acts that name them.
	if err := w.rewrite(`SELECT seq, 0, type, data FROM events WHERE channel = $1 AND (person = ANY($2::text[]) OR (type LIKE 'porch.desk.%' OR type = 'porch.lookup.answered') AND data::text LIKE ANY($3::text[]))`,
		`UPDATE events e SET data = u.data::json, person = CASE WHEN e.person = '' THEN '' ELSE u.person END FROM json_to_recordset($2) AS u(seq bigint, n int, data text, person text) WHERE e.channel = $1 AND e.seq = u.seq`,
		keys, func(kind string, data map[string]any) string {
			person := anon[0]
			if p, ok := data["person"].(map[string]any); ok {
				key := fmt.Sprint(p["platform"], ":", p["id"])
				if i := slices.Index(keys, key); i >= 0 {
					person = anon[i]
				}
				platform, id, _ := strings.Cut(person, ":")
				data["person"] = map[string]any{"platform": platform, "id": id}
			}
			for _, field := range []string{"text", "message", "was", "url", "reason", "by", "link", "category", "title"} {
				delete(data, field)
			}
			for field, v := range data {
				if s, ok := v.(string); ok {
					data[field] = names.Replace(s)
				}
			}
			return person
		}); err != nil {
		return err
	}
	// What platforms did about them, which names their login alone.
	if err := w.rewrite(`SELECT seq, 0, type, data FROM events WHERE channel = $1 AND (type LIKE 'porch.act.%' OR type = 'porch.desk.acted') AND $3::text[] IS NOT NULL
			AND data->>'login' IN (SELECT login FROM account_logins WHERE channel = $1 AND key = ANY($2::text[]))`,
		`UPDATE events e SET data = u.data::json FROM json_to_recordset($2) AS u(seq bigint, n int, data text, person text) WHERE e.channel = $1 AND e.seq = u.seq`,
		keys, func(_ string, data map[string]any) string {
			for _, field := range []string{"login", "text", "was", "reason"} {
				delete(data, field)
			}
			return ""
		}); err != nil {
		return err
	}
	// What was decided about them.
	if err := w.rewrite(`SELECT seq, n, line, body FROM decisions WHERE channel = $1 AND (person = ANY($2::text[]) OR body::text LIKE ANY($3::text[]))`,
		`UPDATE decisions d SET body = u.data::json, person = CASE WHEN d.person = '' THEN '' ELSE u.person END FROM json_to_recordset($2) AS u(seq bigint, n int, data text, person text) WHERE d.channel = $1 AND d.seq = u.seq AND d.n = u.n`,
		keys, func(line string, body map[string]any) string {
			if line != "" {
				lines = append(lines, line)
			}
			for _, field := range []string{"name", "text", "known", "about", "plan", "joined", "body"} {
				delete(body, field)
			}
			person := anon[0]
			if p, ok := body["person"].(string); ok {
				person = names.Replace(p)
				body["person"] = person
			}
			if it, ok := body["item"].(map[string]any); ok {
				body["item"] = map[string]any{"id": names.Replace(fmt.Sprint(it["id"])), "kind": it["kind"], "why": "", "count": it["count"], "since": it["since"]}
			}
			return person
		}); err != nil {
		return err
	}
	if len(lines) == 0 {
		return nil
	}
	return w.rewrite(`SELECT seq, 0, type, data FROM events WHERE channel = $1 AND (type LIKE 'porch.speech.%' OR type LIKE 'porch.act.%') AND ($2::text[] IS NOT NULL) AND data->>'line' = ANY($3::text[])`,
		`UPDATE events e SET data = u.data::json FROM json_to_recordset($2) AS u(seq bigint, n int, data text, person text) WHERE e.channel = $1 AND e.seq = u.seq`,
		nil, func(_ string, data map[string]any) string {
			delete(data, "text")
			delete(data, "login")
			return ""
		}, lines...)
}

// blankEdits takes out of the log what members wrote about people by hand, and that
// somebody became a regular.
func (w writer) blankEdits(records []int64) error {
	about := func(v any) bool { n, ok := v.(float64); return ok && slices.Contains(records, int64(n)) }
	seqs, err := w.numbers(`SELECT seq FROM events WHERE channel = $1 AND (type = 'porch.book.edited' AND EXISTS (SELECT 1 FROM json_array_elements_text(data->'persons') x WHERE x::bigint = ANY($2::bigint[]))
		OR type = 'porch.book.settled' AND EXISTS (SELECT 1 FROM json_array_elements(coalesce(data->'regulars', '[]')) x WHERE (x->>'person')::bigint = ANY($2::bigint[]))
		OR type = 'porch.book.settled' AND EXISTS (SELECT 1 FROM json_array_elements(coalesce(data->'lost', '[]')) x WHERE (x->>'person')::bigint = ANY($2::bigint[])))`, records)
	if err != nil || len(seqs) == 0 {
		return err
	}
	ids := make([]string, len(seqs))
	for i, n := range seqs {
		ids[i] = fmt.Sprint(n)
	}
	if err := w.rewrite(`SELECT seq, 0, type, data FROM events WHERE channel = $1 AND $2::text[] IS NOT NULL AND seq = ANY($3::text[]::bigint[])`,
		`UPDATE events e SET data = u.data::json FROM json_to_recordset($2) AS u(seq bigint, n int, data text, person text) WHERE e.channel = $1 AND e.seq = u.seq`,
		nil, func(_ string, data map[string]any) string {
			if data["edit"] != nil {
				data["edit"] = map[string]any{}
			}
			for _, field := range []string{"regulars", "lost"} {
				if list, ok := data[field].([]any); ok {
					data[field] = slices.DeleteFunc(list, func(x any) bool { m, ok := x.(map[string]any); return ok && about(m["person"]) })
				}
			}
			return ""
		}, ids...); err != nil {
		return err
	}
	return w.rewrite(`SELECT seq, n, kind, body FROM decisions WHERE channel = $1 AND $2::text[] IS NOT NULL AND seq = ANY($3::text[]::bigint[])`,
		`UPDATE decisions d SET body = u.data::json FROM json_to_recordset($2) AS u(seq bigint, n int, data text, person text) WHERE d.channel = $1 AND d.seq = u.seq AND d.n = u.n`,
		nil, func(_ string, body map[string]any) string {
			if it, ok := body["item"].(map[string]any); ok {
				delete(it, "name")
				it["why"] = ""
			}
			body["because"] = []string{"somebody's standing changed"}
			return ""
		}, ids...)
}

// rewrite reads rows, changes their JSON and writes them back. Where lines are
// given they are looked for, else whatever names the keys.
func (w writer) rewrite(read, write string, keys []string, change func(kind string, data map[string]any) (person string), lines ...string) error {
	look := lines
	if look == nil {
		for _, k := range keys {
			quoted, _ := json.Marshal(k)
			look = append(look, "%"+strings.NewReplacer(`\`, `\\`, "%", `\%`, "_", `\_`).Replace(strings.Trim(string(quoted), `"`))+"%")
		}
	}
	if keys == nil {
		keys = []string{}
	}
	rows, err := w.tx.QueryContext(w.ctx, read, w.channel, keys, look)
	if err != nil {
		return err
	}
	defer rows.Close()
	type row struct {
		Seq    int64  `json:"seq"`
		N      int    `json:"n"`
		Data   string `json:"data"`
		Person string `json:"person"`
	}
	var out []row
	for rows.Next() {
		var r row
		var kind string
		var raw []byte
		if err := rows.Scan(&r.Seq, &r.N, &kind, &raw); err != nil {
			return err
		}
		data := map[string]any{}
		if err := json.Unmarshal(raw, &data); err != nil {
			return err
		}
		r.Person = change(kind, data)
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
		if err := w.exec(write, w.channel, string(raw)); err != nil {
			return err
		}
	}
	return nil
}

// AddKeptLink keeps a one-time link to what is kept about the person behind an
// account; ErrNone when nobody knows them.
func (s *Store) AddKeptLink(ctx context.Context, channel int64, key, hash string, expires time.Time) error {
	res, err := s.SQL.ExecContext(ctx, `INSERT INTO kept_links (hash, channel, person, expires) SELECT $3, $1, person, $4 FROM accounts WHERE channel = $1 AND key = $2`, channel, key, hash, expires)
	if err != nil {
		return err
	}
	if n, _ := res.RowsAffected(); n == 0 {
		return ErrNone
	}
	return nil
}

// KeptLinkGood reports whether a one-time link can still be used.
func (s *Store) KeptLinkGood(ctx context.Context, channel int64, hash string) (bool, error) {
	var n int
	err := s.SQL.QueryRowContext(ctx, `SELECT count(*) FROM kept_links WHERE channel = $1 AND hash = $2 AND expires > now()`, channel, hash).Scan(&n)
	return n > 0, err
}

// UseKeptLink takes a one-time link out and returns whose it was.
func (s *Store) UseKeptLink(ctx context.Context, channel int64, hash string) (person int64, err error) {
	var ids []int64
	if err := s.DB.WithContext(ctx).Raw(`DELETE FROM kept_links WHERE channel = ? AND hash = ? AND expires > now() RETURNING person`, channel, hash).Scan(&ids).Error; err != nil {
		return 0, err
	}
	if len(ids) == 0 {
		return 0, ErrNone
	}
	return ids[0], nil
}

// BlankOldChat takes out of the log what people said before a moment, some
// thousand events at a time, and tells whether more is left to look at.
func (s *Store) BlankOldChat(ctx context.Context, channel int64, before time.Time) (more bool, err error) {
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
	tx, err := s.SQL.BeginTx(ctx, nil)
	if err != nil {
		return false, err
	}
	defer tx.Rollback()
	for _, q := range []string{
		`UPDATE events SET data = json_build_object('person', data->'person', 'text', '', 'messageId', data->'messageId') WHERE channel = $1 AND seq > $2 AND seq <= $3 AND type = 'porch.chat.said'`,
		`UPDATE channels SET blanked = $3 WHERE id = $1 AND blanked = $2`,
	} {
		if _, err := tx.ExecContext(ctx, q, channel, from, to); err != nil {
			return false, err
		}
	}
	return n == step, tx.Commit()
}

// Kept is everything kept about a person, for them or the owner to read.
type Kept struct {
	Person  int64            `json:"person"`
	Card    people.Card      `json:"card"`
	Logins  []KeptLogin      `json:"logins"`
	Visits  []KeptVisit      `json:"visits"`
	Support []map[string]any `json:"support"`
	Said    []KeptLine       `json:"said"`    // by them, as far as it is still kept
	ToThem  []KeptLine       `json:"toThem"`  // by the house
	Changes []map[string]any `json:"changes"` // made by hand
}

// KeptLogin is a name an account was seen under.
type KeptLogin struct {
	Account string    `json:"account"`
	Login   string    `json:"login"`
	Name    string    `json:"name"`
	First   time.Time `json:"first"`
	Last    time.Time `json:"last"`
}

// KeptVisit is a stream attended.
type KeptVisit struct {
	Account string    `json:"account"`
	Stream  int       `json:"stream"`
	First   time.Time `json:"first"`
	Last    time.Time `json:"last"`
	Lines   int64     `json:"lines"`
}

// KeptLine is a line that was said.
type KeptLine struct {
	At   time.Time `json:"at"`
	Text string    `json:"text"`
}

// Everything gathers what is kept about a person; ErrNone when there is no such one.
func (s *Store) Everything(ctx context.Context, channel, person int64) (*Kept, error) {
	records, err := readRecords(ctx, s.SQL, channel, 0, []int64{person}, nil)
	if err != nil {
		return nil, err
	}
	if len(records) == 0 {
		return nil, ErrNone
	}
	r := &records[0]
	k := &Kept{Person: person, Card: r.card(), Logins: []KeptLogin{}, Visits: []KeptVisit{}, Support: []map[string]any{}, Said: []KeptLine{}, ToThem: []KeptLine{}, Changes: []map[string]any{}}
	for _, l := range r.logins {
		k.Logins = append(k.Logins, KeptLogin{l.Key, l.Login, l.Name, l.First, l.Last})
	}
	var keys []string
	for _, a := range r.accounts {
		keys = append(keys, a.Key)
	}
	for _, q := range []struct {
		sql  string
		into any
	}{
		{`SELECT key AS account, stream, first, last, lines FROM visits WHERE channel = $1 AND key = ANY($2::text[]) ORDER BY stream`, &k.Visits},
		{`SELECT kind, amount::text AS amount, currency, count, what, at FROM supports WHERE channel = $1 AND key = ANY($2::text[]) ORDER BY at`, &k.Support},
		{`SELECT time AS at, CASE WHEN position('\u0000' IN data::text) = 0 THEN data->>'text' ELSE '(not readable)' END AS text FROM events
			WHERE channel = $1 AND person = ANY($2::text[]) AND type = 'porch.chat.said' AND data::text NOT LIKE '%"text":""%' ORDER BY seq`, &k.Said},
		{`SELECT at, text FROM spoken WHERE channel = $1 AND key = ANY($2::text[]) ORDER BY seq`, &k.ToThem},
		{`SELECT at, member, edit FROM book_changes WHERE channel = $1 AND $2::text[] IS NOT NULL AND person IN (SELECT id FROM people WHERE channel = $1 AND root = ` + fmt.Sprint(person) + `) ORDER BY seq`, &k.Changes},
	} {
		var raw []byte
		if err := s.SQL.QueryRowContext(ctx, `SELECT coalesce(json_agg(row_to_json(q)), '[]') FROM (`+q.sql+`) q`, channel, keys).Scan(&raw); err != nil {
			return nil, err
		}
		if err := json.Unmarshal(raw, q.into); err != nil {
			return nil, err
		}
	}
	return k, nil
}
