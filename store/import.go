package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"

	"vividporch/core/attendance"
	"vividporch/core/event"
	"vividporch/core/people"
)

// Head is what a file brings besides people: past streams, and crews that are named
// in it.
type Head struct {
	Streams []attendance.Past  `json:"streams"`
	Crews   []event.BookCrewed `json:"crews"`
}

// Source hands out the rows of a file, one after the other; io.EOF ends it.
type Source func() (people.Incoming, error)

// ImportCounts sums up a preview.
type ImportCounts struct {
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

// ErrImport says that an import is not in a state in which this can be done.
var ErrImport = errors.New("this import was taken in, taken back or dropped already")

// Stage reads a file, finds out what taking it in would do, and keeps that: nothing
// in the guest book changes. head may still grow while rows are read.
func (s *Store) Stage(ctx context.Context, channel int64, member, file string, head *Head, next Source) (*Import, error) {
	have, err := s.allStreams(ctx, channel)
	if err != nil {
		return nil, err
	}
	crews, err := s.CrewList(ctx, channel)
	if err != nil {
		return nil, err
	}
	number, fresh := attendance.Join(have, head.Streams)
	known := map[int]bool{}
	for _, p := range append(have, fresh...) {
		known[p.Number] = true
	}
	im := &Import{Channel: channel, Member: member, File: file, State: "read", Head: json.RawMessage("{}"), Counts: json.RawMessage("{}"), Created: time.Now()}
	if err := s.DB.WithContext(ctx).Create(im).Error; err != nil {
		return nil, err
	}
	counts := ImportCounts{Streams: len(fresh)}
	st := stager{s, ctx, channel, im.ID, head, number, known, len(head.Streams) > 0}
	for done := false; !done; {
		page := make([]people.Incoming, 0, importPage)
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
		if !slices.ContainsFunc(crews, func(k CrewCount) bool { return k.ID == c.ID }) {
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
	s       *Store
	ctx     context.Context
	channel int64
	id      int64
	head    *Head
	number  map[int]int // the file's numbers of streams → ours
	known   map[int]bool
	mapped  bool
}

// page finds out what rows would do and keeps it.
func (st *stager) page(page []people.Incoming, counts *ImportCounts) error {
	if len(page) == 0 {
		return nil
	}
	rows := make([]ImportRow, len(page))
	for i := range page {
		in := &page[i]
		rows[i] = ImportRow{Import: st.id, Row: in.Row, Name: in.Name, Why: in.Why}
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
	cards := map[int64]*people.Card{}
	if len(persons) > 0 {
		records, err := readRecords(st.ctx, st.s.SQL, st.channel, 0, persons, nil)
		if err != nil {
			return err
		}
		for i := range records {
			c := records[i].card()
			cards[records[i].id] = &c
		}
	}
	for i := range rows {
		r := &rows[i]
		var changes []people.Change
		switch {
		case r.Why != "":
			r.Verdict = Refused
			counts.Refused++
		case r.Person == 0:
			r.Verdict = New
			counts.New++
		default:
			if changes = people.Diff(cards[r.Person], &page[i].Card); len(changes) > 0 {
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
func (st *stager) streams(c *people.Card) string {
	swap := func(n int) (int, bool) {
		if st.mapped {
			m, ok := st.number[n]
			return m, ok
		}
		return n, st.known[n]
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
func (st *stager) repeats(page []people.Incoming, rows []ImportRow) error {
	var keys []string
	var nums []int
	for i := range page {
		if rows[i].Why == "" {
			for _, k := range page[i].Card.Keys() {
				keys, nums = append(keys, k), append(nums, page[i].Row)
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
func (st *stager) match(page []people.Incoming, rows []ImportRow) error {
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
	forgotten, err := st.s.IsForgotten(st.ctx, st.channel, keys)
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

func (st *stager) keep(rows []ImportRow) error {
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

// allStreams lists every stream of a channel that is over, oldest first.
func (s *Store) allStreams(ctx context.Context, channel int64) ([]attendance.Past, error) {
	var list []Stream
	if err := s.DB.WithContext(ctx).Where("channel = ? AND closed IS NOT NULL", channel).Order("number").Find(&list).Error; err != nil {
		return nil, err
	}
	out := make([]attendance.Past, len(list))
	for i, st := range list {
		out[i] = attendance.Past{Number: st.Number, Opened: st.Opened, Closed: *st.Closed}
	}
	return out, nil
}

// ImportByID finds an import; ErrNone when there is no such one.
func (s *Store) ImportByID(ctx context.Context, channel, id int64) (im Import, err error) {
	return im, none(s.DB.WithContext(ctx).Where("channel = ? AND id = ?", channel, id).First(&im).Error)
}

// Imports lists the last imports, newest first.
func (s *Store) Imports(ctx context.Context, channel int64, most int) ([]Import, error) {
	out := []Import{}
	return out, s.DB.WithContext(ctx).Where("channel = ?", channel).Order("id DESC").Limit(most).Find(&out).Error
}

// ImportRows lists rows of an import with a verdict, in the file's order, after a row.
func (s *Store) ImportRows(ctx context.Context, id int64, verdict string, after, most int) ([]ImportRow, error) {
	out := []ImportRow{}
	return out, s.DB.WithContext(ctx).Omit("card", "back").Where("import = ? AND verdict = ? AND row > ?", id, verdict, after).Order("row").Limit(most).Find(&out).Error
}

// Apply takes an import in, in one transaction. It returns the channel's last
// streams as they stand afterwards when it added some.
func (s *Store) Apply(ctx context.Context, channel, id int64, k *Reckoning) (*event.BookImported, error) {
	im, err := s.ImportByID(ctx, channel, id)
	if err != nil {
		return nil, err
	}
	var counts ImportCounts
	if err := json.Unmarshal(im.Counts, &counts); err != nil {
		return nil, err
	}
	var head Head
	if err := json.Unmarshal(im.Head, &head); err != nil {
		return nil, err
	}
	person, err := s.NewPeople(ctx, channel, counts.New)
	if err != nil {
		return nil, err
	}
	done := &event.BookImported{Import: id, File: im.File, New: counts.New, Changed: counts.Changed, Member: im.Member}
	if err := s.inTx(ctx, func(tx *sql.Tx) error {
		res, err := tx.ExecContext(ctx, `UPDATE imports SET state = 'applied', applied = now() WHERE id = $1 AND state = 'read'`, id)
		if err != nil {
			return err
		}
		if n, _ := res.RowsAffected(); n == 0 {
			return ErrImport
		}
		w := writer{ctx, tx, channel}
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
			if err := refresh(ctx, tx, channel, k.with(done.Past), persons, nil); err != nil {
				return err
			}
			after = page[len(page)-1].row
		}
	}); err != nil {
		return nil, err
	}
	return done, s.analyze(ctx)
}

// newCrews makes crews that are not there yet.
func (w writer) newCrews(crews []event.BookCrewed) error {
	for _, c := range crews {
		if err := w.exec(`INSERT INTO crews (channel, id, name, emblem, initials, created) VALUES ($1,$2,$3,$4,$5,now()) ON CONFLICT DO NOTHING`, w.channel, c.ID, c.Name, c.Emblem, c.Initials); err != nil {
			return err
		}
	}
	return nil
}

// knownRegulars marks regulars that were brought in as known to be so: nobody has
// to be told of them.
func (w writer) knownRegulars() error {
	return w.exec(`UPDATE people SET regular_since = first_seen WHERE channel = $1 AND listed AND standing = 'regular' AND regular_since IS NULL`, w.channel)
}

// with is a reckoning that knows further past streams.
func (r *Reckoning) with(past []event.PastStream) *Reckoning {
	if len(past) == 0 {
		return r
	}
	next := *r
	for _, p := range past {
		next.Past = attendance.Add(next.Past, attendance.Past(p))
	}
	return &next
}

// replaced is a reckoning with other past streams.
func (r *Reckoning) replaced(past []event.PastStream) *Reckoning {
	next := *r
	next.Past = nil
	return next.with(past)
}

func (s *Store) inTx(ctx context.Context, f func(*sql.Tx) error) error {
	tx, err := s.SQL.BeginTx(ctx, nil)
	if err != nil {
		return err
	}
	defer tx.Rollback()
	if err := f(tx); err != nil {
		return err
	}
	return tx.Commit()
}

// pastStreams adds streams and returns the channel's last ones.
func (w writer) pastStreams(fresh []attendance.Past, id int64) ([]event.PastStream, error) {
	if len(fresh) == 0 {
		return nil, nil
	}
	for _, p := range fresh {
		if err := w.exec(`INSERT INTO streams (channel, number, opened, closed, import) VALUES ($1,$2,$3,$4,$5) ON CONFLICT DO NOTHING`, w.channel, p.Number, p.Opened, p.Closed, id); err != nil {
			return nil, err
		}
	}
	return w.lastStreams()
}

func (w writer) lastStreams() ([]event.PastStream, error) {
	rows, err := w.tx.QueryContext(w.ctx, `SELECT number, opened, closed FROM streams WHERE channel = $1 AND closed IS NOT NULL ORDER BY number DESC LIMIT $2`, w.channel, attendance.StripLength)
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
	rows, err := w.tx.QueryContext(w.ctx, `SELECT number, opened FROM streams WHERE channel = $1`, w.channel)
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
	card   people.Card
}

// staged reads the next rows that change something; new people get their numbers.
func (w writer) staged(id int64, after int, person *int64) ([]arrival, error) {
	rows, err := w.tx.QueryContext(w.ctx, `SELECT row, verdict, person, card FROM import_rows WHERE import = $1 AND row > $2 AND verdict IN ('new', 'changed') ORDER BY row LIMIT $3`, id, after, 2*importPage)
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
		fetched                                    []*string
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
	hands []change
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
	records := map[int64]*record{}
	if len(known) > 0 {
		list, err := readRecords(w.ctx, w.tx, w.channel, 0, known, nil)
		if err != nil {
			return err
		}
		for i := range list {
			records[list[i].id] = &list[i]
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
func (c *carried) take(a *arrival, have *record, opened map[int]time.Time) (takenBack, error) {
	var back takenBack
	card := &a.card
	var mine people.Card
	if have == nil {
		raw, err := json.Marshal(card.Hand)
		if err != nil {
			return back, err
		}
		c.people.ids, c.people.hands = append(c.people.ids, a.person), append(c.people.hands, string(raw))
	} else {
		mine = have.card()
		edit := event.Edit{Set: card.Hand, AddTags: card.Tags, AddCrews: card.Crews, AddRoles: card.Hand.Roles}
		edit.Set.Tags, edit.Set.Crews, edit.Set.Roles = nil, nil, nil
		var hands []event.Hand
		for _, h := range have.hands {
			hands = append(hands, h.Hand)
		}
		next, undo := people.Apply(edit, hands)
		if !people.IsNothing(undo[0]) {
			back.Record, back.Edit, back.Back = have.hands[0].ID, edit, undo[0]
			c.hands = append(c.hands, change{ID: have.hands[0].ID, Hand: next[0]})
		}
	}
	var keyOfFirst string
	for i := range card.Accounts {
		ca := &card.Accounts[i]
		key := ca.Key()
		known := have.accountOf(ca)
		if known != nil {
			key = known.Key
			if ca.Followed != nil && (known.Followed == nil || ca.Followed.Before(*known.Followed)) {
				if back.Followed == nil {
					back.Followed = map[string][2]*time.Time{}
				}
				back.Followed[key] = [2]*time.Time{known.Followed, ca.Followed}
			}
		} else {
			c.account(a.person, ca, card, opened)
		}
		if i == 0 {
			keyOfFirst = key
		}
		for _, was := range ca.Was {
			if known == nil || !slices.ContainsFunc(have.logins, func(l loginRow) bool { return l.Key == key && l.Login == was }) {
				c.login(key, was, was, time.Unix(0, 0), time.Unix(0, 0))
			}
		}
		for _, v := range ca.Visits {
			if !slices.Contains(mine.Streams, v.Stream) {
				c.visit(key, v)
			}
		}
	}
	for _, n := range card.Streams {
		if slices.Contains(mine.Streams, n) || slices.ContainsFunc(card.Accounts, func(ca people.CardAccount) bool {
			return slices.ContainsFunc(ca.Visits, func(v people.Visit) bool { return v.Stream == n })
		}) {
			continue
		}
		c.visit(keyOfFirst, people.Visit{Stream: n, First: opened[n], Last: opened[n]})
	}
	for _, r := range card.Raids {
		if !slices.ContainsFunc(mine.Raids, func(h people.CardRaid) bool { return h.Way == r.Way && h.At.Equal(r.At) }) {
			c.raids.keys, c.raids.ways, c.raids.viewers, c.raids.at = append(c.raids.keys, keyOfFirst), append(c.raids.ways, r.Way), append(c.raids.viewers, r.Viewers), append(c.raids.at, r.At)
		}
	}
	return back, nil
}

// accountOf finds the account of a record that a card means, or nil.
func (r *record) accountOf(ca *people.CardAccount) *accountRow {
	if r == nil {
		return nil
	}
	for i := range r.accounts {
		a := &r.accounts[i]
		if a.Key == ca.Key() || a.Platform == ca.Platform && strings.HasPrefix(ca.ID, people.Provisional) && strings.EqualFold(a.Login, ca.Login) {
			return a
		}
	}
	return nil
}

func (c *carried) account(person int64, ca *people.CardAccount, card *people.Card, opened map[int]time.Time) {
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
	for _, n := range card.Streams {
		note(opened[n])
	}
	for _, v := range ca.Visits {
		note(v.First)
		note(v.Last)
	}
	for _, t := range []*time.Time{card.FirstSeen, card.LastSeen, ca.Followed} {
		if t != nil {
			note(*t)
		}
	}
	if first.IsZero() {
		first, last = time.Unix(0, 0), time.Unix(0, 0)
	}
	var fetched *string
	if f := card.Fetched; f != nil {
		g := *f
		g.Streams = true
		if raw, err := json.Marshal(g); err == nil {
			s := string(raw)
			fetched = &s
		}
	}
	lines := ca.Lines // visits bring theirs along
	for _, v := range ca.Visits {
		lines -= v.Lines
	}
	t := &c.accounts
	t.keys, t.platforms, t.ids, t.logins, t.names = append(t.keys, ca.Key()), append(t.platforms, ca.Platform), append(t.ids, ca.ID), append(t.logins, ca.Login), append(t.names, ca.Shown())
	t.roles, t.persons, t.lines = append(t.roles, rolesText(ca.Roles)), append(t.persons, person), append(t.lines, max(0, lines))
	t.first, t.last, t.followed, t.fetched = append(t.first, first), append(t.last, last), append(t.followed, ca.Followed), append(t.fetched, fetched)
	if ca.Login != "" {
		c.login(ca.Key(), ca.Login, ca.Shown(), first, last)
	}
}

func (c *carried) login(key, login, name string, first, last time.Time) {
	t := &c.logins
	t.keys, t.logins, t.names, t.first, t.last = append(t.keys, key), append(t.logins, login), append(t.names, name), append(t.first, first), append(t.last, last)
}

func (c *carried) visit(key string, v people.Visit) {
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
		{len(a.keys), `INSERT INTO accounts (channel, key, person, home, platform, id, login, name, roles, told, first_seen, last_seen, lines, followed, fetched, import)
			SELECT $1, u.key, u.person, u.person, u.platform, u.id, u.login, u.name, u.roles, u.last, u.first, u.last, u.lines, u.followed, u.fetched, $2
			FROM unnest($3::text[], $4::bigint[], $5::text[], $6::text[], $7::text[], $8::text[], $9::text[], $10::timestamptz[], $11::timestamptz[], $12::bigint[], $13::timestamptz[], $14::json[])
				AS u(key, person, platform, id, login, name, roles, first, last, lines, followed, fetched) ON CONFLICT DO NOTHING`,
			[]any{id, a.keys, a.persons, a.platforms, a.ids, a.logins, a.names, a.roles, a.first, a.last, a.lines, a.followed, a.fetched}},
		{len(fKeys), `UPDATE accounts t SET followed = u.at FROM unnest($3::text[], $4::timestamptz[]) AS u(key, at) WHERE t.channel = $1 AND t.key = u.key AND $2::bigint IS NOT NULL`, []any{id, fKeys, fAt}},
		{len(l.keys), `INSERT INTO account_logins (channel, key, login, name, first, last, import)
			SELECT $1, u.*, $2 FROM unnest($3::text[], $4::text[], $5::text[], $6::timestamptz[], $7::timestamptz[]) AS u ON CONFLICT DO NOTHING`, []any{id, l.keys, l.logins, l.names, l.first, l.last}},
		{len(v.keys), `WITH v AS (INSERT INTO visits (channel, key, stream, lines, first, last, import)
			SELECT $1, u.*, $2 FROM unnest($3::text[], $4::int[], $5::bigint[], $6::timestamptz[], $7::timestamptz[]) AS u ON CONFLICT DO NOTHING RETURNING key, lines)
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
		if err := w.exec(q.sql, append([]any{w.channel}, q.args...)...); err != nil {
			return err
		}
	}
	return nil
}

// Undo takes an import back, in one transaction: people it made go unless something
// happened with them since, fields go back where they still stand as it set them.
func (s *Store) UndoImport(ctx context.Context, channel, id int64, k *Reckoning) (*event.BookImported, error) {
	im, err := s.ImportByID(ctx, channel, id)
	if err != nil {
		return nil, err
	}
	done := &event.BookImported{Import: id, File: im.File, Undone: true, Member: im.Member}
	return done, s.inTx(ctx, func(tx *sql.Tx) error {
		res, err := tx.ExecContext(ctx, `UPDATE imports SET state = 'undone' WHERE id = $1 AND state = 'applied'`, id)
		if err != nil {
			return err
		}
		if n, _ := res.RowsAffected(); n == 0 {
			return ErrImport
		}
		w := writer{ctx, tx, channel}
		for _, q := range []string{
			`WITH v AS (DELETE FROM visits WHERE channel = $1 AND import = $2 RETURNING key, lines)
				UPDATE accounts a SET lines = greatest(0, a.lines - v.n) FROM (SELECT key, sum(lines) AS n FROM v GROUP BY key) v WHERE a.channel = $1 AND a.key = v.key`,
			`DELETE FROM raids WHERE channel = $1 AND import = $2`,
			`DELETE FROM account_logins WHERE channel = $1 AND import = $2`,
			`DELETE FROM accounts a WHERE channel = $1 AND import = $2 AND claimed = '' AND NOT EXISTS (SELECT 1 FROM visits v WHERE v.channel = a.channel AND v.key = a.key) AND NOT EXISTS (SELECT 1 FROM account_logins l WHERE l.channel = a.channel AND l.key = a.key)`,
		} {
			if err := w.exec(q, channel, id); err != nil {
				return err
			}
		}
		res, err = tx.ExecContext(ctx, `DELETE FROM streams s WHERE channel = $1 AND import = $2 AND NOT EXISTS (SELECT 1 FROM visits v WHERE v.channel = s.channel AND v.stream = s.number)`, channel, id)
		if err != nil {
			return err
		}
		if n, _ := res.RowsAffected(); n > 0 {
			if done.Past, err = w.lastStreams(); err != nil {
				return err
			}
			k = k.replaced(done.Past)
		}
		for after := 0; ; {
			persons, last, err := w.takeBack(id, after)
			if err != nil {
				return err
			}
			if last == 0 {
				break
			}
			if err := refresh(ctx, tx, channel, k, persons, nil); err != nil {
				return err
			}
			after = last
		}
		for _, q := range []string{
			`DELETE FROM find_words f USING people p WHERE f.channel = $1 AND p.channel = $1 AND p.id = f.person AND p.import = $2 AND NOT EXISTS (SELECT 1 FROM accounts a WHERE a.channel = $1 AND a.person = p.id)`,
			`DELETE FROM finds f USING people p WHERE f.channel = $1 AND p.channel = $1 AND p.id = f.person AND p.import = $2 AND NOT EXISTS (SELECT 1 FROM accounts a WHERE a.channel = $1 AND a.person = p.id)`,
			`DELETE FROM people p WHERE p.channel = $1 AND p.import = $2 AND NOT EXISTS (SELECT 1 FROM accounts a WHERE a.channel = $1 AND (a.person = p.id OR a.home = p.id)) AND NOT EXISTS (SELECT 1 FROM people c WHERE c.channel = $1 AND c.merged_into = p.id)`,
		} {
			if err := w.exec(q, channel, id); err != nil {
				return err
			}
		}
		return nil
	})
}

// takeBack undoes the fields of the next rows and tells whose they are.
func (w writer) takeBack(id int64, after int) (persons []int64, last int, err error) {
	rows, err := w.tx.QueryContext(w.ctx, `SELECT r.row, r.person, r.back, p.hand FROM import_rows r LEFT JOIN people p ON p.channel = $1 AND p.id = (r.back->>'record')::bigint
		WHERE r.import = $2 AND r.row > $3 AND r.verdict IN ('new', 'changed') AND r.back IS NOT NULL ORDER BY r.row LIMIT $4`, w.channel, id, after, 2*importPage)
	if err != nil {
		return nil, 0, err
	}
	defer rows.Close()
	var changes []change
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
			changes = append(changes, change{ID: b.Record, Hand: next[0]})
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
		if err := w.exec(`UPDATE people p SET hand = u.hand FROM json_to_recordset($2) AS u(id bigint, hand json) WHERE p.channel = $1 AND p.id = u.id`, w.channel, string(raw)); err != nil {
			return nil, 0, err
		}
	}
	if len(keys) > 0 {
		if err := w.exec(`UPDATE accounts t SET followed = u.was FROM unnest($2::text[], $3::timestamptz[], $4::timestamptz[]) AS u(key, was, is_now) WHERE t.channel = $1 AND t.key = u.key AND t.followed = u.is_now`, w.channel, keys, was, is); err != nil {
			return nil, 0, err
		}
	}
	return persons, last, nil
}

// DropImport forgets a preview that is not wanted.
func (s *Store) DropImport(ctx context.Context, channel, id int64) error {
	return s.inTx(ctx, func(tx *sql.Tx) error {
		res, err := tx.ExecContext(ctx, `UPDATE imports SET state = 'dropped' WHERE id = $1 AND channel = $2 AND state = 'read'`, id, channel)
		if err != nil {
			return err
		}
		if n, _ := res.RowsAffected(); n == 0 {
			return ErrImport
		}
		for _, q := range []string{`DELETE FROM import_rows WHERE import = $1`, `DELETE FROM import_keys WHERE import = $1`} {
			if _, err := tx.ExecContext(ctx, q, id); err != nil {
				return err
			}
		}
		return nil
	})
}
