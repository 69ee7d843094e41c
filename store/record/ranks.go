package record

import (
	"context"
	"strconv"

	"vividporch/core/points"
	"vividporch/store/pg"
)

// Ranks works out anew what persons have and gathered, given by number or by account key: the sums over what is kept of their accounts, of
// the epochs that count. Like the other rows of persons they depend on nothing else.
func Ranks(ctx context.Context, q pg.Queryer, channel int64, e points.Counting, persons []int64, keys []string) error {
	if len(persons)+len(keys) == 0 {
		return nil
	}
	if persons == nil {
		persons = []int64{}
	}
	if keys == nil {
		keys = []string{}
	}
	_, err := q.ExecContext(ctx, `WITH p AS (SELECT unnest($4::bigint[]) AS person UNION SELECT person FROM accounts WHERE channel = $1 AND key = ANY($5::text[])), `+ranked, channel, texts(e.All), texts(e.Season), persons, keys)
	return err
}

// AllRanks does so for everybody: after a reset.
func AllRanks(ctx context.Context, q pg.Queryer, channel int64, e points.Counting) error {
	_, err := q.ExecContext(ctx, `WITH p AS (SELECT DISTINCT person FROM accounts WHERE channel = $1 AND kept->'points' IS NOT NULL UNION SELECT person FROM ranks WHERE channel = $1), `+ranked, channel, texts(e.All), texts(e.Season))
	return err
}

// ranked writes the sums of the persons in p. Epochs are the keys of what is kept.
const ranked = `s AS (SELECT p.person, coalesce(sum(x.has), 0) AS has, coalesce(sum(x.gathered), 0) AS gathered, coalesce(sum(x.season), 0) AS season, coalesce(bool_or(x.hidden), false) AS hidden
		FROM p LEFT JOIN accounts a ON a.channel = $1 AND a.person = p.person AND a.kept->'points' IS NOT NULL
		LEFT JOIN LATERAL (SELECT
			(SELECT sum(coalesce((a.kept->'points'->'all'->e->>'has')::bigint, 0)) FROM unnest($2::text[]) AS e) AS has,
			(SELECT sum(coalesce((a.kept->'points'->'all'->e->>'gathered')::bigint, 0)) FROM unnest($2::text[]) AS e) AS gathered,
			(SELECT sum(coalesce((a.kept->'points'->'season'->e->>'gathered')::bigint, 0)) FROM unnest($3::text[]) AS e) AS season,
			coalesce((a.kept->'points'->>'hidden')::bool, false) AS hidden) x ON a.key IS NOT NULL
		GROUP BY p.person),
	gone AS (DELETE FROM ranks r USING s WHERE r.channel = $1 AND r.person = s.person AND s.has = 0 AND s.gathered = 0 AND NOT s.hidden)
	INSERT INTO ranks (channel, person, has, gathered, season, hidden) SELECT $1, person, has, gathered, season, hidden FROM s WHERE has <> 0 OR gathered <> 0 OR hidden ORDER BY person
		ON CONFLICT (channel, person) DO UPDATE SET has = excluded.has, gathered = excluded.gathered, season = excluded.season, hidden = excluded.hidden`

func texts(epochs []int) []string {
	out := make([]string, len(epochs))
	for i, e := range epochs {
		out[i] = strconv.Itoa(e)
	}
	return out
}
