package forget

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"vividporch/core/card"
	"vividporch/store/pg"
	"vividporch/store/record"
)

// AddKeptLink keeps a one-time link to what is kept about the person behind an
// account; ErrNone when nobody knows them.
func (s *Privacy) AddKeptLink(ctx context.Context, channel int64, key, hash string, expires time.Time) error {
	res, err := s.SQL.ExecContext(ctx, `INSERT INTO kept_links (hash, channel, person, expires) SELECT $3, $1, person, $4 FROM accounts WHERE channel = $1 AND key = $2`, channel, key, hash, expires)
	if err != nil {
		return err
	}
	if n, _ := res.RowsAffected(); n == 0 {
		return pg.ErrNone
	}
	return nil
}

// KeptLinkGood reports whether a one-time link can still be used.
func (s *Privacy) KeptLinkGood(ctx context.Context, channel int64, hash string) (bool, error) {
	var n int
	err := s.SQL.QueryRowContext(ctx, `SELECT count(*) FROM kept_links WHERE channel = $1 AND hash = $2 AND expires > now()`, channel, hash).Scan(&n)
	return n > 0, err
}

// UseKeptLink takes a one-time link out and returns whose it was.
func (s *Privacy) UseKeptLink(ctx context.Context, channel int64, hash string) (person int64, err error) {
	var ids []int64
	if err := s.DB.WithContext(ctx).Raw(`DELETE FROM kept_links WHERE channel = ? AND hash = ? AND expires > now() RETURNING person`, channel, hash).Scan(&ids).Error; err != nil {
		return 0, err
	}
	if len(ids) == 0 {
		return 0, pg.ErrNone
	}
	return ids[0], nil
}

// Kept is everything kept about a person, for them or the owner to read.
type Kept struct {
	Person  int64            `json:"person"`
	Card    card.Card        `json:"card"`
	Logins  []KeptLogin      `json:"logins"`
	Visits  []KeptVisit      `json:"visits"`
	Support []map[string]any `json:"support"`
	Said    []KeptLine       `json:"said"`    // by them, as far as it is still kept
	ToThem  []KeptLine       `json:"toThem"`  // by the house
	Changes []map[string]any `json:"changes"` // made by hand
}

// KeptLogin is a name an account was seen under.
type KeptLogin struct {
	Account string    `json:"account"`
	Login   string    `json:"login"`
	Name    string    `json:"name"`
	First   time.Time `json:"first"`
	Last    time.Time `json:"last"`
}

// KeptVisit is a stream attended.
type KeptVisit struct {
	Account string    `json:"account"`
	Stream  int       `json:"stream"`
	First   time.Time `json:"first"`
	Last    time.Time `json:"last"`
	Lines   int64     `json:"lines"`
}

// KeptLine is a line that was said.
type KeptLine struct {
	At   time.Time `json:"at"`
	Text string    `json:"text"`
}

// Everything gathers what is kept about a person; ErrNone when there is no such one.
func (s *Privacy) Everything(ctx context.Context, channel, person int64) (*Kept, error) {
	records, err := record.Read(ctx, s.SQL, channel, 0, []int64{person}, nil)
	if err != nil {
		return nil, err
	}
	if len(records) == 0 {
		return nil, pg.ErrNone
	}
	r := &records[0]
	k := &Kept{Person: person, Card: r.Card(), Logins: []KeptLogin{}, Visits: []KeptVisit{}, Support: []map[string]any{}, Said: []KeptLine{}, ToThem: []KeptLine{}, Changes: []map[string]any{}}
	for _, l := range r.Logins {
		k.Logins = append(k.Logins, KeptLogin{l.Key, l.Login, l.Name, l.First, l.Last})
	}
	var keys []string
	for _, a := range r.Accounts {
		keys = append(keys, a.Key)
	}
	for _, q := range []struct {
		sql  string
		into any
	}{
		{`SELECT key AS account, stream, first, last, lines FROM visits WHERE channel = $1 AND key = ANY($2::text[]) ORDER BY stream`, &k.Visits},
		{`SELECT kind, amount::text AS amount, currency, count, what, at FROM supports WHERE channel = $1 AND key = ANY($2::text[]) ORDER BY at`, &k.Support},
		{`SELECT time AS at, CASE WHEN position('\u0000' IN data::text) = 0 THEN data->>'text' ELSE '(not readable)' END AS text FROM events
			WHERE channel = $1 AND person = ANY($2::text[]) AND type = 'porch.chat.said' AND data::text NOT LIKE '%"text":""%' ORDER BY seq`, &k.Said},
		{`SELECT at, text FROM spoken WHERE channel = $1 AND key = ANY($2::text[]) ORDER BY seq`, &k.ToThem},
		{`SELECT at, member, edit FROM book_changes WHERE channel = $1 AND $2::text[] IS NOT NULL AND person IN (SELECT id FROM people WHERE channel = $1 AND root = ` + fmt.Sprint(person) + `) ORDER BY seq`, &k.Changes},
	} {
		var raw []byte
		if err := s.SQL.QueryRowContext(ctx, `SELECT coalesce(json_agg(row_to_json(q)), '[]') FROM (`+q.sql+`) q`, channel, keys).Scan(&raw); err != nil {
			return nil, err
		}
		if err := json.Unmarshal(raw, q.into); err != nil {
			return nil, err
		}
	}
	return k, nil
}
