package jobs

import (
	"context"
	"database/sql"
	"encoding/json"
	"time"

	"vividporch/store/pg"
)

// Delivery is one thing on its way to a place, or there. Rows of a place are delivered in the order of
// their numbers; they are written in the transaction of the decision that made them.
type Delivery struct {
	ID       int64           `gorm:"primaryKey"`
	Channel  int64           `gorm:"not null;uniqueIndex:deliveries_line,priority:1"`
	Place    string          `gorm:"not null;uniqueIndex:deliveries_line,priority:3"`
	Line     string          `gorm:"not null;uniqueIndex:deliveries_line,priority:2"` // of the decision
	Seq      int64           `gorm:"not null"`                                        // number of the event that was its cause
	Happened string          `gorm:"not null;default:''"`                             // type of that event
	Courtesy string          `gorm:"not null;default:''"`
	Output   string          `gorm:"not null;default:''"`
	About    []string        `gorm:"type:json;serializer:json;not null;default:'[]'"` // accounts
	Text     string          `gorm:"not null;default:''"`
	Body     json.RawMessage `gorm:"type:json"` // as it is posted; nothing once whom it was about is forgotten
	Why      []string        `gorm:"type:json;serializer:json;not null;default:'[]'"`
	State    State           `gorm:"not null"`
	Attempts int             `gorm:"not null;default:0"`
	Status   int             `gorm:"not null;default:0"` // what the place answered last; 0 where it did not, or does not speak in numbers
	Reason   string          `gorm:"not null;default:''"`
	Stream   int             `gorm:"not null;default:0"`     // of what is about a stream: its number
	Opens    bool            `gorm:"not null;default:false"` // it announces that stream
	Late     json.RawMessage `gorm:"type:json"`              // what is posted instead once the stream has ended; nothing is for nothing
	Onto     string          `gorm:"not null;default:''"`    // what it does with the announcement that stands there, as an [output.Relay] has it
	Ref      string          `gorm:"not null;default:''"`    // the place's own id of what was posted
	Made     time.Time       `gorm:"not null"`
	Next     time.Time       `gorm:"not null"` // not tried before
	Ended    *time.Time      // delivered, failed or dropped
}

// State is how a delivery stands.
type State string

// The states.
const (
	Waiting   State = "waiting"
	Trying    State = "trying" // an attempt was begun
	Delivered State = "delivered"
	Failed    State = "failed"  // given up; a person may have it sent again
	Unclear   State = "unclear" // it may have arrived, and the place would show it twice: a person decides
	Dropped   State = "dropped" // nobody wants it any more
)

// indexes of the deliveries: what is on its way at each place, what became of it, and how long it is kept.
var Indexes = []string{
	"CREATE INDEX IF NOT EXISTS deliveries_way ON deliveries (channel, place, id) WHERE state IN ('waiting', 'trying')",
	"CREATE INDEX IF NOT EXISTS deliveries_place ON deliveries (channel, place, id DESC)",
	"CREATE INDEX IF NOT EXISTS deliveries_bad ON deliveries (channel, id DESC) WHERE state IN ('failed', 'unclear')",
	"CREATE INDEX IF NOT EXISTS deliveries_ended ON deliveries (channel, ended) WHERE ended IS NOT NULL",
}

// Deliver writes deliveries in a transaction. What is on its way under the same line already stays as it is.
func Deliver(ctx context.Context, tx *sql.Tx, list []Delivery) error {
	n := len(list)
	col := struct {
		channel, seq, stream                           []int64
		place, line, happened, courtesy, output, about []string
		text, body, why, late, onto                    []string
		opens                                          []bool
		made                                           []time.Time
	}{}
	for i := range list {
		d := &list[i]
		about, _ := json.Marshal(append([]string{}, d.About...))
		why, _ := json.Marshal(append([]string{}, d.Why...))
		col.channel, col.seq, col.stream = append(col.channel, d.Channel), append(col.seq, d.Seq), append(col.stream, int64(d.Stream))
		col.place, col.line, col.happened = append(col.place, d.Place), append(col.line, d.Line), append(col.happened, d.Happened)
		col.courtesy, col.output, col.about = append(col.courtesy, d.Courtesy), append(col.output, d.Output), append(col.about, string(about))
		col.text, col.body, col.why, col.made = append(col.text, d.Text), append(col.body, string(d.Body)), append(col.why, string(why)), append(col.made, d.Made)
		col.opens, col.late, col.onto = append(col.opens, d.Opens), append(col.late, string(d.Late)), append(col.onto, d.Onto)
	}
	if n == 0 {
		return nil
	}
	_, err := tx.ExecContext(ctx, `INSERT INTO deliveries (channel, place, line, seq, happened, courtesy, output, about, text, body, why, stream, made, next, state, opens, late, onto)
		SELECT c, p, l, s, h, co, o, a::json, t, b::json, w::json, st, m, m, 'waiting', op, nullif(la, '')::json, ot FROM unnest($1::bigint[], $2::text[], $3::text[], $4::bigint[], $5::text[], $6::text[], $7::text[], $8::text[], $9::text[], $10::text[], $11::text[], $12::bigint[], $13::timestamptz[], $14::boolean[], $15::text[], $16::text[])
			WITH ORDINALITY AS u(c, p, l, s, h, co, o, a, t, b, w, st, m, op, la, ot, n) ORDER BY n
		ON CONFLICT (channel, line, place) DO NOTHING`,
		col.channel, col.place, col.line, col.seq, col.happened, col.courtesy, col.output, col.about, col.text, col.body, col.why, col.stream, col.made, col.opens, col.late, col.onto)
	return err
}

// Rename has all that went or goes to a place go by its other name.
func (s *Jobs) Rename(ctx context.Context, channel int64, from, to string) error {
	_, err := s.SQL.ExecContext(ctx, `UPDATE deliveries SET place = $3 WHERE channel = $1 AND place = $2`, channel, from, to)
	return err
}

// Hurry lets the first that waits at a place be tried now.
func (s *Jobs) Hurry(ctx context.Context, channel int64, places []string) error {
	_, err := s.SQL.ExecContext(ctx, `UPDATE deliveries SET next = now() WHERE id IN (SELECT min(id) FROM deliveries WHERE channel = $1 AND place = ANY($2::text[]) AND state = 'waiting' GROUP BY place) AND next > now()`, channel, places)
	return err
}

// Next are the first deliveries that are on their way to a place, at most so many.
func (s *Jobs) Next(ctx context.Context, channel int64, place string, most int) (list []Delivery, err error) {
	return list, s.DB.WithContext(ctx).Where("channel = ? AND place = ? AND state IN ('waiting', 'trying')", channel, place).Order("id").Limit(most).Find(&list).Error
}

// Bound are the places to which something is on its way.
func (s *Jobs) Bound(ctx context.Context, channel int64) (places []string, err error) {
	return places, s.DB.WithContext(ctx).Raw("SELECT DISTINCT place FROM deliveries WHERE channel = ? AND state IN ('waiting', 'trying') ORDER BY place", channel).Scan(&places).Error
}

// Note notes how a delivery stands now.
func (s *Jobs) Note(ctx context.Context, d *Delivery) error {
	if d.Ended == nil && (d.State == Delivered || d.State == Failed || d.State == Unclear || d.State == Dropped) {
		now := time.Now()
		d.Ended = &now
	}
	_, err := s.SQL.ExecContext(ctx, `UPDATE deliveries SET state = $2, attempts = $3, status = $4, reason = $5, next = $6, ended = $7, ref = $8 WHERE id = $1`,
		d.ID, string(d.State), d.Attempts, d.Status, d.Reason, d.Next, d.Ended, d.Ref)
	return err
}

// NoteDelivered notes several that have arrived.
func (s *Jobs) NoteDelivered(ctx context.Context, list []Delivery) error {
	var ids, attempts, status []int64
	var refs []string
	for i := range list {
		d := &list[i]
		ids, attempts, status, refs = append(ids, d.ID), append(attempts, int64(d.Attempts)), append(status, int64(d.Status)), append(refs, d.Ref)
	}
	_, err := s.SQL.ExecContext(ctx, `UPDATE deliveries d SET state = 'delivered', attempts = u.attempts, status = u.status, reason = '', ref = u.ref, ended = now()
		FROM unnest($1::bigint[], $2::bigint[], $3::bigint[], $4::text[]) AS u(id, attempts, status, ref) WHERE d.id = u.id`, ids, attempts, status, refs)
	return err
}

// Announced is the place's own id of the announcement of a stream that stands there; "" for none.
func (s *Jobs) Announced(ctx context.Context, channel int64, place string, stream int) (ref string, err error) {
	return ref, s.DB.WithContext(ctx).Raw("SELECT ref FROM deliveries WHERE channel = ? AND place = ? AND stream = ? AND opens AND state = 'delivered' AND ref <> '' ORDER BY id LIMIT 1", channel, place, stream).Scan(&ref).Error
}

// Again puts a delivery that was given up, is unclear or waits for its next try on its way now: in its old place
// among those of its place. A line and a place name it; ok is false where there is none, or nothing is left to send.
func (s *Jobs) Again(ctx context.Context, channel int64, line, place string) (ok bool, err error) {
	res, err := s.SQL.ExecContext(ctx, `UPDATE deliveries SET state = 'waiting', next = now(), ended = NULL, attempts = 0, reason = '' WHERE channel = $1 AND line = $2 AND place = $3
		AND state IN ('waiting', 'failed', 'unclear') AND body IS NOT NULL`, channel, line, place)
	return changed(res, err)
}

// Drop gives up a delivery that is not there yet. It is not taken back from a place that is being posted to.
func (s *Jobs) Drop(ctx context.Context, channel int64, line, place, why string) (ok bool, err error) {
	res, err := s.SQL.ExecContext(ctx, `UPDATE deliveries SET state = 'dropped', ended = now(), reason = $4 WHERE channel = $1 AND line = $2 AND place = $3 AND state IN ('waiting', 'failed', 'unclear')`,
		channel, line, place, why)
	return changed(res, err)
}

func changed(res sql.Result, err error) (bool, error) {
	if err != nil {
		return false, err
	}
	n, err := res.RowsAffected()
	return n > 0, err
}

// Search is what is looked for among deliveries.
type Search struct {
	Place  string // "" for all
	Text   string // that stands in what was sent
	States []State
	Before int64 // number; 0 is the newest
	Most   int
}

// Find finds deliveries, the newest first.
func (s *Jobs) Find(ctx context.Context, channel int64, q Search) (list []Delivery, err error) {
	db := s.DB.WithContext(ctx).Where("channel = ?", channel)
	if q.Place != "" {
		db = db.Where("place = ?", q.Place)
	}
	if q.Text != "" {
		db = db.Where("text ILIKE ?", "%"+pg.Begins(q.Text))
	}
	if len(q.States) > 0 {
		db = db.Where("state IN ?", q.States)
	}
	if q.Before > 0 {
		db = db.Where("id < ?", q.Before)
	}
	return list, db.Order("id DESC").Limit(q.Most).Find(&list).Error
}

// Standing is how all that goes to a place stands.
type Standing struct {
	Place     string
	Waiting   int64
	Bad       int64      // failed or unclear
	Tonight   int64      // delivered since a moment
	Last      *time.Time // something was delivered
	Reason    string     // of the first that waits, after an attempt that failed
	Status    int
	Next      *time.Time // it is tried again
	Attempts  int
	FailedWhy string // of the last that failed
}

// Standings tell how all that goes to places stands; since is from when on what was delivered is counted.
func (s *Jobs) Standings(ctx context.Context, channel int64, since time.Time) (map[string]Standing, error) {
	var list []Standing
	err := s.DB.WithContext(ctx).Raw(`WITH c AS (
			SELECT place, count(*) FILTER (WHERE state IN ('waiting', 'trying')) AS waiting, count(*) FILTER (WHERE state IN ('failed', 'unclear')) AS bad,
				count(*) FILTER (WHERE state = 'delivered' AND ended >= ?) AS tonight, max(ended) FILTER (WHERE state = 'delivered') AS last
			FROM deliveries WHERE channel = ? GROUP BY place),
		f AS (SELECT DISTINCT ON (place) place, reason, status, next, attempts FROM deliveries WHERE channel = ? AND state IN ('waiting', 'trying') ORDER BY place, id),
		b AS (SELECT DISTINCT ON (place) place, reason FROM deliveries WHERE channel = ? AND state IN ('failed', 'unclear') ORDER BY place, id DESC)
		SELECT c.*, coalesce(f.reason, '') AS reason, coalesce(f.status, 0) AS status, f.next, coalesce(f.attempts, 0) AS attempts, coalesce(b.reason, '') AS failed_why FROM c LEFT JOIN f USING (place) LEFT JOIN b USING (place)`,
		since, channel, channel, channel).Scan(&list).Error
	out := map[string]Standing{}
	for _, s := range list {
		out[s.Place] = s
	}
	return out, err
}

// Prune takes out what ended before these moments: what was delivered or dropped, and what failed.
func (s *Jobs) Prune(ctx context.Context, channel int64, delivered, failed time.Time) (int64, error) {
	res, err := s.SQL.ExecContext(ctx, `DELETE FROM deliveries WHERE channel = $1 AND ended IS NOT NULL AND (state IN ('delivered', 'dropped') AND ended < $2 OR ended < $3)`, channel, delivered, failed)
	if err != nil {
		return 0, err
	}
	return res.RowsAffected()
}

// BadOf are the deliveries made between two moments that failed, or of which nobody knows, in their order.
func (s *Jobs) BadOf(ctx context.Context, channel int64, from, to time.Time, most int) (list []Delivery, err error) {
	return list, s.DB.WithContext(ctx).Where("channel = ? AND (state IN ('failed', 'unclear') OR state IN ('waiting', 'trying') AND attempts > 0) AND made >= ? AND made < ?", channel, from, to).Order("id DESC").Limit(most).Find(&list).Error
}
