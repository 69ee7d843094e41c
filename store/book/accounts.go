package book

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"strings"

	"gorm.io/gorm"

	"vividporch/core/attendance"
	"vividporch/core/event"
	"vividporch/core/plain"
	"vividporch/store/pg"
	"vividporch/store/tables"
)

// ErrSame says that two records are one already.
var ErrSame = errors.New("these are one record already; choose two different ones")

// KeysOf finds a key of each of some records: of those that are its own the first, else
// of those found under it; "" of one without any. It is what tells them to a rehearsal,
// whose guest book has numbers of its own.
func (s *Book) KeysOf(ctx context.Context, channel int64, records ...int64) ([]string, error) {
	var raw []byte
	err := s.SQL.QueryRowContext(ctx, `SELECT coalesce(json_agg(coalesce((SELECT a.key FROM accounts a WHERE a.channel = $1 AND (a.home = r.id OR a.person = r.id) ORDER BY a.home <> r.id, a.claimed <> '', a.key LIMIT 1), '') ORDER BY r.n), '[]')
		FROM unnest($2::bigint[]) WITH ORDINALITY AS r(id, n)`, channel, records).Scan(&raw)
	if err != nil {
		return nil, err
	}
	var out []string
	return out, json.Unmarshal(raw, &out)
}

// Roots finds under which numbers records are found; one that does not exist is
// missing.
func (s *Book) Roots(ctx context.Context, channel int64, ids ...int64) (map[int64]int64, error) {
	rows, err := s.SQL.QueryContext(ctx, `SELECT id, root FROM people WHERE channel = $1 AND id = ANY($2::bigint[])`, channel, ids)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := map[int64]int64{}
	for rows.Next() {
		var id, root int64
		if err := rows.Scan(&id, &root); err != nil {
			return nil, err
		}
		out[id] = root
	}
	return out, rows.Err()
}

// CrewCount is a crew with how many people are in it.
type CrewCount struct {
	tables.Crew
	People int
}

// CrewList lists the crews by name.
func (s *Book) CrewList(ctx context.Context, channel int64) ([]CrewCount, error) {
	rows, err := s.SQL.QueryContext(ctx, `SELECT c.id, c.name, c.emblem, c.initials, (SELECT count(*) FROM people p WHERE p.channel = c.channel AND p.listed AND p.crews <> '{}' AND p.crews @> ARRAY[c.id])
		FROM crews c WHERE c.channel = $1 ORDER BY lower(c.name), c.id`, channel)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := []CrewCount{}
	for rows.Next() {
		var c CrewCount
		if err := rows.Scan(&c.ID, &c.Name, &c.Emblem, &c.Initials, &c.People); err != nil {
			return nil, err
		}
		out = append(out, c)
	}
	return out, rows.Err()
}

// CrewMembers lists who is in which crew.
func (s *Book) CrewMembers(ctx context.Context, channel int64) (map[string][]int64, error) {
	rows, err := s.SQL.QueryContext(ctx, `SELECT c, p.id FROM people p, unnest(p.crews) AS c WHERE p.channel = $1 AND p.listed AND p.crews <> '{}'`, channel)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := map[string][]int64{}
	for rows.Next() {
		var crew string
		var p int64
		if err := rows.Scan(&crew, &p); err != nil {
			return nil, err
		}
		out[crew] = append(out[crew], p)
	}
	return out, rows.Err()
}

// Account finds an account as its platform last told of it; ErrNone when the
// house does not know it.
func (s *Book) Account(ctx context.Context, channel int64, key string) (*event.Person, error) {
	var a tables.Account
	err := s.DB.WithContext(ctx).Where("channel = ? AND key = ?", channel, key).Take(&a).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return nil, pg.ErrNone
	}
	if err != nil {
		return nil, err
	}
	p := &event.Person{Platform: a.Platform, ID: a.ID, Login: a.Login, Name: a.Name}
	for _, r := range strings.Fields(strings.ReplaceAll(a.Roles, ",", " ")) {
		p.Roles = append(p.Roles, event.Role(r))
	}
	return p, nil
}

// AccountNames tells how the accounts of some keys are called; those unknown are
// left out.
func (s *Book) AccountNames(ctx context.Context, channel int64, keys []string) (map[string]string, error) {
	var list []tables.Account
	if err := s.DB.WithContext(ctx).Select("key", "name", "login").Where("channel = ? AND key IN ?", channel, keys).Find(&list).Error; err != nil {
		return nil, err
	}
	out := map[string]string{}
	for _, a := range list {
		out[a.Key] = cmp.Or(a.Name, a.Login)
	}
	return out, nil
}

// Streams lists every stream of a channel that is over, oldest first.
func (s *Book) Streams(ctx context.Context, channel int64) ([]attendance.Past, error) {
	var list []tables.Stream
	if err := s.DB.WithContext(ctx).Where("channel = ? AND closed IS NOT NULL", channel).Order("number").Find(&list).Error; err != nil {
		return nil, err
	}
	out := make([]attendance.Past, len(list))
	for i, st := range list {
		out[i] = attendance.Past{Number: st.Number, Opened: st.Opened, Closed: *st.Closed}
	}
	return out, nil
}

// LastStreams are the last streams that are over, newest first, with their titles.
func (s *Book) LastStreams(ctx context.Context, channel int64, most int) (list []tables.Stream, err error) {
	return list, s.DB.WithContext(ctx).Where("channel = ? AND closed IS NOT NULL", channel).Order("number DESC").Limit(most).Find(&list).Error
}

// StreamOf is a stream by its number; ErrNone when there is none.
func (s *Book) StreamOf(ctx context.Context, channel int64, number int) (st tables.Stream, err error) {
	return st, pg.None(s.DB.WithContext(ctx).Where("channel = ? AND number = ?", channel, number).First(&st).Error)
}

// FindStreams are streams that are over, newest first, of a title or a day in words that holds a text, or to which somebody came whose
// name begins so; before is the number of the last one of the page before, 0 for none.
func (s *Book) FindStreams(ctx context.Context, channel int64, text, zone string, before, most int) (list []tables.Stream, total int64, err error) {
	holds := "%" + pg.Begins(text)
	q := s.DB.WithContext(ctx).Model(&tables.Stream{}).Where(`channel = ? AND closed IS NOT NULL AND (? = '' OR title ILIKE ? OR to_char(opened AT TIME ZONE ?, 'FMDay FMDD FMMonth YYYY YYYY-MM-DD') ILIKE ?
		OR number IN (SELECT v.stream FROM people p JOIN accounts a ON a.channel = p.channel AND a.person = p.id JOIN visits v ON v.channel = a.channel AND v.key = a.key
			WHERE p.channel = ? AND p.listed AND p.sort_name COLLATE "C" LIKE ?))`, channel, text, holds, zone, holds, channel, pg.Begins(plain.Fold(text)))
	if err := q.Session(&gorm.Session{}).Count(&total).Error; err != nil {
		return nil, 0, err
	}
	return list, total, q.Session(&gorm.Session{}).Where("? = 0 OR number < ?", before, before).Order("number DESC").Limit(most).Find(&list).Error
}
