// Package find looks into the guest book for members: whom a search leaves, in which order,
// and all there is to know of one.
package find

import (
	"context"
	"fmt"
	"strings"
	"time"

	"vividporch/core/plain"
	"vividporch/store/book"
	"vividporch/store/pg"
	"vividporch/store/tables"
)

// Find looks into the guest book.
type Find struct {
	pg.Base
	Book *book.Book
}

// Filter narrows the guest book. Everything given must hold; empty fields do not
// narrow.
type Filter struct {
	Text      string     `json:"text,omitempty"` // one or two letters find beginnings of names; more are spelling-tolerant
	Standing  string     `json:"standing,omitempty"`
	Mark      string     `json:"mark,omitempty"` // "fellow streamer"
	Crew      string     `json:"crew,omitempty"`
	Role      string     `json:"role,omitempty"`
	Platform  string     `json:"platform,omitempty"`
	Tag       string     `json:"tag,omitempty"`
	Trusted   bool       `json:"trusted,omitempty"`
	LeaveBe   bool       `json:"leaveBe,omitempty"`
	Birthday  bool       `json:"birthday,omitempty"`  // is known
	Unthanked bool       `json:"unthanked,omitempty"` // a raid of theirs was not thanked
	From      int        `json:"from,omitempty"`      // attended at least
	To        int        `json:"to,omitempty"`        // attended at most; 0 is no bound
	Since     *time.Time `json:"since,omitempty"`     // last seen then or later
	Until     *time.Time `json:"until,omitempty"`     // last seen then or before
	Raid      int64      `json:"raid,omitempty"`      // came with this raid
	Stream    int        `json:"stream,omitempty"`    // came for the first time at this stream
	Lost      bool       `json:"lost,omitempty"`      // was a regular and no longer is
	Gained    bool       `json:"gained,omitempty"`    // became a regular with the last stream
}

// Sort orders the guest book.
type Sort string

// The orders.
const (
	ByName     Sort = "name"
	BySeen     Sort = "seen"
	ByAttended Sort = "attended"
	ByFollow   Sort = "follow"
	ByLines    Sort = "lines"
	BySupport  Sort = "support"
)

// Query asks for a page of the book. A search without an order has the closest first. After is where the page before ended, as it
// was answered; At jumps to a letter (by name) or a day (by last seen).
type Query struct {
	Filter
	Sort  Sort
	After string
	At    string
	Limit int
}

// Row is one person in the book's table.
type Row struct {
	tables.Person
	Lines  int64 // said, over all accounts
	cursor string
}

// Page is a part of the book.
type Page struct {
	Rows []Row
	Next string // ask for it to go on; "" at the end
}

const (
	rowColumns = `p.id, p.name, p.say_as, p.pronouns, p.leave_be, p.trusted, p.fellow, p.birth_year, p.birth_month, p.birth_day, p.tags, p.crews, p.roles, p.platforms,
		p.first_seen, p.last_seen, p.attended, p.mask_at, p.mask_bits, p.standing, p.regular_since, p.regular_lost, p.followed, p.raids_in, p.raids_out, p.unthanked, p.with_raid,
		coalesce((SELECT t.lines FROM tallies t WHERE t.channel = p.channel AND t.person = p.id), 0), p.support`
	searchMost = 500    // people a search by text shows
	countMost  = 10_000 // beyond it a count is "10,000+"
)

// where turns a filter into SQL. Arguments go behind those there are already.
func (f *Filter) where(args *[]any) string {
	parts := []string{"p.channel = $1", "p.listed"}
	add := func(sql string, v any) {
		*args = append(*args, v)
		parts = append(parts, strings.ReplaceAll(sql, "?", fmt.Sprintf("$%d", len(*args))))
	}
	if f.Standing != "" {
		add("p.standing = ?", f.Standing)
	}
	if f.Crew != "" {
		add("p.crews <> '{}' AND p.crews @> ARRAY[?::text]", f.Crew)
	}
	if f.Role != "" {
		add("p.roles <> '{}' AND p.roles @> ARRAY[?::text]", f.Role)
	}
	if f.Tag != "" {
		add("p.tags <> '{}' AND p.tags @> ARRAY[?::text]", f.Tag)
	}
	if f.Platform != "" {
		add("?::text = ANY(p.platforms)", f.Platform)
	}
	if f.From > 0 {
		add("p.attended >= ?", f.From)
	}
	if f.To > 0 {
		add("p.attended <= ?", f.To)
	}
	if f.Since != nil {
		add("p.last_seen >= ?", *f.Since)
	}
	if f.Until != nil {
		add("p.last_seen <= ?", *f.Until)
	}
	if f.Raid != 0 {
		add("p.with_raid = ?", f.Raid)
	}
	if f.Stream != 0 {
		add("p.first_stream = ?", f.Stream)
	}
	for sql, on := range map[string]bool{"p.fellow": f.Mark != "", "p.trusted": f.Trusted, "p.leave_be": f.LeaveBe, "p.birth_month > 0": f.Birthday, "p.unthanked": f.Unthanked,
		"p.regular_lost IS NOT NULL AND p.standing <> 'regular'":                                             f.Lost,
		"p.standing = 'regular' AND p.regular_since >= (SELECT max(closed) FROM streams WHERE channel = $1)": f.Gained} {
		if on {
			parts = append(parts, sql)
		}
	}
	return strings.Join(parts, " AND ")
}

// sorts says for each order by which column and which way it goes.
var sorts = map[Sort]struct{ col, kind, dir, cmp string }{
	ByName:     {`p.sort_name COLLATE "C"`, "text", "ASC", ">"},
	BySeen:     {"p.last_seen", "timestamptz", "DESC NULLS LAST", "<"},
	ByAttended: {"p.attended", "bigint", "DESC", "<"},
	ByFollow:   {"p.followed", "timestamptz", "ASC", ">"},
	ByLines:    {"t.lines", "bigint", "DESC", "<"},
	BySupport:  {"p.support", "bigint", "DESC", "<"},
}

// People answers a page of the guest book.
func (s *Find) People(ctx context.Context, channel int64, q Query) (*Page, error) {
	if q.Limit < 1 || q.Limit > searchMost {
		q.Limit = 100
	}
	if q.Text = plain.Fold(q.Text); q.Text != "" {
		return s.search(ctx, channel, q)
	}
	if _, ok := sorts[q.Sort]; !ok {
		q.Sort = BySeen
	}
	sql, args := q.list(channel)
	rows, err := readRows(ctx, s.SQL, sql, args)
	if err != nil {
		return nil, err
	}
	p := &Page{Rows: rows}
	if len(rows) == q.Limit {
		p.Next = rows[len(rows)-1].cursor
	}
	return p, nil
}

// list is the SQL of a page without a search: a range of an index, from a cursor on.
func (q *Query) list(channel int64) (string, []any) {
	by := sorts[q.Sort]
	args := []any{channel}
	where := q.where(&args)
	from, key, id := q.Sort.from(), "p.id", "p.id ASC"
	if q.Sort == ByLines { // as its index has them
		key = "t.person"
	}
	if by.cmp == "<" {
		id = key + " DESC"
	}
	where += q.only()
	bind := func(v any, kind string) string {
		args = append(args, v)
		return fmt.Sprintf("$%d::text::%s", len(args), kind)
	}
	if last, value, ok := strings.Cut(q.After, ":"); ok {
		where += fmt.Sprintf(" AND (%s, %s) %s (%s, %s)", by.col, key, by.cmp, bind(value, by.kind), bind(last, "bigint"))
	} else if q.At != "" && (q.Sort == ByName || q.Sort == BySeen) {
		where += fmt.Sprintf(" AND %s %s= %s", by.col, by.cmp, bind(q.At, by.kind))
	}
	args = append(args, q.Limit)
	return fmt.Sprintf("SELECT %s, p.id || ':' || (%s)::text FROM %s WHERE %s ORDER BY %s %s, %s LIMIT $%d", rowColumns, by.col, from, where, by.col, by.dir, id, len(args)), args
}

// from are the tables that an order is read from, people among them as p.
func (s Sort) from() string {
	if s == ByLines {
		return "tallies t JOIN people p ON p.channel = t.channel AND p.id = t.person"
	}
	return "people p"
}

// only leaves those out who have no place in an order.
func (q *Query) only() string {
	switch q.Sort {
	case ByFollow:
		return " AND p.followed IS NOT NULL"
	case BySupport:
		return " AND p.support > 0"
	}
	return ""
}

// search finds people by text: names that begin so first, then logins and words that
// do, then whatever contains it, and last what is one slip away. Each further step
// is taken only when those before leave the page unfilled.
func (s *Find) search(ctx context.Context, channel int64, q Query) (*Page, error) {
	var skip int
	fmt.Sscanf(q.After, "skip:%d", &skip)
	skip = min(max(0, skip), searchMost)
	p := &Page{Rows: []Row{}}
	want := min(skip+q.Limit, searchMost)
	_, sorted := sorts[q.Sort]
	if sorted {
		want = searchMost // who comes first is known when all are found
	}
	have := []int64{}
	for _, step := range []func(int64, []int64, int) (string, []any){q.begins, q.contains, q.slips} {
		if len(have) >= want {
			break
		}
		sql, args := step(channel, have, want-len(have))
		if sql == "" {
			continue
		}
		rows, err := readRows(ctx, s.SQL, sql, args)
		if err != nil {
			return nil, err
		}
		for _, r := range rows {
			if len(have) >= skip && !sorted {
				p.Rows = append(p.Rows, r)
			}
			have = append(have, r.ID)
		}
	}
	if sorted {
		return s.sorted(ctx, channel, q, have, skip)
	}
	if len(have) == want && want < searchMost {
		p.Next = fmt.Sprintf("skip:%d", want)
	}
	return p, nil
}

// sorted is a page of those who were found, in the order that was asked for.
func (s *Find) sorted(ctx context.Context, channel int64, q Query, found []int64, skip int) (*Page, error) {
	by := sorts[q.Sort]
	id := "p.id ASC"
	if by.cmp == "<" {
		id = "p.id DESC"
	}
	rows, err := readRows(ctx, s.SQL, fmt.Sprintf("SELECT %s, '' FROM %s WHERE p.channel = $1 AND p.id = ANY($2::bigint[])%s ORDER BY %s %s, %s OFFSET $3 LIMIT $4",
		rowColumns, q.Sort.from(), q.only(), by.col, by.dir, id), []any{channel, found, skip, q.Limit})
	if err != nil {
		return nil, err
	}
	p := &Page{Rows: rows}
	if len(rows) == q.Limit && skip+q.Limit < len(found) {
		p.Next = fmt.Sprintf("skip:%d", skip+q.Limit)
	}
	return p, nil
}

// begins is the SQL for names, logins and words that begin with the text.
func (q *Query) begins(channel int64, _ []int64, most int) (string, []any) {
	args := []any{channel}
	where := q.where(&args)
	args = append(args, pg.Begins(q.Text), most)
	prefix, limit := fmt.Sprintf("$%d", len(args)-1), fmt.Sprintf("$%d", len(args))
	hits := fmt.Sprintf(`(SELECT p.id, 0 AS rank FROM people p WHERE %[1]s AND p.sort_name COLLATE "C" LIKE %[2]s ORDER BY p.sort_name COLLATE "C", p.id LIMIT %[3]s)
		UNION ALL (SELECT p.id, 1 FROM accounts a JOIN people p ON p.channel = a.channel AND p.id = a.person WHERE a.channel = $1 AND %[1]s AND lower(a.login) COLLATE "C" LIKE %[2]s ORDER BY lower(a.login) COLLATE "C" LIMIT %[3]s)`, where, prefix, limit)
	if words := plain.Words(q.Text, 2); len(words) == 1 && words[0] == q.Text && len([]rune(q.Text)) >= 3 {
		hits += fmt.Sprintf(` UNION ALL (SELECT p.id, 2 FROM find_words w JOIN people p ON p.channel = w.channel AND p.id = w.person WHERE w.channel = $1 AND %s AND w.word LIKE %s ORDER BY w.word LIMIT %s)`, where, prefix, limit)
	}
	return fmt.Sprintf(`SELECT %s, '' FROM (SELECT id, min(rank) AS rank FROM (%s) u GROUP BY id) h JOIN people p ON p.channel = $1 AND p.id = h.id ORDER BY h.rank, p.sort_name COLLATE "C", p.id LIMIT %s`,
		rowColumns, hits, limit), args
}

// contains is the SQL for whatever contains the text, of three letters or more.
func (q *Query) contains(channel int64, have []int64, most int) (string, []any) {
	if len([]rune(q.Text)) < 3 {
		return "", nil
	}
	args := []any{channel}
	where := q.where(&args)
	args = append(args, "%"+pg.Begins(q.Text), have, most)
	n := len(args)
	return fmt.Sprintf(`SELECT %s, '' FROM (SELECT p.id FROM finds f JOIN people p ON p.channel = f.channel AND p.id = f.person WHERE f.channel = $1 AND %s AND f.text LIKE $%d AND NOT p.id = ANY($%d::bigint[]) LIMIT $%d) h
		JOIN people p ON p.channel = $1 AND p.id = h.id ORDER BY p.last_seen DESC NULLS LAST, p.id`, rowColumns, where, n-2, n-1, n), args
}

// slips is the SQL for words that begin with the text but for one slip of the hand:
// each misspelling is looked up in the index of words by itself.
func (q *Query) slips(channel int64, have []int64, most int) (string, []any) {
	words := plain.Words(q.Text, 9)
	if len([]rune(q.Text)) < 3 || len(words) == 0 || len([]rune(words[0])) < 3 {
		return "", nil
	}
	args := []any{channel}
	where := q.where(&args)
	args = append(args, plain.Slips(words[0]), have, min(most, 100))
	n := len(args)
	return fmt.Sprintf(`SELECT %s, '' FROM (SELECT DISTINCT ON (u.id) u.id, u.at FROM (SELECT w.id, v.at FROM unnest($%d::text[]) WITH ORDINALITY AS v(slip, at)
			CROSS JOIN LATERAL (SELECT p.id FROM find_words w JOIN people p ON p.channel = w.channel AND p.id = w.person
				WHERE w.channel = $1 AND w.word >= v.slip AND w.word < v.slip || chr(1114111) AND %s AND NOT p.id = ANY($%d::bigint[]) ORDER BY w.word LIMIT 20) w ORDER BY v.at LIMIT $%d) u ORDER BY u.id, u.at) h
		JOIN people p ON p.channel = $1 AND p.id = h.id ORDER BY h.at, p.last_seen DESC NULLS LAST, p.id`, rowColumns, n-2, where, n-1, n), args
}

// CountPeople counts whom a filter leaves, up to countMost; more says that there
// are more.
func (s *Find) CountPeople(ctx context.Context, channel int64, f Filter) (n int, more bool, err error) {
	args := []any{channel}
	where := f.where(&args)
	from := "people p"
	if text := plain.Fold(f.Text); text != "" {
		args = append(args, pg.Begins(text))
		if len([]rune(text)) < 3 {
			where += fmt.Sprintf(` AND p.sort_name COLLATE "C" LIKE $%d`, len(args))
		} else {
			from = "finds f JOIN people p ON p.channel = f.channel AND p.id = f.person"
			where += fmt.Sprintf(` AND f.channel = $1 AND f.text LIKE '%%' || $%d`, len(args))
		}
	}
	err = s.SQL.QueryRowContext(ctx, fmt.Sprintf("SELECT count(*) FROM (SELECT 1 FROM %s WHERE %s LIMIT %d) x", from, where, countMost+1), args...).Scan(&n)
	return min(n, countMost), n > countMost, err
}

func readRows(ctx context.Context, db pg.Queryer, sql string, args []any) ([]Row, error) {
	rows, err := db.QueryContext(ctx, sql, args...)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := []Row{}
	for rows.Next() {
		var r Row
		if err := rows.Scan(&r.ID, &r.Name, &r.SayAs, &r.Pronouns, &r.LeaveBe, &r.Trusted, &r.Fellow, &r.BirthYear, &r.BirthMonth, &r.BirthDay, &r.Tags, &r.Crews, &r.Roles, &r.Platforms,
			&r.FirstSeen, &r.LastSeen, &r.Attended, &r.MaskAt, &r.MaskBits, &r.Standing, &r.RegularSince, &r.RegularLost, &r.Followed, &r.RaidsIn, &r.RaidsOut, &r.Unthanked, &r.WithRaid, &r.Lines, &r.Support, &r.cursor); err != nil {
			return nil, err
		}
		out = append(out, r)
	}
	return out, rows.Err()
}

// Plans are the statements that a query may run, for looking at how they are carried
// out.
func (s *Find) Plans(channel int64, q Query) (sqls []string, args [][]any) {
	q.Limit = 100
	add := func(sql string, a []any) {
		if sql != "" {
			sqls, args = append(sqls, sql), append(args, a)
		}
	}
	if q.Text = plain.Fold(q.Text); q.Text == "" {
		add(q.list(channel))
		return sqls, args
	}
	add(q.begins(channel, nil, 100))
	add(q.contains(channel, []int64{}, 100))
	add(q.slips(channel, []int64{}, 100))
	return sqls, args
}

// SaveFilter keeps a filter under a name.
func (s *Find) SaveFilter(ctx context.Context, f tables.SavedFilter) error {
	_, err := s.SQL.ExecContext(ctx, `INSERT INTO saved_filters (channel, name, doc) VALUES ($1,$2,$3) ON CONFLICT (channel, name) DO UPDATE SET doc = excluded.doc`, f.Channel, f.Name, string(f.Doc))
	return err
}

// DropFilter forgets a saved filter.
func (s *Find) DropFilter(ctx context.Context, channel int64, name string) error {
	return s.DB.WithContext(ctx).Where("channel = ? AND name = ?", channel, name).Delete(&tables.SavedFilter{}).Error
}

// Filters lists the saved filters by name.
func (s *Find) Filters(ctx context.Context, channel int64) ([]tables.SavedFilter, error) {
	out := []tables.SavedFilter{}
	return out, s.DB.WithContext(ctx).Where("channel = ?", channel).Order("lower(name)").Find(&out).Error
}
