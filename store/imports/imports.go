// Package imports brings files into the guest book: a file is staged ([Imports.Stage]), looked
// at row by row, taken in, and taken back if it was the wrong one.
package imports

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"

	"vividporch/core/attendance"
	"vividporch/core/card"
	"vividporch/core/event"
	"vividporch/core/people"
	"vividporch/formats/row"
	"vividporch/store/book"
	"vividporch/store/forget"
	"vividporch/store/pg"
	"vividporch/store/record"
	"vividporch/store/tables"
)

// Imports brings files into the guest book, and takes them back.
type Imports struct {
	pg.Base
	Book *book.Book
}

// Head is what a file brings besides people: past streams, and crews that are named
// in it.
type Head struct {
	Streams []attendance.Past  `json:"streams"`
	Crews   []event.BookCrewed `json:"crews"`
}

// Source hands out the rows of a file, one after the other; io.EOF ends it.
type Source func() (row.Row, error)

// Counts sums up a preview.
type Counts struct {
	New       int `json:"new"`
	Changed   int `json:"changed"`
	Unchanged int `json:"unchanged"`
	Refused   int `json:"refused"`
	Streams   int `json:"streams"` // past streams it would add
	Crews     int `json:"crews"`   // crews it would make
}

// The verdicts on a row.
const (
	New       = "new"
	Changed   = "changed"
	Unchanged = "unchanged"
	Refused   = "refused"
)

const importPage = 1000 // rows looked at together

// ErrDone says that an import is not in a state in which this can be done.
var ErrDone = errors.New("this import was taken in, taken back or dropped already")

// Stage reads a file, finds out what taking it in would do, and keeps that: nothing
// in the guest book changes. head may still grow while rows are read.
func (s *Imports) Stage(ctx context.Context, channel int64, member, file string, head *Head, next Source) (*tables.Import, error) {
	have, err := s.Book.Streams(ctx, channel)
	if err != nil {
		return nil, err
	}
	crews, err := s.Book.CrewList(ctx, channel)
	if err != nil {
		return nil, err
	}
	number, fresh := attendance.Join(have, head.Streams)
	known := map[int]bool{}
	for _, p := range append(have, fresh...) {
		known[p.Number] = true
	}
	var on int // what is on now is known, too, though it has no end yet
	if err := s.SQL.QueryRowContext(ctx, `SELECT coalesce(max(number), 0) FROM streams WHERE channel = $1 AND closed IS NULL`, channel).Scan(&on); err != nil {
		return nil, err
	}
	last := 0
	for _, p := range head.Streams {
		last = max(last, p.Number)
	}
	if on > 0 {
		known[on] = true
		if last == on-1 && (last == 0 || number[last] == last) {
			number[on] = on
		}
	}
	im := &tables.Import{Channel: channel, Member: member, File: file, State: "read", Head: json.RawMessage("{}"), Counts: json.RawMessage("{}"), Created: time.Now()}
	if err := s.DB.WithContext(ctx).Create(im).Error; err != nil {
		return nil, err
	}
	counts := Counts{Streams: len(fresh)}
	st := stager{s, ctx, channel, im.ID, head, number, known, len(head.Streams) > 0, last + 1}
	for done := false; !done; {
		page := make([]row.Row, 0, importPage)
		for len(page) < importPage {
			in, err := next()
			if errors.Is(err, io.EOF) {
				done = true
				break
			}
			if err != nil {
				return nil, err
			}
			page = append(page, in)
		}
		if err := st.page(page, &counts); err != nil {
			return nil, err
		}
	}
	rest := Head{Streams: fresh}
	for _, c := range head.Crews {
		if !slices.ContainsFunc(crews, func(k book.CrewCount) bool { return k.ID == c.ID }) {
			rest.Crews = append(rest.Crews, c)
		}
	}
	counts.Crews = len(rest.Crews)
	if im.Counts, err = json.Marshal(counts); err != nil {
		return nil, err
	}
	if im.Head, err = json.Marshal(rest); err != nil {
		return nil, err
	}
	return im, s.DB.WithContext(ctx).Model(im).Updates(map[string]any{"counts": string(im.Counts), "head": string(im.Head)}).Error
}

type stager struct {
	s       *Imports
	ctx     context.Context
	channel int64
	id      int64
	head    *Head
	number  map[int]int // the file's numbers of streams → ours
	known   map[int]bool
	mapped  bool
	tonight int // the file's number of what was on when it was written
}

// page finds out what rows would do and keeps it.
func (st *stager) page(page []row.Row, counts *Counts) error {
	if len(page) == 0 {
		return nil
	}
	rows := make([]tables.ImportRow, len(page))
	for i := range page {
		in := &page[i]
		rows[i] = tables.ImportRow{Import: st.id, Row: in.N, Name: in.Name, Why: in.Why}
		if in.Why == "" {
			rows[i].Why = st.streams(&in.Card)
		}
	}
	if err := st.repeats(page, rows); err != nil {
		return err
	}
	if err := st.match(page, rows); err != nil {
		return err
	}
	var persons []int64
	for i := range rows {
		if rows[i].Person > 0 {
			persons = append(persons, rows[i].Person)
		}
	}
	cards := map[int64]*card.Card{}
	if len(persons) > 0 {
		records, err := record.Read(st.ctx, st.s.SQL, st.channel, 0, persons, nil)
		if err != nil {
			return err
		}
		for i := range records {
			c := records[i].Card()
			cards[records[i].ID] = &c
		}
	}
	for i := range rows {
		r := &rows[i]
		var changes []card.Change
		switch {
		case r.Why != "":
			r.Verdict = Refused
			counts.Refused++
		case r.Person == 0:
			r.Verdict = New
			counts.New++
		default:
			if changes = card.Diff(cards[r.Person], &page[i].Card); len(changes) > 0 {
				r.Verdict = Changed
				counts.Changed++
			} else {
				r.Verdict = Unchanged
				counts.Unchanged++
			}
		}
		if r.Verdict != Refused {
			for _, c := range page[i].Crews {
				if !slices.ContainsFunc(st.head.Crews, func(k event.BookCrewed) bool { return k.ID == c.ID }) {
					st.head.Crews = append(st.head.Crews, c)
				}
			}
			card, err := json.Marshal(&page[i].Card)
			if err != nil {
				return err
			}
			r.Card = card
		}
		if r.Name == "" && len(page[i].Card.Accounts) > 0 {
			r.Name = page[i].Card.Accounts[0].Shown()
		}
		var err error
		if r.Changes, err = json.Marshal(changes); err != nil {
			return err
		}
	}
	return st.keep(rows)
}

// streams puts our numbers in place of the file's and says what is wrong with them.
func (st *stager) streams(c *card.Card) string {
	swap := func(n int) (int, bool) {
		if st.mapped {
			m, ok := st.number[n]
			return m, ok
		}
		return n, st.known[n]
	}
	if _, ok := swap(st.tonight); st.mapped && !ok { // over elsewhere, and no stream of ours
		c.Streams = slices.DeleteFunc(c.Streams, func(n int) bool { return n == st.tonight })
	}
	for i, n := range c.Streams {
		m, ok := swap(n)
		if !ok {
			return fmt.Sprintf("streams: this channel has no stream %d; take the number out, or bring the streams in with a people file", n)
		}
		c.Streams[i] = m
	}
	for i := range c.Accounts {
		for j := range c.Accounts[i].Visits {
			v := &c.Accounts[i].Visits[j]
			if m, ok := swap(v.Stream); ok {
				v.Stream = m
			}
		}
	}
	slices.Sort(c.Streams)
	return ""
}

// repeats refuses rows that name an account an earlier row named already.
func (st *stager) repeats(page []row.Row, rows []tables.ImportRow) error {
	var keys []string
	var nums []int
	for i := range page {
		if rows[i].Why == "" {
			for _, k := range page[i].Card.Keys() {
				keys, nums = append(keys, k), append(nums, page[i].N)
			}
		}
	}
	if len(keys) == 0 {
		return nil
	}
	if _, err := st.s.SQL.ExecContext(st.ctx, `INSERT INTO import_keys (import, key, row) SELECT $1, k, min(n) FROM unnest($2::text[], $3::bigint[]) AS u(k, n) GROUP BY k ORDER BY k ON CONFLICT DO NOTHING`,
		st.id, keys, nums); err != nil {
		return err
	}
	q, err := st.s.SQL.QueryContext(st.ctx, `SELECT u.n, k.row FROM unnest($2::text[], $3::bigint[]) AS u(k, n) JOIN import_keys k ON k.import = $1 AND k.key = u.k WHERE k.row <> u.n`, st.id, keys, nums)
	if err != nil {
		return err
	}
	defer q.Close()
	by := map[int]int{}
	for q.Next() {
		var n, first int
		if err := q.Scan(&n, &first); err != nil {
			return err
		}
		by[n] = first
	}
	for i := range rows {
		if first, ok := by[rows[i].Row]; ok && rows[i].Why == "" {
			rows[i].Why = fmt.Sprintf("login: row %d names this account already; put what both say into one row", first)
		}
	}
	return q.Err()
}

// match finds who of the book a row means: by account key, or by login where either
// side knows no id.
func (st *stager) match(page []row.Row, rows []tables.ImportRow) error {
	var keys, platforms, logins []string
	for i := range page {
		if rows[i].Why != "" {
			continue
		}
		for _, a := range page[i].Card.Accounts {
			keys = append(keys, a.Key())
			platforms, logins = append(platforms, a.Platform), append(logins, strings.ToLower(a.Login))
		}
	}
	if len(keys) == 0 {
		return nil
	}
	forgotten, err := forget.IsForgotten(st.ctx, st.s.SQL, st.channel, keys)
	if err != nil {
		return err
	}
	byKey, byLogin := map[string]int64{}, map[string][2]int64{} // login → person if real, person if provisional
	q, err := st.s.SQL.QueryContext(st.ctx, `SELECT key, person, platform, lower(login), id FROM accounts WHERE channel = $1 AND key = ANY($2::text[])
		UNION SELECT a.key, a.person, a.platform, lower(a.login), a.id FROM (SELECT DISTINCT * FROM unnest($3::text[], $4::text[])) AS u(platform, login)
			JOIN accounts a ON a.channel = $1 AND lower(a.login) COLLATE "C" = u.login COLLATE "C" AND a.platform = u.platform AND a.claimed = '' WHERE u.login <> ''`, st.channel, keys, platforms, logins)
	if err != nil {
		return err
	}
	defer q.Close()
	for q.Next() {
		var key, platform, login, id string
		var person int64
		if err := q.Scan(&key, &person, &platform, &login, &id); err != nil {
			return err
		}
		byKey[key] = person
		k, both := platform+":"+login, byLogin[platform+":"+login]
		if strings.HasPrefix(id, people.Provisional) {
			both[1] = person
		} else {
			both[0] = person
		}
		byLogin[k] = both
	}
	if err := q.Err(); err != nil {
		return err
	}
	for i := range page {
		r := &rows[i]
		if r.Why != "" {
			continue
		}
		for _, a := range page[i].Card.Accounts {
			if forgotten[a.Key()] {
				r.Why = "login: whose account this is asked to be forgotten; only they can have it recorded again"
				break
			}
			p := byKey[a.Key()]
			both := byLogin[a.Platform+":"+strings.ToLower(a.Login)]
			if p == 0 && strings.HasPrefix(a.ID, people.Provisional) {
				p = both[0]
			}
			if p == 0 {
				p = both[1]
			}
			if p > 0 && r.Person > 0 && p != r.Person {
				r.Why, r.Person = "accounts: belong to two people of the book; merge those first, or give each account a row of its own", 0
				break
			}
			if p > 0 {
				r.Person = p
			}
		}
		if r.Why != "" {
			r.Person = 0
		}
	}
	return nil
}

func (st *stager) keep(rows []tables.ImportRow) error {
	n := len(rows)
	nums, persons := make([]int64, n), make([]int64, n)
	verdicts, names, whys, cards, changes := make([]string, n), make([]string, n), make([]string, n), make([]*string, n), make([]string, n)
	for i := range rows {
		r := &rows[i]
		nums[i], persons[i], verdicts[i], names[i], whys[i], changes[i] = int64(r.Row), r.Person, r.Verdict, printable(r.Name), printable(r.Why), string(r.Changes)
		if len(r.Card) > 0 {
			card := string(r.Card)
			cards[i] = &card
		}
	}
	_, err := st.s.SQL.ExecContext(st.ctx, `INSERT INTO import_rows (import, row, verdict, name, why, card, changes, person)
		SELECT $1, * FROM unnest($2::bigint[], $3::text[], $4::text[], $5::text[], $6::json[], $7::json[], $8::bigint[]) ON CONFLICT DO NOTHING`, st.id, nums, verdicts, names, whys, cards, changes, persons)
	return err
}

// printable keeps what PostgreSQL can hold of a text.
func printable(s string) string {
	return strings.ToValidUTF8(strings.ReplaceAll(s, "\x00", ""), "\uFFFD")
}

// ImportByID finds an import; ErrNone when there is no such one.
func (s *Imports) ByID(ctx context.Context, channel, id int64) (im tables.Import, err error) {
	return im, pg.None(s.DB.WithContext(ctx).Where("channel = ? AND id = ?", channel, id).First(&im).Error)
}

// Imports lists the last imports, newest first.
func (s *Imports) List(ctx context.Context, channel int64, most int) ([]tables.Import, error) {
	out := []tables.Import{}
	return out, s.DB.WithContext(ctx).Where("channel = ?", channel).Order("id DESC").Limit(most).Find(&out).Error
}

// ImportRows lists rows of an import with a verdict, in the file's order, after a row.
func (s *Imports) Rows(ctx context.Context, id int64, verdict string, after, most int) ([]tables.ImportRow, error) {
	out := []tables.ImportRow{}
	return out, s.DB.WithContext(ctx).Omit("card", "back").Where("import = ? AND verdict = ? AND row > ?", id, verdict, after).Order("row").Limit(most).Find(&out).Error
}

// DropImport forgets a preview that is not wanted.
func (s *Imports) Drop(ctx context.Context, channel, id int64) error {
	return s.InTx(ctx, channel, func(tx pg.Tx) error {
		res, err := tx.SQL.ExecContext(ctx, `UPDATE imports SET state = 'dropped' WHERE id = $1 AND channel = $2 AND state = 'read'`, id, channel)
		if err != nil {
			return err
		}
		if n, _ := res.RowsAffected(); n == 0 {
			return ErrDone
		}
		for _, q := range []string{`DELETE FROM import_rows WHERE import = $1`, `DELETE FROM import_keys WHERE import = $1`} {
			if _, err := tx.SQL.ExecContext(ctx, q, id); err != nil {
				return err
			}
		}
		return nil
	})
}
