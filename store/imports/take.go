package imports

import (
	"context"
	"encoding/json"
	"slices"
	"time"

	"vividporch/core/attendance"
	"vividporch/core/card"
	"vividporch/core/event"
	"vividporch/core/people"
	"vividporch/store/pg"
	"vividporch/store/record"
)

// Apply takes an import in, in one transaction. It returns the channel's last
// streams as they stand afterwards when it added some.
func (s *Imports) Apply(ctx context.Context, channel, id int64, k *record.Reckoning) (*event.BookImported, error) {
	im, err := s.ByID(ctx, channel, id)
	if err != nil {
		return nil, err
	}
	var counts Counts
	if err := json.Unmarshal(im.Counts, &counts); err != nil {
		return nil, err
	}
	var head Head
	if err := json.Unmarshal(im.Head, &head); err != nil {
		return nil, err
	}
	person, err := s.Book.NewPeople(ctx, channel, counts.New)
	if err != nil {
		return nil, err
	}
	done := &event.BookImported{Import: id, File: im.File, New: counts.New, Changed: counts.Changed, Member: im.Member}
	if err := s.InTx(ctx, channel, func(tx pg.Tx) error {
		res, err := tx.SQL.ExecContext(ctx, `UPDATE imports SET state = 'applied', applied = now() WHERE id = $1 AND state = 'read'`, id)
		if err != nil {
			return err
		}
		if n, _ := res.RowsAffected(); n == 0 {
			return ErrDone
		}
		w := writer{tx}
		if done.Past, err = w.pastStreams(head.Streams, id); err != nil {
			return err
		}
		if err := w.newCrews(head.Crews); err != nil {
			return err
		}
		opened, err := w.openings()
		if err != nil {
			return err
		}
		for after := 0; ; {
			page, err := w.staged(id, after, &person)
			if err != nil {
				return err
			}
			if len(page) == 0 {
				return w.knownRegulars()
			}
			if err := w.bringIn(page, id, opened); err != nil {
				return err
			}
			var persons []int64
			for i := range page {
				persons = append(persons, page[i].person)
			}
			if err := record.Refresh(ctx, tx.SQL, channel, k.With(done.Past), persons, nil); err != nil {
				return err
			}
			after = page[len(page)-1].row
		}
	}); err != nil {
		return nil, err
	}
	return done, record.Analyze(ctx, s.SQL)
}

// newCrews makes crews that are not there yet.
func (w writer) newCrews(crews []event.BookCrewed) error {
	for _, c := range crews {
		if err := w.Exec(`INSERT INTO crews (channel, id, name, emblem, initials, created) VALUES ($1,$2,$3,$4,$5,now()) ON CONFLICT DO NOTHING`, w.Channel, c.ID, c.Name, c.Emblem, c.Initials); err != nil {
			return err
		}
	}
	return nil
}

// knownRegulars marks regulars that were brought in as known to be so: nobody has
// to be told of them.
func (w writer) knownRegulars() error {
	return w.Exec(`UPDATE people SET regular_since = first_seen WHERE channel = $1 AND listed AND standing = 'regular' AND regular_since IS NULL`, w.Channel)
}

// pastStreams adds streams and returns the channel's last ones.
func (w writer) pastStreams(fresh []attendance.Past, id int64) ([]event.PastStream, error) {
	if len(fresh) == 0 {
		return nil, nil
	}
	for _, p := range fresh {
		if err := w.Exec(`INSERT INTO streams (channel, number, opened, closed, import) VALUES ($1,$2,$3,$4,$5) ON CONFLICT DO NOTHING`, w.Channel, p.Number, p.Opened, p.Closed, id); err != nil {
			return nil, err
		}
	}
	return w.lastStreams()
}

func (w writer) lastStreams() ([]event.PastStream, error) {
	rows, err := w.SQL.QueryContext(w.Ctx, `SELECT number, opened, closed FROM streams WHERE channel = $1 AND closed IS NOT NULL ORDER BY number DESC LIMIT $2`, w.Channel, attendance.StripLength)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []event.PastStream
	for rows.Next() {
		var p event.PastStream
		if err := rows.Scan(&p.Number, &p.Opened, &p.Closed); err != nil {
			return nil, err
		}
		out = append(out, p)
	}
	slices.Reverse(out)
	return out, rows.Err()
}

func (w writer) openings() (map[int]time.Time, error) {
	rows, err := w.SQL.QueryContext(w.Ctx, `SELECT number, opened FROM streams WHERE channel = $1`, w.Channel)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := map[int]time.Time{}
	for rows.Next() {
		var n int
		var t time.Time
		if err := rows.Scan(&n, &t); err != nil {
			return nil, err
		}
		out[n] = t
	}
	return out, rows.Err()
}

// arrival is a card on its way into the book.
type arrival struct {
	row    int
	person int64
	isNew  bool
	card   card.Card
}

// staged reads the next rows that change something; new people get their numbers.
func (w writer) staged(id int64, after int, person *int64) ([]arrival, error) {
	rows, err := w.SQL.QueryContext(w.Ctx, `SELECT row, verdict, person, card FROM import_rows WHERE import = $1 AND row > $2 AND verdict IN ('new', 'changed') ORDER BY row LIMIT $3`, id, after, 2*importPage)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []arrival
	for rows.Next() {
		var a arrival
		var verdict string
		var raw []byte
		if err := rows.Scan(&a.row, &verdict, &a.person, &raw); err != nil {
			return nil, err
		}
		if err := json.Unmarshal(raw, &a.card); err != nil {
			return nil, err
		}
		if a.isNew = verdict == New; a.isNew {
			a.person = *person
			*person++
		}
		out = append(out, a)
	}
	return out, rows.Err()
}

// carried are the columns of what cards bring, one list a table.
type carried struct {
	people struct {
		ids   []int64
		hands []string
	}
	accounts struct {
		keys, platforms, ids, logins, names, roles []string
		persons, lines                             []int64
		first, last                                []time.Time
		followed                                   []*time.Time
		fetched, kept                              []*string
	}
	logins struct {
		keys, logins, names []string
		first, last         []time.Time
	}
	visits struct {
		keys        []string
		streams     []int32
		lines       []int64
		first, last []time.Time
	}
	raids struct {
		keys, ways []string
		viewers    []int64
		at         []time.Time
	}
	hands []newHand
	rows  struct {
		rows, persons []int64
		backs         []string
	}
}

// bringIn writes cards into the book: new people whole, known ones what is new
// about them. What comes from the import is marked, so that it can be taken back.
func (w writer) bringIn(page []arrival, id int64, opened map[int]time.Time) error {
	var c carried
	var known []int64
	for i := range page {
		if !page[i].isNew {
			known = append(known, page[i].person)
		}
	}
	records := map[int64]*record.Record{}
	if len(known) > 0 {
		list, err := record.Read(w.Ctx, w.SQL, w.Channel, 0, known, nil)
		if err != nil {
			return err
		}
		for i := range list {
			records[list[i].ID] = &list[i]
		}
	}
	for i := range page {
		a := &page[i]
		back, err := c.take(a, records[a.person], opened)
		if err != nil {
			return err
		}
		raw, err := json.Marshal(back)
		if err != nil {
			return err
		}
		c.rows.rows, c.rows.persons, c.rows.backs = append(c.rows.rows, int64(a.row)), append(c.rows.persons, a.person), append(c.rows.backs, string(raw))
	}
	return w.write(&c, id)
}

// takenBack is what undoes a row, apart from what its marks tell.
type takenBack struct {
	Record   int64                    `json:"record,omitempty"` // whose hand was changed
	Edit     event.Edit               `json:"edit,omitzero"`
	Back     event.Edit               `json:"back,omitzero"`
	Followed map[string][2]*time.Time `json:"followed,omitempty"` // account → was, is
}

// take spreads one card over the tables.
func (c *carried) take(a *arrival, have *record.Record, opened map[int]time.Time) (takenBack, error) {
	var back takenBack
	from := &a.card
	var mine card.Card
	if have == nil {
		raw, err := json.Marshal(from.Hand)
		if err != nil {
			return back, err
		}
		c.people.ids, c.people.hands = append(c.people.ids, a.person), append(c.people.hands, string(raw))
	} else {
		mine = have.Card()
		edit := event.Edit{Set: from.Hand, AddTags: from.Tags, AddCrews: from.Crews, AddRoles: from.Hand.Roles}
		edit.Set.Tags, edit.Set.Crews, edit.Set.Roles = nil, nil, nil
		var hands []event.Hand
		for _, h := range have.Hands {
			hands = append(hands, h.Hand)
		}
		next, undo := people.Apply(edit, hands)
		if !people.IsNothing(undo[0]) {
			back.Record, back.Edit, back.Back = have.Hands[0].ID, edit, undo[0]
			c.hands = append(c.hands, newHand{have.Hands[0].ID, next[0]})
		}
	}
	var keyOfFirst string
	for i := range from.Accounts {
		ca := &from.Accounts[i]
		key := ca.Key()
		known := have.AccountOf(ca)
		if known != nil {
			key = known.Key
			if ca.Followed != nil && (known.Followed == nil || ca.Followed.Before(*known.Followed)) {
				if back.Followed == nil {
					back.Followed = map[string][2]*time.Time{}
				}
				back.Followed[key] = [2]*time.Time{known.Followed, ca.Followed}
			}
		} else {
			c.account(a.person, ca, from, opened)
		}
		if i == 0 {
			keyOfFirst = key
		}
		for _, was := range ca.Was {
			if known == nil || !slices.ContainsFunc(have.Logins, func(l record.Login) bool { return l.Key == key && l.Login == was }) {
				c.login(key, was, was, time.Unix(0, 0), time.Unix(0, 0))
			}
		}
		for _, v := range ca.Visits {
			if !slices.Contains(mine.Streams, v.Stream) {
				c.visit(key, v)
			}
		}
	}
	for _, n := range from.Streams {
		if slices.Contains(mine.Streams, n) || slices.ContainsFunc(from.Accounts, func(ca card.Account) bool {
			return slices.ContainsFunc(ca.Visits, func(v card.Visit) bool { return v.Stream == n })
		}) {
			continue
		}
		c.visit(keyOfFirst, card.Visit{Stream: n, First: opened[n], Last: opened[n]})
	}
	for _, r := range from.Raids {
		if !slices.ContainsFunc(mine.Raids, func(h card.Raid) bool { return h.Way == r.Way && h.At.Equal(r.At) }) {
			c.raids.keys, c.raids.ways, c.raids.viewers, c.raids.at = append(c.raids.keys, keyOfFirst), append(c.raids.ways, r.Way), append(c.raids.viewers, r.Viewers), append(c.raids.at, r.At)
		}
	}
	return back, nil
}

func (c *carried) account(person int64, ca *card.Account, from *card.Card, opened map[int]time.Time) {
	first, last := time.Time{}, time.Time{}
	note := func(t time.Time) {
		if t.IsZero() {
			return
		}
		if first.IsZero() || t.Before(first) {
			first = t
		}
		if t.After(last) {
			last = t
		}
	}
	for _, n := range from.Streams {
		note(opened[n])
	}
	for _, v := range ca.Visits {
		note(v.First)
		note(v.Last)
	}
	for _, t := range []*time.Time{from.FirstSeen, from.LastSeen, ca.Followed} {
		if t != nil {
			note(*t)
		}
	}
	if first.IsZero() {
		first, last = time.Unix(0, 0), time.Unix(0, 0)
	}
	var fetched *string
	if f := from.Fetched; f != nil {
		g := *f
		g.Streams = true
		if raw, err := json.Marshal(g); err == nil {
			s := string(raw)
			fetched = &s
		}
	}
	var kept *string
	if len(ca.Kept) > 0 {
		if raw, err := json.Marshal(ca.Kept); err == nil {
			s := string(raw)
			kept = &s
		}
	}
	lines := ca.Lines // visits bring theirs along
	for _, v := range ca.Visits {
		lines -= v.Lines
	}
	t := &c.accounts
	t.keys, t.platforms, t.ids, t.logins, t.names = append(t.keys, ca.Key()), append(t.platforms, ca.Platform), append(t.ids, ca.ID), append(t.logins, ca.Login), append(t.names, ca.Shown())
	t.roles, t.persons, t.lines = append(t.roles, record.RolesText(ca.Roles)), append(t.persons, person), append(t.lines, max(0, lines))
	t.first, t.last, t.followed, t.fetched = append(t.first, first), append(t.last, last), append(t.followed, ca.Followed), append(t.fetched, fetched)
	t.kept = append(t.kept, kept)
	if ca.Login != "" {
		c.login(ca.Key(), ca.Login, ca.Shown(), first, last)
	}
}

func (c *carried) login(key, login, name string, first, last time.Time) {
	t := &c.logins
	t.keys, t.logins, t.names, t.first, t.last = append(t.keys, key), append(t.logins, login), append(t.names, name), append(t.first, first), append(t.last, last)
}

func (c *carried) visit(key string, v card.Visit) {
	t := &c.visits
	t.keys, t.streams, t.lines, t.first, t.last = append(t.keys, key), append(t.streams, int32(v.Stream)), append(t.lines, v.Lines), append(t.first, v.First), append(t.last, v.Last)
}

// write puts what was carried into the tables, one statement each.
func (w writer) write(c *carried, id int64) error {
	hands, err := json.Marshal(c.hands)
	if err != nil {
		return err
	}
	var fKeys []string
	var fAt []*time.Time
	for _, raw := range c.rows.backs {
		var b takenBack
		if err := json.Unmarshal([]byte(raw), &b); err != nil {
			return err
		}
		for k, v := range b.Followed {
			fKeys, fAt = append(fKeys, k), append(fAt, v[1])
		}
	}
	a, l, v, r := &c.accounts, &c.logins, &c.visits, &c.raids
	for _, q := range []struct {
		n    int
		sql  string
		args []any
	}{
		{len(c.people.ids), `INSERT INTO people (channel, id, root, hand, created, import) SELECT $1, u.id, u.id, u.hand, now(), $2 FROM unnest($3::bigint[], $4::json[]) AS u(id, hand)`, []any{id, c.people.ids, c.people.hands}},
		{len(c.hands), `UPDATE people p SET hand = u.hand FROM json_to_recordset($3) AS u(id bigint, hand json) WHERE p.channel = $1 AND p.id = u.id AND $2::bigint IS NOT NULL`, []any{id, string(hands)}},
		{len(a.keys), `INSERT INTO accounts (channel, key, person, home, platform, id, login, name, roles, told, first_seen, last_seen, lines, followed, fetched, kept, import)
			SELECT $1, u.key, u.person, u.person, u.platform, u.id, u.login, u.name, u.roles, u.last, u.first, u.last, u.lines, u.followed, u.fetched, u.kept, $2
			FROM unnest($3::text[], $4::bigint[], $5::text[], $6::text[], $7::text[], $8::text[], $9::text[], $10::timestamptz[], $11::timestamptz[], $12::bigint[], $13::timestamptz[], $14::json[], $15::json[])
				AS u(key, person, platform, id, login, name, roles, first, last, lines, followed, fetched, kept) ON CONFLICT DO NOTHING`,
			[]any{id, a.keys, a.persons, a.platforms, a.ids, a.logins, a.names, a.roles, a.first, a.last, a.lines, a.followed, a.fetched, a.kept}},
		{len(fKeys), `UPDATE accounts t SET followed = u.at FROM unnest($3::text[], $4::timestamptz[]) AS u(key, at) WHERE t.channel = $1 AND t.key = u.key AND $2::bigint IS NOT NULL`, []any{id, fKeys, fAt}},
		{len(l.keys), `INSERT INTO account_logins (channel, key, login, name, first, last, import)
			SELECT $1, u.*, $2 FROM unnest($3::text[], $4::text[], $5::text[], $6::timestamptz[], $7::timestamptz[]) AS u ON CONFLICT DO NOTHING`, []any{id, l.keys, l.logins, l.names, l.first, l.last}},
		{len(v.keys), `WITH v AS (INSERT INTO visits (channel, key, stream, lines, first, last, import)
			SELECT $1, u.*, $2 FROM unnest($3::text[], $4::int[], $5::bigint[], $6::timestamptz[], $7::timestamptz[]) AS u ON CONFLICT DO NOTHING RETURNING key, stream, lines),
			counts AS (` + record.Marks + `$1::bigint, stream FROM v)
			UPDATE accounts a SET lines = a.lines + v.n FROM (SELECT key, sum(lines) AS n FROM v GROUP BY key) v WHERE a.channel = $1 AND a.key = v.key AND v.n > 0`, []any{id, v.keys, v.streams, v.lines, v.first, v.last}},
		{len(r.keys), `INSERT INTO raids (channel, seq, key, stream, way, viewers, at, thanked, import)
			SELECT $1, (SELECT least(0, min(seq)) FROM raids WHERE channel = $1) - row_number() OVER (), u.key,
				coalesce((SELECT number FROM streams s WHERE s.channel = $1 AND u.at >= s.opened AND u.at <= s.closed LIMIT 1), 0), u.way, u.viewers, u.at, true, $2
			FROM unnest($3::text[], $4::text[], $5::bigint[], $6::timestamptz[]) AS u(key, way, viewers, at)`, []any{id, r.keys, r.ways, r.viewers, r.at}},
		{len(c.rows.rows), `UPDATE import_rows t SET person = u.person, back = u.back FROM unnest($3::bigint[], $4::bigint[], $5::json[]) AS u(row, person, back) WHERE $1::bigint IS NOT NULL AND t.import = $2 AND t.row = u.row`,
			[]any{id, c.rows.rows, c.rows.persons, c.rows.backs}},
	} {
		if q.n == 0 {
			continue
		}
		if err := w.Exec(q.sql, append([]any{w.Channel}, q.args...)...); err != nil {
			return err
		}
	}
	return nil
}

// writer brings an import into the guest book, and takes it back.
type writer struct{ pg.Tx }

// newHand is what is set by hand on a record from now on.
type newHand struct {
	ID   int64      `json:"id"`
	Hand event.Hand `json:"hand"`
}
