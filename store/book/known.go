package book

import (
	"context"
	"database/sql"
	"encoding/json"
	"slices"
	"strings"
	"time"

	"vividporch/core/attendance"
	"vividporch/core/dates"
	"vividporch/core/event"
	"vividporch/core/people"
	"vividporch/store/pg"
	"vividporch/store/record"
)

// Known looks up who is behind accounts: history as of the opening of the stream
// with this number, and what was set by hand. Accounts nobody knows are missing
// from the answer, unless the book knows their login without an id: then claims
// tells under which key. It is one query, however many accounts a person has.
func (s *Book) Known(ctx context.Context, channel int64, who []event.Person, stream int) (known map[string]*people.Known, claims map[string]string, err error) {
	return Known(pg.Tx{Ctx: ctx, SQL: s.Hot.SQL, Channel: channel}, who, stream)
}

// Known looks them up in a transaction.
func Known(tx pg.Tx, who []event.Person, stream int) (known map[string]*people.Known, claims map[string]string, err error) {
	keys, by := make([]string, 0, 2*len(who)), map[string][]string{}
	for _, p := range who {
		keys = append(keys, p.Key())
		if p.Login != "" {
			k := p.Platform + ":" + people.Provisional + strings.ToLower(p.Login)
			keys = append(keys, k)
			by[k] = append(by[k], p.Key())
		}
	}
	// Which channel it is comes with the keys: see further.
	rows, err := tx.SQL.QueryContext(tx.Ctx, `WITH want AS MATERIALIZED (SELECT $1::bigint AS channel, unnest($2::text[]) AS key)
		SELECT me.key, p.id, p.say_as, p.pronouns, p.leave_be, p.hide_day, p.trusted, p.fellow, array_to_json(p.tags), array_to_json(p.crews), array_to_json(p.hand_roles), `+record.MemberRole+`, p.zone,
			p.birth_year, p.birth_month, p.birth_day, p.attended, p.mask_at, p.mask_bits, p.first_seen, p.followed, me.fetched, o.keys, o.last, o.kept, f.came, f.went
		FROM want w JOIN accounts me ON me.channel = w.channel AND me.key = w.key JOIN people p ON p.channel = me.channel AND p.id = me.person
		CROSS JOIN LATERAL (SELECT json_agg(a.key) AS keys, max(v.last) AS last, json_object_agg(a.key, a.kept) FILTER (WHERE a.kept IS NOT NULL) AS kept FROM accounts a
			LEFT JOIN LATERAL (SELECT v.last FROM visits v WHERE v.channel = a.channel AND v.key = a.key AND v.stream < $3 ORDER BY v.stream DESC LIMIT 1) v ON true
			WHERE a.channel = me.channel AND a.person = me.person) o
		LEFT JOIN LATERAL (SELECT count(*) FILTER (WHERE r.way = 'came' AND r.stream < $3) AS came, count(*) FILTER (WHERE r.way = 'went') AS went
			FROM accounts a JOIN raids r ON r.channel = a.channel AND r.key = a.key WHERE a.channel = me.channel AND a.person = me.person) f ON p.raids_in + p.raids_out > 0
		WHERE me.claimed = ''`, tx.Channel, keys, stream)
	if err != nil {
		return nil, nil, err
	}
	defer rows.Close()
	known, claims = map[string]*people.Known{}, map[string]string{}
	provisional := map[string]*people.Known{}
	for rows.Next() {
		var key string
		var accounts, tags, crews, roles, fetched, keeps []byte
		var birth dates.Day
		var month int
		var mask attendance.Mask
		var bits int64
		var came, went sql.NullInt64
		var k people.Known
		if err := rows.Scan(&key, &k.Person, &k.SayAs, &k.Pronouns, &k.LeaveBe, &k.HideDay, &k.Trusted, &k.Fellow, &tags, &crews, &roles, &k.Member, &k.Zone,
			&birth.Year, &month, &birth.Day, &k.Attended, &mask.At, &bits, &k.FirstSeen, &k.Followed, &fetched, &accounts, &k.LastSeen, &keeps, &came, &went); err != nil {
			return nil, nil, err
		}
		for raw, into := range map[*[]byte]any{&accounts: &k.Accounts, &tags: &k.Tags, &crews: &k.Crews, &roles: &k.Roles, &fetched: &k.Fetched, &keeps: &k.Kept} {
			if len(*raw) > 0 {
				if err := json.Unmarshal(*raw, into); err != nil {
					return nil, nil, err
				}
			}
		}
		if birth.Month = time.Month(month); month > 0 {
			k.Birthday = &birth
		}
		mask.Bits = uint64(bits)
		for n := stream; n <= mask.At; n++ { // tonight is not history
			if mask.Has(n) {
				k.Attended--
			}
		}
		k.Recent = mask.Before(stream, attendance.StripLength)
		k.Raids, k.Owed = int(came.Int64), int(max(0, came.Int64-went.Int64))
		if by[key] != nil {
			provisional[key] = &k
		} else {
			known[key] = &k
		}
	}
	for key, k := range provisional {
		for _, real := range by[key] {
			if known[real] == nil && claims[real] == "" {
				mine := *k
				mine.Accounts = append(slices.Clone(k.Accounts), real)
				known[real], claims[real] = &mine, key
				break // a login without an id belongs to the first who comes with it
			}
		}
	}
	return known, claims, rows.Err()
}

// NewPeople gives out numbers of the guest book: n of them, from the one returned.
func (s *Book) NewPeople(ctx context.Context, channel int64, n int) (first int64, err error) {
	err = s.Hot.SQL.QueryRowContext(ctx, "UPDATE channels SET people = people + $2 WHERE id = $1 RETURNING people - $2 + 1", channel, n).Scan(&first)
	return first, err
}

// CrewLogins are the logins of a crew's people, one for each account, as a list that
// can be brought in again.
func (s *Book) CrewLogins(ctx context.Context, channel int64, crew string) ([]string, error) {
	out := []string{}
	return out, s.DB.WithContext(ctx).Raw(`SELECT a.platform || ':' || a.login FROM people p JOIN accounts a ON a.channel = p.channel AND a.person = p.id
		WHERE p.channel = ? AND p.listed AND p.crews <> '{}' AND p.crews @> ARRAY[?::text] AND a.login <> '' AND a.claimed = '' ORDER BY p.sort_name, a.key`, channel, crew).Scan(&out).Error
}

// PersonOf finds under which number an account is found; ErrNone when nobody has it.
func (s *Book) PersonOf(ctx context.Context, channel int64, key string) (int64, error) {
	var ids []int64
	if err := s.DB.WithContext(ctx).Raw("SELECT person FROM accounts WHERE channel = ? AND key = ?", channel, key).Scan(&ids).Error; err != nil {
		return 0, err
	}
	if len(ids) == 0 {
		return 0, pg.ErrNone
	}
	return ids[0], nil
}
