package find

import (
	"context"
	"time"
)

// Ranked is somebody on the list of ranks.
type Ranked struct {
	Person   int64
	Name     string
	Has      int64
	Gathered int64
	Season   int64
}

// Ranks are those who gathered most, in this season or ever, the most first; who hides is not among them, and nobody whom the book does
// not list.
func (s *Find) Ranks(ctx context.Context, channel int64, season bool, most int) ([]Ranked, error) {
	by := "gathered"
	if season {
		by = "season"
	}
	// By the index first: names are looked up for those who are shown alone.
	rows, err := s.SQL.QueryContext(ctx, `SELECT r.person, p.name, r.has, r.gathered, r.season FROM ranks r JOIN people p ON p.channel = r.channel AND p.id = r.person
		WHERE r.channel = $1 AND NOT r.hidden AND r.`+by+` > 0 AND p.listed ORDER BY r.`+by+` DESC, r.person LIMIT $2`, channel, most)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := []Ranked{}
	for rows.Next() {
		var r Ranked
		if err := rows.Scan(&r.Person, &r.Name, &r.Has, &r.Gathered, &r.Season); err != nil {
			return nil, err
		}
		out = append(out, r)
	}
	return out, rows.Err()
}

// Purse is what a person has and gathered; nothing for one without points.
func (s *Find) Purse(ctx context.Context, channel, person int64) (r Ranked, err error) {
	err = s.SQL.QueryRowContext(ctx, `SELECT coalesce(max(has), 0), coalesce(max(gathered), 0), coalesce(max(season), 0) FROM ranks WHERE channel = $1 AND person = $2`, channel, person).Scan(&r.Has, &r.Gathered, &r.Season)
	r.Person = person
	return r, err
}

// LedgerLine is an entry of the ledger.
type LedgerLine struct {
	Seq    int64
	At     time.Time
	Amount int64
	Why    string // as core/points names it
	For    string
	Says   string // the reason in words, as far as it is kept
}

// PointsOf are the last entries of a person in the ledger, the newest first; before is the number of the last one of the page before, 0 for none.
func (s *Find) PointsOf(ctx context.Context, channel, person, before int64, most int) ([]LedgerLine, error) {
	rows, err := s.SQL.QueryContext(ctx, `SELECT l.seq, l.at, l.amount, l.why, l.of, coalesce(d.body->'because'->>0, '') FROM ledger l LEFT JOIN decisions d ON d.channel = l.channel AND d.seq = l.seq AND d.n = l.n
		WHERE l.channel = $1 AND l.key IN (SELECT key FROM accounts WHERE channel = $1 AND person = $2) AND ($3 = 0 OR l.seq < $3) ORDER BY l.seq DESC, l.n DESC LIMIT $4`, channel, person, before, most)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := []LedgerLine{}
	for rows.Next() {
		var l LedgerLine
		if err := rows.Scan(&l.Seq, &l.At, &l.Amount, &l.Why, &l.For, &l.Says); err != nil {
			return nil, err
		}
		out = append(out, l)
	}
	return out, rows.Err()
}
