package find

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"vividporch/core/dates"
)

// Dated is somebody of the guest book as far as their days go.
type Dated struct {
	Person    int64
	Account   string // the one that was heard of last
	Login     string
	Name      string
	Standing  string
	Fellow    bool
	Zone      string // IANA name; "" for the channel's
	Birthday  dates.Day
	Hidden    bool // nobody but members is told of it
	LeaveBe   bool
	Followed  *time.Time
	FirstSeen *time.Time
	LastSeen  *time.Time
	Attended  int
	MaskAt    int
	MaskBits  uint64
	Kept      []string // days that were celebrated, as they are remembered
}

// dateStreams is of how many streams back those who were at one are asked for.
const dateStreams = 20

// Dates calls f with everybody whose days are known, by number; lately leaves out whoever was at none of
// the last streams. It reads as it goes, so that a book of any size takes no more memory than a row.
func (s *Find) Dates(ctx context.Context, channel int64, lately bool, f func(*Dated) error) error {
	where := ""
	if lately {
		where = `AND (p.last_seen >= (SELECT coalesce((SELECT opened FROM streams WHERE channel = $1 ORDER BY number DESC OFFSET ` + fmt.Sprint(dateStreams-1) + ` LIMIT 1), '-infinity'::timestamptz)) OR p.last_seen IS NULL)`
	}
	rows, err := s.SQL.QueryContext(ctx, `SELECT p.id, coalesce(a.key, ''), coalesce(a.login, ''), p.name, p.standing, p.fellow, p.zone, p.birth_year, p.birth_month, p.birth_day, p.hide_day, p.leave_be, p.followed, p.first_seen, p.last_seen,
			p.attended, p.mask_at, p.mask_bits, a.kept
		FROM people p LEFT JOIN LATERAL (SELECT (array_agg(a.key ORDER BY a.told DESC NULLS LAST, a.key))[1] AS key, (array_agg(a.login ORDER BY a.told DESC NULLS LAST, a.key))[1] AS login, json_agg(a.kept -> 'day') FILTER (WHERE a.kept -> 'day' IS NOT NULL) AS kept
			FROM accounts a WHERE a.channel = p.channel AND a.person = p.id AND a.claimed = '') a ON true
		WHERE p.channel = $1 AND p.listed AND (p.birth_month > 0 OR p.followed IS NOT NULL OR p.first_seen IS NOT NULL) `+where+` ORDER BY p.id`, channel)
	if err != nil {
		return fmt.Errorf("store: reading dates: %w", err)
	}
	defer rows.Close()
	for rows.Next() {
		var d Dated
		var month int
		var bits int64
		var kept []byte
		if err := rows.Scan(&d.Person, &d.Account, &d.Login, &d.Name, &d.Standing, &d.Fellow, &d.Zone, &d.Birthday.Year, &month, &d.Birthday.Day, &d.Hidden, &d.LeaveBe, &d.Followed, &d.FirstSeen, &d.LastSeen,
			&d.Attended, &d.MaskAt, &bits, &kept); err != nil {
			return fmt.Errorf("store: reading dates: %w", err)
		}
		d.Birthday.Month, d.MaskBits = time.Month(month), uint64(bits)
		if month == 0 {
			d.Birthday = dates.Day{}
		}
		var of []struct{ Kept []string }
		if len(kept) > 0 && json.Unmarshal(kept, &of) == nil {
			for _, k := range of {
				d.Kept = append(d.Kept, k.Kept...)
			}
		}
		if err := f(&d); err != nil {
			return err
		}
	}
	return rows.Err()
}

// DatesTag changes whenever somebody's days do, or who is told of them.
func (s *Find) DatesTag(ctx context.Context, channel int64) (tag string, err error) {
	err = s.SQL.QueryRowContext(ctx, `SELECT count(*) || '-' || coalesce(sum(hashtextextended(concat_ws('|', p.id, p.name, p.birth_year, p.birth_month, p.birth_day, p.hide_day, p.zone, extract(epoch FROM p.followed), extract(epoch FROM p.first_seen)), 0)::numeric), 0)
		FROM people p WHERE p.channel = $1 AND p.listed AND (p.birth_month > 0 OR p.followed IS NOT NULL OR p.first_seen IS NOT NULL)`, channel).Scan(&tag)
	return tag, err
}

// usualStreams is of how many streams of a weekday the speed of chat is reckoned.
const usualStreams = 8

// UsualSpeed is how many lines people said a minute in the last streams that opened on a weekday, in a zone
// (IANA name); 0 where there was none.
func (s *Find) UsualSpeed(ctx context.Context, channel int64, on time.Weekday, zone string) (perMinute float64, err error) {
	err = s.SQL.QueryRowContext(ctx, `SELECT coalesce(sum(lines) / nullif(sum(minutes), 0), 0) FROM (
			SELECT (SELECT coalesce(sum(v.lines), 0) FROM visits v WHERE v.channel = s.channel AND v.stream = s.number) AS lines, extract(epoch FROM s.closed - s.opened)::float8 / 60 AS minutes
			FROM streams s WHERE s.channel = $1 AND s.closed > s.opened AND extract(dow FROM s.opened AT TIME ZONE $2) = $3 ORDER BY s.number DESC LIMIT $4) t`,
		channel, zone, int(on), usualStreams).Scan(&perMinute)
	if err != nil {
		return 0, fmt.Errorf("store: reading how fast chat usually is: %w", err)
	}
	return perMinute, nil
}
