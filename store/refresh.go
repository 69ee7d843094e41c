package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"slices"
	"strings"
	"time"

	"vividporch/core/attendance"
	"vividporch/core/event"
	"vividporch/core/people"
	"vividporch/core/plain"
)

// Reckoning is what standings are worked out from, as the owner of a channel knows
// it: the rules, the streams before the one that is on, and the present.
type Reckoning struct {
	Rules people.Rules
	Past  []attendance.Past
	Now   time.Time
	Zone  *time.Location
}

// before is the number of the stream that is on or comes next: what lies below it
// is history.
func (r *Reckoning) before() int {
	if n := len(r.Past); n > 0 {
		return r.Past[n-1].Number + 1
	}
	return 1
}

// record is all that the book holds of a person, over all records and accounts
// found under one number.
type record struct {
	id       int64
	hands    []handRow
	accounts []accountRow
	logins   []loginRow
	streams  []int
	first    *time.Time
	last     *time.Time // first moment of the last visit
	previous *time.Time // and of the last one before the stream that is on
	raids    []raidRow
	came     int64 // number of the raid they came with
	support  int64 // times they gave something
}

type handRow struct {
	ID   int64      `json:"id"`
	Into int64      `json:"into"`
	Hand event.Hand `json:"hand"`
}

type accountRow struct {
	Key       string          `json:"key"`
	Home      int64           `json:"home"`
	Platform  string          `json:"platform"`
	ID        string          `json:"id"`
	Login     string          `json:"login"`
	Name      string          `json:"name"`
	Roles     string          `json:"roles"`
	Told      time.Time       `json:"told"`
	FirstSeen time.Time       `json:"first_seen"`
	LastSeen  time.Time       `json:"last_seen"`
	Lines     int64           `json:"lines"`
	Followed  *time.Time      `json:"followed"`
	Fetched   *people.Fetched `json:"fetched"`
	Claimed   string          `json:"claimed"`
	Nick      bool            `json:"nick"`

	Kept map[string]json.RawMessage `json:"kept"`
}

type loginRow struct {
	Key   string    `json:"key"`
	Login string    `json:"login"`
	Name  string    `json:"name"`
	First time.Time `json:"first"`
	Last  time.Time `json:"last"`
}

type raidRow struct {
	Seq     int64     `json:"seq"`
	Way     string    `json:"way"`
	Viewers int64     `json:"viewers"`
	At      time.Time `json:"at"`
	Thanked bool      `json:"thanked"`
}

// queryer is a connection, a transaction or the pool.
type queryer interface {
	QueryContext(context.Context, string, ...any) (*sql.Rows, error)
	ExecContext(context.Context, string, ...any) (sql.Result, error)
}

// readRecords reads the records of persons, given by the numbers they are found
// under or by account keys, in one query.
func readRecords(ctx context.Context, q queryer, channel int64, before int, persons []int64, keys []string) ([]record, error) {
	// The people wanted come first, whatever the planner thinks of their number; the
	// rest is looked up by index for each.
	rows, err := q.QueryContext(ctx, `WITH want AS MATERIALIZED (SELECT unnest($2::bigint[]) AS id UNION SELECT k.person FROM accounts k WHERE k.channel = $1 AND k.key = ANY($3::text[]))
		SELECT w.id,
			(SELECT json_agg(json_build_object('id', h.id, 'into', h.merged_into, 'hand', h.hand) ORDER BY h.id <> w.id, h.id) FROM people h WHERE h.channel = $1 AND h.root = w.id) AS hands,
			(SELECT json_agg(row_to_json(a) ORDER BY a.key) FROM accounts a WHERE a.channel = $1 AND a.person = w.id),
			(SELECT json_agg(row_to_json(n)) FROM accounts a JOIN account_logins n ON n.channel = $1 AND n.key = a.key WHERE a.channel = $1 AND a.person = w.id),
			v.streams, v.first, v.last, v.previous,
			(SELECT json_agg(json_build_object('seq', f.seq, 'way', f.way, 'viewers', f.viewers, 'at', f.at, 'thanked', f.thanked) ORDER BY f.at)
				FROM accounts a JOIN raids f ON f.channel = $1 AND f.key = a.key WHERE a.channel = $1 AND a.person = w.id),
			(SELECT f.seq FROM raids f WHERE f.channel = $1 AND f.way = 'came' AND f.at <= v.first AND f.at >= v.first - make_interval(secs => $4)
				AND NOT EXISTS (SELECT 1 FROM accounts a WHERE a.channel = $1 AND a.person = w.id AND a.key = f.key) ORDER BY f.at DESC LIMIT 1),
			(SELECT count(*) FROM accounts a JOIN supports u ON u.channel = $1 AND u.key = a.key WHERE a.channel = $1 AND a.person = w.id)
		FROM want w LEFT JOIN LATERAL (SELECT json_agg(DISTINCT v.stream) AS streams, min(v.first) AS first, max(v.first) AS last, max(v.first) FILTER (WHERE v.stream < $5) AS previous
			FROM accounts a JOIN visits v ON v.channel = $1 AND v.key = a.key WHERE a.channel = $1 AND a.person = w.id) v ON true
		WHERE EXISTS (SELECT 1 FROM people p WHERE p.channel = $1 AND p.id = w.id) ORDER BY w.id`, channel, persons, keys, attendance.RaidWindow.Seconds(), before)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []record
	for rows.Next() {
		var r record
		var hands, accounts, logins, streams, raids []byte
		var came sql.NullInt64
		if err := rows.Scan(&r.id, &hands, &accounts, &logins, &streams, &r.first, &r.last, &r.previous, &raids, &came, &r.support); err != nil {
			return nil, err
		}
		r.came = came.Int64
		for raw, into := range map[*[]byte]any{&hands: &r.hands, &accounts: &r.accounts, &logins: &r.logins, &streams: &r.streams, &raids: &r.raids} {
			if len(*raw) > 0 {
				if err := json.Unmarshal(*raw, into); err != nil {
					return nil, err
				}
			}
		}
		slices.Sort(r.streams)
		out = append(out, r)
	}
	return out, rows.Err()
}

// hand is what is set by hand about the whole person.
func (r *record) hand() event.Hand {
	var hands []event.Hand
	for _, h := range r.hands {
		hands = append(hands, h.Hand)
	}
	return people.Union(hands...)
}

// current is the account heard of last, provisional ones last of all.
func (r *record) current() *accountRow {
	var c *accountRow
	for i := range r.accounts {
		a := &r.accounts[i]
		provisional := func(a *accountRow) bool { return strings.HasPrefix(a.ID, people.Provisional) }
		switch {
		case c == nil, provisional(c) && !provisional(a):
			c = a
		case provisional(a) && !provisional(c):
		case a.Told.After(c.Told):
			c = a
		}
	}
	return c
}

// derived is what is worked out of a record and kept in its row.
type derived struct {
	ID           int64      `json:"id"`
	Listed       bool       `json:"listed"`
	Name         string     `json:"name"`
	SortName     string     `json:"sort_name"`
	SayAs        string     `json:"say_as"`
	Pronouns     string     `json:"pronouns"`
	Zone         string     `json:"zone"`
	LeaveBe      bool       `json:"leave_be"`
	Trusted      bool       `json:"trusted"`
	Fellow       bool       `json:"fellow"`
	BirthMonth   int        `json:"birth_month"`
	BirthDay     int        `json:"birth_day"`
	BirthYear    int        `json:"birth_year"`
	Tags         []string   `json:"tags"`
	Crews        []string   `json:"crews"`
	Roles        []string   `json:"roles"`
	HandRoles    []string   `json:"hand_roles"`
	Platforms    []string   `json:"platforms"`
	FirstSeen    *time.Time `json:"first_seen"`
	LastSeen     *time.Time `json:"last_seen"`
	Attended     int        `json:"attended"`
	MaskAt       int        `json:"mask_at"`
	MaskBits     int64      `json:"mask_bits"`
	FirstStream  int        `json:"first_stream"`
	SecondStream int        `json:"second_stream"`
	Standing     string     `json:"standing"`
	Followed     *time.Time `json:"followed"`
	RaidsIn      int        `json:"raids_in"`
	RaidsOut     int        `json:"raids_out"`
	Unthanked    bool       `json:"unthanked"`
	WithRaid     int64      `json:"with_raid"`
	Lines        int64      `json:"lines"`
	Support      int64      `json:"support"`
	Find         string     `json:"find"`
	Words        []string   `json:"words"` // that Find is made of
}

// derive works out a person's row.
func (r *record) derive(k *Reckoning) derived {
	h := r.hand()
	d := derived{ID: r.id, SayAs: people.Text(h.SayAs), Pronouns: people.Text(h.Pronouns), Zone: people.Text(h.Zone), LeaveBe: people.Yes(h.LeaveBe), Trusted: people.Yes(h.Trusted),
		Tags: list(h.Tags), Crews: list(h.Crews), Roles: []string{}, HandRoles: []string{}, Platforms: []string{}, FirstSeen: r.first, LastSeen: r.last, Attended: len(r.streams), Support: r.support}
	if b := h.Birthday; b != nil {
		d.BirthMonth, d.BirthDay, d.BirthYear = int(b.Month), b.Day, b.Year
	}
	d.Fellow = people.Yes(h.Fellow) || len(h.Crews) > 0
	finds := []string{d.SayAs, people.Text(h.Note)}
	finds = append(finds, d.Tags...)
	for i := range r.accounts {
		a := &r.accounts[i]
		d.Platforms = more(d.Platforms, a.Platform)
		d.Lines += a.Lines
		for _, role := range strings.FieldsFunc(a.Roles, func(r rune) bool { return r == ',' }) {
			d.Roles = more(d.Roles, role)
		}
		if a.Followed != nil && (d.Followed == nil || a.Followed.Before(*d.Followed)) {
			d.Followed = a.Followed
		}
		d.Fellow = d.Fellow || a.Fetched != nil && a.Fetched.Streams
		if d.FirstSeen == nil || r.first == nil && a.FirstSeen.Before(*d.FirstSeen) {
			d.FirstSeen = &a.FirstSeen
		}
		if d.LastSeen == nil || r.last == nil && a.LastSeen.After(*d.LastSeen) {
			d.LastSeen = &a.LastSeen
		}
		finds = append(finds, a.Login, a.Name)
	}
	for _, l := range r.logins {
		finds = append(finds, l.Login, l.Name)
	}
	for _, role := range h.Roles {
		d.Roles, d.HandRoles = more(d.Roles, string(role)), more(d.HandRoles, string(role))
	}
	if h.Fellow != nil && !*h.Fellow { // a hand says no, whatever the platform tells
		d.Fellow = len(h.Crews) > 0
	}
	if c := r.current(); c != nil && !strings.HasPrefix(c.ID, anonymous) {
		d.Listed = true
		d.Name = plain.Name(c.Name)
		if d.Name == "" {
			d.Name = plain.Name(c.Login)
		}
		if d.Name == "" {
			d.Name = c.ID
		}
		d.SortName = plain.Fold(d.Name)
	}
	if n := len(r.streams); n > 0 {
		m := attendance.MaskOf(r.streams[n-1], r.streams)
		d.MaskAt, d.MaskBits, d.FirstStream = m.At, int64(m.Bits), r.streams[0]
		if n > 1 {
			d.SecondStream = r.streams[1]
		}
	}
	for _, f := range r.raids {
		if f.Way == "came" {
			d.RaidsIn++
			d.Unthanked = d.Unthanked || !f.Thanked
		} else {
			d.RaidsOut++
		}
	}
	d.WithRaid = r.came
	standing, _ := r.standing(k)
	d.Standing = string(standing)
	d.Find = people.FindText(finds)
	d.Words = people.FindWords(d.Find)
	return d
}

// standing is how the person stands before the stream that is on, or the next.
func (r *record) standing(k *Reckoning) (people.Standing, string) {
	before := k.before()
	known := &people.Known{LastSeen: r.previous}
	for _, n := range r.streams {
		if n < before {
			known.Attended++
			known.Recent = append(known.Recent, n)
		}
	}
	return k.Rules.Standing(known, k.Past, k.Now, k.Zone)
}

func list(l []string) []string {
	if l == nil {
		return []string{}
	}
	return l
}

func more(list []string, s string) []string {
	if slices.Contains(list, s) {
		return list
	}
	return append(list, s)
}

// refresh works out anew the rows of persons, given by number or by account key.
// It is the one way in which those columns come about: they depend on nothing but
// the records, the accounts and what is kept with them, so the order in which
// things became known does not matter.
func refresh(ctx context.Context, q queryer, channel int64, k *Reckoning, persons []int64, keys []string) error {
	if len(persons)+len(keys) == 0 {
		return nil
	}
	records, err := readRecords(ctx, q, channel, k.before(), persons, keys)
	if err != nil || len(records) == 0 {
		return err
	}
	rows := make([]derived, len(records))
	for i := range records {
		rows[i] = records[i].derive(k)
	}
	return writeDerived(ctx, q, channel, rows)
}

// derivedColumns are the columns of a row that are worked out, with their types.
var derivedColumns = []struct{ name, kind string }{
	{"listed", "bool"}, {"name", "text"}, {"sort_name", "text"}, {"say_as", "text"}, {"pronouns", "text"}, {"zone", "text"}, {"leave_be", "bool"}, {"trusted", "bool"}, {"fellow", "bool"},
	{"birth_month", "bigint"}, {"birth_day", "bigint"}, {"birth_year", "bigint"}, {"tags", "text[]"}, {"crews", "text[]"}, {"roles", "text[]"}, {"hand_roles", "text[]"}, {"platforms", "text[]"},
	{"first_seen", "timestamptz"}, {"last_seen", "timestamptz"}, {"attended", "bigint"}, {"mask_at", "bigint"}, {"mask_bits", "bigint"}, {"first_stream", "bigint"}, {"second_stream", "bigint"},
	{"standing", "text"}, {"followed", "timestamptz"}, {"raids_in", "bigint"}, {"raids_out", "bigint"}, {"unthanked", "bool"}, {"with_raid", "bigint"}, {"lines", "bigint"}, {"support", "bigint"},
}

var writeDerivedSQL = func() string {
	var sets, cols []string
	for _, c := range derivedColumns {
		sets, cols = append(sets, c.name+" = d."+c.name), append(cols, c.name+" "+c.kind)
	}
	return `WITH d AS MATERIALIZED (SELECT * FROM json_to_recordset($2) AS d(id bigint, find text, words text[], ` + strings.Join(cols, ", ") + `)),
		f AS (INSERT INTO finds (channel, person, text) SELECT $1, d.id, d.find FROM d WHERE d.listed ORDER BY d.id
			ON CONFLICT (channel, person) DO UPDATE SET text = excluded.text WHERE finds.text <> excluded.text RETURNING person),
		g AS (DELETE FROM finds USING d WHERE finds.channel = $1 AND finds.person = d.id AND NOT d.listed),
		old AS (DELETE FROM find_words w USING d WHERE w.channel = $1 AND w.person = d.id AND (NOT d.listed OR d.id IN (SELECT person FROM f) AND NOT w.word = ANY(d.words))),
		new AS (INSERT INTO find_words (channel, word, person) SELECT $1, u.word, d.id FROM d JOIN f ON f.person = d.id, unnest(d.words) AS u(word) ORDER BY u.word, d.id ON CONFLICT DO NOTHING)
		UPDATE people p SET ` + strings.Join(sets, ", ") + ` FROM d WHERE p.channel = $1 AND p.id = d.id`
}()

func writeDerived(ctx context.Context, q queryer, channel int64, rows []derived) error {
	raw, err := json.Marshal(rows)
	if err != nil {
		return err
	}
	_, err = q.ExecContext(ctx, writeDerivedSQL, channel, string(raw))
	return err
}

// analyze lets the planner know how much there is, after much was brought in.
func (s *Store) analyze(ctx context.Context) error {
	_, err := s.SQL.ExecContext(ctx, "ANALYZE people, accounts, account_logins, visits, raids, finds, find_words")
	return err
}

// Refresh works out anew the rows of persons.
func (s *Store) Refresh(ctx context.Context, channel int64, k *Reckoning, persons []int64) error {
	for part := range slices.Chunk(persons, 2000) {
		if err := refresh(ctx, s.SQL, channel, k, part, nil); err != nil {
			return err
		}
	}
	return nil
}
