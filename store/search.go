package store

import (
	"context"
	"fmt"
	"strings"
	"time"

	"vividporch/core/plain"
)

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
)

// Query asks for a page of the book. After is where the page before ended, as it
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
	Person
	cursor string
}

// Page is a part of the book.
type Page struct {
	Rows []Row
	Next string // ask for it to go on; "" at the end
}

const (
	rowColumns = `p.id, p.name, p.say_as, p.pronouns, p.leave_be, p.trusted, p.fellow, p.birth_year, p.birth_month, p.birth_day, p.tags, p.crews, p.roles, p.platforms,
		p.first_seen, p.last_seen, p.attended, p.mask_at, p.mask_bits, p.standing, p.regular_since, p.regular_lost, p.followed, p.raids_in, p.raids_out, p.unthanked, p.with_raid`
	searchMost = 500    // people a search by text shows
	countMost  = 10_000 // beyond it a count is "10,000+"
	tolerance  = 0.4    // least word similarity (pg_trgm) of what counts as a slip: one letter of a five-letter word
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
}

// People answers a page of the guest book.
func (s *Store) People(ctx context.Context, channel int64, q Query) (*Page, error) {
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
	id := "p.id ASC"
	if by.cmp == "<" {
		id = "p.id DESC"
	}
	if q.Sort == ByFollow {
		where += " AND p.followed IS NOT NULL"
	}
	bind := func(v any, kind string) string {
		args = append(args, v)
		return fmt.Sprintf("$%d::text::%s", len(args), kind)
	}
	if last, value, ok := strings.Cut(q.After, ":"); ok {
		where += fmt.Sprintf(" AND (%s, p.id) %s (%s, %s)", by.col, by.cmp, bind(value, by.kind), bind(last, "bigint"))
	} else if q.At != "" && (q.Sort == ByName || q.Sort == BySeen) {
		where += fmt.Sprintf(" AND %s %s= %s", by.col, by.cmp, bind(q.At, by.kind))
	}
	args = append(args, q.Limit)
	return fmt.Sprintf("SELECT %s, p.id || ':' || (%s)::text FROM people p WHERE %s ORDER BY %s %s, %s LIMIT $%d", rowColumns, by.col, where, by.col, by.dir, id, len(args)), args
}

// search finds people by text: names that begin so first, then logins that do, then
// whatever contains it, and, when that is little, what is spelled nearly so.
func (s *Store) search(ctx context.Context, channel int64, q Query) (*Page, error) {
	var skip int
	fmt.Sscanf(q.After, "skip:%d", &skip)
	sql, args := q.find(channel, skip)
	rows, err := readRows(ctx, s.SQL, sql, args)
	if err != nil {
		return nil, err
	}
	if len(rows)+skip < enough && len([]rune(q.Text)) >= 3 {
		near, err := s.near(ctx, channel, q, rows)
		if err != nil {
			return nil, err
		}
		rows = append(rows, near...)
	}
	p := &Page{Rows: rows}
	if len(rows) == q.Limit && skip+len(rows) < searchMost {
		p.Next = fmt.Sprintf("skip:%d", skip+len(rows))
	}
	return p, nil
}

// enough is how many exact finds leave misspellings out.
const enough = 20

// find is the SQL of the exact part of a search.
func (q *Query) find(channel int64, skip int) (string, []any) {
	args := []any{channel}
	where := q.where(&args)
	args = append(args, likePrefix(q.Text))
	prefix := fmt.Sprintf("$%d", len(args))
	hits := fmt.Sprintf(`(SELECT p.id, 0 AS rank FROM people p WHERE %[1]s AND p.sort_name COLLATE "C" LIKE %[2]s ORDER BY p.sort_name COLLATE "C" LIMIT %[3]d)
		UNION ALL (SELECT p.id, 1 FROM accounts a JOIN people p ON p.channel = a.channel AND p.id = a.person WHERE a.channel = $1 AND %[1]s AND lower(a.login) COLLATE "C" LIKE %[2]s ORDER BY lower(a.login) COLLATE "C" LIMIT %[3]d)`,
		where, prefix, searchMost)
	if len([]rune(q.Text)) >= 3 {
		args = append(args, "%"+likePrefix(q.Text))
		hits += fmt.Sprintf(` UNION ALL (SELECT p.id, 2 FROM finds f JOIN people p ON p.channel = f.channel AND p.id = f.person WHERE f.channel = $1 AND %s AND f.text LIKE $%d LIMIT %d)`, where, len(args), searchMost)
	}
	order := "h.rank, p.last_seen DESC NULLS LAST, p.id"
	if len([]rune(q.Text)) < 3 {
		order = `h.rank, p.sort_name COLLATE "C", p.id`
	}
	args = append(args, q.Limit, skip)
	return fmt.Sprintf(`SELECT %s, '' FROM (SELECT id, min(rank) AS rank FROM (%s) u GROUP BY id) h JOIN people p ON p.channel = $1 AND p.id = h.id ORDER BY %s LIMIT $%d OFFSET $%d`,
		rowColumns, hits, order, len(args)-1, len(args)), args
}

// near finds what is spelled nearly so, by word similarity (pg_trgm), best first.
func (s *Store) near(ctx context.Context, channel int64, q Query, have []Row) (rows []Row, err error) {
	known := []int64{}
	for _, r := range have {
		known = append(known, r.ID)
	}
	args := []any{channel}
	where := q.where(&args)
	args = append(args, q.Text, known, max(0, min(100, q.Limit)-len(have)))
	n := len(args)
	sql := fmt.Sprintf(`SELECT %s, '' FROM (SELECT p.id, word_similarity($%d, f.text) AS likeness FROM finds f JOIN people p ON p.channel = f.channel AND p.id = f.person
		WHERE f.channel = $1 AND %s AND $%d <%% f.text AND NOT p.id = ANY($%d::bigint[]) ORDER BY likeness DESC, p.last_seen DESC NULLS LAST LIMIT $%d) h
		JOIN people p ON p.channel = $1 AND p.id = h.id ORDER BY h.likeness DESC, p.last_seen DESC NULLS LAST, p.id`, rowColumns, n-2, where, n-2, n-1, n)
	tx, err := s.SQL.BeginTx(ctx, nil)
	if err != nil {
		return nil, err
	}
	defer tx.Rollback()
	if _, err := tx.ExecContext(ctx, "SELECT set_config('pg_trgm.word_similarity_threshold', $1, true)", fmt.Sprint(tolerance)); err != nil {
		return nil, err
	}
	return readRows(ctx, tx, sql, args)
}

func likePrefix(s string) string {
	return strings.NewReplacer(`\`, `\\`, "%", `\%`, "_", `\_`).Replace(s) + "%"
}

// CountPeople counts whom a filter leaves, up to countMost; more says that there
// are more.
func (s *Store) CountPeople(ctx context.Context, channel int64, f Filter) (n int, more bool, err error) {
	args := []any{channel}
	where := f.where(&args)
	from := "people p"
	if text := plain.Fold(f.Text); text != "" {
		args = append(args, likePrefix(text))
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

func readRows(ctx context.Context, db queryer, sql string, args []any) ([]Row, error) {
	rows, err := db.QueryContext(ctx, sql, args...)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := []Row{}
	for rows.Next() {
		var r Row
		if err := rows.Scan(&r.ID, &r.Name, &r.SayAs, &r.Pronouns, &r.LeaveBe, &r.Trusted, &r.Fellow, &r.BirthYear, &r.BirthMonth, &r.BirthDay, &r.Tags, &r.Crews, &r.Roles, &r.Platforms,
			&r.FirstSeen, &r.LastSeen, &r.Attended, &r.MaskAt, &r.MaskBits, &r.Standing, &r.RegularSince, &r.RegularLost, &r.Followed, &r.RaidsIn, &r.RaidsOut, &r.Unthanked, &r.WithRaid, &r.cursor); err != nil {
			return nil, err
		}
		out = append(out, r)
	}
	return out, rows.Err()
}

// Plan is the SQL that a query runs, for looking at how it is carried out.
func (s *Store) Plan(channel int64, q Query) (string, []any) {
	q.Limit = 100
	if q.Text = plain.Fold(q.Text); q.Text != "" {
		return q.find(channel, 0)
	}
	return q.list(channel)
}
