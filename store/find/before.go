package find

import (
	"context"
	"encoding/json"
	"slices"

	"vividporch/core/card"
	"vividporch/core/event"
	"vividporch/core/people"
	"vividporch/store/record"
)

// CardsBefore hands people to f as the book had them before an event of the log: what was set by
// hand since is taken back, and whom somebody merged since are apart. What they did themselves is
// as it is now.
func (s *Find) CardsBefore(ctx context.Context, channel, seq int64, persons []int64, f func(c *card.Card) error) error {
	back, err := s.editedSince(ctx, channel, seq, persons)
	if err != nil {
		return err
	}
	gone, err := s.mergedSince(ctx, channel, seq)
	if err != nil {
		return err
	}
	for part := range slices.Chunk(persons, 500) {
		records, err := record.Read(ctx, s.SQL, channel, 0, part, nil)
		if err != nil {
			return err
		}
		visits, err := s.visitsOf(ctx, channel, part)
		if err != nil {
			return err
		}
		for i := range records {
			for _, r := range apart(&records[i], back, gone) {
				c := r.Card()
				for k := range c.Accounts {
					c.Accounts[k].Visits = visits[c.Accounts[k].Key()]
				}
				if err := f(&c); err != nil {
					return err
				}
			}
		}
	}
	return nil
}

// apart are the people that one was before some merges, with their hands as they were.
func apart(r *record.Record, back map[int64][]event.Edit, gone map[int64]bool) []record.Record {
	into := map[int64]int64{}
	for i := range r.Hands {
		h := &r.Hands[i]
		if !gone[h.ID] {
			into[h.ID] = h.Into
		}
		for _, e := range back[h.ID] {
			next, _ := people.Apply(e, []event.Hand{h.Hand})
			h.Hand = next[0]
		}
	}
	root := func(id int64) int64 {
		for range r.Hands { // as often as there could be a step
			if into[id] == 0 {
				break
			}
			id = into[id]
		}
		return id
	}
	by := map[int64]*record.Record{}
	var order []int64
	of := func(id int64) *record.Record {
		if by[id] == nil {
			by[id] = &record.Record{ID: id, Logins: r.Logins}
			order = append(order, id)
		}
		return by[id]
	}
	for _, h := range r.Hands {
		p := of(root(h.ID))
		p.Hands = append(p.Hands, h)
	}
	for _, a := range r.Accounts {
		p := of(root(a.Home))
		p.Accounts = append(p.Accounts, a)
	}
	if len(order) == 1 {
		return []record.Record{*r}
	}
	main := by[root(r.ID)]
	main.First, main.Last, main.Previous, main.Raids, main.Came = r.First, r.Last, r.Previous, r.Raids, r.Came
	out := make([]record.Record, 0, len(order))
	for _, id := range order {
		p := by[id]
		slices.SortStableFunc(p.Hands, func(a, b record.Hand) int { // that of the person first
			switch {
			case a.ID == id:
				return -1
			case b.ID == id:
				return 1
			}
			return 0
		})
		out = append(out, *p)
	}
	return out
}

// editedSince are the edits that take back what was changed by hand since an event, by record, the newest first.
func (s *Find) editedSince(ctx context.Context, channel, seq int64, persons []int64) (map[int64][]event.Edit, error) {
	rows, err := s.SQL.QueryContext(ctx, `SELECT c.person, c.back FROM book_changes c JOIN people p ON p.channel = c.channel AND p.id = c.person
		WHERE c.channel = $1 AND c.seq >= $2 AND p.root = ANY($3::bigint[]) ORDER BY c.seq DESC`, channel, seq, persons)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := map[int64][]event.Edit{}
	for rows.Next() {
		var id int64
		var raw []byte
		var back event.Edit
		if err := rows.Scan(&id, &raw); err != nil {
			return nil, err
		}
		if json.Unmarshal(raw, &back) == nil {
			out[id] = append(out[id], back)
		}
	}
	return out, rows.Err()
}

// mergedSince are the records that were merged into others since an event.
func (s *Find) mergedSince(ctx context.Context, channel, seq int64) (map[int64]bool, error) {
	rows, err := s.SQL.QueryContext(ctx, `SELECT (data->>'gone')::bigint FROM events WHERE channel = $1 AND seq >= $2 AND type = 'porch.book.merged'`, channel, seq)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := map[int64]bool{}
	for rows.Next() {
		var id int64
		if err := rows.Scan(&id); err != nil {
			return nil, err
		}
		out[id] = true
	}
	return out, rows.Err()
}
