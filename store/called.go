package store

import (
	"context"

	"vividporch/core/event"
	"vividporch/core/people"
	"vividporch/core/plain"
)

// calledMost is how many people of one name are looked at.
const calledMost = 12

// Called finds whom of the guest book a name may mean: everybody it begins a name of, in
// any case, without accents, with every account of theirs. Whether it is their name is
// for [people.Pick] to say.
func (s *Store) Called(ctx context.Context, channel int64, name string, stream int) ([]people.Named, error) {
	word := plain.Fold(name)
	if word == "" {
		return nil, nil
	}
	rows, err := s.SQL.QueryContext(ctx, `SELECT a.platform, a.id, a.login, a.name, a.nick FROM accounts a WHERE a.channel = $1 AND a.claimed = '' AND a.person IN (
			SELECT person FROM (SELECT word, person FROM find_words WHERE channel = $1 AND word >= $2 AND word < $2 || chr(1114111) ORDER BY word LIMIT $3) w)
		ORDER BY a.last_seen DESC, a.key LIMIT 4 * $3`, channel, word, calledMost)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []people.Named
	var who []event.Person
	for rows.Next() {
		var p event.Person
		if err := rows.Scan(&p.Platform, &p.ID, &p.Login, &p.Name, &p.Nick); err != nil {
			return nil, err
		}
		out, who = append(out, people.Named{Person: p}), append(who, p)
	}
	if err := rows.Err(); err != nil || len(who) == 0 {
		return nil, err
	}
	known, _, err := s.Known(ctx, channel, who, stream)
	for i := range out {
		out[i].Known = known[out[i].Person.Key()]
	}
	return out, err
}
