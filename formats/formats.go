// Package formats opens the files that people bring into the guest book and writes
// those that go out, whatever their format.
package formats

import (
	"context"
	"fmt"
	"io"
	"time"

	"vividporch/core/attendance"
	"vividporch/core/card"
	"vividporch/core/event"
	"vividporch/core/housefile"
	"vividporch/core/rehearsal"
	"vividporch/formats/chatlog"
	"vividporch/formats/csv"
	"vividporch/formats/ics"
	"vividporch/formats/jsonl"
	"vividporch/formats/row"
	"vividporch/formats/vcf"
)

// Options say how to read what a file leaves open.
type Options struct {
	Platform   string // of accounts that name none
	MonthFirst bool   // 3/4 is 4 March
	Zone       *time.Location
}

// Source is an opened file.
type Source struct {
	Next    func() (row.Row, error) // io.EOF ends it
	Streams []attendance.Past       // past streams the file tells of
	Crews   []event.BookCrewed      // crews it tells of
	Notes   []string                // what was not understood, and what was
}

// Open opens a file: "csv", "vcf", "ics" (a calendar of days), "jsonl" (a people file) or "chatlog".
func Open(r io.Reader, format string, o Options) (*Source, error) {
	switch format {
	case "csv":
		c, err := csv.NewReader(r, csv.Options{Platform: o.Platform, DayFirst: !o.MonthFirst})
		if err != nil {
			return nil, err
		}
		s := &Source{Next: c.Next}
		for _, h := range c.Ignored {
			s.Notes = append(s.Notes, fmt.Sprintf("the column %q is not understood and left out", h))
		}
		return s, nil
	case "vcf":
		return &Source{Next: vcf.NewReader(r, o.Platform).Next}, nil
	case "ics":
		return &Source{Next: ics.NewReader(r, o.Platform).Next}, nil
	case "jsonl":
		j, err := jsonl.NewReader(r, o.Platform)
		if err != nil {
			return nil, err
		}
		s := &Source{Next: j.Next}
		if j.Header != nil {
			s.Streams, s.Crews = j.Header.Streams, j.Header.Crews
		}
		return s, nil
	case "chatlog":
		if o.Platform == "" {
			return nil, fmt.Errorf("platform: is missing; say on which platform this chat was")
		}
		l, err := chatlog.Read(r, o.Platform, o.Zone)
		if err != nil {
			return nil, err
		}
		s := &Source{Next: l.Source(), Streams: l.Streams}
		if n := len(l.Streams); n > 0 {
			s.Notes = append(s.Notes, fmt.Sprintf("%d lines understood, in %d streams from %s to %s", l.Lines, n, l.Streams[0].Opened.In(o.Zone).Format("2 January 2006"), l.Streams[n-1].Closed.In(o.Zone).Format("2 January 2006")))
		}
		if l.Missed > 0 {
			s.Notes = append(s.Notes, fmt.Sprintf("%d lines were not understood:", l.Missed))
			s.Notes = append(s.Notes, l.Firsts...)
		}
		return s, nil
	}
	return nil, fmt.Errorf("format: %q is none; use csv, vcf, ics, jsonl or chatlog", format)
}

// Book is where people come from.
type Book interface {
	Cards(ctx context.Context, channel int64, persons []int64, f func(id int64, standing string, c *card.Card) error) error
	Heading(ctx context.Context, channel int64) (rehearsal.Header, error)
}

// Export writes the book, or those given, in a format.
func Export(ctx context.Context, w io.Writer, format string, book Book, channel int64, persons []int64, s *housefile.Settings) error {
	head, err := book.Heading(ctx, channel)
	if err != nil {
		return err
	}
	head.Zone, head.Seed = s.Zone, s.Seed
	crews := map[string]string{}
	for _, c := range head.Crews {
		crews[c.ID] = c.Name
	}
	var write func(standing string, c *card.Card) error
	done := func() error { return nil }
	switch format {
	case "csv":
		cw := csv.NewWriter(w, crews)
		write, done = func(standing string, c *card.Card) error { return cw.Write(c, standing) }, cw.Flush
	case "vcf":
		vw := vcf.NewWriter(w, crews)
		write = func(_ string, c *card.Card) error { return vw.Write(c) }
	case "jsonl":
		jw, err := jsonl.NewWriter(w, head)
		if err != nil {
			return err
		}
		write = func(_ string, c *card.Card) error { return jw.Write(c) }
	default:
		return fmt.Errorf("format: %q is none; use csv, vcf or jsonl", format)
	}
	if err := book.Cards(ctx, channel, persons, func(_ int64, standing string, c *card.Card) error { return write(standing, c) }); err != nil {
		return err
	}
	return done()
}
