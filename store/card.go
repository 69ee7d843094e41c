package store

import (
	"context"
	"strings"

	"vividporch/core/card"
	"vividporch/core/event"
	"vividporch/core/rehearsal"
)

// card is the person as they leave the book.
func (r *record) card() card.Card {
	c := card.Card{Hand: r.hand(), Streams: r.streams, FirstSeen: r.first, LastSeen: r.last}
	for i := range r.accounts {
		a := &r.accounts[i]
		if a.Claimed != "" || strings.HasPrefix(a.ID, anonymous) {
			continue
		}
		ca := card.Account{Person: event.Person{Platform: a.Platform, ID: a.ID, Login: a.Login, Name: a.Name}, Followed: a.Followed, Lines: a.Lines, Kept: a.Kept}
		for _, role := range strings.FieldsFunc(a.Roles, func(r rune) bool { return r == ',' }) {
			ca.Roles = append(ca.Roles, event.Role(role))
		}
		for _, l := range r.logins {
			if l.Key == a.Key && l.Login != "" && l.Login != a.Login {
				ca.Was = more(ca.Was, l.Login)
			}
		}
		if f := a.Fetched; f != nil && f.Streams && c.Fetched == nil {
			c.Fetched = f
		}
		c.Accounts = append(c.Accounts, ca)
	}
	for _, f := range r.raids {
		c.Raids = append(c.Raids, card.Raid{Way: f.Way, Viewers: f.Viewers, At: f.At})
	}
	return c
}

// Cards hands every person of the book, or those given, to f, a page at a time and
// in the order of their numbers.
func (s *Store) Cards(ctx context.Context, channel int64, persons []int64, f func(id int64, standing string, c *card.Card) error) error {
	const page = 500
	for after := int64(0); ; {
		var rows []struct {
			ID       int64
			Standing string
			Member   event.Role
		}
		if err := s.DB.WithContext(ctx).Raw(`SELECT id, standing, `+memberRole+` AS member FROM people p WHERE channel = ? AND listed AND id > ? AND (? OR id IN ?) ORDER BY id LIMIT ?`,
			channel, after, len(persons) == 0, append([]int64{0}, persons...), page).Scan(&rows).Error; err != nil {
			return err
		}
		if len(rows) == 0 {
			return nil
		}
		ids, standing, members := make([]int64, len(rows)), map[int64]string{}, map[int64]event.Role{}
		for i, r := range rows {
			ids[i], standing[r.ID], members[r.ID] = r.ID, r.Standing, r.Member
		}
		records, err := readRecords(ctx, s.SQL, channel, 0, ids, nil)
		if err != nil {
			return err
		}
		visits, err := s.visitsOf(ctx, channel, ids)
		if err != nil {
			return err
		}
		for i := range records {
			c := records[i].card()
			c.Member = members[records[i].id]
			for k := range c.Accounts {
				c.Accounts[k].Visits = visits[c.Accounts[k].Key()]
			}
			if err := f(records[i].id, standing[records[i].id], &c); err != nil {
				return err
			}
		}
		after = ids[len(ids)-1]
	}
}

// visitsOf lists the visits of people by account.
func (s *Store) visitsOf(ctx context.Context, channel int64, persons []int64) (map[string][]card.Visit, error) {
	rows, err := s.SQL.QueryContext(ctx, `SELECT v.key, v.stream, v.first, v.last, v.lines FROM accounts a JOIN visits v ON v.channel = a.channel AND v.key = a.key
		WHERE a.channel = $1 AND a.person = ANY($2::bigint[]) ORDER BY v.key, v.stream`, channel, persons)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := map[string][]card.Visit{}
	for rows.Next() {
		var key string
		var v card.Visit
		if err := rows.Scan(&key, &v.Stream, &v.First, &v.Last, &v.Lines); err != nil {
			return nil, err
		}
		v.First, v.Last = v.First.UTC(), v.Last.UTC()
		out[key] = append(out[key], v)
	}
	return out, rows.Err()
}

// Heading is the first line of a people file: past streams and crews.
func (s *Store) Heading(ctx context.Context, channel int64) (h rehearsal.Header, err error) {
	if h.Streams, err = s.allStreams(ctx, channel); err != nil {
		return h, err
	}
	crews, err := s.CrewList(ctx, channel)
	for _, c := range crews {
		h.Crews = append(h.Crews, event.BookCrewed{ID: c.ID, Name: c.Name, Emblem: c.Emblem, Initials: c.Initials})
	}
	return h, err
}

// Names are the names of people by number.
func (s *Store) Names(ctx context.Context, channel int64, ids []int64) (map[int64]string, error) {
	rows, err := s.SQL.QueryContext(ctx, `SELECT id, name FROM people WHERE channel = $1 AND id = ANY($2::bigint[])`, channel, ids)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := map[int64]string{}
	for rows.Next() {
		var id int64
		var name string
		if err := rows.Scan(&id, &name); err != nil {
			return nil, err
		}
		out[id] = name
	}
	return out, rows.Err()
}

// CrewLogins are the logins of a crew's people, one for each account, as a list that
// can be brought in again.
func (s *Store) CrewLogins(ctx context.Context, channel int64, crew string) ([]string, error) {
	out := []string{}
	return out, s.DB.WithContext(ctx).Raw(`SELECT a.platform || ':' || a.login FROM people p JOIN accounts a ON a.channel = p.channel AND a.person = p.id
		WHERE p.channel = ? AND p.listed AND p.crews <> '{}' AND p.crews @> ARRAY[?::text] AND a.login <> '' AND a.claimed = '' ORDER BY p.sort_name, a.key`, channel, crew).Scan(&out).Error
}

// Tags lists the tags in use.
func (s *Store) Tags(ctx context.Context, channel int64) ([]string, error) {
	out := []string{}
	return out, s.DB.WithContext(ctx).Raw(`SELECT DISTINCT unnest(tags) AS t FROM people WHERE channel = ? AND listed AND tags <> '{}' ORDER BY t`, channel).Scan(&out).Error
}
