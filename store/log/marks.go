package log

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"time"

	"vividporch/core/happening"
	"vividporch/store/pg"
)

// Bookmark is a moment of a stream that was marked.
type Bookmark struct {
	Seq    int64
	At     time.Time
	Set    happening.BookmarkSet
	Stream int
	Opened time.Time // that stream
	Closed *time.Time
}

// Bookmarks are those of a stream, in their order; for 0 those of the last so many streams, the latest stream first.
func (s *Log) Bookmarks(ctx context.Context, channel int64, stream, streams int) ([]Bookmark, error) {
	rows, err := s.SQL.QueryContext(ctx, `SELECT e.seq, e.time, e.data, s.number, s.opened, s.closed, n.label FROM events e
			LEFT JOIN LATERAL (SELECT n.data->>'label' AS label FROM events n WHERE n.channel = e.channel AND n.type = 'porch.bookmark.labelled' AND n.seq > e.seq AND n.data->>'mark' = e.seq::text ORDER BY n.seq DESC LIMIT 1) n ON true
			JOIN streams s ON s.channel = e.channel AND e.time >= s.opened AND (s.closed IS NULL OR e.time < s.closed)
		WHERE e.channel = $1 AND e.type = 'porch.bookmark.set'
			AND CASE WHEN $2 > 0 THEN s.number = $2 ELSE s.number > (SELECT max(number) FROM streams WHERE channel = $1) - $3 END
		ORDER BY s.number DESC, e.time, e.seq LIMIT 5000`, channel, stream, streams)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []Bookmark
	for rows.Next() {
		var b Bookmark
		var data []byte
		var label *string // as it was changed last
		if err := rows.Scan(&b.Seq, &b.At, &data, &b.Stream, &b.Opened, &b.Closed, &label); err != nil {
			return nil, err
		}
		if json.Unmarshal(data, &b.Set) == nil {
			if label != nil {
				b.Set.Label = *label
			}
			out = append(out, b)
		}
	}
	return out, rows.Err()
}

// NotesBetween are the notes left between two moments, in their order.
func (s *Log) NotesBetween(ctx context.Context, channel int64, from, to time.Time) (out []Note, err error) {
	rows, err := s.SQL.QueryContext(ctx, `SELECT seq, time, data FROM events WHERE channel = $1 AND type = 'porch.note.left' AND data->>'text' <> '' AND time >= $2 AND time < $3 ORDER BY seq LIMIT 500`, channel, from, to)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	for rows.Next() {
		var n Note
		var data []byte
		if err := rows.Scan(&n.Seq, &n.At, &data); err != nil {
			return nil, err
		}
		if json.Unmarshal(data, &n.Left) == nil {
			out = append(out, n)
		}
	}
	return out, rows.Err()
}

// Note is what somebody left for the streamer.
type Note struct {
	Seq  int64
	At   time.Time
	Left happening.NoteLeft
	Done *time.Time // it was done with
	By   string     // by whom
}

// Notes are notes in which a text stands, the newest first; before is the number of the last one of the page before,
// 0 for none.
func (s *Log) Notes(ctx context.Context, channel int64, text string, open bool, before int64, most int) ([]Note, error) {
	rows, err := s.SQL.QueryContext(ctx, `SELECT e.seq, e.time, e.data, d.logged, coalesce(d.data->>'member', '') FROM events e
			LEFT JOIN LATERAL (SELECT logged, data FROM events d WHERE d.channel = e.channel AND d.type = 'porch.desk.done' AND d.seq > e.seq AND d.data->>'item' = 'note/' || e.seq ORDER BY d.seq LIMIT 1) d ON true
		WHERE e.channel = $1 AND e.type = 'porch.note.left' AND e.data->>'text' <> '' AND ($2 = '' OR e.data->>'text' ILIKE $3 OR e.data->'person'->>'name' ILIKE $3 OR e.data->'person'->>'login' ILIKE $3)
			AND (NOT $4 OR d.logged IS NULL) AND ($5 = 0 OR e.seq < $5)
		ORDER BY e.seq DESC LIMIT $6`, channel, text, "%"+pg.Begins(text), open, before, most)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var out []Note
	for rows.Next() {
		var n Note
		var data []byte
		if err := rows.Scan(&n.Seq, &n.At, &data, &n.Done, &n.By); err != nil {
			return nil, err
		}
		if json.Unmarshal(data, &n.Left) == nil {
			out = append(out, n)
		}
	}
	return out, rows.Err()
}

// PostOf is a post that was asked for; [pg.ErrNone] where there is none.
func (s *Log) PostOf(ctx context.Context, channel, seq int64) (*happening.PostAsked, error) {
	asked := &happening.PostAsked{}
	return asked, s.dataOf(ctx, channel, seq, happening.PostAskedType, asked)
}

// BookmarkOf is what was set with an event; [pg.ErrNone] where that is no bookmark.
func (s *Log) BookmarkOf(ctx context.Context, channel, seq int64) (*happening.BookmarkSet, error) {
	set := &happening.BookmarkSet{}
	return set, s.dataOf(ctx, channel, seq, happening.BookmarkSetType, set)
}

// NoteOf is one note; [pg.ErrNone] where there is none.
func (s *Log) NoteOf(ctx context.Context, channel, seq int64) (*happening.NoteLeft, error) {
	left := &happening.NoteLeft{}
	return left, s.dataOf(ctx, channel, seq, happening.NoteLeftType, left)
}

// dataOf reads the data of one event of a type.
func (s *Log) dataOf(ctx context.Context, channel, seq int64, kind string, into any) error {
	var data []byte
	err := s.SQL.QueryRowContext(ctx, `SELECT data FROM events WHERE channel = $1 AND seq = $2 AND type = $3`, channel, seq, kind).Scan(&data)
	if errors.Is(err, sql.ErrNoRows) {
		return pg.ErrNone
	} else if err != nil {
		return err
	}
	return json.Unmarshal(data, into)
}
