package find

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"vividporch/core/attendance"
	"vividporch/core/card"
	"vividporch/core/event"
	"vividporch/core/people"
	"vividporch/store/forget"
	"vividporch/store/pg"
	"vividporch/store/record"
	"vividporch/store/tables"
)

// Sheet is everything about a person on one page.
type Sheet struct {
	Row      Row
	Hand     event.Hand
	Card     card.Card
	Accounts []SheetAccount
	Merged   []Part // records merged into this one
	Standing people.Standing
	Why      string
	Streak   int
	Usual    []attendance.Usual
	Support  []SupportSum
	Lines    int64
	Note     string
}

// SheetAccount is an account on a sheet.
type SheetAccount struct {
	Key, Platform, ID, Login, Name string
	Roles                          []string
	FirstSeen, LastSeen            time.Time
	Lines                          int64
	Followed                       *time.Time
	Fetched                        *people.Fetched
	Record                         int64 // the record it belongs to
	Provisional                    bool
	Nick                           bool // known by nick only
	Logins                         []forget.KeptLogin
}

// Part is a record that was merged into another.
type Part struct {
	ID   int64
	Name string
}

// SupportSum is what somebody gave of one kind and currency.
type SupportSum struct {
	Kind, Currency, Amount string
	Count                  int64
	Times                  int
}

// SheetOf gathers a person's sheet; ErrNone when nobody is found under the number.
func (s *Find) Sheet(ctx context.Context, channel, person int64, k *record.Reckoning) (*Sheet, error) {
	records, err := record.Read(ctx, s.SQL, channel, k.Before(), []int64{person}, nil)
	if err != nil {
		return nil, err
	}
	rows, err := readRows(ctx, s.SQL, "SELECT "+rowColumns+", '' FROM people p WHERE p.channel = $1 AND p.listed AND p.id = $2", []any{channel, person})
	if err != nil {
		return nil, err
	}
	if len(records) == 0 || len(rows) == 0 {
		return nil, pg.ErrNone
	}
	r := &records[0]
	sh := &Sheet{Row: rows[0], Hand: r.Hand(), Card: r.Card()}
	sh.Standing, sh.Why = r.Standing(k)
	tonight := len(r.Streams) > 0 && r.Streams[len(r.Streams)-1] >= k.Before()
	sh.Streak = attendance.Streak(r.Streams, k.Past, tonight)
	var keys []string
	for i := range r.Accounts {
		a := &r.Accounts[i]
		keys = append(keys, a.Key)
		sh.Lines += a.Lines
		sa := SheetAccount{Key: a.Key, Platform: a.Platform, ID: a.ID, Login: a.Login, Name: a.Name, FirstSeen: a.FirstSeen, LastSeen: a.LastSeen, Lines: a.Lines,
			Followed: a.Followed, Fetched: a.Fetched, Record: a.Home, Provisional: strings.HasPrefix(a.ID, people.Provisional), Nick: a.Nick}
		if a.Claimed != "" {
			continue
		}
		for _, role := range strings.FieldsFunc(a.Roles, func(r rune) bool { return r == ',' }) {
			sa.Roles = append(sa.Roles, role)
		}
		for _, l := range r.Logins {
			if l.Key == a.Key {
				sa.Logins = append(sa.Logins, forget.KeptLogin{Account: l.Key, Login: l.Login, Name: l.Name, First: l.First, Last: l.Last})
			}
		}
		slices.SortFunc(sa.Logins, func(a, b forget.KeptLogin) int { return b.Last.Compare(a.Last) })
		sh.Accounts = append(sh.Accounts, sa)
	}
	for _, h := range r.Hands {
		if h.ID == r.ID {
			continue
		}
		p := Part{ID: h.ID}
		for _, a := range r.Accounts {
			if a.Home == h.ID {
				p.Name = cmp.Or(p.Name, a.Name, a.Login)
			}
		}
		sh.Merged = append(sh.Merged, p)
	}
	var raids []time.Time
	for _, f := range r.Raids {
		if f.Way == "came" {
			raids = append(raids, f.At)
		}
	}
	if sh.Row.Fellow || len(raids) > 0 { // a raid is sent at the end of their own stream
		sh.Usual = attendance.UsualHours(raids, k.Zone)
	}
	var sums []byte
	if err := s.SQL.QueryRowContext(ctx, `SELECT coalesce(json_agg(row_to_json(q)), '[]') FROM (SELECT kind AS "Kind", currency AS "Currency", sum(amount)::text AS "Amount", sum(count) AS "Count", count(*) AS "Times"
		FROM supports WHERE channel = $1 AND key = ANY($2::text[]) GROUP BY kind, currency ORDER BY kind, currency) q`, channel, keys).Scan(&sums); err != nil {
		return nil, err
	}
	return sh, json.Unmarshal(sums, &sh.Support)
}

// Moment is one thing in a person's story.
type Moment struct {
	At      time.Time
	Kind    string // "visit", "raid came", "raid went", "support", "said", "name", "changed", "first", "follow"
	Text    string
	Lines   int64
	Until   time.Time
	Viewers int64
	Stream  int
	Seq     int64 // of an edit: its number, to take it back
	Member  string
	Undone  bool
}

// Story tells what happened with a person before a moment, newest first: visits,
// raids, support, what the house said to them, names, and edits.
func (s *Find) Story(ctx context.Context, channel, person int64, before time.Time, most int) ([]Moment, error) {
	var raw []byte
	err := s.SQL.QueryRowContext(ctx, `WITH mine AS (SELECT key, followed, first_seen FROM accounts WHERE channel = $1 AND person = $2)
		SELECT coalesce(json_agg(row_to_json(q)), '[]') FROM (
		SELECT * FROM (
			(SELECT v.first AS "At", 'visit' AS "Kind", '' AS "Text", v.lines AS "Lines", v.last AS "Until", 0 AS "Viewers", v.stream AS "Stream", 0 AS "Seq", '' AS "Member", false AS "Undone"
				FROM mine m JOIN visits v ON v.channel = $1 AND v.key = m.key WHERE v.first < $3 ORDER BY v.first DESC LIMIT $4)
			UNION ALL (SELECT r.at, 'raid ' || r.way, '', 0, r.at, r.viewers, r.stream, 0, '', r.thanked FROM mine m JOIN raids r ON r.channel = $1 AND r.key = m.key WHERE r.at < $3 ORDER BY r.at DESC LIMIT $4)
			UNION ALL (SELECT u.at, 'support', trim(concat_ws(' ', u.kind, CASE WHEN u.amount > 0 THEN trim_scale(u.amount)::text END, nullif(u.currency, ''), CASE WHEN u.amount = 0 THEN '× ' || u.count END, nullif(u.what, ''))), u.count, u.at, 0, u.stream, 0, '', false
				FROM mine m JOIN supports u ON u.channel = $1 AND u.key = m.key WHERE u.at < $3 ORDER BY u.at DESC LIMIT $4)
			UNION ALL (SELECT w.at, 'said', w.text, 0, w.at, 0, 0, 0, '', false FROM mine m JOIN spoken w ON w.channel = $1 AND w.key = m.key WHERE w.at < $3 ORDER BY w.at DESC LIMIT $4)
			UNION ALL (SELECT n.first, 'name', n.login, 0, n.last, 0, 0, 0, '', false FROM mine m JOIN account_logins n ON n.channel = $1 AND n.key = m.key WHERE n.first < $3 AND n.first > m.first_seen AND n.login <> '' ORDER BY n.first DESC LIMIT $4)
			UNION ALL (SELECT m.followed, 'follow', '', 0, m.followed, 0, 0, 0, '', false FROM mine m WHERE m.followed < $3)
			UNION ALL (SELECT c.at, 'changed', c.edit::text, 0, c.at, 0, 0, c.seq, c.member, c.undone FROM people p JOIN book_changes c ON c.channel = $1 AND c.person = p.id WHERE p.channel = $1 AND p.root = $2 AND c.at < $3 ORDER BY c.at DESC LIMIT $4)
		) all_of_it ORDER BY "At" DESC LIMIT $4) q`, channel, person, before, most).Scan(&raw)
	if err != nil {
		return nil, err
	}
	var out []Moment
	if err := json.Unmarshal(raw, &out); err != nil {
		return nil, err
	}
	for i := range out {
		if out[i].Kind == "changed" {
			var e event.Edit
			if err := json.Unmarshal([]byte(out[i].Text), &e); err != nil {
				return nil, err
			}
			out[i].Text = people.Words(e)
		}
	}
	return out, nil
}

// Fellow is a line of the raid ledger.
type FellowLine struct {
	Person             int64
	Name               string
	Came, Went         int
	CameSizes          []int64 // oldest first
	LastCame, LastWent *time.Time
	Unthanked          int
}

// Ledger lists who raided whom, those we owe most first.
func (s *Find) Ledger(ctx context.Context, channel int64, most int) ([]FellowLine, error) {
	rows, err := s.SQL.QueryContext(ctx, `SELECT p.id, p.name, count(*) FILTER (WHERE r.way = 'came'), count(*) FILTER (WHERE r.way = 'went'),
			coalesce(json_agg(r.viewers ORDER BY r.at) FILTER (WHERE r.way = 'came'), '[]'), max(r.at) FILTER (WHERE r.way = 'came'), max(r.at) FILTER (WHERE r.way = 'went'),
			count(*) FILTER (WHERE r.way = 'came' AND NOT r.thanked)
		FROM raids r JOIN accounts a ON a.channel = r.channel AND a.key = r.key JOIN people p ON p.channel = a.channel AND p.id = a.person
		WHERE r.channel = $1 AND p.listed GROUP BY p.id, p.name
		ORDER BY count(*) FILTER (WHERE r.way = 'came' AND NOT r.thanked) DESC, count(*) FILTER (WHERE r.way = 'came') - count(*) FILTER (WHERE r.way = 'went') DESC, max(r.at) DESC LIMIT $2`, channel, most)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := []FellowLine{}
	for rows.Next() {
		var f FellowLine
		var sizes []byte
		if err := rows.Scan(&f.Person, &f.Name, &f.Came, &f.Went, &sizes, &f.LastCame, &f.LastWent, &f.Unthanked); err != nil {
			return nil, err
		}
		if err := json.Unmarshal(sizes, &f.CameSizes); err != nil {
			return nil, err
		}
		out = append(out, f)
	}
	return out, rows.Err()
}

// Cohort is the newcomers of a stream or a raid and what became of them.
type Cohort struct {
	Stream  int
	Opened  time.Time
	Raid    int64 // number of the raid; 0 for a whole stream
	Name    string
	Viewers int64
	attendance.Return
}

// Newcomers lists the newcomers of the last streams, and of the raids in them.
func (s *Find) Newcomers(ctx context.Context, channel int64, last int) (streams, raids []Cohort, err error) {
	var list []tables.Stream
	if err := s.DB.WithContext(ctx).Where("channel = ?", channel).Order("number DESC").Limit(last).Find(&list).Error; err != nil || len(list) == 0 {
		return []Cohort{}, []Cohort{}, err
	}
	newest, oldest := list[0].Number, list[len(list)-1].Number
	rows, err := s.SQL.QueryContext(ctx, `SELECT first_stream, with_raid, CASE WHEN second_stream = 0 THEN 0 ELSE second_stream - first_stream END AS gap, count(*)
		FROM people WHERE channel = $1 AND first_stream BETWEEN $2 AND $3 AND root = id GROUP BY 1, 2, 3`, channel, oldest, newest)
	if err != nil {
		return nil, nil, err
	}
	defer rows.Close()
	byStream, byRaid := map[int][]attendance.Came{}, map[int64][]attendance.Came{}
	streamOf := map[int64]int{}
	for rows.Next() {
		var stream int
		var raid int64
		var c attendance.Came
		if err := rows.Scan(&stream, &raid, &c.Gap, &c.Count); err != nil {
			return nil, nil, err
		}
		byStream[stream] = append(byStream[stream], c)
		if raid != 0 {
			byRaid[raid] = append(byRaid[raid], c)
			streamOf[raid] = stream
		}
	}
	if err := rows.Err(); err != nil {
		return nil, nil, err
	}
	streams, raids = []Cohort{}, []Cohort{}
	opened := map[int]time.Time{}
	for _, st := range list {
		opened[st.Number] = st.Opened
		streams = append(streams, Cohort{Stream: st.Number, Opened: st.Opened, Return: attendance.Returned(byStream[st.Number], newest-st.Number)})
	}
	rr, err := s.SQL.QueryContext(ctx, `SELECT r.seq, r.viewers, r.at, coalesce(p.name, ''), r.stream FROM raids r LEFT JOIN accounts a ON a.channel = r.channel AND a.key = r.key
		LEFT JOIN people p ON p.channel = a.channel AND p.id = a.person WHERE r.channel = $1 AND r.way = 'came' AND r.stream BETWEEN $2 AND $3 ORDER BY r.at DESC`, channel, oldest, newest)
	if err != nil {
		return nil, nil, err
	}
	defer rr.Close()
	for rr.Next() {
		var c Cohort
		if err := rr.Scan(&c.Raid, &c.Viewers, &c.Opened, &c.Name, &c.Stream); err != nil {
			return nil, nil, err
		}
		c.Return = attendance.Returned(byRaid[c.Raid], newest-c.Stream)
		raids = append(raids, c)
	}
	return streams, raids, rr.Err()
}

// Pair is two records that may be one person.
type Pair struct {
	A, B    people.Half
	Because []string
}

// Pairs suggests records that may be the same person: the same or nearly the same
// login on two platforms. Those refused before are left out.
func (s *Find) Pairs(ctx context.Context, channel int64, most int) ([]Pair, error) {
	rows, err := s.SQL.QueryContext(ctx, `WITH mine AS MATERIALIZED (SELECT a.key, a.person, a.platform, a.login, a.name, p.attended FROM accounts a JOIN people p ON p.channel = a.channel AND p.id = a.person
			WHERE a.channel = $1 AND p.listed AND a.login <> '' AND a.claimed = '' ORDER BY p.last_seen DESC NULLS LAST LIMIT 5000),
		near AS (SELECT m.key AS a, o.key AS b FROM mine m JOIN accounts o ON o.channel = $1 AND lower(o.login) COLLATE "C" = lower(m.login) COLLATE "C" AND o.platform <> m.platform AND o.person <> m.person AND o.claimed = ''
			UNION SELECT m.key, o.key FROM mine m JOIN mine o ON o.platform <> m.platform AND o.person <> m.person AND o.key > m.key
				AND regexp_replace(lower(o.login), '[^a-z]', '', 'g') = regexp_replace(lower(m.login), '[^a-z]', '', 'g') AND length(m.login) >= 4
			UNION SELECT m.key, o.key FROM (SELECT * FROM mine LIMIT 400) m JOIN (SELECT * FROM mine LIMIT 400) o ON o.platform <> m.platform AND o.person <> m.person AND o.key > m.key
				AND length(m.login) BETWEEN 6 AND 60 AND similarity(lower(m.login), lower(o.login)) >= 0.4)
		SELECT a.person, a.platform, a.login, a.name, (SELECT coalesce(json_agg(v.stream), '[]') FROM visits v WHERE v.channel = $1 AND v.key = a.key),
			b.person, b.platform, b.login, b.name, (SELECT coalesce(json_agg(v.stream), '[]') FROM visits v WHERE v.channel = $1 AND v.key = b.key)
		FROM near n JOIN accounts a ON a.channel = $1 AND a.key = n.a JOIN accounts b ON b.channel = $1 AND b.key = n.b
		WHERE NOT EXISTS (SELECT 1 FROM pair_refusals r WHERE r.channel = $1 AND r.a = least(a.person, b.person) AND r.b = greatest(a.person, b.person)) LIMIT 500`, channel)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := []Pair{}
	seen := map[string]bool{}
	for rows.Next() {
		var p Pair
		var sa, sb []byte
		if err := rows.Scan(&p.A.Person, &p.A.Platform, &p.A.Login, &p.A.Name, &sa, &p.B.Person, &p.B.Platform, &p.B.Login, &p.B.Name, &sb); err != nil {
			return nil, err
		}
		for raw, into := range map[*[]byte]*[]int{&sa: &p.A.Streams, &sb: &p.B.Streams} {
			if err := json.Unmarshal(*raw, into); err != nil {
				return nil, err
			}
		}
		if p.A.Person > p.B.Person {
			p.A, p.B = p.B, p.A
		}
		key := fmt.Sprint(p.A.Person, "/", p.B.Person)
		because, ok := people.Evidence(p.A, p.B)
		if !ok || seen[key] || len(out) == most {
			continue
		}
		seen[key] = true
		p.Because = because
		out = append(out, p)
	}
	return out, rows.Err()
}

// RefusePair remembers that two records are not the same person.
func (s *Find) RefusePair(ctx context.Context, channel, a, b int64) error {
	_, err := s.SQL.ExecContext(ctx, `INSERT INTO pair_refusals (channel, a, b) VALUES ($1, least($2::bigint, $3::bigint), greatest($2::bigint, $3::bigint)) ON CONFLICT DO NOTHING`, channel, a, b)
	return err
}
