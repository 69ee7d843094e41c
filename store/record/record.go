// Package record is one person of the guest book as the database holds them: what was set
// by hand on each record found under one number, their accounts with names, visits and
// raids, and what is worked out from all of it ([Refresh]).
package record

import (
	"context"
	"database/sql"
	"encoding/json"
	"slices"
	"strings"
	"time"

	"vividporch/core/attendance"
	"vividporch/core/card"
	"vividporch/core/event"
	"vividporch/core/people"
	"vividporch/core/plain"
	"vividporch/core/points"
	"vividporch/store/pg"
)

// Reckoning is what standings are worked out from, as the owner of a channel knows
// it: the rules, the streams before the one that is on, and the present.
type Reckoning struct {
	Rules people.Rules
	Past  []attendance.Past
	Now   time.Time
	Zone  *time.Location

	Points *points.Counting // which epochs of points count; nil where there are no points
}

// Before is the number of the stream that is on or comes next: what lies below it
// is history.
func (r *Reckoning) Before() int {
	if n := len(r.Past); n > 0 {
		return r.Past[n-1].Number + 1
	}
	return 1
}

// Record is all that the book holds of a person, over all records and accounts
// found under one number.
type Record struct {
	ID       int64
	Hands    []Hand
	Accounts []Account
	Logins   []Login
	Streams  []int
	First    *time.Time
	Last     *time.Time // first moment of the last visit
	Previous *time.Time // and of the last one before the stream that is on
	Raids    []Raid
	Came     int64 // number of the raid they came with
	Support  int64 // times they gave something
}

// Hand is what was set by hand on one record, and the record it was merged into; 0 for none.
type Hand struct {
	ID   int64      `json:"id"`
	Into int64      `json:"into"`
	Hand event.Hand `json:"hand"`
}

// Account is an account of theirs, as its row stands.
type Account struct {
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

// Login is a login and name an account was seen under.
type Login struct {
	Key   string    `json:"key"`
	Login string    `json:"login"`
	Name  string    `json:"name"`
	First time.Time `json:"first"`
	Last  time.Time `json:"last"`
}

// Raid is a raid they came with, or that went to them.
type Raid struct {
	Seq     int64     `json:"seq"`
	Way     string    `json:"way"`
	Viewers int64     `json:"viewers"`
	At      time.Time `json:"at"`
	Thanked bool      `json:"thanked"`
}

// Read reads the records of persons, given by the numbers they are found
// under or by account keys, in one query.
func Read(ctx context.Context, q pg.Queryer, channel int64, before int, persons []int64, keys []string) ([]Record, error) {
	// The people wanted come first, whatever the planner thinks of their number, and their
	// channel with them: told that all rows are one channel's, of which it may know nothing
	// yet, it would read all of the channel's for each of them.
	rows, err := q.QueryContext(ctx, `WITH given AS MATERIALIZED (SELECT $1::bigint AS channel, unnest($3::text[]) AS key),
			want AS MATERIALIZED (SELECT $1::bigint AS channel, unnest($2::bigint[]) AS id UNION SELECT k.channel, k.person FROM given g JOIN accounts k ON k.channel = g.channel AND k.key = g.key)
		SELECT w.id,
			(SELECT json_agg(json_build_object('id', h.id, 'into', h.merged_into, 'hand', h.hand) ORDER BY h.id <> w.id, h.id) FROM people h WHERE h.channel = w.channel AND h.root = w.id) AS hands,
			(SELECT json_agg(row_to_json(a) ORDER BY a.key) FROM accounts a WHERE a.channel = w.channel AND a.person = w.id),
			(SELECT json_agg(row_to_json(n)) FROM accounts a JOIN account_logins n ON n.channel = a.channel AND n.key = a.key WHERE a.channel = w.channel AND a.person = w.id),
			v.streams, v.first, v.last, v.previous,
			(SELECT json_agg(json_build_object('seq', f.seq, 'way', f.way, 'viewers', f.viewers, 'at', f.at, 'thanked', f.thanked) ORDER BY f.at)
				FROM accounts a JOIN raids f ON f.channel = a.channel AND f.key = a.key WHERE a.channel = w.channel AND a.person = w.id),
			(SELECT f.seq FROM raids f WHERE f.channel = w.channel AND f.way = 'came' AND f.at <= v.first AND f.at >= v.first - make_interval(secs => $4)
				AND NOT EXISTS (SELECT 1 FROM accounts a WHERE a.channel = w.channel AND a.person = w.id AND a.key = f.key) ORDER BY f.at DESC LIMIT 1),
			(SELECT count(*) FROM accounts a JOIN supports u ON u.channel = a.channel AND u.key = a.key WHERE a.channel = w.channel AND a.person = w.id)
		FROM want w LEFT JOIN LATERAL (SELECT json_agg(DISTINCT v.stream) AS streams, min(v.first) AS first, max(v.first) AS last, max(v.first) FILTER (WHERE v.stream < $5) AS previous
			FROM accounts a JOIN visits v ON v.channel = a.channel AND v.key = a.key WHERE a.channel = w.channel AND a.person = w.id) v ON true
		WHERE EXISTS (SELECT 1 FROM people p WHERE p.channel = w.channel AND p.id = w.id) ORDER BY w.id`, channel, persons, keys, attendance.RaidWindow.Seconds(), before)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []Record
	for rows.Next() {
		var r Record
		var hands, accounts, logins, streams, raids []byte
		var came sql.NullInt64
		if err := rows.Scan(&r.ID, &hands, &accounts, &logins, &streams, &r.First, &r.Last, &r.Previous, &raids, &came, &r.Support); err != nil {
			return nil, err
		}
		r.Came = came.Int64
		for raw, into := range map[*[]byte]any{&hands: &r.Hands, &accounts: &r.Accounts, &logins: &r.Logins, &streams: &r.Streams, &raids: &r.Raids} {
			if len(*raw) > 0 {
				if err := json.Unmarshal(*raw, into); err != nil {
					return nil, err
				}
			}
		}
		slices.Sort(r.Streams)
		out = append(out, r)
	}
	return out, rows.Err()
}

// Hand is what is set by hand about the whole person.
func (r *Record) Hand() event.Hand {
	var hands []event.Hand
	for _, h := range r.Hands {
		hands = append(hands, h.Hand)
	}
	return people.Union(hands...)
}

// Current is the account heard of last, provisional ones last of all.
func (r *Record) Current() *Account {
	var c *Account
	for i := range r.Accounts {
		a := &r.Accounts[i]
		provisional := func(a *Account) bool { return strings.HasPrefix(a.ID, people.Provisional) }
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
	HideDay      bool       `json:"hide_day"`
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
func (r *Record) derive(k *Reckoning) derived {
	h := r.Hand()
	d := derived{ID: r.ID, SayAs: people.Text(h.SayAs), Pronouns: people.Text(h.Pronouns), Zone: people.Text(h.Zone), LeaveBe: people.Yes(h.LeaveBe), HideDay: people.Yes(h.HideDay), Trusted: people.Yes(h.Trusted),
		Tags: list(h.Tags), Crews: list(h.Crews), Roles: []string{}, HandRoles: []string{}, Platforms: []string{}, FirstSeen: r.First, LastSeen: r.Last, Attended: len(r.Streams), Support: r.Support}
	if b := h.Birthday; b != nil {
		d.BirthMonth, d.BirthDay, d.BirthYear = int(b.Month), b.Day, b.Year
	}
	d.Fellow = people.Yes(h.Fellow) || len(h.Crews) > 0
	finds := []string{d.SayAs, people.Text(h.Note)}
	finds = append(finds, d.Tags...)
	for i := range r.Accounts {
		a := &r.Accounts[i]
		d.Platforms = more(d.Platforms, a.Platform)
		d.Lines += a.Lines
		for _, role := range strings.FieldsFunc(a.Roles, func(r rune) bool { return r == ',' }) {
			d.Roles = more(d.Roles, role)
		}
		if a.Followed != nil && (d.Followed == nil || a.Followed.Before(*d.Followed)) {
			d.Followed = a.Followed
		}
		d.Fellow = d.Fellow || a.Fetched != nil && a.Fetched.Streams
		if d.FirstSeen == nil || r.First == nil && a.FirstSeen.Before(*d.FirstSeen) {
			d.FirstSeen = &a.FirstSeen
		}
		if d.LastSeen == nil || r.Last == nil && a.LastSeen.After(*d.LastSeen) {
			d.LastSeen = &a.LastSeen
		}
		finds = append(finds, a.Login, a.Name)
	}
	for _, l := range r.Logins {
		finds = append(finds, l.Login, l.Name)
	}
	for _, role := range h.Roles {
		d.Roles, d.HandRoles = more(d.Roles, string(role)), more(d.HandRoles, string(role))
	}
	if h.Fellow != nil && !*h.Fellow { // a hand says no, whatever the platform tells
		d.Fellow = len(h.Crews) > 0
	}
	if c := r.Current(); c != nil && !strings.HasPrefix(c.ID, Anonymous) {
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
	if n := len(r.Streams); n > 0 {
		m := attendance.MaskOf(r.Streams[n-1], r.Streams)
		d.MaskAt, d.MaskBits, d.FirstStream = m.At, int64(m.Bits), r.Streams[0]
		if n > 1 {
			d.SecondStream = r.Streams[1]
		}
	}
	for _, f := range r.Raids {
		if f.Way == "came" {
			d.RaidsIn++
			d.Unthanked = d.Unthanked || !f.Thanked
		} else {
			d.RaidsOut++
		}
	}
	d.WithRaid = r.Came
	standing, _ := r.Standing(k)
	d.Standing = string(standing)
	d.Find = people.FindText(finds)
	d.Words = people.FindWords(d.Find)
	return d
}

// Standing is how the person stands before the stream that is on, or the next.
func (r *Record) Standing(k *Reckoning) (people.Standing, string) {
	before := k.Before()
	known := &people.Known{LastSeen: r.Previous}
	for _, n := range r.Streams {
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

// Refresh works out anew the rows of persons, given by number or by account key.
// It is the one way in which those columns come about: they depend on nothing but
// the records, the accounts and what is kept with them, so the order in which
// things became known does not matter.
func Refresh(ctx context.Context, q pg.Queryer, channel int64, k *Reckoning, persons []int64, keys []string) error {
	if len(persons)+len(keys) == 0 {
		return nil
	}
	records, err := Read(ctx, q, channel, k.Before(), persons, keys)
	if err != nil || len(records) == 0 {
		return err
	}
	rows := make([]derived, len(records))
	for i := range records {
		rows[i] = records[i].derive(k)
	}
	if err := writeDerived(ctx, q, channel, rows); err != nil || k.Points == nil {
		return err
	}
	return Ranks(ctx, q, channel, *k.Points, persons, keys)
}

// derivedColumns are the columns of a row that are worked out, with their types.
var derivedColumns = []struct{ name, kind string }{
	{"listed", "bool"}, {"name", "text"}, {"sort_name", "text"}, {"say_as", "text"}, {"pronouns", "text"}, {"zone", "text"}, {"leave_be", "bool"}, {"hide_day", "bool"}, {"trusted", "bool"}, {"fellow", "bool"},
	{"birth_month", "bigint"}, {"birth_day", "bigint"}, {"birth_year", "bigint"}, {"tags", "text[]"}, {"crews", "text[]"}, {"roles", "text[]"}, {"hand_roles", "text[]"}, {"platforms", "text[]"},
	{"first_seen", "timestamptz"}, {"last_seen", "timestamptz"}, {"attended", "bigint"}, {"mask_at", "bigint"}, {"mask_bits", "bigint"}, {"first_stream", "bigint"}, {"second_stream", "bigint"},
	{"standing", "text"}, {"followed", "timestamptz"}, {"raids_in", "bigint"}, {"raids_out", "bigint"}, {"unthanked", "bool"}, {"with_raid", "bigint"}, {"support", "bigint"},
}

var writeDerivedSQL = func() string {
	var sets, cols []string
	for _, c := range derivedColumns {
		sets, cols = append(sets, c.name+" = d."+c.name), append(cols, c.name+" "+c.kind)
	}
	return `WITH d AS MATERIALIZED (SELECT $1::bigint AS channel, d.* FROM json_to_recordset($2) AS d(id bigint, lines bigint, find text, words text[], ` + strings.Join(cols, ", ") + `)),
		t AS (INSERT INTO tallies (channel, person, lines) SELECT d.channel, d.id, d.lines FROM d ORDER BY d.id
			ON CONFLICT (channel, person) DO UPDATE SET lines = excluded.lines WHERE tallies.lines <> excluded.lines),
		f AS (INSERT INTO finds (channel, person, text) SELECT d.channel, d.id, d.find FROM d WHERE d.listed ORDER BY d.id
			ON CONFLICT (channel, person) DO UPDATE SET text = excluded.text WHERE finds.text <> excluded.text RETURNING person),
		g AS (DELETE FROM finds USING d WHERE finds.channel = d.channel AND finds.person = d.id AND NOT d.listed),
		old AS (DELETE FROM find_words w USING d WHERE w.channel = d.channel AND w.person = d.id AND (NOT d.listed OR d.id IN (SELECT person FROM f) AND NOT w.word = ANY(d.words))),
		new AS (INSERT INTO find_words (channel, word, person) SELECT d.channel, u.word, d.id FROM d JOIN f ON f.person = d.id, unnest(d.words) AS u(word) ORDER BY u.word, d.id ON CONFLICT DO NOTHING),
		counts AS (` + Marks + `s.channel, n FROM (SELECT p.channel, p.first_stream AS was, d.first_stream AS is FROM d JOIN people p ON p.channel = d.channel AND p.id = d.id
			WHERE p.first_stream <> d.first_stream) s, unnest(ARRAY[s.was, s.is]) AS n WHERE n > 0)
		UPDATE people p SET ` + strings.Join(sets, ", ") + ` FROM d WHERE p.channel = d.channel AND p.id = d.id`
}()

func writeDerived(ctx context.Context, q pg.Queryer, channel int64, rows []derived) error {
	raw, err := json.Marshal(rows)
	if err != nil {
		return err
	}
	_, err = q.ExecContext(ctx, writeDerivedSQL, channel, string(raw))
	return err
}

// Analyze lets the planner know how much there is, after much was brought in.
func Analyze(ctx context.Context, q pg.Queryer) error {
	_, err := q.ExecContext(ctx, "ANALYZE people, accounts, account_logins, visits, raids, finds, find_words")
	return err
}

// MemberRole is what the person p is as a member, by the account they linked: a role of ours,
// or ”.
const MemberRole = `coalesce((SELECT CASE m.role WHEN 'owner' THEN 'streamer' ELSE 'co-host' END FROM members m JOIN accounts l ON l.channel = m.channel AND l.key = m.account
	WHERE m.channel = p.channel AND m.account <> '' AND m.role IN ('owner', 'co-host') AND l.person = p.id ORDER BY m.role <> 'owner' LIMIT 1), '')`

// With is a reckoning that knows further past streams.
func (r *Reckoning) With(past []event.PastStream) *Reckoning {
	if len(past) == 0 {
		return r
	}
	next := *r
	for _, p := range past {
		next.Past = attendance.Add(next.Past, attendance.Past(p))
	}
	return &next
}

// Replaced is a reckoning with other past streams.
func (r *Reckoning) Replaced(past []event.PastStream) *Reckoning {
	next := *r
	next.Past = nil
	return next.With(past)
}

// AccountOf finds the account of a record that a card means, or nil.
func (r *Record) AccountOf(ca *card.Account) *Account {
	if r == nil {
		return nil
	}
	for i := range r.Accounts {
		a := &r.Accounts[i]
		if a.Key == ca.Key() || a.Platform == ca.Platform && strings.HasPrefix(ca.ID, people.Provisional) && strings.EqualFold(a.Login, ca.Login) {
			return a
		}
	}
	return nil
}

// Card is the person as they leave the book.
func (r *Record) Card() card.Card {
	c := card.Card{Hand: r.Hand(), Streams: r.Streams, FirstSeen: r.First, LastSeen: r.Last}
	for i := range r.Accounts {
		a := &r.Accounts[i]
		if a.Claimed != "" || strings.HasPrefix(a.ID, Anonymous) {
			continue
		}
		ca := card.Account{Person: event.Person{Platform: a.Platform, ID: a.ID, Login: a.Login, Name: a.Name}, Followed: a.Followed, Lines: a.Lines, Kept: a.Kept}
		for _, role := range strings.FieldsFunc(a.Roles, func(r rune) bool { return r == ',' }) {
			ca.Roles = append(ca.Roles, event.Role(role))
		}
		for _, l := range r.Logins {
			if l.Key == a.Key && l.Login != "" && l.Login != a.Login {
				ca.Was = more(ca.Was, l.Login)
			}
		}
		if f := a.Fetched; f != nil && f.Streams && c.Fetched == nil {
			c.Fetched = f
		}
		c.Accounts = append(c.Accounts, ca)
	}
	for _, f := range r.Raids {
		c.Raids = append(c.Raids, card.Raid{Way: f.Way, Viewers: f.Viewers, At: f.At})
	}
	return c
}

// RolesText is a list of roles as it stands in a row.
func RolesText(rs []event.Role) string {
	var out []string
	for _, r := range rs {
		out = append(out, string(r))
	}
	slices.Sort(out)
	return strings.Join(out, ",")
}

// Anonymous begins the id of an account whose owner was forgotten: its visits still
// count, and nothing tells whose they were.
const Anonymous = "~"
