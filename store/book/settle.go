package book

import (
	"context"
	"time"

	"vividporch/core/event"
	"vividporch/core/people"
	"vividporch/store/record"
)

// Settle works standings out anew for everybody whose standing may have changed
// since they were last worked out, and tells who became a regular or no longer is
// one. It is called as a stream ends, and now and then. Each change is told once:
// the row remembers when somebody qualified and when they stopped to.
func (s *Book) Settle(ctx context.Context, channel int64, k *record.Reckoning) (gained, lost []event.Settled, err error) {
	last := k.Before() - 1
	for after := int64(0); ; {
		page, err := s.unsettled(ctx, channel, k, last, after)
		if err != nil || len(page) == 0 {
			return gained, lost, err
		}
		var ids []int64
		by := map[int64]unsettled{}
		for _, u := range page {
			ids = append(ids, u.ID)
			by[u.ID] = u
		}
		records, err := record.Read(ctx, s.SQL, channel, k.Before(), ids, nil)
		if err != nil {
			return nil, nil, err
		}
		var changed []int64
		var now []string
		for i := range records {
			r := &records[i]
			standing, why := r.Standing(k)
			was, one := by[r.ID], event.Settled{Person: r.ID, Name: by[r.ID].Name, Why: why}
			switch is := standing == people.Regular; {
			case is && !was.announced():
				gained = append(gained, one)
			case !is && was.announced():
				lost = append(lost, one)
			case string(standing) == was.Standing:
				continue
			}
			changed, now = append(changed, r.ID), append(now, string(standing))
		}
		if len(changed) > 0 {
			if _, err := s.SQL.ExecContext(ctx, `UPDATE people p SET standing = u.now, regular_since = CASE WHEN u.now = 'regular' AND NOT `+announcedSQL+` THEN $4 ELSE p.regular_since END,
				regular_lost = CASE WHEN u.now <> 'regular' AND `+announcedSQL+` THEN $4 ELSE p.regular_lost END
				FROM unnest($2::bigint[], $3::text[]) AS u(id, now) WHERE p.channel = $1 AND p.id = u.id`, channel, changed, now, k.Now); err != nil {
				return nil, nil, err
			}
		}
		after = ids[len(ids)-1]
	}
}

// announcedSQL holds for those who were told to be regulars and not to have stopped.
const announcedSQL = "(p.regular_since IS NOT NULL AND (p.regular_lost IS NULL OR p.regular_lost < p.regular_since))"

type unsettled struct {
	ID           int64
	Name         string
	Standing     string
	RegularSince *time.Time
	RegularLost  *time.Time
}

func (u *unsettled) announced() bool {
	return u.RegularSince != nil && (u.RegularLost == nil || u.RegularLost.Before(*u.RegularSince))
}

// unsettled reads those whose standing may be another by now: who came to the last
// stream, regulars, newcomers, and who has not been seen for long.
func (s *Book) unsettled(ctx context.Context, channel int64, k *record.Reckoning, last int, after int64) ([]unsettled, error) {
	var out []unsettled
	return out, s.DB.WithContext(ctx).Raw(`SELECT id, name, standing, regular_since, regular_lost FROM people p WHERE channel = ? AND listed AND id > ?
		AND (standing IN ('regular', 'newcomer') OR mask_at >= ? OR standing = 'returning' AND last_seen < ? OR `+announcedSQL+`) ORDER BY id LIMIT 2000`,
		channel, after, last, k.Rules.Since(k.Now)).Scan(&out).Error
}
