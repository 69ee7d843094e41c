package book

import (
	"context"
	"strings"

	"vividporch/core/event"
	"vividporch/core/people"
	"vividporch/core/plain"
	"vividporch/store/pg"
)

// Called finds whom of the guest book a name may mean: everybody it begins a name of, in
// any case, without accents, with every account of theirs. Whether it is their name is
// for [people.Pick] to say.
func (s *Book) Called(ctx context.Context, channel int64, name string, stream int) ([]people.Named, error) {
	folded := plain.Fold(name)
	if folded == "" {
		return nil, nil
	}
	word := "" // a name of several words is nobody's word
	if words := plain.Words(folded, 2); len(words) == 1 && words[0] == folded {
		word = folded
	}
	// By login and by name, of which the very one comes first; and by any word of theirs,
	// as somebody is called by part of a name.
	rows, err := s.SQL.QueryContext(ctx, `SELECT a.platform, a.id, a.login, a.name, a.nick FROM accounts a JOIN people p ON p.channel = a.channel AND p.id = a.person AND p.listed WHERE a.channel = $1 AND a.claimed = '' AND a.person IN (
			(SELECT person FROM accounts WHERE channel = $1 AND lower(login) COLLATE "C" LIKE $2 ORDER BY lower(login) COLLATE "C", key LIMIT $5)
			UNION (SELECT id FROM people WHERE channel = $1 AND listed AND sort_name COLLATE "C" LIKE $3 ORDER BY sort_name COLLATE "C", id LIMIT $5)
			UNION (SELECT person FROM find_words WHERE channel = $1 AND $4 <> '' AND word >= $4 AND word < $4 || chr(1114111) ORDER BY word, person LIMIT $5))
		ORDER BY a.last_seen DESC, a.key LIMIT 4 * $5`, channel, pg.Begins(strings.ToLower(name)), pg.Begins(folded), word, people.CalledMost)
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
