package desk

import (
	"context"
	"io"
	"slices"
	"time"

	"vividporch/formats/bundle"
	"vividporch/formats/media"
	"vividporch/store"
	"vividporch/store/tables"
)

// NewMedium makes a file for the shelf of what was read from it.
func NewMedium(channel int64, name string, info media.Info, data []byte) tables.Medium {
	return tables.Medium{Channel: channel, Name: name, Type: info.Type, Kind: string(info.Kind), Bytes: int64(len(data)), Width: info.Width, Height: info.Height, Seconds: info.Seconds, At: time.Now(), Data: data}
}

// Bundle writes a house file, or a part of one, with media from the shelf beside it,
// one file in memory at a time: those of the names in only, or all when it is nil.
func Bundle(ctx context.Context, st *store.Store, channel int64, houseFile any, only []string, out io.Writer) error {
	w, err := bundle.NewWriter(out, houseFile)
	if err != nil {
		return err
	}
	list, err := st.Shelf.List(ctx, channel)
	if err != nil {
		return err
	}
	for _, m := range list {
		if only != nil && !slices.Contains(only, m.Name) {
			continue
		}
		whole, err := st.Shelf.Named(ctx, channel, m.Name)
		if err != nil {
			return err
		}
		if err := w.Add(m.Name, m.At, whole.Data); err != nil {
			return err
		}
	}
	return w.Close()
}
