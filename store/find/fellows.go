package find

import (
	"context"
	"encoding/json"
	"time"
)

// Streamer is a fellow streamer with their accounts and the raids between us.
type Streamer struct {
	Person   int64
	Name     string
	Accounts []struct{ Key, Platform, ID, Login, Name string }
	Raids    []struct {
		Way string
		At  time.Time
	}
}

// Streamers lists fellow streamers and whoever raided us, those we owe most first, then whoever was
// here last. Who asked to be left be is left out.
func (s *Find) Streamers(ctx context.Context, channel int64, most int) ([]Streamer, error) {
	rows, err := s.SQL.QueryContext(ctx, `SELECT p.id, p.name,
			(SELECT json_agg(json_build_object('Key', a.key, 'Platform', a.platform, 'ID', a.id, 'Login', a.login, 'Name', a.name) ORDER BY a.key) FROM accounts a WHERE a.channel = p.channel AND a.person = p.id AND a.claimed = ''),
			(SELECT coalesce(json_agg(json_build_object('Way', r.way, 'At', r.at) ORDER BY r.at), '[]') FROM accounts a JOIN raids r ON r.channel = a.channel AND r.key = a.key WHERE a.channel = p.channel AND a.person = p.id)
		FROM people p WHERE p.channel = $1 AND p.listed AND NOT p.leave_be AND (p.fellow OR p.raids_in > 0)
		ORDER BY p.raids_in - p.raids_out DESC, p.last_seen DESC NULLS LAST, p.id LIMIT $2`, channel, most)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []Streamer
	for rows.Next() {
		var x Streamer
		var accounts, raids []byte
		if err := rows.Scan(&x.Person, &x.Name, &accounts, &raids); err != nil {
			return nil, err
		}
		if len(accounts) > 0 {
			if err := json.Unmarshal(accounts, &x.Accounts); err != nil {
				return nil, err
			}
		}
		if err := json.Unmarshal(raids, &x.Raids); err != nil {
			return nil, err
		}
		out = append(out, x)
	}
	return out, rows.Err()
}
