package desk

import (
	"context"
	"io"

	"vividporch/formats"
	"vividporch/store/imports"
	"vividporch/store/tables"
)

// ReadFile reads a file of people and finds out what taking it in would do; notes
// say what was not understood.
func (desk *Desk) ReadFile(ctx context.Context, member, name, format string, body io.Reader, o formats.Options) (im *tables.Import, notes []string, err error) {
	o.Zone = desk.house.Plan().Zone
	src, err := formats.Open(body, format, o)
	if err != nil {
		return nil, nil, &Unreadable{err}
	}
	im, err = desk.store.Imports.Stage(ctx, desk.channel, member, name, &imports.Head{Streams: src.Streams, Crews: src.Crews}, src.Next)
	return im, src.Notes, err
}

// Unreadable is a file of which nothing can be read.
type Unreadable struct{ Err error }

func (u *Unreadable) Error() string { return u.Err.Error() }

// Export writes the guest book, or some of it.
func (desk *Desk) Export(ctx context.Context, w io.Writer, format string, persons []int64) error {
	return formats.Export(ctx, w, format, desk.store.Find, desk.channel, persons, desk.house.Plan().Settings)
}
