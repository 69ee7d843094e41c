package find

import (
	"context"

	"vividporch/core/card"
	"vividporch/core/event"
	"vividporch/core/rehearsal"
	"vividporch/store/record"
)

// Cards hands every person of the book, or those given, to f, a page at a time and
// in the order of their numbers.
func (s *Find) Cards(ctx context.Context, channel int64, persons []int64, f func(id int64, standing string, c *card.Card) error) error {
	const page = 500
	for after := int64(0); ; {
		var rows []struct {
			ID       int64
			Standing string
			Member   event.Role
		}
		if err := s.DB.WithContext(ctx).Raw(`SELECT id, standing, `+record.MemberRole+` AS member FROM people p WHERE channel = ? AND listed AND id > ? AND (? OR id IN ?) ORDER BY id LIMIT ?`,
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
		records, err := record.Read(ctx, s.SQL, channel, 0, ids, nil)
		if err != nil {
			return err
		}
		visits, err := s.visitsOf(ctx, channel, ids)
		if err != nil {
			return err
		}
		for i := range records {
			c := records[i].Card()
			c.Member = members[records[i].ID]
			for k := range c.Accounts {
				c.Accounts[k].Visits = visits[c.Accounts[k].Key()]
			}
			if err := f(records[i].ID, standing[records[i].ID], &c); err != nil {
				return err
			}
		}
		after = ids[len(ids)-1]
	}
}

// visitsOf lists the visits of people by account.
func (s *Find) visitsOf(ctx context.Context, channel int64, persons []int64) (map[string][]card.Visit, error) {
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
func (s *Find) Heading(ctx context.Context, channel int64) (h rehearsal.Header, err error) {
	if h.Streams, err = s.Book.Streams(ctx, channel); err != nil {
		return h, err
	}
	crews, err := s.Book.CrewList(ctx, channel)
	for _, c := range crews {
		h.Crews = append(h.Crews, event.BookCrewed{ID: c.ID, Name: c.Name, Emblem: c.Emblem, Initials: c.Initials})
	}
	return h, err
}

// Names are the names of people by number.
func (s *Find) Names(ctx context.Context, channel int64, ids []int64) (map[int64]string, error) {
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

// Tags lists the tags in use.
func (s *Find) Tags(ctx context.Context, channel int64) ([]string, error) {
	out := []string{}
	return out, s.DB.WithContext(ctx).Raw(`SELECT DISTINCT unnest(tags) AS t FROM people WHERE channel = ? AND listed AND tags <> '{}' ORDER BY t`, channel).Scan(&out).Error
}
